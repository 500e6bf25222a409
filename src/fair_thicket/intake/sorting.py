"""A page while its maker sorts it: which parts make an image, what is dropped, what the images are called.

Every step gives a new value and measures only what it changed.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray

from fair_thicket.intake.detection import Detected, Members, in_reading_order, with_name
from fair_thicket.intake.drawing_file import read_drawing
from fair_thicket.intake.photo import photograph_of_sheet, photograph_with_card, photograph_with_length
from fair_thicket.intake.picture import read_picture
from fair_thicket.intake.shaping import AS_FOUND, LOOSEST, TIGHTEST, Shaping
from fair_thicket.intake.sheet import describe, detect_sheet, doubt_of, refuse_photo
from fair_thicket.model.basics import Point
from fair_thicket.model.errors import InputError, PictureError
from fair_thicket.model.plan import Sheet, SheetImage

PREVIEW_PX = 1600
PICTURES = frozenset({".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp"})
DRAWINGS = frozenset({".svg"})


class Way(msgspec.Struct, frozen=True):
    """How a page is to be read.

    Attributes
    ----------
    kind : str
        ``scan``, ``photo`` of a whole sheet, photo with a ``card``, or photo with a known ``length``.
    dpi : float or None
        Of a scan; None goes by the file.
    sheet_mm : (width, height) or None
        Size of the sheet: it scales a scan, and a photo needs it.
    ends, length_mm
        Two places in a photo, as shares 0..1 of its width and height, and the distance between them.
    """

    kind: str = "scan"
    dpi: float | None = None
    sheet_mm: tuple[float, float] | None = None
    ends: tuple[tuple[float, float], tuple[float, float]] | None = None
    length_mm: float = 0.0


@dataclass(frozen=True)
class Sorting:
    """A page under the maker's hands.

    Attributes
    ----------
    name : str
        Of the file.
    sheet : Sheet
        The page with its images as they are now, in reading order.
    picture : (rows, columns) or (rows, columns, 3) uint8
        A small picture of the scan, or of the photo made flat.
    detected : Detected or None
        None for an SVG, whose images are as drawn.
    reach_mm : float
        Parts nearer than this were taken together.
    accuracy : float
        Share by which sizes may be off; 0 where nothing is known against them.
    shapings : mapping of members to Shaping
        What the maker said of outlines, page mm.
    """

    name: str
    sheet: Sheet
    picture: NDArray[np.uint8]
    detected: Detected | None
    reach_mm: float
    accuracy: float = 0.0
    shapings: Mapping[Members, Shaping] = field(default_factory=dict)

    @property
    def doubt(self) -> str:
        """What is doubtful about what was found, as a sentence; empty for nothing."""
        return doubt_of(self.sheet)

    @property
    def images(self) -> tuple[SheetImage, ...]:
        """The images as they are now."""
        return self.sheet.images


def read_page(path: Path, way: Way) -> Sorting:
    """Read a scan, a photo or an SVG and find its images.

    Raises
    ------
    InputError
        One sentence: what is wrong with the file and what to do.
    """
    if path.suffix.lower() in DRAWINGS:
        return _of_drawing(read_drawing(path), path.name)
    picture = read_picture(path)
    if way.kind == "scan" and way.dpi is None and way.sheet_mm is None:
        refuse_photo(picture, path.name)
    return sort_pixels(picture.pixels, way, name=path.name, stated_dpi=picture.dpi)


def sort_pixels(
    pixels: NDArray[np.uint8], way: Way, *, name: str = "The scan", stated_dpi: float | None = None
) -> Sorting:
    """Find the images on pixels that are read already; see `read_page`."""
    accuracy = 0.0
    if way.kind == "scan":
        detected, resolution = detect_sheet(
            pixels, dpi=way.dpi, stated_dpi=stated_dpi, sheet_mm=way.sheet_mm, name=name
        )
    else:
        if way.kind == "card":
            taken = photograph_with_card(pixels, name=name)
        elif way.kind == "length":
            if way.ends is None:
                raise PictureError(f"Mark on {name} two places whose distance you know, and type the distance.")
            rows, columns = pixels.shape[:2]
            ends = [(x * columns, y * rows) for x, y in way.ends]
            taken = photograph_with_length(pixels, ends, way.length_mm, name=name)
        else:
            if way.sheet_mm is None:
                raise InputError(f"Say how large the sheet on {name} is: letter, A4, or its width and height.")
            taken = photograph_of_sheet(pixels, way.sheet_mm, name=name)
        detected, resolution, pixels, accuracy = taken.detected, 300.0, taken.pixels, taken.accuracy
    found = detected.group()
    images = detected.take(found.groups, found.greetings)
    if not images:
        raise PictureError(f"{name} shows no stamped image; is the sheet the right way up on the glass?")
    sheet = describe(detected, images, resolution)
    return Sorting(name, sheet, _small(pixels), detected, found.reach_mm, accuracy)


def read_sheet(path: Path, way: Way, *, gap_mm: float | None = None) -> Sheet:
    """Read a page as `read_page` does and give what was found."""
    sorting = read_page(path, way)
    return (sorting if gap_mm is None else regroup(sorting, gap_mm)).sheet


def bare_page(path: Path) -> Sorting:
    """Read a photo as it is, without images, so that places can be marked on it."""
    pixels = read_picture(path).pixels
    rows, columns = pixels.shape[:2]
    sheet = Sheet(96.0, float(columns), float(rows), 0.0, "none", (), float(columns), (0.0, 0.0))
    return Sorting(path.name, sheet, _small(pixels), None, 0.0)


def regroup(sorting: Sorting, gap_mm: float) -> Sorting:
    """Group anew: parts nearer than a distance are one image."""
    if sorting.detected is None:
        return sorting
    found = sorting.detected.group(gap_mm)
    words = {found.groups[index] for index in found.greetings}
    return replace(_with_groups(sorting, sorting.detected, found.groups, words), reach_mm=gap_mm)


def merge(sorting: Sorting, chosen: Collection[int]) -> Sorting:
    """Make one image of several, by their places in the list."""
    if sorting.detected is None or len(chosen) < 2:
        return sorting
    merged = tuple(sorted(number for index in chosen for number in sorting.images[index].members))
    kept = [image.members for index, image in enumerate(sorting.images) if index not in chosen]
    words = _words(sorting)
    if all(sorting.images[index].kind == "greeting" for index in chosen):
        words.add(merged)
    return _with_groups(sorting, sorting.detected, [*kept, merged], words)


def split(sorting: Sorting, index: int, line: Sequence[tuple[float, float]] | None = None) -> Sorting:
    """Split an image at its thinnest neck, or along a line in page mm.

    Raises
    ------
    InputError
        When there is nothing to split it at.
    """
    if sorting.detected is None:
        raise InputError("A drawing's outlines are taken as they are; change them in the drawing and open it again.")
    image = sorting.images[index]
    detected, parts = sorting.detected.split(image.members, line)
    if len(parts) < 2:
        raise InputError(
            "That line does not cross the image; draw it right across."
            if line is not None
            else f"“{image.name}” has no neck to part it at; draw a line across it."
        )
    kept = [other.members for other in sorting.images if other is not image]
    return _with_groups(sorting, detected, [*kept, *parts], _words(sorting))


def shaping_of(sorting: Sorting, index: int) -> Shaping:
    """Return what the maker said of an image's outline."""
    return sorting.shapings.get(sorting.images[index].members, AS_FOUND)


