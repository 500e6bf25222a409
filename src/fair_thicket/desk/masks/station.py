"""Masks: in which press each image is stamped, what lies under a mask meanwhile, and which masks to cut."""

from collections.abc import Mapping

from PySide6.QtCore import QSize
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QScrollArea, QVBoxLayout, QWidget

from fair_thicket import edits, masks
from fair_thicket.desk.frame.actions import Actions
from fair_thicket.desk.frame.station import Pane, State, say_to_settle
from fair_thicket.desk.masks.mask_card import MaskCard, MaskPicture
from fair_thicket.desk.masks.pin_list import PinList
from fair_thicket.desk.masks.price_list import PriceList
from fair_thicket.desk.masks.timetable import Timetable
from fair_thicket.desk.parts.advice_panel import AdvicePanel
from fair_thicket.desk.parts.controls import Choices, Column, Hint, Stepper, ground, head_row, label
from fair_thicket.desk.parts.panel_view import PanelView
from fair_thicket.desk.parts.pictures import StampPictures
from fair_thicket.desk.parts.side_panes import SidePanes
from fair_thicket.desk.parts.step_list import StepList
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.session.thinking import Outcome
from fair_thicket.laid.stack import stack
from fair_thicket.masks.slip import MOST_SLIP_MM, Slip
from fair_thicket.model.card import Card
from fair_thicket.model.declared import limit_of
from fair_thicket.model.keys import piece_key
from fair_thicket.model.plan import SHEET, MaskPlan
from fair_thicket.model.tolerance import OUTLINE_MM
from fair_thicket.model.units import say_length
from fair_thicket.shape.outline import to_rings

RIMS = (-0.25, 0.0, 1.0)
PIN_KEYS = ("pin-first", "pin-sooner", "pin-later", "pin-together", "pin-unmasked", "pin-cut", "unpin", "mask-way")
LEGEND = (
    "a dot is a stamping, a ringed one is pinned, a honey bar a mask that is lying · drag a dot to another press · "
    "arrow keys step through"
)


def _say_rim(rim: float) -> str:
    if abs(rim) < 1e-9:
        return "on the line"
    return f"{abs(rim):.2f} mm {'outside' if rim > 0 else 'inside'}"


