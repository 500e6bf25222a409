"""Borders spanned: by hand, by their laws, and from a shell."""

import json
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import shapely
from shapely.affinity import scale, translate

from fair_thicket.backdrop import Joining, find_repeat, profile_of, span, span_area
from fair_thicket.cli import main
from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.model.errors import GeometryError, PaperError
from fair_thicket.model.spans import Span
from fair_thicket.shape.outline import to_area

INCH = 25.4


def edge(width: float, height) -> shapely.Polygon:
    """A strip whose upper edge is a function of x, 10 mm above its foot where that is 0."""
    xs = np.linspace(0, width, 3000)
    return shapely.Polygon([*zip(xs, -height(xs), strict=True), (width, 10.0), (0.0, 10.0)])


def scallop(width: float, repeat: float) -> shapely.Polygon:
    return edge(width, lambda xs: 5 * np.abs(np.sin(np.pi * xs / repeat)))


HILL = edge(5.5 * INCH, lambda xs: 8 * np.sin(xs / 30) + 4 * np.sin(xs / 11 + 1))


def laid(area: shapely.Polygon, found: Span) -> list[shapely.Polygon]:
    """Cut the die with scissors and lay the cuts where the plan says: plain geometry, no columns."""
    left, top, _, bottom = area.bounds
    pieces = []
    for cut in found.cuts:
        piece = area.intersection(shapely.box(left + cut.from_mm, top, left + cut.to_mm, bottom))
        if cut.flipped:
            piece = scale(piece, -1, 1, origin=((2 * left + cut.from_mm + cut.to_mm) / 2, 0))
        pieces.append(translate(piece, cut.at_mm - left - cut.from_mm, 0))
    return pieces


def test_a_die_that_is_long_enough_is_cut_once_from_its_middle() -> None:
    found = span_area(scallop(100, 10), 60.0)
    (cut,) = found.cuts
    assert (cut.to_mm - cut.from_mm, cut.at_mm, found.joints) == (pytest.approx(60), 0, ())
    assert cut.from_mm == pytest.approx(20, abs=0.3)
    assert found.waste_mm == pytest.approx(40, abs=0.3)


def test_a_scallop_repeats_and_joins_unseen_at_whole_repeats() -> None:
    """Half an inch of repeat, dies of 4 1/4 in, 8 1/2 in to span: two dies end to end leave nothing for the glue."""
    area = scallop(4.25 * INCH, 0.5 * INCH)
    found = span_area(area, 8.5 * INCH)
    assert found.repeat_mm == pytest.approx(12.7, abs=0.01)
    assert len(found.cuts) == 3
    for joint in found.joints:
        assert joint.mismatch_mm < 0.005
        assert joint.peek_mm2 < 0.005
    whole = shapely.union_all(laid(area, found))
    ideal = scallop(40 * 12.7, 12.7)
    shifts = np.arange(0, 12.7, 0.05)
    apart = min(
        whole.symmetric_difference(translate(ideal, -shift, 0).intersection(shapely.box(*whole.bounds))).area
        for shift in shifts
    )
    assert apart < 2.0  # of 3000 mm2; the search for the phase goes in steps of 0.05 mm


def test_a_hill_without_repeat_is_joined_by_a_turned_over_copy() -> None:
    assert find_repeat(profile_of(HILL)) is None
    found = span_area(HILL, 8.5 * INCH, Joining(may_flip=True))
    assert len(found.cuts) == 2
    assert [cut.flipped for cut in found.cuts].count(True) == 1
    (joint,) = found.joints
    assert joint.mismatch_mm < 0.3
    plain = span_area(HILL, 8.5 * INCH)
    assert found.cost_mm2 < plain.cost_mm2


@pytest.mark.parametrize("length", [150.0, 215.9, 260.0, 304.8, 400.0])
@pytest.mark.parametrize("may_flip", [False, True])
def test_cuts_reach_from_end_to_end_overlap_for_the_glue_and_stay_within_the_die(length: float, may_flip: bool) -> None:
    found = span_area(HILL, length, Joining(may_flip=may_flip))
    assert found.cuts[0].at_mm == 0
    last = found.cuts[-1]
    assert last.at_mm + last.to_mm - last.from_mm == pytest.approx(length, abs=1e-3)
    for cut in found.cuts:
        assert 0 <= cut.from_mm < cut.to_mm <= 139.7
        assert may_flip or not cut.flipped
    for (left, right), joint in zip(pairwise(found.cuts), found.joints, strict=True):
        end = left.at_mm + left.to_mm - left.from_mm
        assert end - right.at_mm == pytest.approx(6.0, abs=1e-3)
        assert joint.at_mm == pytest.approx(end if joint.left_over else right.at_mm, abs=1e-3)
    whole = shapely.union_all(laid(HILL, found))
    assert isinstance(whole.buffer(0.001), shapely.Polygon)
    assert whole.bounds[2] - whole.bounds[0] == pytest.approx(length, abs=1e-3)


def test_figures_of_a_joint_are_those_of_the_paper_itself() -> None:
    """Second method: the cuts are laid as polygons; what peeks out and how the edges differ is measured on them."""
    for length in (215.9, 304.8):
        found = span_area(HILL, length)
        pieces = laid(HILL, found)
        for number, joint in enumerate(found.joints):
            upper, lower = pieces[number : number + 2] if joint.left_over else pieces[number : number + 2][::-1]
            side = -1 if joint.left_over else 1
            zone = shapely.box(*sorted((joint.at_mm, joint.at_mm + side * 6.0)), 0, 0)
            low, high = sorted((joint.at_mm, joint.at_mm + side * 6.0))
            zone = shapely.box(low, -50, high, 50)
            peek = lower.difference(upper).intersection(zone).area
            assert joint.peek_mm2 == pytest.approx(peek, abs=0.02)
            low, high = sorted((joint.at_mm, joint.at_mm + side * 2.0))
            differ = lower.symmetric_difference(upper).intersection(shapely.box(low, -50, high, 50)).area / 2.0
            assert joint.mismatch_mm == pytest.approx(differ, abs=0.02)


