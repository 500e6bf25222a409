"""Colours proposed for the whole card, side by side, each with its reasons."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QDialog, QFileDialog, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from fair_thicket.colour.both_sides import with_other_side
from fair_thicket.colour.offers import offer_runs
from fair_thicket.colour.palettes import Match, match_palette
from fair_thicket.colour.suggesting import Proposal, suggest
from fair_thicket.desk.colour.palette_file import read_palette
from fair_thicket.desk.parts.controls import button, label
from fair_thicket.desk.parts.picture_view import PictureView
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.ink.painter import Look
from fair_thicket.ink.painting import Picture, paint
from fair_thicket.intake.apart import PAGE_S, run_apart
from fair_thicket.laid.visibility import View
from fair_thicket.model.card import Work
from fair_thicket.model.supplies import Marker

DPI = 88
FIRST_S = 0.6
"""So long the first proposal is looked for before it is shown."""
SHOWN = 4
WAITING = "Working out colours …"
NONE = "There is nothing to propose: list markers at Stash, and let the regions of an image be read."


class Shown(NamedTuple):
    """A proposal as pictured."""

    proposal: Proposal
    picture: Picture


class Suggest(QDialog):
    """Proposals side by side.

    Attributes
    ----------
    wanted : Signal(object)
        The work of the proposal that is taken.
    takes : list of QPushButton
    shown : list of Shown
    worker : Worker
    """

    wanted = Signal(object)

    def __init__(self, session: Session, markers: list[Marker], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Colours for the whole card")
        self.resize(1080, 700)
        self._session, self._markers = session, markers
        self._seed = 0
        self._only: tuple[str, ...] = ()
        self._from_picture = ""
        self._next: Callable[[Callable[[], bool]], list[Shown]] | None = None
        self.reader = Worker(self)
        self.reader.done.connect(self._take_palette)
        self.reader.failed.connect(session.said)
        self.reader.failed.connect(lambda _: self._show())
        self.shown: list[Shown] = []
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(session.said)
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 18, 14)
        box.addWidget(label("Colours for the whole card", "heading"))
        self._told = label(WAITING, "soft", wrap=True)
        box.addWidget(self._told)
        grid = QGridLayout()
        grid.setSpacing(12)
        self.views: list[PictureView] = []
        self.reasons = [label("", "soft", wrap=True) for _ in range(SHOWN)]
        self.takes = [button("Take these colours", partial(self._want, number)) for number in range(SHOWN)]
        for number in range(SHOWN):
            view = PictureView(f"Proposal {number + 1}", (260, 150))
            self.views.append(view)
            column = QVBoxLayout()
            column.addWidget(view, 1)
            foot = QHBoxLayout()
            foot.setSpacing(10)
            foot.addWidget(self.reasons[number], 1)
            foot.addWidget(self.takes[number], 0, Qt.AlignmentFlag.AlignTop)
            column.addLayout(foot)
            grid.addLayout(column, number // 2, number % 2)
        for half in range(2):
            grid.setColumnStretch(half, 1)
            grid.setRowStretch(half, 1)
        box.addLayout(grid, 1)
        foot = QHBoxLayout()
        self.keeps = QCheckBox("Leave what is coloured as it is")
        self.keeps.toggled.connect(lambda _: self.ask())
        foot.addWidget(self.keeps)
        self.picture = button(
            "From a picture …", self.ask_picture, tip="Take the families from a picture or a patterned paper"
        )
        foot.addWidget(self.picture)
        foot.addWidget(button("Others", self._ask_others, tip="Propose other colours"))
        foot.addStretch(1)
        foot.addWidget(button("Not now", self.reject))
        box.addLayout(foot)
        self.ask()

    def ask(self) -> None:
        """Work proposals out, and picture them."""
        work, view, pictures = self._session.work, self._session.view, dict(self._session.pictures)
        markers, seed, keeps, only = self._markers, self._seed, self.keeps.isChecked(), self._only
        self._told.setText(WAITING)
        for taken, shown in zip(self.takes, self.views, strict=True):
            taken.setEnabled(False)
            shown.show_picture(None)
        how = {"seed": seed, "keeps": keeps, "only": only}

        def first(go_on: Callable[[], bool]) -> list[Shown]:
            return _propose(work, view, markers, pictures, palettes=1, seconds=FIRST_S, go_on=go_on, **how)

        def rest(go_on: Callable[[], bool]) -> list[Shown]:
            return _propose(work, view, markers, pictures, go_on=go_on, **how)

        self._next = rest
        self.worker.ask_stoppable(first)

    def _ask_others(self) -> None:
        self._seed += 1
        self.ask()

    def ask_picture(self) -> None:
        """Ask for a picture whose colours are to be taken."""
        path, _ = QFileDialog.getOpenFileName(
            self, "Colours of a picture", "", "Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp)"
        )
        if path:
            self.take_picture(Path(path))

    def take_picture(self, path: Path) -> None:
        """Take the families that come nearest to the main colours of a picture."""
        markers = self._markers
        self._told.setText(f"Looking at {path.name} …")
        self.reader.ask_stoppable(
            lambda go_on: match_palette(
                run_apart(read_palette, path, name=path.name, seconds=PAGE_S, go_on=go_on), offer_runs(markers, 3)
            )
        )

    def _take_palette(self, matches: list[Match]) -> None:
        self._only = tuple(dict.fromkeys(match.family for match in matches))
        near = ", ".join(f"{match.tint.colour} by {match.family} ({match.off:.0f} off)" for match in matches)
        self._from_picture = f"From the picture: {near}."
        self.ask()

    def _take(self, shown: list[Shown]) -> None:
        self.shown = shown
        more, self._next = self._next, None
        if shown and more is not None:  # the first is there; the others follow
            self.worker.ask_stoppable(more)
        self._show()

    def _show(self) -> None:
        """Show what there is so far, with places for what is coming."""
        shown, more = self.shown, self.worker.is_busy
        told = "The first proposal; more are coming …" if more else f"{len(shown)} proposals, the best first."
        told = "One proposal." if len(shown) == 1 and not more else told
        self._told.setText(" ".join([told, self._from_picture]) if shown else NONE)
        for number, (view, reason, taken) in enumerate(zip(self.views, self.reasons, self.takes, strict=True)):
            is_there = number < len(shown)
            view.setVisible(is_there or not shown or more)
            taken.setVisible(is_there or more)
            reason.setVisible(is_there or more)
            reason.setText("")
            taken.setEnabled(is_there)
            if is_there:
                view.show_picture(shown[number].picture)
                reason.setText(" ".join(shown[number].proposal.reasons))
                taken.setAccessibleName(f"Take the colours of proposal {number + 1}")

    def _want(self, number: int) -> None:
        if number < len(self.shown):
            self.wanted.emit(self.shown[number].proposal.work)
            self.accept()

    def done(self, result: int) -> None:
        self.worker.close()
        self.reader.close()
        super().done(result)


def _propose(
    work: Work,
    view: View,
    markers: list[Marker],
    pictures: dict[str, bytes],
    **how: Any,
) -> list[Shown]:
    look = Look(shadows=True, edge_mm=0.2)
    other = {key: how[key] for key in ("seed", "keeps", "go_on") if key in how}
    found = [with_other_side(one, markers, **other) for one in suggest(work, view, markers, **how)[:SHOWN]]
    return [Shown(one, paint(one.work, pictures, dpi=DPI, look=look)) for one in found]
