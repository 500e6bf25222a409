"""Lines of words are told from rows of bits."""

import cv2
import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFont

from fair_thicket.fonts import FONTS
from fair_thicket.intake.grouping import DUST_MM
from fair_thicket.intake.words import find_lines

PX_PER_MM = 12
LINES = [
    "happy birthday to you", "with love", "thinking of you", "get well soon", "CONGRATULATIONS", "miss you already",
    "hip hip hooray\nto you!", "sending hugs\nand sunshine\nyour way", "a little note\nto say hi",
]  # fmt: skip


def glyphs_of(text: str, high_mm: float, spacing: float) -> np.ndarray:
    """Set words in the shipped typeface, letters so many mm high, and box what is connected: (n, 4), mm."""
    font = ImageFont.truetype(FONTS["font_files"][0], round(high_mm * PX_PER_MM / 0.72))
    picture = Image.new("L", (3400, 1000), 255)
    ImageDraw.Draw(picture).multiline_text((60, 60), text, font=font, fill=0, spacing=spacing * high_mm * PX_PER_MM)
    _, _, stats, _ = cv2.connectedComponentsWithStats((np.asarray(picture) < 128).astype(np.uint8))
    left, top, width, height = stats[1:, :4].T / PX_PER_MM
    boxes = np.stack([left, top, left + width, top + height], axis=1)
    return boxes[np.maximum(width, height) >= DUST_MM]


@pytest.mark.parametrize("text", LINES)
def test_words_of_every_size_are_lines(text: str) -> None:
    """The longest line at least; its i-dots and the lines above and below do not crowd it."""
    for high_mm, spacing in ((3, 0.3), (5, 0.5), (7, 0.2)):
        boxes = glyphs_of(text, high_mm, spacing)
        lines = find_lines(boxes, range(len(boxes)))
        assert max(map(len, lines), default=0) >= max(len(line.replace(" ", "")) for line in text.split("\n")) * 0.8


def row(count: int, top: float, *, high: float = 6.0, step: float = 7.5) -> list[tuple[float, float, float, float]]:
    return [(20 + step * k, top, 20 + step * k + 6, top + high) for k in range(count)]


def test_a_row_of_bits_with_another_as_near_is_no_line_of_words() -> None:
    """Two rows of six grains, 1.5 mm between grains and 2 mm between rows; one row alone could be letters."""
    boxes = np.array(row(6, 20) + row(4, 28))
    assert find_lines(boxes, range(10)) == []
    assert find_lines(boxes[:6], range(6)) == [[0, 1, 2, 3, 4, 5]]


def test_what_is_far_wider_than_high_is_no_letter() -> None:
    """Four bars and the hull of a boat stand in a row."""
    boxes = np.array([*row(3, 20), (43.0, 22.8, 62.5, 26.0), (66.5, 19.0, 73.5, 26.0)])
    assert find_lines(boxes, range(5)) == []
