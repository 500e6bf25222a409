"""Cheeks, eyes, whites; line inks under media, coats on papers, alcohol over water: cards made to have each fault."""

import msgspec
import pytest

from fair_thicket.advice import advise
from fair_thicket.colour.judging import judge
from fair_thicket.colour.last_judges import tone_under
from fair_thicket.colour.listing import list_colouring, list_parts, say_line, say_spares
from fair_thicket.colour.runs import lay_on
from fair_thicket.colour.whites_and_cheeks import GLAZE, WHITE_PEN, cheek_on, find_cheek, find_pale_run
from fair_thicket.edits.colouring import colour_parts, set_regions
from fair_thicket.edits.image_marks import add_touch
from fair_thicket.edits.images import coloured_images, paper_under
from fair_thicket.edits.pieces import apply_remedy, set_card
from fair_thicket.engines import ENGINES, Known
from fair_thicket.model.card import Card, Work
from fair_thicket.model.colouring import Region, Shade
from fair_thicket.model.finding import Finding
from fair_thicket.model.pieces import Cutout, Form, Impression, Panel
from fair_thicket.model.stash import Stash, Zone
from fair_thicket.model.supplies import Ink, LineInk, Marker, Medium, Paper, Supply
from making import square, stamp, work_of

FERN = tuple(Shade(c, f"fern {n}") for c, n in (("#2c5a33", 4), ("#4f8a4a", 3), ("#9cc08a", 2)))
PINK, DEEP = Marker("blush", "#f4b8b4"), Marker("rose", "#c04a58")
ROSE = Marker("rose pencil", "#e58e88", medium="pencil")
SAND, WARM, COOL = Marker("sand 1", "#ece4d6"), Marker("warm 1", "#e2dcd2"), Marker("cool 1", "#dde3ea")
TWO_HALVES = (
    Region(1, ((-7.0, -7.0), (-0.3, -7.0), (-0.3, 7.0), (-7.0, 7.0))),
    Region(2, ((0.3, -7.0), (7.0, -7.0), (7.0, 7.0), (0.3, 7.0))),
)


def toad(shades: tuple[Shade, ...] = FERN, *, paper: str = "#ffffff", ink: str | None = None) -> Work:
    """A toad with a face and two halves, the left one coloured, the right one white on purpose."""
    own = stamp("toad", 16.0)
    own = msgspec.structs.replace(own, marks=msgspec.structs.replace(own.marks, zones=(Zone("face", square(4.0)),)))
    work = set_card(work_of(("toad", 40, 40), stamps=(own,)), paper=paper)
    work = set_regions(work, "toad", TWO_HALVES, ())
    work = colour_parts(work, {"toad-1"}, [(2,)], shades=())
    piece = work.card.find("toad-1")
    assert isinstance(piece, Impression)
    work = set_card(work, pieces=(msgspec.structs.replace(piece, ink=ink),))
    return colour_parts(work, {"toad-1"}, [(1,)], shades=shades)


def told(work: Work, code: str, *supplies: Supply) -> list[Finding]:
    return [one for one in judge(work, supplies=supplies) if one.code == code]


def settled(work: Work, code: str, *supplies: Supply) -> Work:
    """Do what the one finding of a code offers; it is gone then."""
    (one,) = told(work, code, *supplies)
    assert one.remedy is not None
    after = apply_remedy(work, one.remedy)
    assert told(after, code, *supplies) == []
    return after


def test_touches_that_are_marked_are_asked_for_until_they_are_put_on() -> None:
    work = add_touch(toad(), "toad", "cheek", (-4, 3))
    work = add_touch(work, "toad", "eye", (-3, -3))
    work = add_touch(work, "toad", "white dot", (-2.6, -3.4))
    (one,) = told(work, "touch-forgotten", PINK, ROSE)
    assert one.title == "The cheeks and eyes and white dots of the toad are not on the list"
    after = settled(work, "touch-forgotten", PINK, ROSE)
    on = {part.regions: part.shades for part in after.card.find("toad-1").colouring}
    assert on[(3,)] == (Shade("#e58e88", "rose pencil", "pencil"),)
    assert (on[(4,)], on[(5,)]) == ((GLAZE,), (WHITE_PEN,))
    assert told(work, "part-forgotten") == []


