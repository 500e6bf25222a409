"""The grouping on pages of drawings that it was not learnt from (see `loose_pages`).

Six pages guard what is there; how good it is, is told by the hundred pages of three sets of `bench.grouping`.
"""

from loose_pages import loose_page, scan
from pages import tally

from fair_thicket.intake import scan_sheet

PAGES = 6
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
