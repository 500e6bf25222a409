"""The grouping on pages of drawings that it was not learnt from (see `loose_pages`).

Three pages guard what is there; how good it is, is told by the hundred pages of three sets of `bench.grouping`.
"""

import pytest
from loose_pages import loose_page, scan
from near_pages import Scanned, blotchy_page, page_of_pairs
from pages import tally

from fair_thicket.intake import scan_sheet

PAGES = 3
SETS = ("lucide",)


def test_images_of_many_loose_parts_and_close_neighbours_are_found_as_one_piece() -> None:
    drawings = found = 0
    spurious, missed = [], []
    for number in range(PAGES):
        page = loose_page(number, SETS)
        told = tally(scan_sheet(scan(page), dpi=page.glass.dpi).images, page.places)
        drawings, found = drawings + told.drawings, found + told.found
        spurious += told.spurious
        missed += told.missed
    assert drawings >= 10 * PAGES
    assert found >= 0.98 * drawings, missed
    assert len(spurious) <= 0.01 * drawings, spurious


PAIRS = [lambda number=number, in_rows=in_rows: page_of_pairs(number, in_rows=in_rows)
         for in_rows, number in ((False, 103), (True, 105))]  # fmt: skip


@pytest.mark.parametrize(
    ("pages", "found_share"), [(PAIRS, 0.96), ([lambda: blotchy_page(101), lambda: blotchy_page(103)], 0.9)],
    ids=["images of one part in pairs", "blotchy impressions"],
)  # fmt: skip
def test_what_is_one_part_stays_one_image(pages: list, found_share: float) -> None:
    """The shares are those of few pages; `bench.grouping` tells those of forty."""
    drawings, found, spurious, missed = 0, 0, [], []
    for page in pages:
        scanned: Scanned = page()
        told = tally(scan_sheet(scanned.pixels, dpi=scanned.dpi).images, scanned.places)
        drawings, found = drawings + told.drawings, found + told.found
        spurious += told.spurious
        missed += told.missed
    assert drawings >= 16
    assert found >= found_share * drawings, missed
    assert len(spurious) <= 0.06 * drawings, spurious
