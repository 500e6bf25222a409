"""Sheets: what to stamp, cut and trim from which paper, in the fewest sheets, passes and cuts."""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QMenu, QStackedWidget, QVBoxLayout, QWidget

from fair_thicket import edits
from fair_thicket.desk.frame.actions import Actions, Record
from fair_thicket.desk.frame.station import Pane, State, say_to_settle
from fair_thicket.desk.parts.advice_panel import AdvicePanel
from fair_thicket.desk.parts.controls import Choices, Column, Hint, button, ground, head_row, label
from fair_thicket.desk.parts.form import ask
from fair_thicket.desk.parts.pictures import StampPictures
from fair_thicket.desk.parts.side_panes import SidePanes
from fair_thicket.desk.parts.tick_row import TickRow
from fair_thicket.desk.session.background import Worker, timer_of
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.sheets.pages import Page, pass_pages, stamping_pages, stock_pages
from fair_thicket.desk.sheets.papers_pane import PapersPane
from fair_thicket.desk.sheets.rules_form import fields_of, rules_of
from fair_thicket.desk.sheets.sheet_view import SheetView
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import Shade
from fair_thicket.model.supplies import Paper, Supply
from fair_thicket.model.units import say_size
from fair_thicket.sheets import SheetsPlan, Thing, list_masks, plan_sheets, planning
from fair_thicket.sheets.moving import as_moved, lay_anew, move_image
from fair_thicket.sheets.planning import offcuts_of

if TYPE_CHECKING:
    from fair_thicket.printing.sheet_files import Written

VIEWS = ("To make", "Stamping sheets", "Machine passes", "Card stock")
DELAY_MS = 250
MENU = "Sheets"
NOTHING = ("", "No images to be cut out, so nothing is stamped on a sheet.", "No dies.", "No card stock to cut.")
CAUTION = (
    "Trimmer and knife: metal ruler, cut away from the hand, cap the blade. Machine: fingers off the rollers. The "
    "tool's own label comes first."
)


class _Planned(NamedTuple):
    work: Work
    plan: SheetsPlan


