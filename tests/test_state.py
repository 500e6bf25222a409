"""No module of the core keeps anything: the same call gives the same answer, whatever ran before."""

import ast
import importlib
import pkgutil
import random
from collections import deque
from collections.abc import Callable, Iterator
from pathlib import Path
from types import ModuleType

import msgspec
import numpy as np
import pytest

import fair_thicket
from fair_thicket import colour, masks, scene
from fair_thicket.demo import CARD_FILES
from fair_thicket.edits.pieces import move_to
from fair_thicket.engines import assemble
from fair_thicket.estimate.post import glued_height
from fair_thicket.files.card_file import open_card
from fair_thicket.ink.painting import paint
from fair_thicket.laid.heights import find_heights
from fair_thicket.laid.stack import stack
from fair_thicket.laid.visibility import see
from fair_thicket.model.card import Work, carried_by
from fair_thicket.model.derived import begin_with
from fair_thicket.sheets import plan_sheets
from fair_thicket.sheets.things import list_things

HOLD = (list, dict, set, deque, bytearray)
OF_A_CARD = {
    "Work", "Card", "Stash", "Stamp", "Piece", "AnyWash", "Wash", "Impression", "Cutout", "Border", "Panel", "Strip",
    "Embellishment", "Leaf", "View", "Laying", "ColouredPart", "MaskPlan",
}  # fmt: skip
PICTURES = {"data", "picture", "png"}
CHANGES = {
    "append", "extend", "insert", "remove", "pop", "clear", "add", "discard", "update", "setdefault", "appendleft",
}  # fmt: skip


def modules() -> Iterator[tuple[ModuleType, ast.Module]]:
    for found in pkgutil.walk_packages(fair_thicket.__path__, "fair_thicket."):
        if ".desk" not in found.name:
            module = importlib.import_module(found.name)
            yield module, ast.parse(Path(str(module.__file__)).read_text())


def names_of(tree: ast.Module) -> set[str]:
    """Names that a module binds itself."""
    found: set[str] = set()
    for node in tree.body:
        targets = node.targets if isinstance(node, ast.Assign) else [getattr(node, "target", None)]
        found |= {one.id for target in targets if target is not None for one in ast.walk(target)
                  if isinstance(one, ast.Name)}  # fmt: skip
    return found


def kept_by(tree: ast.Module) -> Iterator[str]:
    """What of a module keeps something between two calls."""
    names = names_of(tree)
    for node in ast.walk(tree):
        if isinstance(node, ast.Global):
            yield f"global {node.names}"
        if isinstance(node, ast.FunctionDef):
            yield from cached_by(node)
            yield from changed_by(node, names)


def cached_by(function: ast.FunctionDef) -> Iterator[str]:
    decorators = [ast.unparse(one) for one in function.decorator_list]
    if any("cache" in one and "cached_property" not in one for one in decorators):
        for one in [*function.args.args, *function.args.kwonlyargs]:
            words = {word.id for word in ast.walk(one) if isinstance(word, ast.Name)}
            if words & OF_A_CARD or (one.arg in PICTURES and "bytes" in words):
                yield f"{function.name} is cached by its {one.arg}"


def changed_by(function: ast.FunctionDef, names: set[str]) -> Iterator[str]:
    own = {one.id for one in ast.walk(function) if isinstance(one, ast.Name) and isinstance(one.ctx, ast.Store)}
    own |= {one.arg for one in ast.walk(function.args) if isinstance(one, ast.arg)}
    for one in ast.walk(function):
        changed: ast.expr | None = None
        if isinstance(one, ast.Call) and isinstance(one.func, ast.Attribute) and one.func.attr in CHANGES:
            changed = one.func.value
        elif isinstance(one, ast.Subscript) and isinstance(one.ctx, ast.Store | ast.Del):
            changed = one.value
        if isinstance(changed, ast.Name) and changed.id in names - own:
            yield f"{function.name} changes {changed.id}"


def test_no_table_of_the_core_can_be_written_to() -> None:
    loose = {
        f"{module.__name__}.{name}"
        for module, tree in modules()
        for name in names_of(tree)
        if not name.startswith("__")
        if isinstance(value := getattr(module, name, None), HOLD)
        or (isinstance(value, np.ndarray) and value.flags.writeable)
    }
    assert not loose


