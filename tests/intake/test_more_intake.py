"""Colours, kinds of paper, splitting, swatches, guesses, and the printed reference card."""

import io

import cv2
import numpy as np
import pypdfium2
import pytest
import shapely

from fair_thicket.edits.image_marks import open_mark
from fair_thicket.ink.prints import decode_picture
from fair_thicket.intake import scan_sheet
from fair_thicket.intake.photo import find_card, photograph_with_length
from fair_thicket.intake.sheet import detect_sheet
from fair_thicket.intake.stamps import guess_marks, keep_images
from fair_thicket.intake.swatches import read_swatches
from fair_thicket.intake.words import find_lines
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PictureError
from fair_thicket.model.reference import CARD_MM, MARKERS, corners_of
from fair_thicket.printing.reference_pdf import reference_pdf
from fair_thicket.shape.outline import to_area
from fair_thicket.simulators.camera import draw_card
from making import square

PX = 300 / 25.4


def page(paper: tuple[int, int, int] = (255, 255, 255), size: tuple[float, float] = (90.0, 70.0)) -> np.ndarray:
    made = np.empty((round(size[1] * PX), round(size[0] * PX), 3), np.uint8)
    made[:] = paper
    return made


def ring(made: np.ndarray, x: float, y: float, radius: float, ink: tuple[int, int, int], *, fill: bool = False) -> None:
    at = (round(x * PX), round(y * PX))
    cv2.circle(made, at, round(radius * PX), ink, -1 if fill else round(0.6 * PX), cv2.LINE_AA)


@pytest.mark.parametrize(
    ("paper", "ink"),
    [
        ((255, 255, 255), (60, 60, 60)),
        ((250, 243, 224), (70, 60, 60)),
        ((176, 141, 95), (40, 60, 120)),
        ((255, 255, 255), (200, 40, 60)),
        ((255, 255, 255), (235, 205, 60)),
        ((255, 255, 255), (205, 205, 205)),
    ],
    ids=["white", "cream", "kraft, blue ink", "red ink", "yellow ink", "faint"],
)
def test_ink_is_found_on_every_paper_in_every_colour(paper: tuple, ink: tuple) -> None:
    made = page(paper)
    ring(made, 30, 35, 12, ink)
    ring(made, 65, 35, 8, ink)
    made = np.clip(made + np.random.default_rng(2).normal(0, 2.5, made.shape), 0, 255).astype(np.uint8)
    first, second = scan_sheet(made, dpi=300).images
    assert (first.width_mm, second.width_mm) == pytest.approx((24.6, 16.6), abs=0.3)


