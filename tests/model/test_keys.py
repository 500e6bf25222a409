"""Keys are built and read in one module."""

import doctest
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fair_thicket.model import keys
from fair_thicket.model.keys import PieceKey, flap_key, image_key, is_flap, part_key, piece_key, read_key

SOURCE = Path(keys.__file__).parents[1]
NUMBERS = st.none() | st.integers(0, 400)


@given(st.from_regex(r"\A[a-z0-9][a-z0-9-]{0,20}\Z"), NUMBERS, NUMBERS, NUMBERS)
def test_what_is_built_is_read_again(piece: str, part: int | None, flap: int | None, layer: int | None) -> None:
    key = PieceKey(piece, part, flap, layer)
    assert read_key(str(key)) == key
    assert piece_key(str(key)) == piece
    assert image_key(str(key)) == str(key._replace(layer=None))
    assert is_flap(str(key)) == (flap is not None)


def test_keys_look_as_card_files_have_them() -> None:
    assert (flap_key("vine-1", 2), part_key("snail-1", 0)) == ("vine-1~2", "snail-1+0")


def test_a_key_whose_number_is_none_is_refused() -> None:
    with pytest.raises(ValueError, match="invalid literal"):
        read_key("toad-1/two")


def test_examples_in_the_docstrings_hold() -> None:
    tried = doctest.testmod(keys)
    assert (tried.failed, tried.attempted > 2) == (0, True)


def test_no_other_module_reads_or_builds_keys() -> None:
    """Neither by their signs alone, nor by a sign between two fields."""
    signs = re.compile(r'"[~+/]" (not )?in |partition\("[~+]"\)|split\("[~+]"\)|\{[\w.]+\}[~+]\{[\w.]+\}')
    found = [
        str(file) for file in SOURCE.rglob("*.py") if file != Path(keys.__file__) and signs.search(file.read_text())
    ]
    assert not found
