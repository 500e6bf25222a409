"""How runs are laid, on images of one square region."""

import msgspec
import numpy as np
import pytest

from fair_thicket.edits.colouring import colour_parts, set_regions
from fair_thicket.edits.pieces import set_card
from fair_thicket.ink.contrast import channels
from fair_thicket.ink.layings import laying_of
from fair_thicket.ink.mixing import mix
from fair_thicket.ink.painting import paint
from fair_thicket.ink.shading import SHARES, colour_image
from fair_thicket.laid.stack import stack
from fair_thicket.masks import plan, rehearse
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import Region, Shade
from fair_thicket.model.pieces import Blend, Form
from making import pictures_of, square, stamp, work_of

RUN = tuple(Shade(colour) for colour in ("#2c5a33", "#4f8a4a", "#9cc08a"))
PX = 300 / 25.4


def coloured(shades: tuple[Shade, ...] = RUN, *, side: float = 20.0, **fields: object) -> Work:
    work = work_of(("toad", 40, 40), stamps=(stamp("toad", side),))
    work = set_regions(work, "toad", (Region(1, square(side - 1.2)),), ())
    return colour_parts(work, {"toad-1"}, [(1,)], shades=shades, **fields)


def tones(work: Work, key: str = "toad-1") -> np.ndarray:
    leaves = stack(work)
    laying = laying_of(work.card, work.stash, leaves, next(leaf for leaf in leaves if leaf.key == key))
    assert laying is not None
    return colour_image(laying)


def lightness(picture: np.ndarray) -> np.ndarray:
    return picture.mean(axis=2)


@pytest.mark.parametrize("count", range(1, 7))
def test_shares_add_up_and_the_lightest_keeps_at_least_a_third_of_a_run(count: int) -> None:
    """A quarter to a third in shadow, the lightest at least a third (common practice)."""
    assert len(SHARES[count]) == count
    assert sum(SHARES[count]) == pytest.approx(1)
    assert SHARES[count][-1] >= 0.33
    assert count == 1 or count > 3 or 0.25 <= SHARES[count][0] <= 0.41


def test_shades_take_their_shares_of_a_part() -> None:
    picture = tones(coloured())[10:-10, 10:-10]
    shades = np.array([channels(shade.colour) for shade in RUN], np.float32)
    nearest = np.abs(picture[:, :, None, :] - shades).sum(axis=-1).argmin(axis=-1)
    found = np.bincount(nearest.ravel(), minlength=3) / nearest.size
    assert found == pytest.approx(SHARES[3], abs=0.12)


