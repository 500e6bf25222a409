"""Wash pages: marks where the stencil's corners lie, the recipe, the ink needed by ink, what may stay bare."""

import io

import msgspec
import numpy as np
import pypdfium2
import pytest
import shapely

from fair_thicket import masks
from fair_thicket.demo.dies import dies
from fair_thicket.ink.ink_needed import bare_area, ink_needs
from fair_thicket.ink.naming import say_colour
from fair_thicket.making import print_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Blend, Form, Lay, Panel, Stencilled, as_kind
from fair_thicket.model.stash import Stash
from fair_thicket.printing.plan_pdf import Side
from fair_thicket.printing.wash_pages import STRIPE_MM, _stripes

STASH = Stash(tuple(dies()[0]))
SKY = Blend("sky-1", Form("rectangle", 139.7, 60.0), 69.85, 30.0, name="sky", colour="#5f8fa3")
PX = 8.0
LETTER_MM = 215.9


def page_of(work: Work) -> tuple[str, np.ndarray]:
    """Text and picture, eight pixels a mm, of the page of a work's wash."""
    plan = masks.plan(work)
    steps = masks.list_steps(work, plan)
    document = pypdfium2.PdfDocument(io.BytesIO(print_card([Side("front", work, plan, steps)], {}, paper="letter")))
    for page in document:
        text = page.get_textpage().get_text_bounded()
        if text.startswith("Ink the"):
            return text.replace("\r\n", "\n"), np.asarray(page.render(scale=PX * 25.4 / 72).to_pil().convert("RGB"))
    raise AssertionError("no wash page")


def ochre_near(picture: np.ndarray, x: float, y: float) -> bool:
    """Whether ink of the marks' colour lies within a third of a millimetre of a place of the page."""
    part = picture[round((y - 0.3) * PX) : round((y + 0.3) * PX), round((x - 0.3) * PX) : round((x + 0.3) * PX)]
    return bool((np.abs(part.astype(int) - (0xB0, 0x6F, 0x0E)).max(axis=2) < 40).any())


def test_marks_lie_where_the_stencils_lower_corners_come_life_size() -> None:
    lays = (Lay(0.0, 18.5), Lay(4.7625, 2.625, flipped=True, ink="#c3a9c9"))
    sky = as_kind(SKY, Stencilled, stencil="cloud-bank", lays=lays, reach_mm=15.0)
    text, picture = page_of(Work(Card(pieces=(sky,)), STASH))
    left, top = (LETTER_MM - 139.7) / 2, 40.0
    stencil = STASH.find("cloud-bank")
    for lay in lays:
        foot = top + 30.0 + lay.y + stencil.height_mm / 2
        for side in (-1, 1):
            corner = left + 69.85 + lay.x + side * stencil.width_mm / 2
            assert ochre_near(picture, corner, foot - 3)
            assert ochre_near(picture, corner - side * 3, foot)
            assert not ochre_near(picture, corner, foot + 3)
    assert "Lay 1 of the cloud bank: pond." in text
    assert "Lay 2: up 5/8 in, turn over, 3/16 in to the right; heather." in text
    assert "Wipe the stencil before each move" in text


def test_the_recipe_tells_inks_from_the_lightest_with_the_area_of_each() -> None:
    wash = msgspec.structs.replace(SKY, inks=("#2d3558", "#8f8fb8", "#e6dff0"), way="linear", coats=2)
    text, _ = page_of(Work(Card(pieces=(wash,)), STASH))
    plain = text.replace("\n", " ")
    # straight from ink to ink: a quarter, a half and a quarter of 83.8 cm2
    assert "(#e6dff0) on 21.0 cm², dusk on 41.9 cm², night on 21.0 cm²." in plain
    assert "2 thin coats, a pause after each" in plain