def test_the_list_puts_a_cheek_after_its_fur_and_glaze_and_white_dots_last() -> None:
    work = add_touch(toad(), "toad", "cheek", (-4, 3))
    work = add_touch(work, "toad", "white dot", (-2.6, -3.4))
    work = add_touch(work, "toad", "eye", (-3, -3))
    work = colour_parts(work, {"toad-1"}, [(3,)], shades=(Shade("#2c5a33", "fern 4"),))
    work = colour_parts(work, {"toad-1"}, [(4,)], shades=(WHITE_PEN,))
    work = colour_parts(work, {"toad-1"}, [(5,)], shades=(GLAZE,))
    found = list_colouring(work)
    assert [say_line(work, line) for line in found.lines] == [
        "fern 4: toad", "fern 3: toad", "fern 2: toad", "fern 4: cheeks of the toad",
        "black glaze: eyes of the toad", "white pen: white dots of the toad",
    ]  # fmt: skip
    assert found.is_least
    ((image, parts),) = list_parts(work)
    assert image.key == "toad-1"
    assert [(one.number, one.words) for one in parts] == [
        (1, "fern 4, fern 3, fern 2"), (2, "stays white"), (3, "cheeks: fern 4"), (4, "eyes: black glaze"),
        (5, "white dots: white pen"),
    ]  # fmt: skip


def test_cheeks_that_are_not_seen_are_told_with_a_pink_that_is() -> None:
    dark = (Shade("#6b4a30", "bark 3"), Shade("#8a6a4a", "bark 2"))
    work = add_touch(toad(dark), "toad", "cheek", (-4, 3))
    work = colour_parts(work, {"toad-1"}, [(3,)], shades=(Shade("#f8ebe8", "pale"),))
    after = settled(work, "cheeks-unseen", PINK, DEEP, ROSE)
    assert after.card.find("toad-1").colouring[-1].shades == (Shade("#e58e88", "rose pencil", "pencil"),)
    (one,) = told(work, "cheeks-unseen", COOL)
    assert one.remedy is None


def test_a_cheek_is_one_step_darker_on_dark_fur() -> None:
    """On pale fur the palest pink will do, on dark fur a deeper one (common practice)."""
    pale, dark = find_cheek([DEEP, PINK], "#f6efdd"), find_cheek([DEEP, PINK], "#b5602f")
    assert (pale.name if pale else "", dark.name if dark else "") == ("blush", "rose")
    assert dark is not None
    assert cheek_on("#b5602f", dark) > cheek_on("#b5602f", Shade(PINK.colour))


def test_white_of_a_creature_is_not_left_blank_where_there_is_pale_grey_or_sand() -> None:
    after = settled(toad(), "white-blank", SAND, WARM, COOL)
    shades = next(part.shades for part in after.card.find("toad-1").colouring if 2 in part.regions)
    assert {shade.name for shade in shades} == {"sand 1", "warm 1"}
    assert told(toad(paper="#c3a27b"), "white-blank", SAND) == []
    plain = toad()
    faceless = msgspec.structs.replace(plain.stash.find("toad"), marks=plain.stash.find("toad").marks.__class__())
    other = msgspec.structs.replace(plain, stash=msgspec.structs.replace(plain.stash, stamps=(faceless,)))
    assert told(other, "white-blank", SAND) == []


def test_cool_greys_sit_with_blues() -> None:
    """Warm greys sit with browns and greens, cool ones with blues (common practice)."""
    box = [SAND, WARM, COOL]
    assert [shade.name for shade in find_pale_run(box, is_warm=False)] == ["cool 1"]
    assert find_pale_run([Marker("fern 3", "#4f8a4a")], is_warm=True) == ()


