"""What is laid with what on what: line inks under a medium, coats on a paper, water and alcohol in order."""

from collections.abc import Iterator, Mapping, Sequence
from types import MappingProxyType

import msgspec

from fair_thicket.colour.listing import laid_in_order
from fair_thicket.edits.images import Colouring, Image, paper_under, recolour_pieces
from fair_thicket.ink.difference import difference_of
from fair_thicket.ink.mixing import to_lab
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import ColouredPart, shades_of
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.palette import name_of
from fair_thicket.model.pieces import INK, Piece
from fair_thicket.model.supplies import Colour, Ink, LineInk, Medium, Paper, Surface
from fair_thicket.shape.outline import to_area

BEARS: Mapping[LineInk, frozenset[Medium]] = MappingProxyType(
    {
        "marker-proof": frozenset({"alcohol", "pencil"}),
        "waterproof": frozenset({"water", "pencil", "pigment"}),
        "pigment": frozenset({"alcohol", "water", "pencil", "pigment"}),
        "no line": frozenset({"alcohol", "water", "pencil", "pigment"}),
    }
)
"""What lines of an ink bear over them (common practice); pigment once it is embossed with clear powder."""
WORDS: Mapping[Medium, str] = MappingProxyType(
    {
        "alcohol": "alcohol markers",
        "water": "water colour",
        "pencil": "pencils",
        "pigment": "pigment ink",
    }
)
MOST_COATS = 2
"""On uncoated paper alcohol bleeds over the line from the third coat on (common practice: one or two light coats)."""
DARK_PAPER = 62.0
"""On paper of a lower CIELAB lightness markers hardly show: they only darken it (our own guess)."""


def judge_dark_papers(work: Work, coloured: Sequence[Image], names: Mapping[str, str]) -> Iterator[Finding]:
    """Tell images on paper so dark that markers hardly show on it."""
    for image in coloured:
        lightness = to_lab(paper_under(work.card, image))[0]
        if lightness < DARK_PAPER and any(part.shades for part in image.colouring):
            yield Finding(
                "dark-paper",
                Weight.CAUTION,
                f"Markers hardly show on the paper of the {names[image.key]}",
                f"Its lightness is {lightness:.0f} of 100: they let the paper through and only darken it. Stamp "
                "the image on light paper and cut it out.",
                round(lightness, 1),
                "count",
                (image.piece.id,),
            )


def judge_coats(
    work: Work, coloured: Sequence[Image], names: Mapping[str, str], papers: Sequence[Paper]
) -> Iterator[Finding]:
    """Tell what a paper does not take: more than two coats of alcohol on uncoated card, water on smooth card."""
    for image in coloured:
        paper = paper_under(work.card, image)
        surface = surface_of(paper, papers)
        if surface == "uncoated":
            deep = [part for part in image.colouring if _alcohol_coats(part) > MOST_COATS]
            if deep:
                yield _tell_coats(image, deep, names)
        wet = [part for part in image.colouring if any(shade.medium == "water" for shade in part.shades)]
        if wet and surface in {"smooth", "uncoated"}:
            yield Finding(
                "water-paper",
                Weight.NOTE,
                f"The paper of the {names[image.key]} is none for water colour",
                "It buckles and the wash dries at once. Stamp it on the smoother side of water-colour paper, twice.",
                round(_area_of(work, image, wet), 1),
                "mm2",
                (image.piece.id,),
            )


def _tell_coats(image: Image, deep: Sequence[ColouredPart], names: Mapping[str, str]) -> Finding:
    def lighter(key: str, stamp: str, colouring: Colouring) -> Colouring:
        del key, stamp
        return tuple(
            msgspec.structs.replace(part, shades=part.shades[-MOST_COATS:], undertone=None, dots=None)
            if part in deep
            else part
            for part in colouring
        )

    most = max(map(_alcohol_coats, deep))
    return Finding(
        "many-coats",
        Weight.CAUTION,
        f"{most} coats are too many for the paper of the {names[image.key]}",
        f"Uncoated paper takes one or two light coats of alcohol markers; from the third on it bleeds over the line. "
        f"{len(deep)} of its parts have more.",
        float(most),
        "count",
        (image.piece.id,),
        remedy=Remedy("Keep the two lightest", pieces=recolour_pieces([image.piece], lighter, {image.key})),
    )


