"""Edits of colours on small images of two halves."""

import msgspec
import pytest

from fair_thicket.edits import colouring as colours
from fair_thicket.edits.cutouts import swap_image
from fair_thicket.files.card_file import decode_card, encode_card
from fair_thicket.laid.soundness import check_work
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import ColouredPart, Region, Shade
from fair_thicket.model.errors import PaperError, UnsoundError
from making import work_of

DARK, MID, LIGHT = Shade("#2c5a33", "fern 4"), Shade("#4f8a4a", "fern 3"), Shade("#9cc08a", "fern 2")
LEFT = Region(1, ((-4.5, -4.5), (-0.3, -4.5), (-0.3, 4.5), (-4.5, 4.5)))
RIGHT = Region(2, ((0.3, -4.5), (4.5, -4.5), (4.5, 4.5), (0.3, 4.5)))


def blank() -> Work:
    """Two toads and a snail; the toad has two halves."""
    return colours.set_regions(
        work_of(("toad", 20, 20), ("toad", 50, 20), ("snail", 80, 20)), "toad", (LEFT, RIGHT), ()
    )


def colouring(work: Work, key: str) -> tuple[ColouredPart, ...]:
    return work.card.find(key).colouring


def test_parts_are_the_told_ones_and_every_other_region_for_itself() -> None:
    toad = blank().stash.find("toad")
    assert colours.parts_of(toad) == [(1,), (2,)]
    assert colours.parts_of(msgspec.structs.replace(toad, parts=((1, 2),))) == [(1, 2)]
    assert colours.part_at(toad, (-2, 0)) == (1,)
    assert colours.part_at(toad, (0, 0)) == ()


def test_a_part_is_coloured_and_keeps_what_is_not_said() -> None:
    work = colours.colour_parts(blank(), {"toad-1"}, [(1,)], shades=(DARK, MID))
    work = colours.colour_parts(work, {"toad-1"}, [(1,)], shadow_deg=30.0)
    assert colouring(work, "toad-1") == (ColouredPart((1,), (DARK, MID), 30.0),)
    assert colouring(work, "toad-2") == ()


def test_stays_white_is_a_colour_and_off_is_none() -> None:
    work = colours.colour_parts(blank(), {"toad-1"}, [(1,), (2,)], shades=())
    assert [part.shades for part in colouring(work, "toad-1")] == [(), ()]
    assert colouring(colours.uncolour(work, {"toad-1"}, [(1,)]), "toad-1") == (ColouredPart((2,)),)
    assert colouring(colours.uncolour(work, {"toad-1"}), "toad-1") == ()


def test_joined_parts_take_the_colours_of_the_first_on_every_copy_and_split_again_keep_them() -> None:
    work = colours.colour_parts(blank(), {"toad-1", "toad-2"}, [(1,)], shades=(DARK,))
    work = colours.colour_parts(work, {"toad-1"}, [(2,)], shades=(LIGHT,))
    joined = colours.join_parts(work, "toad", [(1,), (2,)])
    assert colouring(joined, "toad-1") == colouring(joined, "toad-2") == (ColouredPart((1, 2), (DARK,)),)
    split = colours.split_part(joined, "toad", (1, 2))
    assert colouring(split, "toad-1") == (ColouredPart((1,), (DARK,)), ColouredPart((2,), (DARK,)))
    check_work(split, work)
    with pytest.raises(PaperError, match="two or more"):
        colours.join_parts(work, "toad", [(1,)])
    with pytest.raises(PaperError, match="single region"):
        colours.split_part(work, "toad", (1,))


def test_a_region_is_parted_by_a_line_right_across() -> None:
    work = colours.cut_region(blank(), "toad", 1, ((-6, 0), (1, 0)))
    assert [region.id for region in work.stash.find("toad").regions] == [1, 3, 2]
    with pytest.raises(PaperError, match="right across"):
        colours.cut_region(blank(), "toad", 1, ((-3, 0), (-2, 0)))


def test_regions_that_go_take_their_colours_with_them_in_schemes_and_kept_layouts_too() -> None:
    work = colours.colour_parts(blank(), {"toad-1"}, [(1,), (2,)], shades=(DARK,))
    work = colours.keep_scheme(work, "toad-1", "night")
    work = colours.set_regions(work, "toad", (LEFT,), ())
    assert colouring(work, "toad-1") == (ColouredPart((1,), (DARK,)),)
    assert work.stash.find("toad").schemes[0].colouring == (ColouredPart((1,), (DARK,)),)
    check_work(work)


def test_schemes_are_kept_taken_and_named() -> None:
    work = colours.colour_parts(blank(), {"toad-1"}, [(1,)], shades=(DARK, MID))
    work = colours.keep_scheme(work, "toad-1", " night ")
    (scheme,) = work.stash.find("toad").schemes
    assert scheme.name == "night"
    assert colouring(colours.set_colouring(work, {"toad-2"}, scheme.colouring), "toad-2") == scheme.colouring
    for key, name in (("toad-1", " "), ("toad-2", "day")):
        with pytest.raises(PaperError, match="Colour the image first"):
            colours.keep_scheme(work, key, name)


def test_the_same_runs_go_to_other_parts() -> None:
    work = colours.colour_parts(blank(), {"toad-1"}, [(1,)], shades=(DARK,))
    with pytest.raises(PaperError, match="two or more"):
        colours.move_runs_on(work, "toad-1")
    work = colours.move_runs_on(colours.colour_parts(work, {"toad-1"}, [(2,)], shades=(LIGHT,)), "toad-1")
    assert [part.shades for part in colouring(work, "toad-1")] == [(LIGHT,), (DARK,)]


def test_another_marker_takes_the_place_of_one_everywhere() -> None:
    work = colours.colour_parts(blank(), {"toad-1", "toad-2"}, [(1,)], shades=(DARK, MID), undertone=MID, dots=MID)
    work = colours.replace_shade(work, MID, LIGHT)
    for key in ("toad-1", "toad-2"):
        assert colouring(work, key) == (ColouredPart((1,), (DARK, LIGHT), undertone=LIGHT, dots=LIGHT),)


def test_another_image_in_its_place_is_not_coloured() -> None:
    work = colours.colour_parts(blank(), {"toad-1"}, [(1,)], shades=(DARK,))
    assert colouring(swap_image(work, "toad-1", "snail"), "toad-1") == ()


def test_a_coloured_card_opens_equal() -> None:
    work = colours.set_light(colours.colour_parts(blank(), {"toad-1"}, [(1,)], shades=(DARK, MID)), "right")
    assert decode_card(encode_card(work), "card") == work


@pytest.mark.parametrize("parts", [(ColouredPart((9,)),), (ColouredPart((1,)), ColouredPart((2, 1)))])
def test_colours_of_regions_that_are_not_there_or_twice_are_refused(parts: tuple[ColouredPart, ...]) -> None:
    work = blank()
    pieces = tuple(
        msgspec.structs.replace(one, colouring=parts) if one.id == "toad-1" else one for one in work.card.pieces
    )
    with pytest.raises(UnsoundError, match="region"):
        check_work(msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces)))
