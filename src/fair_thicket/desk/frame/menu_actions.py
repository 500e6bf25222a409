"""What can be asked of the desk: the records of its actions, and those that ask the maker something first."""

from collections.abc import Callable, Collection, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMessageBox, QWidget

from fair_thicket import edits
from fair_thicket.desk.frame.actions import Record, line
from fair_thicket.desk.frame.keys import Keys
from fair_thicket.desk.frame.look_actions import LookActions
from fair_thicket.desk.frame.recent import are_any_kept, recent_cards, remember_card
from fair_thicket.desk.frame.station import Frame, Station
from fair_thicket.desk.ink.extend_actions import ExtendActions
from fair_thicket.desk.ink.ink_actions import InkActions
from fair_thicket.desk.ink.wash_actions import WashActions
from fair_thicket.desk.masks.mask_actions import MaskActions
from fair_thicket.desk.parts.form import Field, Values, ask
from fair_thicket.desk.parts.save_place import ask_save_place, ask_which
from fair_thicket.desk.rehearsal.station import RehearsalStation
from fair_thicket.desk.scene.add_actions import AddActions
from fair_thicket.desk.scene.border_actions import BorderActions
from fair_thicket.desk.scene.flap_actions import FlapActions
from fair_thicket.desk.scene.paper_actions import PaperActions
from fair_thicket.desk.scene.piece_actions import PieceActions
from fair_thicket.desk.scene.piece_details import DetailActions
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.scene.word_actions import WordActions
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.stash.station import INTAKE, LIBRARY, StashStation
from fair_thicket.desk.stations import REHEARSAL, SCENE, STASH
from fair_thicket.edits.refit import Refit, refit
from fair_thicket.files.card_file import SUFFIX
from fair_thicket.files.places import file_stem
from fair_thicket.files.stash_file import SUFFIX as STASH_SUFFIX
from fair_thicket.model.card import Card, Work
from fair_thicket.model.declared import limit_of
from fair_thicket.model.formats import FORMATS, Fold, blank_of
from fair_thicket.model.units import Unit, say_length, say_size

DEMOS = "Card/Open another demo card"
FOLDS = (Fold.TOP, Fold.SIDE)


