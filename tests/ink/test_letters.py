"""Words letter by letter: counted, measured on the rehearsed card, told where some are lost or hard to read."""

import io

import msgspec
import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image

from fair_thicket import masks
from fair_thicket.advice import advise
from fair_thicket.edits.pieces import apply_remedy
from fair_thicket.edits.word_forms import cut_in_two
from fair_thicket.engines import Known
from fair_thicket.ink.contrast import contrast
from fair_thicket.ink.lettering import draw_words, words_width
from fair_thicket.ink.letters import Letter, measure_letters, part_letters
from fair_thicket.ink.painting import paint
from fair_thicket.masks import plan, plan_with_pins, rehearse, word_judges
from fair_thicket.model.card import Card, Work
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import Blend, Cutout, Form, Impression, Panel, Strip
from fair_thicket.model.stash import Kind, Stamp, Stash
from making import PX_PER_MM


@pytest.mark.parametrize(
    ("words", "count"),
    [("moss", 4), ("a little post for you", 17), ("jiji", 4), ("Thank you!", 9), ("l", 1), ("pig\nbid", 6)],
)
def test_letters_are_counted_with_their_dots(words: str, count: int) -> None:
    assert len(part_letters(draw_words(words, 6.0, 20))) == count


def told_of(work: Work) -> dict[str, Finding]:
    plan = plan_with_pins(work)[0]
    done = rehearse(work, {}, plan)
    return {one.code: one for one in masks.judge(work, plan, done, (), {})}


def test_each_letter_has_the_contrast_of_its_ink_against_its_ground() -> None:
    """The left half of the strip lies on pine, seen through no paper: strips are opaque, so ink on the strip alone."""
    strip = Strip("s", 80, 14, 69.85, 54, 4.0, words="moss and fern", words_mm=7, ink="#1f3a30", colour="#e9d9a8")
    work = Work(Card(pieces=(strip,)))
    letters = measure_letters(strip, work.stash, {}, paint(work, {}, dpi=300), PX_PER_MM)
    assert len(letters) == 11
    wanted = contrast("#1f3a30", "#e9d9a8")
    assert [one.contrast for one in letters] == pytest.approx([wanted] * 11, rel=0.05)
    assert all(one.there == 1.0 for one in letters)


def test_words_half_on_dusk_and_half_on_white_are_told_by_their_letters() -> None:
    """Translucent paper over a wash that ends under the words: dark words are read on one half only."""
    wash = Blend(id="dusk", form=Form("rectangle", 60, 60), x=40, y=54, colour="#20294a")
    strip = Strip("s", 110, 14, 69.85, 54, words="moss and fern", words_mm=7, ink="#59625c", translucent=True)
    told = told_of(Work(Card(pieces=(wash, strip))))
    found = told["letters"]
    assert found.weight is Weight.CAUTION
    assert 1 < found.measure < 3
    assert found.title.endswith("of 11 letters are hard to read")
    hard = int(found.title.split()[0])
    assert 3 <= hard <= 8
    assert all(max(x for x, _ in ring) < 75 for ring in found.places)


def test_a_strip_longer_than_the_card_loses_letters_and_what_is_offered_loses_none() -> None:
    """149.9 mm of words on 139.7 mm of card: a trouble with two remedies, each tried, none of which cuts a letter."""
    words = "congratulations to you both and all the best"
    mm = 5.0 * 149.9 / words_width(words, 5.0)
    strip = Strip("s", 149.9, 12, 69.85, 30, words=words, words_mm=mm)
    work = Work(Card(pieces=(strip,)))
    told = told_of(work)
    assert told["letters-lost"].weight is Weight.TROUBLE
    assert "letters are lost" in told["letters-lost"].title
    (lost,) = [one for one in advise(work, Known(pictures={})) if one.code == "words"]
    assert lost.weight is Weight.TROUBLE
    offered = [one for one in (lost.remedy, *lost.more) if one is not None]
    assert [one.words for one in offered] == ["Break it into two lines", "Make its letters 5 mm high"]
    for one in offered:
        after = apply_remedy(work, one)
        assert not told_of(after).keys() & {"letters", "letters-lost"}
        assert not [found for found in advise(after, Known(pictures={})) if found.code == "words"]
        (made,) = [piece for piece in after.card.pieces if isinstance(piece, Strip)]
        assert made.words.replace("\n", " ") == words


