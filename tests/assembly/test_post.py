"""Thickness and weight by hand; envelopes by their standard."""

import pytest

from fair_thicket.assembly.planning import plan_assembly
from fair_thicket.model.assembly import AssemblyRules
from fair_thicket.model.card import Card, Work
from fair_thicket.model.formats import ENVELOPES
from fair_thicket.model.masking import Masking, Rates
from fair_thicket.model.pieces import Cutout, Form, Panel
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.stash import Stash
from making import stamp


def post_of(*pieces: object, **card: object) -> object:
    rules = AssemblyRules(base_mm=0.4, base_gsm=300.0)
    masking = Masking(rates=Rates(paper_mm=0.25, gsm=216.0))
    work = Work(
        Card(pieces=pieces, assembly=rules, masking=masking, **card),
        Stash((stamp("toad", 20.0),)),  # type: ignore[arg-type]
    )
    return plan_assembly([("front", work, MaskPlan())]).post


def panel(w: float, h: float, **more: object) -> Panel:
    return Panel("sky", Form("rectangle", w, h), 69.85, 53.975, **more)  # type: ignore[arg-type]


def test_a_bare_base_is_its_own_two_papers() -> None:
    """2 x 139.7 x 107.95 mm at 300 g/m2: 9.05 g; 0.8 mm."""
    post = post_of()
    assert (post.thickness_mm, post.grams) == (0.8, pytest.approx(9.0, abs=0.1))
    assert post.reasons == ()


def test_two_papers_and_base() -> None:
    """Panel and figure flat: 0.8 + 0.25 + 0.25 mm; 130 x 98 mm and 20 x 20 mm at 216 g/m2 more: 2.84 g, and glue."""
    post = post_of(panel(130, 98), Cutout("toad-1", "toad", 70, 54, margin_mm=0.0))
    assert post.thickness_mm == pytest.approx(1.3)
    assert post.grams == pytest.approx(9.05 + 2.75 + 0.09 + 0.5, abs=0.3)
    assert post.envelope.startswith("A2")


def test_a_raised_card_is_too_thick_for_many_letters_and_wants_a_roomier_envelope() -> None:
    """Panel on 3.2 mm, a figure on 3.2 mm more: 0.8 + 2 x (0.25 + 3.2) = 7.7 mm."""
    post = post_of(panel(130, 98, lift_mm=3.2), Cutout("toad-1", "toad", 70, 54, margin_mm=0.0, lift_mm=3.2))
    assert post.thickness_mm == pytest.approx(7.7)
    assert any("7.7 mm thick" in one for one in post.reasons)
    assert not post.envelope.startswith("A2")


def test_a_square_card_costs_more_in_the_us() -> None:
    assert any("1.00 times" in one for one in post_of(format="square6").reasons)


def test_envelopes_have_the_sizes_of_their_standard() -> None:
    """ISO 269: C6 114 x 162, DL 110 x 220, C5 162 x 229; inches from memory."""
    sizes = {one.name: (one.height_mm, one.width_mm) for one in ENVELOPES}
    assert (sizes["C6"], sizes["DL"], sizes["C5"]) == ((114, 162), (110, 220), (162, 229))
    assert sizes["A7 envelope"] == pytest.approx((133.35, 184.15))
