"""What a wash does to its surface: ink blended, stencilled or splattered, water, paste, texture; shown as it comes."""

from typing import NamedTuple

import msgspec
import shapely
from PySide6.QtWidgets import QComboBox, QDialog, QFormLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fair_thicket.backdrop.splatter import judge_splatter
from fair_thicket.backdrop.texture import lay_texture
from fair_thicket.desk.ink.wash_view import WashView
from fair_thicket.desk.parts.controls import Column, Stepper, button, label, taking_row
from fair_thicket.desk.parts.ground_art import Ground, grounds_of
from fair_thicket.desk.session.background import Worker
from fair_thicket.edits.pieces import place_pieces
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.declared import limit_of
from fair_thicket.model.errors import InputError, PaperError, ThicketError
from fair_thicket.model.pieces import AnyWash, Drops, Paste, Splatter, Texture, Through, Wash, as_kind
from fair_thicket.model.stash import Kind, Stamp
from fair_thicket.model.units import parse_length, say_length
from fair_thicket.shape.wash_kinds import kind_of, offered_kinds

MARKS = ("dot", "wave", "grass")
MARK_WORDS = ("dots", "waves", "tufts of grass")
PASTE = "#ffffff"
FEW = 10


class _Shown(NamedTuple):
    """What comes of the choices."""

    piece: AnyWash
    ground: Ground
    area: shapely.Geometry
    told: str


class GroundView(WashView):
    """Draws a surface with all its washes: water shows by what it lifts."""

    def __init__(self, work: Work, piece: AnyWash, parent: QWidget | None = None) -> None:
        super().__init__(work, piece, "The washes of the surface as they come out", parent)
        self._ground: tuple[Ground, shapely.Geometry] = super().make_ground()

    def show_ground(self, piece: AnyWash, ground: Ground, area: shapely.Geometry) -> None:
        """Show a wash among the others of its surface."""
        self._ground = (ground, area)
        self.show_piece(piece)

    def make_ground(self) -> tuple[Ground, shapely.Geometry]:
        """Return what was made elsewhere."""
        return self._ground


