"""What makes one colouring of a card better than another.

Terms, each from 0 (bad) to 1 (good)
------------------------------------
stands out
    Every figure differs from what is seen behind it there (CIEDE2000 between its main colour and that of the ground and
    of the images behind, by the length of the edge that they share); the worst counts half.
few
    Four to six families.
echo
    Every colour comes back on at least two images, best on three that make a triangle.
apart
    Images that overlap, and parts of one image that touch, are of other families.
usual
    Parts keep the colours that the image's first scheme gives them.
"""

from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from fair_thicket.colour.offers import Offer
from fair_thicket.edits.colouring import closed_parts
from fair_thicket.edits.images import coloured_images
from fair_thicket.ink.contrast import to_colour
from fair_thicket.ink.difference import difference, labs_of
from fair_thicket.ink.gradients import tones_at
from fair_thicket.laid.stack import Leaf
from fair_thicket.laid.visibility import View
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.colouring import Shade
from fair_thicket.model.pieces import AnyWash, Cutout, Impression, PaperPiece
from fair_thicket.model.stash import Stamp
from fair_thicket.model.supplies import Colour
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.wash_kinds import kind_of

Choice = NDArray[np.int64]
WEIGHTS = MappingProxyType({"stands_out": 0.34, "few": 0.14, "echo": 0.2, "apart": 0.17, "usual": 0.15})
FULL = 24.0
"""A figure that differs by this from what is behind it stands out fully (our own guess)."""
LEAST_AREA_MM2 = 3.0
"""Smaller parts stay white, unless a scheme says otherwise: eyes, highlights, dots."""
TOUCH_MM = 1.0
LEAST_SHARE = 0.02
SAMPLE_MM, MOST_SAMPLES = 2.0, 24
"""A wash may be another colour every few millimetres: it is looked at along an edge so often."""
MOST_FAMILIES, FEWEST_FAMILIES = 6, 4
TRIANGLE_SHARE = 0.12
"""Of the panel: a triangle that takes this much spans the card."""


class Terms(NamedTuple):
    """The terms of the measure, and the worst figure's difference from what is behind it (CIEDE2000)."""

    stands_out: float
    few: float
    echo: float
    apart: float
    usual: float
    worst: float


class Unit(NamedTuple):
    """A part of an image of the stash.

    Attributes
    ----------
    stamp : str
    part : tuple of int
    area_mm2 : float
    is_main : bool
        The image's largest.
    usual : int
        Place of its usual family; -1 for none.
    pinned : tuple of Shade or None
        What it is coloured with and stays; nothing: it stays white. None leaves it free.
    family : int
        Place of the family that it is pinned to; -1 for none.
    """

    stamp: str
    part: tuple[int, ...]
    area_mm2: float
    is_main: bool
    usual: int
    pinned: tuple[Shade, ...] | None
    family: int

    @property
    def is_free(self) -> bool:
        """Whether its colour is to be chosen."""
        return self.pinned is None


class _Behind(NamedTuple):
    """What lies behind the images on a card.

    Attributes
    ----------
    own : (n,) int
        Main unit of each image.
    grounds : (n, families + 1) float
        What each family differs from its grounds, by the share of its edge that they take.
    figure, other, share : (m,)
        Links from an image to the main unit of another behind it, and the share of the edge.
    """

    own: NDArray[np.int64]
    grounds: NDArray[np.float64]
    figure: NDArray[np.int64]
    other: NDArray[np.int64]
    share: NDArray[np.float64]


