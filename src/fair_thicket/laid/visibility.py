"""How much of every piece is seen, exactly, and what hides the rest."""

import math
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry

from fair_thicket.laid.stack import Leaf, paper_of, stack
from fair_thicket.model.card import Card, Work
from fair_thicket.model.derived import derive
from fair_thicket.model.pieces import PaperPiece
from fair_thicket.model.stash import Stash
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.shape.outline import Area, only_areas
from fair_thicket.shape.overlap import find_overlaps


class Sight(msgspec.Struct, frozen=True):
    """What is seen of one piece, all its flaps together.

    Attributes
    ----------
    id : str
    area_mm2 : float
        Its whole area, as trimmed.
    visible_mm2 : float
        The part that is there and under nothing.
    off_panel_mm2 : float
        The part beyond the panel's edge: ink that falls beside its paper, or paper that hangs over the card's edge.
    hidden_by : dict of str to float
        Area that each piece in front covers of it, mm2; where two cover the same place it counts for both.
    hangs : bool
        Whether what is beyond the edge is paper, and so is there to be seen.
    """

    id: str
    area_mm2: float
    visible_mm2: float
    off_panel_mm2: float
    hidden_by: dict[str, float]
    hangs: bool = False

    @property
    def hidden_share(self) -> float:
        """Share of what is there that is covered, 0..1; 0 for ink that falls wholly beside the panel."""
        there = self.area_mm2 if self.hangs else self.area_mm2 - self.off_panel_mm2
        return 0.0 if there <= 0 else max(0.0, 1 - self.visible_mm2 / there)


@dataclass(frozen=True)
class View:
    """A card as it is seen.

    Attributes
    ----------
    card, stash
        What was looked at.
    leaves : tuple of Leaf
        From the back to the front.
    shared : dict
        (index, index) of leaves, the back one first, to the area in mm2 that they share; counted in pixels where
        thousands overlap (see `find_overlaps`).
    seen : tuple of areas
        What is seen of each leaf.
    """

    card: Card
    stash: Stash
    leaves: tuple[Leaf, ...]
    shared: Mapping[tuple[int, int], float]
    seen: tuple[Area, ...]


MANY, MANY_FRONTS = 120, 8
"""From so many leaves on, with so many before each of them, what hides each is not put together anew for each."""
FEW_CORNERS, GROWN, MANY_CORNERS = 40, 1.2, 1000
"""Of what hides then: from here on it is kept in tiles."""
TILE_MM, FULL = 24.0, 1e-9
"""Side of a tile, and how large a share of one that is full may be bare."""


def look(work: Work) -> View:
    """Look at a card, once: the work holds its view; what is as on the work that it was made from is taken over.

    Notes
    -----
    Exact polygons (GEOS). Each leaf meets only those in front of it that overlap it. After one piece is moved only
    its own neighbours, old and new, are worked out anew.
    """
    return derive(work, "view", lambda before: _look(work, before))


def _look(work: Work, earlier: View | None) -> View:
    card = work.card
    usable = earlier if earlier is not None and _is_like(earlier, work) else None
    leaves = stack(work)
    place_before = {id(leaf): index for index, leaf in enumerate(usable.leaves)} if usable else {}
    before = [place_before.get(id(leaf), -1) for leaf in leaves]
    shared = _share(leaves, usable, before)
    if usable is None and len(leaves) > MANY and len(shared) > MANY_FRONTS * len(leaves):
        seen = _see_many(leaves, paper_of(card))
    else:
        seen = _see_each(leaves, shared, paper_of(card), usable, before)
    return View(card, work.stash, leaves, shared, seen)


def _see_each(
    leaves: Sequence[Leaf],
    shared: Mapping[tuple[int, int], float],
    paper: Polygon,
    earlier: View | None,
    before: Sequence[int],
) -> tuple[Area, ...]:
    """Return what is seen of each leaf; what is hidden by the same leaves as before is taken over."""
    hiding: list[list[Leaf]] = [[] for _ in leaves]
    for back, front in sorted(shared):
        if leaves[front].hides:
            hiding[back].append(leaves[front])
    covers_then = _covers(earlier) if earlier else {}
    seen: list[Area] = []
    for leaf, then, over in zip(leaves, before, hiding, strict=True):
        if earlier and then >= 0 and [id(one) for one in over] == covers_then.get(then, []):
            seen.append(earlier.seen[then])
        else:
            here = _on_paper(leaf, paper)
            if over:
                here = shapely.difference(here, shapely.union_all([one.area for one in over]))
            seen.append(only_areas(here))
    return tuple(seen)


def _on_paper(leaf: Leaf, paper: Polygon) -> BaseGeometry:
    """Return what of a leaf is there: ink ends with the paper, paper hangs over."""
    return leaf.area if isinstance(leaf.piece, PaperPiece) else within(leaf.area, paper)


