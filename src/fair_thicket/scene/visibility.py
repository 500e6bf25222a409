"""How much of every piece is seen, exactly, and what hides the rest."""

from collections.abc import Sequence

import msgspec
import shapely
from shapely.geometry import box

from fair_thicket.model.card import Work
from fair_thicket.shape.outline import Area, footprint
from fair_thicket.shape.overlap import find_overlaps


class Sight(msgspec.Struct, frozen=True):
    """What is seen of one piece.

    Attributes
    ----------
    id : str
    area_mm2 : float
        Its whole footprint.
    visible_mm2 : float
        The part that lies on the panel and under nothing.
    off_panel_mm2 : float
        The part beyond the panel's edge.
    hidden_by : dict of str to float
        Area that each piece in front covers of it, mm2; where two cover the same place it counts for both.
    """

    id: str
    area_mm2: float
    visible_mm2: float
    off_panel_mm2: float
    hidden_by: dict[str, float]

    @property
    def hidden_share(self) -> float:
        """Share of what lies on the panel that is covered, 0..1; 0 for a piece wholly off the panel."""
        on_panel = self.area_mm2 - self.off_panel_mm2
        return 0.0 if on_panel <= 0 else max(0.0, 1 - self.visible_mm2 / on_panel)


def see(work: Work) -> tuple[Sight, ...]:
    """See every piece of a card, from the front to the back."""
    pieces = tuple(reversed(work.card.pieces))
    areas = [footprint(piece, work.stash.find(piece.stamp)) for piece in pieces]
    return see_areas([piece.id for piece in pieces], areas, work.card.panel)


def see_areas(ids: Sequence[str], areas: Sequence[Area], panel: tuple[float, float]) -> tuple[Sight, ...]:
    """See every area of a stack, front first.

    Parameters
    ----------
    ids, areas : same length
    panel : (width, height), mm

    Notes
    -----
    Exact polygons (GEOS). Each piece meets only those in front of it that overlap it.
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
