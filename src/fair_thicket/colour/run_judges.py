"""Runs judged: shades too far or too alike, too few or too many for a part, markers that are missing."""

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import msgspec

from fair_thicket.colour.runs import Gap, find_gaps, find_run, lay_on, leads_of
from fair_thicket.colour.whites_and_cheeks import GLAZE, WHITE_PEN
from fair_thicket.edits.colouring import replace_shade, touch_ids
from fair_thicket.edits.images import Colouring, Image, paper_under, recolour_pieces
from fair_thicket.ink.difference import difference, difference_of, labs_of
from fair_thicket.ink.mixing import chroma_of, hue_of
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import ColouredPart, Shade, shade_of, shades_of
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.keys import piece_key
from fair_thicket.model.stash import Stamp
from fair_thicket.model.supplies import Colour, Marker
from fair_thicket.shape.outline import to_area

LARGE_MM2, TINY_MM2 = 150.0, 12.0
"""From and up to where a part is large, and tiny (our own guess)."""
FEW, MANY = 2, 4
FAMILY_DEG, GREY_CHROMA = 60.0, 12.0
"""Shades whose hues lie farther apart are of two families (our own guess)."""
CAP_OFF = 12.0
"""A cap that differs by this from what is laid misleads (our own guess)."""
FAR_OFF = 12.0
"""A run whose lead is farther off than this is another colour."""
NEAR_ENOUGH = 5.0
"""A marker nearer to a missing one than this takes its place unseen (our own guess)."""


ALWAYS = (GLAZE, WHITE_PEN)
"""What is at hand on every table, and in no box of markers."""


class _Run(NamedTuple):
    """A run as it is used: its shades, and on which parts of which images."""

    shades: tuple[Shade, ...]
    parts: list[tuple[Image, ColouredPart]]


def judge_runs(
    work: Work, coloured: Sequence[Image], names: Mapping[str, str], markers: Sequence[Marker]
) -> Iterator[Finding]:
    """Tell steps that do not blend, once for every run."""
    runs: dict[tuple[Shade, ...], _Run] = {}
    for image in coloured:
        for part in image.colouring:
            if len(part.shades) > 1:
                runs.setdefault(part.shades, _Run(part.shades, [])).parts.append((image, part))
    told: dict[tuple[Shade, Shade], tuple[Gap, list[str], Remedy | None]] = {}
    for run in runs.values():
        paper = paper_under(work.card, run.parts[0][0])
        laid = lay_on([shade.colour for shade in run.shades], paper)
        for gap in find_gaps(laid):
            dark, light = run.shades[gap.after : gap.after + 2]
            _, keys, remedy = told.setdefault((dark, light), (gap, [], _better(run, laid, paper, markers)))
            keys += [image.key for image, _ in run.parts if image.key not in keys]
            told[dark, light] = (gap, keys, remedy)
    for (dark, light), (gap, keys, remedy) in told.items():
        yield _tell_gap(dark, light, gap, keys, names, remedy)


def _tell_gap(
    dark: Shade, light: Shade, gap: Gap, keys: Sequence[str], names: Mapping[str, str], remedy: Remedy | None
) -> Finding:
    where = ", ".join(f"the {names[key]}" for key in keys[:3]) + (" and others" if len(keys) > 3 else "")
    pair = f"{say_shade(dark)} and {say_shade(light)}"
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
    return Finding(
        code,
        weight,
        title,
        text,
        round(gap.step, 1),
        "difference",
        tuple(dict.fromkeys(map(piece_key, keys))),
        remedy=remedy,
    )


def _better(run: _Run, laid: Sequence[Colour], paper: Colour, markers: Sequence[Marker]) -> Remedy | None:
    """Find a run of as many of the maker's own markers that blends."""
    lead = laid[leads_of(len(laid))[-1]]
    found = find_run([one.colour for one in markers], lead, len(laid), paper=paper)
    if found is None or find_gaps(found.laid) or found.off > FAR_OFF:
        return None
    shades = tuple(shade_of(markers[index]) for index in found.markers)

    def change(key: str, stamp: str, colouring: Colouring) -> Colouring:
        del key, stamp
        return tuple(
            msgspec.structs.replace(part, shades=shades) if part.shades == run.shades else part for part in colouring
        )

    pieces = recolour_pieces([image.piece for image, _ in run.parts], change)
    changed = {piece.id: piece for piece in pieces}
    return Remedy(f"Take {', '.join(map(say_shade, shades))}", pieces=tuple(changed.values()))


def say_shade(shade: Shade) -> str:
    """Return what the maker calls a shade, else its colour."""
    return shade.name or shade.colour


def _sized(stamp: Stamp, image: Image) -> list[tuple[float, ColouredPart]]:
    """Return the parts of an image that have shades, each with the area of its largest region, mm2."""
    sizes = {one.id: to_area(one.ring, one.holes).area for one in stamp.regions}
    touches = touch_ids(stamp)
    parts = [part for part in image.colouring if part.shades and not touches & set(part.regions)]
    return [(max(sizes[region] for region in part.regions), part) for part in parts]


