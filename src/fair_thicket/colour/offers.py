"""Runs that are offered for a part: one of every family of the maker's markers."""

from collections.abc import Sequence
from typing import NamedTuple

from fair_thicket.colour.runs import find_gaps, find_run
from fair_thicket.ink.mixing import hue_of, to_lab
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import Shade, shades_of
from fair_thicket.model.pieces import Cutout, Impression
from fair_thicket.model.supplies import Marker


class Offer(NamedTuple):
    """A run to choose.

    Attributes
    ----------
    name : str
        Of its family.
    shades : tuple of Shade
        From dark to light.
    is_out : bool
        Whether it is in use on the card already.
    trouble : str
        What does not blend; empty for nothing.
    """

    name: str
    shades: tuple[Shade, ...]
    is_out: bool
    trouble: str


def offer_runs(markers: Sequence[Marker], shades: int, used: Sequence[Shade] = ()) -> list[Offer]:
    """Offer the best run of so many shades of every family of the maker's markers; those in use come first.

    A family with fewer markers offers all it has.
    """
    families: dict[str, list[Marker]] = {}
    for one in markers:
        families.setdefault(one.family or one.name, []).append(one)
    out = {shade.name for shade in used}
    offers = []
    for name, own in families.items():
        ordered = sorted(own, key=lambda one: to_lab(one.colour)[0])
        count = min(shades, len(own))
        found = find_run([one.colour for one in own], ordered[len(ordered) // 2].colour, count)
        if found is None:
            continue
        run = tuple(Shade(own[index].colour, own[index].name) for index in found.markers)
        gaps = find_gaps(found.laid)
        far = any(gap.is_far for gap in gaps)
        trouble = "" if not gaps else "a hard line stays" if far else "too alike"
        offers.append(Offer(name, run, bool(out & {shade.name for shade in run}), trouble))
    return sorted(offers, key=lambda one: (not one.is_out, hue_of(one.shades[len(one.shades) // 2].colour)))


def used_shades(work: Work) -> list[Shade]:
    """Shades in use on the side of a card that is looked at, each once."""
    pieces = (piece for piece in work.card.pieces if isinstance(piece, Impression | Cutout))
    return list(dict.fromkeys(shade for piece in pieces for shade in shades_of(piece.colouring)))


def markers_on(work: Work) -> list[Marker]:
    """Markers that a card and the schemes of its images are coloured with: what there is when none are listed.

    The family is the name without its number.
    """
    schemes = (scheme.colouring for stamp in work.stash.stamps for scheme in stamp.schemes)
    shades = [*used_shades(work), *(shade for colouring in schemes for shade in shades_of(colouring))]
    found = {shade.name or shade.colour: shade.colour for shade in shades}
    return [Marker(name, colour, family=name.rstrip("0123456789 ")) for name, colour in found.items()]
