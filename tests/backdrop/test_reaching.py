"""Borders and strips from edge to edge, tilted as well; what is seen of borders, and where washes end."""

import math
from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
import pytest
import shapely

from fair_thicket.backdrop import judge
from fair_thicket.backdrop.border_judges import crest_spots, judge_borders
from fair_thicket.backdrop.joining import Joining
from fair_thicket.backdrop.judging import beat_off
from fair_thicket.backdrop.reaching import reach_across, reach_of, slide_border
from fair_thicket.backdrop.rows import trim_cuts
from fair_thicket.backdrop.spanning import span_area
from fair_thicket.backdrop.wash_edges import judge_edges
from fair_thicket.demo import CARD_FILES
from fair_thicket.edits.pieces import set_card
from fair_thicket.files.card_file import open_card
from fair_thicket.laid.hidden import spare_foot
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.formats import all_round
from fair_thicket.model.pieces import CARD_EDGE, Blend, Border, Cutout, Form, Panel, Strip, Wash, Window
from fair_thicket.model.spans import Cut
from fair_thicket.model.stash import Kind, Stamp, Stash
from fair_thicket.model.units import Unit, say_length
from fair_thicket.shape.paper import footprint

INCH = 25.4
PANEL = Panel("panel-1", Form("rectangle", 120.0, 90.0), 69.85, 54.0, colour="#ffffff")


def hill(width: float = 139.7, *peaks: float, key: str = "hill") -> Stamp:
    """A die with peaks 8 mm high on a strip 10 mm high, about its middle."""
    ring = [(-width / 2, 0.0)]
    for at in peaks:
        ring += [(at - width / 2 - 6, 0.0), (at - width / 2, -8.0), (at - width / 2 + 6, 0.0)]
    ring += [(width / 2, 0.0), (width / 2, 10.0), (-width / 2, 10.0)]
    middle = tuple((x, y - 1.0) for x, y in ring)
    return Stamp(key, key, width, 18.0, middle, f"images/{key}.png", kind=Kind.BORDER, may_flip=True)


def work_of(*pieces: object, stamps: tuple[Stamp, ...] = (), **card: object) -> Work:
    return Work(Card(pieces=tuple(pieces), **card), Stash(stamps))  # type: ignore[arg-type]


# -- lengths ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("tilt", [0.0, 4.0, -12.0, 30.0])
def test_a_tilted_strip_needs_width_over_cosine_and_height_times_tangent(tilt: float) -> None:
    """On a sheet that is tall enough: w / cos t + h tan t."""
    strip = Strip("strip-1", 60.0, 8.0, 69.85, 54.0, tilt, on="panel-1")
    reach = reach_of(work_of(PANEL, strip), strip)
    turn = math.radians(abs(tilt))
    assert reach.length == pytest.approx(120 / math.cos(turn) + 8 * math.tan(turn), abs=1e-6)


@pytest.mark.parametrize("tilt", [0.0, 5.0, -9.0])
def test_what_reaches_across_covers_its_sheet_to_both_edges_and_is_trimmed_flush(tilt: float) -> None:
    strip = Strip("strip-1", 60.0, 8.0, 50.0, 50.0, tilt, on="panel-1")
    work = work_of(PANEL, strip)
    made = reach_across(work, strip)
    assert isinstance(made, Strip)
    assert made.trim_to == "panel-1"
    after = work_of(PANEL, made)
    area = next(leaf.area for leaf in stack(after) if leaf.piece.id == "strip-1")
    left, _, right, _ = area.bounds
    assert (left, right) == pytest.approx((9.85, 129.85), abs=1e-6)
    # along both edges of the sheet as much is covered as the strip is high there
    for x in (9.85, 129.85):
        edge = shapely.intersection(area, shapely.LineString([(x, 0), (x, 108)]).buffer(0.01))
        _, top, _, bottom = edge.bounds
        assert bottom - top == pytest.approx(8.0 / math.cos(math.radians(tilt)), abs=0.05)


