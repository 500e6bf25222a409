"""Flaps: parts by a line, strands picked, slits worked out, and what paper refuses."""

import itertools

import msgspec
import pytest
import shapely

from cases import Maker
from fair_thicket import edits
from fair_thicket.edits import flaps
from fair_thicket.edits.flaps import part_by_line, strand_at, strands_of
from fair_thicket.laid.stack import stack
from fair_thicket.laid.visibility import look, see
from fair_thicket.model.card import Card, Work, name_pieces
from fair_thicket.model.derived import begin_with
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout, Form
from fair_thicket.model.stash import Kind, Stamp, Stash
from fair_thicket.shape.outline import to_rings


def slit_card() -> tuple[Maker, str, str]:
    m = Maker()
    sheet = m.panel(Form("rectangle", 100, 50), (70, 65))
    figure = m.put("figure", (70, 58), cut=True)
    return m, sheet, figure


def test_a_part_below_a_line_goes_over_a_figure_and_the_slit_is_as_long_as_the_figure_is_wide_there() -> None:
    m, sheet, figure = slit_card()
    ring = flaps.part_by_line(m.work, sheet, (15, 62), (125, 62), (70, 80))
    after = flaps.send_part(m.work, sheet, ring, past=figure, side="over")
    (flap,) = after.card.find(sheet).flaps
    # at 62 mm the figure, whose middle is at 58, is cut at 4 mm below its middle: from -5.25 or so to 9 mm
    (x0, _), (x1, _) = flap.slit
    reach = sorted((x0, x1))
    at_line = shapely.intersection(stack(m.work)[1].area, shapely.LineString([(0, 62), (140, 62)])).bounds
    assert reach == pytest.approx(
        [at_line[0] - 70 - flaps.SLIT_SPARE_MM, at_line[2] - 70 + flaps.SLIT_SPARE_MM], abs=0.01
    )
    keys = [leaf.key for leaf in stack(after)]
    assert keys == [sheet, figure, f"{sheet}~0"]
    seen = {sight.id: sight for sight in see(after)}
    above = shapely.intersection(stack(m.work)[1].area, shapely.box(0, 0, 140, 62)).area
    assert seen[figure].visible_mm2 == pytest.approx(above)
    assert name_pieces(after)[f"{sheet}~0"] == "flap of the panel"


def test_a_slit_that_would_cut_the_paper_in_two_is_refused_with_its_length() -> None:
    m, sheet, figure = slit_card()
    m.change(sheet, form=Form("rectangle", 12, 50))
    ring = flaps.part_by_line(m.work, sheet, (15, 62), (125, 62), (70, 80))
    with pytest.raises(PaperError, match=r"a slit of \d+ mm would cut it off"):
        flaps.send_part(m.work, sheet, ring, past=figure, side="over")


def test_a_strand_needs_no_slit_and_every_strand_is_found() -> None:
    m = Maker()
    moth = m.put("moth", (41.8, 40), cut=True, margin_mm=0.0)
    frame = m.put("vines", (69.85, 54))
    assert len(flaps.strands_of(m.work.card.find(frame), m.work)) == 2
    ring = flaps.strand_at(m.work, frame, (41.8, 40))
    after = flaps.send_part(m.work, frame, ring, past=moth, side="under", name="vine")
    (flap,) = after.card.find(frame).flaps
    assert flap.slit is None
    assert [leaf.key for leaf in stack(after)] == [f"{frame}~0", moth, frame]
    whole = sum(leaf.area.area for leaf in stack(after) if leaf.piece.id == frame)
    assert whole == pytest.approx(stack(m.work)[1].area.area)
    again = flaps.send_part(after, frame, ring, past=moth, side="over")
    assert len(again.card.find(frame).flaps) == 1  # the same part is sent elsewhere, not cut twice
    assert edits.set_pieces(after, {frame}, flaps=()) == m.work
    with pytest.raises(PaperError, match="no single strand"):
        flaps.strand_at(m.work, frame, (16, 54))


