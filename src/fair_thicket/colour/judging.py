"""What is to be said of a card's colours: of shades and media, of the light, of what is forgotten, of figures."""

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import msgspec

from fair_thicket.colour.figures import Picture, judge_figures
from fair_thicket.colour.last_judges import judge_last, judge_whites
from fair_thicket.colour.listing import list_colouring
from fair_thicket.colour.media_judges import judge_coats, judge_dark_papers, judge_lines, judge_order
from fair_thicket.colour.run_judges import judge_caps, judge_missing, judge_runs, judge_sizes, say_shade
from fair_thicket.colour.runs import leads_of
from fair_thicket.edits.colouring import colour_parts, parts_of, touch_ids
from fair_thicket.edits.images import Colouring, Image, coloured_images, find_image, recolour_pieces
from fair_thicket.ink.layings import SHADOW_DEG
from fair_thicket.ink.mixing import chroma_of, hue_of
from fair_thicket.laid.visibility import View
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.colouring import Shade
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.pieces import Cutout, Impression, Wash
from fair_thicket.model.sides import turn_over
from fair_thicket.model.supplies import Colour, Ink, Marker, Paper, Supply
from fair_thicket.shape.outline import to_area

MOST_FAMILIES = 6
"""Families of colour on a card (common practice: 4 to 6)."""
ACCENT_CHROMA = 32.0
ACCENT_SHARE = 0.06
"""A colour is an accent when it is strong and takes less than this of all that is coloured (our own guess)."""
NEAR_HUE_DEG = 24.0
GREY_CHROMA = 12.0
OTHER_SIDE_DEG = 100.0


def judge(
    work: Work, *, view: View | None = None, picture: Picture | None = None, supplies: Sequence[Supply] = ()
) -> list[Finding]:
    """Judge the colours of a card.

    Parameters
    ----------
    work : Work
    view : View or None
        Of this very work; with it and the picture figures are held against what is behind them.
    picture : (rows, columns, 3) uint8 or None
        The card as composed.
    supplies : sequence of Supply
        The maker's own: among the markers better runs are looked for; inks and papers say what they bear.

    Returns
    -------
    list of Finding
        Of a card on which no image is coloured by its parts only figures that are lost.
    """
    coloured, names = coloured_images(work), name_pieces(work)
    figures = list(judge_figures(work, view, picture, names)) if view is not None and picture is not None else []
    if not coloured:
        return figures
    markers = [one for one in supplies if isinstance(one, Marker)]
    inks = [one for one in supplies if isinstance(one, Ink)]
    papers = [one for one in supplies if isinstance(one, Paper)]
    found = [*_forgotten(work, names), *judge_last(work, coloured, names, markers)]
    found += [*judge_runs(work, coloured, names, markers), *judge_sizes(work, coloured, names)]
    found += [*judge_whites(work, coloured, names, markers), *judge_missing(work, coloured, names, markers)]
    found += judge_caps(work, coloured, names, markers)
    found += [*judge_dark_papers(work, coloured, names), *judge_coats(work, coloured, names, papers)]
    found += [*judge_lines(work, coloured, names, inks), *judge_order(work, coloured, names)]
    found += [*_light(work, coloured, names), *_families(work, coloured, names)]
    return [*found, *figures]


def _forgotten(work: Work, names: Mapping[str, str]) -> Iterator[Finding]:
    """Tell parts without colours on images of which others have some; touches are told by `judge_last`."""
    by_image: dict[str, list[int]] = {}
    for key, number in list_colouring(work).forgotten:
        by_image.setdefault(key, []).append(number)
    for key, numbers in by_image.items():
        image = find_image(work, key)
        stamp = work.stash.find(image.stamp)
        touches = touch_ids(stamp)
        parts = [part for number in numbers if not touches & set(part := parts_of(stamp)[number - 1])]
        if not parts:
            continue
        count = "A part" if len(parts) == 1 else f"{len(parts)} parts"
        verb = "is" if len(parts) == 1 else "are"
        white = colour_parts(work, {key}, parts, shades=()).card.find(image.piece.id)
        yield Finding(
            code="part-forgotten",
            weight=Weight.CAUTION,
            title=f"{count} of the {names[key]} {verb} not coloured",
            text="Others of it are. Small parts that peek out are the ones forgotten; say so if they stay white.",
            measure=float(len(parts)),
            unit="count",
            pieces=(image.piece.id,),
            remedy=Remedy("Leave white on purpose", pieces=(white,)),
        )


# -- light ----------------------------------------------------------------------------------------------------------