def test_a_border_longer_than_its_die_is_joined_to_reach_across() -> None:
    stamp = hill(90.0, 20.0, 60.0)
    border = Border("hill-1", "hill", 80.0, 60.0, 80.0, colour="#8aa465")
    work = work_of(border, stamps=(stamp,))
    made = reach_across(work, border)
    assert isinstance(made, Border)
    assert len(made.cuts) == 2
    assert made.length_mm == pytest.approx(139.7, abs=0.5)
    assert made.trim_to == CARD_EDGE
    area = next(leaf.area for leaf in stack(work_of(made, stamps=(stamp,))))
    assert area.bounds[0] == pytest.approx(0.0, abs=1e-6)
    assert area.bounds[2] == pytest.approx(139.7, abs=1e-6)


def test_what_lies_beside_its_sheet_cannot_reach_across() -> None:
    strip = Strip("strip-1", 60.0, 8.0, 69.85, 200.0, on="panel-1")
    with pytest.raises(PaperError, match="does not lie on its sheet"):
        reach_across(work_of(PANEL, strip), strip)


@pytest.mark.parametrize(
    ("front", "border", "told"),
    [
        ((Fraction(17, 4), Fraction(11, 2)), Fraction(1, 16), ("4 1/8 in", "5 3/8 in")),
        ((Fraction(17, 4), Fraction(11, 2)), Fraction(1, 8), ("4 in", "5 1/4 in")),
        ((Fraction(17, 4), Fraction(11, 2)), Fraction(1, 4), ("3 3/4 in", "5 in")),
        ((Fraction(7, 2), Fraction(17, 2)), Fraction(1, 16), ("3 3/8 in", "8 3/8 in")),
    ],
)
def test_an_eighth_all_round_is_a_quarter_off_each_side(
    front: tuple[Fraction, Fraction], border: Fraction, told: tuple[str, str]
) -> None:
    """Layer sizes on A2 and slimline: common practice."""
    width, height = all_round((float(front[0]) * INCH, float(front[1]) * INCH), float(border) * INCH)
    assert (say_length(width, Unit.INCH), say_length(height, Unit.INCH)) == told


@pytest.mark.parametrize(("eighths", "off"), [(44, 1), (68, 2), (33, 3), (67, 5)])
def test_a_border_trimmed_at_both_ends_is_as_long_as_fractions_say(eighths: int, off: int) -> None:
    """A spanned border of so many eighths, trimmed by some eighths at either end; every cut's lengths add up."""
    stamp = hill(5.5 * INCH, 30.0, 90.0)
    length = Fraction(eighths, 8)
    area = footprint(Cutout("c", "hill", 0, 0), Stash((stamp,)))
    cuts = span_area(area, float(length) * INCH, Joining(may_flip=True)).cuts
    by = float(Fraction(off, 8)) * INCH
    trimmed = trim_cuts(cuts, by, float(length) * INCH - by)
    left = length - 2 * Fraction(off, 8)
    end = max(cut.at_mm + cut.to_mm - cut.from_mm for cut in trimmed)
    assert min(cut.at_mm for cut in trimmed) == pytest.approx(0.0, abs=1e-3)
    assert end == pytest.approx(float(left) * INCH, abs=0.05)
    whole, rest = divmod(left, 1)
    assert say_length(end, Unit.INCH) == (f"{whole} {rest} in" if rest else f"{whole} in")


# -- what is seen of borders -----------------------------------------------------------------------------------------


def test_a_border_that_ends_short_on_both_sides_is_told_for_each() -> None:
    """100 mm about 72: from 22 to 122 on a panel from 9.85 to 129.85."""
    border = Border("hill-1", "hill", 100.0, 72.0, 80.0, on="panel-1", colour="#8aa465")
    (found,) = [
        one for one in judge_borders(work_of(PANEL, border, stamps=(hill(139.7, 30.0),))) if one.code == "short"
    ]
    assert found.measure == pytest.approx(12.15, abs=0.01)
    assert "It ends 1/2 in at the left and 5/16 in at the right before the edge" in found.text
    left = Border("hill-1", "hill", 112.0, 73.0, 80.0, on="panel-1", colour="#8aa465")
    (found,) = [one for one in judge_borders(work_of(PANEL, left, stamps=(hill(139.7, 30.0),))) if one.code == "short"]
    assert found.measure == pytest.approx(7.15, abs=0.01)
    assert "It ends 5/16 in at the left and 1/16 in at the right before" in found.text