class MenuActions:
    """Everything that is done for the maker by menu, key or button.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, window: Frame, session: Session, stations: Sequence[Station]) -> None:
        self.window, self.session = window, session
        self._stations = stations
        scene = window.panes.of(SceneStation)
        self.adding = AddActions(scene, session)
        self.words = WordActions(scene, session)
        self.pieces = PieceActions(scene, session)
        self.flaps = FlapActions(scene, session)
        self.looking = LookActions(scene, session)
        self.details = DetailActions(scene, session)
        self.papers = PaperActions(scene, session)
        self.borders = BorderActions(scene, session)
        self.masks = MaskActions(window, session)
        self.inks = InkActions(scene, session, lambda: window.go(SCENE))
        self.washes = WashActions(scene, session, lambda: window.go(SCENE))
        self.extending = ExtendActions(scene, session, lambda: window.go(SCENE))
        self.records = self._records()
        session.fileChanged.connect(self._remember)

    def _records(self) -> list[Record]:
        session, go = self.session, self.window.go

        def chosen() -> bool:
            return bool(session.selection)

        def on_chosen(words: str, change: Callable[[Work, Collection[str]], Work]) -> Callable[[], object]:
            return lambda: session.edit(words, lambda work: change(work, session.selection))

        return [
            Record("new", "Card", "New card", "Ctrl+N", self.new_card),
            Record("open", "Card", "Open a card …", "Ctrl+O", self.choose_card),
            Record(
                "recent",
                "Card",
                "Open a recent card",
                "",
                _nothing,
                are_any_kept,
                lines=self.list_recent,
            ),
            Record("save", "Card", "Save", "Ctrl+S", self.save),
            Record("save-as", "Card", "Save under another name …", "Ctrl+Shift+S", self.save_as),
            line("Card"),
            Record("demo", "Card", "Open the demo card", "", self.open_demo),
            Record("demo-window", DEMOS, "Through a fern window", "", partial(self.open_demo, 1)),
            Record("demo-slimline", DEMOS, "A slimline", "", partial(self.open_demo, 2)),
            Record("demo-dusk", DEMOS, "Round a dusk wash", "", partial(self.open_demo, 3)),
            Record("demo-clouds", DEMOS, "Under a stepped sky", "", partial(self.open_demo, 4)),
            Record("demo-night", DEMOS, "With words, finishes and an inside", "", partial(self.open_demo, 5)),
            line("Card"),
            Record("title", "Card", "Name this card …", "", self.name_card),
            Record("format", "Card", "Choose its format …", "", self.choose_format),
            *self.papers.of_base,
            Record("quit", "Card", "Leave", "Ctrl+Q", self.window.close, is_last=True),
            Record("undo", "Edit", "Undo", "Ctrl+Z", session.undo_group.undo, session.undo_group.canUndo),
            Record("redo", "Edit", "Redo", "Ctrl+Shift+Z", session.undo_group.redo, session.undo_group.canRedo),
            Record(
                "all",
                "Piece",
                "Choose all pieces",
                "Ctrl+A",
                lambda: session.select([piece.id for piece in session.work.card.pieces]),
            ),
            Record(
                "forward",
                "Piece/Order and turn",
                "Bring forward past what it touches",
                "Alt+Up",
                on_chosen("bring forward", lambda work, keys: edits.step_past_overlap(work, keys, 1)),
                chosen,
            ),
            Record(
                "back",
                "Piece/Order and turn",
                "Send back past what it touches",
                "Alt+Down",
                on_chosen("send back", lambda work, keys: edits.step_past_overlap(work, keys, -1)),
                chosen,
            ),
            Record(
                "front",
                "Piece/Order and turn",
                "Bring in front of all",
                "Alt+Shift+Up",
                on_chosen("bring to the front", lambda work, keys: edits.to_end(work, keys, front=True)),
                chosen,
            ),
            Record(
                "rear",
                "Piece/Order and turn",
                "Send behind all",
                "Alt+Shift+Down",
                on_chosen("send behind all", lambda work, keys: edits.to_end(work, keys, front=False)),
                chosen,
            ),
            Record(
                "turn-right",
                "Piece/Order and turn",
                "Turn 1° clockwise",
                "Alt+Right",
                on_chosen("turn", lambda work, keys: edits.turn_by(work, keys, 1)),
                chosen,
            ),
            Record(
                "turn-left",
                "Piece/Order and turn",
                "Turn 1° the other way",
                "Alt+Left",
                on_chosen("turn", lambda work, keys: edits.turn_by(work, keys, -1)),
                chosen,
            ),
            Record(
                "upright",
                "Piece/Order and turn",
                "Set upright",
                "Alt+0",
                on_chosen("set upright", lambda work, keys: edits.turn_to(work, keys, 0)),
                chosen,
            ),
            Record("delete", "Piece", "Take off the card", "Del", on_chosen("take off the card", edits.delete), chosen),
            *self.adding.records,
            *self.words.records,
            *self.extending.records,
            *self.papers.records,
            *self.details.records,
            *self.borders.records,
            *self.pieces.records,
            *self.flaps.records,
            *self.looking.records,
            *self.masks.records,
            *self.inks.records,
            *self.washes.records,
            Record("turn-page", "View", "Open or close the card", "Alt+I", self.turn_page),
            Record("unit", "View", "Inches or millimetres", "Alt+U", self.switch_unit),
            *[
                Record(f"go-{station.key}", "View", f"Go to {station.title}", f"Alt+{number}", partial(go, station.key))
                for number, station in enumerate(self._stations, start=1)
            ],
            *[record for pane in self.window.panes.values() for record in pane.records()],
            Record("rehearse", "View", "Rehearse the card", "Ctrl+R", self.rehearse),
            Record("keys", "Help", "Keys and mouse", "F1", self.show_keys),
            Record("about", "Help", "About Fair Thicket", "", self.show_about),
        ]

    def rehearse(self) -> None:
        """Go to the rehearsal and play it."""
        self.window.go(REHEARSAL)
        self.window.panes.of(RehearsalStation).play()

    def turn_page(self) -> None:
        """Open the card to its inside page, or close it."""
        self.session.open_card(is_open=not self.session.is_open)

    def switch_unit(self) -> None:
        """Show inches where millimetres were, and the other way round."""
        unit = Unit.MM if self.session.work.card.unit is Unit.INCH else Unit.INCH
        self.session.edit("switch the unit", lambda work: edits.set_card(work, unit=unit))

    def name_card(self) -> None:
        """Ask for the card's name."""
        words, taken = QInputDialog.getText(self.window, "Name this card", "Name:", text=self.session.work.card.title)
        if taken:
            title = words.strip()[:120]
            self.session.edit("name the card", lambda work: edits.set_card(work, title=title))

    def choose_format(self) -> None:
        """Ask for the card's format, say what to cut and score for it, and fit the scene to it."""
        session = self.session
        card = session.work.card
        unit = card.unit
        formats = [*FORMATS, None]
        names = [f"{one.name}, {say_size(one.width_mm, one.height_mm, unit)}" if one else "own size" for one in formats]
        keys = [one.key if one else "custom" for one in formats]
        short, long = sorted(card.custom_mm or (card.panel if card.format == "custom" else (100.0, 150.0)))
        fields = [
            Field("format", "Front, held upright", "choice", keys.index(card.format), names),
            Field("way", "Way round", "choice", 0 if card.landscape else 1, ("landscape", "portrait")),
            Field("fold", "Fold", "choice", FOLDS.index(card.fold), ("at the top", "at the side")),
            Field("short", "Own size: short side", "length", short, limit=limit_of(Card, "custom_mm[0]")),
            Field("long", "Own size: long side", "length", long, limit=limit_of(Card, "custom_mm[1]")),
        ]

        def make(work: Work, values: Values) -> Refit:
            size = (values.number("short"), values.number("long"))
            return refit(
                work,
                format=keys[values.whole("format")],
                landscape=values["way"] == 0,
                fold=FOLDS[values.whole("fold")],
                custom_mm=size,
            )

        def tell(values: Values) -> str:
            made = make(session.work, values)
            front = made.work.card.panel
            width, height, score = blank_of(front, made.work.card.fold)
            words = f"Cut the base {say_size(width, height, unit)}, score it at {say_length(score, unit)}. "
            return words + (" ".join(made.misfits) or "Everything on the card fits.")

        values = ask(self.window, "Format of the card", fields, unit=unit, tell=tell, done="Take this")
        if values is not None:
            session.edit("choose the format", lambda work: make(work, values).work)

    def new_card(self) -> None:
        """Begin an empty card with the present stash."""
        if self.may_leave():
            work = Work(Card(unit=self.session.work.card.unit), self.session.work.stash)
            self.session.start(work, self.session.pictures)

    def open_demo(self, number: int = 0) -> None:
        """Open one of the demo cards."""
        from fair_thicket.demo import CARD_FILES
        from fair_thicket.files.card_file import open_card

        if self.may_leave():
            self.session.start(*open_card(CARD_FILES[number]))
            self.window.go(SCENE)

    def choose_card(self) -> None:
        """Ask for a card file and open it."""
        if not self.may_leave():
            return
        folder = self.session.path.parent if self.session.path else Path.home()
        chosen, _ = QFileDialog.getOpenFileName(self.window, "Open a card", str(folder), f"Cards (*{SUFFIX})")
        if chosen and self.session.open(Path(chosen)):
            self.window.go(SCENE)

    def list_recent(self) -> list[tuple[str, Callable[[], object]]]:
        """List the cards that were open last, by name and folder."""

        def open_one(path: Path) -> None:
            if self.may_leave() and self.session.open(path):
                self.window.go(SCENE)

        present = self.session.path
        return [
            (f"{path.stem}   ·   {_short(path.parent)}".replace("&", "&&"), partial(open_one, path))
            for path in recent_cards()
            if present is None or path != present.absolute()
        ]

    def _remember(self) -> None:
        if self.session.path is not None and not self.session.is_dirty:
            remember_card(self.session.path)

    def open_dropped(self, paths: Sequence[Path]) -> None:
        """Open what was dropped on the window: a card, a part of a library, or pages with images."""
        first = paths[0]
        if first.suffix == SUFFIX:
            if self.may_leave() and self.session.open(first):
                self.window.go(SCENE)
        elif first.suffix == STASH_SUFFIX:
            self.window.go(STASH)
            stash = self.window.panes.of(StashStation)
            stash.show_pane(LIBRARY)
            stash.library.bring_in_file(first)
        else:
            self.window.go(STASH)
            stash = self.window.panes.of(StashStation)
            stash.show_pane(INTAKE)
            stash.intake.open_files(paths)

    def save(self) -> bool:
        """Save under the card's own name; ask for one when it has none, and first when another program wrote there."""
        session = self.session
        if session.path is None:
            return self.save_as()
        if session.is_outdated:
            words = f"{session.path.name} was changed by another program since it was opened here."
            answer = ask_which(self.window, words, "What is to be kept?", ("Save over it", "Save under another name"))
            if answer != "Save over it":
                return self.save_as() if answer else False
        return session.save(session.path)

    def save_as(self) -> bool:
        """Ask for a name and save."""
        start = self.session.path or Path.home() / f"{file_stem(self.session.work.card.title)}{SUFFIX}"
        path = ask_save_place(self.window, "Save the card", start=start, kinds=f"Cards (*{SUFFIX})", suffix=SUFFIX)
        return path is not None and self.session.save(path)

    def may_leave(self) -> bool:
        """Ask what to do with a card that is not saved; False when the maker stays."""
        if not self.session.is_dirty:
            return True
        box = QMessageBox(self.window)
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
        dialog = Keys(self.window.actions_of.list_keys(), self.window)
        dialog.exec()
        dialog.deleteLater()

    def show_about(self) -> None:
        """Say what this is."""
        from fair_thicket import __version__

        _tell(
            self.window,
            "About Fair Thicket",
            [
                f"Fair Thicket {__version__}",
                "Rehearse the card before the first impression.",
                "MIT licence. Typeface Fernbank Sans: SIL Open Font License.",
            ],
        )


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


def _nothing() -> None:
    """Do nothing: the lines of the menu do."""


def _short(folder: Path) -> str:
    """Say a folder from the maker's own on."""
    home = Path.home()
    return f"~/{folder.relative_to(home)}" if folder.is_relative_to(home) else str(folder)
