"""What every kind of piece is cut like: areas and boxes worked out by hand, and the stack they make."""

import math

import msgspec
import pytest
import shapely
from shapely.geometry import box

from cases import STASH, Maker
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work
from fair_thicket.model.derived import begin_with
from fair_thicket.model.pieces import (
    Blend,
    Border,
    Cutout,
    Embellishment,
    Flap,
    Form,
    Impression,
    Panel,
    Part,
    Piece,
    Strip,
    Window,
)
from fair_thicket.shape.paper import flap_areas, footprint, local_area, window_area

OVAL = Form("ellipse", 20, 10)


def area(piece: Piece) -> float:
    return float(local_area(piece, STASH).area)


@pytest.mark.parametrize(
    ("piece", "expected"),
    [
        (Panel("p", Form("rectangle", 20, 10), 0, 0), 200.0),
        (Panel("p", Form("rectangle", 20, 10, 2.0), 0, 0), 200 - (4 - math.pi) * 4),
        (Panel("p", OVAL, 0, 0), math.pi * 50),
        (Panel("p", Form("rectangle", 20, 10), 0, 0, windows=(Window(Form("rectangle", 4, 4), 3, 0),)), 184.0),
        (Blend("w", Form("rectangle", 20, 10), 0, 0), 200.0),
        (Strip("s", 40, 8, 0, 0), 320.0),
        (Strip("s", 40, 8, 0, 0, right="fishtail"), 320 - 16),  # a notch as wide as high by half: 8 x 4 / 2
        (Strip("s", 40, 8, 0, 0, left="fishtail", right="fishtail"), 320 - 32),
        (Embellishment("e", 4, 0, 0, spots=((0, 0), (10, 0))), 2 * math.pi * 4),
        (Embellishment("e", 4, 0, 0, spots=((0, 0), (2, 0))), 2 * math.pi * 4 - 2 * (4 * math.pi / 3 - math.sqrt(3))),
        (Impression("i", "disc", 0, 0), 16 / 2 * 14 * 14 * math.sin(2 * math.pi / 16)),
        (Impression("i", "dots", 0, 0, inked=((-20, -2), (0, -2), (0, 2), (-20, 2))), 80.0),
        (Cutout("c", "stick", 0, 0), 48.0),
        (Cutout("c", "stick", 0, 0, margin_mm=1.0), 48 + 2 * (2 + 24) + math.pi),
        (Cutout("c", "leaf", 0, 0, margin_mm=0.0), None),
        (Cutout("c", "vines", 0, 0, opening=0), None),
        (Border("b", "wave", 40.0, 0, 0), None),
        (Border("b", "wave", 80.0, 0, 0), None),
    ],
)
def test_areas_are_those_of_the_shapes(piece: Piece, expected: float | None) -> None:
    wanted = expected
    if isinstance(piece, Cutout) and piece.stamp == "leaf":
        wanted = shapely.Polygon(STASH.find("leaf").outline).area
    if isinstance(piece, Cutout) and piece.opening is not None:
        wanted = shapely.Polygon(STASH.find("vines").pockets[0]).area
    if isinstance(piece, Border):
        wanted = shapely.Polygon(STASH.find("wave").outline).area * piece.length_mm / 40
    assert area(piece) == pytest.approx(wanted, rel=0.004)


def test_a_matching_die_leaves_its_own_margin() -> None:
    """The leaf's die leaves 1.5 mm; a margin that is said goes before it."""
    bare, own, said = (area(Cutout("c", "leaf", 0, 0, margin_mm=margin)) for margin in (0.0, None, 3.0))
    around = shapely.Polygon(STASH.find("leaf").outline).length
    assert own == pytest.approx(bare + 1.5 * around + math.pi * 1.5**2, rel=0.01)
    assert said > own


def test_a_border_goes_on_where_the_die_before_it_ends() -> None:
    """Two dies of 40 mm: the edge of the second is that of the first, moved by 40 mm; the start slides it."""
    row = local_area(Border("b", "wave", 80.0, 0, 0), STASH)
    left, right = row.intersection(box(-40, -20, 0, 20)), row.intersection(box(0, -20, 40, 20))
    assert shapely.affinity.translate(left, 40, 0).symmetric_difference(right).area < 1e-3
    slid = local_area(Border("b", "wave", 80.0, 0, 0, start_mm=10.0), STASH)
    moved = shapely.affinity.translate(row, -10, 0).intersection(box(-40, -20, 30, 20))
    assert slid.intersection(box(-40, -20, 30, 20)).symmetric_difference(moved).area < 1e-3
    flipped = local_area(Border("b", "wave", 80.0, 0, 0, start_mm=10.0, flipped=True), STASH)
    assert shapely.affinity.scale(flipped, -1, 1, origin=(0, 0)).symmetric_difference(slid).area < 1e-3


