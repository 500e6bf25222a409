"""A finish more is one row: it is drawn, counted, laid at its height, told at the table and said by its noun."""

from typing import get_args

import numpy as np
import pytest

from cases import STASH
from fair_thicket.advice import advise
from fair_thicket.assembly.last_steps import say_finish
from fair_thicket.ink.painting import paint
from fair_thicket.laid.heights import find_heights
from fair_thicket.laid.stack import stack
from fair_thicket.model import finishes
from fair_thicket.model.card import Card, Work, name_pieces
from fair_thicket.model.finishes import FINISHES, Finish, FinishKind
from fair_thicket.model.pieces import Embellishment, Form, Panel
from fair_thicket.shape.spots import OUTLINES
from making import pictures_of

TWO = ((0.0, 0.0), (20.0, 0.0))
BRADS = Embellishment("brads", 10.0, 50.0, 50.0, shape="brad", spots=TWO, colour="#8a5a2b")  # type: ignore[arg-type]
GROUND = Panel("ground", Form("rectangle", 100.0, 80.0), 60.0, 50.0, colour="#8a5a2b")
BRAD = FinishKind(
    "brad", "brads", 1.5, "", "Push in", "brads, a piercing tool", False, "mind the prongs",
    spot="hexagon", shine="light", is_scattered=True,
)  # fmt: skip


@pytest.fixture
def work(monkeypatch: pytest.MonkeyPatch) -> Work:
    monkeypatch.setattr(finishes, "FINISHES", {**FINISHES, "brad": BRAD})
    return Work(Card(pieces=(GROUND, BRADS)), STASH)


def test_it_is_drawn_and_cut_as_its_outline_says(work: Work) -> None:
    """Two hexagons with corners 5 mm from the middle: each 3 * sqrt(3) / 2 * 25 = 64.95 mm2; a light on each."""
    (leaf,) = [leaf for leaf in stack(work) if leaf.key == "brads"]
    assert leaf.area.area == pytest.approx(2 * 64.952, abs=0.01)
    picture = paint(work, pictures_of(work), dpi=254)
    lit = [np.argwhere((picture[450:550, left : left + 100] > 200).any(axis=2)) for left in (450, 650)]
    assert all(len(one) > 50 for one in lit)


def test_it_is_counted_and_said_by_its_noun(work: Work) -> None:
    assert name_pieces(work)["brads"] == "brads"
    assert any(one.code == "even-group" and "brads" in one.title + one.text for one in advise(work))


def test_it_lies_at_its_height_and_is_told_at_the_table(work: Work) -> None:
    """Its ground is one sheet thick, and it adds 1.5 mm."""
    heights = find_heights(work)
    assert heights.find("brads").top_mm == pytest.approx(heights.find("ground").top_mm + 1.5)
    words, minutes, tool = say_finish(BRADS, "brads")
    assert (words, minutes, tool) == ("Push in the brads; mind the prongs", 0.6, "brads, a piercing tool")


def test_every_finish_has_a_row_and_every_outline_is_some_finishs() -> None:
    assert set(FINISHES) == set(get_args(Finish))
    assert {kind.spot for kind in FINISHES.values()} == set(OUTLINES)
