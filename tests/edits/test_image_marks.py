"""Marks for colouring: folds, rounding, touches, lamps; a new reading keeps them."""

import msgspec
import pytest

from fair_thicket.colour.reading import read_regions
from fair_thicket.edits import colouring as colours
from fair_thicket.edits import image_marks
from fair_thicket.files.card_file import decode_card, encode_card
from fair_thicket.laid.soundness import check_work
from fair_thicket.model.bounds import MOST_FOLDS
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import Region, Shade
from fair_thicket.model.errors import PaperError, UnsoundError
from making import framed_png, square, stamp, work_of


def blank() -> Work:
    work = work_of(("toad", 20, 20), stamps=(stamp("toad", 12.0),))
    return colours.set_regions(work, "toad", (Region(3, square(10.6)),), ())


def marked() -> Work:
    work = image_marks.add_fold(blank(), "toad", ((-3.0, 0.0), (3.0, 0.0)))
    work = image_marks.set_rounding(work, "toad", [3], "round")
    for at in ((-3.0, 2.0), (3.0, 2.0)):
        work = image_marks.add_touch(work, "toad", "cheek", at)
    return image_marks.add_touch(work, "toad", "eye", (0.0, -3.0))


def test_touches_of_a_kind_are_one_part_and_come_last_in_their_order() -> None:
    work = image_marks.add_touch(marked(), "toad", "white dot", (0.3, -3.3))
    toad = work.stash.find("toad")
    assert colours.parts_of(toad) == [(3,), (4, 5), (6,), (7,)]
    assert colours.closed_parts(toad) == [(3,)]
    assert colours.part_at(toad, (3.0, 2.0)) == (4, 5)
    assert colours.part_at(toad, (0.0, 4.0)) == (3,)
    check_work(work)
    assert decode_card(encode_card(work), "card") == work


def test_a_new_reading_keeps_ids_folds_rounding_and_touches() -> None:
    toad = marked().stash.find("toad")
    regions, parts = read_regions(toad, framed_png(12.0, 12.0))
    assert [(one.id, one.kind, one.rounding, len(one.folds)) for one in regions] == [
        (3, "closed", "round", 1), (4, "cheek", "plain", 0), (5, "cheek", "plain", 0), (6, "eye", "plain", 0),
    ]  # fmt: skip
    assert parts == ((3,), (4, 5), (6,))


def test_touches_are_taken_away_with_their_colours_and_closed_regions_are_not() -> None:
    work = colours.colour_parts(marked(), {"toad-1"}, [(4, 5)], shades=(Shade("#e58e88"),))
    after = image_marks.drop_touches(work, "toad", [4, 5, 3])
    assert [one.id for one in after.stash.find("toad").regions] == [3, 6]
    assert after.card.find("toad-1").colouring == ()
    check_work(after)
    with pytest.raises(PaperError, match="Choose cheeks"):
        image_marks.drop_touches(work, "toad", [3])


def test_marks_beside_the_image_are_refused_and_so_are_too_many() -> None:
    with pytest.raises(PaperError, match="Click on the image"):
        image_marks.add_touch(blank(), "toad", "cheek", (40.0, 0.0))
    with pytest.raises(PaperError, match="lies in no region"):
        image_marks.add_fold(blank(), "toad", ((30.0, 0.0), (40.0, 0.0)))
    work = blank()
    for _ in range(MOST_FOLDS):
        work = image_marks.add_fold(work, "toad", ((-3.0, 0.0), (3.0, 0.0)))
    with pytest.raises(PaperError, match="at most"):
        image_marks.add_fold(work, "toad", ((-3.0, 0.0), (3.0, 0.0)))
    assert image_marks.clear_folds(work, "toad", [3]).stash.find("toad").regions[0].folds == ()


def test_touches_are_joined_to_nothing_and_take_no_part_in_runs_that_change_places() -> None:
    work = colours.colour_parts(marked(), {"toad-1"}, [(3,), (4, 5)], shades=(Shade("#e58e88"),))
    with pytest.raises(PaperError, match="stay parts of their own"):
        colours.join_parts(work, "toad", [(3,), (4, 5)])
    with pytest.raises(PaperError, match="two or more"):
        colours.move_runs_on(work, "toad-1")


def test_a_lamp_reaches_no_farther_than_a_card_file_may_say() -> None:
    work = image_marks.set_lamp(blank(), {"toad-1"}, 60.0)
    assert work.card.find("toad-1").lamp_mm == 60.0
    check_work(work)
    with pytest.raises(UnsoundError, match="reach of a lamp"):
        check_work(image_marks.set_lamp(blank(), {"toad-1"}, 999.0))


def test_a_region_that_is_parted_keeps_its_marks_on_both_pieces() -> None:
    work = colours.cut_region(marked(), "toad", 3, ((-20.0, 1.0), (20.0, 1.0)))
    closed = [one for one in work.stash.find("toad").regions if not one.is_touch]
    assert [(one.rounding, len(one.folds)) for one in closed] == [("round", 1)] * 2
    assert len({one.id for one in work.stash.find("toad").regions}) == 5


def test_an_image_takes_over_what_is_known_of_it_elsewhere() -> None:
    known = colours.keep_scheme(
        colours.colour_parts(marked(), {"toad-1"}, [(3,)], shades=(Shade("#4f8a4a", "fern 3"),)), "toad-1", "summer"
    ).stash.find("toad")
    bare = work_of(("toad", 20, 20), stamps=(stamp("toad", 12.0),))
    after = colours.take_regions(bare, "toad", known).stash.find("toad")
    assert msgspec.structs.replace(after, regions=known.regions) == known
