"""What of every ink the composed card shows on its sheet: by this a rehearsal's differences are told by their cause."""

from collections.abc import Mapping

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.ink_patch import Ink
from fair_thicket.ink.inking import lay_cut_inks, lay_inks
from fair_thicket.ink.lifting import LEFT, lifted_area
from fair_thicket.laid.mask_edges import edge_of, rims_over
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work
from fair_thicket.model.keys import part_key, read_key
from fair_thicket.model.pieces import Cutout, Impression, Wash, is_glued
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.shape.outline import Area, image_area, turn_area, turn_points

Floats = NDArray[np.float32]


class WantedInks:
    """The inks of a card as composed.

    Attributes
    ----------
    inks : mapping of key to Ink
        Those of surfaces, whole.
    """

    def __init__(self, work: Work, pictures: Mapping[str, bytes], inks: Mapping[str, Ink] | None = None) -> None:
        self.work, self._pictures = work, pictures
        self.inks = dict(lay_inks(work, pictures, REHEARSAL_DPI) if inks is None else inks)
        self.leaves = stack(work)
        self._fronts = fronts_of(work, self.inks)
        self._leaf = {leaf.piece.id: leaf for leaf in self.leaves if leaf.key == leaf.piece.id}
        self._by_id = {piece.id: piece for piece in work.card.pieces}

    def on(self, surface: str) -> dict[str, Ink]:
        """Return the inks of a surface by key; those of a cut image by its id."""
        found = {key: ink for key, ink in self.inks.items() if self._by_id[ink.piece].on == surface}
        piece = self._by_id.get(surface)
        if isinstance(piece, Cutout):
            found |= lay_cut_inks(self.work, piece, self._pictures, REHEARSAL_DPI)
        return found

    def fronts(self, ink: Ink) -> list[tuple[str, Area]]:
        """Return what stands in front of an ink on its sheet and interrupts it: keys, and the area of each."""
        if ink.key in self._fronts:
            return self._fronts[ink.key]
        piece = self._by_id.get(ink.piece)
        if not isinstance(piece, Cutout) or not piece.joined:
            return []
        found = []  # further images of a joint cutout
        own = read_key(ink.key).part
        for number in range(0 if own is None else own + 1, len(piece.joined)):
            part = piece.joined[number]
            (x, y) = turn_points([(part.x, part.y)], piece.angle_deg, piece.x, piece.y)[0].tolist()
            area = turn_area(image_area(self.work.stash.find(part.stamp)), piece.angle_deg + part.angle_deg, x, y)
            found.append((part_key(piece.id, number), area))
        return found

    def edge_of(self, front: str, area: Area) -> Area:
        """Return what the mask of an image in front covers as the maker wants it cut; `area` is the image's own."""
        leaf = self._leaf.get(front)
        return area if leaf is None else edge_of(self.work.card, leaf)

    def share_of(self, ink: Ink, surface: str) -> Floats:
        """Return how much of an ink is seen on its sheet, place by place of its patch: (rows, columns) 0..1."""
        inked: Floats = np.asarray(1 - ink.passing, np.float32)
        covered = shapely.union_all([area for _, area in self.fronts(ink)])
        leaf = self._leaf[ink.piece]
        rims = None if is_glued(leaf.piece) else rims_over(self.work.card, leaf, self.leaves)
        covered = covered if rims is None else shapely.union(covered, rims)
        if not covered.is_empty:
            inked = np.where(ink.cover(covered), np.float32(0.0), inked)
        if ink.limit is not None:
            inked = np.where(ink.cover(ink.limit), inked, np.float32(0.0))
        piece = leaf.piece
        if isinstance(piece, Wash):
            inked = self._less_resists(ink, surface, inked)
            lifted = lifted_area(self.work.card, self.leaves, piece)
            if not lifted.is_empty:
                inked = np.where(ink.cover(lifted), LEFT * inked, inked)
        return inked

    def _less_resists(self, ink: Ink, surface: str, inked: Floats) -> Floats:
        for other in self.inks.values():
            piece = self._by_id[other.piece]
            if isinstance(piece, Impression) and piece.on == surface and piece.keeps_washes_off:
                part = other.within(ink.window)
                rows, columns = part.window
                top, left = ink.window[0].start, ink.window[1].start
                inked[rows.start - top : rows.stop - top, columns.start - left : columns.stop - left] *= part.passing
        return inked


def fronts_of(work: Work, inks: Mapping[str, Ink]) -> dict[str, list[tuple[str, Area]]]:
    """For each stamping the pieces that stand in front of it, touch it and interrupt it, with their footprints."""
    order = [piece for piece in work.card.pieces if isinstance(piece, Impression)]
    places = {piece.id: index for index, piece in enumerate(order)}
    areas = {ink.piece: ink.area for ink in inks.values()}
    surfaces = {piece.id: piece.on for piece in work.card.pieces}
    found: dict[str, list[tuple[str, Area]]] = {}
    for ink in inks.values():
        shunning = (one for one in order if one.shuns_washes)
        ahead = shunning if ink.is_wash else order[places[ink.piece] + 1 :]
        found[ink.key] = [
            (one.id, areas[one.id])
            for one in ahead
            if one.on == surfaces[ink.piece] and areas[one.id].intersects(ink.area)
        ]
    return found