def _see_many(leaves: Sequence[Leaf], paper: Polygon) -> tuple[Area, ...]:
    """Return what is seen of each of very many leaves: what hides grows leaf by leaf, from the front to the back.

    To put a leaf to all that hides takes the time of all that hides; once that has many corners it is kept in tiles.
    What is seen in two tiles meets exactly at their edge, for both are cut on the same line.
    """
    here = [_on_paper(leaf, paper) for leaf in leaves]
    seen: list[list[BaseGeometry]] = [[] for _ in leaves]
    cover, left = _Cover(Polygon()), len(leaves)
    while left and cover.corners <= MANY_CORNERS:
        left -= 1
        seen[left].append(cover.bare(here[left]))
        if leaves[left].hides:
            cover.grow(leaves[left].area)
    with ThreadPoolExecutor() as pool:  # GEOS works outside of Python
        tiles = _tiles(leaves[:left])
        for shown in pool.map(lambda tile: _see_in(tile, tiles[tile], leaves, here, cover.area), tiles):
            for index, piece in shown:
                seen[index].append(piece)
        return tuple(pool.map(_put_together, seen))


def _put_together(pieces: Sequence[BaseGeometry]) -> Area:
    return only_areas(pieces[0] if len(pieces) == 1 else shapely.union_all(pieces))


def _tiles(leaves: Sequence[Leaf]) -> dict[tuple[int, int], list[int]]:
    """Return the leaves whose boxes reach into each tile, by their indices, the front one first."""
    found: dict[tuple[int, int], list[int]] = {}
    for index in range(len(leaves) - 1, -1, -1):
        if leaves[index].area.is_empty:
            continue
        left, top, right, bottom = (math.floor(side / TILE_MM) for side in leaves[index].area.bounds)
        for column in range(left, right + 1):
            for row in range(top, bottom + 1):
                found.setdefault((column, row), []).append(index)
    return found


def _see_in(
    tile: tuple[int, int],
    order: Sequence[int],
    leaves: Sequence[Leaf],
    here: Sequence[BaseGeometry],
    hiding: BaseGeometry,
) -> list[tuple[int, BaseGeometry]]:
    """Return what is seen in a tile of some leaves under what hides already, by their indices; the front one first."""
    left, top, right, bottom = (TILE_MM * side for side in (*tile, tile[0] + 1, tile[1] + 1))
    edges = (left, top, right, bottom)
    shown: list[tuple[int, BaseGeometry]] = []
    cover = _Cover(_clip(hiding, edges))
    for index in order:
        if cover.area.area >= TILE_MM**2 * (1 - FULL):
            break
        piece, leaf = _clip(here[index], edges), leaves[index]
        bare = cover.bare(piece)
        if not bare.is_empty:
            shown.append((index, bare))
        if leaf.hides:
            whole = piece if here[index] is leaf.area else _clip(leaf.area, edges)
            if not bare.is_empty or whole.area > piece.area:  # else all of it lies under the cover already
                cover.grow(whole)
    return shown


class _Cover:
    """What hides, growing.

    Attributes
    ----------
    area : area
    """

    def __init__(self, area: BaseGeometry) -> None:
        self.area = area
        self._thinned = FEW_CORNERS

    @property
    def corners(self) -> int:
        """How many corners it has."""
        return int(shapely.get_num_coordinates(self.area))

    def bare(self, area: BaseGeometry) -> BaseGeometry:
        """Return what of an area it does not hide."""
        return area if self.area.is_empty else shapely.difference(area, self.area)

    def grow(self, area: BaseGeometry) -> None:
        """Hide an area as well.

        Rows of one die heap up corners in the midst of straight edges; whenever there are many more than before those
        are left out: the area stays the same.
        """
        self.area = shapely.union(self.area, area)
        if self.corners > GROWN * self._thinned:
            self.area = shapely.simplify(self.area, 0.0)
            self._thinned = max(FEW_CORNERS, self.corners)


def _clip(area: BaseGeometry, edges: tuple[float, float, float, float]) -> BaseGeometry:
    """Cut an area at the edges of a tile, the quick way where that gives a sound area."""
    quick = shapely.clip_by_rect(area, *edges)
    return quick if quick.is_valid else shapely.intersection(area, box(*edges))


def _covers(view: View) -> dict[int, list[int]]:
    """For each leaf of a view who it is that hides it, by identity, the lowest first."""
    found: dict[int, list[tuple[int, int]]] = {}
    for back, front in view.shared:
        if view.leaves[front].hides:
            found.setdefault(back, []).append((front, id(view.leaves[front])))
    return {back: [leaf for _, leaf in sorted(fronts)] for back, fronts in found.items()}


def _is_like(earlier: View, work: Work) -> bool:
    return earlier.stash is work.stash and earlier.card.panel == work.card.panel


def _share(leaves: Sequence[Leaf], earlier: View | None, before: Sequence[int]) -> dict[tuple[int, int], float]:
    """Area that each pair of leaves shares; pairs that both rest are taken over."""
    if earlier is None:
        return find_overlaps([leaf.area for leaf in leaves], may_count=True)
    known: dict[tuple[int, int], float] = {}
    old = [(index, then) for index, then in enumerate(before) if then >= 0]
    now = {then: index for index, then in old}
    for (back, front), area in earlier.shared.items():
        if back in now and front in now:
            pair = (now[back], now[front])
            known[min(pair), max(pair)] = area
    fresh = [index for index, then in enumerate(before) if then < 0]
    known.update(_share_anew(np.array([leaf.area for leaf in leaves], dtype=object), fresh))
    return dict(sorted(known.items()))


