"""Pictures of steps: each is the card with what has landed by then, however one got there."""

import itertools

import numpy as np

from fair_thicket.assembly.picturing import LOOK, picture_steps
from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.ink.painting import paint
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Cutout, Form, Panel
from fair_thicket.model.stash import Stash
from making import pictures_of, stamp


def test_laid_on_piece_by_piece_the_last_picture_is_the_card_and_none_depends_on_those_before() -> None:
    work, pictures = open_card(CARD_FILES[1])
    ids = [piece.id for piece in work.card.pieces]
    landed = [frozenset(ids[:number]) for number in range(1, len(ids) + 1)]
    shown = list(picture_steps(work, pictures, landed, dpi=60))
    assert (shown[-1] == paint(work, pictures, dpi=60, look=LOOK)).all()
    for number in (0, 5, len(ids) - 2):
        (alone,) = picture_steps(work, pictures, [landed[number]], dpi=60)
        assert (alone == shown[number]).all()
    changed = [int((one != then).any(axis=2).sum()) for one, then in itertools.pairwise(shown)]
    assert sum(count > 0 for count in changed) >= len(changed) - 1


def test_what_lands_underneath_is_laid_under_and_its_surface_comes_with_it() -> None:
    pieces = (
        Panel("ground", Form("rectangle", 100, 80), 70, 54, colour="#c0d0c0"),
        Cutout("a", "toad", 60, 50, margin_mm=0.0, on="ground", colour="#d04040"),
        Cutout("b", "toad", 66, 50, margin_mm=0.0, on="ground", colour="#4040d0"),
    )
    work = Work(Card(pieces=pieces), Stash((stamp("toad", 20.0),)))
    first, then = picture_steps(work, pictures_of(work), [{"b"}, {"a", "b"}], dpi=50)
    px = 50 / 25.4
    between = (round(50 * px), round(62 * px))
    assert (first[between] == then[between]).all(), "b lies over a"
    assert first[round(20 * px), round(70 * px)].tolist() == [0xC0, 0xD0, 0xC0], "the ground came with b"
    left = (round(50 * px), round(53 * px))
    assert not np.array_equal(first[left], then[left])