class MasksStation(Pane):
    """The panel during a press, the masks to cut, the timetable and the steps of the press.

    Attributes
    ----------
    timetable : Timetable
    view : PanelView
    advice : AdvicePanel
    prices : PriceList
    pins : PinList
    steps : StepList
    slipper : Worker
        Works out how far masks may slip, when they are looked at.
    """

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._pictures = session, pictures
        self.view = PanelView("The panel during the chosen press")
        self.timetable = Timetable(session)
        self.advice = AdvicePanel(session, "masks", "Advice for the masks")
        self.prices = PriceList(session)
        self.pins = PinList(session)
        self.steps = StepList(session)
        self.slipper = Worker(self)
        self.slipper.done.connect(self._take_slips)
        self.slipper.failed.connect(session.said)
        self._cards: dict[int, MaskCard] = {}
        self._slips: tuple[Outcome, tuple[Slip, ...]] | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())
        session.outcomeChanged.connect(self.refresh)
        self.timetable.pressChosen.connect(lambda _: self._show_press())
        self.timetable.told.connect(lambda words: self._legend.setText(words or LEGEND))
        self.refresh()

    # -- building ------------------------------------------------------------------------------------------------

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
        self._cut.setFixedWidth(284)
        self._cut.box.setContentsMargins(0, 0, 14, 0)
        middle.addWidget(self._cut)
        box.addLayout(middle, 1)
        column.addWidget(upper, 1)
        lower = ground("paperPane")
        box = QVBoxLayout(lower)
        box.setContentsMargins(0, 8, 0, 4)
        self._legend = Hint(LEGEND)
        head = head_row("Mask timetable", self._legend)
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
        self.rim_step = Stepper("Rim of the masks", limit_of(Card, "mask_rim_mm").pair, 0.05, _say_rim, self._set_rim)
        row.addWidget(self.rim_step)
        row.addStretch(1)
        return row

    def _right(self) -> QWidget:
        pane = ground("paperPane", width=292)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 12, 8, 12)
        self.panes = SidePanes({"Advice": self.advice, "Mask or cut": self.prices, "Pins": self.pins})
        box.addWidget(self.panes, 3)
        self._press_heading = label("", "subheading")
        box.addWidget(self._press_heading)
        box.addWidget(self.steps, 3)
        return pane

    def state(self) -> State:
        """Tell how much advice for the masks is to settle."""
        return say_to_settle(self._session, "masks", State())

    def first(self) -> QWidget:
        """Return the timetable."""
        return self.timetable

    def take_actions(self, actions: Actions, menus: Mapping[str, QMenu]) -> None:
        """Offer pins on the timetable too."""
        del menus
        self.timetable.addActions([actions.by_key[key] for key in PIN_KEYS])

    def close_workers(self) -> None:
        """End what is being worked out."""
        for worker in (self.slipper, self.prices.worker, self.prices.mixer, self.pins.worker, self.timetable.preview):
            worker.close()

    def _set_rim(self, rim: float) -> None:
        rim = round(rim, 3)
        self._session.edit("cut masks elsewhere", lambda work: edits.set_card(work, mask_rim_mm=rim), merge_key="rim")

    # -- showing -------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the newest plan."""
        card, outcome = self._session.work.card, self._session.outcome
        self.rim_step.show_value(card.mask_rim_mm)
        near = [index for index, rim in enumerate(RIMS) if abs(rim - card.mask_rim_mm) < 1e-6]
        self._rim.show_choice(near[0] if near else -1)
        self._cut.clear()
        self._cards = {}
        if outcome is None or not outcome.plan.presses:
            self._facts.setText("no images on the card yet")
        else:
            self._show_facts(outcome)
            self._list_masks(outcome)
        self._show_press()

    def _show_facts(self, outcome: Outcome) -> None:
        plan, unit = outcome.plan, self._session.work.card.unit
        twice = sum(len(mask.serves) > 1 for mask in plan.masks)
        minutes = sum(step.minutes for step in outcome.rehearsal.steps)
        facts = [
            f"{plan.press_count} press{'es' * (plan.press_count != 1)}",
            f"{len(plan.masks) + len(plan.counters)} masks to cut",
            f"{say_length(plan.careful_mm, unit)} with care",
            "proven best" if plan.optimal else "best found",
            f"about {minutes:.0f} min",
        ]
        if twice:
            facts.insert(2, f"{twice} used again")
        turned = sum(len(press.turned) for press in plan.presses)
        if turned:
            facts.append(f"{turned} placed by turning the panel")
        self._facts.setText(" · ".join(facts))

    def _list_masks(self, outcome: Outcome) -> None:
        unit, plan = self._session.work.card.unit, outcome.plan
        self._cut.box.addWidget(label("Masks to cut", "subheading"))
        cuts = outcome.rehearsal.masking.cuts
        for index in sorted(range(len(plan.masks)), key=lambda one: -plan.masks[one].careful_mm):
            mask = plan.masks[index]
            columns = [p for p, press in enumerate(plan.presses) if set(press.masked) & set(mask.serves)]
            words = (
                outcome.work.stash.find(mask.stamp).name,
                _say_when(plan, columns),
                f"careful {say_length(mask.careful_mm, unit)} of {say_length(mask.full_mm, unit)}",
            )
            self._cards[index] = MaskCard(words, MaskPicture(cuts[index], self._pictures))
            self._cut.box.addWidget(self._cards[index])
        for counter, cut in zip(plan.counters, outcome.rehearsal.masking.counter_cuts, strict=True):
            inside = ", ".join(self._session.names.get(key, key) for key in counter.serves)
            words = (
                f"counter mask: {self._session.names.get(counter.opening, counter.opening)}",
                f"only its inside is open, for {inside}",
                f"careful {say_length(counter.careful_mm, unit)} of {say_length(counter.full_mm, unit)}",
            )
            self._cut.box.addWidget(MaskCard(words, MaskPicture(cut, self._pictures)))
        if not plan.masks and not plan.counters:
            self._cut.box.addWidget(label("None: nothing stands behind anything.", "soft", wrap=True))
        elif self._slips is not None and self._slips[0] is outcome:
            self._take_slips(self._slips)
        else:
            self._ask_slips(outcome)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        outcome = self._session.outcome
        if outcome is not None and (self._slips is None or self._slips[0] is not outcome):
            self._ask_slips(outcome)

    def _ask_slips(self, outcome: Outcome) -> None:
        if not self.isVisible() or not outcome.plan.masks:
            return
        session, pictures = self._session, dict(self._session.pictures)
        work = outcome.work

        def work_out() -> tuple[Outcome, tuple[Slip, ...]]:
            return outcome, masks.list_slips(work, pictures, outcome.plan, go_on=lambda: session.is_wanted(work))

        self.slipper.ask(work_out)

    def _take_slips(self, result: tuple[Outcome, tuple[Slip, ...]]) -> None:
        outcome, slips = result
        if outcome is not self._session.outcome:
            return
        self._slips = result
        for index, slip in enumerate(slips):
            if index in self._cards:
                self._cards[index].show_slip(_say_slip(slip))

    def _show_press(self) -> None:
        outcome = self._session.outcome
        size = self._session.work.card.panel
        if outcome is None or not outcome.plan.presses:
            self.steps.show_steps(())
            self.view.show_paper(
                None, size, empty="Nothing to stamp yet.\nPut images on the card at the Scene station."
            )
            self._press_heading.setText("")
            return
        press, plan = self.timetable.press, outcome.plan
        areas = {leaf.key: leaf.whole for leaf in stack(outcome.work)}
        self.view.show_paper(outcome.rehearsal.papers[press + 1], outcome.work.card.panel)
        lying = [
            ring for area in outcome.rehearsal.masking.during(press) for ring in to_rings(area.simplify(OUTLINE_MM))
        ]
        made = plan.presses[press]
        keys = [] if made.surface == SHEET else [piece_key(key) for key in made.impressions]
        self.view.show_layers(masks=lying, outlines=[ring for key in keys for ring in to_rings(areas[key])])
        what = plan.name_of(press)
        where = ", on the sheet to cut from" if made.surface == SHEET else ""
        steps = [one for one in outcome.rehearsal.steps if one.press == press]
        self._press_heading.setText(f"{what}{where}, step by step")
        self._press_heading.setToolTip(f"about {sum(step.minutes for step in steps):.0f} min")
        self.steps.show_steps(steps)

    def sizeHint(self) -> QSize:
        return QSize(1100, 700)


def _say_when(plan: MaskPlan, columns: list[int]) -> str:
    """Say in which presses a mask lies, and whether it does while a wash is inked."""
    numbers = [str(plan.number_of(p)) for p in columns if plan.presses[p].is_on_platform]
    told = f"press{'es' * (len(numbers) > 1)} {', '.join(numbers)}" if numbers else ""
    wash = "the wash" if len(numbers) < len(columns) else ""
    return f"lies in {told}{' and ' if told and wash else ''}{wash}"


def _say_slip(slip: Slip) -> str:
    if slip.tolerance_mm >= MOST_SLIP_MM:
        return "may slip 3 mm and more"
    return f"may slip {slip.tolerance_mm:.1f} mm unseen"
