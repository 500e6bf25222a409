"""Every printed page can be read: no words over words, none beyond the margins, none too small or too large."""

import itertools
from pathlib import Path

import msgspec
import pypdfium2
import pytest

from fair_thicket import masks
from fair_thicket.demo import CARD_FILES
from fair_thicket.engines import sides_of
from fair_thicket.files.card_file import open_card
from fair_thicket.making import list_all_steps, print_card
from fair_thicket.model.units import Unit
from fair_thicket.printing.page import shorten, spread, width_of
from fair_thicket.printing.plan_pdf import Side
from fair_thicket.printing.reference_pdf import reference_pdf
from making import EVERY

MM = 25.4 / 72
MARGIN_MM, FOOT_MM, HEAD_MM = 9.0, 6.0, 12.0
SHARED_MM = 0.35
"""Boxes of words may share so much: a letter's box is higher than the letter."""
Box = tuple[float, float, float, float]


def boxes_of(page: pypdfium2.PdfPage) -> list[tuple[str, Box]]:
    """Each run of words of a page, and its box from the page's left and foot, mm."""
    words = page.get_textpage()
    rects = [words.get_rect(index) for index in range(words.count_rects())]
    return [(words.get_text_bounded(*rect), tuple(side * MM for side in rect)) for rect in rects]


def share(one: Box, other: Box) -> float:
    """How far two boxes reach into each other, mm: the lesser of both ways; 0 where they are apart."""
    across = min(one[2], other[2]) - max(one[0], other[0])
    down = min(one[3], other[3]) - max(one[1], other[1])
    return max(0.0, min(across, down))


@pytest.mark.parametrize("file", CARD_FILES[:: 1 if EVERY == 1 else 2], ids=lambda file: file.stem)
def test_every_page_of_a_card_can_be_read(file: Path) -> None:
    whole, pictures = open_card(file)
    sides = []
    for name, work in sides_of(whole):
        plan = masks.plan_with_pins(work)[0]
        sides.append(Side(name, work, plan, list_all_steps(work, plan)))
    document = pypdfium2.PdfDocument(print_card(sides, pictures))
    assert len(document) > 8
    for number, page in enumerate(document, 1):
        wide, high = (side * MM for side in page.get_size())
        found = boxes_of(page)
        assert found
        for words, (left, foot, right, top) in found:
            told = f"page {number}: {words!r}"
            assert left >= MARGIN_MM, told
            assert right <= wide - MARGIN_MM, told
            assert foot >= FOOT_MM, told
            assert top <= high - HEAD_MM + 1.5, told
            assert 0.9 < top - foot < 7.0, told
        for (first, one), (second, other) in itertools.combinations(found, 2):
            assert share(one, other) <= SHARED_MM, f"page {number}: {first!r} over {second!r}"
        for drawn in page.get_objects():
            left, foot, right, top = (side * MM for side in drawn.get_bounds())
            assert left > -1 and foot > -1 and right < wide + 1 and top < high + 1, f"page {number}: off the page"  # noqa: PT018


def test_marks_wanted_at_one_place_lie_beside_each_other_and_the_first_where_it_was_wanted() -> None:
    placed = spread([(10.0, 10.0)] * 9 + [(40.0, 10.0)], 5.0)
    assert placed[0] == (10.0, 10.0)
    assert placed[-1] == (40.0, 10.0)
    apart = [((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5 for a, b in itertools.combinations(placed, 2)]
    assert min(apart) >= 5.0
    assert max(abs(x - 10) + abs(y - 10) for x, y in placed[:9]) <= 15.0


def test_words_are_shortened_to_the_room_there_is_and_what_is_left_out_is_marked() -> None:
    whole = "strip a little post for you"
    assert shorten(whole, 100.0, 9) == whole
    for wide in (10.0, 15.0, 25.0):
        short = shorten(whole, wide, 9)
        assert short.endswith("…")
        assert width_of(short, 9) <= wide
        assert width_of(f"{whole[: len(short) + 1]}…", 9) > wide  # two letters more do not fit


@pytest.mark.parametrize(
    ("unit", "apart_mm", "numbers"), [(Unit.INCH, 25.4, range(6)), (Unit.MM, 10.0, range(0, 140, 10))]
)
def test_rulers_are_numbered_at_their_ticks_in_the_makers_unit(unit: Unit, apart_mm: float, numbers: range) -> None:
    """Along the upper edge of the card: a number above each whole inch, or above each centimetre."""
    whole, pictures = open_card(CARD_FILES[0])
    card = msgspec.structs.replace(whole.card, unit=unit, inside=())
    work = msgspec.structs.replace(whole, card=card)
    plan = masks.plan_with_pins(work)[0]
    side = Side("front", work, plan, list_all_steps(work, plan))
    page = pypdfium2.PdfDocument(print_card([side], pictures, paper="letter"))[0]
    left = (page.get_size()[0] * MM - work.card.panel[0]) / 2
    top = page.get_size()[1] * MM - 36.0
    above = [(words, box) for words, box in boxes_of(page) if top < box[1] < top + 8]
    found = {}
    for words, box in above:
        marks = words.split()
        if len(marks) == 1:
            found[marks[0]] = (box[0] + box[2]) / 2 - left
    assert {str(number) for number in numbers} >= found.keys()
    assert len(found) >= 4
    for mark, at in found.items():
        assert at == pytest.approx(int(mark) * (apart_mm if unit is Unit.INCH else 1.0), abs=0.6), mark


def test_the_reference_card_is_named_in_its_middle() -> None:
    page = pypdfium2.PdfDocument(reference_pdf("letter"))[0]
    found = {words.strip(): box for words, box in boxes_of(page)}
    for words in ("Fair Thicket", "90 × 60 mm"):
        left, foot, right, _ = found[words]
        assert (left + right) / 2 == pytest.approx(page.get_size()[0] * MM / 2, abs=0.6)
        assert page.get_size()[1] * MM - foot == pytest.approx(50 + 30, abs=7)
