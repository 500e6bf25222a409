"""How true the outlines of open drawings are: overlap over union with what their coloured companions cover, by set.

    .venv/bin/python -m bench.silhouettes [--dpi 150,300,600] [--count 0] [--sets ph,solar] [--photo] [--worst FILE.png]

Closed by itself: how many would be as true if only what lines close in were filled.
"""

import argparse
import sys
import time
from collections.abc import Sequence
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests" / "reference"))


def main() -> None:
    from silhouette_truth import (
        SETS,
        Known,
        body_of,
        cases,
        closed_by_itself,
        known,
        overlap,
        pockets_are_right,
        scanned,
    )

    from fair_thicket.simulators.scanner import Glass

    words = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    words.add_argument("--dpi", default="300")
    words.add_argument("--count", type=int, default=0)
    words.add_argument("--sets", default="")
    words.add_argument("--photo", action="store_true")
    words.add_argument("--worst", type=Path)
    options = words.parse_args()
    worst: list[tuple[float, Known, np.ndarray]] = []
    if options.photo:
        _photograph(options.sets.split(",") if options.sets else SETS)
        return
    print(f"{'set':28} dpi drawings  by itself >= 0.9   now >= 0.9  >= 0.8  pockets right  in doubt, of wrong ones  ms")
    for dpi in (float(word) for word in options.dpi.split(",")):
        for name in options.sets.split(",") if options.sets else SETS:
            rows = []
            chance = np.random.default_rng(4)
            for seed, (key, is_broken) in enumerate(cases(name)[: options.count or None]):
                one = known(name, key, chance, is_broken=is_broken)
                if one is None:
                    continue
                start = time.perf_counter()
                image = scanned(one, Glass(dpi=dpi, dust=0, seed=seed))
                seconds = time.perf_counter() - start
                read = body_of(one, image)
                score = overlap(one, read)
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


def _photograph(sets: Sequence[str]) -> None:
    """Photograph every fourth drawing, six on a letter sheet, the camera tilted and turned by chance."""
    from silhouette_truth import Known, body_of, cases, known, overlap, photographed

    from fair_thicket.simulators.camera import Camera

    for name in sets:
        chance = np.random.default_rng(6)
        several: list[Known] = []
        for key, is_broken in cases(name)[::4]:
            one = known(name, key, chance, is_broken=is_broken)
            several += [one] if one is not None and max(one.size) < 60 else []
        scores = []
        for at in range(0, len(several), 6):
            tilt, swing, turned = (float(value) for value in chance.uniform((5, -12, -4), (20, 12, 4)))
            camera = Camera(tilt_deg=tilt, swing_deg=swing, turn_deg=turned, seed=at + 1)
            few = several[at : at + 6]
            images = photographed(few, (215.9, 279.4), camera)
            scores += [
                0.0 if image is None else overlap(one, body_of(one, image))
                for one, image in zip(few, images, strict=True)
            ]
        now = np.array(scores)
        print(f"{name:28} photo {len(now):6} {'':17} {(now >= 0.9).mean():12.0%} {(now >= 0.8).mean():7.0%}")


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
