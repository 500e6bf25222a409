"""The inside: an insert by rule, ink pale enough for a pen and still seen, a mark on the back."""

import pytest

from fair_thicket.advice import advise
from fair_thicket.edits.adding import add_insert
from fair_thicket.engines import assemble
from fair_thicket.ink.contrast import contrast
from fair_thicket.masks import plan_with_pins, rehearse
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import INK, Blend, Cutout, Form, Impression, Panel
from fair_thicket.model.sides import sides_of
from fair_thicket.model.stash import Stash
from fair_thicket.scene import judge
from making import PX_PER_MM, pictures_of, stamp


def card_of(*pieces: object, **card: object) -> Work:
    return Work(Card(pieces=pieces, **card), Stash((stamp("toad", 20.0), stamp("mark", 12.0))))  # type: ignore[arg-type]


def test_an_insert_leaves_a_quarter_of_an_inch_all_round() -> None:
    """Common practice: 1/4 in smaller all round."""
    work, key = add_insert(card_of(), colour="#f6efe0")
    insert = work.card.find(key)
    assert isinstance(insert, Panel)
    assert (insert.form.width_mm, insert.form.height_mm) == pytest.approx((139.7 - 12.7, 107.95 - 12.7))
    assert (insert.x, insert.y, insert.name) == (pytest.approx(69.85), pytest.approx(53.975), "insert")


@pytest.mark.parametrize(
    ("ink", "code"), [("#3f6f4a", "written"), ("#fdfdfb", "written"), ("#c3d8c6", ""), (None, "written")]
)
def test_ink_under_a_pen_is_neither_too_strong_nor_too_pale(ink: str | None, code: str) -> None:
    work = card_of(Impression("t", "toad", 60, 40, ink=ink, written_over=True))
    told = [one for one in judge(work) if one.code == "written"]
    assert ("written" if told else "") == code
    if told and told[0].remedy is not None:
        (better,) = told[0].remedy.pieces
        assert isinstance(better, Impression)
        assert better.ink is not None
        assert contrast(INK, better.ink) >= 4.5
        assert contrast(better.ink, "#ffffff") >= 1.15
    assert not [one for one in judge(card_of(Impression("t", "toad", 60, 40, ink=ink))) if one.code == "written"]


def test_pale_ink_inside_has_the_contrast_of_wcag_on_rehearsed_pixels() -> None:
    """Pale green (195, 216, 198) on white: 1.05 / 0.6897 by WCAG 2.1's formula, worked by hand: 1.50 to 1."""
    inside = (Impression("t", "toad", 60, 40, ink="#c3d8c6", written_over=True),)
    whole = card_of(Cutout("f", "toad", 60, 50, lift_mm=1.6), inside=inside)
    side = dict(sides_of(whole))["inside"]
    done = rehearse(side, pictures_of(whole), plan_with_pins(side)[0])
    assert not done.differences
    line = done.papers[-1][round(40 * PX_PER_MM), round(50.3 * PX_PER_MM)].tolist()
    assert line == pytest.approx([0xC3, 0xD8, 0xC6], abs=2)
    assert contrast("#c3d8c6", "#ffffff") == pytest.approx(1.50, abs=0.02)
    assert not [one for one in advise(side) if one.code == "written"]


def test_a_wash_under_a_pen_is_judged_and_made_paler() -> None:
    wash = Blend(id="w", form=Form("rectangle", 100, 60), x=70, y=54, colour="#3d4a75", written_over=True)
    (told,) = [one for one in judge(card_of(wash)) if one.code == "written"]
    assert told.title == "Too strong to be written over"
    assert told.remedy is not None
    assert not [one for one in judge(card_of(*told.remedy.pieces)) if one.code == "written"]


def test_the_mark_is_stamped_on_the_back_before_the_front_gets_its_height() -> None:
    raised = Cutout("f", "toad", 60, 50, margin_mm=0.0, lift_mm=1.6)
    for mark, name in (("mark", "mark (mark)"), ("made by hand", "“made by hand”")):
        made = assemble(card_of(raised, mark=mark), {})
        start = {one.operation.key: one.start_min for one in made.schedule.steps}
        assert start["mark"] < start["glue f"]
        assert name in next(one.words for one in made.operations if one.key == "mark")
        glue = next(one for one in made.operations if one.key == "glue f")
        assert any("back is stamped before" in edge.because for edge in glue.after)
    assert not any(one.key == "mark" for one in assemble(card_of(raised), {}).operations)
