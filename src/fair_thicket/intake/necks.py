"""Where an image that is two comes apart: at its thinnest neck, or along a drawn line."""

import cv2
import numpy as np
from numpy.typing import NDArray

BoolImage = NDArray[np.bool_]
LEAST_SHARE = 0.12
"""A side smaller than this share of the silhouette is a limb, not an image."""


def part_at_neck(ink: BoolImage) -> NDArray[np.int32]:
    """Part an image at the thinnest neck of its silhouette.

    Parameters
    ----------
    ink : (rows, columns) bool

    Returns
    -------
    (rows, columns) int32
        Side of each pixel, from 1; all zeros when there is no neck.

    Notes
    -----
    The silhouette (ink with its openings filled) is worn away step by step, by its distance transform. The least wear
    at which two bodies of some size are left is half the width of the thinnest neck; every pixel then goes to the
    body that its own is nearest to.
    """
    solid = _fill(ink)
    reach = cv2.distanceTransform(solid, cv2.DIST_L2, 5)
    whole = float(solid.sum())
    for wear in np.unique(np.round(reach[reach > 0] * 2) / 2)[:-1].tolist():
        count, bodies, stats, _ = cv2.connectedComponentsWithStats((reach > wear).astype(np.uint8), connectivity=4)
        # bodies lose a rim of the wear's width; what they were before is told by growing them again
        grown = _nearest_of(bodies) * (solid > 0)
        sizes = np.bincount(grown.ravel(), minlength=count)[1:]
        large = [number for number in range(1, count) if sizes[number - 1] >= LEAST_SHARE * whole]
        if len(large) >= 2:
            kept = np.where(np.isin(bodies, large), bodies, 0).astype(np.int32)
            sides = _nearest_of(_renumber(kept, large))
            return np.asarray(sides, np.int32)
        if stats[1:, cv2.CC_STAT_AREA].sum() < 0.02 * whole:
            break
    return np.zeros(ink.shape, np.int32)


def part_by_line(ink: BoolImage, line: NDArray[np.float64]) -> NDArray[np.int32]:
    """Part an image along a drawn line, (n, 2) pixels; pixels get the side that their own piece lies on.

    The line is carried on straight beyond both its ends, so that a stroke across the neck is enough.
    """
    start, end = line[0], line[-1]
    along = end - start
    length = float(np.hypot(*along))
    if length < 1:
        return np.zeros(ink.shape, np.int32)
    far = along / length * float(np.hypot(*ink.shape)) * 2
    path = np.vstack([start - far, line, end + far])
    cut = np.zeros(ink.shape, np.uint8)
    cv2.polylines(cut, [np.round(path).astype(np.int32)], False, 1, thickness=1, lineType=cv2.LINE_4)
    count, sides = cv2.connectedComponents(1 - cut, connectivity=4)
    del count
    sides = np.where(cut > 0, 0, sides).astype(np.int32)
    present = [number for number in np.unique(sides[ink]).tolist() if number > 0]
    return np.asarray(_nearest_of(_renumber(np.where(np.isin(sides, present), sides, 0), present)), np.int32)


def _fill(ink: BoolImage) -> NDArray[np.uint8]:
    contours, _ = cv2.findContours(
        cv2.morphologyEx(ink.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)),
        cv2.RETR_EXTERNAL,
        cv2.CHAIN_APPROX_NONE,
    )
    solid = np.zeros(ink.shape, np.uint8)
    cv2.drawContours(solid, contours, -1, 1, cv2.FILLED)
    return solid


def _nearest_of(bodies: NDArray[np.int32]) -> NDArray[np.int32]:
    """Return every pixel the number of the body nearest to it."""
    if not bodies.any():
        return bodies
    _, which = cv2.distanceTransformWithLabels(
        (bodies == 0).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    number_of = np.zeros(int(which.max()) + 1, np.int32)
    number_of[which[bodies > 0]] = bodies[bodies > 0]
    return np.asarray(number_of[which], np.int32)


def _renumber(bodies: NDArray[np.int32], numbers: list[int]) -> NDArray[np.int32]:
    renumbered = np.zeros_like(bodies)
    for fresh, number in enumerate(numbers, 1):
        renumbered[bodies == number] = fresh
    return renumbered