def loosen(sorting: Sorting, chosen: Collection[int], likely: float) -> Sorting:
    """Find the outlines of some images tighter or looser: what is likelier than so much is body."""
    likely = min(max(likely, LOOSEST), TIGHTEST)
    return _shape(
        sorting, {index: msgspec.structs.replace(shaping_of(sorting, index), likely=likely) for index in chosen}
    )


def turn_area(sorting: Sorting, index: int, place: Point) -> Sorting:
    """Turn the area of an image round a place (page mm) from ground to body, or back.

    Raises
    ------
    InputError
        When no line closes round the place, or it lies on a line.
    """
    shaping = shaping_of(sorting, index)
    after = _shape(sorting, {index: msgspec.structs.replace(shaping, turned=(*shaping.turned, place))})
    if after.images == sorting.images:
        raise InputError("No lines close round that place: draw a line across the gap first, then click beside it.")
    return after


def join_gap(sorting: Sorting, index: int, line: tuple[Point, Point]) -> Sorting:
    """Close a gap of an image along a line from one place to another, page mm.

    A line that closes nothing and ends in the body opens it there: what it leads into is ground.

    Raises
    ------
    InputError
        When that changes nothing.
    """
    shaping = shaping_of(sorting, index)
    after = _shape(sorting, {index: msgspec.structs.replace(shaping, joined=(*shaping.joined, line))})
    if after.images == sorting.images:
        after = _shape(sorting, {index: msgspec.structs.replace(shaping, turned=(*shaping.turned, line[1]))})
    if after.images == sorting.images:
        raise InputError("That line closes nothing; draw it from ink to ink across the gap.")
    return after


