"""How true the outlines of open drawings are: overlap over union with what their coloured companions cover, by set.

    .venv/bin/python -m bench.silhouettes [--dpi 150,300,600] [--count 0] [--worst FILE.png]

Closed by itself: how many would be as true if only what lines close in were filled.
"""

import argparse
import sys
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests" / "reference"))


def main() -> None:
    from silhouette_truth import (
        SETS,
        Known,
        body_of,
        closed_by_itself,
        known,
        names_of,
        overlap,
        pockets_are_right,
        scanned,
    )

    from fair_thicket.intake.scanner import Glass

    words = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    words.add_argument("--dpi", default="300")
    words.add_argument("--count", type=int, default=0)
    words.add_argument("--worst", type=Path)
    options = words.parse_args()
    worst: list[tuple[float, Known, np.ndarray]] = []
    print(f"{'set':28} dpi drawings  by itself >= 0.9   now >= 0.9  >= 0.8  pockets right  in doubt, of wrong ones  ms")
    for dpi in (float(word) for word in options.dpi.split(",")):
        for name in SETS:
            rows = []
            chance = np.random.default_rng(4)
            for seed, key in enumerate(names_of(name)[: options.count or None]):
                one = known(name, key, chance)
                if one is None:
                    continue
                start = time.perf_counter()
                image = scanned(one, Glass(dpi=dpi, dust=0, seed=seed))
                seconds = time.perf_counter() - start
                read = body_of(one, image)
                score = overlap(read, one.body)
                worst.append((score, one, read))
                right = pockets_are_right(one, read)
                rows.append((closed_by_itself(one), score, right, image.is_doubtful, seconds))
            own, now, right, doubt, seconds = (np.array(column) for column in zip(*rows, strict=True))
            seen = doubt[now < 0.9].mean() if (now < 0.9).any() else 1.0
            print(
                f"{name:28} {dpi:3.0f} {len(rows):8} {(own >= 0.9).mean():17.0%} {(now >= 0.9).mean():12.0%} "
                f"{(now >= 0.8).mean():7.0%} {right.mean():14.0%} {doubt.mean():9.0%} {seen:13.0%} "
                f"{1000 * np.median(seconds):5.0f}"
            )
    if options.worst:
        _draw(sorted(worst, key=lambda row: row[0])[:24], options.worst)


def _draw(rows: list, file: Path) -> None:
    """Draw the worst: body that is missing dark, body that is too much light, lines black."""
    import cv2

    tiles = []
    for score, one, read in rows:
        tile = np.full((*one.body.shape, 3), 255, np.uint8)
        tile[(one.body > 0) & (read > 0)] = (200, 230, 200)
        tile[(one.body == 0) & (read > 0)] = (150, 150, 255)
        tile[(one.body > 0) & (read == 0)] = (255, 190, 120)
        share = 200 / max(tile.shape[:2])
        small = cv2.resize(tile, None, fx=share, fy=share, interpolation=cv2.INTER_AREA)
        framed = np.full((214, 200, 3), 255, np.uint8)
        framed[: small.shape[0], : small.shape[1]] = small
        cv2.putText(framed, f"{score:.2f} {one.name[:22]}", (2, 210), 0, 0.35, (0, 0, 0), 1)
        tiles.append(framed)
    rows_of = [np.hstack(tiles[at : at + 6]) for at in range(0, len(tiles) - len(tiles) % 6, 6)]
    cv2.imwrite(str(file), np.vstack(rows_of))


if __name__ == "__main__":
    main()
