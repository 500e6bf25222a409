"""Our own geometry against other people's: scikit-image, resvg, OpenCV and GEOS through other doors.

- outlines against scikit-image's marching squares (Lorensen and Cline 1987, as `skimage.measure.find_contours`)
- the camera's homography against scikit-image's direct linear transform (`skimage.transform.ProjectiveTransform`)
- SVG fill rules against resvg's raster
- marker patterns against OpenCV's dictionary
"""

import io
import math
import random

import cv2
import numpy as np
import pytest
import resvg_py
import shapely
from PIL import Image
from skimage.measure import find_contours
from skimage.transform import ProjectiveTransform

from fair_thicket.intake.drawing_file import parse_drawing
from fair_thicket.intake.necks import part_at_neck, part_by_line
from fair_thicket.intake.photo import find_corners
from fair_thicket.intake.tracing import trace
from fair_thicket.model.reference import MARKERS
from fair_thicket.shape.outline import to_area
from fair_thicket.simulators.camera import Camera, page_to_photo

PX_PER_MM = 300 / 25.4


def blob(seed: int) -> np.ndarray:
    """A soft filled shape with a wavy edge, 0..1."""
    chance = random.Random(seed)
    waves = [(chance.randint(2, 7), chance.uniform(0, 0.12), chance.uniform(0, 6.3)) for _ in range(3)]
    yy, xx = np.mgrid[0:260, 0:260].astype(np.float64) - 129.5
    around = np.arctan2(yy, xx)
    radius = 85 * (1 + sum(size * np.cos(count * around + turn) for count, size, turn in waves))
    return np.clip(radius - np.hypot(xx, yy) + 0.5, 0, 1).astype(np.float32)


@pytest.mark.parametrize("seed", range(6))
def test_traced_areas_and_boxes_agree_with_marching_squares(seed: int) -> None:
    amount = blob(seed)
    made = trace(amount, PX_PER_MM)
    (contour,) = find_contours(amount, 0.5)
    points = contour[:, ::-1] / PX_PER_MM + 0.5 / PX_PER_MM
    x, y = points[:, 0], points[:, 1]
    area = abs(float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))) / 2
    assert to_area(made.outline).area == pytest.approx(area, rel=0.005)
    box = (*points.min(axis=0), *points.max(axis=0))
    assert made.box == pytest.approx(box, abs=0.05)


@pytest.mark.parametrize("camera", [Camera(tilt_deg=30), Camera(tilt_deg=10, swing_deg=-25, turn_deg=40)])
def test_the_cameras_homography_is_the_one_through_its_corners(camera: Camera) -> None:
    size = (215.9, 279.4)
    ours = page_to_photo(camera, size)
    page = np.array([(0, 0), (size[0], 0), size, (0, size[1])])
    seen = cv2.perspectiveTransform(page[None], ours)[0]
    theirs = ProjectiveTransform.from_estimate(page, seen).params
    middle = np.array([[100.0, 150.0]])
    for one in (middle, page + 13.0):
        assert cv2.perspectiveTransform(one[None], theirs)[0] == pytest.approx(
            cv2.perspectiveTransform(one[None], ours)[0], abs=1e-6
        )


def test_by_hand_a_page_seen_straight_keeps_its_shape() -> None:
    """At 420 mm with 50 degrees of view over 3000 pixels: 3000 / 2 / tan 25 / 420 = 7.659 pixels a millimetre."""
    ours = page_to_photo(Camera(), (200.0, 100.0))
    seen = cv2.perspectiveTransform(np.array([[(0.0, 0.0), (200.0, 100.0)]]), ours)[0]
    scale = 1500 / math.tan(math.radians(25)) / 420
    assert seen[1] - seen[0] == pytest.approx((200 * scale, 100 * scale))
    assert seen.mean(axis=0) == pytest.approx((1500, 2000))


@pytest.mark.parametrize("turn", [-38, -7, 0, 12, 41])
def test_corners_of_a_sheet_are_found_to_half_a_pixel(turn: float) -> None:
    angle = math.radians(turn)
    page = np.array([(-300, -400), (300, -400), (300, 400), (-300, 400)]) @ np.array(
        [[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]]
    ) + (700, 650)  # fmt: skip
    # drawn by testing pixel middles: filling by the image library would paint the border pixels too
    yy, xx = np.mgrid[0:1300, 0:1400] + 0.5
    inside = shapely.contains_xy(shapely.Polygon(page), xx.ravel(), yy.ravel()).reshape(xx.shape)
    photo = np.where(inside, 230, 80).astype(np.uint8)
    found = find_corners(cv2.GaussianBlur(photo, (0, 0), 1.0))
    assert found is not None
    for corner in page:
        assert np.hypot(*(found - corner).T).min() < 0.5


@pytest.mark.parametrize("rule", ["evenodd", "nonzero"])
@pytest.mark.parametrize("seed", range(5))
def test_filled_areas_of_tangled_paths_agree_with_another_renderer(rule: str, seed: int) -> None:
    chance = random.Random(seed)
    corners = [f"{chance.uniform(2, 38):.2f} {chance.uniform(2, 28):.2f}" for _ in range(chance.randint(5, 8))]
    hole = "M 12 8 L 12 18 L 24 18 L 24 8 Z" if seed % 2 else "M 12 8 L 24 8 L 24 18 L 12 18 Z"
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" viewBox="0 0 40 30">'
    body = f'<path d="M {" L ".join(corners)} Z {hole}" fill="#000" fill-rule="{rule}"/></svg>'
    with Image.open(io.BytesIO(resvg_py.svg_to_bytes(svg_string=head + body, dpi=96, width=1600))) as drawn:
        share = np.asarray(drawn.convert("RGBA"))[:, :, 3].mean() / 255
    dies = parse_drawing((head + body).encode(), "tangle.svg", as_dies=True).images
    ours = sum(to_area(die.outline).area - sum(to_area(ring).area for ring in die.pockets) for die in dies)
    assert ours == pytest.approx(share * 1200, rel=0.02, abs=1.5)


def test_the_markers_are_those_of_the_published_dictionary() -> None:
    dictionary = cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_4X4_50)
    for marker in MARKERS:
        drawn = cv2.aruco.generateImageMarker(dictionary, marker.number, 6, borderBits=1)
        assert ["".join("#" if value == 0 else "." for value in row) for row in drawn] == list(marker.cells)


def test_by_hand_a_dumbbell_parts_at_its_bar() -> None:
    """Two discs of radius 20 at x = 30 and 110 joined by a bar 6 wide: the cut lies in the bar, half-way at x = 70."""
    ink = np.zeros((60, 140), bool)
    yy, xx = np.mgrid[0:60, 0:140]
    for x in (30, 110):
        ink |= np.hypot(xx - x, yy - 30) <= 20
    ink[27:33, 30:110] = True
    sides = part_at_neck(ink)
    left, right = (sides == sides[30, 30]) & ink, (sides == sides[30, 110]) & ink
    assert sides[30, 30] != sides[30, 110]
    assert (left | right).sum() == ink.sum()
    assert np.nonzero(left)[1].max() == pytest.approx(70, abs=3)
    drawn = part_by_line(ink, np.array([(80.0, 20.0), (80.0, 40.0)]))
    assert np.nonzero(ink & (drawn == drawn[30, 30]))[1].max() == pytest.approx(80, abs=1)
