"""Everything lands piece by piece, with shadows by height; the last picture is the card."""

import numpy as np
import pytest

from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.ink.painter import Look
from fair_thicket.ink.painting import paint
from fair_thicket.laid.stack import stack
from fair_thicket.masks import land, last_on_table, plan_with_pins, rehearse
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Cutout, Impression, is_glued
from fair_thicket.model.stash import Stash
from making import EVERY, PX_PER_MM, pictures_of, stamp


@pytest.mark.parametrize("number", range(0, len(CARD_FILES), 1 if EVERY == 1 else 2))
def test_the_last_picture_of_a_demo_card_is_the_card_with_its_shadows(number: int) -> None:
    work, pictures = open_card(CARD_FILES[number])
    plan = plan_with_pins(work)[0]
    landing = land(plan, rehearse(work, pictures, plan))
    card = paint(work, pictures, dpi=300, look=Look(shadows=True))
    apart = np.abs(landing.papers[-1].astype(int) - card).max(axis=2)
    assert (apart > 3).mean() < 0.004
    glued = {leaf.piece.id for leaf in stack(work) if is_glued(leaf.piece)}
    assert {key for key, kind in zip(landing.pieces, landing.kinds, strict=True) if kind in {"glue", "finish"}} == glued
    assert len(landing.papers) == len(landing.pieces) + 1


def test_a_raised_piece_lands_with_a_longer_shadow_and_a_trail_by_hand_at_the_end() -> None:
    flat, raised = Cutout("a", "toad", 30, 60, margin_mm=0.0), Cutout("b", "toad", 90, 60, margin_mm=0.0, lift_mm=3.0)
    trail = Impression("t", "trail", 60, 60, stamped="by hand")
    work = Work(Card(pieces=(trail, flat, raised)), Stash((stamp("toad", 20.0), stamp("trail", 12.0))))
    plan, pictures = plan_with_pins(work)[0], pictures_of(work)
    landing = land(plan, rehearse(work, pictures, plan))
    assert landing.pieces == ("a", "b", "t")
    assert landing.kinds == ("glue", "glue", "stamp")
    assert (landing.papers[0] == 255).all(), "the trail is not there yet"
    assert last_on_table(plan) == len(plan.presses) - 1

    def shade_beside(x_mm: float, frame: int) -> int:
        row = landing.papers[frame][round(60 * PX_PER_MM), :, 0]
        return int((row[round((x_mm + 10.2) * PX_PER_MM) : round((x_mm + 16) * PX_PER_MM)] < 250).sum())

    assert 0 < shade_beside(30, 3) < shade_beside(90, 3)
    changed = (landing.papers[2] != landing.papers[3]).any(axis=(0, 2)).nonzero()[0] / PX_PER_MM
    assert 53 < changed.min() < changed.max() < 67
