"""Figures held against what is seen round them, in the card's own picture."""

from collections.abc import Iterator, Mapping

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.difference import difference, labs_of
from fair_thicket.laid.visibility import View
from fair_thicket.model.card import Work, is_figure
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import Cutout, Impression, Piece
from fair_thicket.model.supplies import Colour
from fair_thicket.shape.outline import image_area, only_areas, to_rings, turn_area
from fair_thicket.shape.paper import place
from fair_thicket.shape.raster import fill

LOST = 12.0
"""A figure differs from what is behind it by this, CIEDE2000, or is lost (our own guess)."""
LEAST_MM2 = 50.0
"""Of a smaller figure too little is seen to tell."""
RIM_MM, BAND_PX = 1.6, 4.0
Picture = NDArray[np.uint8]


def judge_figures(work: Work, view: View, picture: Picture, names: Mapping[str, str]) -> Iterator[Finding]:
    """Tell figures that hardly differ from what is seen round them."""
    small = cv2.resize(
        picture,
        (round(work.card.panel[0] * BAND_PX), round(work.card.panel[1] * BAND_PX)),
        interpolation=cv2.INTER_AREA,
    )
    for leaf, seen in zip(view.leaves, view.seen, strict=True):
        piece = leaf.piece
        if leaf.key != piece.id or not is_figure(piece, work.stash) or seen.area < LEAST_MM2:
            continue
        if not _is_coloured(piece):
            continue  # lines alone are told by their ink
        image = only_areas(shapely.intersection(seen, _image_of(piece, work)))
        apart = rim_difference(small, image, seen)
        if apart is not None and apart < LOST:
            yield Finding(
                "figure-lost",
                Weight.CAUTION,
                f"The {names[piece.id]} is lost before what is behind it",
                f"Its rim and its surroundings lie {apart:.0f} apart, under {LOST:.0f}: give it another colour, or "
                "what is behind it.",
                round(apart, 1),
                "difference",
                (piece.id,),
                to_rings(shapely.simplify(seen, 0.3)),
            )


def _is_coloured(piece: Piece) -> bool:
    return isinstance(piece, Impression | Cutout) and (piece.colour is not None or piece.is_coloured)


def _image_of(piece: Piece, work: Work) -> shapely.Geometry:
    """Return the drawn image of a piece in place, without the margin that a die or scissors leave round it."""
    if not isinstance(piece, Impression | Cutout):
        return shapely.Polygon()
    found = [place(only_areas(image_area(work.stash.find(piece.stamp))), piece)]
    for part in piece.joined if isinstance(piece, Cutout) else ():
        area = turn_area(image_area(work.stash.find(part.stamp)), part.angle_deg, part.x, part.y)
        found.append(place(only_areas(area), piece))
    return shapely.union_all(found)


def rim_difference(picture: Picture, image: shapely.Geometry, seen: shapely.Geometry) -> float | None:
    """Difference (CIEDE2000) between the rim of a figure and what is round it, lines left out.

    Where a margin of paper is left round the image, the farther of the two counts: either parts it from its ground.

    Parameters
    ----------
    picture : (rows, columns, 3) uint8
        Of the card, 4 pixels to the mm.
    image, seen : area, mm
        What is seen of the drawn image, and of its whole paper.

    Returns
    -------
    float or None
        None where there is too little of either to tell.
    """
    shape = picture.shape[:2]
    own = fill(image, shape, BAND_PX)
    rim = own & ~fill(shapely.buffer(image, -RIM_MM), shape, BAND_PX)
    margin = fill(seen, shape, BAND_PX) & ~fill(shapely.buffer(image, 0.3), shape, BAND_PX)
    beside = fill(shapely.buffer(seen, RIM_MM), shape, BAND_PX) & ~fill(shapely.buffer(seen, 0.3), shape, BAND_PX)
    ground = _usual(picture[beside])
    tones = [tone for mask in (rim, margin) if (tone := _usual(picture[mask])) is not None]
    if ground is None or not tones:
        return None
    labs = labs_of([ground, *tones])
    return float(difference(labs[:1], labs[1:]).max())


def _usual(pixels: NDArray[np.uint8]) -> Colour | None:
    """Usual colour of pixels, those of dark lines left out."""
    light = pixels[pixels.max(axis=1) > 90] if len(pixels) else pixels
    if len(light) < 20:
        return None
    red, green, blue = (round(float(value)) for value in np.median(light, axis=0))
    return f"#{red:02x}{green:02x}{blue:02x}"
