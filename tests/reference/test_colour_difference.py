"""CIEDE2000 against published figures, and against reference libraries on colours by chance.

The 34 pairs: Sharma, Wu and Dalal, The CIEDE2000 color-difference formula, Color Research and Application 30 (2005),
table 1; written down from memory, and each figure confirmed by scikit-image and coloraide below.
"""

import numpy as np
import pytest
from coloraide import Color
from skimage.color import deltaE_ciede2000, rgb2lab

from fair_thicket.ink.difference import difference, difference_of, labs_of

PAIRS = [
    (50, 2.6772, -79.7751, 50, 0, -82.7485, 2.0425),
    (50, 3.1571, -77.2803, 50, 0, -82.7485, 2.8615),
    (50, 2.8361, -74.0200, 50, 0, -82.7485, 3.4412),
    (50, -1.3802, -84.2814, 50, 0, -82.7485, 1.0000),
    (50, -1.1848, -84.8006, 50, 0, -82.7485, 1.0000),
    (50, -0.9009, -85.5211, 50, 0, -82.7485, 1.0000),
    (50, 0, 0, 50, -1, 2, 2.3669),
    (50, -1, 2, 50, 0, 0, 2.3669),
    (50, 2.4900, -0.0010, 50, -2.4900, 0.0009, 7.1792),
    (50, 2.4900, -0.0010, 50, -2.4900, 0.0010, 7.1792),
    (50, 2.4900, -0.0010, 50, -2.4900, 0.0011, 7.2195),
    (50, 2.4900, -0.0010, 50, -2.4900, 0.0012, 7.2195),
    (50, -0.0010, 2.4900, 50, 0.0009, -2.4900, 4.8045),
    (50, -0.0010, 2.4900, 50, 0.0010, -2.4900, 4.8045),
    (50, -0.0010, 2.4900, 50, 0.0011, -2.4900, 4.7461),
    (50, 2.5, 0, 50, 0, -2.5, 4.3065),
    (50, 2.5, 0, 73, 25, -18, 27.1492),
    (50, 2.5, 0, 61, -5, 29, 22.8977),
    (50, 2.5, 0, 56, -27, -3, 31.9030),
    (50, 2.5, 0, 58, 24, 15, 19.4535),
    (50, 2.5, 0, 50, 3.1736, 0.5854, 1.0000),
    (50, 2.5, 0, 50, 3.2972, 0, 1.0000),
    (50, 2.5, 0, 50, 1.8634, 0.5757, 1.0000),
    (50, 2.5, 0, 50, 3.2592, 0.3350, 1.0000),
    (60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644),
    (63.0109, -31.0961, -5.8663, 62.8187, -29.7946, -4.0864, 1.2630),
    (61.2901, 3.7196, -5.3901, 61.4292, 2.2480, -4.9620, 1.8731),
    (35.0831, -44.1164, 3.7933, 35.0232, -40.0716, 1.5901, 1.8645),
    (22.7233, 20.0904, -46.6940, 23.0331, 14.9730, -42.5619, 2.0373),
    (36.4612, 47.8580, 18.3852, 36.2715, 50.5065, 21.2231, 1.4146),
    (90.8027, -2.0831, 1.4410, 91.1528, -1.6435, 0.0447, 1.4441),
    (90.9257, -0.5406, -0.9208, 88.6381, -0.8985, -0.7239, 1.5381),
    (6.7747, -0.2908, -2.4247, 5.8714, -0.0985, -2.2286, 0.6377),
    (2.0776, 0.0795, -1.1350, 0.9033, -0.0636, -0.5514, 0.9082),
]  # fmt: skip


def test_all_published_pairs_within_a_ten_thousandth() -> None:
    table = np.array(PAIRS)
    assert len(table) == 34
    found = difference(table[:, :3], table[:, 3:6])
    assert np.abs(found - table[:, 6]).max() < 1e-4
    assert difference(table[:, 3:6], table[:, :3]) == pytest.approx(found)


def test_the_published_figures_are_remembered_rightly() -> None:
    """A figure that was remembered wrongly would not be what two libraries give."""
    table = np.array(PAIRS)
    assert np.abs(deltaE_ciede2000(table[:, :3], table[:, 3:6]) - table[:, 6]).max() < 1e-4
    for row in table:
        one, other = (Color("lab-d65", row[start : start + 3].tolist()) for start in (0, 3))
        assert one.delta_e(other, method="2000", space="lab-d65") == pytest.approx(row[6], abs=1e-4)


def test_ten_thousand_colours_by_chance_agree_with_a_reference_library() -> None:
    chance = np.random.default_rng(5)
    one, other = (rgb2lab(chance.random((10_000, 3))) for _ in range(2))
    assert np.abs(difference(one, other) - deltaE_ciede2000(one, other)).max() < 1e-8


def test_colours_as_written() -> None:
    assert difference_of("#4f8a4a", "#4f8a4a") == 0
    assert difference_of("#000000", "#ffffff") == pytest.approx(100, abs=1e-3)
    assert difference(labs_of([]), labs_of([])).shape == (0,)
