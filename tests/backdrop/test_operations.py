"""Water, paste, splatter and texture as simulated operations: what they do, and what must keep clear of them."""

import msgspec
import numpy as np
import pytest
import shapely

from cases import STASH, Maker
from fair_thicket import masks
from fair_thicket.backdrop import judge
from fair_thicket.backdrop.splatter import judge_splatter
from fair_thicket.backdrop.texture import free_ground, judge_textures, lay_texture
from fair_thicket.demo.dies import dies
from fair_thicket.edits.pieces import set_card
from fair_thicket.ink.painter import Look
from fair_thicket.ink.painting import compose, paint
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Blend, Form, Impression, Panel, Paste, Splatter, Texture, Wash, Water, as_kind
from fair_thicket.model.stash import Kind, Stamp, Stash
from fair_thicket.shape.paper import footprint, local_area, place
from fair_thicket.shape.washes import mark_area

INK = (0x5F, 0x8F, 0xA3)
SKY = Blend("sky-1", Form("rectangle", 100.0, 60.0), 60.0, 40.0, colour="#5f8fa3")
WATER = Water("water-1", Form("rectangle", 60.0, 40.0), 60.0, 40.0, drops=40, seed=3)


def washes(*pieces: Wash, stash: Stash = STASH) -> Work:
    return Work(Card(pieces=pieces), stash)


def mean_in(picture: np.ndarray, area: shapely.Geometry) -> list[float]:
    """Mean colour of a picture at 254 dpi well inside an area."""
    y, x = np.mgrid[0 : picture.shape[0], 0 : picture.shape[1]]
    inner = shapely.buffer(area, -0.15)
    inside = shapely.contains_xy(inner, (x + 0.5) / 10, (y + 0.5) / 10)
    return picture[inside].mean(axis=0).tolist()


# -- water ---------------------------------------------------------------------------------------------------------


def test_water_lifts_six_tenths_of_the_ink_where_its_drops_fall_and_nothing_elsewhere() -> None:
    work = washes(SKY, WATER)
    drops = footprint(WATER, work.stash)
    assert 50 < drops.area < 1000
    beside = shapely.difference(footprint(SKY, work.stash), shapely.buffer(drops, 0.3))
    for picture in (paint(work, {}, dpi=254, look=Look()), compose(work, {}, dpi=254)):
        lifted = [255 - 0.4 * (255 - level) for level in INK]
        assert mean_in(picture, drops) == pytest.approx(lifted, abs=2.5)
        assert mean_in(picture, beside) == pytest.approx(INK, abs=1)


def test_water_does_nothing_to_what_is_inked_after_it_or_elsewhere() -> None:
    later = msgspec.structs.replace(SKY, id="sky-2")
    work = washes(WATER, later)
    assert mean_in(paint(work, {}, dpi=254), footprint(WATER, work.stash)) == pytest.approx(INK, abs=1)
    panel = Panel("p-1", Form("rectangle", 100, 60), 60, 40)
    apart = Work(Card(pieces=(SKY, panel, msgspec.structs.replace(WATER, on="p-1"))), STASH)
    assert mean_in(paint(apart, {}, dpi=254), footprint(WATER, apart.stash)) == pytest.approx([255] * 3, abs=1)


def test_the_rehearsal_of_water_equals_the_scene() -> None:
    work = washes(SKY, WATER)
    plan = masks.plan(work)
    assert masks.rehearse(work, {}, plan).differences == ()
    told = [step.words for step in masks.list_steps(work, plan)]
    assert any("Flick clean water" in words and "blot" in words for words in told)
    assert any("within 5 7/8 in" in words for words in told)  # 150 mm of splatter


# -- paste ---------------------------------------------------------------------------------------------------------

MIST = Stash((*STASH.stamps, *dies()[0]))
PASTE = Paste("paste-1", Form("rectangle", 139.7, 50.8), 69.85, 40.0, stencil="mist", colour="#ffffff")


