"""What is trimmed by what lies on it or under it: the line to cut, in the frame of the piece itself, unturned."""

from typing import NamedTuple

import shapely
from shapely.geometry.base import BaseGeometry

from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.pieces import CARD_EDGE, Cutout, PaperPiece
from fair_thicket.model.sides import sides_of
from fair_thicket.shape.outline import Area, turn_area_back
from fair_thicket.shape.paper import local_area

NEAR_MM = 0.05
"""A cut that lies so near to the piece's own edge is none."""
STRAIGHT_MM = 0.15
"""A line that strays less from its chord is cut with one straight cut."""


class Trim(NamedTuple):
    """A piece that is trimmed.

    Attributes
    ----------
    key, name : str
    stamp : str
        What it is made with; empty for none.
    along : str
        What it is trimmed along.
    whole, kept : area
        As it is cut out at first, and as it is to be, mm about its own middle.
    line : lines
        Where it is cut.
    """

    key: str
    name: str
    stamp: str
    along: str
    whole: Area
    kept: Area
    line: BaseGeometry

    @property
    def is_straight(self) -> bool:
        """Whether one straight cut will do."""
        ends = shapely.get_coordinates(self.line)
        if shapely.get_num_geometries(self.line) != 1 or len(ends) < 2:
            return False
        return bool(shapely.hausdorff_distance(self.line, shapely.LineString(ends[[0, -1]])) <= STRAIGHT_MM)


def list_trims(work: Work) -> list[Trim]:
    """List what is trimmed on both sides of a card; what loses nothing is left out, and what is lost whole."""
    found = []
    for _, side in sides_of(work):
        names = name_pieces(side)
        kept = {leaf.piece.id: leaf.sheet for leaf in stack(side)}
        for piece in side.card.pieces:
            if not isinstance(piece, PaperPiece) or not piece.trim_to or piece.id not in kept:
                continue
            whole = local_area(piece, side.stash)
            rest = turn_area_back(kept[piece.id], piece.angle_deg, piece.x, piece.y)
            own_edge = shapely.buffer(shapely.boundary(whole), NEAR_MM)
            line = shapely.line_merge(shapely.difference(shapely.boundary(rest), own_edge))
            if rest.is_empty or line.is_empty:
                continue
            along = "card's edge" if piece.trim_to == CARD_EDGE else names.get(piece.trim_to, "")
            stamp = piece.stamp if isinstance(piece, Cutout) else ""
            found.append(Trim(piece.id, names[piece.id], stamp, along, whole, rest, line))
    return found