@pytest.mark.parametrize("length", [8.5, 7.0, 12.0])
def test_a_window_frame_grows_on_its_straight_sides(length: float) -> None:
    """From 5 1/2 in; bars of 1/4 in stay so on every side, and no bar comes into the middle."""
    bar = 0.25 * INCH
    frame = shapely.box(0, 0, 5.5 * INCH, 100).difference(shapely.box(bar, bar, 5.5 * INCH - bar, 100 - bar))
    found = span_area(frame, length * INCH, Joining(keep_ends=True))
    assert len(found.cuts) == (2 if length < 10 else 3)
    assert found.cost_mm2 == 0
    whole = shapely.union_all(laid(frame, found))
    (opening,) = whole.interiors
    left, top, right, bottom = shapely.Polygon(opening).bounds
    outer = whole.bounds
    assert outer[2] - outer[0] == pytest.approx(length * INCH, abs=1e-3)
    bars = (left - outer[0], top - outer[1], outer[2] - right, outer[3] - bottom)
    assert bars == pytest.approx((bar, bar, bar, bar), abs=0.05)


def test_every_border_of_the_demo_spans_a_slimline() -> None:
    work, _ = open_card(CARD_FILES[2])
    for key in ("moss-edge", "far-hill", "picket"):
        stamp = work.stash.find(key)
        found = span_area(to_area(stamp.outline, stamp.pockets), 8.5 * INCH, Joining(may_flip=True))
        assert len(found.cuts) <= 3
        assert max(joint.mismatch_mm for joint in found.joints) < 0.3, key


def test_what_cannot_be_joined_is_told() -> None:
    with pytest.raises(PaperError, match="too short to be joined with an overlap of 6 mm"):
        span_area(scallop(12, 4), 60.0)
    with pytest.raises(PaperError, match="More than 40 cuts"):
        span_area(scallop(40, 4), 2000.0)
    with pytest.raises(GeometryError):
        profile_of(shapely.box(0, 0, 0.1, 5))


def test_from_a_shell(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    area = scallop(4.25 * INCH, 0.5 * INCH)
    points = " ".join(f"{x:.4f},{y + 6:.4f}" for x, y in area.exterior.coords[:-1])
    svg = '<svg xmlns="http://www.w3.org/2000/svg" width="107.95mm" height="16mm" viewBox="0 0 107.95 16">'
    (tmp_path / "edge.svg").write_text(
        f'{svg}<polygon points="{points}" fill="none" stroke="black" stroke-width="0.1"/></svg>'
    )
    assert main(["span", str(tmp_path / "edge.svg"), "--to", "8.5in", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [len(told["pieces"]), len(told["joints"]), told["optimal"]] == [3, 2, True]
    assert all(joint["mismatch_mm"] < 0.01 and joint["peek_mm2"] < 0.01 for joint in told["joints"])
    assert main(["span", str(tmp_path / "edge.svg"), "--to", "8.5in", "--flip"]) == 0
    assert "repeats every 12.70 mm" in capsys.readouterr().out
    assert main(["span", str(tmp_path / "edge.svg"), "--to", "nothing"]) == 1
    assert main(["span", str(tmp_path / "none.svg"), "--to", "8in"]) == 1
    assert main(["span", str(tmp_path / "edge.svg"), "--to", "9000in"]) == 1


def test_a_profile_keeps_the_area_of_what_it_samples() -> None:
    for area in (HILL, scallop(100, 12.7)):
        profile = profile_of(area)
        assert (profile.paper * profile.heights).sum() * profile.step_mm == pytest.approx(area.area, rel=0.004)


def test_a_plain_strip_joins_anywhere_and_has_no_repeat() -> None:
    strip = shapely.box(0, 0, 100, 10)
    assert find_repeat(profile_of(strip)) is None
    found = span(profile_of(strip), 250.0)
    assert (len(found.cuts), found.cost_mm2) == (3, 0)


def test_a_frame_from_a_shell_keeps_both_ends(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    bar = 0.25 * INCH
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{5.5 * INCH}mm" height="100mm" viewBox="0 0 {5.5 * INCH} 100">'
    )
    outer = f'<rect width="{5.5 * INCH}" height="100" fill="none" stroke="black" stroke-width="0.01"/>'
    inner = (
        f'<rect x="{bar}" y="{bar}" width="{5.5 * INCH - 2 * bar}" height="{100 - 2 * bar}" fill="none" '
        'stroke="black" stroke-width="0.01"/>'
    )
    (tmp_path / "frame.svg").write_text(f"{svg}{outer}{inner}</svg>")
    assert main(["span", str(tmp_path / "frame.svg"), "--to", "8.5in", "--frame", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    first, last = told["pieces"][0], told["pieces"][-1]
    assert first["from_mm"] == 0.0
    assert first["at_mm"] == 0.0
    assert last["to_mm"] == pytest.approx(5.5 * INCH, abs=0.05)
    assert last["at_mm"] + last["to_mm"] - last["from_mm"] == pytest.approx(8.5 * INCH, abs=0.01)
    assert all(joint["mismatch_mm"] < 0.01 for joint in told["joints"])
