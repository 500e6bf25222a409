"""How long a maker waits for the shell: whole processes on the demo cards and the eighteen compositions.

    .venv/bin/python -m bench.shell [--against SRC]

With --against the same words are run on another tree's `src` in turn, and told beside each other.
"""

import argparse
import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import save_card

HERE = Path(__file__).parents[1]
sys.path.insert(0, str(HERE / "tests"))
BOUNDS = {"advice": 3.0, "rehearse": 4.0, "print": 2.5, "--version": 0.15}


def run(words: list[str], source: Path) -> float:
    """Wall time of one process, seconds."""
    start = time.perf_counter()
    environment = os.environ | {"PYTHONPATH": str(source)}
    subprocess.run([sys.executable, "-m", "fair_thicket", *words], env=environment, capture_output=True, check=True)
    return time.perf_counter() - start


def main() -> None:
    from cases import CASES
    from making import drawn_for

    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("--against", type=Path)
    options = words.parse_args()
    sources = [HERE / "src", *([options.against] if options.against else [])]
    with tempfile.TemporaryDirectory() as folder:
        cards = [str(file) for file in CARD_FILES]
        for case in CASES:
            work = case()
            cards.append(f"{folder}/{case.__name__}.thicket")
            save_card(Path(cards[-1]), work, drawn_for(work))
        for word, bound in BOUNDS.items():
            found: list[list[float]] = [[] for _ in sources]
            for card in cards if word != "--version" else cards[:9]:
                more = {"rehearse": ["-o", f"{folder}/r"], "print": ["-o", f"{folder}/p.pdf"]}.get(word, [])
                for times, source in zip(found, sources, strict=True):
                    times.append(run([word, *([card] if word != "--version" else []), *more], source))
            told = "; ".join(f"median {statistics.median(times):.2f}, most {max(times):.2f} s" for times in found)
            print(f"{word:10} {told} (at most {bound:g})", flush=True)


if __name__ == "__main__":
    main()