def test_only_paper_lifts_and_only_past_what_has_paper() -> None:
    m, sheet, _ = slit_card()
    stamped = m.put("leaf", (30, 20))
    with pytest.raises(PaperError, match="not cut out of paper"):
        flaps.part_by_line(m.work, stamped, (10, 20), (50, 20), (30, 30))
    ring = flaps.part_by_line(m.work, sheet, (15, 62), (125, 62), (70, 80))
    with pytest.raises(PaperError, match="is stamped: it has no paper"):
        flaps.send_part(m.work, sheet, ring, past=stamped, side="under")
    with pytest.raises(PaperError, match="cannot go past itself"):
        flaps.send_part(m.work, sheet, ring, past=sheet, side="over")
    with pytest.raises(PaperError, match="does not part"):
        flaps.part_by_line(m.work, sheet, (15, 10), (125, 10), (70, 80))
    with pytest.raises(PaperError, match="longer than half a millimetre"):
        flaps.part_by_line(m.work, sheet, (15, 62), (15.1, 62), (70, 80))


def test_a_flap_goes_with_its_piece_and_is_lost_with_what_it_goes_past() -> None:
    m, sheet, figure = slit_card()
    ring = flaps.part_by_line(m.work, sheet, (15, 62), (125, 62), (70, 80))
    after = flaps.send_part(m.work, sheet, ring, past=figure, side="over")
    before = {leaf.key: leaf.area for leaf in stack(after)}[f"{sheet}~0"]
    moved = edits.turn_by(edits.move_by(after, {sheet}, (3, 2)), {sheet}, 180)
    turned = {leaf.key: leaf.area for leaf in stack(moved)}[f"{sheet}~0"]
    assert turned.area == pytest.approx(before.area)
    assert turned.bounds[1] == pytest.approx(before.bounds[1] + 2 - 22, abs=0.1)  # below the line before, above it now
    assert edits.delete(after, {figure}).card.find(sheet).flaps == ()


def test_a_view_that_is_taken_further_equals_one_from_scratch() -> None:
    m, sheet, figure = slit_card()
    ring = flaps.part_by_line(m.work, sheet, (15, 62), (125, 62), (70, 80))
    m.do(lambda work: flaps.send_part(work, sheet, ring, past=figure, side="over"))
    for x in (20, 50, 90, 120):
        m.put("leaf", (x, 60), cut=True)
    look(m.work)
    for step in range(6):
        before = m.work
        m.do(lambda work, step=step: edits.move_by(work, {work.card.pieces[step % 5].id}, (4.0, step - 2.0)))  # type: ignore[misc]
        view = look(begin_with(m.work, before))
        alone = Work(msgspec.structs.replace(m.work.card), m.work.stash)  # an equal card that nothing is kept of
        fresh = look(alone)
        assert [leaf.key for leaf in view.leaves] == [leaf.key for leaf in fresh.leaves]
        assert not {id(leaf) for leaf in fresh.leaves} & {id(leaf) for leaf in view.leaves}
        assert view.shared == pytest.approx(fresh.shared)
        pairs = itertools.combinations(range(len(fresh.leaves)), 2)
        areas = [leaf.area for leaf in fresh.leaves]
        by_shapely = {pair: shapely.intersection(areas[pair[0]], areas[pair[1]]).area for pair in pairs}
        assert view.shared == pytest.approx({pair: area for pair, area in by_shapely.items() if area > 0}, abs=1e-6)
        assert [area.area for area in view.seen] == pytest.approx([area.area for area in fresh.seen])


def _vines() -> Work:
    """A frame with two strands that end in a leaf, wider than the strand and than the frame's own bars."""
    bars = shapely.box(-50, -38, 50, 38).difference(shapely.box(-44, -32, 44, 32))
    strands = [shapely.box(-1, -33, 1, 0), shapely.box(19, -33, 21, 2)]
    leaves = [shapely.buffer(shapely.Point(0, 4), 6.0), shapely.buffer(shapely.Point(20, 4), 5.0)]
    whole = shapely.union_all([bars, *strands, *leaves])
    (outline,) = to_rings(shapely.Polygon(whole.exterior))
    pockets = tuple(tuple(hole.coords)[:-1] for hole in whole.interiors)
    stamp = Stamp("vines", "vines", 100, 76, outline, "images/v.png", kind=Kind.BACKDROP, pockets=pockets)
    return Work(Card(pieces=(Cutout("vines-1", "vines", 70, 54),)), Stash((stamp,)))


