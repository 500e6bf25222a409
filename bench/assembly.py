"""Heights, foam, schedules, pictures of steps: python -m bench.assembly."""

import time

import msgspec
import numpy as np

from bench.timing import tell
from fair_thicket.assembly import find_heights
from fair_thicket.assembly.foam import plan_foam
from fair_thicket.assembly.operation import After, Operation
from fair_thicket.assembly.picturing import picture_steps
from fair_thicket.assembly.scheduling import schedule
from fair_thicket.demo import CARD_FILE, CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Card, Work
from fair_thicket.model.derived import begin_with
from fair_thicket.model.pieces import Cutout, Form, Panel

PIECES, STEPS, PICTURES = 60, 120, 40


def float_of(dice: np.random.Generator, low: float, high: float) -> float:
    """Draw a number."""
    return float(dice.uniform(low, high))


def crowded() -> Work:
    """Make a card on which sixty cut images of the demo lie at three levels."""
    work, _ = open_card(CARD_FILE)
    dice = np.random.default_rng(5)
    images = [stamp.id for stamp in work.stash.stamps[:12]]
    pieces: list[Panel | Cutout] = [Panel("ground", Form("rectangle", 130, 98), 70, 54)]
    for n in range(PIECES - 1):
        x, y, turn = float_of(dice, 10, 130), float_of(dice, 10, 98), float_of(dice, 0, 360)
        lift = float(dice.choice([0.0, 1.6, 3.2]))
        pieces.append(Cutout(f"c-{n}", images[n % len(images)], x, y, turn, lift_mm=lift, margin_mm=1.0))
    return Work(Card(pieces=tuple(pieces)), work.stash)


def main() -> None:
    work = crowded()
    stack(work)
    begun = time.perf_counter()
    find_heights(work)
    print(f"  heights of {PIECES} pieces from nothing: {1000 * (time.perf_counter() - begun):.0f} ms")
    times = []
    for index in range(5, PIECES, 9):
        piece = msgspec.structs.replace(work.card.pieces[index], lift_mm=2.4)
        pieces = (*work.card.pieces[:index], piece, *work.card.pieces[index + 1 :])
        changed = Work(msgspec.structs.replace(work.card, pieces=pieces), work.stash)
        stack(begin_with(changed, work))
        begun = time.perf_counter()
        find_heights(changed)
        times.append(1000 * (time.perf_counter() - begun))
    tell(f"heights of {PIECES} pieces after one is raised, in the middle", sorted(times)[len(times) // 2], "ms", 80)
    heights = find_heights(work)
    begun = time.perf_counter()
    foam = plan_foam(work, heights)
    print(f"  foam for them: {len(foam.strips)} strips in {time.perf_counter() - begun:.2f} s")
    dice = np.random.default_rng(2)
    steps = []
    for n in range(STEPS):
        after = tuple(
            After(f"o{dice.integers(n)}", "so it is", float(dice.choice([0, 0, 5.0]))) for _ in range(min(n, 2))
        )
        tool = "abcde"[int(dice.integers(5))]
        steps.append(Operation(f"o{n}", "glue", f"do {n}", (), float_of(dice, 0.3, 3), tool, after))
    schedule(steps[:3])  # loads the solver
    begun = time.perf_counter()
    made = schedule(steps)
    tell(f"a schedule of {STEPS} steps", 1000 * (time.perf_counter() - begun), "ms", 2000)
    print(f"  {made.minutes:.1f} min, at least {made.bound:.1f}; {made.changes} changes of tool")
    card, pictures = open_card(CARD_FILES[2])
    ids = [piece.id for piece in card.card.pieces]
    landed = [frozenset(ids[: 1 + number * len(ids) // PICTURES]) for number in range(PICTURES)]
    begun = time.perf_counter()
    for _ in picture_steps(card, pictures, landed, dpi=150):
        pass
    tell(f"pictures of {PICTURES} steps", 1000 * (time.perf_counter() - begun), "ms", 3000)


if __name__ == "__main__":
    main()