class Measure:
    """Scores colourings of one card: for each unit a family, -1 for white.

    Attributes
    ----------
    units : list of Unit
    free : list of int
        Units that are to be chosen, the largest first.
    keeps : bool
    """

    def __init__(self, work: Work, view: View, families: Sequence[Offer], *, keeps: bool = False) -> None:
        self.keeps = keeps
        self._families = families
        self._leads = labs_of([*(one.shades[len(one.shades) // 2].colour for one in families), WHITE])
        self._apart = difference(self._leads[:, None, :], self._leads[None, :, :])  # white is the last, as -1 says
        leaves = [leaf for leaf in view.leaves if leaf.key == leaf.piece.id and _has_regions(leaf, work)]
        self._stamps = list(dict.fromkeys(map(_stamp_of, leaves)))
        self.units: list[Unit] = []
        for key in self._stamps:
            self.units += _units_of(work.stash.find(key), families, self._pinned(work, key))
        self.free = _free(self.units)
        self._main = {unit.stamp: n for n, unit in enumerate(self.units) if unit.is_main}
        self._fixed = np.array([-1 if unit.is_free else unit.family for unit in self.units], np.int64)
        leaves = [leaf for leaf in leaves if _stamp_of(leaf) in self._main]  # some have touches alone to colour
        self._behind = self._look_behind(work, view, leaves)
        pairs = [*self._overlapping(view, leaves), *self._touching(work)]
        self._pairs = np.array(pairs, np.int64).reshape(-1, 2)
        self._on = _places(leaves, self._stamps)
        self._bit = np.array([1 << self._stamps.index(unit.stamp) for unit in self.units], dtype=object)
        self._panel_mm2 = work.card.panel[0] * work.card.panel[1]
        self._echoes: dict[int, float] = {}
        self._areas = np.array([unit.area_mm2 for unit in self.units])
        usually = np.array([unit.usual for unit in self.units], np.int64)
        self._told = np.array(self.free, np.int64)[usually[self.free] >= 0]
        usual = usually[self._told]
        self._near_usual = np.maximum(0.0, 1 - self._apart[usual] / FULL) * self._areas[self._told][:, None]

    def _pinned(self, work: Work, key: str) -> dict[int, tuple[Shade, ...]]:
        """Tell what the regions of an image are coloured with on the card, where that is to stay."""
        alike = (image.colouring for image in coloured_images(work) if image.stamp == key)
        told = next(alike, ()) if self.keeps else ()
        return {region: part.shades for part in told for region in part.regions}

    # -- what lies where ---------------------------------------------------------------------------------------------

    def _look_behind(self, work: Work, view: View, leaves: Sequence[Leaf]) -> "_Behind":
        """Look what lies behind the edge of every image on the card: other images, or grounds, by share."""
        place = {id(leaf): index for index, leaf in enumerate(view.leaves)}
        own: list[int] = []
        links: list[tuple[int, int, float]] = []
        grounds: list[NDArray[np.float64]] = []
        for leaf in leaves:
            at = place[id(leaf)]
            edge = view.seen[at].boundary
            if edge.length <= 0:
                continue
            rest: BaseGeometry = edge
            ground = np.zeros(len(self._leads))
            for below in reversed(view.leaves[:at]):
                here = shapely.intersection(rest, below.area)
                share = float(shapely.length(here)) / edge.length
                if share < LEAST_SHARE:
                    continue
                tones = _tones_along(below, here)
                if _stamp_of(below) in self._main:
                    links.append((len(own), self._main[_stamp_of(below)], share))
                elif not tones:
                    continue
                else:
                    apart = difference(self._leads[:, None, :], labs_of(tones)[None, :, :])
                    ground += share * apart.mean(axis=1)
                rest = shapely.difference(rest, below.area)
            left = float(shapely.length(rest)) / edge.length
            ground += left * difference(self._leads, labs_of([work.card.paper])[0])
            own.append(self._main[_stamp_of(leaf)])
            grounds.append(ground)
        figure, other, share_of = (list(column) for column in zip(*links, strict=True)) if links else ([], [], [])
        return _Behind(
            np.array(own, np.int64), np.array(grounds).reshape(len(own), len(self._leads)),
            np.array(figure, np.int64), np.array(other, np.int64), np.array(share_of, np.float64),
        )  # fmt: skip

    def _overlapping(self, view: View, leaves: Sequence[Leaf]) -> list[tuple[int, int]]:
        """List main units of images that overlap; copies of one image are told apart otherwise."""
        known = {id(leaf) for leaf in leaves}
        pairs = set()
        for back, front in view.shared:
            one, other = view.leaves[back], view.leaves[front]
            if id(one) in known and id(other) in known and _stamp_of(one) != _stamp_of(other):
                pairs.add(tuple(sorted((self._main[_stamp_of(one)], self._main[_stamp_of(other)]))))
        return [(a, b) for a, b in sorted(pairs)]

    def _touching(self, work: Work) -> list[tuple[int, int]]:
        """Pairs of parts of one image that lie side by side."""
        pairs = []
        for key in self._stamps:
            stamp = work.stash.find(key)
            areas = {one.id: to_area(one.ring, one.holes) for one in stamp.regions}
            own = [n for n, unit in enumerate(self.units) if unit.stamp == key and unit.pinned != ()]
            shapes = {n: shapely.union_all([areas[region] for region in self.units[n].part]) for n in own}
            pairs += [
                (a, b) for i, a in enumerate(own) for b in own[i + 1 :] if shapes[a].distance(shapes[b]) < TOUCH_MM
            ]
        return pairs

    # -- choices -----------------------------------------------------------------------------------------------------

    def with_choice(self, families: Sequence[int]) -> Choice:
        """Make a colouring of families for the free units, in their order."""
        choice = self._fixed.copy()
        choice[self.free] = families
        return choice

    def usual(self, palette: Choice) -> Choice:
        """Make a colouring of the usual families, each by what of the palette comes nearest."""
        nearest = []
        for n in self.free:
            usual = self.units[n].usual
            nearest.append(int(palette[self._apart[usual, palette].argmin()]) if usual >= 0 else int(palette[0]))
        return self.with_choice(nearest)

    def draw_palette(self, chance: np.random.Generator, number: int, bounds: tuple[int, int]) -> Choice:
        """Draw families for a proposal: the first takes those that are usual, others draw more and more by chance."""
        weight = np.ones(len(self._families))
        for n in self.free:
            if self.units[n].usual >= 0:
                weight[self.units[n].usual] += self.units[n].area_mm2 / max(float(self._areas.sum()), 1.0) * 40
        count = min(len(self._families), int(chance.integers(bounds[0], bounds[1] + 1)))
        if number == 0:
            return np.argsort(-weight, kind="stable")[: min(len(weight), bounds[1])]
        shares = weight ** (1.0 / number)
        return chance.choice(len(weight), count, replace=False, p=shares / shares.sum())

    def used(self, choice: Choice) -> list[int]:
        """Families that a colouring uses, the largest first."""
        sums = {family: float(self._areas[choice == family].sum()) for family in set(choice.tolist()) if family >= 0}
        return sorted(sums, key=lambda family: -sums[family])

    def apart(self, one: Choice, other: Choice) -> float:
        """Share of what is coloured that two colourings give other families."""
        whole = float(self._areas[self.free].sum())
        return float(self._areas[one != other].sum()) / whole if whole else 0.0

    # -- the measure -------------------------------------------------------------------------------------------------

    def score(self, choice: Choice) -> float:
        """Measure a colouring, 0 to 1."""
        terms = self.terms(choice)
        return float(sum(weight * getattr(terms, name) for name, weight in WEIGHTS.items()))

    def terms(self, choice: Choice) -> Terms:
        """Measure a colouring term by term."""
        behind = self._behind
        own = choice[behind.own]
        off = behind.grounds[np.arange(len(own)), own]
        if len(behind.figure):
            np.add.at(off, behind.figure, behind.share * self._apart[own[behind.figure], choice[behind.other]])
        worst = float(off.min(initial=FULL))
        mean = float(np.minimum(off, FULL).mean()) / FULL if len(off) else 1.0
        count = len(np.unique(choice[choice >= 0]))
        few = self._few(count)
        one, other = choice[self._pairs[:, 0]], choice[self._pairs[:, 1]]
        same = float(((one == other) & (one >= 0)).mean()) if len(one) else 0.0
        whole = float(self._areas[self._told].sum())
        usual = float(self._near_usual[np.arange(len(self._told)), choice[self._told]].sum()) / whole if whole else 1.0
        return Terms(0.5 * mean + 0.5 * min(1.0, worst / FULL), few, self._echo(choice), 1 - same, usual, worst)

    def _few(self, count: int) -> float:
        """Mark how many families there are: 1 for four to six, or for as many as there are parts to colour."""
        least = min(FEWEST_FAMILIES, len(self.free))
        if count < least:
            return float(count) / least
        return 1.0 if count <= MOST_FAMILIES else max(0.0, 1 - (count - MOST_FAMILIES) / 4)

    def _echo(self, choice: Choice) -> float:
        """Tell how well colours come back: each family by the images that have it, best by a triangle."""
        masks: dict[int, int] = {}
        for family, bit in zip(choice.tolist(), self._bit, strict=True):
            if family >= 0:
                masks[family] = masks.get(family, 0) | bit
        return sum(map(self._mark, masks.values())) / len(masks) if masks else 1.0

    def _mark(self, mask: int) -> float:
        """Mark a family by the images that have it, a bit each; kept."""
        if mask not in self._echoes:
            spots = self._spots(mask)
            spread = shapely.MultiPoint(spots).convex_hull.area / (TRIANGLE_SHARE * self._panel_mm2) if spots else 0.0
            self._echoes[mask] = 0.0 if len(spots) < 2 else 0.7 + 0.3 * min(1.0, float(spread))
        return self._echoes[mask]

    def _spots(self, mask: int) -> list[tuple[float, float]]:
        return [spot for n, spots in enumerate(self._on) if mask >> n & 1 for spot in spots]

    def reasons(self, choice: Choice, terms: Terms) -> tuple[str, ...]:
        """Say in sentences what is good about a colouring, and what is not."""
        used = self.used(choice)
        names = [self._families[family].name for family in used]
        told = [f"{len(used)} families: {', '.join(names)}."]
        stands = "Every figure stands out" if terms.worst >= 10 else "One figure hardly stands out"
        told.append(f"{stands}: at least {terms.worst:.0f} off what is behind it.")
        alone = [
            self._families[family].name
            for family in used
            if len(self._spots(sum({self._bit[n] for n in np.flatnonzero(choice == family).tolist()}))) < 2
        ]
        told.append(f"Only once: {', '.join(alone)}." if alone else "Every colour comes back at least once.")
        if terms.usual < 1:
            told.append(f"{terms.usual:.0%} of it in its usual colours.")
        return tuple(told)


def _units_of(stamp: Stamp, families: Sequence[Offer], pinned: Mapping[int, tuple[Shade, ...]]) -> list[Unit]:
    """Return the units of an image; `pinned` tells what regions are coloured with that stay as they are."""
    areas = {one.id: to_area(one.ring, one.holes).area for one in stamp.regions}
    usual = {region: part for scheme in stamp.schemes[:1] for part in scheme.colouring for region in part.regions}
    parts = closed_parts(stamp)
    sizes = [sum(areas[region] for region in part) for part in parts]
    units = []
    for part, size in zip(parts, sizes, strict=True):
        told = usual[part[0]].shades if part[0] in usual else None
        stays = pinned.get(part[0])
        if stays is None and _stays_white(told, size):
            stays = ()
        usually, family = _family_of(told or (), families), _family_of(stays or (), families)
        units.append(Unit(stamp.id, part, size, size == max(sizes), usually, stays, family))
    return units


def _stays_white(told: tuple[Shade, ...] | None, size: float) -> bool:
    """Whether a part is left white: its scheme says so, or says nothing and it is tiny."""
    return told == () if told is not None else size < LEAST_AREA_MM2


def _family_of(shades: Sequence[Shade], families: Sequence[Offer]) -> int:
    """Find the family that shades are of, by the name of a shade, or by their names without a number; -1 for none."""
    named = {shade.name: n for n, family in enumerate(families) for shade in family.shades}
    named |= {family.name: n for n, family in enumerate(families)}
    names = [name for shade in shades for name in (shade.name, shade.name.rstrip("0123456789 "))]
    return next((named[name] for name in names if name in named), -1)


def _free(units: Sequence[Unit]) -> list[int]:
    """Places of units whose colour is to be chosen, the largest first."""
    return [n for n in sorted(range(len(units)), key=lambda n: -units[n].area_mm2) if units[n].is_free]


def _places(leaves: Sequence[Leaf], stamps: Sequence[str]) -> list[list[tuple[float, float]]]:
    """Places of every image of the stash on the card."""
    return [[(leaf.piece.x, leaf.piece.y) for leaf in leaves if _stamp_of(leaf) == key] for key in stamps]


def _has_regions(leaf: Leaf, work: Work) -> bool:
    piece = leaf.piece
    return isinstance(piece, Impression | Cutout) and bool(work.stash.find(piece.stamp).regions)


def _stamp_of(leaf: Leaf) -> str:
    piece = leaf.piece
    return piece.stamp if isinstance(piece, Impression | Cutout) else ""


def _tones_along(leaf: Leaf, edge: BaseGeometry) -> list[Colour]:
    """Colours that a paper or a wash has along an edge; none for what is an image to be coloured, or has no colour."""
    piece = leaf.piece
    if isinstance(piece, AnyWash):
        if not kind_of(piece).has_colour:
            return []
        places = shapely.get_coordinates(shapely.segmentize(edge, SAMPLE_MM))
        places = places[:: max(1, len(places) // MOST_SAMPLES)]
        return [to_colour((red, green, blue)) for red, green, blue in tones_at(piece, places).tolist()]
    return [piece.colour or WHITE] if isinstance(piece, PaperPiece) else []
