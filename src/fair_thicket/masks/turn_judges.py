"""What is to be said of when images are stamped: a turn that the maker wants and that paper does not let be."""

from collections.abc import Iterator

import msgspec

from fair_thicket.laid.by_hand import why_not_by_hand
from fair_thicket.masks.problem_of_card import pose
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.pieces import Impression
from fair_thicket.model.speech import join_words


def judge_turns(work: Work) -> Iterator[Finding]:
    """Tell images that cannot be stamped when the maker wants them."""
    names = name_pieces(work)
    for piece in work.card.pieces:
        if isinstance(piece, Impression) and piece.stamped == "by hand":
            yield from _not_by_hand(work, piece, names)
        elif isinstance(piece, Impression) and piece.stamped == "over dry inks":
            yield from _not_after_inks(work, piece, names)


def _not_by_hand(work: Work, piece: Impression, names: dict[str, str]) -> Iterator[Finding]:
    why, others = why_not_by_hand(work, piece)
    if why:
        told = f": {join_words([f'the {names[key]}' for key in others[:3]])}" if others else ""
        yield Finding(
            "not-by-hand", Weight.CAUTION, f"The {names[piece.id]} cannot be stamped by hand at the end",
            f"It {why}{told}. By hand goes only a small stamp on flat, free ground; it is stamped with the others "
            "instead.",
            float(len(others)), "count", (piece.id, *others),
            remedy=Remedy("Stamp it with the others", (msgspec.structs.replace(piece, stamped="before inks"),)),
            station="masks",
        )  # fmt: skip


def _not_after_inks(work: Work, piece: Impression, names: dict[str, str]) -> Iterator[Finding]:
    """Tell an image that cannot wait, since a coloured image behind it is stamped over its mask, and masked itself."""
    problem = pose(work, piece.on)
    own = [index for index, one in enumerate(problem.stampings) if one.piece == piece.id]
    late = problem.late
    over = any(problem.stampings[j].is_wash for i in own for j in problem.overlaps[i])
    if not own or not over or any(i in late for i in own):
        return
    behind = [problem.stampings[j] for i in own for j in problem.behind[i]]
    coloured = list(dict.fromkeys(names[one.piece] for one in behind if one.shuns_wash))
    told = f" {join_words(coloured)} behind it" if coloured else " what is behind it"
    yield Finding(
        "not-after-inks", Weight.CAUTION, f"The {names[piece.id]} cannot wait for the ink to dry",
        f"It is masked while{told} is stamped, and that is coloured and masked before any ink. Put it behind, or "
        "colour nothing there; as it is, it is stamped first.",
        float(len(coloured)), "count", (piece.id,),
        remedy=Remedy("Stamp it first", (msgspec.structs.replace(piece, stamped="before inks"),)),
        station="masks",
    )  # fmt: skip
