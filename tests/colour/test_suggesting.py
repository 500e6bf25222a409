"""Proposals against colourings by chance, and each term of the measure by a card made to fail it."""

import itertools
import time

import msgspec
import numpy as np
import pytest

from fair_thicket.colour.measuring import Measure
from fair_thicket.colour.offers import markers_on, offer_runs
from fair_thicket.colour.suggesting import _uphill, suggest
from fair_thicket.edits.colouring import colour_parts, set_regions
from fair_thicket.ink.contrast import luminance
from fair_thicket.laid.visibility import look
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import Region, Shade
from fair_thicket.model.pieces import Blend, Form, Water
from fair_thicket.model.supplies import Marker
from making import square, work_of

FERN = (Shade("#2c5a33", "fern 4"), Shade("#4f8a4a", "fern 3"), Shade("#9cc08a", "fern 2"))


def images(*pieces: tuple[str, float, float]) -> Work:
    """Images of one region each."""
    work = work_of(*pieces)
    for key in {key for key, _, _ in pieces}:
        work = set_regions(work, key, (Region(1, square(9)),), ())
    return work


def test_the_first_proposal_beats_two_thousand_colourings_by_chance(
    demo: tuple[Work, dict[str, bytes]], markers: list[Marker], chance: np.random.Generator
) -> None:
    work, _ = demo
    found = suggest(work, look(work), markers, seconds=60)
    families = offer_runs(markers, 3)
    measure = Measure(work, look(work), families)
    tried = [
        measure.score(measure.with_choice(chance.integers(0, len(families), len(measure.free)).tolist()))
        for _ in range(2000)
    ]
    assert 3 <= len(found) <= 5
    assert found[0].score > max(tried)
    assert [one.score for one in found] == sorted((one.score for one in found), reverse=True)
    assert len({one.work for one in found}) == len(found)
    assert all(one.reasons for one in found)


def test_the_same_seed_proposes_the_same_and_another_something_else(
    demo: tuple[Work, dict[str, bytes]], markers: list[Marker]
) -> None:
    work, _ = demo
    first, again, other = (suggest(work, look(work), markers, seed=seed, palettes=2, seconds=60) for seed in (1, 1, 2))
    assert [one.work for one in first] == [one.work for one in again]
    assert [one.work for one in first] != [one.work for one in other]


def test_on_a_small_card_the_best_of_all_colourings_of_its_families_is_found(markers: list[Marker]) -> None:
    work = images(("toad", 20, 20), ("newt", 24, 22), ("snail", 80, 60))
    families = offer_runs(markers, 3)
    measure = Measure(work, look(work), families)
    for one in suggest(work, look(work), markers, seconds=60):
        assert one.is_best
        names = [family.name for family in families]
        used = [names.index(name) for name in one.families]
        scores = [measure.score(measure.with_choice(list(tried))) for tried in itertools.product(used, repeat=3)]
        assert one.score == pytest.approx(max(scores))


def test_what_is_coloured_stays_where_that_is_asked(markers: list[Marker]) -> None:
    work = colour_parts(images(("toad", 20, 20), ("newt", 60, 22)), {"toad-1"}, [(1,)], shades=FERN[:2])
    for one in suggest(work, look(work), markers, keeps=True, seconds=60):
        assert one.work.card.find("toad-1") == work.card.find("toad-1")
        assert one.work.card.find("newt-2").colouring


def test_without_markers_or_regions_there_is_nothing_to_propose(markers: list[Marker]) -> None:
    work = images(("toad", 20, 20))
    assert suggest(work, look(work), []) == []
    bare = work_of(("toad", 20, 20))
    assert suggest(bare, look(bare), markers) == []
    assert suggest(work, look(work), markers[:1])[0].families == (markers[0].family,)


def test_a_search_that_nobody_wants_any_more_ends(demo: tuple[Work, dict[str, bytes]], markers: list[Marker]) -> None:
    work, _ = demo
    assert len(suggest(work, look(work), markers, go_on=lambda: False, seconds=60)) == 1


# -- the measure, term by term ----------------------------------------------------------------------------------------


@pytest.fixture
def families(markers: list[Marker]) -> dict[str, int]:
    return {one.name: number for number, one in enumerate(offer_runs(markers, 3))}


