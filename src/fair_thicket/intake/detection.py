"""Ink on a page: found, parted into bits, grouped into images, split, and measured.

Glossary
--------
part
    A connected bit of ink on the page at the detecting scale.
group
    The parts that make one image, by their numbers.
patch
    A piece of the page without skew and with even light, at a resolution of its own.
"""

import math
import statistics
from collections.abc import Collection, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from types import MappingProxyType

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray

from fair_thicket.intake.grouping import Grouping, group_parts
from fair_thicket.intake.necks import part_at_neck, part_by_line
from fair_thicket.intake.page import FloatImage, Grey, PagePlace
from fair_thicket.intake.shaping import AS_FOUND, Shaping
from fair_thicket.intake.taking import take_image
from fair_thicket.model.plan import SheetImage
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH

PICTURE_PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH
DETECT_PX_PER_MM = 150 / MM_PER_INCH
EDGE_MM = 1.2
"""Strip along the page's edges that is not looked at: shadows of the paper's own edge."""
MOST_PARTS = 1200
"""A page with more bits of ink is faint and broken, or dusty: looking at every pair of them would take minutes."""
ROW_SHARE = 0.15
"""So much of a usual image's height one may begin below the middles of its row."""
GONE_PX = 1 << 30
MARGIN_MM = 1.0
TABLE_SHARE = 0.62
"""What is darker than this share of the paper's light is no paper in shadow but something else."""
INK_LEAST = 0.14
"""How much darker than bare paper counts as ink: fainter than the faintest impression that can be cut round."""

Members = tuple[int, ...]
Box = tuple[float, float, float, float]
NO_SHAPINGS: Mapping[Members, Shaping] = MappingProxyType({})