def test_letters_behind_strands_are_counted() -> None:
    strip = Strip("s", 110, 14, 69.85, 54, words="moss and fern", words_mm=7)
    strands = [Panel(f"p-{n}", Form("rectangle", 9, 60), x, 54, colour="#3f6f4a") for n, x in enumerate((45, 80))]
    told = told_of(Work(Card(pieces=(strip, *strands))))
    lost = told["letters-lost"]
    assert 1 <= int(lost.title.split()[0]) <= 4
    assert lost.pieces == ("s",)
    assert not told_of(Work(Card(pieces=(strip,)), Stash())).keys() & {"letters", "letters-lost"}


def test_what_is_cut_away_or_not_inked_is_no_letter_lost_and_figures_have_none() -> None:
    """One print in two strips: each half has its own letters. A stamp inked in part prints only those."""
    passing = draw_words("moss fern", 7.0, 20)
    width, height = passing.shape[1] / 20, passing.shape[0] / 20
    ring = ((-width / 2, -height / 2), (width / 2, -height / 2), (width / 2, height / 2), (-width / 2, height / 2))
    words = Stamp("words", "words", width, height, ring, "images/words.png", kind=Kind.GREETING)
    pictures = {"images/words.png": png_of(passing)}
    line = Cutout("l", "words", 60, 40, margin_mm=1.0)
    whole = Work(Card(pieces=(line,)), Stash((words,)))
    gap = (words_width("moss", 7.0) + words_width("moss ", 7.0)) / 2
    two, key = cut_in_two(whole, "l", gap + 1.0)  # its margin is 1 mm
    end = gap - width / 2
    half = ((-width, -height), (end, -height), (end, height), (-width, height))
    left = Impression("i", "words", 60, 40, inked=half)
    for work, counts in (
        (whole, {"l": 8}),
        (two, {"l": 4, key: 4}),
        (Work(Card(pieces=(left,)), Stash((words,))), {"i": 4}),
    ):
        plan = plan_with_pins(work)[0]
        done = rehearse(work, pictures, plan)
        for one, count in counts.items():
            found = measure_letters(work.card.find(one), work.stash, pictures, done.papers[-1], PX_PER_MM)
            assert len(found) == count
        assert not {one.code for one in masks.judge(work, plan, done, (), pictures)} & {"letters", "letters-lost"}
    figure = msgspec.structs.replace(words, kind=Kind.STAMP)
    assert measure_letters(line, Stash((figure,)), pictures, done.papers[-1], PX_PER_MM) == []


def png_of(passing: NDArray[np.float32]) -> bytes:
    """Words as a stamp's picture: black on transparent paper."""
    alpha = np.round((1 - passing) * 255).astype(np.uint8)
    buffer = io.BytesIO()
    Image.fromarray(np.dstack([np.zeros((*alpha.shape, 3), np.uint8), alpha]), "RGBA").save(buffer, "PNG")
    return buffer.getvalue()


def test_boxes_round_letters_are_told_in_millimetres_and_those_of_no_size_are_left_out() -> None:
    letters = [Letter(1.0, 1.0, (slice(0, 300), slice(150, 450))), Letter(1.0, 0.0, (slice(0, 9), slice(4, 4))),
               Letter(1.0, 0.0, (slice(7, 7), slice(0, 9)))]  # fmt: skip
    (ring,) = word_judges._rings(letters)
    assert np.array(ring) == pytest.approx(np.array(((12.7, 0.0), (38.1, 0.0), (38.1, 25.4), (12.7, 25.4))))


def test_one_letter_that_is_hard_to_read_among_others_is_told_and_all_of_them_are_not(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """Where all are as hard, the words' own contrast is told elsewhere."""
    work = Work(Card(pieces=(Strip("s", 80, 14, 69.85, 54, words="moss", words_mm=7),)))
    window = (slice(0, 5), slice(0, 5))
    done = rehearse(work, {}, plan(work))

    def told(hard: int) -> list[str]:
        letters = [Letter(2.0 if n < hard else 9.0, 1.0, window) for n in range(4)]
        monkeypatch.setattr(word_judges, "measure_letters", lambda *_: letters)
        return [one.title for one in word_judges.judge_letters(work, done, {})]

    assert told(0) == []
    assert told(1) == ["1 of 4 letters are hard to read"]
    assert told(3) == ["3 of 4 letters are hard to read"]
    assert told(4) == []
