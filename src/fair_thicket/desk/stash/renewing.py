"""Offers to renew outlines that run along their lines: of the card's stamps by itself, of the library when asked."""

from collections.abc import Callable, Sequence
from contextlib import closing
from functools import partial
from pathlib import Path

import msgspec
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QUndoCommand
from PySide6.QtWidgets import QHBoxLayout, QWidget

from fair_thicket import edits
from fair_thicket.desk.parts.controls import button, label
from fair_thicket.desk.parts.pictures import StampPictures
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.stash.renew_dialog import RenewDialog
from fair_thicket.intake.renewing import Renewal, find_renewals
from fair_thicket.library import Library, open_library
from fair_thicket.model.errors import StoppedError
from fair_thicket.model.stash import Stamp


def say_renewals(count: int) -> str:
    """Say how many images want another outline."""
    return (
        "1 image has its outline along its lines, not round its body."
        if count == 1
        else f"{count} images have their outlines along their lines, not round their bodies."
    )


class CardRenewals(QWidget):
    """A row that says how many of the card's stamps have outlines along their lines; gone while there is none.

    Attributes
    ----------
    renewals : list of Renewal
    worker : Worker
        Looks for them.
    """

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._pictures = session, pictures
        self._asked: object = None
        self.renewals: list[Renewal] = []
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(session.said)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 6, 0)
        self._words = label("", wrap=True)
        row.addWidget(self._words, 1)
        row.addWidget(button("Renew …", self.renew, tip="See them beside what is found today, and choose"))
        self.hide()

    def look(self) -> None:
        """Look at the card's stamps, where they have changed since they were last looked at."""
        stamps = self._session.work.stash.stamps
        shapes = tuple((stamp.id, stamp.picture, stamp.outline, stamp.pockets) for stamp in stamps)
        if shapes == self._asked:
            return
        self._asked = shapes
        self._take([])  # what was found speaks of stamps that may be gone
        pictures = {stamp.picture: self._session.pictures.get(stamp.picture, b"") for stamp in stamps}
        self.worker.ask_stoppable(lambda go_on: find_renewals(stamps, pictures, go_on))

    def _take(self, renewals: list[Renewal]) -> None:
        self.renewals = renewals
        self._words.setText(say_renewals(len(renewals)))
        self.setVisible(bool(renewals))

    def renew(self) -> None:
        """Show them side by side; what is chosen is taken over as one step, and the plan follows."""
        words = "Masks, heights and order of the card are worked out again; one undo takes all of it back."
        dialog = RenewDialog(self.renewals, self._pictures, words, self.window())
        if dialog.exec() and dialog.chosen:
            chosen = [renewal.after for renewal in dialog.chosen]
            what = f"renew {len(chosen)} outline{'' if len(chosen) == 1 else 's'}"
            self._session.edit(what, lambda work: edits.renew_outlines(work, chosen))


class LibraryRenewals(QObject):
    """Looks through images of the library for outlines along their lines.

    Attributes
    ----------
    worker : Worker
    stepMade : Signal(QUndoCommand)
        What is to go onto the pane's steps.
    """

    stepMade = Signal(object)

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session, self._window = session, parent
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(session.said)

    def look(self, numbers: Sequence[int]) -> None:
        """Look at images by their numbers; while that goes on, looking again stops it."""
        library = self._session.library
        if self.worker.is_busy:
            self.worker.cancel()
        elif library is not None and numbers:
            self.worker.ask_stoppable(partial(find_in_library, library.path, tuple(numbers)))

    def _take(self, found: "FoundInLibrary") -> None:
        if not found.renewals:
            self._session.said.emit("Every outline runs round its body: there is nothing to renew.")
            return
        pictures = StampPictures(found.pictures)
        words = "Cards keep their own copies: open a card and look under “on this card”."
        dialog = RenewDialog(found.renewals, pictures, words, self._window.window())
        if dialog.exec() and dialog.chosen:
            chosen = {id(renewal) for renewal in dialog.chosen}
            pairs = [
                (number, renewal)
                for number, renewal in zip(found.numbers, found.renewals, strict=True)
                if id(renewal) in chosen
            ]
            self.stepMade.emit(_RenewStep(pairs, self._session.change_library))


class FoundInLibrary(msgspec.Struct, frozen=True):
    """Outlines to be renewed, the numbers of their images, and the images' pictures."""

    numbers: list[int]
    renewals: list[Renewal]
    pictures: dict[str, bytes]


def find_in_library(path: Path, numbers: Sequence[int], go_on: Callable[[], bool]) -> FoundInLibrary:
    """Look at images of a library, each with its pictures; those that were taken out meanwhile are passed over.

    Raises
    ------
    StoppedError
        When `go_on` said so.
    """
    found = FoundInLibrary([], [], {})
    with closing(open_library(path)) as library:
        for number in numbers:
            if not go_on():
                raise StoppedError("outlines")
            try:
                stamp, pictures = library.load(number)
            except KeyError:
                continue
            for renewal in find_renewals([stamp], pictures):
                found.numbers.append(number)
                found.renewals.append(renewal)
                found.pictures.update(pictures)
    return found


class _RenewStep(QUndoCommand):
    """Outlines of the library that are renewed, or put back."""

    def __init__(self, pairs: Sequence[tuple[int, Renewal]], change: Callable[..., None]) -> None:
        super().__init__(f"renew {len(pairs)} outline{'' if len(pairs) == 1 else 's'}")
        self._pairs, self._change = pairs, change

    def undo(self) -> None:
        self._change(partial(_put_outlines, [(number, renewal.before) for number, renewal in self._pairs]))

    def redo(self) -> None:
        self._change(partial(_put_outlines, [(number, renewal.after) for number, renewal in self._pairs]))


def _put_outlines(shapes: Sequence[tuple[int, Stamp]], library: Library) -> None:
    for number, shape in shapes:
        try:
            stamp, _ = library.load(number)
        except KeyError:  # taken out meanwhile
            continue
        library.change(number, msgspec.structs.replace(stamp, outline=shape.outline, pockets=shape.pockets))
