"""Typed words in the shipped open typeface: a stand-in to plan by, measured and drawn line by line.

Notes
-----
A newline breaks a line; lines are centred, their base lines `LINE_PITCH` heights of capitals apart. The middle between
the top of the first line's capitals and the last base line is the words' own middle.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from fair_thicket.fonts import font_file

Floats = NDArray[np.float32]
EXACT_PX, FINE_PX = 2048, 1200
"""A line of words is measured at the first size, where whole pixels no longer matter; it is drawn at the second at most
before it is reduced."""
CAPITAL = 0.7
"""Height of the shipped typeface's capitals as a share of its size."""
LINE_PITCH = 1.9
"""From base line to base line, in heights of capitals: tails of one line clear the tall letters of the next."""


@lru_cache(maxsize=64)
def _font(size_px: int) -> ImageFont.FreeTypeFont:
    # the plain engine: the other gives up on some letters, and our typeface needs none of its shaping
    return ImageFont.truetype(str(font_file("SemiBold")), size_px, layout_engine=ImageFont.Layout.BASIC)


def words_width(words: str, words_mm: float) -> float:
    """Width of the longest line of words in the shipped typeface, mm, with capitals `words_mm` high."""
    longest = max(float(_font(EXACT_PX).getlength(line)) for line in words.split("\n"))
    return longest / EXACT_PX * words_mm / CAPITAL


def words_height(words: str, words_mm: float) -> float:
    """Height of words from the top of the first line's capitals to the last base line, mm."""
    return words_mm * (1 + LINE_PITCH * words.count("\n"))


def draw_words(words: str, words_mm: float, px_per_mm: float) -> Floats:
    """Draw words: transmittance, (rows, columns) float32, black on clear, centred, no room round them."""
    lines = [_draw_line(line, words_mm, px_per_mm) for line in words.split("\n")]
    if len(lines) == 1:
        return lines[0]
    pitch = LINE_PITCH * words_mm * px_per_mm
    rows, columns = lines[0].shape[0], max(line.shape[1] for line in lines)
    picture = np.ones((rows + round(pitch * (len(lines) - 1)), columns), np.float32)
    for number, line in enumerate(lines):
        top, left = round(pitch * number), (columns - line.shape[1]) // 2
        view = picture[top : top + rows, left : left + line.shape[1]]
        np.minimum(view, line, out=view)
    return picture


def _draw_line(words: str, words_mm: float, px_per_mm: float) -> Floats:
    size = max(4, round(words_mm / CAPITAL * px_per_mm))
    finer = max(1, min(4, FINE_PX // size))  # letters are set to whole pixels: small ones would stand too far apart
    font = _font(size * finer)
    drawn = (max(1, round(font.getlength(words))), round(size * 1.3) * finer)
    picture = Image.new("L", drawn, 255)
    # the middle of the capitals lies in the middle of the picture
    middle = drawn[1] / 2 + size * finer * CAPITAL / 2
    ImageDraw.Draw(picture).text((0, middle), words, fill=0, font=font, anchor="ls")
    wanted = (max(1, round(words_width(words, words_mm) * px_per_mm)), round(size * 1.3))
    if drawn != wanted:
        picture = picture.resize(wanted, Image.Resampling.BOX if finer > 1 else Image.Resampling.BILINEAR)
    return np.asarray(np.asarray(picture, np.float32) / 255, np.float32)