def test_what_is_covered_needs_no_ink_but_for_the_margin() -> None:
    """A panel of 60 by 40 in the wash covers 24 cm2; with 3 mm of margin all round 54 by 34 may stay bare."""
    panel = Panel("p-1", Form("rectangle", 60.0, 40.0), 69.85, 30.0)
    work = Work(Card(pieces=(SKY, panel)), STASH)
    assert bare_area(work, SKY).area == pytest.approx(54 * 34, rel=1e-3)
    (need,) = ink_needs(work, SKY)
    assert need.area_mm2 == pytest.approx(139.7 * 60 - 54 * 34, rel=1e-3)
    text, picture = page_of(work)
    assert "18.4 cm² may stay bare; ink reaches 1/8 in under what covers it." in text.replace("\n", " ")
    left, top = (LETTER_MM - 139.7) / 2, 40.0
    middle = picture[round((top + 25) * PX) : round((top + 35) * PX), round((left + 60) * PX) : round((left + 80) * PX)]
    assert (middle < 200).any()  # striped


def test_a_stepped_wash_counts_every_lay_of_an_ink() -> None:
    edge = ((-80.0, -9.0), (80.0, -9.0), (80.0, 9.0), (-80.0, 9.0))
    flat = msgspec.structs.replace(STASH.find("cloud-bank"), id="flat", outline=edge, width_mm=160.0, height_mm=18.0)
    lays = (Lay(0.0, 21.0, ink="#5f8fa3"), Lay(0.0, 6.0, ink="#c3a9c9"), Lay(0.0, -9.0, ink="#5f8fa3"))
    sky = as_kind(SKY, Stencilled, stencil="flat", lays=lays, reach_mm=10.0)
    needs = {need.ink: need.area_mm2 for need in ink_needs(Work(Card(pieces=(sky,)), Stash((flat,))), sky)}
    assert needs == pytest.approx({"#5f8fa3": 2 * 1397.0, "#c3a9c9": 1397.0}, rel=1e-3)


@pytest.mark.parametrize(
    ("colour", "told"),
    [("#8f8fb8", "dusk"), ("#8f8fb9", "dusk"), ("#c9d2dc", "mist"), ("#2d3570", "near night (#2d3570)")],
)
def test_a_colour_is_said_by_its_name_or_the_nearest(colour: str, told: str) -> None:
    assert say_colour(colour) == told


def test_every_page_of_a_wide_card_is_as_wide_as_it_needs_to_be() -> None:
    """A slimline is as wide as a letter sheet: it lies across, after a page that lay across as well."""
    wash = msgspec.structs.replace(SKY, form=Form("rectangle", 215.9, 60.0), x=107.95)
    work = Work(Card(format="slimline", pieces=(wash,)), STASH)
    plan = masks.plan(work)
    document = pypdfium2.PdfDocument(io.BytesIO(print_card([Side("front", work, plan, [])], {}, paper="letter")))
    sizes = [(page.get_textpage().get_text_bounded()[:12], page.get_width() > page.get_height()) for page in document]
    assert [lying for heading, lying in sizes if heading.startswith(("Where", "Ink the"))] == [True, True]


def test_stripes_lie_slantwise_all_over_what_may_stay_bare_and_nowhere_else() -> None:
    """A box low on the page: every place of it has a stripe within half the way between two, all at 45 degrees."""
    area = shapely.box(60, 150, 90, 170)
    stripes = _stripes(area)
    assert area.buffer(1e-6).covers(stripes)
    lines = [part for part in shapely.get_parts(stripes) if part.length > 0]
    for line in lines:
        (x0, y0), (x1, y1) = line.coords[0], line.coords[-1]
        assert abs(x1 - x0) == pytest.approx(abs(y1 - y0), abs=1e-6)
    grid = [shapely.Point(x, y) for x in np.arange(60.5, 90, 1.0) for y in np.arange(150.5, 170, 1.0)]
    assert max(shapely.distance(stripes, grid)) <= STRIPE_MM