def as_found(sorting: Sorting, chosen: Collection[int]) -> Sorting:
    """Forget what was said of the outlines of some images."""
    return _shape(sorting, dict.fromkeys(chosen, AS_FOUND))


def _shape(sorting: Sorting, shapings: Mapping[int, Shaping]) -> Sorting:
    """Measure some images again by other shapings; names and order stay.

    Raises
    ------
    InputError
        Of a drawing, whose outlines are as drawn.
    """
    if sorting.detected is None:
        raise InputError("A drawing's outlines are taken as they are; change them in the drawing and open it again.")
    images = list(sorting.images)
    known = dict(sorting.shapings)
    for index, shaping in shapings.items():
        image = images[index]
        known[image.members] = shaping
        words = [0] if image.kind == "greeting" else []
        (taken,) = sorting.detected.take([image.members], words, known) or [image]
        images[index] = with_name(taken, image.name)
    return replace(_with_images(sorting, tuple(images)), shapings=known)


def drop(sorting: Sorting, chosen: Collection[int]) -> Sorting:
    """Leave images out."""
    kept = tuple(image for index, image in enumerate(sorting.images) if index not in chosen)
    return _with_images(sorting, kept)


def _words(sorting: Sorting) -> set[Members]:
    return {image.members for image in sorting.images if image.kind == "greeting"}


def _with_groups(
    sorting: Sorting, detected: Detected, groups: Sequence[Members], words: Collection[Members]
) -> Sorting:
    """Measure the groups that are new; keep what is known of the others."""
    known = {image.members: image for image in sorting.images}
    fresh = [group for group in groups if group not in known]
    greetings = [index for index, group in enumerate(fresh) if group in words]
    taken = detected.take(fresh, greetings)
    kept = [known[group] for group in groups if group in known]
    return replace(_with_images(sorting, tuple(in_reading_order([*kept, *taken]))), detected=detected)


def _with_images(sorting: Sorting, images: tuple[SheetImage, ...]) -> Sorting:
    return replace(sorting, sheet=msgspec.structs.replace(sorting.sheet, images=images))


def _of_drawing(sheet: Sheet, name: str) -> Sorting:
    rows, columns = round(sheet.height_mm * 4) + 1, round(sheet.width_mm * 4) + 1
    scale = min(1.0, PREVIEW_PX / max(rows, columns))
    blank = np.full((max(1, round(rows * scale)), max(1, round(columns * scale))), 255, np.uint8)
    return Sorting(name, sheet, blank, None, 0.0)


def _small(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    scale = min(1.0, PREVIEW_PX / max(pixels.shape[:2]))
    small = cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    return np.ascontiguousarray(small, np.uint8)


def list_pages(paths: Sequence[Path]) -> list[Path]:
    """Files that may be pages, folders opened one level deep, in the order of their names."""
    found: list[Path] = []
    for path in paths:
        inside = sorted(path.iterdir()) if path.is_dir() else [path]
        found += [file for file in inside if file.suffix.lower() in PICTURES | DRAWINGS or file == path]
    return [file for file in found if not file.is_dir()]
