"""The desk's window: the bar at the top, the path at the left, the stations, and what is said to the maker."""

from collections.abc import Callable, Collection
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCloseEvent, QResizeEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMainWindow,
    QMenu,
    QMessageBox,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from fair_thicket.desk import theme
from fair_thicket.desk.actions import Actions, Record
from fair_thicket.desk.path_bar import PathBar
from fair_thicket.desk.session import Session
from fair_thicket.desk.stations.masks import MasksStation
from fair_thicket.desk.stations.paper import PaperStation
from fair_thicket.desk.stations.rehearsal import RehearsalStation
from fair_thicket.desk.stations.scene import SceneStation
from fair_thicket.desk.stations.stash import StashStation
from fair_thicket.desk.widgets.parts import label
from fair_thicket.desk.widgets.pictures import StampPictures
from fair_thicket.files.card_file import SUFFIX
from fair_thicket.model.card import Card, Work
from fair_thicket.model.finding import Weight
from fair_thicket.model.formats import FORMATS, find_format
from fair_thicket.model.units import Unit, say_size
from fair_thicket.scene import edits

STATIONS = ("Stash", "Scene", "Masks", "Rehearsal", "Paper")
STASH, SCENE, MASKS, REHEARSAL, PAPER = range(5)
MESSAGE_MS = 6000


