"""Runs that are offered for a part: one of every family of the maker's markers."""

from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from fair_thicket.colour.runs import find_gaps, find_run
from fair_thicket.colour.whites_and_cheeks import GLAZE, PINK, WHITE_PEN
from fair_thicket.edits.images import coloured_images
from fair_thicket.ink.difference import difference_of
from fair_thicket.ink.mixing import hue_of, to_lab
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import RegionKind, Shade, shade_of, shades_of
from fair_thicket.model.supplies import Marker

MOST_PINKS = 12


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
        run = tuple(shade_of(own[index]) for index in found.markers)
        gaps = find_gaps(found.laid)
        far = any(gap.is_far for gap in gaps)
        trouble = "" if not gaps else "a hard line stays" if far else "too alike"
        offers.append(Offer(name, run, bool(out & {shade.name for shade in run}), trouble))
    return sorted(offers, key=lambda one: (not one.is_out, hue_of(one.shades[len(one.shades) // 2].colour)))


def main_medium(markers: Sequence[Marker]) -> list[Marker]:
    """Return those of the commonest medium: a card is coloured in one, others serve for single parts."""
    count = Counter(one.medium for one in markers)
    return [one for one in markers if one.medium == count.most_common(1)[0][0]]


def offer_touches(kind: RegionKind, markers: Sequence[Marker]) -> list[Offer]:
    """Offer what a touch is put on with: glaze, a white pen, or for cheeks pinks, the most usual first."""
    if kind == "eye":
        return [Offer(GLAZE.name, (GLAZE,), False, "")]
    if kind == "white dot":
        return [Offer(WHITE_PEN.name, (WHITE_PEN,), False, "")]
    by_pink = sorted(markers, key=lambda one: difference_of(one.colour, PINK))
    return [Offer(one.name, (shade_of(one),), False, "") for one in by_pink[:MOST_PINKS]]


def used_shades(work: Work) -> list[Shade]:
    """Shades in use on the side of a card that is looked at, each once."""
    return list(dict.fromkeys(shade for image in coloured_images(work) for shade in shades_of(image.colouring)))


def markers_on(work: Work) -> list[Marker]:
    """Markers that a card and the schemes of its images are coloured with: what there is when none are listed.

    The family is the name without its number.
    """
    schemes = (scheme.colouring for stamp in work.stash.stamps for scheme in stamp.schemes)
    shades = [*used_shades(work), *(shade for colouring in schemes for shade in shades_of(colouring))]
    found = {shade.name or shade.colour: shade for shade in shades if shade not in (GLAZE, WHITE_PEN)}
    return [
        Marker(name, shade.colour, family=name.rstrip("0123456789 "), medium=shade.medium)
        for name, shade in found.items()
    ]
