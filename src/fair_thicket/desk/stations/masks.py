"""Masks: in which press each image is stamped, what lies under a mask meanwhile, and which masks to cut."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.session import Outcome, Session
from fair_thicket.desk.widgets.advice_panel import AdvicePanel
from fair_thicket.desk.widgets.panel_view import PanelView
from fair_thicket.desk.widgets.parts import Choices, Column, Hint, Stepper, ground, head_row, label
from fair_thicket.desk.widgets.pictures import StampPictures, box_of, ring_path
from fair_thicket.desk.widgets.timetable import Timetable
from fair_thicket.model.card import piece_key
from fair_thicket.model.plan import Mask
from fair_thicket.model.stash import Stamp
from fair_thicket.model.tolerance import OUTLINE_MM
from fair_thicket.model.units import say_length
from fair_thicket.scene import edits
from fair_thicket.shape.masking_paper import lying_during
from fair_thicket.shape.outline import to_rings
from fair_thicket.shape.stack import stack
from fair_thicket.shape.stretch import along

RIMS = (-0.25, 0.0, 1.0)


class MaskPicture(QWidget):
    """A stamp with its mask over it; the careful stretch of the cut is heavy."""

    def __init__(self, stamp: Stamp, mask: Mask, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._stamp, self._pictures = stamp, pictures
        from numpy import asarray

        ring = asarray(stamp.outline, dtype=float)
        self._careful = [[QPointF(x, y) for x, y in along(ring, stretch)] for stretch in mask.stretches]
        self.setFixedSize(74, 66)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        box = box_of(self._stamp)
        scale = min((self.width() - 6) / box.width(), (self.height() - 6) / box.height(), 3.0)
        painter.translate(self.width() / 2, self.height() / 2)
        painter.scale(scale, scale)
        painter.translate(-box.center())
        picture = self._pictures.get(self._stamp, scale * self.devicePixelRatioF(), ground=theme.HONEY_WASH)
        painter.drawPixmap(box, picture, QRectF(picture.rect()))
        painter.setPen(_pen(theme.SOFT_INK, 0.8))
        painter.drawPath(ring_path(self._stamp.outline))
        painter.setPen(_pen(theme.BERRY, 2.6))
        for points in self._careful:
            painter.drawPolyline(points)


def _pen(colour: QColor, width: float) -> QPen:
    pen = QPen(colour, width)
    pen.setCosmetic(True)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    return pen


def _say_rim(rim: float) -> str:
    if abs(rim) < 1e-9:
        return "on the line"
    return f"{abs(rim):.2f} mm {'outside' if rim > 0 else 'inside'}"


class MaskCard(QWidget):
    """One mask to cut, with what it is for and how much of it needs care."""

    def __init__(self, words: tuple[str, str, str], picture: MaskPicture, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 4, 10, 4)
        row.addWidget(picture)
        box = QVBoxLayout()
        box.setSpacing(1)
        name = label(words[0])
        name.setStyleSheet("font-weight: 700;")
        box.addStretch(1)
        box.addWidget(name)
        box.addWidget(label(words[1], "soft"))
        careful = label(words[2])
        careful.setStyleSheet(f"color: {theme.BERRY.name()}; font-size: 12px;")
        box.addWidget(careful)
        box.addStretch(1)
        row.addLayout(box, 1)
        self.setAccessibleName(". ".join(words))


class MasksStation(QWidget):
    """The panel during a press, the masks to cut, the timetable and the steps of the press.

    Attributes
    ----------
    timetable : Timetable
    view : PanelView
    """

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._pictures = session, pictures
        self.view = PanelView("The panel during the chosen press")
        self.timetable = Timetable(session)
        self.advice = AdvicePanel(session, "masks", "Advice for the masks")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())
        session.outcomeChanged.connect(self.refresh)
        self.timetable.pressChosen.connect(lambda _: self._show_press())
        self.refresh()

    def _left(self) -> QWidget:
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        upper = ground("mistPane")
        box = QVBoxLayout(upper)
        box.setContentsMargins(16, 10, 14, 8)
        box.setSpacing(6)
        self._facts = Hint()
        box.addLayout(head_row("Masks", self._facts))
        box.addLayout(self._rim_row())
        middle = QHBoxLayout()
        middle.setSpacing(12)
        middle.addWidget(self.view, 1)
        self._cut = Column(spacing=6, margin=0)
        self._cut.setFixedWidth(262)
        self._cut.box.setContentsMargins(0, 0, 14, 0)
        middle.addWidget(self._cut)
        box.addLayout(middle, 1)
        column.addWidget(upper, 1)
        lower = ground("paperPane")
        box = QVBoxLayout(lower)
        box.setContentsMargins(0, 8, 0, 4)
        words = "a dot is a stamping, a honey bar a mask that is lying · click a press, or use the arrow keys"
        head = head_row("Mask timetable", Hint(words))
        head.setContentsMargins(16, 0, 14, 0)
        box.addLayout(head)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(self.timetable)
        box.addWidget(scroll, 1)
        lower.setMinimumHeight(230)
        column.addWidget(lower, 1)
        return whole

    def _rim_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(label("Cut masks", "soft"))
        self._rim = Choices(["inside 1/4 mm", "on the line", "outside 1 mm"], lambda index: self._set_rim(RIMS[index]))
        row.addWidget(self._rim)
        row.addSpacing(10)
        self.rim_step = Stepper("Rim of the masks", (-1.0, 3.0), 0.05, _say_rim, self._set_rim)
        row.addWidget(self.rim_step)
        row.addStretch(1)
        return row

    def _right(self) -> QWidget:
        pane = ground("paperPane", width=292)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 12, 8, 12)
        box.addWidget(self.advice, 2)
        self._press_heading = label("", "subheading")
        box.addWidget(self._press_heading)
        self._steps = Column(spacing=5, margin=0)
        box.addWidget(self._steps, 3)
        return pane

    def _set_rim(self, rim: float) -> None:
        rim = round(rim, 3)
        self._session.edit("cut masks elsewhere", lambda work: edits.set_card(work, mask_rim_mm=rim), merge_key="rim")

    def refresh(self) -> None:
        """Show the newest plan."""
        card, outcome = self._session.work.card, self._session.outcome
        self.rim_step.show_value(card.mask_rim_mm)
        near = [index for index, rim in enumerate(RIMS) if abs(rim - card.mask_rim_mm) < 1e-6]
        self._rim.show_choice(near[0] if near else -1)
        self._cut.clear()
        if outcome is None or not outcome.plan.presses:
            self._facts.setText("no images on the card yet")
        else:
            self._show_facts(outcome)
            self._list_masks(outcome)
        self._show_press()

    def _show_facts(self, outcome: Outcome) -> None:
        plan, unit = outcome.plan, self._session.work.card.unit
        twice = sum(len(mask.serves) > 1 for mask in plan.masks)
        facts = [
            f"{len(plan.presses)} presses",
            f"{len(plan.masks)} masks to cut",
            f"{say_length(plan.careful_mm, unit)} with care",
            "proven best" if plan.optimal else "best found",
        ]
        if twice:
            facts.insert(2, f"{twice} used again")
        self._facts.setText(" · ".join(facts))

    def _list_masks(self, outcome: Outcome) -> None:
        unit = self._session.work.card.unit
        self._cut.box.addWidget(label("Masks to cut", "subheading"))
        for mask in sorted(outcome.plan.masks, key=lambda one: -one.careful_mm):
            stamp = outcome.work.stash.find(mask.stamp)
            presses = sorted(
                {
                    number
                    for number, press in enumerate(outcome.plan.presses, 1)
                    for key in press.masked
                    if key in mask.serves
                }
            )
            told = ", ".join(str(number) for number in presses)
            words = (
                stamp.name,
                f"lies in press{'es' if len(presses) > 1 else ''} {told}",
                f"careful {say_length(mask.careful_mm, unit)} of {say_length(mask.full_mm, unit)}",
            )
            self._cut.box.addWidget(MaskCard(words, MaskPicture(stamp, mask, self._pictures)))

    def _show_press(self) -> None:
        outcome = self._session.outcome
        size = self._session.work.card.panel
        self._steps.clear()
        if outcome is None or not outcome.plan.presses:
            self.view.show_paper(
                None, size, empty="Nothing to stamp yet.\nPut images on the card at the Scene station."
            )
            self._press_heading.setText("")
            return
        press = self.timetable.press
        rim = outcome.work.card.mask_rim_mm
        areas = {leaf.key: leaf.whole for leaf in stack(outcome.work)}
        self.view.show_paper(outcome.rehearsal.papers[press + 1], outcome.work.card.panel)
        masks = [
            ring
            for lying in lying_during(outcome.plan, press)
            for ring in to_rings(areas[lying.impression].buffer(rim).simplify(OUTLINE_MM))
        ]
        stamped = [ring for key in outcome.plan.presses[press].impressions for ring in to_rings(areas[piece_key(key)])]
        self.view.show_layers(masks=masks, outlines=stamped)
        self._press_heading.setText(f"Press {press + 1}, step by step")
        for number, step in enumerate((one for one in outcome.rehearsal.steps if one.press == press), 1):
            self._steps.box.addWidget(label(f"{number}.  {step.words}", wrap=True))

    def sizeHint(self) -> QSize:
        return QSize(1100, 700)
