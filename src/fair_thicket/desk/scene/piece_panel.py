"""What is chosen on the bench: its place, its turn, how much is seen, and what its kind can and cannot do."""

from PySide6.QtGui import QAction, QColor, QIcon, QPixmap
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLineEdit, QMenu, QPushButton, QVBoxLayout, QWidget

from fair_thicket import edits
from fair_thicket.desk.parts.controls import Choices, Hint, Stepper, button, label
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import cutouts
from fair_thicket.edits.papers import set_paper
from fair_thicket.model.card import Work
from fair_thicket.model.declared import limit_of
from fair_thicket.model.errors import InputError
from fair_thicket.model.palette import PALETTE, name_of
from fair_thicket.model.pieces import Cutout, Impression, Panel, PaperPiece, Piece, Strip, Wash
from fair_thicket.model.units import parse_length, say_length, say_size
from fair_thicket.shape.paper import local_area

NO_SCALE = "A stamp has one size: the rubber is as large as it is. For a larger or smaller image take another stamp."
NO_MIRROR = (
    "An impression cannot be mirrored: the stamp shows one face only. Turn it, or take a stamp that looks the "
    "other way."
)
FOAM_STEP_MM = 0.8


class PiecePanel(QFrame):
    """Fields of the chosen piece; each takes effect on Enter or when it is left.

    Attributes
    ----------
    left, top, turn : QLineEdit
    making : Choices
        Stamped here, or cut out and glued.
    foam : Stepper
    colour, more : QPushButton
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self._session = session
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 8, 12, 10)
        box.setSpacing(5)
        head = QHBoxLayout()
        self._name = Hint()
        self._name.setObjectName("subheading")
        head.addWidget(self._name, 1)
        self.more = button("more …", lambda: None, "link")
        self.more.setAccessibleName("More that can be done with the chosen pieces")
        head.addWidget(self.more)
        box.addLayout(head)
        self._seen = label("", "soft", wrap=True)
        box.addWidget(self._seen)
        self._fields = QWidget()
        grid = QGridLayout(self._fields)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        self.left, self.top, self.turn = QLineEdit(), QLineEdit(), QLineEdit()
        places = ((0, 0, "Left", self.left), (0, 2, "Top", self.top), (1, 0, "Turned", self.turn))
        for row, column, words, field in places:
            name = label(words)
            name.setBuddy(field)
            field.setAccessibleName(f"From the {words.lower()}" if row == 0 else words)
            field.setToolTip("Of its middle, from the card's edge" if row == 0 else "Clockwise; 0 is upright")
            grid.addWidget(name, row, column)
            grid.addWidget(field, row, column + 1)
            field.editingFinished.connect(self._take)
        self._size = label("")
        self._size.setToolTip("Its size")
        grid.addWidget(self._size, 1, 2, 1, 2)
        self._no_scale = button("resize?", lambda: session.said.emit(NO_SCALE), "link")
        self._no_mirror = button("mirror?", lambda: session.said.emit(NO_MIRROR), "link")
        box.addWidget(self._fields)
        box.addLayout(self._make_row())
        last = QHBoxLayout()
        last.setSpacing(0)
        for part in (self.foam, self._no_scale, self._no_mirror):
            last.addWidget(part)
        last.addStretch(1)
        box.addLayout(last)
        for signal in (session.cardChanged, session.selectionChanged, session.outcomeChanged, session.glanceChanged):
            signal.connect(self.refresh)
        self.refresh()

    def _make_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.making = Choices(["stamp", "cut and glue"], self._change_making, style="smallChoice")
        self.foam = Stepper(
            "Foam under it", limit_of(Panel, "lift_mm").pair, FOAM_STEP_MM, self._say_foam, self._change_foam
        )
        self.foam.setAccessibleName("Foam under it")
        self.colour = QPushButton()
        self.colour.setObjectName("smallChoice")
        self.colour.setAccessibleName("Its flat colour")
        self.colour.setMenu(self._colour_menu())
        row.addWidget(self.making)
        row.addStretch(1)
        row.addWidget(self.colour)
        return row

    def _colour_menu(self) -> QMenu:
        menu = QMenu(self)
        for name, code in PALETTE:
            action = QAction(_swatch(code), name, menu)
            action.triggered.connect(lambda _=False, code=code: self._change_colour(code))
            menu.addAction(action)
        action = QAction("no colour", menu)
        action.triggered.connect(lambda _=False: self._change_colour(None))
        menu.addAction(action)
        return menu

    def set_menu(self, menu: QMenu) -> None:
        """Take over the menu of what else can be done with pieces."""
        self.more.setMenu(menu)

    def _piece(self) -> Piece | None:
        chosen = self._session.selection
        return self._session.work.card.find(next(iter(chosen))) if len(chosen) == 1 else None

    def _chosen(self) -> list[Piece]:
        return [piece for piece in self._session.work.card.pieces if piece.id in self._session.selection]

    def refresh(self) -> None:
        """Show the chosen piece as it is on the card."""
        piece, chosen = self._piece(), self._chosen()
        self._fields.setVisible(piece is not None)
        self.more.setVisible(bool(chosen))
        self._show_making(chosen)
        self.colour.setVisible(bool(chosen))
        if chosen:
            colour = chosen[0].colour
            self.colour.setText(_say_colour(chosen[0]))
            self.colour.setIcon(_swatch(colour) if colour else QIcon())
        for link in (self._no_scale, self._no_mirror):
            link.setVisible(isinstance(piece, Impression))
        if piece is not None:
            self._show_one(piece)
        elif chosen:
            self._name.setText(f"{len(chosen)} pieces chosen")
            self._seen.setText("They move, turn and change order together.")
        else:
            self._name.setText("Nothing chosen")
            self._seen.setText("Click a piece on the card to see its place and what covers it.")

    def _show_making(self, chosen: list[Piece]) -> None:
        """Show how what is chosen is made, where it can be made so, and how high it is glued."""
        images = [one for one in chosen if isinstance(one, Impression | Cutout)]
        paper = [one for one in chosen if isinstance(one, PaperPiece)]
        plain = [one for one in images if self._session.work.stash.find(one.stamp).kind.is_plain]
        self.making.setVisible(bool(images) and len(images) == len(chosen) and not plain)
        if images:
            self.making.show_choice(0 if isinstance(images[0], Impression) else 1)
        self.foam.setVisible(bool(paper) and len(paper) == len(chosen))
        if paper:
            self.foam.show_value(paper[0].lift_mm)

    def _show_one(self, piece: Piece) -> None:
        unit = self._session.work.card.unit
        name = self._session.names[piece.id]
        self._name.setText(name[:1].upper() + name[1:])
        self._seen.setText(self._tell_sight(piece))
        for field, words in (
            (self.left, say_length(piece.x, unit)),
            (self.top, say_length(piece.y, unit)),
            (self.turn, f"{piece.angle_deg:g}°"),
        ):
            if not field.hasFocus() or not field.isModified():
                field.setText(words)
        if isinstance(piece, Impression):
            stamp = self._session.work.stash.find(piece.stamp)
            self._size.setText(say_size(stamp.width_mm, stamp.height_mm, unit))
        else:
            left, top, right, bottom = local_area(piece, self._session.work.stash).bounds
            self._size.setText(say_size(right - left, bottom - top, unit))

    def _tell_sight(self, piece: Piece) -> str:
        how = _tell_making(piece)
        glance, outcome = self._session.glance, self._session.outcome
        if glance is None or glance.work is not self._session.work:
            return f"{how} · looking …"
        sight = glance.sights[piece.id]
        told = [how, f"visible {1 - sight.hidden_share:.0%}"]
        if isinstance(piece, Impression) and outcome is not None and outcome.work is self._session.work:
            told.append(f"press {outcome.plan.press_of(piece.id) + 1}")
        if piece.on:
            told.append(f"on {self._session.names[piece.on]}")
        if sight.hidden_by:
            told.append("under " + ", ".join(self._session.names[key] for key in sight.hidden_by))
        if piece.held:
            told.append(f"held by {self._session.names[piece.held.by]}")
        if piece.copy_of and piece.copy_of in self._session.names:
            told.append(f"a copy of {self._session.names[piece.copy_of]}")
        return " · ".join(told)

    # -- taking ------------------------------------------------------------------------------------------------------

    def _change_making(self, index: int) -> None:
        wanted = Impression if index == 0 else Cutout
        keys = [piece.id for piece in self._chosen() if not isinstance(piece, wanted)]

        def change(work: Work) -> Work:
            for key in keys:
                work = cutouts.stamp_instead(work, key) if wanted is Impression else cutouts.cut_out(work, key)
            return work

        self._session.edit("stamp here" if wanted is Impression else "cut out", change)
        self.refresh()

    def _say_foam(self, value: float) -> str:
        return "flat" if value < 0.05 else f"foam {value:.1f} mm"

    def _change_foam(self, value: float) -> None:
        keys = self._session.selection
        merge = "foam " + " ".join(sorted(keys))
        self._session.edit(
            "change the foam", lambda work: edits.set_pieces(work, keys, lift_mm=round(value, 2)), merge_key=merge
        )

    def _change_colour(self, colour: str | None) -> None:
        keys = self._session.selection
        self._session.edit("colour", lambda work: set_paper(work, keys, colour))

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


def _say_colour(piece: Piece) -> str:
    """Say what a piece is coloured with: a flat colour, or the runs of its parts."""
    is_by_parts = isinstance(piece, Impression | Cutout) and bool(piece.colouring)
    return "by parts" if is_by_parts and piece.colour is None else name_of(piece.colour)


def _tell_making(piece: Piece) -> str:
    if isinstance(piece, Impression):
        return "stamped"
    if isinstance(piece, Wash):
        return "ink"
    height = f"foam {piece.lift_mm:g} mm" if piece.lift_mm else "glued flat"
    kind = "words" if isinstance(piece, Strip) and piece.words else "cut"
    return f"{kind} · {height}" if not piece.flaps else f"{kind} · {height} · {len(piece.flaps)} flaps"


def _swatch(colour: str) -> QIcon:
    picture = QPixmap(14, 14)
    picture.fill(QColor(colour))
    return QIcon(picture)


def _angle(words: str) -> float:
    try:
        value = float(words.replace("°", "").replace(",", ".").replace("−", "-").strip())
    except ValueError:
        value = float("nan")
    if not abs(value) <= 3600:
        raise InputError(f"“{words[:20]}” is not an angle; type degrees clockwise, like 12 or -7.5.")
    return value
