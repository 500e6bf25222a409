"""Gaps of what is being moved: to the nearest edges of the card and to its nearest neighbour."""

from collections.abc import Collection, Mapping

import msgspec
import numpy as np
import shapely

from fair_thicket.laid.stack import stack
from fair_thicket.model.basics import Point
from fair_thicket.model.card import Work, is_sheet
from fair_thicket.scene.snapping import Box, Catch, catch

FAR_MM = 40.0


class Gap(msgspec.Struct, frozen=True):
    """A distance to be drawn: its ends on the panel, its length (below 0: over the edge), words after the figure."""

    start: Point
    end: Point
    length_mm: float
    words: str = ""


class GapMeter:
    """Measures the gaps of pieces that are being moved; made once a drag, asked once a frame.

    Parameters
    ----------
    work : Work
    keys : ids of the moved pieces
    names : mapping of id to name
    """

    def __init__(self, work: Work, keys: Collection[str], names: Mapping[str, str]) -> None:
        areas: dict[str, shapely.Geometry] = {}
        for leaf in stack(work):
            key = leaf.piece.id
            if key in keys or not is_sheet(leaf.piece):
                areas[key] = shapely.union(areas[key], leaf.area) if key in areas else leaf.area
        self._panel = work.card.panel
        self._moved = shapely.union_all([area for key, area in areas.items() if key in keys])
        self._names = [names[key] for key in areas if key not in keys]
        self._others = np.array([area for key, area in areas.items() if key not in keys], dtype=object)
        self._bounds = shapely.bounds(self._others).reshape(-1, 4)

    def catch(self, by: tuple[float, float], within_mm: float) -> Catch:
        """Find where the pieces, moved by (x, y) mm, would like to come to rest."""
        if self._moved.is_empty:
            return Catch((0.0, 0.0))
        left, top, right, bottom = self._moved.bounds
        moved = (left + by[0], top + by[1], right + by[0], bottom + by[1])
        others: list[Box] = [(x0, y0, x1, y1) for x0, y0, x1, y1 in self._bounds.tolist()]
        return catch(moved, others, self._panel, within_mm=within_mm)

    def measure(self, by: tuple[float, float]) -> list[Gap]:
        """Measure the gaps of the pieces moved by (x, y) mm.

        Returns
        -------
        list of Gap
            To the nearer of left and right, of top and bottom, and to the nearest neighbour not overlapped.
        """
        if self._moved.is_empty:
            return []
        moved = shapely.transform(self._moved, lambda points: points + by)
        left, top, right, bottom = moved.bounds
        width, height = self._panel
        middle_x, middle_y = (left + right) / 2, (top + bottom) / 2
        across = min(
            (Gap((0, middle_y), (left, middle_y), left), Gap((right, middle_y), (width, middle_y), width - right)),
            key=lambda gap: gap.length_mm,
        )
        down = min(
            (Gap((middle_x, 0), (middle_x, top), top), Gap((middle_x, bottom), (middle_x, height), height - bottom)),
            key=lambda gap: gap.length_mm,
        )
        told = [
            Gap(gap.start, gap.end, gap.length_mm, " over" if gap.length_mm < -0.05 else "") for gap in (across, down)
        ]
        return told + self._nearest_neighbour(moved)

    def _nearest_neighbour(self, moved: shapely.Geometry) -> list[Gap]:
        """Find the nearest neighbour; boxes are compared first, and exact distances only until none can be nearer."""
        left, top, right, bottom = shapely.bounds(moved)
        apart_x = np.maximum(np.maximum(self._bounds[:, 0] - right, left - self._bounds[:, 2]), 0)
        apart_y = np.maximum(np.maximum(self._bounds[:, 1] - bottom, top - self._bounds[:, 3]), 0)
        at_least = np.hypot(apart_x, apart_y)
        best, nearest = FAR_MM, -1
        for index in np.argsort(at_least).tolist():
            if at_least[index] >= best:
                break
            distance = float(shapely.distance(moved, self._others[index]))
            if 0 < distance < best:
                best, nearest = distance, index
        if nearest < 0:
            return []
        (x0, y0), (x1, y1) = shapely.shortest_line(moved, self._others[nearest]).coords
        return [Gap((x0, y0), (x1, y1), best, f" to {self._names[nearest]}")]
