"""A small form: a few fields, a line that says what will come of them, and the arithmetic done while typing."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import msgspec
from PySide6.QtCore import QSize
from PySide6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QFormLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from fair_thicket.desk.parts.controls import label
from fair_thicket.desk.parts.ink_choice import SIDE_PX, swatch
from fair_thicket.ink.naming import say_colour
from fair_thicket.model.declared import Limit, limit_of, value_at
from fair_thicket.model.errors import InputError, ThicketError
from fair_thicket.model.units import Unit, parse_length, say_length


class Values(dict[str, object]):
    """What a form was filled in with, by the keys of its fields."""

    def number(self, key: str) -> float:
        """Return a length in mm, an angle, a share or another number."""
        value = self[key]
        if not isinstance(value, int | float):
            raise TypeError(f"{key} is no number")
        return float(value)

    def whole(self, key: str) -> int:
        """Return a count, or the index of a choice."""
        return round(self.number(key))

    def text(self, key: str) -> str:
        """Return words, or the code of a colour."""
        return str(self[key])


TOLD_MM = 0.06

YES_NO = ("no", "yes")


class Field(NamedTuple):
    """One field.

    Attributes
    ----------
    key, words : str
        Its name in the values, and what the maker reads.
    kind : str
        ``length`` (mm), ``count``, ``angle`` (degrees), ``share`` (in per cent), ``ratio``, ``words``, ``choice``,
        ``colour``.
    value : object
        What it begins with: mm, a number, words, the index of a choice, or the code of a colour.
    options : sequence of str, or of (name, code)
        For a choice; for a colour.
    limit : Limit or None
        Of a number, as the model declares it: what lies beyond is refused beside the field.
    """

    key: str
    words: str
    kind: str
    value: object
    options: Sequence[str] | Sequence[tuple[str, str]] = ()
    limit: Limit | None = None


def field_of(thing: msgspec.Struct, path: str, words: str, kind: str = "length") -> Field:
    """Return a field for a number that a struct holds, with what it is now and its limit; its key is the path's end."""
    return Field(path.rpartition(".")[2], words, kind, value_at(thing, path), limit=limit_of(type(thing), path))