@pytest.mark.parametrize(
    ("lines", "medium", "runs"),
    [
        ("marker-proof", "alcohol", False), ("marker-proof", "water", True), ("waterproof", "alcohol", True),
        ("waterproof", "water", False), ("pigment", "alcohol", False), ("pigment", "water", False),
        ("no line", "alcohol", False), ("", "alcohol", False), ("waterproof", "pencil", False),
    ],
)  # fmt: skip
def test_line_ink_goes_under_what_it_bears(lines: LineInk, medium: Medium, runs: bool) -> None:
    """The table of inks and media (common practice)."""
    shades = tuple(Shade(shade.colour, shade.name, medium) for shade in FERN)
    own = Ink("beetle", "#1f2421", lines=lines)
    assert bool(told(toad(shades, ink="#1f2421"), "lines-run", own)) is runs


def test_another_ink_of_the_makers_own_is_offered_for_lines_that_run() -> None:
    work = toad(ink="#1f2421")
    wet, proof, blue = (
        Ink("wet", "#1f2421", lines="waterproof"),
        Ink("proof", "#202020", lines="marker-proof"),
        Ink("blue", "#2c6e9f", lines="marker-proof"),
    )
    after = settled(work, "lines-run", wet, blue, proof)
    assert after.card.find("toad-1").ink == "#202020"
    (one,) = told(work, "lines-run", wet)
    assert one.remedy is None


def test_uncoated_paper_takes_two_coats() -> None:
    kraft = Paper("kraft", "#c3a27b", surface="uncoated")
    after = settled(toad(paper="#c3a27b"), "many-coats", kraft)
    assert [len(part.shades) for part in after.card.find("toad-1").colouring] == [2, 0]
    assert told(toad(paper="#c3a27b"), "many-coats") != []
    smooth = Paper("kraft", "#c3a27b", surface="smooth")
    assert told(toad(paper="#c3a27b"), "many-coats", smooth) == []
    pencils = tuple(Shade(shade.colour, shade.name, "pencil") for shade in FERN)
    assert told(toad(pencils, paper="#c3a27b"), "many-coats", kraft) == []


def test_water_colour_wants_its_own_paper() -> None:
    wet = tuple(Shade(shade.colour, shade.name, "water") for shade in FERN)
    assert told(toad(wet), "water-paper", Paper("white", "#ffffff", surface="smooth")) != []
    assert told(toad(wet), "water-paper", Paper("white", "#ffffff", surface="water colour")) == []
    assert told(toad(wet), "water-paper", Paper("white", "#ffffff")) == []


def test_alcohol_over_water_is_told_and_water_over_alcohol_is_not() -> None:
    wet = Shade("#f4d0c0", "wash", "water")
    under = colour_parts(toad(), {"toad-1"}, [(1,)], undertone=wet)
    after = settled(under, "water-first")
    assert after.card.find("toad-1").colouring[0].undertone is None
    over = colour_parts(toad(), {"toad-1"}, [(1,)], dots=wet)
    assert told(over, "water-first") == []


def test_all_that_is_offered_holds_on_the_card(markers: list[Marker]) -> None:
    work = add_touch(toad(paper="#c3a27b", ink="#1f2421"), "toad", "cheek", (-4, 3))
    supplies = [*markers, Ink("wet", "#1f2421", lines="waterproof"), Ink("proof", "#202020", lines="marker-proof")]
    only = [engine for engine in ENGINES if engine.key == "colour"]
    offered = {one.code: one.remedy for one in advise(work, Known(supplies=supplies), engines=only)}
    for code in ("lines-run", "many-coats", "touch-forgotten"):
        assert offered[code] is not None, code


def test_a_spare_is_asked_for_what_has_many_parts() -> None:
    assert say_spares(toad()) == ""
    rows = tuple(Region(n, ((-7.0, n - 0.4), (7.0, n - 0.4), (7.0, n + 0.4), (-7.0, n + 0.4))) for n in range(1, 13))
    work = set_regions(work_of(("fern", 40, 40), stamps=(stamp("fern", 40.0),)), "fern", rows, ())
    work = colour_parts(work, {"fern-1"}, [(1,)], shades=FERN)
    assert say_spares(work) == "Stamp a spare of what is hard, the first may fail: fern (12 parts)."


