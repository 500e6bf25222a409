"""The desk's window: the bar at the top, the path at the left, the stations, and what is said to the maker.

The frame stands on Qt alone, so that it is painted at once with the card's own preview; `MainWindow.furnish` then
brings the stations, and with them the libraries that take a moment to load.
"""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMainWindow, QMenu, QStackedWidget, QToolButton, QVBoxLayout, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.path_bar import PathBar
from fair_thicket.desk.widgets.message import Message
from fair_thicket.desk.widgets.offer import Offer
from fair_thicket.desk.widgets.parts import Hint
from fair_thicket.desk.widgets.threshold import Threshold

if TYPE_CHECKING:
    from fair_thicket.desk.actions import Actions
    from fair_thicket.desk.deeds import Deeds
    from fair_thicket.desk.session import Session
    from fair_thicket.desk.stations.masks import MasksStation
    from fair_thicket.desk.stations.paper import PaperStation
    from fair_thicket.desk.stations.rehearsal import RehearsalStation
    from fair_thicket.desk.stations.scene import SceneStation
    from fair_thicket.desk.stations.stash import StashStation

STATIONS = ("Stash", "Scene", "Masks", "Rehearsal", "Paper")
STASH, SCENE, MASKS, REHEARSAL, PAPER = range(5)
PIN_KEYS = ("pin-first", "pin-sooner", "pin-later", "pin-together", "pin-unmasked", "pin-cut", "unpin", "mask-way")
MENUS = ("Card", "Piece", "Ink", "Masks", "View", "Help")


class MainWindow(QMainWindow):
    """One window, one card.

    Parameters
    ----------
    preview : bytes or None
        PNG of the card that is about to be opened, shown until the stations are there.

    Attributes
    ----------
    session : Session
    stash, scene, masks, rehearsal, paper
        The stations.
    actions_of : Actions
    deeds : Deeds
    offer : Offer
        What is offered at the head of the window.
    """

    session: "Session"
    stash: "StashStation"
    scene: "SceneStation"
    masks: "MasksStation"
    rehearsal: "RehearsalStation"
    paper: "PaperStation"
    actions_of: "Actions"
    deeds: "Deeds"

    def __init__(self, preview: bytes | None = None) -> None:
        super().__init__()
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
        self.path = PathBar(STATIONS)
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
        from fair_thicket.desk.actions import Actions
        from fair_thicket.desk.deeds import Deeds
        from fair_thicket.desk.stations.masks import MasksStation
        from fair_thicket.desk.stations.paper import PaperStation
        from fair_thicket.desk.stations.rehearsal import RehearsalStation
        from fair_thicket.desk.stations.scene import SceneStation
        from fair_thicket.desk.stations.stash import StashStation
        from fair_thicket.desk.widgets.pictures import StampPictures

        self.session = session
        self._pictures = pictures = StampPictures(session.pictures)
        self.stash = StashStation(session, pictures)
        self.scene = SceneStation(session, pictures)
        self.masks = MasksStation(session, pictures)
        self.rehearsal = RehearsalStation(session)
        self.paper = PaperStation(session)
        self._stack.removeWidget(self._threshold)
        self._threshold.deleteLater()
        for station in (self.stash, self.scene, self.masks, self.rehearsal, self.paper):
            self._stack.addWidget(station)
        self.deeds = Deeds(self, session)
        self.actions_of = Actions(self, self.deeds.records)
        for name, menu in self._menus.items():
            self.actions_of.fill(menu, name)
        for name, menu in self.scene.menus.items():
            self.actions_of.fill(menu, name)
        self.scene.piece.set_menu(self._menus["Piece"])
        self.masks.timetable.addActions([self.actions_of.by_key[key] for key in PIN_KEYS])
        for key, made in (("undo", self._undo), ("redo", self._redo)):
            made.setDefaultAction(self.actions_of.by_key[key])
        self._unit.clicked.connect(self.deeds.switch_unit)
        self._rehearse.clicked.connect(self.deeds.rehearse)
        session.said.connect(self._message.say)
        for signal in (session.cardChanged, session.fileChanged, session.selectionChanged, session.outcomeChanged):
            signal.connect(self.refresh)
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

    def go(self, index: int) -> None:
        """Go to a station."""
        if not self.is_furnished:
            return
        self._stack.setCurrentIndex(index)
        focus = {SCENE: self.scene.bench, MASKS: self.masks.timetable, REHEARSAL: self.rehearsal.slider}.get(index)
        if focus is not None:
            focus.setFocus()
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
        self.actions_of.refresh()
        for key, words in (("undo", session.undo_stack.undoText()), ("redo", session.undo_stack.redoText())):
            self.actions_of.by_key[key].setToolTip(f"{key.capitalize()} {words}".strip())
        self._show_path()

    def _show_path(self) -> None:
        from fair_thicket.model.finding import Weight
        from fair_thicket.model.tolerance import SLIGHT_MM

        session = self.session
        outcome = session.outcome
        here = self._stack.currentIndex()
        stamps, pieces = len(session.work.stash.stamps), len(session.work.card.pieces)
        states: list[tuple[str, bool]] = [(f"{stamps} stamps" if stamps else "empty", not stamps)]
        if outcome is None or not pieces:
            states += [
                (f"{pieces} pieces" if pieces else "empty", not pieces),
                ("–", False),
                ("–", False),
                ("–", False),
            ]
        else:
            for station in ("scene", "masks"):
                to_do = sum(
                    one.weight >= Weight.CAUTION and not one.is_dismissed
                    for one in outcome.findings
                    if one.station == station
                )
                states.append((f"{to_do} to settle" if to_do else "settled", to_do > 0))
            apart = len(outcome.rehearsal.differences)
            is_seen = any(one.width_mm > SLIGHT_MM for one in outcome.rehearsal.differences)
            states.append((f"{apart} {'apart' if is_seen else 'slight'}" if apart else "equal", is_seen))
            states.append(("ready", False))
        for index, (mark, (state, is_open)) in enumerate(zip(self.path.marks, states, strict=True)):
            mark.show_state(state, is_open=is_open, is_here=index == here)

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
            self.deeds.open_dropped(paths)

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
        elif self._keeps or self.deeds.may_leave():
            self.session.is_over = True
            self.stash.close_errands()
            self.masks.close_errands()
            self.paper.errand.close()
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