class Form(QDialog):
    """Asks for values.

    Parameters
    ----------
    tell : callable of values
        Says what will come of them; raises ThicketError with the reason why nothing can.

    Attributes
    ----------
    inputs : dict of str to QLineEdit or QComboBox
    note : QLabel
    buttons : QDialogButtonBox
    """

    def __init__(
        self,
        parent: QWidget | None,
        title: str,
        fields: Sequence[Field],
        *,
        unit: Unit,
        tell: Callable[[Values], str] = lambda _: "",
        done: str = "Add",
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(360)
        self._fields, self._unit, self._tell = fields, unit, tell
        self.inputs: dict[str, QLineEdit | QComboBox] = {}
        self.told: dict[str, QLabel] = {}
        self._taken = Values()
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(10)
        box.addWidget(label(title, "heading"))
        form = QFormLayout()
        form.setVerticalSpacing(7)
        for field in fields:
            made = self._input(field)
            made.setAccessibleName(field.words)
            self.inputs[field.key] = made
            told = self.told[field.key] = label("", "wrong", wrap=True)
            told.hide()
            cell = QVBoxLayout()
            cell.setSpacing(2)
            cell.addWidget(made)
            cell.addWidget(told)
            form.addRow(label(field.words), cell)
        box.addLayout(form)
        self.note = label("", "soft", wrap=True)
        self.note.setMinimumHeight(36)
        box.addWidget(self.note)
        self.buttons = QDialogButtonBox()
        self._ok = self.buttons.addButton(done, QDialogButtonBox.ButtonRole.AcceptRole)
        self._ok.setObjectName("primary")
        self.buttons.addButton("Not now", QDialogButtonBox.ButtonRole.RejectRole)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        box.addWidget(self.buttons)
        self._look()

    def _input(self, field: Field) -> QLineEdit | QComboBox:
        if field.kind == "choice":
            choice = QComboBox()
            choice.addItems([str(one) for one in field.options])
            choice.setCurrentIndex(int(str(field.value)))
            choice.currentIndexChanged.connect(self._look)
            return choice
        if field.kind == "colour":
            choice = QComboBox()
            choice.setIconSize(QSize(SIDE_PX, SIDE_PX))
            for one in field.options:
                choice.addItem(swatch(one[1]), one[0], one[1])
            if choice.findData(field.value) < 0:
                choice.insertItem(0, swatch(str(field.value)), say_colour(str(field.value)), field.value)
            choice.setCurrentIndex(choice.findData(field.value))
            choice.currentIndexChanged.connect(self._look)
            return choice
        line = QLineEdit(self._say(field))
        line.textChanged.connect(self._look)
        return line

    def _say(self, field: Field) -> str:
        if field.kind == "length":
            length = float(str(field.value))
            words = say_length(length, self._unit)
            try:  # what a ruler's sixteenths do not tell is said in mm, so that it reads back as it was
                is_told = abs(parse_length(words, self._unit) - length) < TOLD_MM
            except InputError:
                is_told = False
            return words if is_told else f"{round(length, 2):g} mm"
        if field.kind == "share":
            return f"{float(str(field.value)) * 100:g} %"
        if field.kind == "angle":
            return f"{float(str(field.value)):g}°"
        return f"{field.value:g}" if isinstance(field.value, float) else str(field.value)

    def values(self) -> Values:
        """Read the fields.

        Raises
        ------
        ThicketError
            For what cannot be read.
        """
        wrong: dict[str, ThicketError] = {}
        values = Values()
        for field in self._fields:
            try:
                values[field.key] = self._read(field)
            except ThicketError as problem:
                wrong[field.key] = problem
        for key, told in self.told.items():
            told.setText(str(wrong[key]) if key in wrong else "")
            told.setVisible(key in wrong)
        if wrong:
            raise next(iter(wrong.values()))
        return values

    @property
    def taken(self) -> Values:
        """What was in the fields when the form was taken."""
        return self._taken

    def accept(self) -> None:
        """Take what is in the fields; where something cannot be read it is said beside its field."""
        try:
            values = self.values()
            self._tell(values)
        except ThicketError:
            self._look()
            return
        self._taken = values
        super().accept()

    def _read(self, field: Field) -> object:
        made = self.inputs[field.key]
        if isinstance(made, QComboBox):
            return made.currentData() if field.kind == "colour" else made.currentIndex()
        words = made.text()
        if field.kind == "words":
            return words.strip()
        value = parse_length(words, self._unit) if field.kind == "length" else _number(words, field)
        if field.limit is not None:
            field.limit.check(value)
        return value

    def _look(self) -> None:
        try:
            words = self._tell(self.values())
        except ThicketError as problem:
            beside = any(not told.isHidden() for told in self.told.values())
            self.note.setText("" if beside else str(problem))
            self._ok.setEnabled(False)
        else:
            self.note.setText(words)
            self._ok.setEnabled(True)


def _number(words: str, field: Field) -> float:
    plain = words.replace("%", "").replace("°", "").replace(",", ".").replace("−", "-").strip()
    try:
        value = float(plain)
    except ValueError:
        value = float("nan")
    if not abs(value) <= 10_000:
        raise InputError(f"“{words[:20]}” is no number for “{field.words}”; type one such as {_example(field)}.")
    if field.kind == "count":
        if value != int(value):
            raise InputError(f"“{words[:20]}” is not a whole number; type one such as 5.")
        return int(value)
    return value / 100 if field.kind == "share" else value


def _example(field: Field) -> str:
    return {"count": "5", "angle": "12", "share": "35 %"}.get(field.kind, "4.5")


def ask(
    parent: QWidget | None,
    title: str,
    fields: Sequence[Field],
    *,
    unit: Unit,
    tell: Callable[[Values], str] = lambda _: "",
    done: str = "Add",
) -> Values | None:
    """Ask for values; None when the maker does not want to after all."""
    form = Form(parent, title, fields, unit=unit, tell=tell, done=done)
    taken = form.exec()
    values = form.taken if taken else None
    form.deleteLater()
    return values
