"""The colouring list: what is coloured with what, by marker over all images, so that nothing is forgotten."""

from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import NamedTuple

from fair_thicket.colour.fetching import fetch_order
from fair_thicket.edits.colouring import is_hard, parts_of
from fair_thicket.edits.images import Image, coloured_images, find_image
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.colouring import ColouredPart, Region, RegionKind, Shade, ShadeOrder, shades_of
from fair_thicket.model.keys import piece_key
from fair_thicket.model.pieces import Impression
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.stash import Stamp
from fair_thicket.model.steps import Step
from fair_thicket.shape.outline import to_area

FETCH_MIN = 0.25
"""Finding a marker, opening and closing it (our own guess)."""
MM2_PER_MIN = 90.0
"""Laid with one shade, edges gone over twice (our own guess)."""
CAUTION = "Alcohol markers and blenders: ventilate, no flame, caps on; the maker's label comes first."
PART_MIN = 0.1
"""Least for one shade of a part, however small."""


Key = tuple[str, int]


class Line(NamedTuple):
    """One fetch: a marker, and the parts that it goes on.

    Attributes
    ----------
    shade : Shade
    parts : tuple of (str, int)
        Key of an image and the number of its part, from 1.
    minutes : float
    """

    shade: Shade
    parts: tuple[tuple[str, int], ...]
    minutes: float


class ColouringList(NamedTuple):
    """What is to be coloured.

    Attributes
    ----------
    lines : tuple of Line
        In the order of fetching.
    is_least : bool
        Whether no order needs fewer fetches, proven.
    forgotten : tuple of (str, int)
        Parts without colours on images of which others have some; what stays white on purpose is not among them.
    minutes : float
    hard : tuple of str
        Stamps of which a spare impression is worth its place.
    """

    lines: tuple[Line, ...]
    is_least: bool
    forgotten: tuple[tuple[str, int], ...]
    minutes: float
    hard: tuple[str, ...] = ()


def list_colouring(work: Work) -> ColouringList:
    """List what is to be coloured on the side of a card that is looked at.

    A cheek waits for what it lies on; glaze on eyes and white dots come last of all.
    """
    runs: dict[Key, tuple[Shade, ...]] = {}
    last: dict[Key, tuple[Shade, ...]] = {}
    areas: dict[Key, float] = {}
    forgotten: list[Key] = []
    waits: dict[Key, int] = {}
    for key, part, area, kind, under in _parts_to_colour(work):
        if part is None:
            forgotten.append(key)
        elif laid := laid_in_order(part, work.card.shade_order):
            areas[key] = area
            if kind == "cheek":
                beneath = laid_in_order(under, work.card.shade_order) if under is not None else ()
                runs[key], waits[key] = (*beneath, *laid), len(beneath)
            else:
                (last if kind in {"eye", "white dot"} else runs)[key] = laid
    lines, is_least = _fetch(runs, areas, waits)
    finish, is_least_too = _fetch(last, areas, {})
    lines += finish
    minutes = sum(line.minutes for line in lines)
    return ColouringList(tuple(lines), is_least and is_least_too, tuple(forgotten), minutes, hard_images(work))


def minutes_of(work: Work) -> dict[str, float]:
    """Minutes of colouring by piece: of every fetch an equal share for each of its parts."""
    found: dict[str, float] = {}
    for line in list_colouring(work).lines:
        for key, _ in line.parts:
            found[piece_key(key)] = found.get(piece_key(key), 0.0) + line.minutes / len(line.parts)
    return found


def _fetch(
    runs: Mapping[Key, tuple[Shade, ...]], areas: Mapping[Key, float], waits: Mapping[Key, int]
) -> tuple[list[Line], bool]:
    """Put fetches in order; of what waits the first shades are those of what it waits for, and not its own."""
    row, is_least = fetch_order(list(runs.values()))
    lines, at = [], dict.fromkeys(runs, 0)
    for shade in row:
        ready = [key for key, run in runs.items() if at[key] < len(run) and run[at[key]] == shade]
        own = [key for key in ready if at[key] >= waits.get(key, 0)]
        minutes = FETCH_MIN
        for key in ready:
            at[key] += 1
        for key in own:
            count = len(runs[key]) - waits.get(key, 0)
            minutes += max(PART_MIN, areas[key] / MM2_PER_MIN / count * 1.4)
        lines.append(Line(shade, tuple(own), minutes))
    return [line for line in lines if line.parts], is_least


def _parts_to_colour(work: Work) -> Iterator[tuple[Key, ColouredPart | None, float, RegionKind, ColouredPart | None]]:
    """Yield every part of every image that is coloured at all.

    Its colours, or none; its area, mm2; its kind; and of a cheek the colours that it lies on.
    """
    for image in coloured_images(work):
        stamp = work.stash.find(image.stamp)
        known = {region.id: region for region in stamp.regions}
        told = {region: part for part in image.colouring for region in part.regions}
        for number, regions in enumerate(parts_of(stamp), 1):
            own = next((told[region] for region in regions if region in told), None)
            kind = known[regions[0]].kind
            area = sum(to_area(known[region].ring, known[region].holes).area for region in regions)
            under = told.get(region_under(stamp, known[regions[0]])) if kind == "cheek" else None
            yield (image.key, number), own, area, kind, under


def region_under(stamp: Stamp, touch: Region) -> int:
    """Id of the region that a touch lies on; 0 for none."""
    middle = to_area(touch.ring).centroid
    closed = (one for one in stamp.regions if not one.is_touch)
    return next((one.id for one in closed if to_area(one.ring, one.holes).covers(middle)), 0)


