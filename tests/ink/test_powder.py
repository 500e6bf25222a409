"""Powder: it covers in every picture, comes when inks are dry, is pressed twice, heated with its caution."""

import numpy as np
import pytest

from fair_thicket import masks
from fair_thicket.edits.ink_edits import set_powder
from fair_thicket.engines import assemble
from fair_thicket.estimate.minutes import presses_in_place
from fair_thicket.ink.contrast import contrast
from fair_thicket.ink.painting import paint
from fair_thicket.laid.by_hand import why_not_by_hand
from fair_thicket.masks import plan_with_pins, rehearse
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Blend, Form, Impression, InkZone, Panel, Strip
from fair_thicket.model.stash import Stash
from making import PX_PER_MM, pictures_of, stamp

DUSK, PINE, GOLD = "#3d4a75", "#1f3a30", "#c59a3d"


def card_of(*pieces: object, paper: str = "#ffffff") -> Work:
    return Work(Card(pieces=pieces, paper=paper), Stash((stamp("word", 20.0), stamp("toad", 20.0))))  # type: ignore[arg-type]


def luminance_by_hand(colour: tuple[int, int, int]) -> float:
    """Relative luminance, WCAG 2.1: linear channels weighted 0.2126, 0.7152, 0.0722."""
    linear = [c / 12.92 if (c := level / 255) <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for level in colour]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def ratio_by_hand(one: tuple[int, int, int], other: tuple[int, int, int]) -> float:
    low, high = sorted((luminance_by_hand(one), luminance_by_hand(other)))
    return (high + 0.05) / (low + 0.05)


def rehearsed_levels(work: Work, *places: tuple[float, float]) -> list[tuple[int, int, int]]:
    pictures = pictures_of(work)
    done = rehearse(work, pictures, plan_with_pins(work)[0])
    assert not done.differences
    found = []
    for x, y in places:
        red, green, blue = done.papers[-1][round(y * PX_PER_MM), round(x * PX_PER_MM)].tolist()
        found.append((red, green, blue))
    return found


@pytest.mark.parametrize(
    ("ground", "powder"),
    [(DUSK, "#ffffff"), (PINE, GOLD)],
    ids=["white powder on a dusk wash", "gold on pine"],
)
def test_its_contrast_on_rehearsed_pixels_is_that_of_wcag_by_hand(ground: str, powder: str) -> None:
    """The frame's line is 0.6 mm wide at x = 50.3; beside it, at 48, lies the ground."""
    wash = Blend(id="sky", form=Form("rectangle", 120, 90), x=70, y=54, colour=ground)
    word = Impression("w", "word", 60, 54, ink=powder, powder=True)
    below = (wash, word) if ground == DUSK else (word,)
    work = card_of(*below, paper="#ffffff" if ground == DUSK else ground)
    line, beside = rehearsed_levels(work, (50.3, 54), (48, 54))
    wanted = tuple(int(powder[at : at + 2], 16) for at in (1, 3, 5))
    assert np.abs(np.array(line) - wanted).max() <= 2, "powder covers"
    assert ratio_by_hand(line, beside) == pytest.approx(contrast(powder, ground), rel=0.05)
    assert ratio_by_hand(line, beside) > (4.5 if powder == "#ffffff" else 4.0)


def test_it_covers_whatever_its_colour_in_painter_and_rehearsal_alike() -> None:
    """A dark copper over yellow: ink would mix to brown, powder is itself."""
    wash = Blend(id="sun", form=Form("rectangle", 120, 90), x=70, y=54, colour="#f0d040")
    zone = InkZone(((-10, -10), (0, -10), (0, 10), (-10, 10)), "#406080")
    for powder in (True, False):
        work = card_of(wash, Impression("w", "word", 60, 54, ink="#804020", powder=powder, zones=(zone,)))
        painted = paint(work, pictures_of(work), dpi=300)
        right, left = (painted[round(54 * PX_PER_MM), round(x * PX_PER_MM)].tolist() for x in (69.7, 50.3))
        assert (right == [0x80, 0x40, 0x20]) is powder
        assert (left == [0x40, 0x60, 0x80]) is powder
        assert rehearsed_levels(work, (69.7, 54))[0] == pytest.approx(right, abs=2)