def test_paste_covers_ink_through_the_openings_of_its_stencil() -> None:
    work = washes(SKY, PASTE, stash=MIST)
    openings = MIST.find("mist").pockets
    area = local_area(PASTE, MIST)
    assert area.area == pytest.approx(
        sum(
            shapely.intersection(shapely.Polygon(ring), shapely.box(-69.85, -25.4, 69.85, 25.4)).area
            for ring in openings
        )
    )
    both = shapely.intersection(footprint(PASTE, MIST), footprint(SKY, MIST))
    for picture in (paint(work, {}, dpi=254), compose(work, {}, dpi=254)):
        assert mean_in(picture, both) == pytest.approx([255] * 3, abs=1)
    plan = masks.plan(work)
    assert masks.rehearse(work, {}, plan).differences == ()
    steps = masks.list_steps(work, plan)
    assert any("wash it at once" in step.words and "Ventilate" in step.words for step in steps)
    assert any(step.minutes == 60 and step.kind == "wait" for step in steps)


def test_paste_over_lines_is_trouble_and_flat_pieces_on_it_are_put_on_foam() -> None:
    m = Maker()
    m.put("figure", (69.85, 40))
    key = m.put("figure", (90, 40), cut=True)
    work = Work(msgspec.structs.replace(m.work.card, pieces=(PASTE, *m.work.card.pieces)), MIST)
    over, under = judge_splatter(work)
    assert (over.code, under.code) == ("paste-over", "paste-under")
    assert over.measure == pytest.approx(
        shapely.intersection(footprint(PASTE, MIST), footprint(work.card.pieces[1], MIST)).area, abs=0.1
    )
    assert under.remedy is not None
    assert [(one.id, one.lift_mm) for one in under.remedy.pieces] == [(key, 1.0)]


# -- splatter ------------------------------------------------------------------------------------------------------


def spattered() -> Work:
    m = Maker()
    m.put("greeting", (60, 40))
    m.put("figure", (95, 40))
    m.put("figure", (25, 40), colour="#a92c48")
    wash = Splatter("dots-1", Form("rectangle", 60.0, 40.0), 60.0, 40.0, name="splatter")
    return set_card(m.work, pieces=(wash, *m.work.card.pieces))


def test_splatter_names_what_lies_open_to_it_and_covers_it_with_a_click() -> None:
    """The greeting, 44 by 7, lies wholly within; the figure at the right partly; the coloured one is masked."""
    work = spattered()
    (found,) = judge_splatter(work)
    assert found.code == "drops-on"
    greeting, figure = work.card.pieces[1:3]
    form = place(shapely.box(-30, -20, 30, 20), work.card.pieces[0])
    open_mm2 = 44 * 7 + shapely.intersection(footprint(figure, STASH), form).area
    assert found.measure == pytest.approx(open_mm2, abs=0.1)
    assert found.pieces == ("dots-1", greeting.id, figure.id)
    assert "stray up to 5 7/8 in" in found.text  # 150 mm
    assert found.remedy is not None
    (covered,) = found.remedy.pieces
    assert isinstance(covered, Wash)
    assert [one.kind for one in covered.covers] == ["sheet", "sheet"]
    assert covered.covers[0].form == Form("rectangle", 50.0, 13.0)  # 3 mm more on every side
    after = set_card(work, pieces=(covered, *work.card.pieces[1:]))
    assert judge_splatter(after) == []


def test_what_lies_beside_the_splatter_is_not_blamed() -> None:
    work = spattered()
    small = msgspec.structs.replace(work.card.pieces[0], form=Form("rectangle", 20.0, 10.0), y=80.0)
    assert judge_splatter(set_card(work, pieces=(small, *work.card.pieces[1:]))) == []


# -- texture -------------------------------------------------------------------------------------------------------

SAND = Texture("sand-1", Form("rectangle", 100.0, 40.0), 60.0, 70.0, colour="#6b4f3a", name="sand")


def on_sand() -> Work:
    m = Maker()
    m.put("figure", (50, 70), cut=True)
    m.put("leaf", (90, 66))
    return set_card(m.work, pieces=(SAND, *m.work.card.pieces))


@pytest.mark.parametrize("mark", ["dot", "wave", "grass"])
def test_marks_are_stamped_whole_and_only_where_the_ground_is_free(mark: str) -> None:
    work = on_sand()
    laid = lay_texture(work, msgspec.structs.replace(SAND, mark=mark, mark_mm=2.0, pitch_mm=5.0))
    assert 50 < len(laid.spots) < 21 * 9
    area = footprint(laid, work.stash)
    for other in work.card.pieces[1:]:
        assert shapely.distance(area, footprint(other, work.stash)) >= work.card.limits.near_mm - 1e-6
    one = mark_area(mark, 2.0)
    assert area.area == pytest.approx(one.area * len(laid.spots), rel=0.02)
    assert place(shapely.box(-50, -20, 50, 20), laid).covers(area)
    assert lay_texture(work, laid) == laid
    assert lay_texture(work, msgspec.structs.replace(laid, seed=7)).spots != laid.spots


