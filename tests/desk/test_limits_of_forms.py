"""Every form keeps to the limits of the model: a value at the limit is taken, one beyond is refused at its field."""

import ast
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

import fair_thicket.desk
from fair_thicket.demo import CARD_FILES
from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.parts.form import Field, Form, Values
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Blend, Cutout
from fair_thicket.model.units import Unit
from hands import settle

DESK = Path(str(fair_thicket.desk.__file__)).parent
NUMBERS = {"length", "count", "angle", "share", "ratio"}
RICH = [file for file in CARD_FILES if file.stem in {"night-round", "fernside-post"}]
"""A card with pieces of every kind, and the one that opens first."""
BIT = {"count": 1.0, "share": 0.01}


def choices_of(work: Work) -> Iterator[frozenset[str]]:
    """Nothing, one piece of each kind that there is, and the wash with another piece."""
    yield frozenset()
    found = {type(piece): piece.id for piece in reversed(work.card.pieces)}
    yield from (frozenset({key}) for key in found.values())
    if Blend in found:
        yield frozenset({found[Blend], found[Cutout]})


def forms_of(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> dict[str, list[Field]]:
    """Fields of every form that some action asks with, by its title."""
    asked: dict[str, list[Field]] = {}

    def note(parent: object, title: str, fields: list[Field], **more: object) -> Values | None:
        del parent, more
        asked.setdefault(title, list(fields))
        return None

    for name, module in list(sys.modules.items()):
        if name.startswith("fair_thicket.desk") and hasattr(module, "ask"):
            monkeypatch.setattr(module, "ask", note)
    called = [record for record in window.actions_of.records if calls_form(record)]
    for file in RICH:
        assert window.session.open(file)
        settle(qtbot, window.session)  # some actions ask about the plan
        for chosen in choices_of(window.session.work):
            window.session.select(chosen)
            for record in called:
                if record.is_enabled():
                    record.call()
    return asked


def calls_form(record: Record) -> bool:
    """Whether an action asks by a form, as the names in its code say."""
    code = getattr(getattr(record.call, "__func__", record.call), "__code__", None)
    names = set(code.co_names) if code is not None else set()
    return bool(names & {"ask", "_ask", "_ask_width"})


def beyond(field: Field) -> list[tuple[float, bool]]:
    """Values to try, and whether each is taken."""
    assert field.limit is not None
    bit = BIT.get(field.kind, 0.1)
    low, high = field.limit.pair
    tried = [(low - bit, False), (low, not field.limit.is_open), (high, True), (high + bit, False)]
    return [(value, taken) for value, taken in tried if abs(value) < 9_000]


def typed(field: Field, value: float) -> str:
    unit = {"length": " mm", "share": " %"}.get(field.kind, "")
    return f"{100 * value if field.kind == 'share' else value:.10g}{unit}"


def test_every_number_of_every_form_is_taken_to_its_limit_and_refused_beyond(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    with monkeypatch.context() as asking:
        forms = forms_of(window, qtbot, asking)
    assert len(forms) >= 40
    tried = 0
    for title, fields in forms.items():
        form = Form(window, title, fields, unit=Unit.MM)
        for field in fields:
            if field.kind not in NUMBERS:
                continue
            assert field.limit is not None, f"{title}: “{field.words}” has no limit"
            line, begun = form.inputs[field.key], form._say(field)
            for value, is_taken in beyond(field):
                line.setText(typed(field, value))  # type: ignore[union-attr]
                told = form.told[field.key]
                assert told.isHidden() == is_taken, f"{title}: “{field.words}” {typed(field, value)}: {told.text()}"
                tried += 1
            line.setText(begun)  # type: ignore[union-attr]
    assert tried > 150


def test_no_limit_is_typed_in_a_widget() -> None:
    """Steppers take theirs from the model or from what makes the edit; fields of numbers always have one."""
    typed_in = []
    for file in DESK.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Name):
                continue
            name = node.func.id
            if name == "Stepper" and isinstance(bounds := node.args[1], ast.Tuple):
                most = bounds.elts[1]
                if isinstance(most, ast.Constant):
                    typed_in.append(f"{file.name}:{node.lineno}")
            numbers = [
                one.value for one in node.args[:2] if isinstance(one, ast.Constant) and one.value not in (0, 1, 2)
            ]
            if name == "named_limit" and any(not isinstance(value, str) for value in numbers):
                typed_in.append(f"{file.name}:{node.lineno}")
            kind = ast.unparse(node.args[2]).strip("'") if name == "Field" and len(node.args) > 2 else ""
            if kind in NUMBERS and not any(one.arg == "limit" for one in node.keywords):
                typed_in.append(f"{file.name}:{node.lineno}")
    assert not typed_in
