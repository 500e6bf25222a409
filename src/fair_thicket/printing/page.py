"""A PDF of life-size pages: millimetres from the top left, our typeface, a bar to check the printer's scale by."""

import io
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import shapely
from reportlab import rl_config
from reportlab.lib.colors import Color, HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Paragraph

from fair_thicket.fonts import STYLES, font_file
from fair_thicket.model.errors import check_wanted
from fair_thicket.model.formats import SHEETS
from fair_thicket.model.units import MM_PER_INCH, Unit

rl_config.useA85 = 0  # bytes as they are: written as text they take a quarter more room, and long to write
MARGIN_MM = 12.0
SPREAD_STEPS = 6
"""A mark goes aside by at most so many halves of its size."""
INK = HexColor("#22302a")
SOFT = HexColor("#5b6b62")
RULE = HexColor("#9fb0a6")


def paper_for(unit: Unit) -> str:
    """Paper that a maker has by the unit they think in."""
    return "letter" if unit is Unit.INCH else "a4"


def _font(style: str) -> str:
    return f"FernbankSans-{style}"


UNKNOWN = "?"
"""Stands for every letter that the typeface does not have: nothing is dropped in silence."""


def in_known_letters(words: str) -> str:
    """Return words with a mark in the place of every letter that the typeface lacks."""
    known = pdfmetrics.getFont(_font("Regular")).face.charToGlyph
    return "".join(letter if ord(letter) in known or letter.isspace() else UNKNOWN for letter in words)


def width_of(words: str, size: float) -> float:
    """Return how wide a line of words is, mm, at a size in points."""
    register_fonts()
    return float(pdfmetrics.stringWidth(in_known_letters(words), _font("Regular"), size) / mm)


def shorten(words: str, wide_mm: float, size: float) -> str:
    """Return words, or as many letters as fit a width at a size in points, and the mark that more were there."""
    if width_of(words, size) <= wide_mm:
        return words
    count = next((n for n in range(len(words) - 1, 1, -1) if width_of(f"{words[:n].rstrip()}…", size) <= wide_mm), 1)
    return f"{words[:count].rstrip()}…"


def spread(wanted: Sequence[tuple[float, float]], apart: float) -> list[tuple[float, float]]:
    """Return places of marks, mm: each where it is wanted, or the nearest place where it covers none before it."""
    steps = range(-SPREAD_STEPS, SPREAD_STEPS + 1)
    ways = sorted(((dx * apart / 2, dy * apart / 2) for dx in steps for dy in steps), key=lambda way: math.hypot(*way))
    placed: list[tuple[float, float]] = []
    for x, y in wanted:
        free = ((x + dx, y + dy) for dx, dy in ways)
        spot = next((one for one in free if all(math.dist(one, other) >= apart for other in placed)), (x, y))
        placed.append(spot)
    return placed


def register_fonts() -> None:
    """Make the typeface known to the PDF library; doing it again does nothing."""
    for style in STYLES:
        if _font(style) not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(_font(style), str(font_file(style))))


