"""Sheets: images nested, dies on plates, rectangles from stock: python -m bench.sheets."""

import time

import numpy as np
import shapely

from bench.timing import tell
from fair_thicket.demo import CARD_FILE
from fair_thicket.files.card_file import open_card
from fair_thicket.packing.layouts import Nesting, NestPiece
from fair_thicket.packing.nesting import nest
from fair_thicket.packing.passes import plan_passes
from fair_thicket.packing.stock import StockPiece, StockSheet, plan_cuts
from fair_thicket.shape.outline import to_area

LETTER = (279.4, 215.9)


def float_of(dice: np.random.Generator, low: float, high: float) -> float:
    """Draw a length."""
    return float(dice.uniform(low, high))


def images(count: int) -> list[NestPiece]:
    """Images of the demo with a die's margin, again and again until there are so many."""
    work, _ = open_card(CARD_FILE)
    found = []
    for number in range(count):
        stamp = work.stash.stamps[number % 13]
        area = max(shapely.get_parts(to_area(stamp.outline).buffer(1.6)), key=lambda part: part.area)
        found.append(NestPiece(f"{stamp.id}-{number}", tuple(map(tuple, area.exterior.coords[:-1]))))
    return found


def main() -> None:
    pieces = images(24)
    nest(pieces[:2], LETTER, seconds=0.0)  # loads what is needed
    begun = time.perf_counter()
    came: list[tuple[float, Nesting]] = []
    made = nest(
        pieces, LETTER, gap_mm=1.0, seconds=1.9, told=lambda one: came.append((time.perf_counter() - begun, one))
    )
    tell("24 images, the first layout", came[0][0] * 1000, "ms", 300)
    tell("24 images nested", (time.perf_counter() - begun) * 1000, "ms", 2000)
    print(f"  {len(made.sheets)} sheets, bound {made.bound}; {came[0][1].sheets[0].used_mm:.0f} mm, then "
          f"{made.sheets[0].used_mm:.0f} mm of the width taken")  # fmt: skip
    dice = np.random.default_rng(1)
    dies = [
        NestPiece(f"{n}", ((0, 0), (w, 0), (w, h), (0, h)), int(dice.choice([1, 1, 2])))
        for n, (w, h) in enumerate((float_of(dice, 20, 80), float_of(dice, 20, 60)) for _ in range(12))
    ]
    begun = time.perf_counter()
    passes = plan_passes(dies, (152.4, 222.25), seconds=0.4)
    tell("12 dies on plates", (time.perf_counter() - begun) * 1000, "ms", 500)
    print(f"  {len(passes.passes)} passes, bound {passes.bound}")
    sheet = StockSheet("letter", 215.9, 279.4)
    plan_cuts([sheet], [StockPiece("base", 107.95, 279.4, 2)])  # loads the solver
    proven = 0
    longest = 0.0
    for seed in range(10):
        dice = np.random.default_rng(seed)
        wanted = [StockPiece(f"{n}", float_of(dice, 30, 140), float_of(dice, 30, 140)) for n in range(20)]
        begun = time.perf_counter()
        proven += plan_cuts([sheet], wanted, seconds=1.8).is_fewest
        longest = max(longest, time.perf_counter() - begun)
    tell("20 unlike rectangles from stock, the longest of ten", longest * 1000, "ms", 2000)
    print(f"  {proven} of 10 proven")
    kinds = [("base", 107.95, 279.4), ("mat", 104.775, 136.525), ("panel", 101.6, 133.35), ("strip", 25.4, 101.6)]
    begun = time.perf_counter()
    card = plan_cuts([sheet], [StockPiece(name, w, h, 5) for name, w, h in kinds], seconds=1.8)
    tell("20 rectangles of four kinds", (time.perf_counter() - begun) * 1000, "ms", 2000)
    print(f"  {len(card.sheets)} sheets, {'proven' if card.is_fewest else 'not proven'}")
    dice = np.random.default_rng(9)
    wanted = [StockPiece(f"{n}", float_of(dice, 30, 140), float_of(dice, 30, 140)) for n in range(60)]
    begun = time.perf_counter()
    plan = plan_cuts([sheet], wanted, seconds=9.0)
    tell("60 rectangles from stock", (time.perf_counter() - begun) * 1000, "ms", 10_000)
    print(f"  {len(plan.sheets)} sheets, bound {plan.bound}")


if __name__ == "__main__":
    main()
