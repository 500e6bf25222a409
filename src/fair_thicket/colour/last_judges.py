"""What comes last and is forgotten: cheeks, eyes, white dots; cheeks that are not seen, and whites left blank."""

from collections.abc import Iterator, Mapping, Sequence

from fair_thicket.colour.listing import region_under
from fair_thicket.colour.runs import lay_on
from fair_thicket.colour.whites_and_cheeks import CHEEK_SEEN, are_warm, cheek_on, find_cheek, find_pale_run, touch_shade
from fair_thicket.edits.colouring import colour_parts, parts_of
from fair_thicket.edits.images import Image, find_image, paper_under
from fair_thicket.ink.mixing import to_lab
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import ColouredPart, RegionKind
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.stash import Stamp
from fair_thicket.model.supplies import Colour, Marker
from fair_thicket.shape.outline import to_area

BLANK_MM2 = 40.0
"""A larger part of a figure with a face that stays white looks forgotten (our own guess)."""
WHITE_PAPER = 90.0
"""CIELAB lightness from which paper counts as white."""
Touch = tuple[RegionKind, tuple[int, ...]]


def touches_of(stamp: Stamp) -> list[Touch]:
    """Return the parts of an image that are put on last, each with what it is."""
    kinds = {region.id: region.kind for region in stamp.regions}
    return [(kinds[part[0]], part) for part in parts_of(stamp) if kinds[part[0]] != "closed"]


def judge_last(
    work: Work, coloured: Sequence[Image], names: Mapping[str, str], markers: Sequence[Marker]
) -> Iterator[Finding]:
    """Tell touches that are forgotten, and cheeks that are not seen on what they lie on."""
    for image in coloured:
        done = {region for part in image.colouring for region in part.regions}
        missing = [touch for touch in touches_of(work.stash.find(image.stamp)) if not set(touch[1]) & done]
        if missing:
            yield _tell_forgotten(work, image, missing, names, markers)
        yield from _unseen(work, image, names, markers)


def _tell_forgotten(
    work: Work, image: Image, missing: Sequence[Touch], names: Mapping[str, str], markers: Sequence[Marker]
) -> Finding:
    changed, offered = work, []
    for kind, part in missing:
        shade = touch_shade(kind, markers, tone_under(work, image, part))
        if shade is not None:
            changed = colour_parts(changed, {image.key}, [part], shades=(shade,))
            offered.append(f"{kind}s in {shade.name}")
    told = " and ".join(f"{kind}s" for kind, _ in missing)
    remedy = None
    if len(offered) == len(missing):
        remedy = Remedy(f"Put on {', '.join(offered)}", pieces=(changed.card.find(image.piece.id),))
    return Finding(
        "touch-forgotten",
        Weight.CAUTION,
        f"The {told} of the {names[image.key]} {'are' if told.endswith('s') else 'is'} not on the list",
        "They are the last details, and the ones forgotten.",
        float(len(missing)),
        "count",
        (image.piece.id,),
        remedy=remedy,
    )


def _unseen(work: Work, image: Image, names: Mapping[str, str], markers: Sequence[Marker]) -> Iterator[Finding]:
    for kind, part in touches_of(work.stash.find(image.stamp)):
        own = next((one for one in image.colouring if set(one.regions) & set(part)), None)
        if kind != "cheek" or own is None or not own.shades:
            continue
        under = tone_under(work, image, part)
        seen = cheek_on(under, own.shades[-1])
        if seen >= CHEEK_SEEN:
            continue
        better = find_cheek(markers, under)
        remedy = None
        if better is not None:
            changed = colour_parts(work, {image.key}, [part], shades=(better,))
            remedy = Remedy(f"Take {better.name}", pieces=(changed.card.find(image.piece.id),))
        yield Finding(
            "cheeks-unseen",
            Weight.NOTE,
            f"The cheeks of the {names[image.key]} are not seen",
            f"They lie {seen:.0f} off what is under them, under {CHEEK_SEEN:.0f}: on dark fur a pink one step darker.",
            round(seen, 1),
            "difference",
            (image.piece.id,),
            remedy=remedy,
        )


def tone_under(work: Work, image: Image, touch: Sequence[int]) -> Colour:
    """Colour on which a touch is put: the middle shade of the part under it, on the image's paper."""
    stamp = work.stash.find(image.stamp)
    region = next(one for one in stamp.regions if one.id == touch[0])
    under = region_under(stamp, region)
    paper = paper_under(work.card, image)
    part = next((one for one in image.colouring if under in one.regions), None)
    if part is None or not part.shades:
        return paper
    return lay_on([part.shades[len(part.shades) // 2].colour], paper)[0]


def judge_whites(
    work: Work, coloured: Sequence[Image], names: Mapping[str, str], markers: Sequence[Marker]
) -> Iterator[Finding]:
    """Tell large parts of creatures that are left blank: whites take the palest greys or sand (common practice)."""
    for image in coloured:
        stamp = work.stash.find(image.stamp)
        if not is_creature(stamp) or to_lab(paper_under(work.card, image))[0] < WHITE_PAPER:
            continue
        blank = [part for part in image.colouring if not (part.shades or part.undertone) and _is_large(stamp, part)]
        if not blank:
            continue
        run = find_pale_run(markers, is_warm=are_warm(image.colouring))
        remedy = None
        if run:
            changed = colour_parts(work, {image.key}, [part.regions for part in blank], shades=run)
            remedy = Remedy(f"Take {', '.join(shade.name for shade in run)}", (changed.card.find(image.piece.id),))
        area = sum(to_area(one.ring, one.holes).area for one in stamp.regions if _is_in(one.id, blank))
        yield Finding(
            "white-blank",
            Weight.NOTE,
            f"White of the {names[image.key]} is left blank",
            "White animals take the palest warm greys or sand, hardly any, beside blues cool ones; blank paper looks "
            "forgotten.",
            round(area, 1),
            "mm2",
            (image.piece.id,),
            remedy=remedy,
        )


def by_custom(work: Work, key: str, markers: Sequence[Marker]) -> Work:
    """Colour of an image what custom alone decides: touches, and large whites of a creature in the palest greys."""
    image = find_image(work, key)
    stamp = work.stash.find(image.stamp)
    for kind, part in touches_of(stamp):
        shade = touch_shade(kind, markers, tone_under(work, image, part))
        if shade is not None:
            work = colour_parts(work, {key}, [part], shades=(shade,))
    blank = [part.regions for part in image.colouring if not part.shades and _is_large(stamp, part)]
    run = find_pale_run(markers, is_warm=are_warm(image.colouring))
    if blank and run and is_creature(stamp):
        work = colour_parts(work, {key}, blank, shades=run)
    return work


def is_creature(stamp: Stamp) -> bool:
    """Whether an image has a face."""
    return any(zone.what == "face" for zone in stamp.marks.zones)


def _is_large(stamp: Stamp, part: ColouredPart) -> bool:
    sizes = (to_area(one.ring, one.holes).area for one in stamp.regions if one.id in part.regions and not one.is_touch)
    return max(sizes, default=0.0) >= BLANK_MM2


def _is_in(region: int, parts: Sequence[ColouredPart]) -> bool:
    return any(region in part.regions for part in parts)