@dataclass(frozen=True)
class Page:
    """A scan made ready.

    Attributes
    ----------
    planes : tuple of (rows, columns) uint8
        Grey, or red, green and blue.
    lights : tuple of small float32 pictures
        How bright bare paper is everywhere, one a plane.
    place : PagePlace
    px_per_mm : float
        Of the planes.
    bare : tuple of boxes, page mm
        Places that are not looked at, such as a reference card.
    """

    planes: tuple[Grey, ...]
    lights: tuple[FloatImage, ...]
    place: PagePlace
    px_per_mm: float
    bare: tuple[Box, ...] = ()

    def cut(self, box: Box, at_px_per_mm: float) -> "Patch":
        """Cut a box (page mm) out at a resolution of its own."""
        left, top, right, bottom = box
        size = (max(1, math.ceil((right - left) * at_px_per_mm)), max(1, math.ceil((bottom - top) * at_px_per_mm)))
        to_scan = self.place.to_scan(self.px_per_mm)
        # patch pixel middle -> page mm -> scan pixel middle
        matrix = to_scan.copy()
        matrix[:, :2] /= at_px_per_mm
        corner = np.array([left + 0.5 / at_px_per_mm, top + 0.5 / at_px_per_mm])
        matrix[:, 2] = to_scan[:, :2] @ corner + to_scan[:, 2] - 0.5
        smooth = cv2.INTER_LINEAR if self.px_per_mm > 0.8 * at_px_per_mm else cv2.INTER_CUBIC
        shares = [
            self._share_of_light(plane, light, matrix, size, smooth)
            for plane, light in zip(self.planes, self.lights, strict=True)
        ]
        return Patch(np.stack(shares, axis=-1), left, top, at_px_per_mm)

    def _share_of_light(
        self, plane: Grey, light: FloatImage, matrix: NDArray[np.float64], size: tuple[int, int], smooth: int
    ) -> FloatImage:
        """How much of bare paper's brightness is left everywhere, 0..1."""
        seen = cv2.warpAffine(plane, matrix, size, flags=smooth | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE)
        shrink = np.array([light.shape[1] / plane.shape[1], light.shape[0] / plane.shape[0]])
        coarse = matrix * shrink[:, None]
        coarse[:, 2] += 0.5 * shrink - 0.5
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        paper = cv2.warpAffine(light, coarse, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(np.clip(seen.astype(np.float32) / np.maximum(paper, 1), 0, 1), np.float32)


@dataclass(frozen=True)
class Patch:
    """A piece of the page.

    Attributes
    ----------
    shares : (rows, columns, 1 or 3) float32
        Share of bare paper's brightness, 0..1, in grey or in red, green and blue.
    left, top : float
        Its top left corner on the page, mm.
    px_per_mm : float
    """

    shares: FloatImage
    left: float
    top: float
    px_per_mm: float

    @property
    def ink(self) -> FloatImage:
        """How much darker than bare paper, 0..1, in whichever colour takes most: coloured ink is ink too."""
        return np.asarray(1 - self.shares.min(axis=-1), np.float32)


@dataclass(frozen=True)
class Detected:
    """What was found on a page, before it is settled what makes one image.

    Attributes
    ----------
    page : Page
    labels : (rows, columns) int32
        Number of the part that each pixel belongs to, 0 for none, at 150 dpi.
    parts : tuple of (n, 2) float
        Outer contour of each part, page mm.
    numbers : tuple of int
        Their numbers in `labels`.
    inks : tuple of (float, float)
        Ink of each part, mm2, and the length of its border with that of its holes, mm.
    """

    page: Page
    labels: NDArray[np.int32]
    parts: tuple[NDArray[np.float64], ...]
    numbers: tuple[int, ...]
    inks: tuple[tuple[float, float], ...]

    def group(self, gap_mm: float | None = None) -> Grouping:
        """Group the parts into images; see `grouping.group_parts`. Members are numbers of parts."""
        found = group_parts(self.parts, np.array(self.inks).reshape(-1, 2), gap_mm=gap_mm)
        groups = tuple(tuple(sorted(self.numbers[index] for index in members)) for members in found.groups)
        return msgspec.structs.replace(found, groups=groups)

    def take(
        self,
        groups: Sequence[Members],
        greetings: Collection[int] = (),
        shapings: Mapping[Members, Shaping] = NO_SHAPINGS,
    ) -> list[SheetImage]:
        """Measure images; those that turn out to be too faint are left out. In reading order.

        Parameters
        ----------
        groups : sequence of members
        greetings : indices of those that are words
        shapings : mapping of members to Shaping
            What the maker said of outlines, page mm.
        """

        def take_one(index: int) -> SheetImage | None:
            members = groups[index]
            return self._take(members, is_greeting=index in greetings, shaping=shapings.get(members, AS_FOUND))

        with ThreadPoolExecutor() as pool:  # what measuring takes its time for runs outside of Python
            taken = list(pool.map(take_one, range(len(groups))))
        return in_reading_order([image for image in taken if image is not None])

    def _take(self, members: Members, *, is_greeting: bool, shaping: Shaping) -> SheetImage | None:
        patch = self.page.cut(self.box_of(members), PICTURE_PX_PER_MM)
        own = self._own_pixels(patch, members)
        return take_image(
            patch.shares,
            own,
            (patch.left, patch.top),
            patch.px_per_mm,
            members,
            is_greeting=is_greeting,
            shaping=shaping,
        )

    def box_of(self, members: Members) -> Box:
        """Box round parts with a little margin, page mm."""
        points = np.concatenate([self.parts[self.numbers.index(number)] for number in members])
        (left, top), (right, bottom) = points.min(axis=0) - MARGIN_MM, points.max(axis=0) + MARGIN_MM
        return float(left), float(top), float(right), float(bottom)

    def _own_pixels(self, patch: Patch, members: Members) -> NDArray[np.bool_]:
        """Mark the pixels of a patch that lie on or beside the image's own ink, as found at the coarser scale."""
        rows, columns = patch.shares.shape[:2]
        ratio = DETECT_PX_PER_MM / patch.px_per_mm
        low_x, low_y = (max(0, math.floor(side * DETECT_PX_PER_MM) - 4) for side in (patch.left, patch.top))
        window = self.labels[
            low_y : low_y + math.ceil(rows * ratio) + 9, low_x : low_x + math.ceil(columns * ratio) + 9
        ]
        own = np.isin(window, members)
        grown = cv2.dilate(own.astype(np.uint8), np.ones((5, 5), np.uint8))
        grown[(window > 0) & ~own] = 0  # a neighbour's ink stays the neighbour's, however near
        matrix = np.array(
            [
                [ratio, 0, patch.left * DETECT_PX_PER_MM - low_x + 0.5 * ratio - 0.5],
                [0, ratio, patch.top * DETECT_PX_PER_MM - low_y + 0.5 * ratio - 0.5],
            ]
        )
        placed = cv2.warpAffine(grown, matrix, (columns, rows), flags=cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP)
        return np.asarray(placed > 0)

    def split(
        self, members: Members, line: Sequence[tuple[float, float]] | None = None
    ) -> tuple["Detected", tuple[Members, ...]]:
        """Split an image in two or more.

        Parameters
        ----------
        members : numbers of the image's parts
        line : points in page mm, or None
            Where to cut; None cuts at the thinnest neck of the image's silhouette.

        Returns
        -------
        (Detected, tuple of members)
            With new parts where one was cut through; a single group when there is nothing to split.
        """
        left, top, right, bottom = self.box_of(members)
        rows = slice(max(0, math.floor(top * DETECT_PX_PER_MM)), math.ceil(bottom * DETECT_PX_PER_MM) + 1)
        columns = slice(max(0, math.floor(left * DETECT_PX_PER_MM)), math.ceil(right * DETECT_PX_PER_MM) + 1)
        window = self.labels[rows, columns]
        own = np.isin(window, members)
        if line is None:
            sides = part_at_neck(own)
        else:
            pixels = np.asarray(line, dtype=np.float64) * DETECT_PX_PER_MM - (columns.start, rows.start)
            sides = part_by_line(own, pixels)
        count = int(sides.max(initial=0))
        if count < 2:
            return self, (members,)
        labels = self.labels.copy()
        labels[rows, columns][own] = 0
        free = int(self.labels.max()) + 1
        groups: list[Members] = []
        for side in range(1, count + 1):
            number, pieces = cv2.connectedComponents((own & (sides == side)).astype(np.uint8), connectivity=8)
            target = labels[rows, columns]
            target[pieces > 0] = pieces[pieces > 0] + free - 1
            groups.append(tuple(range(free, free + number - 1)))
            free += number - 1
        kept = [index for index, number in enumerate(self.numbers) if number not in members]
        fresh = [number for group in groups for number in group]
        parts, numbers, inks = contours_of(labels, fresh)
        detected = Detected(
            self.page,
            labels,
            (*(self.parts[index] for index in kept), *parts),
            (*(self.numbers[index] for index in kept), *numbers),
            (*(self.inks[index] for index in kept), *inks),
        )
        return detected, tuple(group for group in groups if group)


def detect(page: Page) -> Detected:
    """Find the bits of ink on a page."""
    place = page.place
    patch = page.cut((0.0, 0.0, place.width_mm, place.height_mm), DETECT_PX_PER_MM)
    ink = patch.ink
    few = ink[::3, ::3]  # noise is the same everywhere: a ninth of the pixels tells it
    noise = float(np.median(np.abs(few - np.median(few)))) * 1.48
    dark = (ink > max(INK_LEAST, 6 * noise)).astype(np.uint8)
    edge = round(EDGE_MM * DETECT_PX_PER_MM)
    if place.skew_from in {"edges", "corners"}:
        dark[:edge], dark[-edge:], dark[:, :edge], dark[:, -edge:] = 0, 0, 0, 0
    for left, top, right, bottom in page.bare:
        low, high = (max(0, round(value * DETECT_PX_PER_MM)) for value in (top, bottom))
        dark[low:high, max(0, round(left * DETECT_PX_PER_MM)) : max(0, round(right * DETECT_PX_PER_MM))] = 0
    if place.skew_from in {"card", "length"}:
        dark[_beside_the_paper(page, dark.shape)] = 0
    count, labels, stats = _parts_of(dark)
    rows, columns = dark.shape
    wanted = [  # a frame of shadow round the page is no image
        number for number in range(1, count) if stats[number][2] <= 0.9 * columns and stats[number][3] <= 0.9 * rows
    ]
    if place.skew_from in {"card", "length"}:  # what runs out of the photo is there in part only
        wanted = [number for number in wanted if not _touches_frame(stats[number], rows, columns)]
    labels = np.asarray(labels, np.int32)
    parts, numbers, inks = contours_of(labels, wanted, np.asarray(stats, np.int64))
    return Detected(page, labels, tuple(parts), tuple(numbers), tuple(inks))


def _parts_of(dark: NDArray[np.uint8]) -> tuple[int, NDArray[np.int32], NDArray[np.int32]]:
    """Label the bits of ink; where a faint impression has broken into very many, those that all but touch are one.

    Returns
    -------
    (int, (rows, columns) int32, (n, 5) int32)
        As OpenCV's connected components: count with the background, labels, stats.
    """
    count, labels, stats, _ = cv2.connectedComponentsWithStats(dark, connectivity=8)
    for reach in (3, 5, 7):  # pixels: at the most the distance at which bodies all but touch anyway
        if count <= MOST_PARTS:
            break
        joined = cv2.morphologyEx(dark, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach)))
        count, labels, stats, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    if count > MOST_PARTS:  # dust everywhere: what is largest is looked at
        least = int(np.sort(stats[1:, cv2.CC_STAT_AREA])[-MOST_PARTS])
        gone = np.flatnonzero(stats[:, cv2.CC_STAT_AREA] < least)
        labels = np.where(np.isin(labels, gone), 0, labels)
        stats = stats.copy()
        stats[gone[gone > 0], cv2.CC_STAT_WIDTH] = GONE_PX
    return count, np.asarray(labels, np.int32), np.asarray(stats, np.int32)


