"""Stencils stepped up a sky: out of line, told as moves, inked as they lie; marks to lay them by."""

import itertools
import random

import msgspec
import numpy as np
import pytest

from fair_thicket.backdrop.stencils import landmarks_of, least_between, seen_landmarks, step_stencil
from fair_thicket.backdrop.stepped import judge_stencils
from fair_thicket.demo.dies import dies
from fair_thicket.edits.adding import add_from_stash
from fair_thicket.ink.painter import Look
from fair_thicket.ink.painting import compose, paint
from fair_thicket.masks import list_steps, plan
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.moves import Move, moves_of, say_move
from fair_thicket.model.pieces import Form, Lay, Stencilled, Wash
from fair_thicket.model.stash import Kind, Stamp, Stash
from fair_thicket.model.units import Unit
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.paper import local_area
from fair_thicket.shape.washes import registration

INCH = 25.4


def edge(width: float, *peaks: float, high: float = 8.0, foot: float = 10.0) -> Ring:
    """An edge with pointed peaks at places from its left end, in a strip about its middle."""
    ring = [(-width / 2, 0.0)]
    for at in peaks:
        ring += [(at - width / 2 - 1.5, 0.0), (at - width / 2, -high), (at - width / 2 + 1.5, 0.0)]
    return (*ring, (width / 2, 0.0), (width / 2, foot), (-width / 2, foot))


def border(ring: Ring, width: float, key: str = "peaks") -> Stamp:
    return Stamp(key, key, width, 18.0, ring, f"images/{key}.png", kind=Kind.BORDER, may_flip=True)


def sky(width: float = 100.0, height: float = 60.0, **fields: object) -> Wash:
    return msgspec.structs.replace(
        Stencilled("sky-1", Form("rectangle", width, height), 60.0, 40.0, stencil="peaks", colour="#5f8fa3"),
        **fields,
    )


def work_of_sky(piece: Wash, stamp: Stamp) -> Work:
    return Work(Card(pieces=(piece,)), Stash((stamp,)))


def test_landmarks_are_the_crests_of_an_edge_or_the_middles_of_openings() -> None:
    assert landmarks_of(border(edge(60, 12.0, 40.0), 60)).tolist() == pytest.approx([-18.0, 10.0], abs=0.2)
    holes = (((-20, -3), (-10, -3), (-10, 3), (-20, 3)), ((5, -3), (15, -3), (15, 3), (5, 3)))
    stencil = Stamp("m", "m", 60, 20, edge(60), "images/m.png", holes, kind=Kind.STENCIL)
    assert landmarks_of(stencil).tolist() == pytest.approx([-15.0, 10.0])
    assert landmarks_of(stencil, taped=[0]).tolist() == pytest.approx([10.0])


@pytest.mark.parametrize("seed", range(12))
def test_stepping_equals_trying_every_slide_and_side(seed: int) -> None:
    """By a plain search: every way to give each lay a slide and a side, in mm."""
    dice = random.Random(seed)
    width = dice.choice([104.0, 106.0, 110.0])
    peaks = sorted(dice.sample(range(6, int(width) - 6, 4), dice.randint(2, 6)))
    stamp, count = border(edge(width, *peaks), width), dice.choice([2, 3])
    piece = sky()
    marks = landmarks_of(stamp)
    room = int((width - 100) / 2)
    options = [(float(x), flipped) for x in range(-room, room + 1) for flipped in (False, True)]
    best = 0.0
    for chosen in itertools.combinations_with_replacement(options, count):
        shown = [seen_landmarks(marks, Lay(x, 0.0, flipped=flipped), 100.0) for x, flipped in chosen]
        pairs = itertools.combinations(shown, 2)
        best = max(best, min(min(abs(a - b) for a in one for b in other) for one, other in pairs))
    found = step_stencil(stamp, piece, count, 12.0, unit=Unit.MM)
    assert found.least_mm == pytest.approx(best, abs=1e-3)
    assert len({(lay.x, lay.flipped) for lay in found.lays}) == count
    assert all(abs(lay.x) <= room for lay in found.lays)


def test_lays_rise_evenly_from_the_foot_and_inks_take_turns() -> None:
    stamp = border(edge(110, 20, 60), 110)
    found = step_stencil(stamp, sky(), 3, 15.0, inks=("#5f8fa3", "#c3a9c9"))
    assert [lay.y for lay in found.lays] == pytest.approx([21.0, 6.0, -9.0])  # foot: (60 - 18) / 2
    assert [lay.ink for lay in found.lays] == ["#5f8fa3", "#c3a9c9", "#5f8fa3"]
    down = step_stencil(stamp, sky(), 3, -15.0)
    assert [lay.y for lay in down.lays] == pytest.approx([-21.0, -6.0, 9.0])


