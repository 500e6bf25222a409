"""Mixing of inks against figures by hand, the craft, and a reference library for colour.

Kubelka-Munk's K/S = (1 - R)^2 / 2R: P. Kubelka and F. Munk, Zeitschrift für technische Physik 12, 1931 (from memory).
That blue over yellow goes green, and that a pale grey-blue between them prevents it, is common practice.
CIELAB: scikit-image's rgb2lab with its D65 white.
"""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.color import rgb2lab

from fair_thicket.ink.mixing import (
    absorption,
    blend,
    chroma_of,
    find_bridge,
    from_linear,
    hue_of,
    mix,
    reflectance,
    to_lab,
    to_linear,
    trouble_between,
)
from fair_thicket.model.palette import PALETTE

YELLOW, BLUE, GREY_BLUE = "#f2c11f", "#2b4c9b", "#c9d2dc"
DULL = 12.0
COLOURS = st.integers(0, 0xFFFFFF).map(lambda value: f"#{value:06x}")


def hues_on_the_way(inks: list[str]) -> list[float]:
    """Hues met on the way through a row of inks, degrees; greys are left out."""
    way = [one for pair in itertools.pairwise(inks) for one in blend(*pair, 9)]
    return [hue_of(one) for one in way if chroma_of(one) >= DULL]


@pytest.mark.parametrize(("level", "expected"), [(0.5, 0.25), (1.0, 0.0), (0.25, 1.125), (0.1, 4.05)])
def test_k_over_s_by_hand(level: float, expected: float) -> None:
    assert float(absorption(level)) == pytest.approx(expected)
    assert float(reflectance(expected)) == pytest.approx(level)


def test_white_and_white_is_white_and_one_ink_alone_is_itself() -> None:
    assert mix(["#ffffff", "#ffffff"]) == "#ffffff"
    assert mix([BLUE]) == BLUE
    assert mix([BLUE, "#ffffff"]) == BLUE
    assert mix([]) == "#ffffff"


@given(COLOURS, COLOURS)
def test_laying_an_ink_over_another_only_takes_light_away_and_order_does_not_matter(one: str, other: str) -> None:
    both = to_linear(mix([one, other]))
    assert (both <= np.minimum(np.maximum(to_linear(one), 0.004), np.maximum(to_linear(other), 0.004)) + 0.004).all()
    assert mix([one, other]) == mix([other, one])


@given(COLOURS)
def test_cielab_equals_the_reference_library(colour: str) -> None:
    parts = np.array([int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)])
    assert to_lab(colour) == pytest.approx(rgb2lab(parts[None, None])[0, 0].tolist(), abs=0.05)
    assert from_linear(to_linear(colour)) == colour


def test_yellow_with_blue_goes_green_and_averaging_would_not_show_it() -> None:
    middle = mix([YELLOW, BLUE], [0.5, 0.5])
    assert 90 < hue_of(middle) < 180
    averaged = "#" + "".join(
        f"{(int(YELLOW[at : at + 2], 16) + int(BLUE[at : at + 2], 16)) // 2:02x}" for at in (1, 3, 5)
    )
    assert chroma_of(averaged) < chroma_of(middle)
    assert trouble_between(YELLOW, BLUE) == "hue"


def test_a_pale_grey_blue_bridges_them_and_keeps_green_away() -> None:
    assert find_bridge(YELLOW, BLUE, ["#c04040", GREY_BLUE, "#20a040"]) == GREY_BLUE
    hues = hues_on_the_way([YELLOW, GREY_BLUE, BLUE])
    plain = hues_on_the_way([YELLOW, BLUE])
    green = [hue for hue in plain if 110 < hue < 200]
    assert len(green) >= 3
    bridged = [hue for hue in hues if 110 < hue < 200]
    assert len(bridged) < len(green)


def test_complements_make_mud_and_neighbours_do_not() -> None:
    assert trouble_between("#c8372d", "#2f8f4e") == "mud"
    assert trouble_between("#e8b020", "#e07a20") == ""
    assert trouble_between("#3f66b0", "#5f8fa3") == ""
    assert trouble_between("#888888", BLUE) == ""
    assert find_bridge("#e8b020", "#e07a20", [GREY_BLUE]) is None


def test_every_bridge_that_is_found_helps() -> None:
    inks = [code for _, code in PALETTE]
    found = 0
    for first in inks:
        for second in inks:
            bridge = find_bridge(first, second, inks)
            if bridge is not None:
                assert trouble_between(first, bridge) == ""
                assert trouble_between(bridge, second) == ""
                found += 1
    assert found > 0


def test_a_blend_begins_and_ends_with_its_inks() -> None:
    way = blend(YELLOW, BLUE, 5)
    assert (way[0], way[-1], len(way)) == (YELLOW, BLUE, 5)
    light = [to_lab(one)[0] for one in way]
    assert light[0] == max(light)