@dataclass
class Sheets:
    """A PDF under way.

    Attributes
    ----------
    title : str
        Printed at the foot of every page.
    side : str
        Side of the card that the pages are of, named in their headings; empty where there is only one.
    go_on : callable
        Asked at everything that is drawn; False ends the drawing: nobody wants it any more (StoppedError).
    width_mm, height_mm : float
        The page now being drawn.
    """

    title: str
    paper: str
    side: str = ""
    go_on: Callable[[], bool] = field(default=lambda: True, repr=False)

    def __post_init__(self) -> None:
        register_fonts()
        self._buffer = io.BytesIO()
        self.canvas = Canvas(self._buffer, invariant=1)
        self.canvas.setTitle(self.title)
        self.canvas.setCreator("Fair Thicket")
        self._number = 0
        self.width_mm, self.height_mm = SHEETS[self.paper]

    def ask_wanted(self) -> None:
        """End the drawing where nobody wants it any more.

        Raises
        ------
        StoppedError
        """
        check_wanted(self.go_on, "the plan")

    def is_too_narrow(self, wide_mm: float) -> bool:
        """Whether something so wide goes beyond the margins of the page now being drawn."""
        return wide_mm > self.width_mm - 2 * MARGIN_MM + 0.1

    def start_page(self, heading: str, *, wide_mm: float = 0.0) -> None:
        """Begin a page with its heading, its foot and the scale bar; lying where what comes is wider than upright."""
        self.ask_wanted()
        if self._number:
            self.canvas.showPage()
        self._number += 1
        short, long = SHEETS[self.paper]
        self.width_mm = short
        is_lying = self.is_too_narrow(wide_mm)
        self.width_mm, self.height_mm = (long, short) if is_lying else (short, long)
        self.canvas.setPageSize((self.width_mm * mm, self.height_mm * mm))
        named = f"{self.side.capitalize()}: {heading[:1].lower()}{heading[1:]}" if self.side else heading
        self.text(MARGIN_MM, MARGIN_MM + 3, named, size=15, style="Bold")
        self.text(MARGIN_MM, self.height_mm - 7, f"{self.title}  ·  page {self._number}", size=8, colour=SOFT)
        self._draw_scale_bar()

    def finish(self) -> bytes:
        """Close the PDF and return its bytes; the same content gives the same bytes."""
        self.canvas.showPage()
        self.canvas.save()
        return self._buffer.getvalue()

    def _draw_scale_bar(self) -> None:
        """Draw 50 mm and 2 in, so that a ruler tells whether the printer kept the size."""
        y = self.height_mm - 15
        right = self.width_mm - MARGIN_MM
        for offset, length, words, step in (
            (0.0, 50.0, "50 mm", 10.0),
            (5.0, 2 * MM_PER_INCH, "2 in", MM_PER_INCH / 2),
        ):
            left = right - 60
            self.line([(left, y + offset), (left + length, y + offset)], width_pt=0.8)
            tick = 0.0
            while tick <= length + 0.01:
                self.line([(left + tick, y + offset - 1.2), (left + tick, y + offset + 1.2)], width_pt=0.8)
                tick += step
            self.text(left + length + 2, y + offset + 1, words, size=8)
        self.text(right - 60, y - 3, "Print at 100 %, then measure these", size=8, colour=SOFT)

    def text(
        self,
        x: float,
        y: float,
        words: str,
        *,
        size: float = 10,
        style: str = "Regular",
        colour: Color = INK,
        centred: bool = False,
    ) -> None:
        """Write a line of words with its baseline at (x, y) mm."""
        self.ask_wanted()
        self.canvas.setFillColor(colour)
        self.canvas.setFont(_font(style), size)
        draw = self.canvas.drawCentredString if centred else self.canvas.drawString
        draw(x * mm, (self.height_mm - y) * mm, in_known_letters(words))

    def paragraph(
        self, x: float, y: float, words: str, *, width_mm: float, size: float = 10.5, colour: Color = INK
    ) -> float:
        """Write wrapped words with their top at (x, y) mm; return their height in mm."""
        self.ask_wanted()
        style = ParagraphStyle("plain", fontName=_font("Regular"), fontSize=size, leading=size * 1.35, textColor=colour)
        escaped = in_known_letters(words).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
        paragraph = Paragraph(escaped, style)
        height = float(paragraph.wrapOn(self.canvas, width_mm * mm, 1000 * mm)[1])
        paragraph.drawOn(self.canvas, x * mm, (self.height_mm - y) * mm - height)
        return float(height / mm)

    def line(
        self,
        points: Sequence[Sequence[float]],
        *,
        width_pt: float = 0.6,
        colour: Color = INK,
        closed: bool = False,
        dashes: Sequence[float] = (),
        fill: Color | None = None,
    ) -> None:
        """Draw a line through points, mm; nothing through fewer than two."""
        self.ask_wanted()
        if len(points) < 2:
            return
        self.canvas.setStrokeColor(colour)
        self.canvas.setLineWidth(width_pt)
        self.canvas.setLineJoin(1)
        self.canvas.setLineCap(1)
        self.canvas.setDash(list(dashes))
        path = self.canvas.beginPath()
        for index, (x, y) in enumerate(points):
            (path.lineTo if index else path.moveTo)(x * mm, (self.height_mm - y) * mm)
        if closed:
            path.close()
        if fill is not None:
            self.canvas.setFillColor(fill)
        self.canvas.drawPath(path, stroke=1, fill=int(fill is not None))
        self.canvas.setDash([])

    def shape(self, shape: shapely.Geometry, **how: object) -> None:
        """Draw the rings of an area, or the lines of a line shape, mm; nothing of an empty one."""
        for part in shapely.get_parts(shape):
            if part.is_empty:
                continue
            if isinstance(part, shapely.Polygon):
                for ring in (part.exterior, *part.interiors):
                    self.line(list(ring.coords), closed=True, **how)  # type: ignore[arg-type]
            elif isinstance(part, shapely.LineString):
                self.line(list(part.coords), **how)  # type: ignore[arg-type]