@pytest.mark.parametrize(
    ("stamp", "count", "rise", "words"),
    [
        (border(edge(90, 20), 90), 2, 10.0, "narrower than the wash"),
        (border(edge(110), 110), 2, 10.0, "no crests"),
        (border(edge(110, 20), 110), 1, 10.0, "2 to 8 lays"),
        (border(edge(110, 20), 110), 4, 40.0, "leave the wash"),
        (border(edge(100, 20), 100), 3, 10.0, "no room for 3 lays"),
    ],
)
def test_what_cannot_be_stepped_is_said_in_a_sentence(stamp: Stamp, count: int, rise: float, words: str) -> None:
    with pytest.raises(PaperError, match=words):
        step_stencil(stamp, sky(), count, rise)


def test_moves_are_said_in_the_makers_unit() -> None:
    lays = (Lay(0.0, 20.0), Lay(12.7, 20.0 - 7 / 8 * INCH, flipped=True), Lay(0.0, 20.0, flipped=True))
    there, back = moves_of(lays)
    assert say_move(there, Unit.INCH) == "up 7/8 in, turn over, 1/2 in to the right"
    assert say_move(back, Unit.MM) == "down 22.2 mm, 12.7 mm to the left"
    assert say_move(Move(0.0, 0.0, turns=True), Unit.MM) == "turn over"
    assert say_move(Move(0.0, 0.0, turns=False), Unit.MM) == "leave it where it is"


def at(picture: np.ndarray, x: float, y: float) -> list[int]:
    return picture[round(y * 10), round(x * 10)].tolist()


def test_ink_lies_above_every_edge_and_fades_away_from_it() -> None:
    """A straight edge, twice: its upper side lies 9 mm above its middle."""
    flat = border(((-60, -9), (60, -9), (60, 9), (-60, 9)), 120)
    lays = (Lay(0.0, 21.0), Lay(0.0, 1.0, ink="#a92c48"))
    piece = sky(lays=lays, reach_mm=10.0)
    work = work_of_sky(piece, flat)
    area = local_area(piece, work.stash)
    assert area.area == pytest.approx(2 * 100 * 10.0, rel=1e-3)
    assert area.bounds == pytest.approx((-50, -18, 50, 12), abs=1e-6)
    for picture in (compose(work, {}, dpi=254), paint(work, {}, dpi=254, look=Look())):
        assert at(picture, 60, 40 + 11.9) == pytest.approx([0x5F, 0x8F, 0xA3], abs=4)  # at the first edge
        assert at(picture, 60, 40 - 8.1) == pytest.approx([0xA9, 0x2C, 0x48], abs=6)  # at the second
        assert min(at(picture, 60, 40 + 2.2)) > 240  # nearly faded out
        assert at(picture, 60, 40 - 2) == [255, 255, 255]  # under the stencil
        column = [at(picture, 60, 40 + 11.5 - step)[0] for step in range(10)]
        assert column == sorted(column)


def test_ink_without_a_reach_goes_to_the_washs_head_and_never_below_the_edge() -> None:
    stamp = border(edge(120, 30, 70), 120)
    piece = sky(lays=(Lay(0.0, 10.0),))
    area = local_area(piece, work_of_sky(piece, stamp).stash)
    assert area.area == pytest.approx(100 * 40 - 2 * 1.5 * 8, rel=1e-3)  # above y = 10, less two peaks


def test_turned_over_is_mirrored_and_taped_openings_stay_bare() -> None:
    holes = (((-40, -5), (-20, -5), (-20, 5), (-40, 5)), ((10, -5), (20, -5), (20, 5), (10, 5)))
    stencil = Stamp("peaks", "mist", 120, 20, edge(120), "images/m.png", holes, kind=Kind.STENCIL)
    piece = sky(lays=(Lay(0.0, 0.0), Lay(0.0, 20.0, flipped=True)))
    stash = Stash((stencil,))
    assert local_area(piece, stash).area == pytest.approx(600)
    assert local_area(msgspec.structs.replace(piece, taped=(0,)), stash).area == pytest.approx(200)
    assert local_area(msgspec.structs.replace(piece, taped=(0, 1)), stash).is_empty
    upper, lower = local_area(msgspec.structs.replace(piece, taped=(1,)), stash).geoms
    assert sorted([upper.centroid.x, lower.centroid.x]) == pytest.approx([-30, 30])
    single = msgspec.structs.replace(piece, lays=(), taped=(0,))
    assert local_area(single, stash).area == pytest.approx(100)


def test_where_lays_overlap_their_inks_mix() -> None:
    flat = border(((-60, -9), (60, -9), (60, 9), (-60, 9)), 120)
    piece = sky(lays=(Lay(0.0, 21.0, ink="#f2c11f"), Lay(0.0, 11.0, ink="#2b4c9b")))
    red, green, blue = at(paint(work_of_sky(piece, flat), {}, dpi=254), 60, 25)
    assert green > max(red, blue)


