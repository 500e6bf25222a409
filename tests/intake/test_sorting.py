"""A page under its maker's hands: regrouped, merged, split, thinned; each step leaves the rest as it was."""

from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image

from fair_thicket.intake.sorting import Sorting, Way, drop, list_pages, merge, read_page, regroup, sort_pixels, split
from fair_thicket.model.errors import InputError, PictureError
from fair_thicket.simulators.camera import Camera, take_photo

PX = 300 / 25.4


@pytest.fixture(scope="module")
def pixels() -> np.ndarray:
    """A letter page with a disc ring of 24 mm, two rings that touch, and three dots in a row 9 mm apart."""
    page = np.full((3300, 2550), 250, np.uint8)
    for x, y, radius in ((40, 40, 12), (90, 40, 12), (111, 40, 9)):
        cv2.circle(page, (round(x * PX), round(y * PX)), round(radius * PX), 20, 8, cv2.LINE_AA)
    for k in range(3):
        cv2.circle(page, (round((40 + 15 * k) * PX), round(90 * PX)), round(3 * PX), 20, -1, cv2.LINE_AA)
    return page


@pytest.fixture(scope="module")
def sorting(pixels: np.ndarray) -> Sorting:
    return sort_pixels(pixels, Way(dpi=300))


def test_images_are_found_and_told(sorting: Sorting) -> None:
    assert len(sorting.images) == 5
    assert sorting.picture.shape == (1600, 1236)
    assert sorting.sheet.dpi == 300


def test_a_larger_distance_takes_dots_together_and_a_smaller_one_parts_them(sorting: Sorting) -> None:
    wide = regroup(sorting, 10.0)
    assert len(wide.images) == 3
    assert wide.reach_mm == 10
    assert len(regroup(wide, 2.0).images) == 5
    untouched = next(image for image in sorting.images if image.cx < 50 and image.cy < 50)
    assert any(image.picture is untouched.picture for image in wide.images)  # not measured again


def test_merging_makes_one_of_several(sorting: Sorting) -> None:
    dots = [index for index, image in enumerate(sorting.images) if image.cy > 80]
    merged = merge(sorting, dots)
    assert len(merged.images) == 3
    row = next(image for image in merged.images if image.cy > 80)
    assert row.width_mm == pytest.approx(36, abs=0.3)
    assert merge(sorting, dots[:1]) is sorting


def test_splitting_parts_what_touches_and_refuses_what_does_not(sorting: Sorting) -> None:
    (both,) = [index for index, image in enumerate(sorting.images) if image.width_mm > 30]
    parted = split(sorting, both)
    assert len(parted.images) == 6
    single = next(index for index, image in enumerate(sorting.images) if image.cx < 50 and image.cy < 50)
    with pytest.raises(InputError, match="no neck"):
        split(sorting, single)
    with pytest.raises(InputError, match="does not cross"):
        split(sorting, single, [(150.0, 200.0), (160.0, 200.0)])
    halves = split(sorting, single, [(40.0, 20.0), (40.0, 60.0)])
    assert len(halves.images) == 6


def test_dropping_leaves_the_rest(sorting: Sorting) -> None:
    assert [image.cx for image in drop(sorting, {0}).images] == [image.cx for image in sorting.images[1:]]


def test_photos_are_read_in_their_ways(pixels: np.ndarray, tmp_path: Path) -> None:
    photo = take_photo(pixels, (215.9, 279.4), Camera(tilt_deg=12))
    path = tmp_path / "photo.jpg"
    Image.fromarray(photo).save(path, quality=92)
    sheet = (215.9, 279.4)
    made = read_page(path, Way(kind="photo", sheet_mm=sheet))
    assert len(made.images) == 5
    assert made.sheet.skew_from == "corners"
    assert made.accuracy == 0.01
    with pytest.raises(InputError, match="how large the sheet"):
        read_page(path, Way(kind="photo"))
    with pytest.raises(PictureError, match="reference card"):
        read_page(path, Way(kind="card"))
    with pytest.raises(PictureError, match="two places"):
        read_page(path, Way(kind="length"))


def test_a_cut_file_comes_as_drawn_and_cannot_be_split(tmp_path: Path) -> None:
    path = tmp_path / "cut.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
        '<rect x="5" y="5" width="20" height="10" fill="none" stroke="#000" stroke-width="0.1"/></svg>'
    )
    made = read_page(path, Way())
    assert [image.kind for image in made.images] == ["die shape"]
    assert regroup(made, 3.0) is made
    with pytest.raises(InputError, match="taken as they are"):
        split(made, 0)


def test_folders_are_opened_one_deep_and_other_files_left_out(tmp_path: Path) -> None:
    for name in ("b.png", "a.svg", "notes.txt", "deep/c.png"):
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).write_text("")
    assert [file.name for file in list_pages([tmp_path])] == ["a.svg", "b.png"]
    assert [file.name for file in list_pages([tmp_path / "notes.txt"])] == ["notes.txt"]  # named: its fault is told