def _share_anew(areas: NDArray[np.object_], fresh: Sequence[int]) -> dict[tuple[int, int], float]:
    """Area that each of some leaves shares with any other."""
    if not fresh:
        return {}
    first, second = shapely.STRtree(areas).query(areas[list(fresh)], predicate="intersects")
    pairs = {(min(fresh[i], j), max(fresh[i], j)) for i, j in zip(first.tolist(), second.tolist(), strict=True)}
    found = {}
    for i, j in sorted(pairs):
        area = float(shapely.intersection(areas[i], areas[j]).area) if i != j else 0.0
        if area > OVERLAP_MM2:
            found[i, j] = area
    return found


def within(area: Area, paper: Polygon) -> BaseGeometry:
    """Cut an area at the edges of an upright rectangle; what lies well inside is given back as it is."""
    if area.is_empty:
        return area
    left, top, right, bottom = area.bounds
    low_x, low_y, high_x, high_y = paper.bounds
    if low_x <= left and low_y <= top and right <= high_x and bottom <= high_y:
        return area
    return shapely.intersection(area, paper)


def sights_of(view: View) -> tuple[Sight, ...]:
    """Sum a view up by piece, from the front to the back."""
    paper = paper_of(view.card)
    figures: dict[str, list[float]] = {}
    hidden: dict[str, dict[str, float]] = {}
    for index, leaf in enumerate(view.leaves):
        row = figures.setdefault(leaf.piece.id, [0.0, 0.0, 0.0])
        row[0] += float(leaf.whole.area)
        row[1] += float(view.seen[index].area)
        on_paper = within(leaf.area, paper).area
        row[2] += max(0.0, float(leaf.whole.area) - float(on_paper))
        hidden.setdefault(leaf.piece.id, {})
    for (back, front), area in view.shared.items():
        if view.leaves[front].hides and view.leaves[back].piece.id != view.leaves[front].piece.id:
            by = hidden[view.leaves[back].piece.id]
            key = view.leaves[front].piece.id
            by[key] = by.get(key, 0.0) + area
    return tuple(
        Sight(
            key,
            area_mm2=figures[key][0],
            visible_mm2=figures[key][1],
            off_panel_mm2=figures[key][2],
            hidden_by=hidden[key],
            hangs=isinstance(view.card.find(key), PaperPiece),
        )
        for key in reversed([piece.id for piece in view.card.pieces])
    )


def see(work: Work) -> tuple[Sight, ...]:
    """See every piece of a card, from the front to the back."""
    return sights_of(look(work))


def see_areas(ids: Sequence[str], areas: Sequence[Area], panel: tuple[float, float]) -> tuple[Sight, ...]:
    """See every area of a stack of bare impressions, front first.

    Parameters
    ----------
    ids, areas : same length
    panel : (width, height), mm
    """
    paper = box(0, 0, *panel)
    overlaps = find_overlaps(areas)
    fronts: dict[int, list[int]] = {index: [] for index in range(len(areas))}
    for i, j in overlaps:
        fronts[j].append(i)
    sights = []
    for index, area in enumerate(areas):
        here = shapely.intersection(area, paper)
        over = shapely.union_all([areas[i] for i in fronts[index]]) if fronts[index] else None
        visible = shapely.difference(here, over).area if over is not None else here.area
        sights.append(
            Sight(
                id=ids[index],
                area_mm2=area.area,
                visible_mm2=float(visible),
                off_panel_mm2=max(0.0, area.area - float(here.area)),
                hidden_by={ids[i]: overlaps[i, index] for i in fronts[index]},
            )
        )
    return tuple(sights)


def ink_needed(view: View, margin_mm: float) -> dict[str, Area]:
    """Where ink on a surface will be seen, with a margin under what covers it; the rest may stay bare.

    Returns
    -------
    dict
        Key of the surface (empty for the card itself) to an area, mm, for the card and every piece that bears others.
    """
    paper = paper_of(view.card)
    surfaces: dict[str, Area] = {"": paper}
    for leaf in view.leaves:
        if leaf.key == leaf.piece.id and any(piece.on == leaf.key for piece in view.card.pieces):
            surfaces[leaf.key] = leaf.area
    needed = {}
    order = [leaf.key for leaf in view.leaves]
    for key, area in surfaces.items():
        first = order.index(key) + 1 if key else 0
        over = [leaf.area for leaf in view.leaves[first:] if isinstance(leaf.piece, PaperPiece) and leaf.hides]
        covered = shapely.union_all(over) if over else shapely.Polygon()
        bare = shapely.buffer(covered, -margin_mm, quad_segs=8) if margin_mm > 0 else covered
        needed[key] = only_areas(shapely.difference(area, bare))
    return needed
