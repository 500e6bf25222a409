"""What is said of colours: for each a card that must have it, and one that must not."""

import msgspec
import numpy as np
import pytest

from fair_thicket.advice import advise
from fair_thicket.colour.judging import families_of, judge
from fair_thicket.edits.colouring import colour_parts, set_regions
from fair_thicket.edits.pieces import apply_remedy, set_card
from fair_thicket.engines import ENGINES, Known
from fair_thicket.ink.painting import paint
from fair_thicket.laid.visibility import look
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import Region, Shade
from fair_thicket.model.finding import Finding
from fair_thicket.model.pieces import Blend, Form, Strip
from fair_thicket.model.supplies import Marker
from making import pictures_of, square, stamp, work_of

FERN = tuple(Shade(c, f"fern {n}") for c, n in (("#2c5a33", 4), ("#4f8a4a", 3), ("#9cc08a", 2)))
RED = tuple(Shade(c, f"toadstool {n}") for c, n in (("#9c2f33", 3), ("#d8604f", 2), ("#f2b3a6", 1)))


def whole(side: float) -> tuple[Region, ...]:
    return (Region(1, square(side - 1)),)


def coloured(*pieces: tuple[str, float, float], side: float = 16.0, shades: tuple[Shade, ...] = FERN) -> Work:
    """Images of one region each, coloured alike."""
    stamps = tuple(stamp(key, side) for key in {key for key, _, _ in pieces})
    work = work_of(*pieces, stamps=stamps)
    for one in stamps:
        work = set_regions(work, one.id, whole(side), ())
    return colour_parts(work, {piece.id for piece in work.card.pieces}, [(1,)], shades=shades)


def codes(findings: list[Finding]) -> list[str]:
    return [one.code for one in findings]


def found(work: Work, code: str, markers: list[Marker] | None = None) -> Finding:
    return next(one for one in judge(work, supplies=markers or ()) if one.code == code)


def test_a_card_without_coloured_images_is_not_spoken_of() -> None:
    assert judge(work_of(("toad", 20, 20))) == []


def test_the_demo_card_has_nothing_to_settle(demo: tuple[Work, dict[str, bytes]], markers: list[Marker]) -> None:
    work, pictures = demo
    told = judge(work, view=look(work), picture=paint(work, pictures), supplies=markers)
    assert [one.title for one in told if one.weight >= 2] == []


def test_a_forgotten_part_is_told_and_left_white_on_purpose(demo: tuple[Work, dict[str, bytes]]) -> None:
    work, _ = demo
    toad = work.card.find("toad-postmaster-1")
    left = msgspec.structs.replace(toad, colouring=toad.colouring[1:])
    pieces = tuple(left if one.id == toad.id else one for one in work.card.pieces)
    work = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))
    one = found(work, "part-forgotten")
    assert one.title == "A part of the toad postmaster is not coloured"
    assert one.remedy is not None
    assert "part-forgotten" not in codes(judge(apply_remedy(work, one.remedy)))


@pytest.mark.parametrize(
    ("shades", "code"),
    [((FERN[0], Shade("#e6f0de", "fern 0")), "shades-far"), ((FERN[1], Shade("#538d4d", "fern 3b")), "shades-alike")],
)
def test_shades_that_do_not_blend_are_told_once_with_a_run_that_does(
    shades: tuple[Shade, ...], code: str, markers: list[Marker]
) -> None:
    work = coloured(("toad", 20, 20), ("newt", 60, 20), shades=shades)
    (one,) = [one for one in judge(work, supplies=markers) if one.code == code]
    assert set(one.pieces) == {"toad-1", "newt-2"}
    assert one.remedy is not None
    assert code not in codes(judge(apply_remedy(work, one.remedy), supplies=markers))


def test_without_markers_there_is_no_remedy_but_the_words() -> None:
    assert found(coloured(("toad", 20, 20), shades=(FERN[0], Shade("#e6f0de"))), "shades-far").remedy is None


def test_two_shades_on_a_large_part_are_regretted_and_are_right_on_a_small_one() -> None:
    assert "few-shades" in codes(judge(coloured(("toad", 30, 30), side=20, shades=FERN[:2])))
    assert "few-shades" not in codes(judge(coloured(("toad", 30, 30), side=9, shades=FERN[:2])))


def test_four_shades_find_no_room_on_a_tiny_part() -> None:
    four = (*FERN, Shade("#cfe0bd", "fern 1"))
    assert "many-shades" in codes(judge(coloured(("toad", 30, 30), side=4, shades=four)))
    assert "many-shades" not in codes(judge(coloured(("toad", 30, 30), side=20, shades=four)))


def test_a_shadow_on_the_side_of_the_light_is_told_and_turned_back() -> None:
    work = coloured(("toad", 20, 20))
    assert "other-light" not in codes(judge(work))
    turned = colour_parts(work, {"toad-1"}, [(1,)], shadow_deg=230.0)
    one = found(turned, "other-light")
    assert one.remedy is not None
    assert "other-light" not in codes(judge(apply_remedy(turned, one.remedy)))
    assert "other-light" not in codes(
        judge(set_card(colour_parts(work, {"toad-1"}, [(1,)], shadow_deg=120.0), light="right"))
    )