class WashHow(QDialog):
    """Asks what a wash is.

    Attributes
    ----------
    view : GroundView
    how, stencil, mark : QComboBox
    drops : Stepper
    wide, pitch : QLineEdit
    told : QLabel
    worker : Worker
    """

    def __init__(
        self, work: Work, piece: AnyWash, parent: QWidget | None = None, *, kind: type[AnyWash] | None = None
    ) -> None:
        super().__init__(parent)
        self._work, self._first, self._unit = work, piece, work.card.unit
        kinds = {Kind.STENCIL, Kind.BORDER, Kind.BACKDROP}
        self._stencils: list[Stamp] = [one for one in work.stash.stamps if one.kind in kinds]
        self._kinds = offered_kinds(piece)
        self._seed = piece.seed if isinstance(piece, Drops | Texture) else 1
        self.setWindowTitle("How the wash is inked")
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(8)
        box.addWidget(label(f"How the {name_pieces(work)[piece.id]} is inked", "heading"))
        row = QHBoxLayout()
        row.setSpacing(14)
        self.view = GroundView(work, piece)
        row.addWidget(self.view, 1)
        row.addWidget(self._make_form(piece, kind or type(piece)))
        box.addLayout(row, 1)
        foot, self._done = taking_row(self)
        box.addLayout(foot)
        self.worker = Worker(self)
        self.worker.done.connect(self._show)
        self.worker.failed.connect(self._refuse)
        self.finished.connect(lambda _: self.worker.close())
        self._look()
        self.resize(960, 560)

    def _make_form(self, piece: AnyWash, first: type[AnyWash]) -> QWidget:
        pane = QWidget()
        pane.setFixedWidth(330)
        column = QVBoxLayout(pane)
        column.setContentsMargins(0, 0, 0, 0)
        self._form = QFormLayout()
        self._form.setVerticalSpacing(7)
        choices = [row.choice for _, row in self._kinds]
        self.how = self._choice("What is done", choices, [kind for kind, _ in self._kinds].index(first))
        names = [one.name for one in self._stencils] or ["none in the stash"]
        at = next((index for index, one in enumerate(self._stencils) if one.id == getattr(piece, "stencil", "")), 0)
        self.stencil = self._choice("Stencil or border", names, at)
        self.drops = Stepper(
            "Drops", (FEW, limit_of(Splatter, "drops").most), FEW, lambda value: f"{value:g}", lambda _: self._look()
        )
        self.drops.show_value(as_kind(piece, Splatter).drops)
        self._form.addRow(label("Drops"), self.drops)
        texture = as_kind(piece, Texture)
        self.mark = self._choice("Marks", MARK_WORDS, MARKS.index(texture.mark))
        self.wide = self._length("Width of one, height of a tuft", texture.mark_mm)
        self.pitch = self._length("Marks apart", texture.pitch_mm)
        self.scatter = button("Scatter another way", self._scatter, tip="The same number, elsewhere")
        self._form.addRow(label(""), self.scatter)
        column.addLayout(self._form)
        told = Column(margin=0)
        self.told = label("", wrap=True)
        told.box.addWidget(self.told)
        column.addWidget(told, 1)
        return pane

    def _choice(self, words: str, options: "list[str] | tuple[str, ...]", at: int) -> QComboBox:
        made = QComboBox()
        made.addItems(list(options))
        made.setCurrentIndex(at)
        made.setAccessibleName(words)
        made.currentIndexChanged.connect(lambda _: self._look())
        self._form.addRow(label(words), made)
        return made

    def _length(self, words: str, value: float) -> QLineEdit:
        said = say_length(value, self._unit)
        is_told = abs(parse_length(said, self._unit) - value) < 0.06 if "under" not in said else False
        made = QLineEdit(said if is_told else f"{value:g} mm")
        made.setAccessibleName(words)
        made.editingFinished.connect(self._look)
        self._form.addRow(label(words), made)
        return made

    # -- what is asked -------------------------------------------------------------------------------------------

    @property
    def piece(self) -> AnyWash:
        """The wash as it is now."""
        return self.view.piece

    def _scatter(self) -> None:
        self._seed = self._seed % 999_999 + 1
        self._look()

    def _asked(self) -> AnyWash:
        """Read the choices.

        Raises
        ------
        InputError, PaperError
            For what cannot be.
        """
        piece, kind = self._first, self._kind
        fields: dict[str, object] = {}
        if issubclass(kind, Through):
            if not self._stencils:
                raise PaperError("There is no stencil, border or backdrop in the stash; bring one in first.")
            fields["stencil"] = stencil = self._stencils[self.stencil.currentIndex()].id
            if isinstance(piece, Through) and stencil != piece.stencil:
                fields["lays"] = ()
        if issubclass(kind, Drops):
            fields["drops"] = int(self.drops.value)
        if issubclass(kind, Drops | Texture):
            fields["seed"] = self._seed
        if issubclass(kind, Paste) and not isinstance(piece, Paste):
            fields |= {"colour": PASTE, "inks": ()}
        if issubclass(kind, Texture):
            size, pitch = parse_length(self.wide.text(), self._unit), parse_length(self.pitch.text(), self._unit)
            if not (0.3 <= size <= 60 and 0.5 <= pitch <= 100):
                raise InputError("Marks are 0.3 to 60 mm wide and 0.5 to 100 mm apart; type others.")
            fields |= {"mark": MARKS[self.mark.currentIndex()], "mark_mm": size, "pitch_mm": pitch}
        return as_kind(piece, kind, **fields)

    @property
    def _kind(self) -> type[AnyWash]:
        return self._kinds[self.how.currentIndex()][0]

    def _look(self) -> None:
        for widget, kinds in (
            (self.stencil, Through),
            (self.drops, Drops),
            (self.mark, Texture),
            (self.wide, Texture),
            (self.pitch, Texture),
            (self.scatter, Drops | Texture),
        ):
            self._form.setRowVisible(widget, issubclass(self._kind, kinds))
        try:
            asked = self._asked()
        except ThicketError as problem:
            self._refuse(str(problem))
            return
        work = self._work
        self._done.setEnabled(False)  # until what is asked is shown
        self.worker.ask(lambda: _make(work, asked))

    # -- what is said --------------------------------------------------------------------------------------------

    def _show(self, shown: _Shown) -> None:
        self.view.show_ground(shown.piece, shown.ground, shown.area)
        self.told.setText(shown.told)
        self._done.setEnabled(True)

    def _refuse(self, words: str) -> None:
        self.worker.cancel()
        self.told.setText(words)
        self._done.setEnabled(False)


def _make(work: Work, asked: AnyWash) -> _Shown:
    """Make the wash, and all that its surface looks like with it."""
    piece = lay_texture(work, asked) if isinstance(asked, Texture) else asked
    made = msgspec.structs.replace(work, card=place_pieces(work.card, (piece,)))
    leaves = stack(made)
    inked = [leaf.area for leaf in leaves if isinstance(leaf.piece, Wash) and leaf.piece.on == piece.on]
    told = [kind_of(piece).mind]
    if isinstance(piece, Texture):
        told.append(f"{len(piece.spots)} marks find free ground.")
    told += [one.text for one in judge_splatter(made) if piece.id in one.pieces]
    return _Shown(piece, grounds_of(made, leaves, {})[piece.on], shapely.union_all(inked), "\n\n".join(told))


def ask_how(
    work: Work, piece: AnyWash, parent: QWidget | None = None, *, kind: type[AnyWash] | None = None
) -> AnyWash | None:
    """Ask what a wash is; None when the maker leaves it."""
    dialog = WashHow(work, piece, parent, kind=kind)
    taken = dialog.exec()
    made = dialog.piece if taken else None
    dialog.worker.close()
    dialog.deleteLater()
    return made
