"""What is to be said of a card's colours: shades, light, accents, figures against what is behind them."""

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import msgspec

from fair_thicket.colour.figures import Picture, judge_figures
from fair_thicket.colour.listing import list_colouring
from fair_thicket.colour.runs import Gap, find_gaps, find_run, lay_on, leads_of
from fair_thicket.edits.colouring import parts_of, replace_shade
from fair_thicket.ink.difference import difference, labs_of
from fair_thicket.ink.mixing import chroma_of, hue_of, to_lab
from fair_thicket.ink.shading import SHADOW_DEG
from fair_thicket.laid.visibility import View
from fair_thicket.model.card import WHITE, Work, name_pieces
from fair_thicket.model.colouring import ColouredPart, Shade, shades_of
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.pieces import Cutout, Impression, Piece, Wash
from fair_thicket.model.supplies import Colour, Marker
from fair_thicket.shape.outline import to_area

LARGE_MM2, TINY_MM2 = 150.0, 12.0
"""From and up to where a part is large, and tiny (our own guess)."""
FEW, MANY = 2, 4
MOST_FAMILIES = 6
"""Families of colour on a card (common practice: 4 to 6)."""
ACCENT_CHROMA = 32.0
ACCENT_SHARE = 0.06
"""A colour is an accent when it is strong and takes less than this of all that is coloured (our own guess)."""
NEAR_HUE_DEG = 24.0
GREY_CHROMA = 12.0
OTHER_SIDE_DEG = 100.0
FAR_OFF = 12.0
"""A run whose lead is farther off than this is another colour."""
DARK_PAPER = 62.0
"""On paper of a lower CIELAB lightness markers hardly show: they only darken it (our own guess)."""
NEAR_ENOUGH = 5.0
"""A marker nearer to a missing one than this takes its place unseen (our own guess)."""


class _Run(NamedTuple):
    """A run as it is used: its shades, and on which parts of which pieces."""

    shades: tuple[Shade, ...]
    parts: list[tuple[Impression | Cutout, ColouredPart]]


def judge(
    work: Work, *, view: View | None = None, picture: Picture | None = None, markers: Sequence[Marker] = ()
) -> list[Finding]:
    """Judge the colours of a card.

    Parameters
    ----------
    work : Work
    view : View or None
        Of this very work; with it and the picture figures are held against what is behind them.
    picture : (rows, columns, 3) uint8 or None
        The card as composed.
    markers : sequence of Marker
        The maker's own: among them better runs are looked for.

    Returns
    -------
    list of Finding
        Nothing for a card on which no image is coloured by its parts.
    """
    coloured = [one for one in work.card.pieces if isinstance(one, Impression | Cutout) and one.colouring]
    if not coloured:
        return []
    names = name_pieces(work)
    found = [*_forgotten(work, names), *_runs(work, coloured, names, markers), *_sizes(work, coloured, names)]
    found += [*_papers(work, coloured, names), *_missing(work, coloured, names, markers)]
    found += [*_light(work, coloured, names), *_families(work, coloured, names)]
    if view is not None and picture is not None:
        found += judge_figures(work, view, picture, names)
    return found


# -- what is missing ------------------------------------------------------------------------------------------------


def _forgotten(work: Work, names: Mapping[str, str]) -> Iterator[Finding]:
    by_piece: dict[str, list[int]] = {}
    for key, number in list_colouring(work).forgotten:
        by_piece.setdefault(key, []).append(number)
    for key, numbers in by_piece.items():
        piece = work.card.find(key)
        if not isinstance(piece, Impression | Cutout):
            continue
        parts = parts_of(work.stash.find(piece.stamp))
        white = tuple(ColouredPart(parts[number - 1]) for number in numbers)
        count = "A part" if len(numbers) == 1 else f"{len(numbers)} parts"
        verb = "is" if len(numbers) == 1 else "are"
        yield Finding(
            code="part-forgotten",
            weight=Weight.CAUTION,
            title=f"{count} of the {names[key]} {verb} not coloured",
            text="Others of it are. Small parts that peek out are the ones forgotten; say so if they stay white.",
            measure=float(len(numbers)),
            unit="count",
            pieces=(key,),
            remedy=Remedy(
                "Leave white on purpose",
                pieces=(msgspec.structs.replace(piece, colouring=(*piece.colouring, *white)),),
            ),
        )


# -- runs -----------------------------------------------------------------------------------------------------------


