"""Blending a wash of several inks: shown as it comes out, its troubles told while it is made, bridges put in."""

from collections.abc import Sequence
from typing import NamedTuple

import msgspec
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from fair_thicket.backdrop.washes import judge_washes
from fair_thicket.desk.ink.blend_view import BlendView
from fair_thicket.desk.parts.controls import Choices, Column, Stepper, button, label, taking_row
from fair_thicket.desk.parts.ink_choice import InkChoice
from fair_thicket.desk.session.background import Worker
from fair_thicket.edits.pieces import place_pieces
from fair_thicket.ink.gradients import wash_colour
from fair_thicket.ink.ink_needed import InkNeed, ink_needs
from fair_thicket.ink.naming import say_colour
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.declared import limit_of
from fair_thicket.model.finding import Finding
from fair_thicket.model.pieces import WASH, AnyWash, Wash
from fair_thicket.model.supplies import Ink

INKS = 6
SOON_MS = 120
"""What is said of a wash is worked out when the hand rests."""
WAYS = ("even", "linear", "band", "corner", "glow")
WAY_WORDS = ("even", "across", "band", "corner", "glow")
HINTS = {
    "even": "One ink, laid evenly.",
    "linear": "From the first ink at one edge to the last at the other. Drag the arrow.",
    "band": "The first ink in a band through the middle, the last at both edges. Drag the arrow.",
    "corner": "From the first ink in a corner outward. Drag the arrow away from that corner.",
    "glow": "The first ink where it glows, the last far away. Drag the ring, or click.",
}


class _Told(NamedTuple):
    """What is to be said of a wash."""

    needs: tuple[InkNeed, ...]
    findings: list[Finding]


