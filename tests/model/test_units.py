"""Lengths as makers say and type them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fair_thicket.model.errors import LengthError
from fair_thicket.model.units import Unit, parse_length, say_length, say_size

TYPED = [
    ("4 1/8", 104.775),
    ("4 1/8 in", 104.775),
    ('4.125"', 104.775),
    ("4-1/8 inches", 104.775),
    ("½", 12.7),
    ("2½ in", 63.5),
    ("105 mm", 105.0),
    ("10.5cm", 105.0),
    ("10,5 cm", 105.0),
    ("-3/16", -4.7625),
    ("\u22121 in", -25.4),
    (".5 in", 12.7),
    ("0", 0.0),
    ("1 millimetre", 1.0),
]


@pytest.mark.parametrize(("text", "length"), TYPED)
def test_a_typed_length_is_read_in_the_unit_it_names(text: str, length: float) -> None:
    assert parse_length(text, Unit.INCH) == pytest.approx(length)


def test_a_bare_number_takes_the_makers_unit() -> None:
    assert parse_length("12", Unit.MM) == 12.0
    assert parse_length("12", Unit.INCH) == pytest.approx(304.8)


@pytest.mark.parametrize(
    "text", ["", "abc", "1/0", "4 1/8 7", "4.5 1/2", "nan", "inf", "1e9", "99999 cm", "4 ft", "1/2/3", "--1", "m" * 500]
)
def test_what_is_no_length_is_refused_with_examples(text: str) -> None:
    with pytest.raises(LengthError, match="type it like 4 1/8") as caught:
        parse_length(text)
    assert len(str(caught.value)) < 140


@pytest.mark.parametrize(
    ("length", "inches", "metric"),
    [
        (104.775, "4 1/8 in", "104.8 mm"),
        (25.4, "1 in", "25.4 mm"),
        (12.7, "1/2 in", "12.7 mm"),
        (-4.7625, "-3/16 in", "-4.8 mm"),
        (0.3, "under 1/16 in", "0.3 mm"),
        (0.0, "0 in", "0 mm"),
        (-0.01, "0 in", "0 mm"),
        (50.0, "1 15/16 in", "50 mm"),
    ],
)
def test_a_length_is_said_as_read_from_a_ruler(length: float, inches: str, metric: str) -> None:
    assert (say_length(length, Unit.INCH), say_length(length, Unit.MM)) == (inches, metric)


def test_a_size_names_its_unit_once() -> None:
    assert say_size(107.95, 139.7, Unit.INCH) == "4 1/4 × 5 1/2 in"
    assert say_size(105, 148, Unit.MM) == "105 × 148 mm"


@given(st.integers(1, 3000))
def test_a_length_in_sixteenths_survives_being_said_and_read(sixteenths: int) -> None:
    length = sixteenths * 25.4 / 16
    assert parse_length(say_length(length, Unit.INCH), Unit.MM) == pytest.approx(length)