def _hues_apart(part: ColouredPart) -> float:
    """Most that two shades of a part lie apart in hue, degrees; greys have none."""
    hues = [hue_of(shade.colour) for shade in part.shades if chroma_of(shade.colour) >= GREY_CHROMA]
    return max((abs((a - b + 180) % 360 - 180) for a in hues for b in hues), default=0.0)


def judge_caps(
    work: Work, coloured: Sequence[Image], names: Mapping[str, str], markers: Sequence[Marker]
) -> Iterator[Finding]:
    """Tell markers in use whose cap promises another colour than they lay on the paper that they are used on."""
    own = {one.name: one for one in markers if one.cap}
    told: set[str] = set()
    for image in coloured:
        paper = paper_under(work.card, image)
        for shade in shades_of(image.colouring):
            marker = own.get(shade.name)
            if marker is None or marker.cap is None or shade.name in told:
                continue
            off = difference_of(lay_on([shade.colour], paper)[0], marker.cap)
            if off >= CAP_OFF:
                told.add(shade.name)
                yield Finding(
                    "cap-lies",
                    Weight.NOTE,
                    f"The cap of {shade.name} promises another colour",
                    f"On the paper of the {names[image.key]} it lays {off:.0f} off what its cap shows; your own swatch "
                    "is the truth, and it is what is shown here.",
                    round(off, 1),
                    "difference",
                    (image.piece.id,),
                )


def judge_sizes(work: Work, coloured: Sequence[Image], names: Mapping[str, str]) -> Iterator[Finding]:
    """Tell too few shades on a large part, and too many on a tiny one; for each piece the plainest."""
    for image in coloured:
        sized = _sized(work.stash.find(image.stamp), image)
        large = max((one for one in sized if len(one[1].shades) <= FEW), key=lambda one: one[0], default=None)
        if large is not None and large[0] >= LARGE_MM2:
            yield Finding(
                "few-shades",
                Weight.NOTE,
                f"A large part of the {names[image.key]} has {len(large[1].shades)} shades only",
                f"It measures {large[0] / 100:.1f} cm²; from {LARGE_MM2 / 100:.1f} cm² on a third is missed later.",
                round(large[0], 1),
                "mm2",
                (image.piece.id,),
            )
        mixed = max((one for one in sized if _hues_apart(one[1]) > FAMILY_DEG), key=lambda one: one[0], default=None)
        if mixed is not None and mixed[0] >= LARGE_MM2:
            yield Finding(
                "two-families",
                Weight.NOTE,
                f"A large part of the {names[image.key]} takes two families",
                f"Its shades lie {_hues_apart(mixed[1]):.0f}° of hue apart over {mixed[0] / 100:.1f} cm²: two families "
                "are hard to merge; only on small parts.",
                round(_hues_apart(mixed[1]), 1),
                "deg",
                (image.piece.id,),
            )
        tiny = min((one for one in sized if len(one[1].shades) >= MANY), key=lambda one: one[0], default=None)
        if tiny is not None and tiny[0] <= TINY_MM2:
            yield Finding(
                "many-shades",
                Weight.NOTE,
                f"A tiny part of the {names[image.key]} has {len(tiny[1].shades)} shades",
                f"It measures {tiny[0]:.0f} mm²: one or two will do, the others find no room.",
                round(tiny[0], 1),
                "mm2",
                (image.piece.id,),
            )


def _not_owned(coloured: Sequence[Image], markers: Sequence[Marker]) -> dict[Shade, list[str]]:
    """Return the shades by name that are not among the maker's markers, each with the images that ask for it."""
    own = {one.name for one in markers} | {one.name for one in ALWAYS} | {""}
    on: dict[Shade, list[str]] = {}
    for image in coloured if markers else ():
        for shade in shades_of(image.colouring):
            if shade.name not in own:
                on.setdefault(shade, []).append(image.key)
    return on


def judge_missing(
    work: Work, coloured: Sequence[Image], names: Mapping[str, str], markers: Sequence[Marker]
) -> Iterator[Finding]:
    """Tell markers that the card asks for and the maker does not have, with the nearest that there is."""
    for shade, keys in _not_owned(coloured, markers).items():
        offs = difference(labs_of([one.colour for one in markers]), labs_of([shade.colour])[0])
        nearest, off = markers[int(offs.argmin())], float(offs.min())
        changed = replace_shade(work, shade, shade_of(nearest))
        ids = {piece_key(key) for key in keys}
        pieces = tuple(piece for piece in changed.card.pieces if piece.id in ids)
        where = ", ".join(f"the {names[key]}" for key in keys[:3]) + (" and others" if len(keys) > 3 else "")
        yield Finding(
            "marker-missing",
            Weight.NOTE if off <= NEAR_ENOUGH else Weight.CAUTION,
            f"You have no {shade.name}",
            f"It is asked for on {where}. The nearest of yours is {nearest.name}, {off:.0f} off.",
            round(off, 1),
            "difference",
            tuple(dict.fromkeys(map(piece_key, keys))),
            remedy=Remedy(f"Take {nearest.name}", pieces=pieces) if off <= FAR_OFF else None,
        )
