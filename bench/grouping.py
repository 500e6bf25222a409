"""How many images of random pages are found as one piece: `python -m bench.grouping [PAGES [HARD]]`.

100 pages of three open sets with many loose parts that the grouping was not learnt from; see `loose_pages`.
And of each kind 40 hard ones: images of one part 1.5 to 3 mm apart, faint and blotchy impressions; see `near_pages`.
Two of the sets bring much that the tests do not need: pip install --no-deps pytablericons==1.0.1 fontawesomefree==6.6.0
"""

import sys
import time
from functools import partial
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests" / "reference"))


def main(pages: int = 100, hard: int = 40) -> None:
    """Print what came of each kind of page, and of all."""
    from loose_pages import loose_page, scan
    from near_pages import blotchy_page, page_of_pairs
    from pages import tally

    from fair_thicket.intake import scan_sheet

    sums: dict[str, list[int]] = {}
    missed: list[str] = []
    longest = 0.0
    for number in range(pages):
        page = loose_page(number)
        pixels = scan(page)
        start = time.perf_counter()
        images = scan_sheet(pixels, dpi=page.glass.dpi).images
        longest = max(longest, time.perf_counter() - start)
        told = tally(images, page.places)
        kind = f"{page.glass.dpi:.0f} dpi, {'pairs 1.5 mm apart' if number % 2 else 'apart'}"
        for key in (kind, "all"):
            row = sums.setdefault(key, [0, 0, 0])
            row[0] += told.drawings
            row[1] += told.found
            row[2] += len(told.spurious)
        missed += [f"page {number}: {name}" for name in told.missed]
    kinds = {
        "hard: one part, in pairs": partial(page_of_pairs, in_rows=False),
        "hard: one part, in rows": partial(page_of_pairs, in_rows=True),
        "hard: blotchy": blotchy_page,
    }
    for key, draw in kinds.items():
        row = sums.setdefault(key, [0, 0, 0])
        for number in range(200, 200 + hard):
            scanned = draw(number)
            told = tally(scan_sheet(scanned.pixels, dpi=scanned.dpi).images, scanned.places)
            row[:] = row[0] + told.drawings, row[1] + told.found, row[2] + len(told.spurious)
            missed += [f"{key} {number}: {name}" for name in told.missed]
    for kind, (drawings, found, spurious) in sorted(sums.items()):
        print(f"{kind}: {drawings} images, {found / drawings:.2%} as one piece, {spurious / drawings:.2%} spurious")
    print(f"slowest page {longest:.1f} s; not as one piece: {', '.join(missed) or 'none'}")


if __name__ == "__main__":
    main(*(int(word) for word in sys.argv[1:3]))