def _alcohol_coats(part: ColouredPart) -> int:
    return sum(shade.medium == "alcohol" for shade in laid_in_order(part, "dark first"))


def surface_of(paper: Colour, papers: Sequence[Paper]) -> Surface:
    """Tell how a paper takes ink, by the maker's own papers of its colour; kraft is uncoated where nothing is said."""
    known = {one.surface for one in papers if one.colour == paper and one.surface}
    if len(known) == 1:
        return known.pop()
    return "uncoated" if not known and name_of(paper) == "kraft" else ""


def judge_lines(
    work: Work, coloured: Sequence[Image], names: Mapping[str, str], inks: Sequence[Ink]
) -> Iterator[Finding]:
    """Tell lines that will run under what they are coloured with."""
    for image in coloured:
        own = [one for one in inks if one.colour == (image.piece.ink or INK)]
        if not own or any(not one.lines for one in own):
            continue  # what the ink is, is not known
        media = {shade.medium for shade in shades_of(image.colouring)}
        runs = sorted(medium for medium in media if not any(medium in BEARS[one.lines] for one in own))
        if runs:
            yield _tell_lines(work, image, own[0], (runs, media), names, inks)


def _tell_lines(
    work: Work,
    image: Image,
    own: Ink,
    laid: tuple[Sequence[Medium], set[Medium]],
    names: Mapping[str, str],
    inks: Sequence[Ink],
) -> Finding:
    runs, media = laid
    fitting = [one for one in inks if one.lines and media <= BEARS[one.lines]]
    nearest = min(fitting, key=lambda one: difference_of(one.colour, own.colour), default=None)
    remedy = None
    if nearest is not None:
        piece: Piece = msgspec.structs.replace(image.piece, ink=nearest.colour)
        remedy = Remedy(f"Stamp it in {nearest.name}", pieces=(piece,))
    told = " and ".join(WORDS[medium] for medium in runs)
    return Finding(
        "lines-run",
        Weight.CAUTION,
        f"The lines of the {names[image.key]} run under {told}",
        f"{own.name} is {own.lines}, and bears {_say_bears(own.lines)} only. Take another ink for its lines.",
        round(_area_of(work, image, image.colouring), 1),
        "mm2",
        (image.piece.id,),
        remedy=remedy,
    )


def _say_bears(kind: LineInk) -> str:
    return " and ".join(sorted(WORDS[medium] for medium in BEARS[kind] if medium != "pencil"))


def judge_order(work: Work, coloured: Sequence[Image], names: Mapping[str, str]) -> Iterator[Finding]:
    """Tell parts on which alcohol comes over water: it lifts and smears what lies there."""
    for image in coloured:
        wrong = [part for part in image.colouring if _is_water_first(part, work)]
        if not wrong:
            continue

        def without(key: str, stamp: str, colouring: Colouring, wrong: list[ColouredPart] = wrong) -> Colouring:
            del key, stamp
            return tuple(_alcohol_first(part) if part in wrong else part for part in colouring)

        yield Finding(
            "water-first",
            Weight.CAUTION,
            f"Alcohol comes over water on the {names[image.key]}",
            f"On {len(wrong)} of its parts a water-based colour is laid before an alcohol marker, which lifts it. "
            "Alcohol first; water over it when it is dry.",
            float(len(wrong)),
            "count",
            (image.piece.id,),
            remedy=Remedy("Leave the water-based out", pieces=recolour_pieces([image.piece], without, {image.key})),
        )


def _is_water_first(part: ColouredPart, work: Work) -> bool:
    media = [shade.medium for shade in laid_in_order(part, work.card.shade_order)]
    return "water" in media and "alcohol" in media[media.index("water") :]


def _alcohol_first(part: ColouredPart) -> ColouredPart:
    """Return a part without what is water-based."""
    return msgspec.structs.replace(
        part,
        shades=tuple(shade for shade in part.shades if shade.medium != "water"),
        undertone=part.undertone if part.undertone is not None and part.undertone.medium != "water" else None,
        dots=part.dots if part.dots is not None and part.dots.medium != "water" else None,
    )


def _area_of(work: Work, image: Image, parts: Sequence[ColouredPart]) -> float:
    regions = {region for part in parts for region in part.regions}
    stamp = work.stash.find(image.stamp)
    return sum(to_area(one.ring, one.holes).area for one in stamp.regions if one.id in regions)
