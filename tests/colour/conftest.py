"""Small images of a few closed boxes, and a box of markers."""

import numpy as np
import pytest

from fair_thicket.demo import CARD_FILE, SUPPLIES_FILE
from fair_thicket.files.card_file import open_card
from fair_thicket.files.supplies_csv import read_supplies
from fair_thicket.model.card import Work
from fair_thicket.model.supplies import Marker


@pytest.fixture(scope="session")
def markers() -> list[Marker]:
    """The demo's markers."""
    return [one for one in read_supplies(SUPPLIES_FILE) if isinstance(one, Marker)]


@pytest.fixture(scope="session")
def demo() -> tuple[Work, dict[str, bytes]]:
    """The demo card, coloured."""
    return open_card(CARD_FILE)


@pytest.fixture
def chance() -> np.random.Generator:
    """Chance that is the same every time."""
    return np.random.default_rng(3)
