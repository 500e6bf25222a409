"""Forms of words: shadow copies, vellum, inks from top to bottom, a line in two strips, one base line, ends."""

import io

import numpy as np
import pytest
import shapely
from PIL import Image

from fair_thicket.assembly.planning import plan_side
from fair_thicket.edits import word_forms
from fair_thicket.edits.pieces import delete
from fair_thicket.engines import assemble
from fair_thicket.ink.lettering import CAPITAL, draw_words
from fair_thicket.ink.painting import paint
from fair_thicket.masks import plan_with_pins, rehearse
from fair_thicket.masks.problem_of_card import pose
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout, Impression, Panel, Piece, Strip
from fair_thicket.model.plan import SHEET, MaskPlan
from fair_thicket.model.stash import Kind, Stamp, Stash
from fair_thicket.shape.paper import footprint, local_area, strip_front, strip_tails
from fair_thicket.sheets.things import list_things
from making import PX_PER_MM, pictures_of, stamp

WORD = Stamp("hello", "hello", 40, 12, ((-20, -6), (20, -6), (20, 6), (-20, 6)), "images/hello.png", kind=Kind.DIE)
LINE = Stamp("line", "line", 60, 8, ((-30, -4), (30, -4), (30, 4), (-30, 4)), "images/line.png", kind=Kind.GREETING)


def card_of(*pieces: Piece, **card: object) -> Work:
    return Work(Card(pieces=pieces, **card), Stash((WORD, LINE, stamp("toad", 20.0))))  # type: ignore[arg-type]


CUT = Cutout("w", "hello", 60, 40, colour="#ffffff", layers=3)


def test_a_shadow_copy_lies_under_the_word_down_and_to_the_right_in_its_own_paper() -> None:
    work, key = word_forms.add_shadow(card_of(CUT), "w", "#3d4a75")
    shadow = work.card.find(key)
    assert [piece.id for piece in work.card.pieces] == [key, "w"]
    assert isinstance(shadow, Cutout)
    assert (shadow.x, shadow.y, shadow.colour, shadow.layers) == (61.5, 41.5, "#3d4a75", 1)
    seen = shapely.difference(footprint(shadow, work.stash), footprint(CUT, work.stash)).area
    assert seen == pytest.approx(40 * 12 - 38.5 * 10.5)
    start = {one.operation.key: one.start_min for one in assemble(work, {}).schedule.steps}
    assert start[f"glue {key}"] < start["glue w"]
    strip = Strip("s", 50, 10, 60, 80, words="for you", ink="#ffffff", powder=True)
    under, new = word_forms.add_shadow(card_of(strip), "s", "#3d4a75", off_mm=(1, 2))
    made = under.card.find(new)
    assert isinstance(made, Strip)
    assert (made.words, made.powder) == ("", False)


def test_what_bears_lines_or_lies_too_far_beside_is_no_shadow_copy() -> None:
    with pytest.raises(PaperError, match="a die cuts"):
        word_forms.add_shadow(card_of(Cutout("t", "toad", 60, 40)), "t", "#3d4a75")
    with pytest.raises(PaperError, match=r"0.3 to 5 mm"):
        word_forms.add_shadow(card_of(CUT), "w", "#3d4a75", off_mm=(9, 9))


def test_a_word_floats_on_vellum_between_its_blank_and_two_behind() -> None:
    """Front = the word and one blank; behind = two blanks: the vellum stands off, and no glue shows (raster)."""
    work, (vellum, blanks) = word_forms.float_on_vellum(card_of(CUT), "w")
    assert [piece.id for piece in work.card.pieces] == [blanks, vellum, "w"]
    front, back, sheet = (work.card.find(key) for key in ("w", blanks, vellum))
    assert isinstance(front, Cutout)
    assert isinstance(back, Cutout)
    assert isinstance(sheet, Panel)
    assert (front.layers, back.layers, sheet.translucent) == (2, 2, True)
    side = plan_side("front", work, MaskPlan())
    glue = {one.piece: one for one in side.glue.glues}
    opaque = footprint(front, work.stash)
    assert shapely.difference(glue[vellum].area, opaque).area == pytest.approx(0, abs=1e-6)
    assert glue[vellum].area.area > 100
    thin = work.card.masking.rates.paper_mm
    assert side.heights.find("w").top_mm == pytest.approx(5 * thin)
    start = {one.operation.key: one.start_min for one in assemble(work, {}).schedule.steps}
    assert start[f"glue {blanks}"] < start[f"glue {vellum}"] < start["glue w"]
    with pytest.raises(PaperError, match="can float"):
        word_forms.float_on_vellum(card_of(Cutout("t", "toad", 60, 40)), "t")


def test_a_stamp_is_inked_from_top_to_foot_and_prints_so() -> None:
    inks = ["#7fae6a", "#3f6f4a", "#1f3a30"]
    work = word_forms.ink_down(card_of(Impression("t", "toad", 60, 40)), "t", inks)
    picture = paint(work, pictures_of(work), dpi=300)
    column = round(50.3 * PX_PER_MM)
    found = ["#" + "".join(f"{level:02x}" for level in picture[round(y * PX_PER_MM), column]) for y in (32.5, 40, 47.5)]
    assert found == inks
    assert not rehearse(work, pictures_of(work), plan_with_pins(work)[0]).differences
    for wrong in ([inks[0]], inks * 3):
        with pytest.raises(PaperError, match="two to 6 inks"):
            word_forms.ink_down(card_of(Impression("t", "toad", 60, 40)), "t", wrong)
    with pytest.raises(PaperError, match="not stamped"):
        word_forms.ink_down(card_of(CUT), "w", inks)


