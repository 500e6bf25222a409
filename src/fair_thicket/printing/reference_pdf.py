"""The reference card as PDF, life size: laid beside images it tells a photo's scale and plane."""

from fair_thicket.model.reference import CARD_MM, MARKER_MM, MARKERS
from fair_thicket.printing.page import INK, MARGIN_MM, SOFT, Sheets


def reference_pdf(paper: str = "letter") -> bytes:
    """Print the reference card.

    Parameters
    ----------
    paper : str
        ``letter`` or ``a4``.

    Returns
    -------
    bytes
        PDF, true to size when printed at 100 %.
    """
    sheets = Sheets("Reference card", paper)
    sheets.start_page("Reference card for photos")
    words = (
        "Print at 100 %, measure the bar at the foot, cut along the line. Lay the card flat beside the images, all "
        "four markers in sight and without glare; sizes are then true to about 1 %, however the camera is held."
    )
    sheets.paragraph(MARGIN_MM, MARGIN_MM + 8, words, width_mm=sheets.width_mm - 2 * MARGIN_MM, colour=SOFT)
    left, top = (sheets.width_mm - CARD_MM[0]) / 2, 50.0
    corners = [(left, top), (left + CARD_MM[0], top), (left + CARD_MM[0], top + CARD_MM[1]), (left, top + CARD_MM[1])]
    sheets.line(corners, closed=True, width_pt=0.4, colour=SOFT)
    cell = MARKER_MM / 6
    for marker in MARKERS:
        for row, cells in enumerate(marker.cells):
            for column, mark in enumerate(cells):
                if mark == "#":
                    x, y = left + marker.left + column * cell, top + marker.top + row * cell
                    square = [(x, y), (x + cell, y), (x + cell, y + cell), (x, y + cell)]
                    sheets.line(square, closed=True, width_pt=0.05, colour=INK, fill=INK)
    sheets.text(left + CARD_MM[0] / 2, top + CARD_MM[1] / 2, "Fair Thicket", size=11, style="Bold", centred=True)
    sheets.text(left + CARD_MM[0] / 2, top + CARD_MM[1] / 2 + 5, "90 × 60 mm", size=9, colour=SOFT, centred=True)
    return sheets.finish()
