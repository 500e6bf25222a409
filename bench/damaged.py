"""Cards changed by chance, before every word of the shell: time, memory, and whether what opens can be saved.

    .venv/bin/python -m bench.damaged [--count 1000] [--first 0] [--cards tests|demo]

A card is changed in one to three places until it opens (`tests/test_damaged.py`). Then each word is said in a child
of its own process: over 20 s or 1 GB, a traceback, more than one line of trouble, or a card that opens and cannot be
saved, is told with the number that it comes back by.
"""

import argparse
import contextlib
import io
import json
import os
import random
import resource
import sys
import tempfile
import time
import traceback
import zipfile
from pathlib import Path

HERE = Path(__file__).parents[1]
sys.path[:0] = [str(HERE / "tests")]

import test_damaged  # noqa: E402
from cases import CASES  # noqa: E402
from fair_thicket.cli import main as say  # noqa: E402
from fair_thicket.demo import CARD_FILES  # noqa: E402
from fair_thicket.files.card_file import open_card, save_card  # noqa: E402
from making import pictures_of  # noqa: E402

MOST_S, MOST_MB = 20.0, 1024.0


def words_for(card: Path, folder: Path) -> list[list[str]]:
    """Return the words that are said over each card."""
    some = [
        ["masks", card], ["visible", card], ["advice", card], ["rehearse", card, "-o", folder / "r"],
        ["print", card, "-o", folder / "c.pdf"], ["render", card, "-o", folder / "c.png", "--dpi", "60"],
        ["sheets", card, "-o", folder / "s", "--seconds", "0"], ["assemble", card],
        ["colour", card, "-o", folder / "d.thicket"],
    ]  # fmt: skip
    return [[str(word) for word in words] for words in some]


def whole_cards(kind: str, folder: Path) -> list[dict[str, bytes]]:
    """Return the files that are changed, as their parts."""
    files = list(CARD_FILES)
    if kind == "tests":
        works = [test_damaged._work(), *(make() for make in CASES)]
        files = [folder / f"{number}.thicket" for number in range(len(works))]
        for file, work in zip(files, works, strict=True):
            save_card(file, work, pictures_of(work))
    parts = []
    for file in files:
        with zipfile.ZipFile(file) as archive:
            parts.append({name: archive.read(name) for name in archive.namelist()})
    return parts


def changed(number: int, parts: dict[str, bytes], folder: Path) -> Path | None:
    """Return a changed card that opens, or None where no change of sixty does."""
    dice = random.Random(number)  # noqa: S311 - the same changes each time
    for _ in range(60):
        document = json.loads(parts["card.json"])
        test_damaged._mutate(document, dice)
        card = test_damaged._pack(folder / "c.thicket", parts | {"card.json": json.dumps(document).encode()})
        if not test_damaged._refusal(card):
            return card
    return None


def say_all(card: Path, folder: Path) -> list[str]:
    """Say every word over a card; returns what is wrong."""
    wrong = []
    started = time.monotonic()
    work, pictures = open_card(card)
    save_card(folder / "again.thicket", work, pictures)
    if open_card(folder / "again.thicket")[0] != work:
        wrong.append("save: another card")
    if (took := time.monotonic() - started) > MOST_S:
        wrong.append(f"save: {took:.0f} s")
    for words in words_for(card, folder):
        told, started = io.StringIO(), time.monotonic()
        with contextlib.redirect_stderr(told), contextlib.redirect_stdout(io.StringIO()):
            done = say(words)
        took, text = time.monotonic() - started, told.getvalue()
        if done not in (0, 1) or (done and not (text.startswith("fair-thicket: ") and text.count("\n") == 1)):
            wrong.append(f"{words[0]}: {done} {text[-300:]}")
        if took > MOST_S:
            wrong.append(f"{words[0]}: {took:.0f} s")
    return wrong


def in_a_child(number: int, parts: dict[str, bytes], folder: Path) -> bool | None:
    """Try one changed card in a process of its own; returns whether all is well, None where none opens."""
    read, write = os.pipe()
    child = os.fork()
    if not child:
        answer = ["died"]
        try:
            card = changed(number, parts, folder)
            answer = ["closed"] if card is None else say_all(card, folder)
        except BaseException:
            answer = [traceback.format_exc()[-600:]]
        most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        if most > MOST_MB:
            answer.append(f"{most:.0f} MB")
        os.write(write, json.dumps(answer).encode())
        os._exit(0)
    os.close(write)
    with os.fdopen(read) as pipe:
        told = pipe.read()
    os.waitpid(child, 0)
    answer = json.loads(told or '["died"]')
    if answer == ["closed"]:
        return None
    for line in answer:
        print(f"{number:5} {line}", flush=True)
    return not answer


def main() -> None:
    words = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    words.add_argument("--count", type=int, default=1000)
    words.add_argument("--first", type=int, default=0)
    words.add_argument("--cards", choices=["tests", "demo"], default="tests")
    options = words.parse_args()
    answers: list[bool | None] = []
    with tempfile.TemporaryDirectory() as folder:
        parts = whole_cards(options.cards, Path(folder))
        for number in range(options.first, options.first + options.count):
            answers.append(in_a_child(number, parts[number % len(parts)], Path(folder)))
            if len(answers) % 50 == 0:
                print(f"{len(answers)} cards, {answers.count(False)} with trouble", flush=True)
    print(f"{len(answers)} cards: {answers.count(True)} well, {answers.count(False)} not, {answers.count(None)} closed")


if __name__ == "__main__":
    main()