def test_one_stamped_line_is_cut_into_two_strips_and_stamped_once() -> None:
    work = card_of(Cutout("l", "line", 60, 40, margin_mm=2.0))
    whole = local_area(work.card.find("l"), work.stash).area
    made, key = word_forms.cut_in_two(work, "l", 24.0)
    first, second = (local_area(made.card.find(one), made.stash) for one in ("l", key))
    assert first.area + second.area == pytest.approx(whole)
    assert first.bounds[2] - first.bounds[0] == pytest.approx(24.0)
    assert not footprint(made.card.find("l"), made.stash).intersects(footprint(made.card.find(key), made.stash))
    assert [one.image for one in pose(made, SHEET).stampings] == ["line"], "one print"
    images = [one for one in list_things(made) if one.what == "image"]
    assert len(images) == 1
    assert images[0].copies == 1
    assert images[0].area.area == pytest.approx(whole)
    assert "cut in parts" in images[0].note
    steps = assemble(made, {}).operations
    assert next(one.words for one in steps if one.kind == "stamp").startswith("Stamp 1 image ")
    assert {f"cut {key}", f"glue {key}", "cut l", "glue l"} <= {one.key for one in steps}
    assert not rehearse(made, pictures_of(made), plan_with_pins(made)[0]).differences
    left = delete(made, {"l"}).card.find(key)
    assert isinstance(left, Cutout)
    assert left.print_of == ""
    with pytest.raises(PaperError, match="left end"):
        word_forms.cut_in_two(work, "l", 0.2)
    with pytest.raises(PaperError, match="cut it out first"):
        word_forms.cut_in_two(card_of(CUT), "w", 10)


def stamp_of(words: str, mm: float) -> tuple[Stamp, bytes, float]:
    """A stamp of words drawn by the shipped typeface, with its base line as drawn: mm below the middle."""
    passing = draw_words(words, mm, 20)
    alpha = np.round((1 - passing) * 255).astype(np.uint8)
    rows = np.flatnonzero(alpha.any(axis=1))
    trimmed = alpha[rows[0] : rows[-1] + 1]
    size = round(mm / CAPITAL * 20)
    middle = passing.shape[0] / 2 - rows[0]  # of the capitals
    picture = Image.fromarray(np.dstack([np.zeros((*trimmed.shape, 3), np.uint8), trimmed]), "RGBA")
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    width, height = trimmed.shape[1] / 20, trimmed.shape[0] / 20
    ring = ((-width / 2, -height / 2), (width / 2, -height / 2), (width / 2, height / 2), (-width / 2, height / 2))
    base = (middle + size * CAPITAL / 2) / 20 - height / 2
    key = words.replace(" ", "-")
    return Stamp(key, words, width, height, ring, f"images/{key}.png", kind=Kind.GREETING), buffer.getvalue(), base


@pytest.mark.parametrize(
    "words", ["a little post for you", "happy birthday", "Thank you", "jolly, quiet evening", "moss"]
)
def test_the_base_line_of_drawn_words_is_found_whether_or_not_they_have_tails(words: str) -> None:
    made, png, base = stamp_of(words, 5.0)
    work = Work(Card(pieces=(Impression("w", made.id, 60, 40),)), Stash((made,)))
    found = word_forms.base_line_of(work, work.card.find("w"), {made.picture: png})
    assert found == pytest.approx(base, abs=0.25)


def test_several_stamps_share_a_base_line_with_a_strip() -> None:
    first, png, base = stamp_of("happy", 5.0)
    other, other_png, other_base = stamp_of("moss", 5.0)
    pieces = (
        Impression("a", first.id, 30, 40),
        Impression("b", other.id, 70, 44),
        Strip("s", 30, 10, 110, 50, words="post", words_mm=5.0),
    )
    work = Work(Card(pieces=pieces), Stash((first, other)))
    made = word_forms.align_words(work, ["a", "b", "s"], {first.picture: png, other.picture: other_png})
    lines = [made.card.find("a").y + base, made.card.find("b").y + other_base, made.card.find("s").y + 2.5]
    assert lines == pytest.approx([lines[0]] * 3, abs=0.4)
    assert made.card.find("a").y == 40
    with pytest.raises(PaperError, match="two or more"):
        word_forms.align_words(work, ["a"], {})
    tilted = Work(Card(pieces=(pieces[0], Impression("b", other.id, 70, 44, 3.0))), work.stash)
    with pytest.raises(PaperError, match="tilted"):
        word_forms.align_words(tilted, ["a", "b"], {})


def test_folded_ends_show_the_papers_back_and_a_tag_has_its_hole() -> None:
    strip = Strip("s", 50, 10, 60, 40, left="folded", right="tag", colour="#c0d0c0")
    work = card_of(strip)
    (tail,) = strip_tails(50, 10, "folded", "tag")
    assert tail.bounds[0] < -25
    front = strip_front(50, 10, "folded", "tag")
    (hole,) = front.interiors
    assert shapely.Polygon(hole).area == pytest.approx(np.pi * (10 / 6) ** 2, rel=0.02)
    corner = shapely.Point(24.5, -4.5)
    assert not front.contains(corner)
    picture = paint(work, pictures_of(work), dpi=300)

    def level(x: float, y: float) -> int:
        return int(picture[round((40 + y) * PX_PER_MM), round((60 + x) * PX_PER_MM), 0])

    assert level(0, 0) == 0xC0
    assert level(-22, 6.5) == pytest.approx(0xC0 * 0.82, abs=2), "the back is seen below the strip"
    assert level(20, 0) == 255, "through the hole"
    thing = next(one for one in list_things(work) if one.what == "strip")
    assert "fold" in thing.note
    assert "left end" in thing.note
