"""The reference card: a printed card with four markers, laid beside images to tell a photo's scale and plane.

The markers are numbers 3, 11, 24 and 37 of the ArUco dictionary of 4 by 4 bits and 50 codes (Garrido-Jurado et al.
2014), which general image libraries read.
"""

from typing import NamedTuple

CARD_MM = (90.0, 60.0)
MARKER_MM = 16.0
INSET_MM = 4.0


class Marker(NamedTuple):
    """A marker: its number, its top left corner on the card in mm, its 6 by 6 cells (# black) with the border."""

    number: int
    left: float
    top: float
    cells: tuple[str, ...]


_FAR_X = CARD_MM[0] - INSET_MM - MARKER_MM
_FAR_Y = CARD_MM[1] - INSET_MM - MARKER_MM
MARKERS: tuple[Marker, ...] = (
    Marker(3, INSET_MM, INSET_MM, ("######", "#.##.#", "#.##.#", "##.###", "##..##", "######")),
    Marker(11, _FAR_X, INSET_MM, ("######", "####.#", "####.#", "#.#.##", "##...#", "######")),
    Marker(24, _FAR_X, _FAR_Y, ("######", "#....#", "#...##", "##.###", "##...#", "######")),
    Marker(37, INSET_MM, _FAR_Y, ("######", "######", "##.###", "#....#", "#....#", "######")),
)


def corners_of(marker: Marker) -> tuple[tuple[float, float], ...]:
    """Corners of a marker on the card, clockwise from its top left, mm."""
    left, top, right, bottom = marker.left, marker.top, marker.left + MARKER_MM, marker.top + MARKER_MM
    return ((left, top), (right, top), (right, bottom), (left, bottom))
