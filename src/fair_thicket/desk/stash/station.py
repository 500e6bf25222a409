"""Stash: what the maker owns. New images come in, the library keeps them, the card's own stamps are at hand."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent, QUndoStack
from PySide6.QtWidgets import QLineEdit, QStackedWidget, QVBoxLayout, QWidget

from fair_thicket import edits
from fair_thicket.desk.frame.station import Pane, State
from fair_thicket.desk.parts.controls import Choices, Column, Hint, Stepper, button, head_row, label
from fair_thicket.desk.parts.pictures import StampPictures
from fair_thicket.desk.parts.stamp_rows import StampRow, Thumb
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.stash.intake import IntakePane
from fair_thicket.desk.stash.library import LibraryPane
from fair_thicket.desk.stash.renewing import CardRenewals
from fair_thicket.desk.stash.supplies import SuppliesPane
from fair_thicket.model.declared import limit_of
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import say_size

PANES = ("new images", "library", "on this card", "papers, inks, markers")
INTAKE, LIBRARY, AT_HAND, SUPPLIES = range(4)


class StashStation(Pane):
    """Four panes under one head.

    Attributes
    ----------
    intake : IntakePane
    library : LibraryPane
    at_hand : AtHandPane
    supplies : SuppliesPane
    paneChanged : Signal(int)
    """

    paneChanged = Signal(int)

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setObjectName("mistPane")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.intake = IntakePane(session)
        self.library = LibraryPane(session)
        self.at_hand = AtHandPane(session, pictures)
        self.supplies = SuppliesPane(session)
        self._stack = QStackedWidget()
        for pane in (self.intake, self.library, self.at_hand, self.supplies):
            self._stack.addWidget(pane)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 10, 0, 0)
        box.setSpacing(6)
        self._choice = Choices(PANES, self.show_pane)
        head = head_row("Stash", Hint("what you own, at its true size"))
        head.setContentsMargins(16, 0, 14, 0)
        head.addWidget(self._choice)
        box.addLayout(head)
        box.addWidget(self._stack, 1)
        for steps in (self.intake.steps, self.library.steps):
            self._session.undo_group.addStack(steps)
            steps.indexChanged.connect(self._offer_steps)
        self.intake.kept.connect(lambda: self.show_pane(AT_HAND))
        self.show_pane(INTAKE)

    def show_pane(self, index: int) -> None:
        """Show a pane; it reads the library anew."""
        self._stack.setCurrentIndex(index)
        self._choice.show_choice(index)
        self._offer_steps()
        self._refresh()
        self.paneChanged.emit(index)

    def _offer_steps(self) -> None:
        """Let *Undo* speak of the page that is sorted, or of the card."""
        self._session.undo_group.setActiveStack(self.undo_stack() or self._session.undo_stack)

    def _refresh(self) -> None:
        index = self._stack.currentIndex()
        if index == LIBRARY:
            self.library.refresh()
        elif index == SUPPLIES:
            self.supplies.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._refresh()

    def undo_stack(self) -> QUndoStack | None:
        """Return the steps of a page that is sorted, or of the library, while there are some."""
        steps = {INTAKE: self.intake.steps, LIBRARY: self.library.steps}.get(self._stack.currentIndex())
        return steps if steps is not None and steps.count() else None

    def state(self) -> State:
        """Tell how many images are at hand."""
        count = len(self._session.work.stash.stamps)
        return State(f"{count} stamps" if count else "empty", not count)

    def close_workers(self) -> None:
        """End what is under way."""
        self.intake.worker.close()
        self.library.worker.close()
        self.library.renewals.worker.close()
        self.at_hand.renewals.worker.close()
        self.supplies.worker.close()


class AtHandPane(QWidget):
    """The stamps that the card draws on: their names, and how many there are of each.

    Attributes
    ----------
    rows : list of StampRow
    renewals : CardRenewals
        Says which of them have outlines along their lines.
    """

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._pictures = session, pictures
        self._seen: object = None
        self.rows: list[StampRow] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(16, 4, 16, 12)
        self._hint = label("", "soft", wrap=True)
        box.addWidget(self._hint)
        self.renewals = CardRenewals(session, pictures)
        box.addWidget(self.renewals)
        self._list = Column(spacing=6, margin=0)
        self._list.box.setContentsMargins(0, 2, 6, 2)
        box.addWidget(self._list, 1)
        session.cardChanged.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the card's stash as it is."""
        if self.isVisible():
            self.renewals.look()
        stash, unit = self._session.work.stash, self._session.work.card.unit
        if (stash, unit) == self._seen:
            return
        self._seen = (stash, unit)
        self._list.clear()
        self.rows = []
        self._hint.setText(
            "The stamps in the drawer of this card. How many there are of each decides how many presses it takes."
            if stash.stamps
            else "The drawer is empty: keep images of a page, or take some from the library."
        )
        for stamp in stash.stamps:
            self.rows.append(self._row(stamp, say_size(stamp.width_mm, stamp.height_mm, unit)))
            self._list.box.addWidget(self.rows[-1])

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.renewals.look()

    def _row(self, stamp: Stamp, size: str) -> StampRow:
        row = StampRow(Thumb(stamp, self._pictures), stamp.name, f"{size} · {stamp.kind.value}")
        row.name.editingFinished.connect(lambda: self._rename(stamp, row.name))
        copies = Stepper(
            f"How many of {stamp.name} there are",
            limit_of(Stamp, "copies").pair,
            1,
            lambda value: f"× {value:.0f}",
            lambda value: self._session.edit(
                f"count {stamp.name}",
                lambda work: edits.set_copies(work, stamp.id, round(value)),
                merge_key=f"copies {stamp.id}",
            ),
        )
        copies.show_value(stamp.copies)
        row.row.addWidget(copies)
        row.row.addWidget(
            button(
                "drop",
                lambda: self._session.edit(f"drop {stamp.name}", lambda work: edits.drop_stamp(work, stamp.id)),
                "link",
                tip=f"Take {stamp.name} out of this card's drawer",
            )
        )
        return row

    def _rename(self, stamp: Stamp, field: QLineEdit) -> None:
        name = field.text().strip()
        if not name:
            field.setText(stamp.name)
        elif name != stamp.name:
            self._session.edit(f"rename {stamp.name}", lambda work: edits.rename_stamp(work, stamp.id, name))