class MainWindow(QMainWindow):
    """One window, one card.

    Attributes
    ----------
    session : Session
    stash, scene, masks, rehearsal, paper
        The stations.
    actions_of : Actions
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setWindowIcon(theme.program_icon())
        self.setMinimumSize(1000, 640)
        self.resize(1280, 800)
        pictures = StampPictures(session.pictures)
        self._pictures = pictures
        self.stash = StashStation(session, pictures)
        self.scene = SceneStation(session, pictures)
        self.masks = MasksStation(session, pictures)
        self.rehearsal = RehearsalStation(session)
        self.paper = PaperStation(session)
        self._stack = QStackedWidget()
        for station in (self.stash, self.scene, self.masks, self.rehearsal, self.paper):
            self._stack.addWidget(station)
        self.path = PathBar(STATIONS)
        self.path.chosen.connect(self.go)
        self.actions_of = Actions(self, self._records())
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
        column.addLayout(row, 1)
        self.setCentralWidget(body)
        self._message = Message(body)
        session.said.connect(self._message.say)
        for signal in (session.cardChanged, session.fileChanged, session.selectionChanged, session.outcomeChanged):
            signal.connect(self.refresh)
        session.shown.connect(self._show_place)
        self.go(SCENE)

    # -- building ------------------------------------------------------------------------------------------------

    def _records(self) -> list[Record]:
        session = self.session

        def chosen() -> bool:
            return bool(session.selection)

        def on_chosen(words: str, change: Callable[[Work, Collection[str]], Work]) -> Callable[[], object]:
            return lambda: session.edit(words, lambda work: change(work, session.selection))

        return [
            Record("new", "Card", "New card", "Ctrl+N", self.new_card),
            Record("open", "Card", "Open a card …", "Ctrl+O", self.choose_card),
            Record("save", "Card", "Save", "Ctrl+S", self.save),
            Record("save-as", "Card", "Save under another name …", "Ctrl+Shift+S", self.save_as),
            Record("demo", "Card", "Open the demo card", "", self.open_demo),
            Record("title", "Card", "Name this card …", "", self.name_card),
            Record("format", "Card", "Choose its format …", "", self.choose_format),
            Record("quit", "Card", "Leave", "Ctrl+Q", self.close),
            Record("undo", "Edit", "Undo", "Ctrl+Z", session.undo_stack.undo, session.undo_stack.canUndo),
            Record("redo", "Edit", "Redo", "Ctrl+Shift+Z", session.undo_stack.redo, session.undo_stack.canRedo),
            Record(
                "all",
                "Image",
                "Choose all images",
                "Ctrl+A",
                lambda: session.select([piece.id for piece in session.work.card.pieces]),
            ),
            Record(
                "forward",
                "Image",
                "Bring forward past what it touches",
                "Alt+Up",
                on_chosen("bring forward", lambda work, keys: edits.step_past_overlap(work, keys, 1)),
                chosen,
            ),
            Record(
                "back",
                "Image",
                "Send back past what it touches",
                "Alt+Down",
                on_chosen("send back", lambda work, keys: edits.step_past_overlap(work, keys, -1)),
                chosen,
            ),
            Record(
                "front",
                "Image",
                "Bring in front of all",
                "Alt+Shift+Up",
                on_chosen("bring to the front", lambda work, keys: edits.to_end(work, keys, front=True)),
                chosen,
            ),
            Record(
                "rear",
                "Image",
                "Send behind all",
                "Alt+Shift+Down",
                on_chosen("send behind all", lambda work, keys: edits.to_end(work, keys, front=False)),
                chosen,
            ),
            Record(
                "turn-right",
                "Image",
                "Turn 1° clockwise",
                "Alt+Right",
                on_chosen("turn", lambda work, keys: edits.turn_by(work, keys, 1)),
                chosen,
            ),
            Record(
                "turn-left",
                "Image",
                "Turn 1° the other way",
                "Alt+Left",
                on_chosen("turn", lambda work, keys: edits.turn_by(work, keys, -1)),
                chosen,
            ),
            Record(
                "upright",
                "Image",
                "Set upright",
                "Alt+0",
                on_chosen("set upright", lambda work, keys: edits.turn_to(work, keys, 0)),
                chosen,
            ),
            Record("delete", "Image", "Take off the card", "Del", on_chosen("take off the card", edits.delete), chosen),
            Record("unit", "View", "Inches or millimetres", "Alt+U", self.switch_unit),
            *[
                Record(f"go-{name.lower()}", "View", f"Go to {name}", f"Alt+{index + 1}", partial(self.go, index))
                for index, name in enumerate(STATIONS)
            ],
            Record("rehearse", "View", "Rehearse the card", "Ctrl+R", self.rehearse),
            Record("keys", "Help", "Keys and mouse", "F1", self.show_keys),
            Record("about", "Help", "About Fair Thicket", "", self.show_about),
        ]

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
        self._title = label("", "cardTitle")
        row.addWidget(self._title)
        self._about_card = label("")
        row.addSpacing(12)
        row.addWidget(self._about_card)
        row.addStretch(1)
        for name in ("Card", "Image", "View", "Help"):
            row.addWidget(self._menu_button(name))
        row.addSpacing(8)
        for key in ("undo", "redo"):
            made = QToolButton()
            made.setDefaultAction(self.actions_of.by_key[key])
            row.addWidget(made)
        self._unit = QToolButton()
        self._unit.setObjectName("unitSwitch")
        self._unit.setAccessibleName("Unit: inches or millimetres")
        self._unit.clicked.connect(self.switch_unit)
        row.addWidget(self._unit)
        rehearse = QToolButton()
        rehearse.setObjectName("rehearseButton")
        rehearse.setText("Rehearse")
        rehearse.setToolTip("Perform the plan on simulated paper (Ctrl+R)")
        rehearse.clicked.connect(self.rehearse)
        row.addWidget(rehearse)
        return bar

    def _menu_button(self, name: str) -> QToolButton:
        made = QToolButton()
        made.setText(name)
        made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(made)
        self.actions_of.fill(menu, name)
        made.setMenu(menu)
        return made

    # -- showing -------------------------------------------------------------------------------------------------

    def go(self, index: int) -> None:
        """Go to a station."""
        self._stack.setCurrentIndex(index)
        focus = {SCENE: self.scene.bench, MASKS: self.masks.timetable, REHEARSAL: self.rehearsal.slider}.get(index)
        if focus is not None:
            focus.setFocus()
        self.refresh()

    def refresh(self) -> None:
        """Bring the bars in line with the card."""
        session = self.session
        self._pictures.pictures = session.pictures
        card = session.work.card
        saved = (
            "not saved yet"
            if session.path is None and session.is_dirty
            else ("changed since it was saved" if session.is_dirty else "saved" if session.path else "")
        )
        size = say_size(*card.panel, card.unit)
        facts = [f"{find_format(card.format).name} {'landscape' if card.landscape else 'portrait'}, {size}"]
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
        session = self.session
        outcome = session.outcome
        here = self._stack.currentIndex()
        stamps, pieces = len(session.work.stash.stamps), len(session.work.card.pieces)
        states: list[tuple[str, bool]] = [(f"{stamps} stamps" if stamps else "empty", not stamps)]
        if outcome is None or not pieces:
            states += [
                (f"{pieces} images" if pieces else "empty", not pieces),
                ("–", False),
                ("–", False),
                ("–", False),
            ]
        else:
            for station in ("scene", "masks"):
                to_do = sum(one.weight >= Weight.CAUTION for one in outcome.findings if one.station == station)
                states.append((f"{to_do} to settle" if to_do else "settled", to_do > 0))
            apart = len(outcome.rehearsal.differences)
            states.append((f"{apart} apart" if apart else "equal", apart > 0))
            states.append(("ready", False))
        for index, (mark, (state, is_open)) in enumerate(zip(self.path.marks, states, strict=True)):
            mark.show_state(state, is_open=is_open, is_here=index == here)

    def _show_place(self, finding: object) -> None:
        if finding is not None:
            self.go(SCENE)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._message.place()

    # -- asked for -----------------------------------------------------------------------------------------------

    def rehearse(self) -> None:
        """Go to the rehearsal and play it."""
        self.go(REHEARSAL)
        self.rehearsal.play()

    def switch_unit(self) -> None:
        """Show inches where millimetres were, and the other way round."""
        unit = Unit.MM if self.session.work.card.unit is Unit.INCH else Unit.INCH
        self.session.edit("switch the unit", lambda work: edits.set_card(work, unit=unit))

    def name_card(self) -> None:
        """Ask for the card's name."""
        words, taken = QInputDialog.getText(self, "Name this card", "Name:", text=self.session.work.card.title)
        if taken:
            title = words.strip()[:120]
            self.session.edit("name the card", lambda work: edits.set_card(work, title=title))

    def choose_format(self) -> None:
        """Ask for the card's format."""
        unit = self.session.work.card.unit
        names = [f"{one.name}, {say_size(one.width_mm, one.height_mm, unit)}" for one in FORMATS]
        present = [one.key for one in FORMATS].index(self.session.work.card.format)
        words, taken = QInputDialog.getItem(
            self, "Choose the format", "Card front, held upright:", names, present, False
        )
        if taken:
            key = FORMATS[names.index(words)].key
            self.session.edit("choose the format", lambda work: edits.set_card(work, format=key))

    def new_card(self) -> None:
        """Begin an empty card with the present stash."""
        if self._may_leave():
            work = Work(Card(unit=self.session.work.card.unit), self.session.work.stash)
            self.session.start(work, self.session.pictures)

    def open_demo(self) -> None:
        """Open the demo card."""
        from fair_thicket.demo import CARD_FILE
        from fair_thicket.files.card_file import open_card

        if self._may_leave():
            self.session.start(*open_card(CARD_FILE))
            self.go(SCENE)

    def choose_card(self) -> None:
        """Ask for a card file and open it."""
        if not self._may_leave():
            return
        folder = self.session.path.parent if self.session.path else Path.home()
        chosen, _ = QFileDialog.getOpenFileName(self, "Open a card", str(folder), f"Cards (*{SUFFIX})")
        if chosen and self.session.open(Path(chosen)):
            self.go(SCENE)

    def save(self) -> bool:
        """Save under the card's own name; ask for one when it has none."""
        return self.session.save(self.session.path) if self.session.path else self.save_as()

    def save_as(self) -> bool:
        """Ask for a name and save."""
        start = self.session.path or Path.home() / f"{self.session.work.card.title or 'card'}{SUFFIX}"
        chosen, _ = QFileDialog.getSaveFileName(self, "Save the card", str(start), f"Cards (*{SUFFIX})")
        if not chosen:
            return False
        path = Path(chosen)
        return self.session.save(path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX))

    def _may_leave(self) -> bool:
        """Ask what to do with a card that is not saved; False when the maker stays."""
        if not self.session.is_dirty:
            return True
        box = QMessageBox(self)
        box.setIcon(QMessageBox.Icon.NoIcon)
        box.setText(f"“{self.session.work.card.title or 'untitled card'}” is not saved.")
        box.setInformativeText("Save it before going on?")
        box.setStandardButtons(
            QMessageBox.StandardButton.Save | QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel
        )
        answer = box.exec()
        if answer == QMessageBox.StandardButton.Save:
            return self.save()
        return answer == QMessageBox.StandardButton.Discard

    def show_keys(self) -> None:
        """List keys and what the mouse does."""
        lines = [f"{keys}\t{words}" for words, keys in self.actions_of.list_keys()]
        mouse = [
            "Drag from the drawer\tstamp an image",
            "Drag on the card\tmove it",
            "Drag the honey knob\tturn it (Ctrl: no catch at upright)",
            "Shift and click\tchoose several",
            "Arrow keys\tnudge 1/16 in or 1 mm (Shift: four times as far)",
            ", and .\tchoose the next image",
            "Drag a bar of the thicket up\tbring it forward",
        ]
        _tell(self, "Keys and mouse", mouse + lines)

    def show_about(self) -> None:
        """Say what this is."""
        from fair_thicket import __version__

        _tell(
            self,
            "About Fair Thicket",
            [
                f"Fair Thicket {__version__}",
                "Rehearse the card before the first impression.",
                "MIT licence. Typeface Fernbank Sans: SIL Open Font License.",
            ],
        )

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._may_leave():
            self.stash.errand.close()
            self.paper.errand.close()
            self.session.close()
            event.accept()
        else:
            event.ignore()