def test_a_border_that_ends_short_is_told_by_how_much_and_mended() -> None:
    border = Border("hill-1", "hill", 112.0, 64.0, 80.0, on="panel-1", colour="#8aa465")
    work = work_of(PANEL, border, stamps=(hill(139.7, 30.0),))
    (found,) = [one for one in judge_borders(work) if one.code == "short"]
    # from 8 to 120; the panel's right edge lies at 129.85
    assert found.measure == pytest.approx(9.85, abs=0.01)
    assert "3/8 in at the right" in found.text
    assert found.remedy is not None
    after = set_card(work, pieces=(PANEL, *found.remedy.pieces))
    assert [one for one in judge_borders(after) if one.code == "short"] == []


def test_an_end_that_something_hides_and_a_short_tuft_are_left_alone() -> None:
    border = Border("hill-1", "hill", 112.0, 64.0, 80.0, on="panel-1")
    hider = Panel("block-1", Form("rectangle", 14.0, 30.0), 124.0, 80.0, on="panel-1")
    work = work_of(PANEL, border, hider, stamps=(hill(139.7, 30.0),))
    assert [one for one in judge_borders(work) if one.code == "short"] == []
    tuft = msgspec.structs.replace(border, length_mm=40.0)
    assert judge_borders(work_of(PANEL, tuft, stamps=(hill(139.7, 30.0),))) == []


def test_crests_are_found_in_place_tilted_as_well() -> None:
    border = Border("hill-1", "hill", 139.7, 69.85, 60.0)
    stamps = (hill(139.7, 40.0, 100.0),)
    spots = np.array(crest_spots(work_of(border, stamps=stamps), border))
    assert spots == pytest.approx(np.array([(40.0, 51.0), (100.0, 51.0)]), abs=0.3)
    upright = msgspec.structs.replace(border, angle_deg=90.0, y=69.85, x=60.0)
    spots = np.array(crest_spots(work_of(upright, stamps=stamps), upright))
    assert spots == pytest.approx(np.array([(69.0, 40.0), (69.0, 100.0)]), abs=0.3)


def test_a_crest_behind_words_is_told_by_its_height_and_slid_away() -> None:
    border = Border("hill-1", "hill", 139.7, 69.85, 60.0, colour="#8aa465")
    strip = Strip("strip-1", 24.0, 8.0, 40.0, 53.0, words="hello")
    work = work_of(border, strip, stamps=(hill(150.0, 45.0, 105.0),))
    (found,) = [one for one in judge_borders(work) if one.code == "crest-behind"]
    # the strip's foot lies at 57, the crest at 51
    assert found.measure == pytest.approx(6.0, abs=0.2)  # a pointed crest between two columns
    assert found.pieces == ("hill-1", "strip-1")
    assert found.remedy is not None
    (slid,) = found.remedy.pieces
    after = set_card(work, pieces=(slid, strip))
    assert [one for one in judge_borders(after) if one.code == "crest-behind"] == []


def test_sliding_a_border_moves_its_crests_to_the_left_by_as_much() -> None:
    stamps = (hill(150.0, 60.0),)
    plain = Border("hill-1", "hill", 100.0, 69.85, 60.0)
    work = work_of(plain, stamps=stamps)
    ((before, _),) = crest_spots(work, plain)
    ((after, _),) = crest_spots(work, slide_border(work, plain, 8.0))
    assert before - after == pytest.approx(8.0, abs=0.3)