def test_no_free_place_of_the_pattern_is_left_out() -> None:
    """Without anything on the ground every mark of the pattern that stays within the form is stamped."""
    bare = washes(SAND)
    laid = lay_texture(bare, msgspec.structs.replace(SAND, mark_mm=1.0, pitch_mm=5.0))
    assert len(laid.spots) >= 20 * 8 - 2 * (20 + 8)
    crowded = lay_texture(on_sand(), laid)
    missing = set(laid.spots) - set(crowded.spots)
    assert missing
    ground = free_ground(on_sand(), laid)
    for x, y in missing:
        assert not ground.covers(shapely.Point(laid.x + x, laid.y + y).buffer(0.49))


def test_marks_under_something_moved_there_later_are_told_and_stamped_anew_elsewhere() -> None:
    work = on_sand()
    laid = lay_texture(work, msgspec.structs.replace(SAND, mark_mm=1.0))
    assert judge_textures(set_card(work, pieces=(laid, *work.card.pieces[1:]))) == []
    figure = msgspec.structs.replace(work.card.pieces[2], x=70.0, y=70.0)
    moved = set_card(work, pieces=(laid, work.card.pieces[1], figure))
    (found,) = judge_textures(moved)
    assert found.code == "texture-covered"
    assert found.remedy is not None
    (anew,) = found.remedy.pieces
    assert judge_textures(set_card(moved, pieces=(anew, *moved.card.pieces[1:]))) == []


@pytest.mark.parametrize(
    ("fields", "words"),
    [({"pitch_mm": 0.5}, "marks; 3000 are the most"), ({"mark_mm": 60.0}, "No mark finds free ground")],
)
def test_too_many_marks_and_too_large_ones_are_refused(fields: dict[str, float], words: str) -> None:
    with pytest.raises(PaperError, match=words):
        lay_texture(on_sand(), msgspec.structs.replace(SAND, **fields))


def test_a_texture_on_a_border_stays_on_its_paper() -> None:
    m = Maker()
    key = m.put("wave", (69.85, 90), colour="#8aa465", length_mm=139.7)
    sand = msgspec.structs.replace(SAND, on=key, y=90.0, mark_mm=1.0)
    work = set_card(m.work, pieces=(*m.work.card.pieces, sand))
    laid = lay_texture(work, sand)
    assert laid.spots
    assert footprint(work.card.pieces[0], work.stash).covers(footprint(laid, work.stash))


# -- coats ---------------------------------------------------------------------------------------------------------


def test_three_coats_give_the_ink_its_colour_fewer_are_paler_and_more_are_deeper() -> None:
    def seen(coats: int) -> list[int]:
        return paint(washes(msgspec.structs.replace(SKY, coats=coats)), {}, dpi=100)[157, 236].tolist()

    levels = [sum(seen(coats)) for coats in (1, 2, 3, 5)]
    assert levels == sorted(levels, reverse=True)
    assert seen(3) == list(INK)


def test_the_judges_of_all_operations_are_asked() -> None:
    stamp = Stamp("toad", "toad", 20, 20, ((-10, -10), (10, -10), (10, 10), (-10, 10)), "images/t.png", kind=Kind.STAMP)
    dots = Splatter("dots-1", Form("rectangle", 60.0, 40.0), 60.0, 40.0)
    work = Work(Card(pieces=(dots, Impression("toad-1", "toad", 60, 40))), Stash((stamp,)))
    assert "drops-on" in {one.code for one in judge(work)}


def test_white_drops_cover_and_coloured_ones_mix() -> None:
    """Snow over a night sky is white; lantern over blue is not."""
    night = msgspec.structs.replace(SKY, colour="#2d3558")
    snow = as_kind(WATER, Splatter, id="snow-1", colour="#fffdf8", drops=400)
    drops = footprint(snow, STASH)
    for picture in (paint(washes(night, snow), {}, dpi=254), compose(washes(night, snow), {}, dpi=254)):
        assert min(mean_in(picture, drops)) > 240
    gold = msgspec.structs.replace(snow, colour="#eec25a")
    assert max(mean_in(paint(washes(night, gold), {}, dpi=254), drops)) < 120
