"""Contrast against WCAG 2's own figures, and the arithmetic of borders, rings and bases."""

import pytest

from fair_thicket.edits.openings import ring_width
from fair_thicket.ink.contrast import contrast, luminance
from fair_thicket.model.errors import PaperError
from fair_thicket.model.formats import Fold, all_round, border_of, find_format, smallest_envelope
from fair_thicket.model.units import MM_PER_INCH, Unit, say_length


@pytest.mark.parametrize(
    ("first", "second", "expected"),
    [
        ("#000000", "#ffffff", 21.0),  # WCAG 2.1, “contrast ratio”: ratios range from 1 to 21
        ("#777777", "#ffffff", 4.48),  # the grey that just fails success criterion 1.4.3 on white (published widely)
        ("#767676", "#ffffff", 4.54),  # and the one that just passes it
        ("#ffffff", "#ffffff", 1.0),
    ],
)
def test_contrast_is_that_of_wcag_2(first: str, second: str, expected: float) -> None:
    assert contrast(first, second) == pytest.approx(expected, abs=0.005)
    assert contrast(second, first) == contrast(first, second)


def test_luminance_weighs_the_channels_as_srgb_does() -> None:
    """IEC 61966-2-1 / WCAG 2.1: red 0.2126, green 0.7152, blue 0.0722."""
    assert [luminance(one) for one in ("#ff0000", "#00ff00", "#0000ff")] == pytest.approx([0.2126, 0.7152, 0.0722])


def inches(*values: float) -> tuple[float, ...]:
    return tuple(value * MM_PER_INCH for value in values)


def test_borders_of_panel_and_mat_on_an_a2_front() -> None:
    """Common practice: panel 3 3/4 x 5 in mat 4 1/8 x 5 3/8 on 4 1/4 x 5 1/2 shows 3/16 and 1/16 in."""
    panel, mat, front = inches(3.75, 5), inches(4.125, 5.375), inches(4.25, 5.5)
    inner, outer = border_of(mat, panel), border_of(front, mat)
    assert [say_length(side, Unit.INCH) for side in (inner.left, inner.top)] == ["3/16 in", "3/16 in"]
    assert [say_length(side, Unit.INCH) for side in (outer.right, outer.bottom)] == ["1/16 in", "1/16 in"]
    assert inner.is_even
    assert outer.is_even
    assert not border_of(mat, panel, off=(1.0, 0.0)).is_even


def test_an_eighth_all_round_is_a_quarter_off_each_way() -> None:
    """Common practice: 1/8 all round off A2 gives 4 x 5 1/4."""
    assert all_round(inches(4.25, 5.5), MM_PER_INCH / 8) == pytest.approx(inches(4, 5.25))
    with pytest.raises(PaperError, match="leaves nothing"):
        all_round(inches(1, 1), MM_PER_INCH / 2)


def test_a_ring_is_half_the_difference_of_its_dies_wide() -> None:
    assert ring_width(*inches(2.5, 2.0)) == pytest.approx(MM_PER_INCH / 4)  # common practice


@pytest.mark.parametrize(
    ("key", "fold", "blank", "score"),
    [
        ("a2", Fold.TOP, (4.25, 11), 5.5),  # common practice: 4 1/4 x 11 scored at 5 1/2
        ("a2", Fold.SIDE, (8.5, 5.5), 4.25),
        ("slimline", Fold.SIDE, (7, 8.5), 3.5),  # common practice: 7 x 8 1/2 scored at 3 1/2
    ],
)
def test_bases_are_cut_and_scored(key: str, fold: Fold, blank: tuple[float, float], score: float) -> None:
    width, height, at = find_format(key).blank(fold, landscape=False)
    assert (width, height, at) == pytest.approx(inches(*blank, score))


def test_the_smallest_envelope_that_takes_a_card_is_found() -> None:
    a2 = smallest_envelope(*inches(4.25, 5.5))
    assert a2 is not None
    assert a2.name == "A2 envelope"
    assert smallest_envelope(400, 400) is None
