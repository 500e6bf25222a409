"""Words as rehearsed, letter by letter: some that nobody can read though the greeting as a whole can be read."""

from collections.abc import Iterator, Mapping

from fair_thicket.ink.letters import Letter, measure_letters
from fair_thicket.masks.differences import PX_PER_MM
from fair_thicket.masks.rehearsal import Rehearsal
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work, is_greeting, name_pieces
from fair_thicket.model.finding import Finding, Weight

LOST, MELTED = 0.6, 1.2
"""A letter of which less is there, or that stands out by less, is lost (our own estimate)."""
HARD = 3.0
"""Below this even large letters are hard to read (WCAG 2.1, success criterion 1.4.3)."""


def judge_letters(work: Work, rehearsal: Rehearsal, pictures: Mapping[str, bytes]) -> Iterator[Finding]:
    """Tell greetings of which some letters, not all, are lost or hard to read on the rehearsed card."""
    names, picture = name_pieces(work), rehearsal.papers[-1]
    for piece in work.card.pieces:
        if not is_greeting(piece, work.stash):
            continue
        letters = measure_letters(piece, work.stash, pictures, picture, PX_PER_MM)
        lost = [one for one in letters if round(one.there, 2) < LOST or one.contrast < MELTED]
        low = min(HARD, work.card.limits.contrast)
        hard = [one for one in letters if one not in lost and one.contrast < low]
        if lost:
            yield Finding(
                "letters-lost", Weight.TROUBLE, f"{len(lost)} of {len(letters)} letters are lost",
                f"Of the {names[piece.id]} {len(lost)} of {len(letters)} letters fall beside the card, are covered, "
                f"or melt into their ground; of the worst {_seen_of(lost):.0%} is seen. Move it, make its letters "
                "smaller, or break the line.",
                len(lost) / len(letters), "share", (piece.id,), _rings(lost), station="scene",
            )  # fmt: skip
        elif 0 < len(hard) < len(letters):
            worst = min(one.contrast for one in hard)
            yield Finding(
                "letters", Weight.CAUTION, f"{len(hard)} of {len(letters)} letters are hard to read",
                f"On the rehearsed card the worst letter of the {names[piece.id]} has a contrast of {worst:.1f} to 1 "
                "against what lies behind it; the others are read. Move the words off that, or take powder or another "
                "ink.",
                worst, "ratio", (piece.id,), _rings(hard), station="scene",
            )  # fmt: skip


def _seen_of(lost: list[Letter]) -> float:
    """Return the share of the worst letter that is seen: none of one that melts into its ground."""
    return min(0.0 if one.contrast < MELTED else one.there for one in lost)


def _rings(letters: list[Letter]) -> tuple[Ring, ...]:
    """Return boxes round letters on the panel, mm."""
    rings: list[Ring] = []
    for one in letters:
        rows, columns = one.window
        left, right = columns.start / PX_PER_MM, columns.stop / PX_PER_MM
        top, low = rows.start / PX_PER_MM, rows.stop / PX_PER_MM
        if left < right and top < low:
            rings.append(((left, top), (right, top), (right, low), (left, low)))
    return tuple(rings)
