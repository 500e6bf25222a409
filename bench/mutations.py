"""Random changes of the core's code, each run against the tests that reach the changed line: how many are noticed.

    .venv/bin/pip install pytest-cov
    .venv/bin/python -m bench.mutations --measure FOLDER                        which test reaches which line (12 min)
    .venv/bin/python -m bench.outcomes --prepare FOLDER/cards                   what outcomes are looked at
    .venv/bin/python -m bench.mutations --from FOLDER [--count 300] [--seed 1]  the changes
        [--part 1/2] [--rooms masks,ink] [--only 3,17] [--also tests/a/test_b.py,...]

Works on a copy of the tree and is no part of the ordinary run. Each change has a dice of its own, so that the same
numbers are the same changes in every room that has not been edited since. What no test notices is held against what
the program makes of known cards (`bench.outcomes`): where all of it stays the same, to the byte, the change has "no
outcome"; else it SURVIVED, and a test is missing. Tests that fail on the code as it stands decide nothing.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple
from xml.etree import ElementTree as ET

HERE = Path(__file__).parents[1]
CORE = ("model", "shape", "laid", "ink", "edits", "packing", "intake", "scene", "masks", "backdrop", "colour", "sheets",
        "assembly", "files", "printing")  # fmt: skip
SWAPS: dict[type, type] = {
    ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.And: ast.Or, ast.Or: ast.And,
    ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip
TESTS_S = 60.0
"""Of the tests that reach a line, the quickest are run, up to so many seconds of them."""
SLOWER = 3.0
"""A change that makes its tests so many times slower is noticed."""
START_S = 40.0
OUTCOMES_S = 900.0
PYTEST = (sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider")


class Change(NamedTuple):
    """One change: its number, the file, the line, what stands there and what it becomes, the whole new text."""

    number: int
    module: Path
    lines: range
    words: str
    text: str


def places(tree: ast.Module) -> Iterator[tuple[ast.AST, str]]:
    """Yield what can be changed: nodes, and the field that holds the operator or the value."""
    inner = {id(node) for function in ast.walk(tree) if isinstance(function, ast.FunctionDef)
             for part in function.body for node in ast.walk(part)}  # fmt: skip
    for node in ast.walk(tree):
        if id(node) not in inner:
            continue
        if isinstance(node, ast.Compare) and type(node.ops[0]) in SWAPS:
            yield node, "ops"
        elif isinstance(node, ast.BinOp | ast.BoolOp) and type(node.op) in SWAPS:
            yield node, "op"
        elif isinstance(node, ast.Constant) and isinstance(node.value, bool | int | float):
            yield node, "value"


def change(node: ast.AST, field: str) -> str:
    """Change a node in place; returns what was done."""
    before = ast.unparse(node)
    if field == "ops" and isinstance(node, ast.Compare):
        node.ops[0] = SWAPS[type(node.ops[0])]()
    elif field == "op" and isinstance(node, ast.BinOp | ast.BoolOp):
        node.op = SWAPS[type(node.op)]()
    elif isinstance(node, ast.Constant):
        node.value = not node.value if isinstance(node.value, bool) else (node.value * 2 + 1)  # type: ignore[operator]
    return f"{before}  ->  {ast.unparse(node)}"


def change_number(number: int, seed: int, modules: list[Path]) -> Change:
    """Return the change of a number: another each time, the same for a seed."""
    dice = random.Random(f"{seed}:{number}")  # noqa: S311 - the same changes each time
    while True:
        module = dice.choice(modules)
        tree = ast.parse(module.read_text())
        some = list(places(tree))
        if some:
            break
    node, field = dice.choice(some)
    held = [part for part in ast.walk(tree) if isinstance(part, ast.stmt) and node in ast.walk(part)]
    first = min(held, key=lambda part: (part.end_lineno or part.lineno) - part.lineno)  # the statement it stands in
    line = getattr(node, "lineno", first.lineno)
    lines = range(first.lineno, line + 1)
    return Change(number, module, lines, change(node, field), ast.unparse(tree))


class Reached:
    """Which test reaches which line, and how long each takes, as measured once (`--measure`)."""

    def __init__(self, folder: Path) -> None:
        from coverage import CoverageData

        self._data = CoverageData(str(folder / "cov"))
        self._data.read()
        self._files = {file.split("src/fair_thicket/")[-1]: file for file in self._data.measured_files()}
        self.seconds = {
            f"{case.get('classname', '').replace('.', '/')}.py::{case.get('name')}": float(case.get("time", 1))
            for case in ET.parse(folder / "times.xml").iter("testcase")  # noqa: S314 - our own file
        }

    def tests_of(self, module: str, lines: range) -> list[str]:
        """Return the tests that reach a line (its statement, if the line itself is not known), quickest first."""
        known = self._data.contexts_by_lineno(self._files[module]) if module in self._files else {}
        contexts = known.get(lines[-1]) or [name for line in lines for name in known.get(line, ())]
        room = f"tests/{module.split('/', maxsplit=1)[0]}/"
        tests = {name.split("|")[0] for name in contexts if name}
        return sorted(tests, key=lambda test: (self.seconds.get(test, 1.0) * (1 if test.startswith(room) else 2), test))

    def tests_near(self, module: str) -> list[str]:
        """Return the tests that reach any line of a module: what is kept in memory is reached by the first only."""
        known = self._data.contexts_by_lineno(self._files[module]) if module in self._files else {}
        tests = {name.split("|")[0] for names in known.values() for name in names if name}
        return sorted(tests, key=lambda test: (not test.startswith(f"tests/{module.split('/', maxsplit=1)[0]}/"),
                                               self.seconds.get(test, 1.0), test))  # fmt: skip

    def within(self, tests: list[str], seconds: float) -> list[str]:
        """Return the first of some tests, as many as take so long."""
        chosen, spent = [], 0.0
        for test in tests:
            spent += self.seconds.get(test, 1.0)
            if chosen and spent > seconds:
                break
            chosen.append(test)
        return chosen


def failing(tests: list[str], root: Path, *, within_s: float) -> str | None:
    """Return the first of some tests that fails ("" if too slow or not loaded), or None."""
    paths = f"{root / 'src'}:{root / 'tests'}"
    try:
        done = subprocess.run(
            [*PYTEST, *tests],
            cwd=root,
            env=os.environ | {"PYTHONPATH": paths, "QT_QPA_PLATFORM": "offscreen"},
            capture_output=True,
            text=True,
            timeout=within_s,
            check=False,
        )
    except subprocess.TimeoutExpired:
        return ""
    if done.returncode == 0:
        return None
    names = [line.split(" ", 1)[1].split(" - ")[0] for line in done.stdout.splitlines() if line.startswith("FAILED")]
    return names[0] if names else ""


def measure(folder: Path) -> None:
    """Run all tests once, noting which reaches which line, and how long each takes."""
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "rc").write_text(f"[run]\nsource = fair_thicket\ndata_file = {folder / 'cov'}\n")
    words = ["-n", str((os.cpu_count() or 1) + 1), "--cov=fair_thicket", f"--cov-config={folder / 'rc'}",
             "--cov-context=test", "--cov-report=", f"--junitxml={folder / 'times.xml'}"]  # fmt: skip
    env = os.environ | {"COVERAGE_FILE": str(folder / "cov"), "QT_QPA_PLATFORM": "offscreen"}
    subprocess.run([sys.executable, "-m", "pytest", "-q", *words], cwd=HERE, env=env, check=False)


def has_outcome(root: Path, folder: Path, *, within_s: float) -> bool:
    """Whether the program, as it is in a tree, makes anything else of the known cards than it did (`told.json`)."""
    command = [sys.executable, "-m", "bench.outcomes", "--tell", str(folder / "cards"),
               "--against", str(folder / "told.json")]  # fmt: skip
    env = os.environ | {"PYTHONPATH": str(root / "src")}
    try:
        done = subprocess.run(command, cwd=root, env=env, capture_output=True, timeout=within_s, check=False)
    except subprocess.TimeoutExpired:
        return True
    return done.returncode != 0


def decide(made: Change, reached: Reached, root: Path, also: list[str], tells: Path | None) -> str:
    """Run a change against its tests; returns "noticed", "SURVIVED", "no outcome" or "undecided"."""
    module = str(made.module.relative_to(root / "src/fair_thicket"))
    tests = dict.fromkeys((*also, *reached.tests_of(module, made.lines), *reached.tests_near(module)))
    tests = reached.within(list(tests), TESTS_S)
    limit = START_S + SLOWER * sum(reached.seconds.get(test, 10.0) for test in tests)
    text = made.module.read_text()
    made.module.write_text(made.text)
    try:
        failed = failing(tests, root, within_s=limit)
        if failed is None and tells is not None:
            return "SURVIVED" if has_outcome(root, tells, within_s=OUTCOMES_S) else "no outcome"
    finally:
        made.module.write_text(text)
    if failed is None:
        return "SURVIVED"
    is_sound = failed == "" or failing([failed], root, within_s=START_S + limit) is None
    return "noticed" if is_sound else "undecided"


def options_of() -> argparse.Namespace:
    words = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    words.add_argument("--measure", type=Path)
    words.add_argument("--from", dest="folder", type=Path)
    words.add_argument("--count", type=int, default=300)
    words.add_argument("--seed", type=int, default=1)
    words.add_argument("--part", default="1/1")
    words.add_argument("--only", default="")
    words.add_argument("--also", default="")
    words.add_argument("--rooms", default=",".join(CORE))
    return words.parse_args()


def told_in(folder: Path) -> Path | None:
    """Return a folder whose outcomes are known, telling them first where they are not; None where none are wanted."""
    if not (folder / "cards").is_dir():
        return None
    if not (folder / "told.json").exists():
        command = [sys.executable, "-m", "bench.outcomes", "--tell", str(folder / "cards")]
        (folder / "told.json").write_bytes(subprocess.run(command, cwd=HERE, capture_output=True, check=True).stdout)
    return folder


def main() -> None:
    options = options_of()
    if options.measure:
        measure(options.measure.absolute())
        return
    part, parts = (int(word) for word in options.part.split("/"))
    numbers = [int(word) for word in options.only.split(",") if word] or list(range(options.count))
    also = [word for word in options.also.split(",") if word]
    answers: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder) / "tree"
        shutil.copytree(HERE, root, ignore=shutil.ignore_patterns(".venv", ".git", "__pycache__", ".*_cache"))
        reached, tells = Reached(options.folder.absolute()), told_in(options.folder.absolute())
        rooms = [root / "src/fair_thicket" / room for room in options.rooms.split(",")]
        files = [file for room in rooms for file in sorted(room.rglob("*.py"))]
        modules = [file for file in files if any(True for _ in places(ast.parse(file.read_text())))]
        for number in numbers[part - 1 :: parts]:
            made = change_number(number, options.seed, modules)
            answer = decide(made, reached, root, also, tells)
            answers[answer] += 1
            place = made.module.relative_to(root / "src/fair_thicket")
            print(f"{number:4} {answer:10} {place}:{made.lines[-1]}  {made.words}", flush=True)
    noticed, survived = answers["noticed"], answers["SURVIVED"]
    print(dict(answers))
    print(f"{noticed} of {noticed + survived} noticed: {noticed / max(1, noticed + survived):.0%}")


if __name__ == "__main__":
    main()