def test_a_cap_that_promises_another_colour_is_told_once() -> None:
    lying = Marker("fern 3", "#4f8a4a", cap="#4a5f96")
    (one,) = told(toad(), "cap-lies", lying)
    assert one.measure > 12
    assert told(toad(), "cap-lies", Marker("fern 3", "#4f8a4a", cap="#4f8a4b")) == []
    assert told(toad(paper="#c3a27b"), "cap-lies", Marker("fern 2", "#9cc08a", cap="#9cc08a")) != []


def test_two_families_on_a_large_part_are_told_and_on_a_small_one_not() -> None:
    mixed = (Shade("#2c5a33", "fern 4"), Shade("#d8604f", "toadstool 2"))
    large = set_regions(work_of(("toad", 40, 40), stamps=(stamp("toad", 16.0),)), "toad", (Region(1, square(14)),), ())
    small = set_regions(work_of(("toad", 40, 40), stamps=(stamp("toad", 16.0),)), "toad", (Region(1, square(6)),), ())
    assert told(colour_parts(large, {"toad-1"}, [(1,)], shades=mixed), "two-families") != []
    assert told(colour_parts(small, {"toad-1"}, [(1,)], shades=mixed), "two-families") == []
    assert told(colour_parts(large, {"toad-1"}, [(1,)], shades=FERN), "two-families") == []


def test_a_touch_lies_on_the_middle_shade_of_the_part_under_it_and_not_of_another() -> None:
    """The left half is fern, the right half toadstool; a cheek on either has that one's middle shade under it."""
    red = tuple(Shade(c) for c in ("#9c2f33", "#d8604f", "#f2b3a6"))
    work = colour_parts(toad(), {"toad-1"}, [(2,)], shades=red)
    work = add_touch(add_touch(work, "toad", "cheek", (-4.0, 3.0)), "toad", "eye", (4.0, 3.0))
    (image,) = coloured_images(work)
    left, right = (one.id for one in work.stash.find("toad").regions if one.is_touch)
    assert tone_under(work, image, (left,)) == lay_on(["#4f8a4a"], "#ffffff")[0]
    assert tone_under(work, image, (right,)) == lay_on(["#d8604f"], "#ffffff")[0]
    blank = colour_parts(work, {"toad-1"}, [(2,)], shades=())
    (image,) = coloured_images(blank)
    assert tone_under(blank, image, (right,)) == "#ffffff"


def test_the_paper_under_an_image_is_that_of_what_it_lies_on() -> None:
    """On the card its paper, on a panel the panel's, on one without colour white; a cut image has its own."""
    ground = Panel("p", Form("rectangle", 60, 60), 60, 50, colour="#e0c090")
    bare = Panel("q", Form("rectangle", 60, 60), 60, 50)
    on = [Impression(f"toad-{n}", "toad", 60, 50, on=key) for n, key in enumerate(("", "p", "q"))]
    cuts = [Cutout("c", "toad", 60, 50, margin_mm=0.0, colour="#c0d0e0"), Cutout("d", "toad", 60, 50, margin_mm=0.0)]
    work = Work(Card(pieces=(ground, bare, *on, *cuts), paper="#fff4e0"), Stash((stamp("toad", 16.0),)))
    work = set_regions(work, "toad", TWO_HALVES, ())
    work = colour_parts(work, {piece.id for piece in (*on, *cuts)}, [(1,)], shades=FERN)
    papers = {image.piece.id: paper_under(work.card, image) for image in coloured_images(work)}
    assert papers == {
        "toad-0": "#fff4e0", "toad-1": "#e0c090", "toad-2": "#ffffff", "c": "#c0d0e0", "d": "#ffffff",
    }  # fmt: skip
