"""Glows, spotlights, zones parted along a torn line, and room kept for a greeting: pure edits of a wash."""

import itertools

import pytest
import shapely

from cases import Maker
from fair_thicket.edits.ink_edits import glow_from, keep_off, part_wash, spotlight
from fair_thicket.edits.pieces import set_card
from fair_thicket.ink.contrast import luminance
from fair_thicket.ink.gradients import wash_tones
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Blend, Form, Wash
from fair_thicket.shape.paper import footprint


def lit(angle_deg: float = 0.0, **fields: object) -> Work:
    m = Maker()
    m.put("figure", (90, 40), cut=True)
    m.put("greeting", (45, 60))
    wash = Blend("sky-1", Form("rectangle", 120.0, 80.0), 69.85, 50.0, angle_deg, colour="#2d3558", **fields)  # type: ignore[arg-type]
    return set_card(m.work, pieces=(wash, *m.work.card.pieces))


def key_of(work: Work, stamp: str) -> str:
    return next(one.id for one in work.card.pieces if getattr(one, "stamp", "") == stamp)


def light_at(wash: Wash, x: float, y: float) -> float:
    return float(wash_tones(wash, (x - 0.05, y - 0.05), (1, 1), 10.0).sum())


@pytest.mark.parametrize("angle_deg", [0.0, 90.0])
def test_a_wash_glows_from_the_middle_of_a_piece(angle_deg: float) -> None:
    work = lit(angle_deg)
    made = glow_from(work, "sky-1", key_of(work, "figure")).card.find("sky-1")
    assert isinstance(made, Wash)
    assert made.way == "glow"
    assert luminance(made.inks[0]) > luminance(made.inks[1])
    assert light_at(made, 90, 40) > light_at(made, 70, 40) > light_at(made, 30, 40)
    assert light_at(made, 90, 40) > light_at(made, 90, 60)


def test_inks_of_a_glow_run_from_the_lightest() -> None:
    work = lit(inks=("#2d3558", "#e6dff0", "#8f8fb8"))
    made = glow_from(work, "sky-1", key_of(work, "figure")).card.find("sky-1")
    assert isinstance(made, Wash)
    assert made.inks == ("#e6dff0", "#8f8fb8", "#2d3558")


def test_a_spotlight_is_a_bare_disc_round_the_piece_with_its_rim() -> None:
    work = lit()
    figure = key_of(work, "figure")
    made = spotlight(work, "sky-1", figure, rim_mm=2.0)
    (cover,) = made.card.find("sky-1").covers  # type: ignore[union-attr]
    left, top, right, bottom = footprint(work.card.find(figure), work.stash).bounds
    assert cover.kind == "disc"
    assert cover.form.width_mm == pytest.approx(max(right - left, bottom - top) + 4.0, abs=0.1)
    bare = shapely.difference(
        footprint(work.card.find("sky-1"), work.stash), footprint(made.card.find("sky-1"), made.stash)
    )
    assert bare.centroid.coords[0] == pytest.approx(((left + right) / 2, (top + bottom) / 2), abs=0.05)


@pytest.mark.parametrize("angle_deg", [0.0, 90.0])
@pytest.mark.parametrize("gap_mm", [0.0, 3.0])
def test_two_zones_share_a_wash_with_the_gap_left_white_between(angle_deg: float, gap_mm: float) -> None:
    """The torn edges stray, so the gap is as wide as said on the mean only."""
    work = lit(angle_deg)
    whole = footprint(work.card.find("sky-1"), work.stash)
    made = part_wash(work, "sky-1", ((-20.0, 55.0), (160.0, 55.0)), gap_mm=gap_mm, seed=1, ink="#8aa465")
    upper, lower = (one for one in made.card.pieces if isinstance(one, Wash))
    assert (upper.colour, lower.colour) == ("#2d3558", "#8aa465")
    first, second = footprint(upper, made.stash), footprint(lower, made.stash)
    assert first.centroid.y < 55 < second.centroid.y
    assert shapely.union(first, second).within(whole.buffer(1e-6))
    if gap_mm:
        left, _, right, _ = whole.bounds
        bare = whole.area - shapely.union(first, second).area
        assert bare / (right - left) == pytest.approx(gap_mm, abs=1.2)


def test_a_line_beside_the_wash_or_too_short_parts_nothing() -> None:
    work = lit()
    with pytest.raises(PaperError, match=r"Nothing of the|leaves nothing"):
        part_wash(work, "sky-1", ((-20.0, 200.0), (160.0, 200.0)), gap_mm=1.0, seed=1, ink="#8aa465")
    with pytest.raises(PaperError, match="too short"):
        part_wash(work, "sky-1", ((20.0, 50.0), (20.2, 50.0)), gap_mm=1.0, seed=1, ink="#8aa465")


@pytest.mark.parametrize("angle_deg", [0.0, 90.0, 180.0])
def test_room_is_kept_for_a_greeting(angle_deg: float) -> None:
    work = lit(angle_deg)
    greeting = key_of(work, "greeting")
    made = keep_off(work, "sky-1", [greeting], room_mm=2.0)
    kept = footprint(work.card.find(greeting), work.stash).buffer(2.0, join_style="mitre")
    inked = footprint(made.card.find("sky-1"), made.stash)
    assert shapely.intersection(inked, kept).area == pytest.approx(0.0, abs=1e-3)
    whole = footprint(work.card.find("sky-1"), work.stash)
    assert shapely.difference(whole, inked).area == pytest.approx(kept.intersection(whole).area, rel=1e-3)
    assert kept.area == pytest.approx(48.0 * 11.0, rel=1e-3)


def test_every_edit_gives_another_seeds_edge() -> None:
    work = lit()
    edges = []
    for seed in (1, 2):
        made = part_wash(work, "sky-1", ((-20.0, 55.0), (160.0, 55.0)), gap_mm=1.0, seed=seed, ink="#8aa465")
        edges.append(footprint(made.card.find("sky-1"), made.stash))
    for one, other in itertools.pairwise(edges):
        assert not one.equals(other)