def test_a_strand_is_found_with_the_thick_leaf_at_its_tip() -> None:
    work = _vines()
    found = sorted(strand.bounds for strand in strands_of(work.card.pieces[0], work))
    assert [[round(side) for side in bounds] for bounds in found] == [[64, 22, 76, 64], [85, 22, 95, 63]]
    for at in ((70.0, 30.0), (70.0, 60.0)):  # on the strand, and on its leaf
        left, top, right, bottom = shapely.Polygon(strand_at(work, "vines-1", at)).bounds
        assert (round(left), round(right), round(bottom)) == (-6, 6, 10)
        assert top == pytest.approx(-32, abs=0.1)


def test_a_line_across_a_strand_lifts_that_strand_and_not_the_bars_beside_it() -> None:
    ring = part_by_line(_vines(), "vines-1", (60, 40), (80, 40), (70, 55))
    left, top, right, bottom = shapely.Polygon(ring).bounds
    assert (left, right) == (pytest.approx(-6, abs=0.1), pytest.approx(6, abs=0.1))
    assert (top, bottom) == (pytest.approx(-14, abs=0.1), pytest.approx(10, abs=0.1))


@pytest.mark.parametrize(("middle", "fits"), [(31.1, True), (30.9, False), (108.9, True), (109.1, False)])
def test_a_slit_keeps_paper_at_both_its_ends_or_is_refused(middle: float, fits: bool) -> None:
    """Under 20 mm of panel, on a sheet from 20 to 120 mm, lie 20 mm of slit and its spare at each end: all inside."""
    m = Maker()
    sheet = m.panel(Form("rectangle", 100, 50), (70, 65))
    figure = m.panel(Form("rectangle", 20, 20), (middle, 58))
    spare = flaps.SLIT_SPARE_MM
    assert spare == 1.0
    ring = flaps.part_by_line(m.work, sheet, (15, 62), (125, 62), (70, 80))
    if not fits:
        with pytest.raises(PaperError, match="would cut it off, for there the paper is 100 mm wide"):
            flaps.send_part(m.work, sheet, ring, past=figure, side="over")
        return
    (flap,) = flaps.send_part(m.work, sheet, ring, past=figure, side="over").card.find(sheet).flaps
    assert sorted(x for x, _ in flap.slit) == pytest.approx([middle - 80 - spare, middle - 60 + spare], abs=0.001)
    assert [y for _, y in flap.slit] == pytest.approx([-3.0, -3.0])


def test_a_part_goes_over_a_piece_together_with_all_that_it_carries() -> None:
    """The snail rides on the panel: what goes over the panel goes over the snail as well, and under the later moth."""
    m = Maker()
    sheet = m.panel(Form("rectangle", 100, 50), (70, 65))
    other = m.panel(Form("rectangle", 20, 20), (70, 58))
    rider = m.put("figure", (70, 58), cut=True, on=other)
    later = m.panel(Form("rectangle", 10, 10), (100, 58))
    ring = flaps.part_by_line(m.work, sheet, (15, 62), (125, 62), (70, 80))
    after = flaps.send_part(m.work, sheet, ring, past=other, side="over")
    assert [leaf.key for leaf in stack(after)] == [sheet, other, rider, f"{sheet}~0", later]


def test_a_part_goes_under_a_piece_together_with_all_that_it_carries() -> None:
    m = Maker()
    other = m.panel(Form("rectangle", 20, 20), (70, 58))
    rider = m.put("figure", (70, 58), cut=True, on=other)
    sheet = m.panel(Form("rectangle", 100, 50), (70, 65))
    ring = flaps.part_by_line(m.work, sheet, (15, 62), (125, 62), (70, 80))
    under = flaps.send_part(m.work, sheet, ring, past=other, side="under")
    assert [leaf.key for leaf in stack(under)] == [f"{sheet}~0", other, rider, sheet]