def test_a_green_newt_before_green_ferns_does_not_stand_out(markers: list[Marker], families: dict[str, int]) -> None:
    work = images(("fern", 40, 40), ("newt", 40, 44))
    measure = Measure(work, look(work), offer_runs(markers, 3))
    alike, apart = (
        measure.terms(measure.with_choice([families["fern"], families[other]])) for other in ("fern", "toadstool")
    )
    assert alike.stands_out < apart.stands_out
    assert alike.worst < apart.worst
    assert alike.apart < apart.apart == 1


def test_a_colour_on_one_image_has_no_echo(markers: list[Marker], families: dict[str, int]) -> None:
    work = images(("toad", 20, 20), ("newt", 110, 20), ("snail", 60, 90))
    measure = Measure(work, look(work), offer_runs(markers, 3))
    alone = measure.terms(measure.with_choice([families["fern"], families["lamp"], families["dusk"]])).echo
    twice = measure.terms(measure.with_choice([families["fern"], families["fern"], families["dusk"]])).echo
    triangle = measure.terms(measure.with_choice([families["fern"]] * 3)).echo
    assert alone == 0
    assert alone < twice < triangle == 1


def test_more_than_six_families_are_too_many(markers: list[Marker], families: dict[str, int]) -> None:
    work = images(*((f"i{n}", 8 + 13 * n, 20) for n in range(9)))
    measure = Measure(work, look(work), offer_runs(markers, 3))
    few = [measure.terms(measure.with_choice([min(n, most) for n in range(9)])).few for most in (3, 5, 6, 8)]
    assert few == [1, 1, 0.75, 0.25]


def test_usual_colours_are_those_of_the_first_scheme(
    demo: tuple[Work, dict[str, bytes]], markers: list[Marker]
) -> None:
    work, _ = demo
    families = offer_runs(markers, 3)
    measure = Measure(work, look(work), families)
    every = np.arange(len(families))
    assert measure.terms(measure.usual(every)).usual == pytest.approx(1)
    fern = [one.name for one in families].index("fern")
    assert measure.terms(measure.with_choice([fern] * len(measure.free))).usual < 0.7


def test_markers_of_a_card_are_those_it_is_coloured_with(demo: tuple[Work, dict[str, bytes]]) -> None:
    found = markers_on(demo[0])
    assert {"fern", "toadstool", "clay"} <= {one.family for one in found}
    assert len({one.name for one in found}) == len(found)


def test_a_figure_is_held_against_the_tone_that_a_wash_has_where_it_stands(markers: list[Marker]) -> None:
    """What is dark stands out at the pale end of a blend and not at its dark end; water has no colour."""
    families = offer_runs(markers, 3)
    leads = [family.shades[len(family.shades) // 2].colour for family in families]
    fern = min(range(len(families)), key=lambda n: luminance(leads[n]))
    dark = leads[fern]
    worst = []
    for x in (12.0, 128.0):
        work = images(("toad", x, 50))
        form = Form("rectangle", 139.7, 139.7)
        sky = Blend("sky", form, 69.85, 53.97, inks=("#fbf3dc", dark), way="linear", angle_deg=-90)
        water = Water("water", form, 69.85, 53.97, drops=20)
        work = Work(msgspec.structs.replace(work.card, pieces=(sky, water, *work.card.pieces)), work.stash)
        measure = Measure(work, look(work), families)
        worst.append(measure.terms(measure.with_choice([fern])).worst)
    assert max(worst) > 2 * min(worst)
    assert min(worst) < 12


def test_going_uphill_ends_where_no_change_of_one_unit_helps_and_does_nothing_out_of_time(
    demo: tuple[Work, dict[str, bytes]], markers: list[Marker], chance: np.random.Generator
) -> None:
    work, _ = demo
    families = offer_runs(markers, 3)
    measure = Measure(work, look(work), families)
    palette = np.arange(5)
    start = measure.with_choice(chance.choice(palette, len(measure.free)).tolist())
    assert (_uphill(measure, start, palette, time.monotonic() - 1) == start).all()
    top = _uphill(measure, start, palette, time.monotonic() + 60)
    best = measure.score(top)
    assert best > measure.score(start)
    for unit in measure.free:
        for family in palette.tolist():
            other = top.copy()
            other[unit] = family
            assert measure.score(other) <= best + 1e-9