def test_outlines_in_line_are_told_and_one_click_steps_them_apart() -> None:
    stamp = border(edge(120, 25, 55, 95), 120)
    lays = (Lay(0.0, 20.0, ink="#5f8fa3"), Lay(0.5, 5.0, ink="#c3a9c9"), Lay(0.0, -10.0))
    work = work_of_sky(sky(lays=lays), stamp)
    (found,) = judge_stencils(work)
    assert found.code == "stencil-line"
    assert found.measure < 0.6
    assert found.remedy is not None
    (better,) = found.remedy.pieces
    assert isinstance(better, Wash)
    assert least_between(stamp, better) > 3
    assert [lay.ink for lay in better.lays] == ["#5f8fa3", "#c3a9c9", None]
    assert [lay.y for lay in better.lays] == [20.0, 5.0, -10.0]
    assert not judge_stencils(work_of_sky(better, stamp))


def test_a_bare_side_is_told_by_its_width() -> None:
    stamp = border(edge(110, 25, 70), 110)
    work = work_of_sky(sky(lays=(Lay(-12.0, 20.0), Lay(5.0, 0.0, flipped=True))), stamp)
    (found,) = [one for one in judge_stencils(work) if one.code == "stencil-short"]
    assert found.measure == pytest.approx(7.0)


def test_marks_lie_at_the_stencils_lower_corners() -> None:
    stamp = border(edge(110, 25), 110)
    first, second = registration(stamp, sky(lays=(Lay(0.0, 21.0), Lay(3.0, 1.0, flipped=True))))
    assert first.left == pytest.approx((5.0, 70.0))
    assert first.right == pytest.approx((115.0, 70.0))
    assert second.left == pytest.approx((8.0, 50.0))
    (turned,) = registration(stamp, sky(lays=(Lay(0.0, 0.0),), angle_deg=90.0))
    assert turned.left == pytest.approx((51.0, -15.0))


def test_the_build_sheet_tells_every_lay_and_move() -> None:
    stamp = border(edge(110, 25), 110)
    lays = (Lay(0.0, 21.0), Lay(12.7, 21.0 - 7 / 8 * INCH, flipped=True, ink="#c3a9c9"))
    work = work_of_sky(sky(lays=lays, reach_mm=12.7), stamp)
    told = [step.words for step in list_steps(work, plan(work)) if step.kind in {"cover", "ink"}]
    assert told == [
        "Lay the peaks on its marks 1 of the wash; tape it down",
        "Ink above its edge in pond, fading out over 1/2 in",
        "Wipe the peaks and move it to its marks 2: up 7/8 in, turn over, 1/2 in to the right",
        "Ink above its edge in heather, fading out over 1/2 in",
    ]


def test_a_stencil_put_on_the_card_is_inked_through_and_an_edge_above_it() -> None:
    stash = Stash(tuple(dies()[0]))
    work, key = add_from_stash(Work(Card(), stash), "mist", (70.0, 50.0))
    wash = work.card.find(key)
    assert isinstance(wash, Stencilled)
    assert (wash.stencil, wash.lays) == ("mist", ())
    through = sum(to_area(ring).area for ring in stash.find("mist").pockets)
    assert local_area(wash, stash).area == pytest.approx(through, rel=1e-6)
    work, key = add_from_stash(Work(Card(), stash), "cloud-bank", (70.0, 50.0))
    edge = work.card.find(key)
    assert isinstance(edge, Wash)
    left, top, right, bottom = local_area(edge, stash).bounds
    stencil = stash.find("cloud-bank")
    assert right - left == pytest.approx(stencil.width_mm, abs=0.01)
    assert top == pytest.approx(-stencil.height_mm / 2 - 19.05, abs=0.01)
    assert bottom < stencil.height_mm / 2 - 9


def test_a_fade_has_no_creases_above_the_cusps_of_its_edge(monkeypatch: pytest.MonkeyPatch) -> None:
    """Kinks across the way, as second differences over a millimetre, half way up the fade above a deep valley."""
    valley = border(((-60, -12), (0, 8), (60, -12), (60, 9), (-60, 9)), 120)
    work = work_of_sky(sky(lays=(Lay(0.0, 10.0),), reach_mm=16.0), valley)

    def kink(picture: np.ndarray) -> float:
        row = picture[500, 470:730, 0].astype(float)  # 8 mm above the foot of the valley, 13 mm to both sides
        row = np.convolve(row, np.ones(5) / 5, "valid")
        return float(np.abs(row[20:] - 2 * row[10:-10] + row[:-20]).max())

    soft = kink(paint(work, {}, dpi=254))
    monkeypatch.setattr("fair_thicket.ink.gradients._softened", lambda away, reach: away)
    assert kink(paint(work, {}, dpi=254)) > 3 * soft
