"""Presses and masks, and their rehearsal: python -m bench.planning."""

import random
import subprocess
import sys
import time

from bench.timing import alone, best_of, tell
from fair_thicket import masks
from fair_thicket.demo import CARD_FILE
from fair_thicket.files.card_file import open_card
from fair_thicket.masks.problem import Problem
from fair_thicket.masks.problem_of_card import pose_bare
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Impression
from fair_thicket.shape.outline import placed_outline


def like_demo(work: Work, count: int, seed: int) -> Problem:
    """Scatter the demo's images over a panel that is as densely covered as the demo card."""
    dice = random.Random(seed)  # noqa: S311 - any dice will do
    pieces = [piece for piece in work.card.pieces if isinstance(piece, Impression)]
    width, height = work.card.panel
    scale = (count / len(pieces)) ** 0.5
    rows = []
    for number in range(count):
        model = dice.choice(pieces)
        stamp = work.stash.find(model.stamp)
        x, y = dice.uniform(8, width * scale - 8), dice.uniform(8, height * scale - 8)
        placed = Impression(f"i{number}", stamp.id, x, y, dice.choice([0.0, 0.0, -8.0, 12.0]))
        rows.append((placed.id, stamp.id, tuple(map(tuple, placed_outline(placed, stamp))), ()))
    return pose_bare(rows, {})


def crowded(work: Work, count: int, seed: int) -> Work:
    """Scatter the demo's images over one A2 front."""
    dice = random.Random(seed)  # noqa: S311 - any dice will do
    pieces = [piece for piece in work.card.pieces if isinstance(piece, Impression)]
    width, height = work.card.panel
    made = []
    for number in range(count):
        x, y = dice.uniform(8, width - 8), dice.uniform(8, height - 8)
        made.append(Impression(f"i{number}", dice.choice(pieces).stamp, x, y, dice.choice([0.0, 0.0, -8.0, 12.0])))
    return Work(Card(pieces=tuple(made)), work.stash)


def bench_rehearsal(work: Work, pictures: dict[str, bytes]) -> None:
    """Rehearse 24 impressions on A2 at 300 dpi, step through them, let masks slip, price the other way."""
    full = crowded(work, 24, 1)
    plan = masks.plan(full)
    tell("rehearsal of 24 impressions on A2", best_of(3, lambda: masks.rehearse(full, pictures, plan)), "s", 1.5)
    papers = masks.rehearse(full, pictures, plan).papers
    step = best_of(3, lambda: [papers[index] for index in range(len(papers))]) / len(papers)
    tell("a step of its slider, without drawing it", step * 1000, "ms", 50)
    slips = best_of(2, lambda: masks.list_slips(full, pictures, plan))
    print(f"      slips of its {len(plan.masks)} masks take {slips:.2f} s, away from the interface")
    prices = best_of(1, lambda: masks.price_all(full, plan))
    mix = best_of(1, lambda: masks.find_mix(full))
    print(f"      prices of the other way take {prices:.2f} s, the quickest mix {mix:.2f} s, away from the interface")


def main() -> None:
    work, pictures = open_card(CARD_FILE)
    plan = masks.plan(work)
    print(f"demo card: {len(work.card.pieces)} impressions, {plan.press_count} presses, proven: {plan.optimal}")
    tell("plan of the demo card", best_of(5, lambda: masks.plan(alone(work))), "s", 0.5)
    tell("rehearsal of the demo card", best_of(3, lambda: masks.rehearse(alone(work), pictures, plan)), "s", 1.5)
    bench_rehearsal(work, pictures)
    for count, limit, scenes in ((12, 0.3, 12), (24, 2.0, 10), (40, 10.0, 6)):
        worst, proven = 0.0, 0
        for seed in range(scenes):
            problem = like_demo(work, count, seed)
            begun = time.perf_counter()
            made = masks.plan_problem(problem, seconds=limit)
            worst = max(worst, time.perf_counter() - begun)
            proven += made.optimal
        tell(f"plans of {count} impressions, the slowest of {scenes} ({proven} proven)", worst, "s", limit)
    for seed in range(2):
        begun = time.perf_counter()
        made = masks.plan_problem(like_demo(work, 100, seed), seconds=9.0)
        words = (
            f"100 impressions: {made.press_count} presses (at least {made.fewest_presses}), {made.careful_mm:.0f} mm "
            f"(at least {made.least_careful_mm:.0f})"
        )
        tell(words, time.perf_counter() - begun, "s", 10.0)
    bare = best_of(3, lambda: subprocess.run([sys.executable, "-c", "import ortools.sat.python.cp_model"], check=True))
    print(f"      loading the solver once takes {bare:.2f} s more, off the interface thread")


if __name__ == "__main__":
    main()
