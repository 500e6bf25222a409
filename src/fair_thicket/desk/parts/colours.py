"""Colours to choose from by menu and form: the maker's own papers or inks first, then plain ones as stand-ins."""

from collections.abc import Sequence
from typing import NamedTuple

from fair_thicket.desk.session.session import Session
from fair_thicket.model.palette import PALETTE


class Colour(NamedTuple):
    """A colour that can be chosen.

    Attributes
    ----------
    name : str
        What the maker reads.
    code : str
        sRGB such as ``#3c6e47``.
    """

    name: str
    code: str


def paper_colours(session: Session) -> list[Colour]:
    """Colours of papers."""
    return _listed([(one.name, one.colour) for one in session.own_papers()])


def ink_colours(session: Session) -> list[Colour]:
    """Colours of inks."""
    return _listed([(one.name, one.colour) for one in session.own_inks()])


def _listed(own: Sequence[tuple[str, str]]) -> list[Colour]:
    named = [Colour(f"{name} (yours)", code) for name, code in {code: (name, code) for name, code in own}.values()]
    known = {one.code for one in named}
    return [*named, *(Colour(name, code) for name, code in PALETTE if code not in known)]