def test_an_image_that_is_coloured_in_keeps_outline_and_colour() -> None:
    made = page()
    ring(made, 40, 35, 12, (150, 200, 120), fill=True)
    ring(made, 40, 35, 12, (30, 30, 30))
    (image,) = scan_sheet(made, dpi=300).images
    assert image.is_coloured
    assert image.width_mm == pytest.approx(24.6, abs=0.3)
    pixels = cv2.imdecode(np.frombuffer(image.picture, np.uint8), cv2.IMREAD_UNCHANGED)
    blue, green, red, alpha = (int(value) for value in pixels[pixels.shape[0] // 2, pixels.shape[1] // 2])
    seen = [round(255 - alpha + alpha * value / 255) for value in (red, green, blue)]
    assert seen == pytest.approx([150, 200, 120], abs=4)
    grey = 0.299 * 150 + 0.587 * 200 + 0.114 * 120
    assert decode_picture(image.picture)[140, 140] == pytest.approx(grey / 255, abs=0.03)


def two_that_touch() -> np.ndarray:
    """Two rings of 24 and 18 mm that touch at one place."""
    made = page()
    ring(made, 28, 35, 12, (20, 20, 20))
    ring(made, 48.6, 35, 9, (20, 20, 20))
    return made


def test_two_images_that_touch_come_apart_at_their_neck() -> None:
    detected, _ = detect_sheet(two_that_touch(), dpi=300)
    (whole,) = detected.group().groups
    parted, groups = detected.split(whole)
    assert len(groups) == 2
    left, right = sorted(parted.take(groups), key=lambda one: one.cx)
    assert (left.cx, right.cx) == pytest.approx((28, 48.6), abs=0.5)
    assert (left.width_mm, right.width_mm) == pytest.approx((24.6, 18.6), abs=1.0)


def test_an_image_comes_apart_along_a_drawn_line() -> None:
    detected, _ = detect_sheet(two_that_touch(), dpi=300)
    (whole,) = detected.group().groups
    parted, groups = detected.split(whole, [(24.0, 30.0), (24.0, 40.0)])
    left, right = sorted(parted.take(groups), key=lambda one: one.cx)
    assert left.cx + left.width_mm / 2 == pytest.approx(24, abs=0.3)
    assert right.cx - right.width_mm / 2 == pytest.approx(24, abs=0.3)
    assert left.width_mm + right.width_mm == pytest.approx(12.3 + 20.6 + 9.3, abs=0.6)


def test_what_has_no_neck_stays_whole() -> None:
    made = page()
    ring(made, 40, 35, 12, (20, 20, 20))
    detected, _ = detect_sheet(made, dpi=300)
    (whole,) = detected.group().groups
    same, groups = detected.split(whole)
    assert same is detected
    assert groups == (whole,)
    assert len(detected.split(whole, [(70.0, 5.0), (75.0, 5.0)])[1]) == 1  # a line beside it cuts nothing


def test_a_row_of_glyphs_is_a_line_and_a_row_of_images_is_none() -> None:
    glyphs = np.array([(x, 10.0, x + 2.6, 14.0) for x in np.arange(0, 40, 3.6)])
    (line,) = find_lines(glyphs, range(len(glyphs)))
    assert line == list(range(len(glyphs)))
    images = np.array([(x, 10.0, x + 20, 32.0) for x in np.arange(0, 180, 26.0)])
    assert find_lines(images, range(len(images))) == []
    apart = np.array([(x, 10.0, x + 4, 14.0) for x in np.arange(0, 90, 14.0)])
    assert find_lines(apart, range(len(apart))) == []


def test_a_swatch_card_tells_its_colours_row_by_row() -> None:
    made = page((250, 246, 238), (120, 90))
    told = [["#d94f4f", "#e8b23a", "#3c6e47"], ["#2c6e7f", "#7d5a78", "#444444"]]
    for row, colours in enumerate(told):
        for column, colour in enumerate(colours):
            value = [
                int(colour[k : k + 2], 16) * part / 255 for k, part in zip((1, 3, 5), (250, 246, 238), strict=True)
            ]
            left, top = round((10 + 36 * column) * PX), round((10 + 40 * row) * PX)
            made[top : top + round(20 * PX), left : left + round(28 * PX)] = np.rint(value)
    swatches = read_swatches(made, 300)
    assert [(one.row, one.column) for one in swatches] == [(0, 0), (0, 1), (0, 2), (1, 0), (1, 1), (1, 2)]
    for one in swatches:
        wanted = told[one.row][one.column]
        for k in (1, 3, 5):
            assert int(one.colour[k : k + 2], 16) == pytest.approx(int(wanted[k : k + 2], 16), abs=4)


def test_a_card_without_patches_and_a_grey_one_are_told() -> None:
    with pytest.raises(PictureError, match="grey scan"):
        read_swatches(page()[:, :, 0], 300)
    made = page()
    ring(made, 40, 35, 12, (20, 20, 20))
    with pytest.raises(PictureError, match="no patches"):
        read_swatches(made, 300)


def test_feet_are_guessed_where_something_stands_and_not_where_it_hangs() -> None:
    stands = ((-5.0, -8.0), (5.0, -8.0), (5.0, 8.0), (-5.0, 8.0))
    assert guess_marks(stands).feet == ((-5.0, 8.0), (5.0, 8.0))
    assert guess_marks(stands).is_guess
    hangs = ((-5.0, -8.0), (5.0, -8.0), (0.0, 8.0))
    assert guess_marks(hangs).feet is None


def test_a_wreaths_middle_is_open_and_a_cups_handle_is_paper_until_said_otherwise() -> None:
    middle, handle = square(12), tuple((x + 20, y) for x, y in square(6))
    marks = guess_marks(square(60), (handle, middle))
    assert [to_area(middle).covers(shapely.Point(at)) for at in marks.open_at] == [True]
    both = open_mark(marks, (handle, middle), (21.0, 1.0))
    assert both.open_at[1:] == ((21.0, 1.0),)
    assert open_mark(both, (handle, middle), (-3.0, 2.0)).open_at == ((21.0, 1.0),)  # any place in it closes it
    assert open_mark(both, (handle, middle), (-29.0, 0.0)) == both


def test_a_known_length_gives_the_scale_and_says_how_sure_it_is() -> None:
    made = page()
    ring(made, 40, 35, 12, (20, 20, 20))
    taken = photograph_with_length(made, [(0.0, 10.0), (1063.0, 10.0)], 45.0)  # 90 mm said to be 45
    found = taken.detected.group()
    (image,) = taken.detected.take(found.groups)
    assert image.width_mm == pytest.approx(12.3, abs=0.2)
    assert taken.accuracy == 0.05
    with pytest.raises(PictureError, match="two places that lie well apart"):
        photograph_with_length(made, [(0.0, 10.0), (3.0, 10.0)], 45.0)


def test_the_printed_reference_card_is_found_at_its_size() -> None:
    """The card as printed, drawn by a PDF library and read by the marker detector of an image library."""
    document = pypdfium2.PdfDocument(reference_pdf())
    drawn = np.asarray(document[0].render(scale=300 / 72).to_pil().convert("L"))
    document.close()
    on_card, in_photo = find_card(drawn)
    assert len(on_card) == 4 * len(MARKERS)
    moved = in_photo / PX - on_card
    assert np.ptp(moved, axis=0).max() < 0.15  # one shift for all: printed life size
    blank = np.full((round(70 * PX), round(100 * PX)), 255, np.uint8)
    draw_card(blank, PX, (5, 5))
    assert len(find_card(blank)[0]) == 4 * len(MARKERS)
    assert corners_of(MARKERS[2])[2] == (CARD_MM[0] - 4, CARD_MM[1] - 4)
    assert io.BytesIO(reference_pdf("a4")).read(4) == b"%PDF"


def test_greetings_and_dies_are_kept_as_what_they_are() -> None:
    made = page((255, 255, 255), (120, 60))
    for k in range(9):
        cv2.rectangle(
            made, (round((10 + 4 * k) * PX), round(10 * PX)), (round((12.4 + 4 * k) * PX), round(14 * PX)), (0, 0, 0), 6
        )
    (image,) = scan_sheet(made, dpi=300).images
    work, _ = keep_images(Work(), [image], names=["hello"])
    assert work.stash.stamps[0].kind.value == "greeting"
    assert work.stash.stamps[0].marks.feet is None
    assert not work.stash.stamps[0].may_flip