def _runs(
    work: Work, coloured: Sequence[Impression | Cutout], names: Mapping[str, str], markers: Sequence[Marker]
) -> Iterator[Finding]:
    """Tell steps that do not blend, once for every run."""
    runs: dict[tuple[Shade, ...], _Run] = {}
    for piece in coloured:
        for part in piece.colouring:
            if len(part.shades) > 1:
                runs.setdefault(part.shades, _Run(part.shades, [])).parts.append((piece, part))
    told: dict[tuple[Shade, Shade], tuple[Gap, list[str], Remedy | None]] = {}
    for run in runs.values():
        paper = _paper_of(work, run.parts[0][0])
        laid = lay_on([shade.colour for shade in run.shades], paper)
        for gap in find_gaps(laid):
            dark, light = run.shades[gap.after : gap.after + 2]
            _, keys, remedy = told.setdefault((dark, light), (gap, [], _better(run, laid, paper, markers)))
            keys += [piece.id for piece, _ in run.parts if piece.id not in keys]
            told[dark, light] = (gap, keys, remedy)
    for (dark, light), (gap, keys, remedy) in told.items():
        yield _tell_gap(dark, light, gap, keys, names, remedy)


def _tell_gap(
    dark: Shade, light: Shade, gap: Gap, keys: Sequence[str], names: Mapping[str, str], remedy: Remedy | None
) -> Finding:
    where = ", ".join(f"the {names[key]}" for key in keys[:3]) + (" and others" if len(keys) > 3 else "")
    pair = f"{_say(dark)} and {_say(light)}"
    if gap.is_far:
        title = f"A hard line stays between {pair}"
        text = (
            f"They lie {gap.step:.0f} apart (22 blend still) on {where}. Put {gap.between} between, or mix the two "
            f"tip to tip: that comes {gap.mixed_off:.0f} off it."
        )
    else:
        title = f"{pair[:1].upper()}{pair[1:]} are too alike"
        text = f"They lie {gap.step:.0f} apart (6 at least) on {where}: one of the two is wasted, it looks flat."
    weight = Weight.CAUTION if gap.is_far else Weight.NOTE
    code = "shades-far" if gap.is_far else "shades-alike"
    return Finding(code, weight, title, text, round(gap.step, 1), "difference", tuple(keys), remedy=remedy)


def _better(run: _Run, laid: Sequence[Colour], paper: Colour, markers: Sequence[Marker]) -> Remedy | None:
    """Find a run of as many of the maker's own markers that blends."""
    lead = laid[leads_of(len(laid))[-1]]
    found = find_run([one.colour for one in markers], lead, len(laid), paper=paper)
    if found is None or find_gaps(found.laid) or found.off > FAR_OFF:
        return None
    shades = tuple(Shade(markers[index].colour, markers[index].name) for index in found.markers)
    changed: dict[str, Piece] = {}
    for piece, _ in run.parts:
        colouring = tuple(
            msgspec.structs.replace(part, shades=shades) if part.shades == run.shades else part
            for part in piece.colouring
        )
        changed[piece.id] = msgspec.structs.replace(piece, colouring=colouring)
    return Remedy(f"Take {', '.join(map(_say, shades))}", pieces=tuple(changed.values()))


def _paper_of(work: Work, piece: Impression | Cutout) -> Colour:
    """Colour of the paper that an image is coloured on."""
    if isinstance(piece, Cutout):
        return piece.colour or WHITE
    if not piece.on:
        return work.card.paper
    return work.card.find(piece.on).colour or WHITE


def _say(shade: Shade) -> str:
    return shade.name or shade.colour


def _sizes(work: Work, coloured: Sequence[Impression | Cutout], names: Mapping[str, str]) -> Iterator[Finding]:
    """Tell too few shades on a large part, and too many on a tiny one; for each piece the plainest."""
    for piece in coloured:
        regions = {one.id: to_area(one.ring, one.holes).area for one in work.stash.find(piece.stamp).regions}
        sized = [(max(regions[region] for region in part.regions), part) for part in piece.colouring if part.shades]
        large = max((one for one in sized if len(one[1].shades) <= FEW), key=lambda one: one[0], default=None)
        if large is not None and large[0] >= LARGE_MM2:
            yield Finding(
                "few-shades",
                Weight.NOTE,
                f"A large part of the {names[piece.id]} has {len(large[1].shades)} shades only",
                f"It measures {large[0] / 100:.1f} cm²; from {LARGE_MM2 / 100:.1f} cm² on a third is missed later.",
                round(large[0], 1),
                "mm2",
                (piece.id,),
            )
        tiny = min((one for one in sized if len(one[1].shades) >= MANY), key=lambda one: one[0], default=None)
        if tiny is not None and tiny[0] <= TINY_MM2:
            yield Finding(
                "many-shades",
                Weight.NOTE,
                f"A tiny part of the {names[piece.id]} has {len(tiny[1].shades)} shades",
                f"It measures {tiny[0]:.0f} mm²: one or two will do, the others find no room.",
                round(tiny[0], 1),
                "mm2",
                (piece.id,),
            )


# -- what it is laid with, and on ------------------------------------------------------------------------------------


