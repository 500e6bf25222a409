"""What words stand on is judged as it is pictured, wherever on a wash they stand; and nothing is told as nothing."""

import numpy as np
import pytest
import shapely

from cases import STASH, Maker
from cases_more import night
from fair_thicket import edits
from fair_thicket.advice import advise
from fair_thicket.ink.contrast import contrast, luminance
from fair_thicket.ink.painting import paint
from fair_thicket.laid.visibility import look
from fair_thicket.model.card import Card, Work
from fair_thicket.model.finding import Finding
from fair_thicket.model.pieces import Blend, Form, Impression, Panel, Splatter, Stencilled, Wash
from fair_thicket.model.pieces.washes import Lay
from fair_thicket.scene.judges.covering import judge_zones
from fair_thicket.scene.judges.facts import Facts, place_points
from fair_thicket.scene.judges.grounds import ground_colours
from fair_thicket.scene.judges.words import words_area
from fair_thicket.shape.outline import to_area

DPI = 150
DARK, PALE, SEA = "#1c2440", "#f4e2a0", "#3a6a9a"


def told(work: Work, code: str) -> list[Finding]:
    return [one for one in advise(work) if one.code == code]


def random_card(seed: int) -> Work:
    """Give a card of a washed base, now and then with a washed panel, and words somewhere on it."""
    chance = np.random.default_rng(seed)
    form, pieces = Form("rectangle", 139.7, 107.95), []
    shift = float(chance.uniform(-20, 20))
    washes: list[Wash] = [
        Blend("w-0", form, 69.85, 53.97, inks=(PALE, DARK), way=str(chance.choice(["linear", "glow"])),
              angle_deg=float(chance.uniform(-40, 40)), centre=(float(chance.uniform(-40, 40)), 10.0)),
        Stencilled("w-1", form, 69.85, 53.97, stencil="wave", lays=(Lay(0.0, shift, ink=SEA),)),
        Splatter("w-2", Form("rectangle", 120, 90), 69.85, 53.97, colour="#ffffff", drops=300),
        Blend("w-3", Form("ellipse", 90, 60), 60, 50, colour=SEA),
    ]  # fmt: skip
    pieces += [one for one in washes if chance.random() < 0.6]
    on = ""
    if chance.random() < 0.4:
        on = "panel-1"
        pieces.append(Panel(on, Form("rectangle", 90, 60), 70, 54, colour="#e8ddc0"))
        pieces.append(Blend("w-4", Form("rectangle", 90, 60), 70, 54, on=on, inks=("#c04040", "#f0e0a0"), way="linear"))
    x, y = float(chance.uniform(35, 105)), float(chance.uniform(20, 90))
    return Work(Card(pieces=(*pieces, Impression("words", "greeting", x, y, ink="#ffffff", on=on))), STASH)


@pytest.mark.parametrize("seed", range(14))
def test_the_ground_of_words_is_told_in_the_colours_that_the_picture_has_there(seed: int) -> None:
    """Held to the picture of the card without its words: darkest and palest within a shade, none that is not there."""
    work = random_card(seed)
    facts = Facts(work, look(work))
    words = work.card.find("words")
    area = words_area(facts, words)
    if words.on:
        area = shapely.intersection(area, facts.leaves(words.on)[0].area)
    if area.area < 100:
        pytest.skip("beside the panel")
    found = sorted(luminance(colour) for colour in ground_colours(facts, words, words_area(facts, words)))
    bare = edits.delete(work, {"words"})
    picture = paint(bare, {}, dpi=DPI).astype(float) / 255
    left, top, right, bottom = (side * DPI / 25.4 for side in area.bounds)
    there = picture[int(top) + 1 : int(bottom), int(left) + 1 : int(right)].reshape(-1, 3)
    tones = np.sort([luminance("#" + "".join(f"{round(255 * part):02x}" for part in one)) for one in there.tolist()])
    assert found[0] == pytest.approx(np.quantile(tones, 0.05), abs=0.03)
    assert found[-1] == pytest.approx(np.quantile(tones, 0.95), abs=0.03)


def test_white_words_in_the_dark_of_a_night_are_read_and_in_its_glow_are_not() -> None:
    work = night()  # its glow says no colour but its inks
    (here,) = told(work, "contrast")
    assert 3 < here.measure < 4  # at its right end, nearest to the glow
    dark = edits.move_to(work, "greeting-1", (30.0, 98.0))
    assert told(dark, "contrast") == []
    pale = edits.move_to(work, "greeting-1", (95.0, 55.0))
    (one,) = told(pale, "contrast")
    assert one.measure == pytest.approx(contrast("#ffffff", PALE), abs=0.4)
    assert one.remedy is not None
    assert "dark" in one.remedy.words


def test_a_sliver_of_a_face_that_would_be_told_as_nothing_is_not_told() -> None:
    """In steps of 0.01 mm from where the leaf first reaches the face: told once it is half of one in a hundred."""
    m = Maker()
    figure = m.put("figure", (50.0, 60.0), cut=True, margin_mm=0.0)
    leaf = m.put("leaf", (50.0, 40.0), cut=True, margin_mm=0.0)
    face = place_points(m.work.card.find(figure), STASH.find("figure").marks.zones[0].ring)
    shown = shapely.intersection(to_area(face), Facts(m.work, look(m.work)).area(figure))
    reached = shapely.distance(shown, Facts(m.work, look(m.work)).area(leaf))
    slivers = 0
    for step in range(80):
        work = edits.move_by(m.work, {leaf}, (0.0, reached + 0.01 * step))
        facts = Facts(work, look(work))
        share = shapely.difference(shown, facts.seen(figure)).area / shown.area
        found = list(judge_zones(facts))
        slivers += 0.05 / shown.area < share < 0.005
        assert bool(found) == (share > max(0.05 / shown.area, 0.005))
    assert slivers
    assert found


def test_what_only_touches_is_said_to_touch() -> None:
    m = Maker()
    m.put("disc", (40.0, 50.0), cut=True)
    m.put("disc", (68.0, 50.0), cut=True)
    (one,) = told(m.work, "near")
    assert "touches" in one.title
    assert "0.0" not in one.text


def test_what_hangs_over_by_nothing_that_is_told_is_not_too_large() -> None:
    m = Maker(paper="#ffffff")
    leaf = m.put("leaf", (139.7, 50.0), cut=True, margin_mm=0.0)
    (over,) = told(m.work, "envelope")
    assert told(edits.move_by(m.work, {leaf}, (0.04 - over.measure, 0.0)), "envelope") == []
    (hardly,) = told(edits.move_by(m.work, {leaf}, (0.16 - over.measure, 0.0)), "envelope")
    assert "0.2 mm more" in hardly.text
