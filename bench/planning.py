"""Presses and masks of the demo card, solver's loading included: python -m bench.planning."""

import subprocess
import sys

from bench.timing import best_of, tell
from fair_thicket import masks
from fair_thicket.demo import CARD_FILE
from fair_thicket.files.card_file import open_card


def main() -> None:
    work, pictures = open_card(CARD_FILE)
    plan = masks.plan(work)
    print(f"{len(work.card.pieces)} impressions, {len(plan.presses)} presses, proven: {plan.optimal}")
    tell("plan of the demo card", best_of(5, lambda: masks.plan(work)), "s", 0.5)
    tell("rehearsal of the demo card", best_of(3, lambda: masks.rehearse(work, pictures, plan)), "s", 1.5)
    bare = best_of(3, lambda: subprocess.run([sys.executable, "-c", "import ortools.sat.python.cp_model"], check=True))
    print(f"      loading the solver once takes {bare:.2f} s more, off the interface thread")


if __name__ == "__main__":
    main()
