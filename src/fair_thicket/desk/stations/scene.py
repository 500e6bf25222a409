"""Scene: images placed at true size, their order in the thicket, and what a good friend at the table would say."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from fair_thicket.desk.session import Session
from fair_thicket.desk.widgets.advice_panel import AdvicePanel
from fair_thicket.desk.widgets.bench import Bench
from fair_thicket.desk.widgets.drawer import Drawer
from fair_thicket.desk.widgets.parts import Choices, Hint, ground, head_row
from fair_thicket.desk.widgets.pictures import StampPictures
from fair_thicket.desk.widgets.piece_panel import PiecePanel
from fair_thicket.desk.widgets.thicket import Thicket
from fair_thicket.model.formats import find_format
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import say_size
from fair_thicket.scene import edits


class SceneStation(QWidget):
    """The bench over the thicket, the drawer at the left, advice at the right.

    Attributes
    ----------
    bench : Bench
    thicket : Thicket
    drawer : Drawer
    advice : AdvicePanel
    """

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.drawer = Drawer(session, pictures)
        self.bench = Bench(session, pictures)
        self.thicket = Thicket(session)
        self.advice = AdvicePanel(session, "scene", "Advice for the scene")
        self.piece = PiecePanel(session)
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
        box.addWidget(self.bench, 1)
        lower = ground("paperPane")
        box = QVBoxLayout(lower)
        box.setContentsMargins(0, 8, 0, 0)
        box.setSpacing(2)
        words = "what stands in front of what, straight below the card · drag a bar up to bring it forward"
        head = head_row("Thicket", Hint(words))
        head.setContentsMargins(16, 0, 14, 0)
        box.addLayout(head)
        box.addWidget(self.thicket, 1)
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        split.setHandleWidth(4)
        split.addWidget(upper)
        split.addWidget(lower)
        split.setStretchFactor(0, 7)
        split.setStretchFactor(1, 4)
        split.setSizes([470, 270])
        return split

    def _right(self) -> QWidget:
        pane = ground("paperPane", width=292)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 12, 8, 12)
        box.setSpacing(8)
        box.addWidget(self.advice, 1)
        box.addWidget(self.piece)
        return pane

    def _show_card(self) -> None:
        card = self._session.work.card
        width, height = card.panel
        name = find_format(card.format).name
        self._words.setText(f"{name} front, {say_size(width, height, card.unit)} · nothing is stuck yet")
        self._way.show_choice(0 if card.landscape else 1)

    def _turn_card(self, index: int) -> None:
        landscape = index == 0
        self._session.edit("turn the card", lambda work: edits.set_card(work, landscape=landscape))
        self._show_card()

    def _stamp_in_middle(self, stamp: Stamp) -> None:
        width, height = self._session.work.card.panel
        self.bench.add_stamp(stamp, (width / 2, height / 2))

    def _align(self) -> None:
        self.thicket.align(self.bench.panel_left_px(), self.bench.px_per_mm)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._align()
