"""Card documents of earlier versions, brought up to the present one a version at a time.

Versions 1 to 4 differ from the next only in what they could not hold yet. Up to version 5 every wash was one kind of
piece, with the fields of all kinds; since version 6 each kind is a piece of its own.

A document is plain JSON here and may be anything: what is not as expected is left for the reader to refuse.
"""

from collections.abc import Callable, Iterator, Mapping
from types import MappingProxyType
from typing import Any

from fair_thicket.model.pieces import Blend, Paste, Splatter, Stencilled, Texture, Water

Upgrade = Callable[[dict[str, Any]], None]
KINDS = MappingProxyType(
    {
        "blend": Blend,
        "stencil": Stencilled,
        "splatter": Splatter,
        "water": Water,
        "paste": Paste,
        "texture": Texture,
    }
)
OF_SOME_KINDS = frozenset(
    {"stencil", "lays", "reach_mm", "taped", "drops", "seed", "mark", "mark_mm", "pitch_mm", "spots"}
)
"""Fields that a wash of version 5 had whatever its kind."""


def upgrade(document: dict[str, Any], stated: int, version: int, upgrades: Mapping[int, Upgrade]) -> None:
    """Bring a document from the version that it states up to the present one."""
    for earlier in range(stated, version):
        if earlier in upgrades:
            upgrades[earlier](document)
    document["version"] = version


def part_washes(document: dict[str, Any]) -> None:
    """Make every wash a piece of its own kind; what it kept of other kinds said nothing and is left out."""
    for piece in _pieces(document):
        if piece.get("type") != "wash":
            continue
        how = piece.get("how", "blend")
        if not isinstance(how, str):
            continue  # the reader names what is wrong
        piece.pop("how", None)
        piece["type"] = how
        if how in KINDS:
            for name in OF_SOME_KINDS - set(KINDS[how].__struct_fields__):
                piece.pop(name, None)


def _pieces(document: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """Every piece of a card's sides and of its kept layouts."""
    card = document.get("card")
    if not isinstance(card, dict):
        return
    holders = [(card, "pieces"), (card, "inside")]
    tries = card.get("tries")
    holders += [(one, "pieces") for one in tries if isinstance(one, dict)] if isinstance(tries, list) else []
    for holder, name in holders:
        pieces = holder.get(name)
        if isinstance(pieces, list):
            yield from (piece for piece in pieces if isinstance(piece, dict))


CARD_UPGRADES: Mapping[int, Upgrade] = MappingProxyType({5: part_washes})
"""By the version that each begins with; a version that is not named could only hold less than the next."""
