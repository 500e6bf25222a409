"""A library of 10,000 images: opening, a keystroke of search, memory: python -m bench.library."""

import tempfile
import time
from pathlib import Path

import msgspec

from bench.scanning import peak_of
from bench.timing import best_of, tell
from fair_thicket.demo import CARD_FILE
from fair_thicket.files.card_file import open_card
from fair_thicket.library import open_library

COUNT = 10_000
ADJECTIVES = ("small", "old", "round", "sleepy", "mossy", "bright", "tall", "dusky", "merry", "quiet")


def fill(path: Path) -> None:
    work, pictures = open_card(CARD_FILE)
    stamps = work.stash.stamps
    library = open_library(path)
    batch = []
    for number in range(COUNT):
        stamp = stamps[number % len(stamps)]
        name = f"{ADJECTIVES[number % 10]} {stamp.name} {number}"
        tags = (ADJECTIVES[number // 10 % 10], f"box{number // 100}")
        batch.append(msgspec.structs.replace(stamp, name=name, set_name=f"set {number // 14}", tags=tags))
    for start in range(0, COUNT, 500):
        library.keep(batch[start : start + 500], pictures)
    library.close()


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "library.sqlite"
        begun = time.perf_counter()
        fill(path)
        print(f"{COUNT} images kept in {time.perf_counter() - begun:.1f} s, {path.stat().st_size / 1e6:.0f} MB")

        def start() -> None:
            library = open_library(path)
            library.search()
            library.close()

        tell("opening with the first 500 shown", best_of(5, start), "s", 1.0)
        library = open_library(path)
        for typed in ("s", "sn", "snail", "mossy fe", "box42", ""):
            keystroke = best_of(5, lambda typed=typed: library.search(typed)) * 1000
            tell(f"a keystroke of search, “{typed}”", keystroke, "ms", 50)
        library.close()
        script = (
            "import sys; from pathlib import Path; from fair_thicket.library import open_library; "
            "library = open_library(Path(sys.argv[1])); library.search(); library.search('s')"
        )
        tell("memory of a program that searches it", peak_of(script, path) / 1e6, "MB", 400)


if __name__ == "__main__":
    main()
