"""Outlines nested: nothing overlaps, nothing hangs over, gaps are kept, and no fewer sheets would do."""

import random

import cv2
import numpy as np
import pytest
import shapely
from exhaustive import fewest, fits_anyhow

from fair_thicket.demo import CARD_FILE
from fair_thicket.files.card_file import open_card
from fair_thicket.model.basics import Ring
from fair_thicket.model.errors import InputError
from fair_thicket.model.sheets import Turns
from fair_thicket.packing.bounds import fewest_by_size
from fair_thicket.packing.layouts import Nesting, NestPiece, lay
from fair_thicket.packing.nesting import nest
from fair_thicket.packing.raster_nest import Spot, Wanted
from fair_thicket.packing.strips import shorten
from fair_thicket.shape.outline import to_area
from making import EVERY, some_of

LETTER = (279.4, 215.9)


def rectangle(width: float, height: float) -> Ring:
    return ((0.0, 0.0), (width, 0.0), (width, height), (0.0, height))


def blob(dice: random.Random, size: float) -> Ring:
    """A random star-shaped outline about a place beside its middle."""
    count = dice.randint(3, 14)
    angles = sorted(dice.uniform(0, 2 * np.pi) for _ in range(count))
    off = (dice.uniform(-size, size), dice.uniform(-size, size))
    reach = [dice.uniform(0.3, 1) * size for _ in angles]
    points = [(off[0] + r * np.cos(a), off[1] + r * np.sin(a)) for r, a in zip(reach, angles, strict=True)]
    return tuple((float(x), float(y)) for x, y in points)


def laid_of(nesting: Nesting, pieces: list[NestPiece]) -> list[list[shapely.Polygon]]:
    outlines = {piece.id: shapely.Polygon(piece.outline) for piece in pieces}
    return [[lay(outlines[spot.id], spot) for spot in sheet.spots] for sheet in nesting.sheets]


def job(seed: int) -> tuple[list[NestPiece], tuple[float, float], float, float, Turns]:
    dice = random.Random(seed)
    pieces = []
    while len(pieces) < dice.randint(1, 14):
        outline = blob(dice, dice.uniform(8, 40))
        area = shapely.Polygon(outline)
        if area.is_valid and area.geom_type == "Polygon" and area.area > 5:
            pieces.append(NestPiece(f"p{len(pieces)}", outline, dice.choice([1, 1, 1, 2, 3])))
    turns: Turns = dice.choice(["any", "half", "none"])
    return (
        pieces,
        (dice.uniform(150, 300), dice.uniform(120, 220)),
        dice.choice([0.0, 1.0, 3.0]),
        dice.uniform(0, 12),
        turns,
    )


@pytest.mark.parametrize("seed", some_of(300))
def test_random_jobs_overlap_nowhere_keep_gaps_and_edges_by_polygons_and_by_a_raster_of_its_own(seed: int) -> None:
    pieces, sheet, gap, edge, turns = job(seed)
    found = nest(pieces, sheet, gap_mm=gap, edge_mm=edge, turns=turns, seconds=1.6 if seed % 40 == 0 else 0.0)
    told = sorted(spot.id for one in found.sheets for spot in one.spots)
    assert told == sorted(piece.id for piece in pieces for _ in range(piece.copies))
    assert 1 <= found.bound <= len(found.sheets)
    allowed = {"any": None, "half": {0.0, 180.0}, "none": {0.0}}[turns]
    assert allowed is None or {round(spot.angle_deg % 360, 3) for one in found.sheets for spot in one.spots} <= allowed
    for one, areas in zip(found.sheets, laid_of(found, pieces), strict=True):
        bounds = np.array([area.bounds for area in areas])
        assert bounds[:, :2].min() >= edge - 1e-5
        assert bounds[:, 2].max() <= sheet[0] - edge + 1e-5
        assert bounds[:, 3].max() <= sheet[1] - edge + 1e-5
        assert one.used_mm == pytest.approx(bounds[:, 2].max() - edge)
        for index, area in enumerate(areas):
            for other in areas[index + 1 :]:
                assert area.distance(other) >= gap - 1e-5
                assert area.intersection(other).area < 1e-5
        count = np.zeros((round(sheet[1] * 6) + 2, round(sheet[0] * 6) + 2), np.uint8)
        for area in areas:  # by a library's own raster, a little shrunken: it paints border pixels as well
            mask = np.zeros_like(count)
            for part in shapely.get_parts(area.buffer(-0.25)):
                if part.is_empty:
                    continue
                cv2.fillPoly(mask, [np.rint(np.array(part.exterior.coords) * 6).astype(np.int32)], 1)
            count += mask
        assert count.max() <= 1


