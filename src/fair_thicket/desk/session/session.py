"""The session: holds the card, steps it forward by edits, and asks the engines about it."""

import hashlib
from collections.abc import Callable, Collection, Mapping
from pathlib import Path
from typing import NamedTuple

import msgspec
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QUndoGroup, QUndoStack

from fair_thicket.desk.session.background import Worker, timer_of
from fair_thicket.desk.session.own_library import OwnLibrary
from fair_thicket.desk.session.thinking import Glance, Outcome, glance_at, think
from fair_thicket.desk.session.undo_step import Step
from fair_thicket.edits.pieces import add_stamps
from fair_thicket.files.card_file import open_card, pack_card, save_card
from fair_thicket.files.places import Fingerprint, fingerprint_of, has_changed
from fair_thicket.files.recovery import Autosave, Recovered, drop_recovered
from fair_thicket.laid.soundness import check_work
from fair_thicket.laid.visibility import View, look
from fair_thicket.library import Library
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.derived import begin_with, let_go
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.sides import turn_over
from fair_thicket.model.stash import Stamp, new_key
from fair_thicket.model.supplies import Supply
from fair_thicket.scene.balance import Balance, weigh

GLANCE_DELAY_MS = 0
THINK_DELAY_MS = 140
AUTOSAVE_DELAY_MS = 4000


class _Made(NamedTuple):
    """An edit that was worked out elsewhere."""

    words: str
    before: Work
    after: Work
    told: Callable[[], object]


