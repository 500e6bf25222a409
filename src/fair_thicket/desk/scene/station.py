"""Scene: images placed at true size, their order in the thicket, and what a good friend at the table would say."""

from collections.abc import Mapping

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QScrollArea, QSplitter, QToolButton, QVBoxLayout, QWidget

from fair_thicket.desk.frame.actions import Actions
from fair_thicket.desk.frame.station import Pane, State, say_to_settle
from fair_thicket.desk.parts.advice_panel import AdvicePanel
from fair_thicket.desk.parts.controls import Choices, Hint, ground, head_row
from fair_thicket.desk.parts.pictures import StampPictures
from fair_thicket.desk.scene.balance_view import BalanceView
from fair_thicket.desk.scene.bench import Bench
from fair_thicket.desk.scene.drawer import Drawer
from fair_thicket.desk.scene.piece_panel import PiecePanel
from fair_thicket.desk.scene.thicket import Thicket
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.edits.refit import refit
from fair_thicket.model.card import name_format
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import say_size

TOOL_MENUS = ("Add", "Arrange", "Look", "Layouts")


class SceneStation(Pane):
    """The bench over the thicket, the drawer at the left, advice at the right.

    Attributes
    ----------
    bench : Bench
    thicket : Thicket
    drawer : Drawer
    workers : list of Worker
        What works here beside the interface; closed with the window.
    advice : AdvicePanel
    balance : BalanceView
    piece : PiecePanel
    side : Choices
        Front or inside.
    menus : dict of str to QMenu
        Of the tools above the bench, by name.
    """

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.drawer = Drawer(session, pictures)
        self.workers: list[Worker] = [self.drawer.colourer]
        self.bench = Bench(session, pictures)
        self.thicket = Thicket(session)
        self.advice = AdvicePanel(session, "scene", "Advice for the scene")
        self.piece = PiecePanel(session)
        self.balance = BalanceView(session)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.drawer)
        row.addWidget(self._middle(), 1)
        row.addWidget(self._right())
        self.drawer.dragged.connect(self.bench.hover_stamp)
        self.drawer.dropped.connect(self.bench.drop_stamp)
        self.drawer.wanted.connect(self._stamp_in_middle)
        self.bench.viewMoved.connect(self._align)
        self.thicket.pointedAt.connect(self.bench.show_outline)
        self.thicket.orderTried.connect(self.bench.try_order)
        session.cardChanged.connect(self._show_card)
        self._show_card()

    def _middle(self) -> QWidget:
        upper = ground("mistPane")
        box = QVBoxLayout(upper)
        box.setContentsMargins(0, 10, 0, 0)
        box.setSpacing(0)
        self._words = Hint()
        head = head_row("Scene", self._words)
        head.setContentsMargins(16, 0, 14, 0)
        self._way = Choices(["landscape", "portrait"], self._turn_card)
        head.addWidget(self._way)
        box.addLayout(head)
        box.addLayout(self._tools())
        box.addWidget(self.bench, 1)
        lower = ground("paperPane")
        box = QVBoxLayout(lower)
        box.setContentsMargins(0, 8, 0, 0)
        box.setSpacing(2)
        words = "what stands in front of what, straight below the card · drag a bar up to bring it forward"
        head = head_row("Thicket", Hint(words))
        head.setContentsMargins(16, 0, 14, 0)
        box.addLayout(head)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(self.thicket)
        box.addWidget(scroll, 1)
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        split.setHandleWidth(4)
        split.addWidget(upper)
        split.addWidget(lower)
        split.setStretchFactor(0, 7)
        split.setStretchFactor(1, 4)
        split.setSizes([470, 270])
        return split

    def _tools(self) -> QHBoxLayout:
        """Make the row of what can be added, arranged, looked at and kept, above the bench."""
        row = QHBoxLayout()
        row.setContentsMargins(16, 6, 8, 0)
        row.setSpacing(2)
        self.side = Choices(["front", "inside"], self._turn_page, style="smallChoice")
        row.addWidget(self.side)
        row.addSpacing(4)
        for name in TOOL_MENUS:
            made = QToolButton()
            made.setObjectName("benchTool")
            made.setText(name)
            made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
            self.menus[name] = QMenu(made)
            made.setMenu(self.menus[name])
            row.addWidget(made)
        row.addStretch(1)
        return row

    def state(self) -> State:
        """Tell how much advice for the scene is to settle, or until it is there how many pieces lie on the card."""
        pieces = len(self._session.work.card.pieces)
        return say_to_settle(self._session, "scene", State(f"{pieces} pieces" if pieces else "empty", not pieces))

    def first(self) -> QWidget:
        """Return the bench."""
        return self.bench

    def take_actions(self, actions: Actions, menus: Mapping[str, QMenu]) -> None:
        """Offer the Piece menu beside the chosen piece."""
        del actions
        self.piece.set_menu(menus["Piece"])

    def close_workers(self) -> None:
        """Give up what is under way."""
        for worker in self.workers:
            worker.close()

    def _turn_page(self, index: int) -> None:
        self._session.open_card(is_open=index == 1)

    def _right(self) -> QWidget:
        pane = ground("paperPane", width=292)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 12, 8, 12)
        box.setSpacing(8)
        box.addWidget(self.advice, 1)
        box.addWidget(self.balance)
        box.addWidget(self.piece)
        return pane

    def _show_card(self) -> None:
        card = self._session.work.card
        width, height = card.panel
        page = "inside" if self._session.is_open else "front"
        words = f"{name_format(card)} {page}, {say_size(width, height, card.unit)} · nothing is stuck yet"
        self._words.setText(words)
        self._way.show_choice(0 if card.landscape else 1)
        self.side.show_choice(1 if self._session.is_open else 0)

    def _turn_card(self, index: int) -> None:
        """Turn the card the other way round: what is on it is fitted anew."""
        refitted = refit(self._session.work, landscape=index == 0)
        self._session.edit("turn the card", lambda work: refit(work, landscape=index == 0).work)
        if refitted.misfits:
            self._session.said.emit(" ".join(refitted.misfits))
        self._show_card()

    def _stamp_in_middle(self, stamp: Stamp) -> None:
        width, height = self._session.work.card.panel
        self.bench.add_stamp(stamp, (width / 2, height / 2))

    def _align(self) -> None:
        self.thicket.align(self.bench.panel_left_px(), self.bench.px_per_mm)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._align()