def _tell(parent: QWidget, title: str, lines: list[str]) -> None:
    """Show lines in a box; a tab parts keys from words."""
    rows = "".join(
        f"<tr><td style='padding-right:18px'><b>{_plain(first)}</b></td><td>{_plain(rest)}</td></tr>"
        for first, _, rest in (line.partition("\t") for line in lines)
    )
    box = QMessageBox(parent)
    box.setIcon(QMessageBox.Icon.NoIcon)
    box.setWindowTitle(title)
    box.setTextFormat(Qt.TextFormat.RichText)
    box.setText(f"<h3>{_plain(title)}</h3><table cellspacing=4>{rows}</table>")
    box.exec()


def _plain(words: str) -> str:
    return words.replace("&", "&amp;").replace("<", "&lt;")


class Message(QLabel):
    """One sentence at the foot of the window that goes by itself."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("message")
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.hide()
        self._clock = QTimer(self)
        self._clock.setSingleShot(True)
        self._clock.timeout.connect(self.hide)

    def say(self, words: str) -> None:
        """Show a sentence for a while."""
        self.setText(words)
        self.place()
        self.show()
        self.raise_()
        self._clock.start(max(MESSAGE_MS, 60 * len(words)))

    def place(self) -> None:
        """Stand at the foot of the window, in the middle."""
        parent = self.parentWidget()
        if parent is None:
            return
        self.setMaximumWidth(min(620, parent.width() - 80))
        self.setMinimumWidth(min(self.maximumWidth(), self.fontMetrics().horizontalAdvance(self.text()) + 40))
        self.adjustSize()
        self.move((parent.width() - self.width()) // 2, parent.height() - self.height() - 18)