def _papers(work: Work, coloured: Sequence[Impression | Cutout], names: Mapping[str, str]) -> Iterator[Finding]:
    """Tell images on paper so dark that markers hardly show on it."""
    for piece in coloured:
        paper = _paper_of(work, piece)
        lightness = to_lab(paper)[0]
        if lightness < DARK_PAPER and any(part.shades for part in piece.colouring):
            yield Finding(
                "dark-paper",
                Weight.CAUTION,
                f"Markers hardly show on the paper of the {names[piece.id]}",
                f"Its lightness is {lightness:.0f} of 100: they let the paper through and only darken it. Stamp "
                "the image on light paper and cut it out, or colour it with pencils or pigment.",
                round(lightness, 1),
                "count",
                (piece.id,),
            )


def _missing(
    work: Work, coloured: Sequence[Impression | Cutout], names: Mapping[str, str], markers: Sequence[Marker]
) -> Iterator[Finding]:
    """Tell markers that the card asks for and the maker does not have, with the nearest that there is."""
    own = {one.name for one in markers}
    on: dict[Shade, list[str]] = {}
    for piece in coloured:
        for shade in shades_of(piece.colouring):
            if markers and shade.name and shade.name not in own:
                on.setdefault(shade, []).append(piece.id)
    for shade, keys in on.items():
        offs = difference(labs_of([one.colour for one in markers]), labs_of([shade.colour])[0])
        nearest, off = markers[int(offs.argmin())], float(offs.min())
        changed = replace_shade(work, shade, Shade(nearest.colour, nearest.name))
        pieces = tuple(piece for piece in changed.card.pieces if piece.id in keys)
        where = ", ".join(f"the {names[key]}" for key in keys[:3]) + (" and others" if len(keys) > 3 else "")
        yield Finding(
            "marker-missing",
            Weight.NOTE if off <= NEAR_ENOUGH else Weight.CAUTION,
            f"You have no {shade.name}",
            f"It is asked for on {where}. The nearest of yours is {nearest.name}, {off:.0f} off.",
            round(off, 1),
            "difference",
            tuple(keys),
            remedy=Remedy(f"Take {nearest.name}", pieces=pieces) if off <= FAR_OFF else None,
        )


# -- light ----------------------------------------------------------------------------------------------------------


def _light(work: Work, coloured: Sequence[Impression | Cutout], names: Mapping[str, str]) -> Iterator[Finding]:
    """Tell images that are shaded, or drawn, as if light fell from the other side."""
    shadow = SHADOW_DEG[work.card.light]
    for piece in coloured:
        turned = [
            abs((part.shadow_deg + piece.angle_deg - shadow + 180) % 360 - 180)
            for part in piece.colouring
            if part.shadow_deg is not None and part.shades
        ]
        if turned and max(turned) > OTHER_SIDE_DEG:
            again = tuple(msgspec.structs.replace(part, shadow_deg=None) for part in piece.colouring)
            yield Finding(
                "other-light",
                Weight.NOTE,
                f"The {names[piece.id]} is shaded the other way",
                f"A part of it has its shadow {max(turned):.0f}° off the card's, whose light falls from the "
                f"{work.card.light}.",
                round(max(turned), 1),
                "deg",
                (piece.id,),
                remedy=Remedy("Shade it as the card", pieces=(msgspec.structs.replace(piece, colouring=again),)),
            )
        drawn = work.stash.find(piece.stamp).marks.light
        if drawn is not None and {drawn, work.card.light} == {"left", "right"} and abs(piece.angle_deg) % 360 < 45:
            yield Finding(
                "drawn-light",
                Weight.NOTE,
                f"The {names[piece.id]} is drawn with light from the {drawn}",
                f"Light falls from the {work.card.light} on the card: its drawn shadows lie on the other side.",
                1.0,
                "count",
                (piece.id,),
            )


# -- the whole card -------------------------------------------------------------------------------------------------


def _families(work: Work, coloured: Sequence[Impression | Cutout], names: Mapping[str, str]) -> Iterator[Finding]:
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
    shown = {piece.id for piece in coloured}
    for family in families:
        is_accent = chroma_of(family.colour) >= ACCENT_CHROMA and family.area_mm2 < ACCENT_SHARE * whole
        if is_accent and len(family.pieces) == 1 and family.pieces[0] in shown:
            yield Finding(
                "accent-alone",
                Weight.NOTE,
                f"The {_say(family.shade)} stands alone",
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
    """Give every colour as it is used: its lead, the piece, and its area on images, mm2."""
    for piece in work.card.pieces:
        if isinstance(piece, Impression | Cutout) and piece.colouring:
            sizes = {one.id: to_area(one.ring, one.holes).area for one in work.stash.find(piece.stamp).regions}
            for part in piece.colouring:
                if part.shades:
                    lead = part.shades[leads_of(len(part.shades))[-1]]
                    yield lead.colour, lead, piece.id, sum(sizes[region] for region in part.regions)
        elif piece.colour is not None and not isinstance(piece, Wash):
            yield piece.colour, Shade(piece.colour), piece.id, 0.0


def _is_near(one: Colour, other: Colour) -> bool:
    return abs((hue_of(one) - hue_of(other) + 180) % 360 - 180) < NEAR_HUE_DEG
