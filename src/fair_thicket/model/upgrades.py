"""Documents of earlier versions, brought up to the present one a version at a time, as plain JSON.

Cards, stash files and entries of the library share one number: the version of a card file. An upgrade knows nothing
of today's structs, whose fields may have other names by then; what a document of its time held is written out here.

Versions 1 to 4 differ from the next only in what they could not hold yet. Up to version 5 every wash was one kind of
piece, with the fields of all kinds; since version 6 each kind is a piece of its own. Images and supplies could only
hold less. A document may be anything: what is not as expected is left for the reader to refuse.
"""

from collections.abc import Callable, Iterator, Mapping
from types import MappingProxyType
from typing import Any, NamedTuple

VERSION = 10
"""Of what this program writes."""
STASH_VERSIONS = MappingProxyType({1: 1, 2: 1, 3: 1, 4: 10})
"""Stash files once counted by themselves: the version of a card that each could be older than; from 11 on, the same."""
Plain = dict[str, Any]
Upgrade = Callable[[Plain], None]


class Upgrades(NamedTuple):
    """What leads from one version to the next.

    Attributes
    ----------
    card, image, supply : callable of its plain JSON, or None
        A card's document without its stash; an image; a paper, ink or marker. Each changes what it is given.
    """

    card: Upgrade | None = None
    image: Upgrade | None = None
    supply: Upgrade | None = None


WASH_FIELDS: Mapping[str, frozenset[str]] = MappingProxyType(
    {
        "blend": frozenset(),
        "stencil": frozenset({"stencil", "lays", "reach_mm", "taped"}),
        "splatter": frozenset({"drops", "seed"}),
        "water": frozenset({"drops", "seed"}),
        "paste": frozenset({"stencil", "lays", "taped"}),
        "texture": frozenset({"mark", "mark_mm", "pitch_mm", "spots"}),
    }
)
"""Of the fields that a wash of version 5 had whatever its kind, those that its kind has since version 6."""


def part_washes(document: Plain) -> None:
    """Make every wash a piece of its own kind; what it kept of other kinds said nothing and is left out."""
    every = frozenset().union(*WASH_FIELDS.values())
    for piece in _pieces(document):
        if piece.get("type") != "wash":
            continue
        how = piece.get("how", "blend")
        if not isinstance(how, str):
            continue  # the reader names what is wrong
        piece.pop("how", None)
        piece["type"] = how
        if how in WASH_FIELDS:
            for name in every - WASH_FIELDS[how]:
                piece.pop(name, None)


UPGRADES: Mapping[int, Upgrades] = MappingProxyType({5: Upgrades(card=part_washes)})
"""By the version that each begins with; a version that is not named could only hold less than the next."""


def upgrade_card(document: Plain, stated: int, upgrades: Mapping[int, Upgrades] = UPGRADES) -> None:
    """Bring a card's document up to the present version, its stash with it."""
    for step in _steps(stated, upgrades):
        if step.card is not None:
            step.card(document)
        stash = document.get("stash")
        if step.image is not None and isinstance(stash, dict):
            _each(stash.get("stamps"), step.image)
    document["version"] = VERSION


def upgrade_stash(document: Plain, stated: int, upgrades: Mapping[int, Upgrades] = UPGRADES) -> None:
    """Bring a stash file's document up to the present version."""
    for step in _steps(STASH_VERSIONS.get(stated, stated), upgrades):
        _each(document.get("images"), step.image)
        _each(document.get("supplies"), step.supply)
    document["version"] = VERSION


def upgrade_image(image: Plain, stated: int, upgrades: Mapping[int, Upgrades] = UPGRADES) -> None:
    """Bring an image up to the present version."""
    for step in _steps(stated, upgrades):
        _each([image], step.image)


def upgrade_supply(supply: Plain, stated: int, upgrades: Mapping[int, Upgrades] = UPGRADES) -> None:
    """Bring a paper, an ink or a marker up to the present version."""
    for step in _steps(stated, upgrades):
        _each([supply], step.supply)


def _steps(stated: int, upgrades: Mapping[int, Upgrades]) -> Iterator[Upgrades]:
    return (upgrades[earlier] for earlier in range(stated, VERSION) if earlier in upgrades)


def _each(parts: object, change: Upgrade | None) -> None:
    if change is not None and isinstance(parts, list):
        for part in parts:
            if isinstance(part, dict):
                change(part)


def _pieces(document: Plain) -> Iterator[Plain]:
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
