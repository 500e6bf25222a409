"""What is chosen on the bench: its place, its turn, how much of it is seen, and what a stamp cannot do."""

from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fair_thicket.desk.session import Session
from fair_thicket.desk.widgets.parts import button, label
from fair_thicket.model.card import Impression, Work
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.units import parse_length, say_length, say_size
from fair_thicket.scene import edits

NO_SCALE = "A stamp has one size: the rubber is as large as it is. For a larger or smaller image take another stamp."
NO_MIRROR = (
    "An impression cannot be mirrored: the stamp shows one face only. Turn it, or take a stamp that looks the "
    "other way."
)


class PiecePanel(QFrame):
    """Fields of the chosen piece; each takes effect on Enter or when it is left.

    Attributes
    ----------
    left, top, turn : QLineEdit
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self._session = session
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 8, 12, 10)
        box.setSpacing(5)
        self._name = label("", "subheading")
        self._seen = label("", "soft", wrap=True)
        box.addWidget(self._name)
        box.addWidget(self._seen)
        self._fields = QWidget()
        grid = QGridLayout(self._fields)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        self.left, self.top, self.turn = QLineEdit(), QLineEdit(), QLineEdit()
        for row, (words, field) in enumerate((("From left", self.left), ("From top", self.top), ("Turned", self.turn))):
            name = label(words)
            name.setBuddy(field)
            field.setAccessibleName(words)
            grid.addWidget(name, row, 0)
            grid.addWidget(field, row, 1)
            field.editingFinished.connect(self._take)
        self._size = label("")
        grid.addWidget(label("Size"), 3, 0)
        size_row = QHBoxLayout()
        size_row.addWidget(self._size)
        size_row.addStretch(1)
        size_row.addWidget(button("resize?", lambda: session.said.emit(NO_SCALE), "link"))
        size_row.addWidget(button("mirror?", lambda: session.said.emit(NO_MIRROR), "link"))
        size_row.setSpacing(0)
        grid.addLayout(size_row, 3, 1)
        box.addWidget(self._fields)
        for signal in (session.cardChanged, session.selectionChanged, session.outcomeChanged):
            signal.connect(self.refresh)
        self.refresh()

    def _piece(self) -> Impression | None:
        chosen = self._session.selection
        return self._session.work.card.find(next(iter(chosen))) if len(chosen) == 1 else None

    def refresh(self) -> None:
        """Show the chosen piece as it is on the card."""
        piece = self._piece()
        self._fields.setVisible(piece is not None)
        if piece is None:
            chosen = len(self._session.selection)
            self._name.setText(f"{chosen} images chosen" if chosen else "Nothing chosen")
            self._seen.setText(
                "They move, turn and change order together."
                if chosen
                else "Click an image on the card to see its place and what covers it."
            )
            return
        unit = self._session.work.card.unit
        stamp = self._session.work.stash.find(piece.stamp)
        self._name.setText(self._session.names[piece.id].capitalize())
        self._seen.setText(self._tell_sight(piece))
        for field, words in (
            (self.left, say_length(piece.x, unit)),
            (self.top, say_length(piece.y, unit)),
            (self.turn, f"{piece.angle_deg:g}°"),
        ):
            if not field.hasFocus() or not field.isModified():
                field.setText(words)
        self._size.setText(say_size(stamp.width_mm, stamp.height_mm, unit))

    def _tell_sight(self, piece: Impression) -> str:
        outcome = self._session.outcome
        if outcome is None or outcome.work is not self._session.work:
            return "stamped · looking …"
        sight = outcome.sights[piece.id]
        by = " · under " + ", ".join(self._session.names[key] for key in sight.hidden_by) if sight.hidden_by else ""
        return f"stamped · visible {1 - sight.hidden_share:.0%} · press {outcome.plan.press_of(piece.id) + 1}{by}"

    def _take(self) -> None:
        field = self.sender()
        piece = self._piece()
        if piece is None or not isinstance(field, QLineEdit) or not field.isModified():
            return
        field.setModified(False)
        unit = self._session.work.card.unit
        words = field.text()

        def change(work: Work) -> Work:
            if field is self.turn:
                return edits.turn_to(work, {piece.id}, _angle(words))
            length = parse_length(words, unit)
            return edits.move_to(work, piece.id, (length, piece.y) if field is self.left else (piece.x, length))

        self._session.edit(f"place {self._session.names[piece.id]}", change)
        self.refresh()


def _angle(words: str) -> float:
    try:
        value = float(words.replace("°", "").replace(",", ".").replace("−", "-").strip())
    except ValueError:
        value = float("nan")
    if not abs(value) <= 3600:
        raise _AngleError(words)
    return value


class _AngleError(ThicketError):
    """An angle that cannot be read."""

    def __init__(self, words: str) -> None:
        super().__init__(f"“{words[:20]}” is not an angle; type degrees clockwise, like 12 or -7.5.")
