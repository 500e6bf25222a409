"""What holds a piece, and what is over nothing: worked out by hand on a card of 139.7 x 107.95 mm."""

import pytest
import shapely

from fair_thicket.assembly.foam import plan_foam, thickness_under
from fair_thicket.assembly.glue import plan_glue
from fair_thicket.engines import assemble
from fair_thicket.laid.heights import find_heights
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Blend, Cutout, Embellishment, Form, Impression, Panel, PaperPiece, Strip
from fair_thicket.model.stash import Stash
from making import stamp

WIDE, HIGH = 139.7, 107.95


def card_of(*pieces: object) -> Work:
    return Work(Card(pieces=pieces), Stash((stamp("toad", 20.0),)))  # type: ignore[arg-type]


def panel(key: str, x: float, y: float, w: float, h: float, **more: object) -> Panel:
    return Panel(key, Form("rectangle", w, h), x, y, **more)  # type: ignore[arg-type]


def test_finishes_get_no_foam_even_where_they_hang_over_a_step() -> None:
    hill = panel("hill", 50, 54, 60, 60, lift_mm=3.2)
    gems = Embellishment("gems", 12.0, 80, 54, shape="gem")
    work = card_of(hill, gems)
    assert not plan_foam(work, find_heights(work)).of("gems")
    assert plan_foam(work, find_heights(work)).of("hill")


def test_past_the_cards_edge_nothing_is_under_a_piece_and_nothing_holds_it_there() -> None:
    """A strip of 40 mm that lies 15 mm past the right edge: 15 x 20 mm are over nothing, 25 x 20 mm lie on the card."""
    work = card_of(panel("over", WIDE - 5, 54, 40, 20))
    rest = find_heights(work).find("over")
    assert rest.beyond.area == pytest.approx(15 * 20, abs=0.1)
    assert rest.contact.area == pytest.approx(25 * 20, abs=0.1)
    assert rest.beyond.bounds == pytest.approx((WIDE, 44, WIDE + 15, 64), abs=0.01)
    (glue,) = plan_glue(work, find_heights(work)).glues
    assert glue.area.bounds[2] <= WIDE
    raised = card_of(panel("over", WIDE - 5, 54, 40, 20, lift_mm=1.6))
    for strip in plan_foam(raised, find_heights(raised)).strips:
        assert strip.area.bounds[2] <= WIDE


def test_on_a_step_most_of_a_piece_says_which_level_it_is_raised_from() -> None:
    """A panel of 60 mm on 1.6 mm of foam: 40 mm over the ground, 20 mm over a hill that is 3.45 mm high."""
    hill = panel("hill", 30, 54, 60, 60, lift_mm=3.2)
    mostly_ground = find_heights(card_of(hill, panel("sign", 70, 54, 60, 20, lift_mm=1.6))).find("sign")
    assert mostly_ground.bottom_mm == pytest.approx(3.45), "it rests on the hill, and stands level"
    gaps = {round(gap, 2): round(area.area) for gap, area in mostly_ground.gaps}
    assert gaps == {3.45: 40 * 20}
    assert mostly_ground.contact.area == pytest.approx(20 * 20, abs=0.5)


def test_glue_is_by_kind_and_holds_after_its_time() -> None:
    """Tape on panels, liquid glue on cut images, named only where it is so; foam waits until its ground holds."""
    ground, image = panel("ground", 70, 54, 120, 90), Cutout("t", "toad", 60, 50, margin_mm=0.0)
    raised = Cutout("r", "toad", 95, 50, margin_mm=0.0, lift_mm=1.6, on="ground")
    steps = {one.key: one for one in assemble(card_of(ground, image, raised), {}).operations}
    assert (steps["glue ground"].tool, steps["glue t"].tool, steps["glue r"].tool) == ("tape", "glue", "foam")
    assert "tape" in steps["glue ground"].words
    assert "liquid glue" in steps["glue t"].words
    edge = next(one for one in steps["glue r"].after if one.key == "glue ground")
    assert edge.wait_min == 5.0, "foam is pressed on when its ground holds (common practice: 5 min)"
    flat = next(one for one in steps["glue t"].after if one.key == "glue ground")
    assert flat.wait_min == 0.0
    assert max(edge.wait_min for edge in steps["post"].after) >= 5.0


def test_what_is_raised_waits_for_ink_and_stamps_beside_it_and_they_dry_first() -> None:
    wash = Blend(id="sky", form=Form("rectangle", 120, 90), x=70, y=54, colour="#5f8fa3")
    work = card_of(wash, Impression("w", "toad", 30, 30), Strip("s", 40, 10, 100, 80, words="hi", lift_mm=1.6))
    steps = {one.key: one for one in assemble(work, {}).operations}
    ink = next(key for key, one in steps.items() if one.pieces == ("sky",))
    waits = {edge.key: edge.wait_min for edge in steps["glue s"].after}
    assert waits[ink] == work.card.masking.rates.wash_dry_min


@pytest.mark.parametrize(
    ("gap", "wanted"), [(0.7, 0.0), (0.81, 1.6), (1.6, 1.6), (2.3, 1.6), (2.5, 3.2), (4.7, 4.8), (9.9, 9.6)]
)
def test_foam_fills_a_gap_by_the_nearest_of_a_sixteenth_an_eighth_and_their_sums(gap: float, wanted: float) -> None:
    piece: PaperPiece = panel("p", 70, 54, 20, 20)
    rest = find_heights(card_of(piece)).find("p")
    assert thickness_under(rest, gap, (1.6, 3.2)) == pytest.approx(wanted)
    assert not shapely.is_empty(rest.area)