def test_an_image_drawn_with_light_from_the_other_side_is_told() -> None:
    work = coloured(("toad", 20, 20))
    lit = msgspec.structs.replace(
        work.stash.find("toad"), marks=msgspec.structs.replace(work.stash.find("toad").marks, light="right")
    )
    work = msgspec.structs.replace(work, stash=msgspec.structs.replace(work.stash, stamps=(lit,)))
    assert "drawn-light" in codes(judge(work))
    assert "drawn-light" not in codes(judge(set_card(work, light="right")))


def test_an_accent_on_one_image_stands_alone_and_on_two_does_not() -> None:
    large = coloured(("toad", 30, 30), ("newt", 80, 30), side=28)
    small = set_regions(large, "newt", (Region(1, square(27)), Region(2, square(3))), ())
    alone = colour_parts(small, {"newt-2"}, [(2,)], shades=RED[:2])
    assert "accent-alone" in codes(judge(alone))
    both = set_regions(alone, "toad", (Region(1, square(27)), Region(2, square(3))), ())
    assert "accent-alone" not in codes(judge(colour_parts(both, {"toad-1"}, [(2,)], shades=RED[:2])))
    echo, other = (
        Strip("strip-9", 40, 10, 60, 40, words="hello", colour=colour) for colour in (RED[1].colour, "#3f66b0")
    )
    assert "accent-alone" not in codes(judge(set_card(alone, inside=(echo,))))  # inside is a place as good as any
    assert "accent-alone" in codes(judge(set_card(alone, inside=(other,))))


def test_more_than_six_families_make_a_card_restless() -> None:
    work = work_of(*((f"i{n}", 10 + 15 * n, 20) for n in range(8)))
    hues = ["#c0392b", "#d98a2b", "#d6c52b", "#4f8a4a", "#2b9c9c", "#2b4c9b", "#7a3fa0", "#b53a8a"]
    for n, colour in enumerate(hues):
        work = set_regions(work, f"i{n}", whole(10), ())
        work = colour_parts(work, {f"i{n}-{n + 1}"}, [(1,)], shades=(Shade(colour),))
        assert ("many-families" in codes(judge(work))) == (len(families_of(work)) > 6)
    assert len(families_of(work)) >= 7


def test_a_green_newt_before_green_ferns_is_lost_and_a_red_one_is_not() -> None:
    for shades, is_lost in ((FERN, True), (RED, False)):
        work = coloured(("fern", 40, 40), ("newt", 40, 40), side=16, shades=shades)
        ground = Blend("wash-1", Form("rectangle", 120.0, 90.0), 60.0, 45.0, colour="#4f8a4a")
        work = msgspec.structs.replace(
            work, card=msgspec.structs.replace(work.card, pieces=(ground, work.card.pieces[1]))
        )
        told = judge(work, view=look(work), picture=paint(work, pictures_of(work)))
        assert ("figure-lost" in codes(told)) == is_lost


def test_its_advice_stands_at_its_station_and_can_be_dismissed() -> None:
    work = coloured(("toad", 20, 20), shades=(FERN[0], Shade("#e6f0de")))
    only = [engine for engine in ENGINES if engine.key == "colour"]
    (one,) = [one for one in advise(work, Known(), engines=only) if one.code == "shades-far"]
    assert (one.station, one.is_dismissed) == ("colour", False)
    assert np.isfinite(one.measure)


def test_markers_hardly_show_on_dark_paper_and_do_on_white() -> None:
    work = coloured(("toad", 20, 20))
    assert "dark-paper" not in codes(judge(work))
    assert "dark-paper" in codes(judge(set_card(work, paper="#1f3a30")))
    assert "dark-paper" not in codes(judge(set_card(work, paper="#c3a27b")))  # kraft takes light layers


def test_a_marker_that_was_taken_out_is_told_with_the_nearest_there_is(markers: list[Marker]) -> None:
    work = coloured(("toad", 20, 20), ("newt", 60, 20))
    assert "marker-missing" not in codes(judge(work, supplies=markers))
    assert "marker-missing" not in codes(judge(work))  # nothing is known of what the maker has
    rest = [one for one in markers if one.name != "fern 3"]
    rest.append(Marker("leaf 3", "#50894d", family="leaf"))
    (one,) = [one for one in judge(work, supplies=rest) if one.code == "marker-missing"]
    assert one.title == "You have no fern 3"
    assert "leaf 3" in one.text
    assert set(one.pieces) == {"toad-1", "newt-2"}
    assert one.remedy is not None
    assert "marker-missing" not in codes(judge(apply_remedy(work, one.remedy), supplies=rest))


def test_areas_of_a_family_add_up_and_each_piece_is_named_once() -> None:
    """Two toads and a snail in fern, 15 mm square each: one family of 675 mm2; red on the newt is another of 225."""
    work = coloured(("toad", 20, 20), ("toad", 40, 20), ("snail", 60, 20), ("newt", 80, 20))
    work = colour_parts(work, {"newt-4"}, [(1,)], shades=RED)
    green, red = sorted(families_of(work), key=lambda one: -one.area_mm2)
    assert sorted(green.pieces) == ["snail-3", "toad-1", "toad-2"]
    assert green.area_mm2 == pytest.approx(3 * 15**2)
    assert (red.pieces, red.area_mm2) == (["newt-4"], pytest.approx(15**2))
    twice = set_regions(work, "toad", (Region(1, square(10)), Region(2, square(2))), ())
    twice = colour_parts(twice, {"toad-1"}, [(1,), (2,)], shades=FERN)
    both = next(one for one in families_of(twice) if "toad-1" in one.pieces)
    assert both.pieces.count("toad-1") == 1