def hard_images(work: Work) -> tuple[str, ...]:
    """Stamps of coloured images of so many parts that a spare impression is worth its place on the sheet."""
    hard: dict[str, None] = {}
    for image in coloured_images(work):
        if is_hard(work.stash.find(image.stamp)):
            hard[image.stamp] = None
    return tuple(hard)


def laid_in_order(part: ColouredPart, order: ShadeOrder) -> tuple[Shade, ...]:
    """Shades of a part in the order in which they are laid: undertone, run, dots."""
    run = part.shades if order == "dark first" else part.shades[::-1]
    return tuple(shade for shade in (part.undertone, *run, part.dots) if shade is not None)


def key_of(line: Line) -> str:
    """Return what a tick of a fetch is kept under: the same marker for the same parts stays ticked."""
    on = ",".join(sorted({piece for piece, _ in line.parts}))
    return f"colour {line.shade.name or line.shade.colour} {on}"[:200]


def say_line(work: Work, line: Line) -> str:
    """Say a fetch in words: the marker, and on which images, with how many of their parts, or with which touches."""
    names = name_pieces(work)
    on: dict[str, list[str]] = {}
    for key, number in line.parts:
        stamp = work.stash.find(find_image(work, key).stamp)
        first = parts_of(stamp)[number - 1][0]
        kind = next(region.kind for region in stamp.regions if region.id == first)
        on.setdefault(key, []).append("" if kind == "closed" else f"{kind}s")
    told = []
    for key, kinds in on.items():
        plain = kinds.count("")
        words = [names[key]] if plain == 1 else [f"{names[key]} ({plain} parts)"] if plain else []
        told += words + [f"{kind} of the {names[key]}" for kind in kinds if kind]
    return f"{line.shade.name or line.shade.colour}: {', '.join(told)}"


class PartLine(NamedTuple):
    """A part of an image as a line of the list: its number, what it gets in words, and its shades as they are laid."""

    number: int
    words: str
    shades: tuple[Shade, ...]


def list_parts(work: Work) -> list[tuple[Image, list[PartLine]]]:
    """List by image what each of its parts gets; what stays white and what has no colour yet is said as well."""
    found = []
    for image in coloured_images(work):
        stamp = work.stash.find(image.stamp)
        kinds = {region.id: region.kind for region in stamp.regions}
        told = {region: part for part in image.colouring for region in part.regions}
        lines = []
        for number, regions in enumerate(parts_of(stamp), 1):
            part = next((told[region] for region in regions if region in told), None)
            shades = laid_in_order(part, work.card.shade_order) if part is not None else ()
            words = ", ".join(shade.name or shade.colour for shade in shades)
            words = words or ("stays white" if part is not None else "no colour yet")
            kind = kinds[regions[0]]
            lines.append(PartLine(number, words if kind == "closed" else f"{kind}s: {words}", shades))
        found.append((image, lines))
    return found


def part_tick(image: str, number: int) -> str:
    """Return what a tick of a part is kept under."""
    return f"colour part {number} {image}"


def say_spares(work: Work) -> str:
    """Say which images are worth a spare impression; empty for none."""
    found = [work.stash.find(key) for key in hard_images(work)]
    if not found:
        return ""
    told = ", ".join(f"{stamp.name} ({len(parts_of(stamp))} parts)" for stamp in found)
    return f"Stamp a spare of what is hard, the first may fail: {told}."


def caution_of(work: Work) -> str:
    """Say the caution that what is used asks for; empty where nothing can hurt."""
    media = {shade.medium for image in coloured_images(work) for shade in shades_of(image.colouring)}
    return CAUTION if "alcohol" in media else ""


def list_steps(work: Work, plan: MaskPlan) -> list[Step]:
    """Say the colouring as steps, by marker: before the first wash, from which masks protect what is coloured.

    What is stamped over dry inks is coloured when it is there.
    """
    found = list_colouring(work)
    press = next((index for index, one in enumerate(plan.presses) if one.is_ink), len(plan.presses))
    late = {
        piece.id
        for piece in work.card.pieces
        if isinstance(piece, Impression) and piece.is_coloured and piece.stamped == "over dry inks"
    }
    steps = [_step(work, line, press) for line in _lines_on(found.lines, late, are_in=False)]
    steps += [_step(work, line, len(plan.presses)) for line in _lines_on(found.lines, late, are_in=True)]
    if not steps:
        return []
    first = []
    if spares := say_spares(work):
        first.append(Step("stamp", 0, spares))
    if caution := caution_of(work):
        first.append(Step("caution", press, f"Colour. {caution}"))
    check = Step("check", press, "Look for cheeks, inner ears, eyes, white dots and small parts that peek out")
    return [*first, *steps, check]


def _step(work: Work, line: Line, press: int) -> Step:
    keys = tuple(dict.fromkeys(piece_key(key) for key, _ in line.parts))
    return Step("colour", press, say_line(work, line), keys, line.minutes)


def _lines_on(lines: Sequence[Line], images: Collection[str], *, are_in: bool) -> list[Line]:
    """Return fetches with their parts on some images only, or on all others; the time goes with the parts."""
    found = []
    for line in lines:
        parts = tuple(one for one in line.parts if (piece_key(one[0]) in images) == are_in)
        if parts:
            found.append(line._replace(parts=parts, minutes=line.minutes * len(parts) / len(line.parts)))
    return found
