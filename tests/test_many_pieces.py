"""Cards of very many pieces: everything is looked at, and what there was no time for is said."""

import pytest

from cases import STASH
from fair_thicket.advice import advise
from fair_thicket.laid.visibility import see
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Border, Cutout, Embellishment, Impression, Piece, Strip

COUNT = 300
KINDS: dict[str, list[Piece]] = {
    "borders": [Border(f"b-{k}", "wave", 139.7, 69.85, 10 + 0.3 * k) for k in range(COUNT)],
    "cutouts": [Cutout(f"c-{k}", "leaf", 10 + k % 20 * 6, 8 + k // 20 * 6) for k in range(COUNT)],
    "strips": [Strip(f"s-{k}", 20, 6, 15 + k % 10 * 11, 5 + k // 10 * 3, words="hi") for k in range(COUNT)],
    "sequins": [Embellishment(f"e-{k}", size_mm=4.0, x=5 + k % 25 * 5, y=5 + k // 25 * 8) for k in range(COUNT)],
    "stamped": [Impression(f"i-{k}", "leaf", 10 + k % 20 * 6, 8 + k // 20 * 6) for k in range(COUNT)],
}


@pytest.mark.parametrize("kind", KINDS)
def test_every_piece_of_a_crowded_card_is_seen_and_what_was_not_thought_through_is_said(kind: str) -> None:
    work = Work(Card(pieces=tuple(KINDS[kind])), STASH)
    assert len(see(work)) == COUNT
    findings = advise(work, seconds=0.0)  # however quick the machine is: there is no time
    assert findings
    assert "unthought" in {one.code for one in findings} or kind == "sequins"


def test_a_chain_of_pieces_that_lie_on_one_another_goes_on_to_its_end() -> None:
    pieces = [
        Strip(f"s-{k}", 20, 6, 30 + 0.2 * k, 30 + 0.1 * k, on=f"s-{k - 1}" if k else "", words="hi")
        for k in range(COUNT)
    ]
    assert len(see(Work(Card(pieces=tuple(pieces)), STASH))) == COUNT