@pytest.mark.parametrize("seed", some_of(200)[::5] if EVERY > 1 else some_of(200))
def test_no_fewer_sheets_would_do_for_small_jobs(seed: int) -> None:
    dice = random.Random(seed)
    sides = [(dice.uniform(20, 70), dice.uniform(20, 60)) for _ in range(dice.randint(3, 5))]
    best = fewest(len(sides), lambda chosen: fits_anyhow([sides[n] for n in sorted(chosen)], (100.0, 80.0)))
    pieces = [NestPiece(str(n), rectangle(*side)) for n, side in enumerate(sides)]
    told: list[int] = []
    found = nest(
        pieces,
        (100, 80),
        gap_mm=0,
        edge_mm=0,
        turns="none",
        seconds=8.0,
        go_on=lambda: not told or min(told) > best,
        told=lambda layout: told.append(len(layout.sheets)),
    )
    assert len(found.sheets) == best
    assert found.bound <= best


def test_two_pieces_over_half_a_sheet_never_share_one_and_that_is_proven() -> None:
    found = nest([NestPiece("mat", rectangle(200, 120), 3)], (210, 160), gap_mm=2, edge_mm=3, seconds=0)
    assert (len(found.sheets), found.bound) == (3, 3)


@pytest.mark.parametrize(
    ("sizes", "room", "least"),
    [([6, 6, 6, 4], 10, 3), ([5, 5, 5, 5], 10, 2), ([10] * 3 + [1], 10, 4), ([3.4] * 3, 10, 2), ([6, 5.9, 4.1], 10, 2)],
)
def test_bounds_by_hand(sizes: list[float], room: float, least: int) -> None:
    """Worked by hand after Martello and Toth, Knapsack Problems (1990), bound L2."""
    assert fewest_by_size(sizes, room) == least


def test_a_piece_that_only_fits_slantwise_is_turned_and_one_that_fits_no_way_is_told() -> None:
    slant = nest([NestPiece("stem", rectangle(118, 3))], (110, 70), gap_mm=0, edge_mm=0, seconds=0)
    assert slant.sheets[0].spots[0].angle_deg % 90 > 5
    with pytest.raises(InputError, match="fits no sheet"):
        nest([NestPiece("stem", rectangle(140, 3))], (110, 70), gap_mm=0, edge_mm=0, seconds=0)
    with pytest.raises(InputError, match="fits no sheet"):
        nest([NestPiece("stem", rectangle(118, 3))], (110, 70), gap_mm=0, edge_mm=0, turns="half", seconds=0)


@pytest.mark.parametrize(
    ("pieces", "sheet", "words"),
    [
        ([NestPiece("line", ((0, 0), (10, 0), (20, 0)))], LETTER, "encloses nothing"),
        ([NestPiece("bow", ((0, 0), (10, 10), (10, 0), (0, 9)))], LETTER, "crosses itself"),
        ([NestPiece("dot", rectangle(1, 1), 900)], LETTER, "cannot be nested at once"),
        ([NestPiece("dot", rectangle(1, 1))], (15, 90), "Nothing is left"),
    ],
)
def test_hopeless_jobs_are_told_in_a_sentence(pieces: list[NestPiece], sheet: tuple[float, float], words: str) -> None:
    with pytest.raises(InputError, match=words):
        nest(pieces, sheet, edge_mm=10.0, seconds=0)
    assert nest([], LETTER).sheets == ()


def demo_images() -> list[NestPiece]:
    work, _ = open_card(CARD_FILE)
    found = []
    for stamp in work.stash.stamps[:13]:
        area = max(shapely.get_parts(to_area(stamp.outline).buffer(1.6)), key=lambda part: part.area)
        found.append(NestPiece(stamp.id, tuple(map(tuple, np.round(area.exterior.coords[:-1], 3))), 2))
    return found


def test_layouts_come_soon_get_better_and_end_when_nobody_wants_them() -> None:
    told: list[Nesting] = []
    pieces = demo_images()
    nest(pieces, LETTER, gap_mm=1.0, seconds=4.0, told=told.append)
    assert len(told) > 1
    reach = [one.sheets[-1].used_mm + 1000 * len(one.sheets) for one in told]
    assert reach == sorted(reach, reverse=True)
    asked = []
    found = nest(pieces, LETTER, gap_mm=1.0, seconds=60.0, go_on=lambda: len(asked) < 3 and not asked.append(1))
    assert sum(len(one.spots) for one in found.sheets) == 26


def test_a_strip_is_within_a_twentieth_of_what_the_library_finds_in_much_longer() -> None:
    """Side by side with the reference library (spyrrow, an implementation of sparrow): 30 s when every case is run."""
    pieces = demo_images()
    room = (LETTER[0] - 20, LETTER[1] - 20)
    wanted = [Wanted(piece.id, shapely.Polygon(piece.outline)) for piece in pieces for _ in range(piece.copies)]
    long = shorten(wanted, room, gap_mm=1.0, angles=None, seconds=30 if EVERY == 1 else 4)
    assert long is not None
    by_id = {one.id: one.area for one in wanted}

    def reach(spots: list[Spot]) -> float:
        return max(lay(by_id[spot.id], spot).bounds[2] for spot in spots)

    own = nest(pieces, LETTER, gap_mm=1.0, edge_mm=10.0, seconds=8.0 if EVERY == 1 else 4.0)
    assert len(own.sheets) == 1
    assert own.sheets[0].used_mm <= 1.05 * reach(long)