class Session(OwnLibrary):
    """Holds the card.

    Attributes
    ----------
    work : Work
        The card and its stash as they are now, the side that is looked at in the place of its front.
    is_open : bool
        Whether the card is open, its inside page looked at.
    glance : Glance or None
        What was last seen at a glance; `glance.work is work` when it is fresh.
    balance : Balance or None
        How the card was last weighed.
    pictures : dict
        Pictures of stamps by name; only grows, so that undo never misses one.
    selection : frozenset of str
        Ids of the chosen pieces.
    undo_group : QUndoGroup
        The card's steps, and those of a station that has steps of its own while one is there.
    outcome : Outcome or None
        What the engines last said; `outcome.work is work` when it is fresh.
    cardChanged, selectionChanged, glanceChanged, balanceChanged, outcomeChanged, fileChanged : Signal()
    shown : Signal(object)
        A finding to be shown on the bench, or None.
    is_over : bool
        Whether the window is closing.
    """

    cardChanged = Signal()
    selectionChanged = Signal()
    glanceChanged = Signal()
    balanceChanged = Signal()
    outcomeChanged = Signal()
    fileChanged = Signal()
    shown = Signal(object)

    def __init__(
        self, autosave: Autosave | None = None, library: Library | None = None, parent: QObject | None = None
    ) -> None:
        super().__init__(library, parent)
        self.work = Work()
        self.is_over = False
        self.pictures: dict[str, bytes] = {}
        self.selection: frozenset[str] = frozenset()
        self.is_open = False
        self.glance: Glance | None = None
        self.balance: Balance | None = None
        self.outcome: Outcome | None = None
        self.path: Path | None = None
        self._as_read: Fingerprint | None = None
        self.names: dict[str, str] = {}
        self.undo_stack = QUndoStack(self)
        self.undo_group = QUndoGroup(self)
        self.undo_group.addStack(self.undo_stack)
        self.undo_group.setActiveStack(self.undo_stack)
        self.undo_stack.cleanChanged.connect(self._tell_file)
        self.undo_stack.indexChanged.connect(lambda: self.teach_library(self.work.stash, self.pictures))
        self._autosave = autosave
        self._glancer = Worker(self)
        self._glancer.done.connect(self._take_glance)
        self._glancer.failed.connect(self.said)
        self._weigher = Worker(self)
        self._weigher.done.connect(self._take_balance)
        self._weigher.failed.connect(self.said)
        self._thinker = Worker(self)
        self._thinker.done.connect(self._take_outcome)
        self._thinker.failed.connect(self.said)
        self._keeper = Worker(self)
        self._keeper.failed.connect(self.said)
        self._editor = Worker(self)
        self._editor.done.connect(self._take_edit)
        self._editor.failed.connect(self.said)
        self._glance_soon = timer_of(self, GLANCE_DELAY_MS, self._ask_glance)
        self._think_soon = timer_of(self, THINK_DELAY_MS, self._ask_engines)
        self._keep_soon = timer_of(self, AUTOSAVE_DELAY_MS, self.keep)

    # -- edits ---------------------------------------------------------------------------------------------------

    def edit(self, words: str, change: Callable[[Work], Work], *, merge_key: str = "") -> bool:
        """Change the card by a pure function; what paper cannot do is said and changes nothing.

        Parameters
        ----------
        words : str
            For the undo menu, such as “move snail”.
        change : callable
            From the work to the next; raises ThicketError to refuse.
        merge_key : str
            Consecutive edits with one key are one step of undo.
        """
        try:
            return self.change(words, change, merge_key=merge_key)
        except ThicketError as problem:
            self.said.emit(str(problem))
            return False

    def change(self, words: str, change: Callable[[Work], Work], *, merge_key: str = "") -> bool:
        """Change the card as `edit` does, for one who answers a refusal; ThicketError goes on to the caller."""
        after = change(self.work)
        if after == self.work:
            return False
        check_work(after, self.work)
        self.undo_stack.push(Step(words, self.work, after, self._assign, is_open=self.is_open, merge_key=merge_key))
        return True

    def edit_elsewhere(
        self, words: str, change: Callable[[Work], Work], told: Callable[[], object] = lambda: None
    ) -> None:
        """Change the card by a pure function that takes its time; dropped when the card has changed meanwhile.

        Parameters
        ----------
        told : callable
            Called once the card is changed.
        """
        work = self.work

        def made() -> _Made:
            return _Made(words, work, change(work), told)

        self._editor.ask(made)

    def _take_edit(self, made: "_Made") -> None:
        if made.before is self.work:
            self.edit(made.words, lambda _: made.after)
            made.told()

    @property
    def view(self) -> View:
        """The present card as it is seen; what has not changed since the last view is taken over."""
        return look(self.work)

    @property
    def whole(self) -> Work:
        """The card closed, as files hold it."""
        return turn_over(self.work) if self.is_open else self.work

    def add_picture(self, png: bytes) -> str:
        """Keep a picture for what is to come into the stash; gives its name."""
        name = f"images/pattern-{hashlib.sha256(png).hexdigest()[:10]}.png"
        self.pictures[name] = png
        return name

    def open_card(self, *, is_open: bool) -> None:
        """Open the card to look at its inside page, or close it; nothing of it is changed."""
        if is_open != self.is_open:
            work = turn_over(self.work)
            is_saved = self.undo_stack.isClean()
            self._assign(work, is_open=is_open)
            if is_saved:
                self._keep_soon.stop()

    def _assign(self, work: Work, *, is_open: bool) -> None:
        if work is not self.work:
            begin_with(work, self.work)
            let_go(self.work)
        self.work, self.is_open = work, is_open
        self.names = name_pieces(work)
        chosen = self.selection
        self.selection = chosen & self.names.keys()  # before anyone looks: no view may meet a piece that is gone
        self.cardChanged.emit()
        if chosen != self.selection:
            self.selectionChanged.emit()
        self._glance_soon.start()
        self._think_soon.start()
        self._keep_soon.start()

    def select(self, keys: Collection[str]) -> None:
        """Choose pieces."""
        chosen = frozenset(keys)
        if chosen != self.selection:
            self.selection = chosen
            self.selectionChanged.emit()

    def _tell_file(self, _is_clean: bool) -> None:
        self.fileChanged.emit()

    @property
    def is_dirty(self) -> bool:
        """Whether the card differs from its file."""
        return not self.undo_stack.isClean()

    # -- engines -------------------------------------------------------------------------------------------------

    @property
    def is_thinking(self) -> bool:
        """Whether the engines have not yet spoken about the present card."""
        return (
            self._think_soon.isActive()
            or self._thinker.is_busy
            or self._glance_soon.isActive()
            or self._glancer.is_busy
            or self._weigher.is_busy
            or self._editor.is_busy
        )

    def _ask_glance(self) -> None:
        work, view = self.work, self.view
        self._glancer.ask(lambda: glance_at(work, view))

    def _take_glance(self, glance: Glance) -> None:
        if glance.work is self.work:
            self.glance = glance
            self.glanceChanged.emit()
            self._weigher.ask(lambda: (glance.work, weigh(glance.view)))

    def _take_balance(self, weighed: tuple[Work, Balance]) -> None:
        if weighed[0] is self.work:
            self.balance = weighed[1]
            self.balanceChanged.emit()

    def _ask_engines(self) -> None:
        work, pictures = self.work, dict(self.pictures)
        earlier = None
        if (
            self.outcome is not None
            and self.outcome.work.card.pieces == work.card.pieces
            and self.outcome.work.card.masking.pins == work.card.masking.pins
            and self.outcome.work.card.panel == work.card.panel
            and self.outcome.work.stash == work.stash
        ):
            earlier = (self.outcome.plan, self.outcome.refused)
        view = self.view
        own: list[Supply] = [*self.own_inks(), *self.own_markers(), *self.own_papers()]
        self._thinker.ask(lambda: think(work, pictures, view, earlier, own, go_on=lambda: self.is_wanted(work)))

    def is_wanted(self, work: Work) -> bool:
        """Whether anyone still asks about a work: long searches end early when nobody does."""
        return self.work is work and not self.is_over

    def _take_outcome(self, outcome: Outcome) -> None:
        if outcome.work is self.work:
            self.outcome = outcome
            self.outcomeChanged.emit()

    # -- the library ---------------------------------------------------------------------------------------------

    def adopt(self, stamp: Stamp, pictures: Mapping[str, bytes]) -> Stamp:
        """Put an image of the library into the card's stash, unless it is there; returns the stash's own."""
        for own in self.work.stash.stamps:
            if own.picture == stamp.picture:
                return own
        taken = {one.id for one in self.work.stash.stamps}
        own = msgspec.structs.replace(stamp, id=new_key(stamp.name, taken))
        self.pictures.update(pictures)
        self.edit(f"take {own.name} from the library", lambda work: add_stamps(work, [own]))
        return own

    # -- files ---------------------------------------------------------------------------------------------------

    def start(self, work: Work, pictures: dict[str, bytes], path: Path | None = None) -> None:
        """Take up another card; the one before is given up."""
        if self._autosave is not None:
            self._keep_soon.stop()
            self._autosave.drop()
        self.undo_stack.clear()
        brought = dict(pictures)
        self.pictures.clear()  # the same dictionary all along: whoever draws holds on to it
        self.pictures.update(brought)
        self.note_known(work.stash)
        self.path = path
        self._as_read = fingerprint_of(path) if path is not None else None
        self.outcome = None
        self.selection = frozenset()
        self.glance, self.balance = None, None
        self._assign(work, is_open=False)
        self._keep_soon.stop()
        self.selectionChanged.emit()
        self.outcomeChanged.emit()
        self.fileChanged.emit()

    def open(self, path: Path) -> bool:
        """Open a card; when it cannot be opened the reason is said and the present card stays."""
        try:
            work, pictures = open_card(path)
        except ThicketError as problem:
            self.said.emit(str(problem))
            return False
        self.start(work, pictures, path)
        return True

    def save(self, path: Path) -> bool:
        """Save the card; when it cannot be saved the reason is said and the old file stays."""
        try:
            save_card(path, self.whole, self.pictures)
        except ThicketError as problem:
            self.said.emit(str(problem))
            return False
        self.path = path
        self._as_read = fingerprint_of(path)
        self.undo_stack.setClean()
        self._keep_soon.stop()
        if self._autosave is not None:
            self._autosave.drop()
        self.fileChanged.emit()
        self.said.emit(f"Saved as {path.name}.")
        return True

    @property
    def is_outdated(self) -> bool:
        """Whether the card's file was changed by someone else since it was opened or saved here."""
        return self.path is not None and has_changed(self.path, self._as_read)

    def recover(self, recovered: Recovered) -> bool:
        """Take up the work of a program that was killed; it counts as not saved."""
        try:
            work, pictures = open_card(recovered.autosave)
        except ThicketError as problem:
            self.said.emit(str(problem))
            return False
        self.start(work, pictures, Path(recovered.path) if recovered.path else None)
        if recovered.as_read is not None:  # the file as it was when the lost program opened it
            self._as_read = recovered.as_read
        self.undo_stack.resetClean()
        self.fileChanged.emit()
        self.keep(wait=True)
        drop_recovered(recovered)
        return True

    def keep(self, *, wait: bool = False) -> None:
        """Autosave now, away from the interface thread unless asked to wait."""
        if self._autosave is None or not self.is_dirty:
            return
        autosave, work, pictures, path = self._autosave, self.whole, dict(self.pictures), str(self.path or "")
        as_read = self._as_read

        def write() -> None:
            autosave.keep_packed(pack_card(work, pictures), work.card.title, path, as_read)

        if wait:
            try:
                write()
            except ThicketError as problem:
                self.said.emit(str(problem))
        else:
            self._keeper.ask(write)

    def close(self, *, keeps: bool = False) -> None:
        """End the session: threads stop, the autosave of a card that was given up or saved is dropped.

        Parameters
        ----------
        keeps : bool
            The program is ended from without: an autosave stays, and is offered at the next start.
        """
        self._glance_soon.stop()
        self._think_soon.stop()
        self._keep_soon.stop()
        self._glancer.close()
        self._weigher.close()
        self._editor.close()
        self._thinker.close()
        self._keeper.close()
        if self._autosave is not None and not (keeps and self.is_dirty):
            self._autosave.drop()
        self.close_library()
