"""Whatever is done to a card, its file opens again as the very same, and undo gives the first bytes."""

import os
import random

import msgspec
import pytest

from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import decode_card, encode_card, open_card
from fair_thicket.laid.soundness import check_work
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work
from fair_thicket.model.derived import begin_with
from fair_thicket.model.errors import UnsoundError
from wild_edits import wild_edit

EDITS = int(os.environ.get("WILD_EDITS", "120"))
"""In all; more by the environment."""
AT_ONCE = 100


def take(work: Work, after: Work) -> Work:
    """Take an edit as the session does: held against every limit, refused in a sentence."""
    if after is work:
        return work
    try:
        check_work(after, work)
    except UnsoundError:
        return work
    return after


@pytest.mark.parametrize("seed", range(max(1, EDITS // AT_ONCE)))
def test_after_every_random_edit_the_file_opens_equal_and_the_leaves_lie(seed: int) -> None:
    dice = random.Random(seed)
    work, _ = open_card(CARD_FILES[seed % len(CARD_FILES)])
    first, steps = encode_card(work), [work]
    stack(work)
    for _ in range(AT_ONCE):
        after = take(work, wild_edit(work, dice))
        if after is work:
            continue
        opened = decode_card(encode_card(after), "card")
        assert opened == after
        leaves = stack(begin_with(after, work))
        fresh = stack(msgspec.structs.replace(after))  # an equal card that begins with nothing
        assert [(leaf.key, leaf.area.wkb) for leaf in leaves] == [(leaf.key, leaf.area.wkb) for leaf in fresh]
        work = after
        steps.append(work)
    assert encode_card(steps[0]) == first
