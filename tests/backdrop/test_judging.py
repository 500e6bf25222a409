"""Borders on a card: joined by a remedy, joints behind what stands in front, joints that are seen told."""

import msgspec
import numpy as np
import pytest
import shapely

from fair_thicket import backdrop
from fair_thicket.advice import advise
from fair_thicket.backdrop.judging import hidden_stretches, measure_joints
from fair_thicket.demo import CARD_FILES
from fair_thicket.edits.pieces import apply_remedy
from fair_thicket.files.card_file import decode_card, encode_card, open_card
from fair_thicket.laid.hidden import hiders_of
from fair_thicket.model.card import Card, Work
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import Border, Cutout, Form, Panel
from fair_thicket.model.spans import Cut
from fair_thicket.model.stash import Kind, Stamp, Stash
from fair_thicket.shape.paper import footprint
from making import stamp


def hill_die(width: float = 110.0) -> Stamp:
    """A hill without repeat whose ends differ by much, 24 mm high."""
    xs = np.linspace(-width / 2, width / 2, 400)
    ys = -6 * np.sin(xs / 17) - 0.05 * xs
    edge = [(round(float(x), 3), round(float(y), 3)) for x, y in zip(xs, ys, strict=True)]
    outline = (*edge, (width / 2, 12.0), (-width / 2, 12.0))
    return Stamp("hill", "hill", width, 24.0, outline, "images/hill.png", kind=Kind.BORDER)


@pytest.fixture
def card() -> Work:
    """A hill of 200 mm on a slimline, from a die of 110 mm."""
    border = Border("hill-1", "hill", 200.0, 108.0, 70.0)
    return Work(Card(format="slimline", pieces=(border,)), Stash((hill_die(), stamp("toad", 44))))


def judge(work: Work) -> list[Finding]:
    """What is said about joints and washes; that these borders end short of their cards is told elsewhere."""
    return [one for one in backdrop.judge(work) if one.code not in {"short", "spare-foot", "wash-ends"}]


def only(findings: list[Finding]) -> Finding:
    (one,) = findings
    return one


def test_a_border_longer_than_its_die_is_joined_by_its_remedy(card: Work) -> None:
    finding = only(judge(card))
    assert (finding.code, finding.weight) == ("end-to-end", Weight.NOTE)
    assert finding.measure == pytest.approx(90)
    assert finding.remedy is not None
    made = apply_remedy(card, finding.remedy)
    piece = made.card.find("hill-1")
    assert isinstance(piece, Border)
    assert len(piece.cuts) == 2
    left, _, right, _ = footprint(piece, made.stash).bounds
    assert (left, right) == pytest.approx((8, 208), abs=0.01)
    assert decode_card(encode_card(made), "joined") == made
    assert [one.code for one in advise(made) if one.code == "end-to-end"] == []


def test_what_is_short_enough_or_lies_end_to_end_by_hand_is_left_alone(card: Work) -> None:
    short = msgspec.structs.replace(card.card.find("hill-1"), length_mm=100.0)
    assert judge(Work(msgspec.structs.replace(card.card, pieces=(short,)), card.stash)) == []


def test_joining_moves_behind_a_figure_and_the_picture_shows_no_step(card: Work) -> None:
    """The hill cannot be turned over and joins badly; a toad of 44 mm hides the joint."""
    toad = Cutout("toad-1", "toad", 125.0, 62.0)
    behind = msgspec.structs.replace(card, card=msgspec.structs.replace(card.card, pieces=(*card.card.pieces, toad)))
    border = behind.card.find("hill-1")
    assert isinstance(border, Border)
    (stretch,) = hidden_stretches(behind, border)
    assert stretch == pytest.approx((125 - 22 - 8, 125 + 22 - 8), abs=0.3)
    finding = only(judge(behind))
    assert finding.remedy is not None
    made = apply_remedy(behind, finding.remedy)
    piece = made.card.find("hill-1")
    assert isinstance(piece, Border)
    joint = only_joint(made, piece)
    assert stretch[0] + 6 <= joint.at_mm <= stretch[1] - 6
    assert "hidden behind the toad" in finding.text
    assert hiders_of(made, piece, joint.at_mm) == ("toad-1",)
    assert judge(made) == []
    # of what is seen of the border, both sides are the die's own edge: no step is left in the picture
    toad_area = footprint(toad, made.stash)
    seen = footprint(piece, made.stash).difference(toad_area)
    parts = sorted(shapely.get_parts(seen), key=lambda part: part.bounds[0])
    for part, cut in zip(parts, piece.cuts, strict=True):
        by = 55.0 + 8.0 + cut.at_mm - cut.from_mm
        die = shapely.affinity.translate(shapely.Polygon(hill_die().outline), by, 70.0)
        assert part.difference(die.buffer(0.01)).area < 0.05
    # the toad walks away: the joint is seen, and another way to join is offered
    away = msgspec.structs.replace(toad, x=40.0)
    bare = msgspec.structs.replace(made, card=msgspec.structs.replace(made.card, pieces=(piece, away)))
    assert hiders_of(bare, piece, joint.at_mm) == ()
    told = only(judge(bare))
    assert (told.code, told.weight) == ("joint", Weight.CAUTION)
    assert told.measure == pytest.approx(joint.mismatch_mm, abs=0.01)
    assert told.places


def only_joint(work: Work, piece: Border):
    (joint,) = measure_joints(work.stash.find(piece.stamp), piece)
    return joint


def test_cuts_that_do_not_reach_are_not_used(card: Work) -> None:
    piece = msgspec.structs.replace(card.card.find("hill-1"), cuts=(Cut(0.0, 50.0, 0.0),))
    left, _, right, _ = footprint(piece, card.stash).bounds
    assert right - left == pytest.approx(200)


def test_a_border_turned_over_hides_its_joint_behind_the_same_figure(card: Work) -> None:
    toad = Cutout("toad-1", "toad", 125.0, 62.0)
    flipped = msgspec.structs.replace(card.card.find("hill-1"), flipped=True)
    work = Work(msgspec.structs.replace(card.card, pieces=(flipped, toad)), card.stash)
    finding = only(judge(work))
    assert finding.remedy is not None
    made = apply_remedy(work, finding.remedy)
    assert judge(made) == []


def test_a_mat_in_front_of_all_hides_everything(card: Work) -> None:
    panel = Panel("panel-1", Form("rectangle", 216.0, 89.0), 108.0, 44.5)
    work = Work(msgspec.structs.replace(card.card, pieces=(*card.card.pieces, panel)), card.stash)
    border = work.card.find("hill-1")
    assert isinstance(border, Border)
    assert hidden_stretches(work, border) == ((0.0, 200.0),)


def test_the_demo_slimline_has_no_joint_to_be_seen() -> None:
    work, _ = open_card(CARD_FILES[2])
    borders = [piece for piece in work.card.pieces if isinstance(piece, Border)]
    assert all(piece.cuts for piece in borders)
    assert {one.code for one in judge(work)} == {"bare"}