@pytest.mark.parametrize(
    ("cuts", "width", "words"),
    [((Cut(20.0, 159.7, 0.0),), 170.0, "Slide it"), ((Cut(0.0, 76.0, 0.0), Cut(0.0, 69.7, 70.0)), 90.0, "Join it so")],
)
def test_a_cut_or_joined_border_is_slid_so_that_no_crest_stands_behind_words(
    cuts: tuple[Cut, ...], width: float, words: str
) -> None:
    border = Border("hill-1", "hill", 139.7, 69.85, 60.0, cuts=cuts)
    strip = Strip("strip-1", 24.0, 8.0, 40.0, 53.0, words="hello")
    peaks = (60.0, 120.0) if width > 100 else (36.0,)
    work = work_of(border, strip, stamps=(hill(width, *peaks),))
    (found,) = [one for one in judge_borders(work) if one.code == "crest-behind"]
    assert found.remedy is not None
    assert found.remedy.words.startswith(words)
    (slid,) = found.remedy.pieces
    assert isinstance(slid, Border)
    assert slid.length_mm == border.length_mm
    assert not [one for one in judge_borders(set_card(work, pieces=(slid, strip))) if one.code == "crest-behind"]


def test_a_cut_is_slid_no_farther_than_its_die() -> None:
    border = Border("hill-1", "hill", 139.7, 69.85, 60.0, cuts=(Cut(20.0, 159.7, 0.0),))
    work = work_of(border, stamps=(hill(170.0, 60.0),))
    assert slide_border(work, border, 8.0).cuts == (Cut(28.0, 167.7, 0.0),)
    assert slide_border(work, border, -8.0).cuts == (Cut(12.0, 151.7, 0.0),)
    with pytest.raises(PaperError, match="slid less far"):
        slide_border(work, border, 12.0)


def test_the_hidden_foot_of_a_back_row_may_be_cut_off_but_for_the_glue() -> None:
    """The front row's flat edge lies 12 mm above the back row's foot; 6 mm are left on for the glue."""
    back = Border("hill-1", "hill", 139.7, 69.85, 70.0, colour="#8aa465")  # foot at 79
    front = Panel("front-1", Form("rectangle", 139.7, 40.0), 69.85, 87.0)  # from 67 down
    stamps = (hill(139.7, 40.0),)
    work = work_of(back, front, stamps=stamps)
    assert spare_foot(work, back) == pytest.approx(12.0 - 6.0, abs=1e-6)
    found = next(one for one in judge_borders(work) if one.code == "spare-foot")
    assert "1/4 in may be cut off its foot" in found.text
    behind = shapely.intersection(footprint(back, work.stash), footprint(front, work.stash)).area
    assert found.text.startswith(f"{behind / 100:.0f} cm² of it are behind others")
    assert spare_foot(work_of(back, stamps=stamps), back) == 0.0


def test_a_joint_off_the_beat_is_told_though_both_cuts_meet_at_one_height() -> None:
    """Teeth every 10 mm; the second cut begins 3 mm late. By hand: 53 on the one is 50 on the other."""
    assert beat_off(Cut(0.0, 60.0, 0.0), Cut(0.0, 60.0, 53.0), 10.0) == pytest.approx(3.0)
    assert beat_off(Cut(0.0, 60.0, 0.0), Cut(0.0, 60.0, 50.0), 10.0) == pytest.approx(0.0)
    assert beat_off(Cut(0.0, 60.0, 0.0), Cut(0.0, 60.0, 53.0, flipped=True), 10.0) == 0.0
    assert beat_off(Cut(0.0, 60.0, 0.0, flipped=True), Cut(0.0, 60.0, 48.0, flipped=True), 10.0) == pytest.approx(2.0)


def bumps() -> Stamp:
    """Bumps 4 mm wide, one every 20 mm, on flat ground."""
    ring = [(-60.0, 0.0)]
    for at in np.arange(10.0, 120.0, 20.0):
        ring += [(at - 62, 0.0), (at - 60, -3.0), (at - 58, 0.0)]
    ring += [(60.0, 0.0), (60.0, 8.0), (-60.0, 8.0)]
    return Stamp("bumps", "bumps", 120.0, 11.0, tuple((x, y - 2.5) for x, y in ring), "images/b.png", kind=Kind.BORDER)