class Blend(QDialog):
    """Asks for the inks of a wash and for the way in which they go over into each other.

    Attributes
    ----------
    view : BlendView
    ways : Choices
    inks : list of InkChoice
    coats : Stepper
    told : QLabel
    worker : Worker
        Judges the wash while it is made.
    """

    def __init__(self, work: Work, piece: AnyWash, parent: QWidget | None = None, *, own: Sequence[Ink] = ()) -> None:
        super().__init__(parent)
        self._work, self._own = work, tuple(own)
        self._bridged: AnyWash | None = None
        self.setWindowTitle("Blend several inks")
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(8)
        box.addWidget(label(f"Blend the {name_pieces(work)[piece.id]} of several inks", "heading"))
        self._hint = label("", "soft", wrap=True)
        box.addWidget(self._hint)
        row = QHBoxLayout()
        row.setSpacing(14)
        blended = msgspec.structs.replace(piece, inks=piece.inks or (piece.colour or WASH,))
        self.view = BlendView(work, blended)
        row.addWidget(self.view, 1)
        row.addWidget(self._make_form(blended))
        box.addLayout(row, 1)
        foot, _ = taking_row(self)
        box.addLayout(foot)
        self.worker = Worker(self)
        self.worker.done.connect(self._say)
        self.finished.connect(lambda _: self.end())
        self.view.changed.connect(self._look)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self._judge)
        self._look()
        self.resize(990, 620)

    def _make_form(self, piece: AnyWash) -> QWidget:
        pane = QWidget()
        pane.setFixedWidth(312)
        column = QVBoxLayout(pane)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.ways = Choices(WAY_WORDS, self._take_way, style="smallChoice")
        self.ways.show_choice(WAYS.index(piece.way))
        column.addWidget(self.ways)
        grid = QGridLayout()
        grid.setVerticalSpacing(6)
        self.inks = [InkChoice(f"Ink {number + 1}", self._own, piece.inks) for number in range(INKS)]
        for number, choice in enumerate(self.inks):
            choice.show_colour(piece.inks[number] if number < len(piece.inks) else "")
            choice.currentIndexChanged.connect(lambda _: self._take_inks())
            grid.addWidget(label(f"Ink {number + 1}"), number, 0)
            grid.addWidget(choice, number, 1)
        grid.setColumnStretch(1, 1)
        self.coats = Stepper(
            "Thin coats", limit_of(type(piece), "coats").pair, 1, _say_coats, lambda _: self._take_coats()
        )
        self.coats.show_value(piece.coats)
        grid.addWidget(label("Thin coats"), INKS, 0)
        grid.addWidget(self.coats, INKS, 1)
        column.addLayout(grid)
        pane_told = Column(margin=0)
        self.told = label("", wrap=True)
        pane_told.box.addWidget(self.told)
        column.addWidget(pane_told, 1)
        self.bridge = button("", self._take_bridge, tip="Put an ink between the two that do not go together")
        self.bridge.setVisible(False)
        column.addWidget(self.bridge)
        return pane

    # -- what is asked -------------------------------------------------------------------------------------------

    @property
    def piece(self) -> AnyWash:
        """The wash as it is now; its flat colour is that of its middle."""
        return msgspec.structs.replace(self.view.piece, colour=wash_colour(self.view.piece))

    def _change(self, **fields: object) -> None:
        self.view.show_piece(msgspec.structs.replace(self.view.piece, **fields))
        self._look()

    def _take_way(self, index: int) -> None:
        self._change(way=WAYS[index])

    def _take_inks(self) -> None:
        inks = tuple(choice.colour for choice in self.inks if choice.colour)
        if not inks:
            self._show_inks(self.view.piece.inks)
            self.told.setText("A wash needs an ink; choose one at least.")
            return
        way = self.view.piece.way
        if len(inks) > 1 and way == "even":  # the second ink is meant to be seen
            way = "linear"
            self.ways.show_choice(WAYS.index(way))
        self._change(inks=inks, way=way)

    def _take_coats(self) -> None:
        self._change(coats=int(self.coats.value))

    def _take_bridge(self) -> None:
        if self._bridged is not None:
            self._show_inks(self._bridged.inks)
            self._change(inks=self._bridged.inks)

    def _show_inks(self, inks: tuple[str, ...]) -> None:
        for number, choice in enumerate(self.inks):
            choice.show_colour(inks[number] if number < len(inks) else "")

    # -- what is said --------------------------------------------------------------------------------------------

    def _look(self) -> None:
        self._hint.setText(HINTS[self.view.piece.way])
        self._soon.start()

    def end(self) -> None:
        """Judge no more."""
        self._soon.stop()
        self.worker.close()

    @property
    def is_busy(self) -> bool:
        """Whether what is said may change yet."""
        return self._soon.isActive() or self.worker.is_busy

    def _judge(self) -> None:
        piece, work, own = self.piece, self._work, self._own

        def judge() -> _Told:
            made = msgspec.structs.replace(work, card=place_pieces(work.card, (piece,)))
            found = [one for one in judge_washes(made, own) if piece.id in one.pieces and one.code != "bare"]
            return _Told(ink_needs(made, piece), found)

        self.worker.ask(judge)

    def _say(self, told: _Told) -> None:
        lines = [f"{one.title}. {one.text}" for one in told.findings]
        needs = "\n".join(f"  {say_colour(need.ink)}: {need.area_mm2 / 100:.1f} cm²" for need in told.needs)
        lines.append(f"Ink is needed on\n{needs}")
        lines.append("Light inks first, a pause after each coat.")
        self.told.setText("\n\n".join(lines))
        remedies = [one.remedy for one in told.findings if one.remedy is not None and one.code.startswith("blend-")]
        self._bridged = None
        if remedies:
            (bridged,) = remedies[0].pieces
            self._bridged = bridged if isinstance(bridged, Wash) else None
            self.bridge.setText(remedies[0].words)
        self.bridge.setVisible(self._bridged is not None)


def _say_coats(value: float) -> str:
    return f"{value:g}" if value != 3 else "3, full colour"


def ask_blend(work: Work, piece: AnyWash, parent: QWidget | None = None, *, own: Sequence[Ink] = ()) -> AnyWash | None:
    """Ask how a wash is blended; None when the maker leaves it."""
    dialog = Blend(work, piece, parent, own=own)
    taken = dialog.exec()
    made = dialog.piece if taken else None
    dialog.end()
    dialog.deleteLater()
    return made