def test_turning_over_mirrors_and_turning_keeps_the_area() -> None:
    plain = local_area(Cutout("c", "word", 0, 0), STASH)
    over = local_area(Cutout("c", "word", 0, 0, flipped=True), STASH)
    assert shapely.affinity.scale(over, -1, 1, origin=(0, 0)).equals(plain)
    turned = footprint(Cutout("c", "word", 40, 30, 33.0), STASH)
    assert turned.area == pytest.approx(plain.area)
    assert turned.centroid.coords[0] != plain.centroid.coords[0]


def test_a_joint_cutout_is_the_union_of_its_images() -> None:
    joint = Cutout("c", "stick", 0, 0, joined=(Part("stick", 0, 0, 90.0),), margin_mm=0.0)
    assert area(joint) == pytest.approx(2 * 48 - 4)


def test_windows_are_openings_of_panels_and_plain_dies_only() -> None:
    frame = Panel("p", Form("rectangle", 20, 10), 50, 50, windows=(Window(Form("rectangle", 4, 4), 3, 0),))
    assert window_area(frame, STASH).bounds == (51, 48, 55, 52)
    assert window_area(Cutout("c", "vines", 0, 0), STASH).area > 1000
    assert window_area(Cutout("c", "vines", 0, 0, opening=0), STASH).is_empty
    assert window_area(Impression("i", "vines", 0, 0), STASH).is_empty


def test_flaps_take_their_part_of_the_body_and_no_more() -> None:
    ring = ((-10, 0), (10, 0), (10, 10), (-10, 10))
    panel = Panel("p", Form("rectangle", 20, 10), 0, 0, flaps=(Flap(ring, "x", "over"), Flap(ring, "y", "over")))
    first, second = flap_areas(panel, local_area(panel, STASH))
    assert first.area == pytest.approx(100)
    assert second.is_empty  # what one flap has taken is no longer there for the next


def test_leaves_of_pieces_that_rest_are_the_same_objects() -> None:
    m = Maker()
    keys = [m.put("disc", (x, 50)) for x in (20, 60, 100)]
    before = stack(m.work)
    piece = msgspec.structs.replace(m.work.card.find(keys[1]), x=64.0)
    pieces = tuple(piece if one.id == keys[1] else one for one in m.work.card.pieces)
    after = stack(begin_with(Work(msgspec.structs.replace(m.work.card, pieces=pieces), m.work.stash), m.work))
    assert [new is old for new, old in zip(after, before, strict=True)] == [True, False, True]


def test_a_piece_trimmed_to_what_is_gone_is_whole() -> None:
    work = Work(
        msgspec.structs.replace(Maker().work.card, pieces=(Cutout("c", "disc", 50, 50, trim_to="gone"),)), STASH
    )
    (leaf,) = stack(work)
    assert leaf.area.area == pytest.approx(area(Cutout("c", "disc", 0, 0)))


def test_a_bow_keeps_to_its_size_and_is_the_same_on_both_sides() -> None:
    """Half a bow of 20 mm is 10 mm wide; its ends hang below its knot, its loops beside it."""
    bow = footprint(Embellishment("b", size_mm=20.0, x=0, y=0, shape="bow"), STASH)
    left, top, right, bottom = bow.bounds
    assert (left, right) == pytest.approx((-right, -left), abs=0.01)
    assert 16 <= right - left <= 24
    assert 4 < -top < 7
    assert 8 < bottom < 10
    mirrored = shapely.affinity.scale(bow, -1, 1, origin=(0, 0))
    assert shapely.symmetric_difference(bow, mirrored).area < 0.05 * bow.area
    ends = shapely.intersection(bow, shapely.box(-20, 7, 20, 20))
    assert ends.centroid.x == pytest.approx(0, abs=0.1)
    assert len(shapely.get_parts(ends)) == 2, "two ends, apart"
    under = shapely.intersection(bow, shapely.LineString([(-20, 4.5), (20, 4.5)]))
    assert 2 < under.bounds[2] < 5, "an end is as far out as it was drawn"
