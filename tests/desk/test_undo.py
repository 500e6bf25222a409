"""Undo of everything gives back the first card, bit for bit."""

import random

import pytest
from pytestqt.qtbot import QtBot

from cases import STASH
from fair_thicket.desk.session.session import Session
from fair_thicket.files.card_file import encode_card
from fair_thicket.model.card import Card, Work
from random_scenes import random_edits


@pytest.mark.parametrize("block", range(4))
def test_on_200_random_scenes_undo_of_everything_returns_the_first_card(block: int, qtbot: QtBot) -> None:
    del qtbot  # there must be an application
    session = Session()
    for seed in range(block * 50, block * 50 + 50):
        dice = random.Random(seed)
        session.start(Work(Card(), STASH), {})
        first = encode_card(session.whole)
        for number, edit in enumerate(random_edits(dice, 12)):
            session.edit("random", edit)
            if number == 6:
                session.open_card(is_open=dice.random() < 0.5)
        last = encode_card(session.whole)
        steps = session.undo_stack.count()
        for _ in range(steps):
            session.undo_stack.undo()
        assert encode_card(session.whole) == first
        for _ in range(steps):
            session.undo_stack.redo()
        assert encode_card(session.whole) == last
    session.close()
