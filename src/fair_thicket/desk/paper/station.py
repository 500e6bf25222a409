"""Paper: the plan life size, to take to the table."""

import io
from collections.abc import Callable, Sequence
from operator import is_
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap, QShowEvent
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from fair_thicket import masks
from fair_thicket.desk.frame.station import Pane, State
from fair_thicket.desk.parts.controls import Choices, Column, Hint, button, head_row, label
from fair_thicket.desk.parts.save_place import ask_save_place
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.session.thinking import Outcome
from fair_thicket.files.atomic import write_whole
from fair_thicket.files.places import file_stem
from fair_thicket.model.errors import ThicketError, check_wanted
from fair_thicket.model.sides import sides_of, turn_over
from fair_thicket.model.supplies import Supply
from fair_thicket.model.units import Unit
from fair_thicket.sheets import SheetsPlan, plan_sheets

PAPERS = ("letter", "a4")
PREVIEW_SCALE = 1.15


def draw_pages(
    outcome: Outcome,
    pictures: dict[str, bytes],
    paper: str,
    *,
    is_open: bool = False,
    laid: SheetsPlan | None = None,
    papers: Sequence[Supply] = (),
    go_on: Callable[[], bool] = lambda: True,
) -> tuple[bytes, list[bytes]]:
    """Print the plan of both sides and picture its pages: the PDF, and a PNG of each page.

    Parameters
    ----------
    outcome : Outcome
        Of the side that is looked at; the other one is planned here.
    is_open : bool
        Whether that side is the inside.
    laid : SheetsPlan or None
        The sheets as they are shown; None has them laid out quickly, from the maker's own papers.
    """
    import pypdfium2

    from fair_thicket.making import list_all_steps, print_card
    from fair_thicket.printing.plan_pdf import Side

    shown = "inside" if is_open else "front"
    closed = turn_over(outcome.work) if is_open else outcome.work
    if laid is None:
        laid = plan_sheets(closed, papers, seconds=0.0, go_on=go_on)
    sides = []
    for name, work in sides_of(closed):
        if name == shown:
            plan = outcome.plan
        else:
            plan, _ = masks.plan_with_pins(work, go_on=go_on)
        sides.append(Side(name, work, plan, list_all_steps(work, plan), laid))
    pdf = print_card(sides, pictures, paper=paper, go_on=go_on)
    document = pypdfium2.PdfDocument(pdf)
    pages = []
    for page in document:
        check_wanted(go_on, "the plan")
        buffer = io.BytesIO()
        page.render(scale=PREVIEW_SCALE).to_pil().save(buffer, "PNG")
        pages.append(buffer.getvalue())
        page.close()
    document.close()
    return pdf, pages


def _bears_anything(outcome: Outcome) -> bool:
    card = outcome.work.card
    return bool(card.pieces or card.inside)


class PaperStation(Pane):
    """Shows the pages that will be printed and writes the PDF.

    Attributes
    ----------
    pages : list of QLabel
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("mistPane")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._session = session
        self._paper: str | None = None
        self._drawn_for: tuple[Outcome, SheetsPlan | None, str] | None = None
        self._pdf: bytes | None = None
        self.pages: list[QLabel] = []
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(session.said)
        box = QVBoxLayout(self)
        box.setContentsMargins(16, 10, 16, 10)
        self._words = Hint()
        head = head_row("Paper", self._words)
        self._choice = Choices(["letter sheets", "A4 sheets"], self._choose_paper)
        head.addWidget(self._choice)
        self.save_button = button(
            "Write the PDF …", self.write, "primary", tip="Print it at 100 %, never “fit to page”"
        )
        head.addWidget(self.save_button)
        box.addLayout(head)
        box.addWidget(
            label(
                "Life size at 100 %: measure the bar at the foot of a page with a ruler before cutting. "
                "Craft knife: metal ruler, cut away from the hand; the tool's own label comes first.",
                "soft",
                wrap=True,
            )
        )
        self._column = Column(spacing=14, margin=6)
        self._column.box.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        box.addWidget(self._column, 1)
        session.outcomeChanged.connect(self.refresh)
        session.cardChanged.connect(self._show_state)
        self._show_state()

    def state(self) -> State:
        """Tell whether there is anything to print."""
        is_there = self._session.outcome is not None and bool(self._session.work.card.pieces)
        return State("ready" if is_there else "–")

    def close_workers(self) -> None:
        """Give up drawing pages."""
        self.worker.close()

    def _paper_now(self) -> str:
        return self._paper or ("letter" if self._session.work.card.unit is Unit.INCH else "a4")

    def _choose_paper(self, index: int) -> None:
        self._paper = PAPERS[index]
        self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Draw the pages anew when they are looked at and the plan is another."""
        self._show_state()
        outcome = self._session.outcome
        if outcome is None or not _bears_anything(outcome):
            self._column.clear()
            self.pages = []
            self._drawn_for = self._pdf = None
            return
        paper, laid = self._paper_now(), self._session.laid_sheets.plan_of(self._session.whole)
        wanted = (outcome, laid, paper)
        if self.isVisible() and not (self._drawn_for and all(map(is_, wanted, self._drawn_for))):
            self._drawn_for = wanted
            self._pdf = None
            self._show_state()
            pictures, is_open, papers = dict(self._session.pictures), self._session.is_open, self._session.own_papers()
            self.worker.ask_stoppable(
                lambda go_on: draw_pages(
                    outcome, pictures, paper, is_open=is_open, laid=laid, papers=papers, go_on=go_on
                )
            )

    def _take(self, result: tuple[bytes, list[bytes]]) -> None:
        self._pdf, pictures = result
        self._column.clear()
        self.pages = []
        for number, data in enumerate(pictures, 1):
            page = QLabel()
            picture = QPixmap()
            picture.loadFromData(data)
            page.setPixmap(picture)
            page.setAccessibleName(f"Page {number}")
            page.setStyleSheet("border: 1px solid #b9c4bb;")
            self._column.box.addWidget(page, 0, Qt.AlignmentFlag.AlignHCenter)
            self.pages.append(page)
        self._show_state()

    def _show_state(self) -> None:
        outcome = self._session.outcome
        self._choice.show_choice(PAPERS.index(self._paper_now()))
        fresh = outcome is not None and outcome.work is self._session.work and self._pdf is not None
        self.save_button.setEnabled(fresh)
        if outcome is None or not _bears_anything(outcome):
            self._words.setText("nothing to print yet: put images or paper on the card at the Scene station")
        elif not fresh:
            self._words.setText("drawing the pages …")
        else:
            self._words.setText(f"{len(self.pages)} pages: where everything goes, masks to cut, build sheet")

    def write(self) -> None:
        """Ask where to write the PDF, and write it."""
        name = file_stem(self._session.work.card.title)
        start = (self._session.path or Path.home() / "card").with_name(f"{name} plan.pdf")
        path = ask_save_place(self, "Write the plan as PDF", start=start, kinds="PDF (*.pdf)", suffix=".pdf")
        if path is not None:
            self.write_to(path)

    def write_to(self, path: Path) -> None:
        """Write the PDF that is shown; the reason is said when that cannot be done."""
        if self._pdf is None:
            return
        path = path if path.suffix else path.with_suffix(".pdf")
        try:
            write_whole(path, self._pdf)
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        self._session.said.emit(f"Written to {path.name}. Print it at 100 % and check its bar with a ruler.")
