"""A card is laid out once, whoever asks: counted over an edit with all that is thought about it afterwards."""

from collections import Counter
from collections.abc import Sequence

import pytest
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.edits.pieces import move_to
from fair_thicket.laid import stack as laying
from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import Card, Work
from hands import settle


def test_every_card_is_laid_at_most_once_for_one_edit(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    laid: list[Card] = []  # kept, so that no two of them share an id
    lay = laying.lay_leaves

    def counted(work: Work, earlier: Sequence[Leaf]) -> tuple[Leaf, ...]:
        laid.append(work.card)
        return lay(work, earlier)

    session = window.session
    settle(qtbot, session)
    monkeypatch.setattr(laying, "lay_leaves", counted)
    session.edit("move the toad", lambda work: move_to(work, "toad-postmaster-1", (61.0, 70.0)))
    settle(qtbot, session)
    assert any(card is session.work.card for card in laid)
    assert set(Counter(id(card) for card in laid).values()) == {1}