class SheetsStation(Pane):
    """The list of what there is to make, and every sheet.

    Attributes
    ----------
    plan : SheetsPlan or None
        Of the present card.
    view : SheetView
    rows : list of TickRow
        What there is to make.
    planner : Worker
    """

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.plan: SheetsPlan | None = None
        self._of: Work | None = None
        self._pages: list[Page] = []
        self._at = self._shown = 0
        self.rows: list[TickRow] = []
        self.view = SheetView(pictures)
        self.view.moved.connect(self._move)
        self.planner = Worker(self)
        self.planner.done.connect(self._take)
        self.planner.failed.connect(session.said)
        self.writer = Worker(self)
        self.writer.done.connect(self._say_written)
        self.writer.failed.connect(session.said)
        self._next: Callable[[], None] | None = None
        self._soon = timer_of(self, DELAY_MS, self._ask)
        self.menus = {MENU: QMenu(self)}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())
        session.cardChanged.connect(self.refresh)
        session.outcomeChanged.connect(self._show_masks)
        session.libraryChanged.connect(self._lay_from_supplies)

    # -- building ------------------------------------------------------------------------------------------------

    def _left(self) -> QWidget:
        pane = ground("mistPane")
        box = QVBoxLayout(pane)
        box.setContentsMargins(16, 10, 14, 8)
        self._facts = Hint()
        head = head_row("Sheets", self._facts)
        head.addWidget(
            button("Write cut files …", self.write_files, "primary", tip="SVG and DXF in mm, and the cut list")
        )
        self._more = button("More …", self._open_menu, tip="Margins, plate and sheets")
        self._more.setAccessibleName("More that can be said of sheets")
        head.addWidget(self._more)
        box.addLayout(head)
        self.views = Choices(VIEWS, self.show_view)
        self.views.show_choice(0)
        box.addWidget(self.views)
        self._stack = QStackedWidget()
        self._list = Column(spacing=4, margin=8)
        self._stack.addWidget(self._list)
        self._stack.addWidget(self._sheet_pane())
        box.addWidget(self._stack, 1)
        return pane

    def _sheet_pane(self) -> QWidget:
        pane = QWidget()
        box = QVBoxLayout(pane)
        box.setContentsMargins(0, 4, 0, 0)
        row = QHBoxLayout()
        self.before = button("‹", lambda: self._turn(-1), tip="The sheet before")
        self.before.setAccessibleName("The sheet before")
        self.after = button("›", lambda: self._turn(1), tip="The next sheet")
        self.after.setAccessibleName("The next sheet")
        self._heading = label("", "subheading")
        row.addWidget(self.before)
        row.addWidget(self._heading)
        row.addWidget(self.after)
        row.addStretch(1)
        box.addLayout(row)
        self._words = label("", "soft", wrap=True)
        box.addWidget(self._words)
        box.addWidget(self.view, 1)
        self.told = Hint()
        self.view.told.connect(self.told.setText)
        box.addWidget(self.told)
        return pane

    def _right(self) -> QWidget:
        pane = ground("paperPane", width=304)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 12, 8, 12)
        self.papers = PapersPane(self._session)
        advice = AdvicePanel(self._session, "sheets", "Advice for the sheets")
        self.panes = SidePanes({"Papers": self.papers, "Advice": advice})
        box.addWidget(self.panes)
        return pane

    # -- the frame -----------------------------------------------------------------------------------------------

    def state(self) -> State:
        """Tell how much advice for the sheets is to settle."""
        return say_to_settle(self._session, "sheets", State())

    def first(self) -> QWidget:
        """Return the sheet."""
        return self.view

    def records(self) -> list[Record]:
        """List what can be asked of sheets."""
        return [
            Record("sheet-rules", MENU, "Margins, plate and sheets …", "", self.ask_rules),
            Record("sheet-files", MENU, "Write cut files …", "", self.write_files),
            Record(
                "keep-offcuts", MENU, "Keep the offcuts among the supplies", "", self.keep_offcuts, self._has_offcuts
            ),
            Record("sheet-again", MENU, "Lay all out anew", "", self.lay_anew),
        ]

    def take_actions(self, actions: Actions, menus: Mapping[str, QMenu]) -> None:
        """Keep the actions up to date when sheets are laid out."""
        del menus
        self.planner.done.connect(lambda _: actions.refresh())

    def close_workers(self) -> None:
        """Give up laying out."""
        self._soon.stop()
        self.planner.close()
        self.writer.close()

    def _open_menu(self) -> None:
        self.menus[MENU].popup(self._more.mapToGlobal(self._more.rect().bottomLeft()))

    # -- planning ------------------------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Have the sheets of the present card laid out, when they are looked at."""
        rules = self._session.work.card.sheets
        self.papers.show_rules(rules)
        if self.isVisible() and self._of is not self._session.whole:
            self._soon.start()

    def _lay_from_supplies(self) -> None:
        """Lay the sheets out anew when the maker's own papers are other ones now."""
        self._of = None
        self.refresh()

    def _ask(self) -> None:
        whole = self._session.whole
        own: list[Supply] = list(self._session.own_papers())
        self._facts.setText("laying out …")

        def rest() -> None:
            self.planner.ask_stoppable(
                lambda go_on: _Planned(whole, plan_sheets(whole, own, seconds=planning.SECONDS, go_on=go_on))
            )

        self._next = rest
        self.planner.ask_stoppable(lambda go_on: _Planned(whole, plan_sheets(whole, own, seconds=0.0, go_on=go_on)))

    def _offcuts(self) -> list[Paper]:
        return offcuts_of(self.plan) if self.plan is not None else []

    def _has_offcuts(self) -> bool:
        return bool(self._offcuts()) and self._session.library is not None

    def keep_offcuts(self) -> None:
        """Put what is left of the sheets among the supplies, each with its size."""
        kept = self._offcuts()
        told = f"{len(kept)} offcuts are among the supplies now."
        self._session.change_library(
            lambda library: library.keep_supplies(kept), then=lambda: self._session.said.emit(told)
        )

    def lay_anew(self) -> None:
        """Lay all sheets out again, images moved by hand as well."""
        self._session.edit("lay the sheets out anew", lay_anew)
        self._of = None
        self._ask()

    def _take(self, planned: _Planned) -> None:
        if planned.work.card != self._session.whole.card:
            return
        self.plan, self._of = planned.plan, planned.work
        self._session.laid_sheets.keep(planned.work, planned.plan)
        more, self._next = self._next, None
        self._show()
        if more is not None:  # a first layout is there; a better one follows
            self._facts.setText(f"{self._facts.text()} · bettering …")
            more()

    # -- showing -------------------------------------------------------------------------------------------------

    def show_view(self, index: int) -> None:
        """Show the list, or one kind of sheets."""
        self._shown, self._at = index, 0
        self.views.show_choice(index)
        self._show()

    def _show(self) -> None:
        self._stack.setCurrentIndex(min(self._shown, 1))
        plan, work = self.plan, self._of
        if plan is None or work is None:
            self.view.show_sheet(None, empty="The sheets are being laid out …")
            return
        sheets = sum(need.wanted for need in plan.needs if not need.stock.is_offcut)
        passes = len(plan.passes.passes)
        count = sum(one.copies for one in (*plan.things, *self._masks()))
        told = (
            f"{count} things to make",
            _count(sheets, "sheet"),
            f"{_count(passes, 'pass', 'passes')} of the machine",
        )
        self._facts.setText(" · ".join(told))
        self._show_list(plan)
        self.papers.show_papers(plan)
        makers = (stamping_pages, pass_pages, stock_pages)
        self._pages = makers[self._shown - 1](work, plan) if self._shown else []
        self._at = min(self._at, max(0, len(self._pages) - 1))
        self._show_page()

    def _show_page(self) -> None:
        for one, step in ((self.before, -1), (self.after, 1)):
            one.setEnabled(0 <= self._at + step < len(self._pages))
        if not self._pages:
            self._heading.setText("")
            self._words.setText("")
            self.view.show_sheet(None, empty=NOTHING[self._shown])
            return
        page = self._pages[self._at]
        self._heading.setText(page.heading)
        self._words.setText(page.words)
        self.view.show_sheet(page.picture)

    def _turn(self, step: int) -> None:
        self._at += step
        self._show_page()

    def _show_list(self, plan: SheetsPlan) -> None:
        self._list.clear()
        self.rows = []
        self._list.box.addWidget(label(CAUTION, "soft", wrap=True))
        unit = self._session.work.card.unit
        for one in (*plan.things, *self._masks()):
            if not one.copies:
                continue
            note = f", {one.note}" if one.note else ""
            words = f"{one.copies} × {one.name}, {say_size(*one.size_mm, unit)} · {one.what} with {one.tool}{note}"
            row = TickRow(f"make {one.key}", words, [Shade(one.paper)], self._session)
            self.rows.append(row)
            self._list.box.addWidget(row)

    def _show_masks(self) -> None:
        if self.plan is not None and self.isVisible():
            self._show()

    def _masks(self) -> list[Thing]:
        """List the masks of the side that lies in front, where their plan is there."""
        outcome = self._session.outcome
        if outcome is None or outcome.work is not self._session.work:
            return []
        return list_masks(outcome.work, outcome.plan, "inside" if self._session.is_open else "front")

    # -- asking --------------------------------------------------------------------------------------------------

    def ask_rules(self) -> None:
        """Ask for margins, the plate and the size of sheets."""
        rules, unit = self._session.work.card.sheets, self._session.work.card.unit
        values = ask(self.window(), "Margins, plate and sheets", fields_of(rules), unit=unit, done="Lay out so")
        if values is None:
            return
        made = rules_of(values, rules)
        self._session.edit("say how sheets are laid out", lambda work: edits.set_card(work, sheets=made))

    def _move(self, index: int, right: float, down: float) -> None:
        """Move an image on its sheet by hand: it is shown and printed so."""
        if self.plan is None or self._of is None or self._shown != 1:
            return
        plan, page = self.plan, self._at
        moved = self._session.edit(
            "move an image on its sheet",
            lambda work: move_image(work, plan, page, index, (right, down)),
            merge_key=f"sheet {page} {index}",
        )
        if moved:
            self._soon.stop()  # all else lies as it did
            self.plan, self._of = as_moved(self._session.whole, plan), self._session.whole
            self._session.laid_sheets.keep(self._of, self.plan)
            self._show()
            self.told.setText(self.view.gap_told())

    def write_files(self) -> None:
        """Ask for a folder, and write the cut list and the cut files into it."""
        folder = QFileDialog.getExistingDirectory(self, "Folder for lists and cut files")
        if folder:
            self.write_to(folder)

    def write_to(self, folder: str) -> None:
        """Write the cut list and the cut files into a folder."""
        from fair_thicket.printing.sheet_files import write_sheet_files

        if self.plan is None:
            return
        plan, masks = self.plan, self._masks()
        self.writer.ask(lambda: write_sheet_files(plan, folder, masks))

    def _say_written(self, written: "Written") -> None:
        self._session.said.emit(" ".join([f"{len(written.names)} files written.", *written.left_out]))


def _count(number: int, one: str, many: str = "") -> str:
    return f"{number} {one if number == 1 else many or f'{one}s'}"
