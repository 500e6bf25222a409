"""The desk's window: the bar at the top, the path at the left, the stations, and what is said to the maker.

The frame stands on Qt alone, so that it is painted at once with the card's own preview; `MainWindow.furnish` then
brings the stations, and with them the libraries that take a moment to load.
"""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QStackedWidget, QToolButton, QVBoxLayout, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.frame.message import Message
from fair_thicket.desk.frame.offer import Offer
from fair_thicket.desk.frame.path_bar import PathBar
from fair_thicket.desk.frame.station import Frame, Station
from fair_thicket.desk.frame.threshold import Threshold
from fair_thicket.desk.parts.controls import Hint
from fair_thicket.desk.stations import SCENE, STATIONS

if TYPE_CHECKING:
    from fair_thicket.desk.frame.menu_actions import MenuActions
    from fair_thicket.desk.session.session import Session

MENUS = ("Card", "Piece", "Ink", "Masks", "View", "Help")


class MainWindow(Frame):
    """One window, one card.

    Parameters
    ----------
    preview : bytes or None
        PNG of the card that is about to be opened, shown until the stations are there.
    stations : sequence of Station
        In the order of the work.

    Attributes
    ----------
    session : Session
    panes : Panes
        The stations that have come in, by key.
    here : str
        Key of the station that is looked at.
    actions_of : Actions
    menu_actions : MenuActions
    offer : Offer
        What is offered at the head of the window.
    """

    session: "Session"
    menu_actions: "MenuActions"

    def __init__(self, preview: bytes | None = None, stations: Sequence[Station] = tuple(STATIONS)) -> None:
        super().__init__()
        self._stations = stations
        self.here = SCENE
        self.is_furnished = False
        self._keeps = False
        self.setWindowIcon(theme.program_icon())
        self.setWindowTitle("Fair Thicket[*]")
        self.setMinimumSize(1000, 640)
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self._stack = QStackedWidget()
        self._threshold = Threshold(preview)
        self._stack.addWidget(self._threshold)
        self.path = PathBar(stations)
        self.path.chosen.connect(self.go)
        body = QWidget()
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.path)
        row.addWidget(self._stack, 1)
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._top_bar())
        self.offer = Offer()
        column.addWidget(self.offer)
        column.addLayout(row, 1)
        self.setCentralWidget(body)
        self._message = Message(body)
        self.path.marks[SCENE].show_state("", is_open=False, is_here=True)

    def furnish(self, session: "Session") -> None:
        """Bring in the stations, the menus and the session that they speak with."""
        from fair_thicket.desk.frame.actions import Actions
        from fair_thicket.desk.frame.menu_actions import MenuActions
        from fair_thicket.desk.parts.pictures import StampPictures

        self.session = session
        self._pictures = pictures = StampPictures(session.pictures)
        self._stack.removeWidget(self._threshold)
        self._threshold.deleteLater()
        for station in self._stations:
            self.panes[station.key] = pane = station.make(session, pictures)
            self._stack.addWidget(pane)
        self.menu_actions = MenuActions(self, session, self._stations)
        self.actions_of = Actions(self, self.menu_actions.records)
        for name, menu in self._menus.items():
            self.actions_of.fill(menu, name)
        for pane in self.panes.values():
            for name, menu in pane.menus.items():
                self.actions_of.fill(menu, name)
            pane.take_actions(self.actions_of, self._menus)
        for key, made in (("undo", self._undo), ("redo", self._redo)):
            made.setDefaultAction(self.actions_of.by_key[key])
        self._unit.clicked.connect(self.menu_actions.switch_unit)
        self._rehearse.clicked.connect(self.menu_actions.rehearse)
        session.said.connect(self._message.say)
        for signal in (session.cardChanged, session.fileChanged, session.selectionChanged, session.outcomeChanged):
            signal.connect(self.refresh)
        for changed in (session.undo_group.indexChanged, session.undo_group.activeStackChanged):
            changed.connect(self._show_steps)
        session.shown.connect(self._show_place)
        self.is_furnished = True
        self.go(SCENE)

    def tell(self, words: str) -> None:
        """Say a sentence to the maker, furnished or not."""
        self._message.say(words)

    # -- building ------------------------------------------------------------------------------------------------

    def _top_bar(self) -> QWidget:
        bar = QWidget()
        bar.setObjectName("topBar")
        bar.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        bar.setFixedHeight(46)
        row = QHBoxLayout(bar)
        row.setContentsMargins(14, 0, 14, 0)
        row.setSpacing(6)
        mark = QLabel()
        mark.setPixmap(theme.program_icon(56).pixmap(28, 28))
        row.addWidget(mark)
        self._title = QLabel("Fair Thicket")
        self._title.setObjectName("cardTitle")
        self._about_card = Hint()
        self._about_card.setObjectName("aboutCard")
        for words in (self._title, self._about_card):
            words.setTextFormat(Qt.TextFormat.PlainText)
            row.addWidget(words, 1 if words is self._about_card else 0)
            row.addSpacing(12)
        self._menus: dict[str, QMenu] = {}
        for name in MENUS:
            made = _tool(name, row)
            made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
            self._menus[name] = QMenu(made)
            made.setMenu(self._menus[name])
        row.addSpacing(8)
        self._undo, self._redo = _tool("Undo", row), _tool("Redo", row)
        self._unit = _tool("in | mm", row, "unitSwitch")
        self._unit.setAccessibleName("Unit: inches or millimetres")
        self._rehearse = _tool("Rehearse", row, "rehearseButton")
        self._rehearse.setToolTip("Perform the plan on simulated paper (Ctrl+R)")
        return bar

    # -- showing -------------------------------------------------------------------------------------------------

    def go(self, key: str) -> None:
        """Go to a station."""
        if not self.is_furnished:
            return
        self.here = key
        self._stack.setCurrentWidget(self.panes[key])
        first = self.panes[key].first()
        if first is not None:
            first.setFocus()
        self.refresh()

    def refresh(self) -> None:
        """Bring the bars in line with the card."""
        from fair_thicket.model.card import name_format
        from fair_thicket.model.units import Unit, say_size

        session = self.session
        self._pictures.pictures = session.pictures
        card = session.work.card
        saved = (
            "not saved yet"
            if session.path is None and session.is_dirty
            else ("changed since it was saved" if session.is_dirty else "saved" if session.path else "")
        )
        size = say_size(*card.panel, card.unit)
        facts = [f"{name_format(card)} {'landscape' if card.landscape else 'portrait'}, {size}"]
        self._title.setText(card.title or "untitled card")
        self._about_card.setText(" · ".join([*facts, saved] if saved else facts))
        self._unit.setText("in | mm" if card.unit is Unit.INCH else "mm | in")
        self._unit.setToolTip("Lengths are shown in inches" if card.unit is Unit.INCH else "Lengths are shown in mm")
        self.setWindowTitle(f"{card.title or 'untitled card'}[*] · Fair Thicket")
        self.setWindowModified(session.is_dirty)
        group = session.undo_group
        group.setActiveStack(self.panes[self.here].undo_stack() or session.undo_stack)
        for key, words in (("undo", group.undoText()), ("redo", group.redoText())):
            self.actions_of.by_key[key].setToolTip(f"{key.capitalize()} {words}".strip())
        self.actions_of.refresh()
        self._show_path()

    def _show_steps(self) -> None:
        if self.session.undo_group.activeStack() is not None:  # stacks that go tell their group so
            self.refresh()

    def _show_path(self) -> None:
        for key, pane in self.panes.items():
            state = pane.state()
            self.path.marks[key].show_state(state.words, is_open=state.is_open, is_here=key == self.here)

    def _show_place(self, finding: object) -> None:
        if finding is not None:
            self.go(SCENE)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Take pages, drawings, cards and stash files that are dropped on the window."""
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths and self.is_furnished:
            event.acceptProposedAction()
            self.menu_actions.open_dropped(paths)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._message.place()

    def close_kept(self) -> None:
        """Close without asking; what is not saved stays kept for the next start."""
        self._keeps = True
        self.close()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.is_furnished:
            event.accept()
        elif self._keeps or self.menu_actions.may_leave():
            self.session.is_over = True
            for pane in self.panes.values():
                pane.close_workers()
            self.session.close(keeps=self._keeps)
            event.accept()
        else:
            event.ignore()


def _tool(words: str, row: QHBoxLayout, name: str = "") -> QToolButton:
    made = QToolButton()
    made.setText(words)
    made.setObjectName(name)
    row.addWidget(made)
    return made