@pytest.mark.parametrize(("light", "darker"), [("left", (1, 1)), ("right", (1, -1)), ("above", (1, 0))])
def test_shadow_lies_away_from_the_light(light: str, darker: tuple[int, int]) -> None:
    picture = lightness(tones(set_card(coloured(), light=light)))
    rows, columns = picture.shape
    top, bottom = picture[: rows // 2].mean(), picture[rows // 2 :].mean()
    left, right = picture[:, : columns // 2].mean(), picture[:, columns // 2 :].mean()
    assert bottom < top - 0.05
    if darker[1]:
        assert (right < left - 0.05) == (darker[1] > 0)
    else:
        assert right == pytest.approx(left, abs=0.05)


def test_shadow_stays_on_its_side_when_the_image_is_turned() -> None:
    turned = coloured()
    pieces = (msgspec.structs.replace(turned.card.pieces[0], angle_deg=180.0),)
    turned = msgspec.structs.replace(turned, card=msgspec.structs.replace(turned.card, pieces=pieces))
    picture = lightness(paint(turned, pictures_of(turned)).astype(np.float32))
    y, x, half = round(40 * PX), round(40 * PX), round(8 * PX)
    assert picture[y : y + half, x : x + half].mean() < picture[y - half : y, x - half : x].mean() - 20


def test_a_part_that_stays_white_is_white_and_a_flat_part_is_about_its_shade() -> None:
    assert tones(coloured(())).min() == 1
    middle = tones(coloured((RUN[1],)))[60:-60, 60:-60].reshape(-1, 3).mean(axis=0)
    assert middle == pytest.approx(channels("#4f8a4a"), abs=0.03)


def test_undertone_and_dots_are_laid_by_absorption() -> None:
    """An undertone beneath darkens as both inks together do; dots darken only where they are."""
    plain, under = tones(coloured((RUN[2],))), tones(coloured((RUN[2],), undertone=Shade("#f4b8b4")))
    both = np.array(channels(mix(["#9cc08a", "#f4b8b4"], [1.0, 0.6])))
    assert under[60:-60, 60:-60].reshape(-1, 3).mean(axis=0) == pytest.approx(both, abs=0.04)
    dotted = tones(coloured((RUN[2],), dots=Shade("#6b4a30")))
    changed = np.abs(dotted - plain).max(axis=2) > 0.05
    assert 0.02 < changed.mean() < 0.3


def test_more_ink_lies_beside_what_overlaps() -> None:
    work = coloured()
    alone = lightness(tones(work))
    over = work_of(("toad", 40, 40), ("newt", 52, 40), stamps=(work.stash.find("toad"), stamp("newt", 10)))
    over = colour_parts(over, {"toad-1"}, [(1,)], shades=RUN)
    beside = lightness(tones(over))
    rows, columns = alone.shape
    edge = round((20 / 2 + 12 - 5) * PX)  # where the newt's left edge lies on the toad
    strip = np.s_[rows // 2 - 20 : rows // 2 + 20, edge - 14 : edge - 4]
    far = np.s_[rows // 2 - 20 : rows // 2 + 20, 8:20]
    assert beside[strip].mean() < alone[strip].mean() - 0.03
    assert beside[far] == pytest.approx(alone[far], abs=0.01)
    assert columns > edge


def test_a_rehearsal_shows_the_colours_and_masks_protect_them_from_a_later_wash() -> None:
    work = coloured()
    wash = Blend("wash-1", Form("rectangle", 100.0, 80.0), 60.0, 45.0, colour="#8f8fb8")
    work = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=(wash, *work.card.pieces)))
    pictures = pictures_of(work)
    made = plan(work)
    assert [press.masked for press in made.presses if press.is_ink] == [("toad-1",)]
    performed = rehearse(work, pictures, made)
    assert np.abs(performed.papers[-1].astype(int) - paint(work, pictures).astype(int)).max() <= 2
    assert performed.differences == ()
    y, x = round(36 * PX), round(36 * PX)
    assert performed.papers[-1][y, x, 1] > performed.papers[-1][y, x, 2] + 20  # green, no dusk over it


@pytest.mark.parametrize("order", ["dark first", "light first"])
def test_the_order_of_shades_changes_the_edges_not_the_shares(order: str) -> None:
    first, other = tones(coloured()), tones(set_card(coloured(), shade_order=order))
    assert (np.abs(first - other).max() > 0.02) == (order == "light first")
    assert other.mean() == pytest.approx(first.mean(), abs=0.02)


def test_a_touch_inks_its_own_place_only_whatever_other_touches_there_are() -> None:
    """A cheek's pink and an eye's black lie apart: each changes nothing outside its own ring."""
    work = work_of(("toad", 40, 40), stamps=(stamp("toad", 20.0),))
    places = {2: (-5.0, 0.0), 3: (5.0, 0.0), 4: (0.0, 6.0)}
    rings = {key: tuple((x + dx, y + dy) for x, y in square(3.0)) for key, (dx, dy) in places.items()}
    kinds = {2: "cheek", 3: "eye", 4: "white dot"}
    touches = tuple(Region(key, rings[key], kind=kinds[key]) for key in places)
    work = set_regions(work, "toad", (Region(1, square(18.8)), *touches), ())
    plain = tones(colour_parts(work, {"toad-1"}, [(1,)], shades=RUN))
    for key, colour in ((2, "#e58e88"), (3, "#202020"), (4, "#ffffff")):
        inked = colour_parts(
            colour_parts(work, {"toad-1"}, [(1,)], shades=RUN), {"toad-1"}, [(key,)], shades=(Shade(colour),)
        )
        changed = np.abs(tones(inked) - plain).max(axis=2) > 0.02
        rows, columns = np.nonzero(changed)
        x, y = (columns + 0.5) / PX - 10, (rows + 0.5) / PX - 10
        own_x, own_y = places[key]
        assert changed.sum() > 0.5 * (3.0 * PX) ** 2
        assert np.abs(x - own_x).max() < 1.7
        assert np.abs(y - own_y).max() < 1.7


def test_a_cheek_is_fullest_in_its_middle_and_fades_toward_its_edge() -> None:
    """Dabbed on a bare image: from its edge to its middle it grows darker, and is palest at the edge."""
    work = work_of(("toad", 40, 40), stamps=(stamp("toad", 20.0),))
    work = set_regions(work, "toad", (Region(1, square(18.8)), Region(2, square(8.0), kind="cheek")), ())
    inked = colour_parts(work, {"toad-1"}, [(2,)], shades=(Shade("#e07070"),))
    picture = lightness(tones(inked))
    row = picture[round(10 * PX)]
    dark = 1 - row / row[0]
    middle = dark[round(10 * PX)]
    assert middle == pytest.approx(dark.max(), abs=0.01)
    assert middle > 0.2
    at = [dark[round((6 + off) * PX)] / middle for off in (0.3, 0.7, 1.3, 3.0)]
    assert at == sorted(at)
    assert at[0] < 0.65
    assert at[0] < at[1] - 0.1
    assert at[3] > 0.95