def test_it_is_stamped_when_inks_are_dry_pressed_twice_and_heated_with_a_caution() -> None:
    wash = Blend(id="sky", form=Form("rectangle", 120, 90), x=70, y=54, colour=DUSK)
    work = card_of(wash, Impression("w", "word", 60, 54, ink="#804020", powder=True))
    plan = plan_with_pins(work)[0]
    assert [press.impressions for press in plan.presses] == [("sky",), ("w",)]
    assert presses_in_place(work, plan.presses[1]) == 2
    words = next(one.words for one in masks.list_steps(work, plan) if one.kind == "stamp")
    for said in ("anti-static", "embossing ink", "from below first", "250 °C", "label comes first"):
        assert said in words
    step = next(one for one in assemble(work, {}).operations if one.pieces == ("w",))
    assert step.tool == "heat tool"
    assert "quite dry before powder" in step.after[0].because
    assert "embossed" in why_not_by_hand(work, work.card.find("w"))[0]  # type: ignore[arg-type]


def test_a_strip_is_embossed_on_a_larger_piece_then_trimmed() -> None:
    strip = Strip("s", 60, 12, 70, 54, words="for you", words_mm=5, ink="#ffffff", colour=PINE)
    work = set_powder(card_of(strip), ["s"], "#ffffff")
    made = assemble(work, {})
    start = {one.operation.key: one.start_min for one in made.schedule.steps}
    assert start["words s"] < start["cut s"] < start["glue s"]
    cut = next(one for one in made.operations if one.key == "cut s")
    assert "trimmed to a strip" in cut.after[0].because
    assert next(one for one in made.operations if one.key == "words s").tool == "heat tool"


def test_powder_goes_on_what_is_stamped_only_and_clear_gives_way_to_it() -> None:
    work = card_of(Panel("p", Form("rectangle", 40, 30), 70, 54), Impression("w", "word", 60, 54, resists=True))
    with pytest.raises(PaperError, match="Powder goes on what is stamped"):
        set_powder(work, ["p"], GOLD)
    made = set_powder(work, ["w"], GOLD).card.find("w")
    assert isinstance(made, Impression)
    assert (made.powder, made.resists, made.ink) == (True, False, GOLD)
    plain = set_powder(set_powder(work, ["w"], GOLD), ["w"], None).card.find("w")
    assert isinstance(plain, Impression)
    assert not plain.powder


def test_clear_powder_over_dry_ink_only_shines_and_before_it_keeps_the_ink_off() -> None:
    """The rehearsal and the composed picture agree on both; only before the inks do its lines stay bare."""
    wash = Blend(id="sky", form=Form("rectangle", 120, 90), x=70, y=54, colour=DUSK)
    levels = {}
    for when in ("before inks", "over dry inks"):
        word = Impression("w", "word", 60, 54, resists=True, stamped=when)  # type: ignore[arg-type]
        work = card_of(wash, word)
        order = [press.impressions for press in plan_with_pins(work)[0].presses]
        assert order == ([("w",), ("sky",)] if when == "before inks" else [("sky",), ("w",)])
        levels[when] = rehearsed_levels(work, (50.3, 54))[0]
        painted = paint(work, pictures_of(work), dpi=300)[round(54 * PX_PER_MM), round(50.3 * PX_PER_MM)]
        assert painted.tolist() == pytest.approx(levels[when], abs=2)
    assert min(levels["before inks"]) > 250
    assert levels["over dry inks"] == pytest.approx((0x3D, 0x4A, 0x75), abs=2)
