"""Random changes of the core's code, each run against the tests of its room: how many are noticed.

    .venv/bin/python -m bench.mutations [--count 300] [--seed 1] [--rooms masks,ink]

Works on a copy of the tree; takes up to minutes a change and is no part of the ordinary run. What is not noticed is
printed with its place; tests that fail on the code as it stands decide nothing. What survives
changes no outcome, or a test is missing.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

HERE = Path(__file__).parents[1]
CORE = ("model", "shape", "laid", "ink", "edits", "packing", "intake", "scene", "masks", "backdrop", "colour", "sheets",
        "assembly", "files", "printing")  # fmt: skip
SWAPS: dict[type, type] = {
    ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.And: ast.Or, ast.Or: ast.And,
    ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip
TIMEOUT_S = 600


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


def tests_of(module: Path, root: Path) -> list[str]:
    """Tests of a module's room, and those that import the module."""
    name = ".".join(module.relative_to(root / "src").with_suffix("").parts)
    room = root / "tests" / module.parent.name
    found = sorted(room.glob("test_*.py")) if room.is_dir() else []
    for file in sorted((root / "tests").rglob("test_*.py")):
        if file not in found and "desk" not in file.parts and name in file.read_text():
            found.append(file)
    return [str(file.relative_to(root)) for file in found]


def fails(tests: list[str], root: Path) -> bool:
    """Whether any of some tests fails, or takes far too long."""
    paths = f"{root / 'src'}:{root / 'tests'}"
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *tests]
    try:
        done = subprocess.run(
            command,
            cwd=root,
            env=os.environ | {"PYTHONPATH": paths, "QT_QPA_PLATFORM": "offscreen"},
            capture_output=True,
            timeout=TIMEOUT_S,
            check=False,
        )
    except subprocess.TimeoutExpired:
        return True
    return done.returncode != 0


def main() -> None:
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("--count", type=int, default=300)
    words.add_argument("--seed", type=int, default=1)
    words.add_argument("--rooms", default=",".join(CORE))
    options = words.parse_args()
    dice, noticed, decided = random.Random(options.seed), 0, 0  # noqa: S311 - the same changes each time
    failing: dict[tuple[str, ...], bool] = {}
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder) / "tree"
        shutil.copytree(HERE, root, ignore=shutil.ignore_patterns(".venv", ".git", "__pycache__", ".*_cache"))
        rooms = options.rooms.split(",")
        modules = [file for room in rooms for file in sorted((root / "src/fair_thicket" / room).rglob("*.py"))]
        for number in range(options.count):
            module = dice.choice(modules)
            text = module.read_text()
            tree = ast.parse(text)
            some, tests = list(places(tree)), tests_of(module, root)
            if not some or not tests:
                continue
            if tuple(tests) not in failing:
                failing[tuple(tests)] = fails(tests, root)
            if failing[tuple(tests)]:  # nothing that is changed could be seen by them
                print(f"{number:4} UNDECIDED {module.name}: its tests fail as they stand", flush=True)
                continue
            node, field = dice.choice(some)
            line, done = getattr(node, "lineno", 0), change(node, field)
            module.write_text(ast.unparse(tree))
            is_noticed = fails(tests, root)
            module.write_text(text)
            decided, noticed = decided + 1, noticed + is_noticed
            place = module.relative_to(root / "src/fair_thicket")
            print(f"{number:4} {'noticed ' if is_noticed else 'SURVIVED'} {place}:{line}  {done}", flush=True)
    print(f"{noticed} of {decided} noticed: {noticed / max(1, decided):.0%}")


if __name__ == "__main__":
    main()