def test_no_function_of_the_core_keeps_anything_of_a_card() -> None:
    assert not [f"{module.__name__}: {word}" for module, tree in modules() for word in kept_by(tree)]


@pytest.mark.parametrize(
    ("code", "told"),
    [
        ("def f():\n    global N\n    N = 1", "global ['N']"),
        ("KEPT = x()\ndef f(card):\n    KEPT.append(card)", "f changes KEPT"),
        ("KEPT = x()\ndef f(card):\n    KEPT[card] = 1", "f changes KEPT"),
        ("@lru_cache(2)\ndef f(work: Work | None): ...", "f is cached by its work"),
        ("@cache\ndef f(data: bytes): ...", "f is cached by its data"),
    ],
)
def test_what_would_keep_something_is_told(code: str, told: str) -> None:
    assert list(kept_by(ast.parse(code))) == [told]


def answers(pictures: dict[str, bytes]) -> dict[str, Callable[[Work], object]]:
    """Calls of all engines, each with an answer that can be compared."""

    def plan(work: Work) -> object:
        return masks.plan_with_pins(work)[0]

    def assembly(work: Work) -> object:
        made = assemble(work, {"front": masks.plan_with_pins(work)[0]}, seconds=0.0)
        return [(one.key, one.words, one.minutes) for one in made.operations]

    return {
        "leaves": lambda work: [(leaf.key, leaf.area.wkb) for leaf in stack(work)],
        "sights": see,
        "heights": lambda work: [(one.key, one.top_mm, one.how) for one in find_heights(work).rests],
        "glued": glued_height,
        "scene": lambda work: scene.judge(work, remedies=False),
        "colour": colour.judge,
        "sheets planned": lambda work: [one.nesting.sheets for one in plan_sheets(work, seconds=0.0).stamping],
        "sheets": lambda work: [(one.key, one.size_mm) for one in list_things(work)],
        "plan": plan,
        "assembly": assembly,
        "picture": lambda work: paint(work, pictures, dpi=60).tobytes(),
    }


def portrait(work: Work) -> Work:
    """The same pieces on a panel of another shape: what ink is cut off at its edge is another."""
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, landscape=not work.card.landscape))


def without_the_first(work: Work) -> Work:
    """A card whose undermost piece is gone, with what lies on it."""
    first = work.card.pieces[0].id
    gone = {first, *carried_by(work.card.pieces, first)}
    kept = tuple(piece for piece in work.card.pieces if piece.id not in gone)
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=kept))


@pytest.mark.parametrize("change", [portrait, without_the_first])
@pytest.mark.parametrize("file", CARD_FILES, ids=lambda file: file.stem)
def test_a_card_that_begins_with_another_is_found_as_if_it_stood_alone(
    file: Path, change: Callable[[Work], Work]
) -> None:
    """Leaves, what is seen and heights, on the panel turned and with the undermost piece gone."""
    work, _ = open_card(file)
    for ask in (stack, see, find_heights):
        ask(work)
    changed = begin_with(change(work), work)
    alone = change(open_card(file)[0])
    assert [(leaf.key, leaf.area.wkb) for leaf in stack(changed)] == [
        (leaf.key, leaf.area.wkb) for leaf in stack(alone)
    ]
    assert see(changed) == see(alone)
    heights, own = find_heights(changed), find_heights(alone)
    assert [(one.key, one.top_mm, one.how) for one in heights.rests] == [(o.key, o.top_mm, o.how) for o in own.rests]


@pytest.mark.parametrize("file", CARD_FILES[:2], ids=lambda file: file.stem)
def test_the_same_call_gives_the_same_answer_in_any_order_of_calls(file: Path) -> None:
    """Two cards, one made from the other, are asked in orders drawn by chance, and each alone from its file anew."""
    whole, pictures = open_card(file)
    asked = answers(pictures)
    first = whole.card.pieces[-1].id

    def moved(work: Work) -> Work:
        return move_to(work, first, (60.0, 60.0))

    fresh = {name: (ask(open_card(file)[0]), ask(moved(open_card(file)[0]))) for name, ask in asked.items()}
    dice = random.Random(4)
    for _ in range(2):
        one = msgspec.structs.replace(whole)
        other = begin_with(moved(one), one)
        calls = [(name, side) for name in asked for side in (0, 1)]
        dice.shuffle(calls)
        for name, side in calls:
            assert asked[name]((one, other)[side]) == fresh[name][side], (name, side)
