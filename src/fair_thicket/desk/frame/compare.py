"""Two tries side by side, each with its figures."""

from typing import NamedTuple

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QDialog, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from fair_thicket.desk.parts.controls import button, label
from fair_thicket.desk.parts.picture_view import PictureView
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.edits.tries import card_of_try
from fair_thicket.ink.painter import Look
from fair_thicket.ink.painting import Picture, paint
from fair_thicket.model.card import Work
from fair_thicket.scene.figures import Figures, figures_of

DPI = 96
NOW = "as it is now"
ROWS = ("Pieces", "Troubles", "Cautions", "Notes", "Even to", "Halves alike to", "Made and never seen", "Worst")


class Shown(NamedTuple):
    """A layout as pictured, with its figures."""

    picture: Picture
    figures: Figures


def picture_layout(work: Work, pictures: dict[str, bytes]) -> Shown:
    """Picture a layout and work out its figures."""
    return Shown(paint(work, pictures, dpi=DPI, look=Look(shadows=True, edge_mm=0.2)), figures_of(work))


def tell_figures(figures: Figures) -> list[str]:
    """Say a layout's figures, in the order of `ROWS`."""
    return [
        str(figures.pieces),
        str(figures.troubles),
        str(figures.cautions),
        str(figures.notes),
        f"{figures.balance.value:.0%}",
        f"{figures.balance.symmetry:.0%}",
        f"{figures.hidden_share:.0%}",
        figures.worst or "nothing",
    ]


class Compare(QDialog):
    """Two layouts side by side.

    Attributes
    ----------
    wanted : Signal(str)
        Name of the layout that the maker goes back to.
    choices : list of QComboBox
    figures : list of list of QLabel
        One column a side, rows as in `ROWS`.
    """

    wanted = Signal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Two tries side by side")
        self.resize(980, 620)
        self._session = session
        names = [one.name for one in session.work.card.tries]
        self.choices: list[QComboBox] = []
        self.figures: list[list[QLabel]] = []
        self._views: list[PictureView] = []
        self._workers: list[Worker] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 18, 14)
        box.addWidget(label("Two tries side by side", "heading"))
        row = QHBoxLayout()
        row.setSpacing(16)
        for side in range(2):
            row.addLayout(self._column(side, [NOW, *names], min(side, len(names))), 1)
        box.addLayout(row, 1)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(button("Close", self.accept))
        box.addLayout(foot)

    def _column(self, side: int, names: list[str], start: int) -> QVBoxLayout:
        column = QVBoxLayout()
        choice = QComboBox()
        choice.setAccessibleName(f"Layout at the {'left' if side == 0 else 'right'}")
        choice.addItems(names)
        choice.setCurrentIndex(start)
        view = PictureView(f"Picture of the layout at the {'left' if side == 0 else 'right'}")
        column.addWidget(choice)
        column.addWidget(view, 1)
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        grid.setVerticalSpacing(2)
        told = []
        for number, words in enumerate(ROWS):
            grid.addWidget(label(words, "soft"), number, 0)
            told.append(label("", wrap=True))
            grid.addWidget(told[-1], number, 1)
        column.addLayout(grid)
        column.addWidget(button("Go back to this one", lambda: self._want(side)), 0, Qt.AlignmentFlag.AlignLeft)
        worker = Worker(self)
        worker.done.connect(lambda shown: self._take(side, shown))
        worker.failed.connect(self._session.said)
        self.choices.append(choice)
        self._views.append(view)
        self.figures.append(told)
        self._workers.append(worker)
        choice.currentIndexChanged.connect(lambda _: self._show(side))
        self._show(side)
        return column

    def work_of(self, side: int) -> Work:
        """Return the card with the layout of a side."""
        name = self.choices[side].currentText()
        work = self._session.work
        return work if name == NOW else Work(card_of_try(work.card, name), work.stash)

    def _show(self, side: int) -> None:
        work, pictures = self.work_of(side), dict(self._session.pictures)
        self._views[side].show_picture(None)
        self._workers[side].ask(lambda: picture_layout(work, pictures))

    def _take(self, side: int, shown: Shown) -> None:
        self._views[side].show_picture(shown.picture)
        for made, words in zip(self.figures[side], tell_figures(shown.figures), strict=True):
            made.setText(words)

    def _want(self, side: int) -> None:
        name = self.choices[side].currentText()
        if name != NOW:
            self.wanted.emit(name)
        self.accept()

    def done(self, result: int) -> None:
        for worker in self._workers:
            worker.close()
        super().done(result)