def _light(work: Work, coloured: Sequence[Image], names: Mapping[str, str]) -> Iterator[Finding]:
    """Tell images that are shaded, or drawn, as if light fell from the other side."""
    shadow = SHADOW_DEG[work.card.light]
    for image in coloured:
        turned = [
            abs((part.shadow_deg + image.angle_deg - shadow + 180) % 360 - 180)
            for part in image.colouring
            if part.shadow_deg is not None and part.shades
        ]
        if turned and max(turned) > OTHER_SIDE_DEG:
            again = recolour_pieces([image.piece], _as_card_shades, {image.key})
            yield Finding(
                "other-light",
                Weight.NOTE,
                f"The {names[image.key]} is shaded the other way",
                f"A part of it has its shadow {max(turned):.0f}° off the card's, whose light falls from the "
                f"{work.card.light}.",
                round(max(turned), 1),
                "deg",
                (image.piece.id,),
                remedy=Remedy("Shade it as the card", pieces=again),
            )
        drawn = work.stash.find(image.stamp).marks.light
        if drawn is not None and {drawn, work.card.light} == {"left", "right"} and abs(image.angle_deg) % 360 < 45:
            yield Finding(
                "drawn-light",
                Weight.NOTE,
                f"The {names[image.key]} is drawn with light from the {drawn}",
                f"Light falls from the {work.card.light} on the card: its drawn shadows lie on the other side.",
                1.0,
                "count",
                (image.piece.id,),
            )


def _as_card_shades(key: str, stamp: str, colouring: Colouring) -> Colouring:
    del key, stamp
    return tuple(msgspec.structs.replace(part, shadow_deg=None) for part in colouring)


# -- the whole card -------------------------------------------------------------------------------------------------


def _families(work: Work, coloured: Sequence[Image], names: Mapping[str, str]) -> Iterator[Finding]:
    """Tell accents that stand alone, and too many families."""
    families = families_of(work)
    if len(families) > MOST_FAMILIES:
        yield Finding(
            "many-families",
            Weight.NOTE,
            f"{len(families)} families of colour",
            f"More than {MOST_FAMILIES} make a card restless; let some parts take a run that is out already.",
            float(len(families)),
            "count",
        )
    whole = sum(family.area_mm2 for family in families)
    # a colour of the front that comes back inside is not alone
    inside = families_of(turn_over(work))
    shown = {image.piece.id for image in coloured}
    for family in families:
        is_accent = chroma_of(family.colour) >= ACCENT_CHROMA and family.area_mm2 < ACCENT_SHARE * whole
        is_alone = len(family.pieces) == 1 and not any(_is_near(family.colour, one.colour) for one in inside)
        if is_accent and is_alone and family.pieces[0] in shown:
            yield Finding(
                "accent-alone",
                Weight.NOTE,
                f"The {say_shade(family.shade)} stands alone",
                f"Only the {names[family.pieces[0]]} has it; bring it back in one more place, best in two.",
                1.0,
                "count",
                (family.pieces[0],),
            )


class Family(NamedTuple):
    """Colours of about one hue, wherever they are on a card.

    Attributes
    ----------
    colour : colour
        Of its largest part.
    shade : Shade
    pieces : list of str
        Ids of the pieces that have it.
    area_mm2 : float
        Of image parts only.
    """

    colour: Colour
    shade: Shade
    pieces: list[str]
    area_mm2: float


def families_of(work: Work) -> list[Family]:
    """Families of colour on a card: parts of images by their lead, papers, words and embellishments by their colour.

    Greys and white are no family.
    """
    families: list[Family] = []
    uses = [use for use in _uses_of(work) if chroma_of(use[0]) >= GREY_CHROMA]
    for colour, shade, key, area in sorted(uses, key=lambda use: -use[3]):
        home = next((index for index, one in enumerate(families) if _is_near(one.colour, colour)), None)
        if home is None:
            families.append(Family(colour, shade, [key], area))
        else:
            one = families[home]
            families[home] = one._replace(
                pieces=one.pieces if key in one.pieces else [*one.pieces, key], area_mm2=one.area_mm2 + area
            )
    return families


def _uses_of(work: Work) -> Iterator[tuple[Colour, Shade, str, float]]:
    """Yield every colour as it is used: its lead, the piece, and its area on images, mm2."""
    for image in coloured_images(work):
        sizes = {one.id: to_area(one.ring, one.holes).area for one in work.stash.find(image.stamp).regions}
        for part in image.colouring:
            if part.shades:
                lead = part.shades[leads_of(len(part.shades))[-1]]
                yield lead.colour, lead, image.piece.id, sum(sizes[region] for region in part.regions)
    for piece in work.card.pieces:
        is_image = isinstance(piece, Impression | Cutout) and bool(piece.colouring)
        if piece.colour is not None and not is_image and not isinstance(piece, Wash):
            yield piece.colour, Shade(piece.colour), piece.id, 0.0


def _is_near(one: Colour, other: Colour) -> bool:
    return abs((hue_of(one) - hue_of(other) + 180) % 360 - 180) < NEAR_HUE_DEG
