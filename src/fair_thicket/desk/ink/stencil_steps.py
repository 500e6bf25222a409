"""Stepping a stencil over a wash: which stencil, how many lays, how far up, in which inks; the moves told as made."""

from collections.abc import Sequence

import msgspec
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from fair_thicket.backdrop.stencils import FAR_MM, MOST_LAYS, Stepping, least_between, step_stencil
from fair_thicket.desk.ink.stencil_view import StencilView
from fair_thicket.desk.parts.controls import Column, Stepper, button, label, taking_row
from fair_thicket.desk.parts.ink_choice import InkChoice
from fair_thicket.desk.session.background import Worker
from fair_thicket.ink.naming import say_colour
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import InputError, PaperError
from fair_thicket.model.moves import moves_of, say_move
from fair_thicket.model.pieces import WASH, AnyThrough, AnyWash, Stencilled, Through, as_kind
from fair_thicket.model.stash import Kind, Stamp
from fair_thicket.model.supplies import Ink
from fair_thicket.model.units import parse_length, say_length

INKS = 4
FIRST_RISE_MM, FIRST_REACH_MM = 15.875, 19.05
MOST_RISE_MM, MOST_REACH_MM = 200.0, 300.0


def stencils_of(work: Work) -> list[Stamp]:
    """Things of the stash that can be stepped: stencils, and borders whose edge is used as one."""
    kinds = {Kind.STENCIL, Kind.BORDER}
    return sorted((one for one in work.stash.stamps if one.kind in kinds), key=lambda one: one.kind is Kind.BORDER)


