"""How likely paper belongs to what an image's lines hold, gaps closed as an eye closes them.

Glossary
--------
closure
    The eye's way of seeing a whole body where its outline is drawn in part.
held
    Paper that belongs to the body, closed in by lines or seen as if it were.
level
    Of a place: how soon lines close round it when all gaps up to a width are closed; 1 where they do as they are.

Notes
-----
What an eye closes follows no single radius: a tail left open by 4 mm is a tail, two legs 3 mm apart are two legs. So
it was learnt: a small convolutional network (three planes in, one out, 128 by 128 dots) saw some fifteen thousand open
drawings whose coloured companions tell their bodies (`setup/learn_closure.py` names the sets and makes the file anew).
It says how likely each place is held; where an outline runs is then geometry (`silhouette`), along the ink itself.
"""

import math
import threading
import zipfile
from functools import cache
from importlib import resources

import cv2
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
SIDE, LONG = 128, 108
"""Dots that the network sees, and how many of them an image's longer side takes."""
FINE = 216.0
"""Pixels of the longer side at which lines are looked at: twice the network's, so that thin ones stay whole."""
ROOM = 20
"""Pixels of bare paper round that."""
THINNEST = 2.2
"""Pixels of that size that most lines are wide at least: finer ones would break up, and are thickened."""
LINE = 0.4
SHARES = (0.0, 0.006, 0.012, 0.02, 0.03, 0.042, 0.056, 0.072, 0.09, 0.11, 0.14)
"""Reaches by which lines grow for the levels, in shares of the longer side."""
MODEL = "closure.zip"
"""Holds the network as ONNX, packed."""


def read_closure(ink: Floats) -> Floats:
    """Return how likely each place of an image is held.

    Parameters
    ----------
    ink : (rows, columns) float32, 0..1
        How much ink there is; some of it is 0.4 or more.

    Returns
    -------
    (rows, columns) float32, 0..1
        High on ink too; what lies far outside is 0.
    """
    columns, rows = _span(ink.max(axis=0)), _span(ink.max(axis=1))
    planes, placed = see(ink[rows, columns])
    likely = _Network.shared().run(planes)
    placed = placed @ np.array([[1, 0, -columns.start], [0, 1, -rows.start], [0, 0, 1]], np.float64)
    size = (ink.shape[1], ink.shape[0])
    return np.asarray(
        cv2.warpAffine(likely, placed[:2], size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP), np.float32
    )


def _span(most: Floats) -> slice:
    inked = np.flatnonzero(most >= LINE)
    return slice(int(inked[0]), int(inked[-1]) + 1)


def see(ink: Floats) -> tuple[Floats, NDArray[np.float64]]:
    """Return what the network sees of an image cut to its ink.

    Parameters
    ----------
    ink : (rows, columns) float32, 0..1

    Returns
    -------
    ((3, 128, 128) float32, (3, 3) float64)
        Ink, level, and what is closed in as it is; and the matrix from the image's pixels to the network's dots.
    """
    ink, grown = _thickened(ink)
    rows, columns = ink.shape
    scale = FINE / max(rows, columns)
    size = (max(1, round(columns * scale)), max(1, round(rows * scale)))
    fine = cv2.resize(ink, size, interpolation=cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR)
    fine = cv2.copyMakeBorder(fine, ROOM, ROOM, ROOM, ROOM, cv2.BORDER_CONSTANT, value=0)
    level = levels_of((fine >= LINE).astype(np.uint8))
    shrink = LONG / FINE
    to_dots = np.eye(3)
    to_dots[0] = shrink, 0, SIDE / 2 - shrink * fine.shape[1] / 2 + 0.5 * shrink - 0.5
    to_dots[1] = 0, shrink, SIDE / 2 - shrink * fine.shape[0] / 2 + 0.5 * shrink - 0.5
    soft = (cv2.GaussianBlur(fine, (0, 0), 0.7), cv2.GaussianBlur(level, (0, 0), 0.5), (level >= 0.999) * np.float32(1))
    planes = [cv2.warpAffine(plane, to_dots[:2].astype(np.float32), (SIDE, SIDE)) for plane in soft]
    off = ROOM + scale * (grown + 0.5) - 0.5
    to_fine = np.array([[scale, 0, off], [0, scale, off], [0, 0, 1]])
    return np.stack(planes).astype(np.float32), to_dots @ to_fine


def _thickened(ink: Floats) -> tuple[Floats, int]:
    """Return ink whose lines outlast being made smaller, and how many pixels it was grown by on every side for that."""
    scale = FINE / max(ink.shape)
    if scale >= 1:
        return ink, 0
    lines = np.pad((ink >= LINE).astype(np.uint8), 1)
    half = cv2.distanceTransform(lines, cv2.DIST_L2, cv2.DIST_MASK_5)
    middles = half[(half > 0) & (half >= cv2.dilate(half, np.ones((3, 3), np.uint8)))]
    grow = math.ceil(THINNEST / scale - (2 * float(np.median(middles)) - 1)) if len(middles) else 0
    if grow <= 0:
        return ink, 0
    room = cv2.copyMakeBorder(ink, grow, grow, grow, grow, cv2.BORDER_CONSTANT, value=0)
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (grow + 1, grow + 1))
    return np.asarray(cv2.dilate(room, disc), np.float32), grow


def levels_of(lines: NDArray[np.uint8], long_px: float = FINE) -> Floats:
    """Return how soon lines close round each place of the paper, 1 to 0; 0 on lines and where none of the reaches does.

    Parameters
    ----------
    lines : (rows, columns) uint8
        1 where there is ink, with bare paper all round.
    long_px : float
        Longer side of the image, pixels.
    """
    far = cv2.distanceTransform(1 - lines, cv2.DIST_L2, cv2.DIST_MASK_3)
    level = np.zeros(lines.shape, np.float32)
    for index, share in enumerate(SHARES):
        reach = share * long_px
        free = (far > max(reach, 0.01)).astype(np.uint8)
        free[[0, -1]], free[:, [0, -1]] = 1, 1
        labels = cv2.connectedComponents(free, connectivity=4)[1]
        outside = labels == labels[0, 0]
        if reach > 0:
            outside = cv2.distanceTransform((~outside).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_3) <= reach
        closed = ~outside & (lines == 0) & (level == 0)
        level[closed] = 1 - index / len(SHARES)
    return level


class _Network:
    """The network, read once a process; its library lets one thread use it at a time."""

    def __init__(self) -> None:
        with (resources.files("fair_thicket.intake") / MODEL).open("rb") as file, zipfile.ZipFile(file) as packed:
            data = packed.read(packed.namelist()[0])
        self._net = cv2.dnn.readNetFromONNX(np.frombuffer(data, np.uint8))
        self._lock = threading.Lock()

    @staticmethod
    @cache
    def shared() -> "_Network":
        return _Network()

    def run(self, planes: Floats) -> Floats:
        with self._lock:
            self._net.setInput(planes[None])
            return np.array(self._net.forward()[0, 0], np.float32)