@pytest.mark.parametrize("off", [2.0, -2.0, 0.0])
def test_a_joint_on_flat_ground_is_told_only_when_it_breaks_the_repeat(off: float) -> None:
    """The right cut begins at 17 of the die, laid where the left one is at 97, four repeats on, or 2 mm off that."""
    start = 97.0 + off
    cuts = (Cut(0.0, start + 6, 0.0), Cut(17.0, 17.0 + 139.7 - start, start))
    border = Border("b-1", "bumps", 139.7, 69.85, 80.0, cuts=cuts)
    work = work_of(border, stamps=(bumps(),))
    found = [one for one in judge(work) if one.code in {"off-beat", "joint"}]
    if off == 0.0:
        assert found == []
        return
    (told,) = found
    assert (told.code, told.measure) == ("off-beat", pytest.approx(2.0, abs=0.01))
    assert told.remedy is not None
    mended = set_card(work, pieces=told.remedy.pieces)
    assert [one for one in judge(mended) if one.code in {"off-beat", "joint"}] == []


# -- where washes end ------------------------------------------------------------------------------------------------

SKY = Blend("sky-1", Form("rectangle", 80.0, 40.0), 69.85, 54.0, on="panel-1", colour="#5f8fa3")


def test_a_wash_that_ends_on_bare_paper_is_told_with_the_length_of_its_edge() -> None:
    work = work_of(PANEL, SKY)
    (found,) = judge_edges(work)
    assert found.code == "wash-ends"
    assert found.measure == pytest.approx(2 * (80 + 40), abs=0.5)
    assert found.remedy is not None
    assert judge_edges(work_of(PANEL, *found.remedy.pieces)) == []


def test_an_edge_under_something_at_the_sheets_edge_or_fading_out_is_not_told() -> None:
    whole = msgspec.structs.replace(SKY, form=Form("rectangle", 120.0, 90.0))
    assert judge_edges(work_of(PANEL, whole)) == []
    frame = Panel("frame-1", Form("rectangle", 120.0, 90.0), 69.85, 54.0, windows=(Window(Form("rectangle", 70, 30)),))
    assert judge_edges(work_of(PANEL, SKY, msgspec.structs.replace(frame, on="panel-1"))) == []
    fading = msgspec.structs.replace(SKY, inks=("#5f8fa3", "#ffffff"), way="band", toward_deg=90.0)
    (found,) = judge_edges(work_of(PANEL, fading))
    assert found.measure == pytest.approx(2 * 40, abs=9.0)  # only the short sides are seen, but for their pale ends


def test_a_dark_rim_under_a_frame_is_pulled_in_until_it_shows() -> None:
    """A glow that reaches the panel's edges under a frame whose bars are 15 mm wide."""
    glow = msgspec.structs.replace(
        SKY, form=Form("rectangle", 120.0, 90.0), inks=("#fdf6e3", "#c3a9c9", "#2d3558"), way="glow"
    )
    frame = Panel(
        "frame-1", Form("rectangle", 120.0, 90.0), 69.85, 54.0, on="panel-1", windows=(Window(Form("ellipse", 84, 60)),)
    )
    work = work_of(PANEL, glow, frame)
    (found,) = [one for one in judge_edges(work) if one.code == "hidden-rim"]
    assert found.measure == pytest.approx((18 + 18 + 15 + 15) / 4, abs=0.1)
    assert found.remedy is not None
    (pulled,) = found.remedy.pieces
    assert isinstance(pulled, Wash)
    assert pulled.form.width_mm == pytest.approx(120 - 33, abs=0.2)
    after = work_of(PANEL, pulled, frame)
    assert [one for one in judge_edges(after) if one.code == "hidden-rim"] == []


@pytest.mark.parametrize("path", CARD_FILES, ids=[path.stem for path in CARD_FILES])
def test_the_demo_cards_give_no_cause_for_this_advice(path: Path) -> None:
    """Only what may stay bare of a wash is told of them."""
    assert {one.code for one in judge(open_card(path)[0])} <= {"bare"}