class StencilSteps(QDialog):
    """Asks how a stencil is stepped over a wash.

    Attributes
    ----------
    view : StencilView
    stencil : QComboBox
    inks : list of InkChoice
    lays : Stepper
    rise, reach : QLineEdit
    told : QLabel
        The moves, and how far the outlines keep out of line.
    worker : Worker
    """

    def __init__(self, work: Work, piece: AnyWash, parent: QWidget | None = None, *, own: Sequence[Ink] = ()) -> None:
        super().__init__(parent)
        self._work, self._unit = work, work.card.unit
        piece = piece if isinstance(piece, Through) else as_kind(piece, Stencilled)
        self._stencils = stencils_of(work)
        self.setWindowTitle("Step a stencil")
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(8)
        box.addWidget(label(f"Step a stencil over the {name_pieces(work)[piece.id]}", "heading"))
        words = (
            "Drag a number, or use the arrow keys; space turns the stencil over, comma and full stop choose a lay, a "
            "click tapes an opening."
        )
        box.addWidget(label(words, "soft", wrap=True))
        row = QHBoxLayout()
        row.setSpacing(14)
        self.view = StencilView(work, piece)
        row.addWidget(self.view, 1)
        row.addWidget(self._make_form(piece, own))
        box.addLayout(row, 1)
        box.addLayout(self._make_buttons())
        self.worker = Worker(self)
        self.worker.done.connect(self._take_steps)
        self.worker.failed.connect(self._refuse)
        self.worker.busyChanged.connect(self._show_busy)
        self.view.changed.connect(self._tell)
        self.finished.connect(lambda _: self.worker.close())
        if piece.lays and piece.stencil:
            self._tell()
        else:
            self.step()
        self.resize(1010, 660)

    def _make_form(self, piece: AnyThrough, own: Sequence[Ink]) -> QWidget:
        pane = QWidget()
        pane.setFixedWidth(292)
        column = QVBoxLayout(pane)
        column.setContentsMargins(0, 0, 0, 0)
        form = QFormLayout()
        form.setVerticalSpacing(7)
        self.stencil = QComboBox()
        self.stencil.addItems([one.name for one in self._stencils])
        self.stencil.setCurrentIndex(self._first_stencil(piece))
        self.stencil.currentIndexChanged.connect(lambda _: self.step())
        form.addRow(label("Stencil or edge"), self.stencil)
        self.lays = Stepper("Lays", (2, MOST_LAYS), 1, lambda value: f"{value:g}", lambda _: self.step())
        self.lays.show_value(max(2, len(piece.lays) or 3))
        form.addRow(label("Lays"), self.lays)
        rise = piece.lays[0].y - piece.lays[1].y if len(piece.lays) > 1 else FIRST_RISE_MM
        self.rise = self._length(rise, "Up from lay to lay")
        form.addRow(label("Up each time"), self.rise)
        self.reach = self._length(piece.reach_mm or FIRST_REACH_MM, "Ink fades out over")
        form.addRow(label("Ink fades over"), self.reach)
        self.inks = [self._ink(piece, number, own) for number in range(INKS)]
        for number, choice in enumerate(self.inks):
            form.addRow(label(f"Ink {number + 1}"), choice)
        column.addLayout(form)
        told = Column(margin=0)
        self.told = label("", wrap=True)
        told.box.insertWidget(0, self.told)
        column.addWidget(told, 1)
        for field, made in (("Stencil or edge", self.stencil), ("Lays", self.lays)):
            made.setAccessibleName(field)
        return pane

    def _first_stencil(self, piece: AnyThrough) -> int:
        """Return the wash's own stencil, or the first that reaches across it."""
        own = [index for index, one in enumerate(self._stencils) if one.id == piece.stencil]
        wide = [index for index, one in enumerate(self._stencils) if one.width_mm >= piece.form.width_mm]
        return (own or wide or [0])[0]

    def _length(self, value: float, words: str) -> QLineEdit:
        made = QLineEdit(say_length(value, self._unit))
        made.setAccessibleName(words)
        made.editingFinished.connect(self._take_typed)
        return made

    def _ink(self, piece: AnyThrough, number: int, own: Sequence[Ink]) -> InkChoice:
        """Choose an ink: it is used for this lay, and again after the last."""
        used = list(dict.fromkeys(lay.ink for lay in piece.lays if lay.ink)) or [piece.colour or WASH]
        choice = InkChoice(f"Ink {number + 1}", own, used)
        choice.show_colour(used[number] if number < len(used) else "")
        choice.currentIndexChanged.connect(lambda _: self._reink())
        return choice

    def _make_buttons(self) -> QHBoxLayout:
        self._best = button("Step it out of line", self.step, tip="Outlines keep as far out of line as may be")
        over = button("Turn this lay over", self.view.turn_over, tip="Space")
        row, self._done = taking_row(self, self._best, over)
        return row

    # -- what is asked -------------------------------------------------------------------------------------------

    @property
    def piece(self) -> AnyThrough:
        """The wash as it is now."""
        return self.view.laid

    def _chosen_inks(self) -> list[str]:
        return [choice.colour for choice in self.inks if choice.colour]

    def _typed(self, line: QLineEdit, most_mm: float) -> float:
        value = parse_length(line.text(), self._unit)
        if abs(value) > most_mm:
            raise InputError(f"“{line.text()}” is too far; {say_length(most_mm, self._unit)} is the most.")
        return value

    def _take_typed(self) -> None:
        """Take over what was typed, where something was."""
        try:
            rise, reach = self._typed(self.rise, MOST_RISE_MM), self._typed(self.reach, MOST_REACH_MM)
        except InputError as problem:
            self._refuse(str(problem))
            return
        lays = self.piece.lays
        is_new_rise = len(lays) < 2 or abs(lays[0].y - lays[1].y - rise) > 0.4
        if abs(self.piece.reach_mm - max(0.0, reach)) > 0.4:
            self.view.show_piece(msgspec.structs.replace(self.piece, reach_mm=max(0.0, reach)))
        if is_new_rise:
            self.step()
        else:
            self._tell()

    def step(self) -> None:
        """Step the stencil as asked, out of line; worked out elsewhere."""
        try:
            if not self._stencils:
                raise PaperError("There is no stencil and no border in the stash; bring one in first.")
            rise, reach = self._typed(self.rise, MOST_RISE_MM), max(0.0, self._typed(self.reach, MOST_REACH_MM))
        except (InputError, PaperError) as problem:
            self._refuse(str(problem))
            return
        stamp, count, inks = self._stencils[self.stencil.currentIndex()], int(self.lays.value), self._chosen_inks()
        taped = self.piece.taped if stamp.id == self.piece.stencil else ()
        piece = msgspec.structs.replace(self.piece, stencil=stamp.id, reach_mm=reach, taped=taped, lays=())
        unit = self._unit
        self.worker.ask(lambda: (piece, step_stencil(stamp, piece, count, rise, inks=inks, unit=unit)))

    def _show_busy(self, busy: bool) -> None:
        self._best.setText("Stepping …" if busy else "Step it out of line")
        self._done.setEnabled(not busy and bool(self.piece.lays))

    def _take_steps(self, result: tuple[AnyThrough, Stepping]) -> None:
        piece, stepping = result
        colour = stepping.lays[0].ink or piece.colour
        self.view.show_piece(msgspec.structs.replace(piece, lays=stepping.lays, colour=colour))
        self._tell()

    def _reink(self) -> None:
        """Ink the lays as they lie in the inks chosen, in turn."""
        inks = self._chosen_inks()
        if not inks or not self.piece.lays:
            return
        lays = tuple(
            msgspec.structs.replace(lay, ink=inks[number % len(inks)]) for number, lay in enumerate(self.piece.lays)
        )
        self.view.show_piece(msgspec.structs.replace(self.piece, lays=lays, colour=lays[0].ink))
        self._tell()

    # -- what is said --------------------------------------------------------------------------------------------

    def _refuse(self, words: str) -> None:
        self.told.setText(words)
        self._done.setEnabled(bool(self.piece.lays))

    def _tell(self) -> None:
        piece = self.piece
        stamp = self._work.stash.find(piece.stencil)
        lines = [f"Lay 1: {say_colour(piece.lays[0].ink or piece.colour or WASH)}"]
        for number, (move, lay) in enumerate(zip(moves_of(piece.lays), piece.lays[1:], strict=True), 2):
            lines.append(f"Lay {number}: {say_move(move, self._unit)}; {say_colour(lay.ink or piece.colour or WASH)}")
        least = least_between(stamp, piece)
        if least < FAR_MM:
            what = "Openings" if stamp.pockets else "Crests"
            lines.append(f"{what} keep {say_length(least, self._unit)} out of line, or more.")
        short = max(piece.form.width_mm / 2 + abs(lay.x) - stamp.width_mm / 2 for lay in piece.lays)
        if short > 0.05:
            lines.append(f"At a side {say_length(short, self._unit)} of the wash stays bare.")
        self.told.setText("\n".join(lines))
        self._done.setEnabled(True)


def ask_steps(
    work: Work, piece: AnyWash, parent: QWidget | None = None, *, own: Sequence[Ink] = ()
) -> AnyThrough | None:
    """Ask how a stencil is stepped over a wash; None when the maker leaves it."""
    dialog = StencilSteps(work, piece, parent, own=own)
    taken = dialog.exec()
    made = dialog.piece if taken and dialog.piece.lays else None
    dialog.worker.close()
    dialog.deleteLater()
    return made