def _beside_the_paper(page: Page, size: tuple[int, int]) -> NDArray[np.bool_]:
    """Mark where the light falls on something much darker than the paper: a table, and the paper's edge beside it."""
    light = page.lights[0]
    table = (light < TABLE_SHARE * float(np.percentile(light, 80))).astype(np.uint8)
    grown = cv2.dilate(table, np.ones((9, 9), np.uint8))
    return np.asarray(cv2.resize(grown, (size[1], size[0]), interpolation=cv2.INTER_NEAREST) > 0)


def _touches_frame(stats: NDArray[np.int32], rows: int, columns: int) -> bool:
    left, top, width, height = (int(value) for value in stats[:4])
    return left <= 1 or top <= 1 or left + width >= columns - 1 or top + height >= rows - 1


def contours_of(
    labels: NDArray[np.int32], wanted: Sequence[int], stats: NDArray[np.int64] | None = None
) -> tuple[list[NDArray[np.float64]], list[int], list[tuple[float, float]]]:
    """Outer contour of each wanted part in page mm, their numbers, their ink in mm2 and its border in mm."""
    parts, numbers, inks = [], [], []
    for number in wanted:
        if stats is not None:
            left, top, width, height = (int(value) for value in stats[number][:4])
        else:
            rows, columns = np.nonzero(labels == number)
            left, top = int(columns.min()), int(rows.min())
            width, height = int(np.ptp(columns)) + 1, int(np.ptp(rows)) + 1
        crop = (labels[top : top + height, left : left + width] == number).astype(np.uint8)
        borders = cv2.findContours(crop, cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)[0]
        dense = max(cv2.findContours(crop, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0], key=len)
        contour = cv2.approxPolyDP(dense, 0.5, True)
        length = sum(cv2.arcLength(border, True) for border in borders)
        inks.append((float(crop.sum()) / DETECT_PX_PER_MM**2, length / DETECT_PX_PER_MM))
        parts.append((contour[:, 0, :] + (left + 0.5, top + 0.5)) / DETECT_PX_PER_MM)
        numbers.append(number)
    return parts, numbers, inks


def in_reading_order(images: Sequence[SheetImage]) -> list[SheetImage]:
    """Sort into rows from the top, each from the left, and number them.

    An image stands in the row in which it begins: above the middles of most that are there already, or hardly below.
    """
    slack = ROW_SHARE * statistics.median(one.height_mm for one in images) if images else 0.0
    rows: list[list[SheetImage]] = []
    for image in sorted(images, key=lambda one: one.cy - one.height_mm / 2):
        if rows and image.cy - image.height_mm / 2 < statistics.median(one.cy for one in rows[-1]) + slack:
            rows[-1].append(image)
        else:
            rows.append([image])
    ordered = [image for row in rows for image in sorted(row, key=lambda one: one.cx)]
    return [with_name(one, f"{one.kind} {number}") for number, one in enumerate(ordered, 1)]


def with_name(image: SheetImage, name: str) -> SheetImage:
    """Return an image another name."""
    return msgspec.structs.replace(image, name=name)
