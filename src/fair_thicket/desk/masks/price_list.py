"""Mask or cut out: for every image what the other way would cost, and the quickest mix."""

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QVBoxLayout, QWidget

from fair_thicket import masks
from fair_thicket.desk.parts.controls import Column, button, card_frame, label
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.session.thinking import Outcome
from fair_thicket.edits import cutouts
from fair_thicket.laid.pinned import cut_by_pins
from fair_thicket.masks.mix import Mix
from fair_thicket.masks.pin_edits import add_pin, set_masking
from fair_thicket.masks.prices import Cost, Price, say_change, stamp_with_backs, with_pins
from fair_thicket.model.card import Work
from fair_thicket.model.masking import Pin
from fair_thicket.model.pieces import Impression
from fair_thicket.model.speech import join_words


class PriceList(QWidget):
    """Prices of the other way, worked out when they are looked at.

    Attributes
    ----------
    prices : list of Price
        As shown.
    worker, mixer : Worker
    mix_button : QPushButton
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.prices: list[Price] = []
        self._of: Outcome | None = None
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(session.said)
        self.mixer = Worker(self)
        self.mixer.done.connect(self._take_mix)
        self.mixer.failed.connect(session.said)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(5)
        self._now = label("", "soft", wrap=True)
        box.addWidget(self._now)
        self.mix_button = button(
            "Find the quickest mix", self.find_mix, "primary", tip="What to mask and what to cut out, in fewest minutes"
        )
        box.addWidget(self.mix_button)
        self._busy = QProgressBar()
        self._busy.setRange(0, 0)
        self._busy.setTextVisible(False)
        self._busy.setFixedHeight(6)
        self._busy.setAccessibleName("Working out prices")
        box.addWidget(self._busy)
        self._column = Column(spacing=6, margin=0)
        self._column.box.setContentsMargins(0, 2, 6, 2)
        box.addWidget(self._column, 1)
        for worker in (self.worker, self.mixer):
            worker.busyChanged.connect(lambda _: self._show_busy())
        self._show_busy()
        session.outcomeChanged.connect(self.refresh)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def _show_busy(self) -> None:
        self._busy.setVisible(self.worker.is_busy or self.mixer.is_busy)
        self.mix_button.setEnabled(not self.mixer.is_busy and self._session.outcome is not None)

    def refresh(self) -> None:
        """Work prices out anew when the plan is another and they are looked at."""
        outcome = self._session.outcome
        self._show_busy()
        if outcome is None or not self.isVisible() or outcome is self._of:
            return
        self._of = outcome
        work, plan, session = outcome.work, outcome.plan, self._session

        def work_out() -> tuple[Outcome, Cost, list[Price]]:
            go_on = lambda: session.is_wanted(work)  # noqa: E731 - a line that reads as it is said
            return outcome, masks.cost_of(work, plan), masks.price_all(work, plan, go_on=go_on)

        self.worker.ask(work_out)

    def _take(self, result: tuple[Outcome, Cost, list[Price]]) -> None:
        outcome, now, self.prices = result
        if outcome.work is not self._session.work:
            return
        self._now.setText(
            f"Now: {now.minutes:.0f} min for stamping, masks, cutting and gluing, {now.careful_mm:.0f} mm with care, "
            f"{now.grams:.1f} g glued on. Rates are settings in the Masks menu."
        )
        self._column.clear()
        for pin in outcome.work.card.masking.pins:
            if pin.kind == "cut":
                self._column.box.addWidget(self._pinned_card(outcome.work, pin))
        for price in self.prices:
            self._column.box.addWidget(self._card(price))
        if not self.prices:
            self._column.box.addWidget(label("No images on the card yet.", "soft", wrap=True))

    def _card(self, price: Price) -> QWidget:
        names = self._session.names
        frame, box = card_frame()
        name = names.get(price.piece, price.piece)
        row = QHBoxLayout()
        head = label(name, wrap=True)
        head.setStyleSheet("font-weight: 700;")
        row.addWidget(head, 1)
        if price.change is not None:
            words = "cut it out" if price.way == "cut" else "stamp it"
            made = button(words, lambda: self.take_other_way(price), "link")
            made.setAccessibleName(f"{words}: {name}")
            row.addWidget(made)
        box.addLayout(row)
        told = join_words([names.get(key, key) for key in price.along]) if price.along else ""
        how = "Cut out instead" if price.way == "cut" else "Stamped instead"
        along = f", and with it {told}" if told else ""
        words = f"{how}{along}: {say_change(price.change) if price.change else price.reason}"
        box.addWidget(label(words, "soft", wrap=True))
        return frame

    def _pinned_card(self, work: Work, pin: Pin) -> QWidget:
        names = self._session.names
        frame, box = card_frame()
        cut = [piece.id for piece in work.card.pieces if piece.id in cut_by_pins(work)]
        told = join_words([names.get(key, key) for key in (cut or pin.pieces)])
        box.addWidget(label(f"Planned to be cut out: {told}", wrap=True))
        box.addWidget(button("Cut them out on the card", self.make_it_so, tip="They become cutouts in the scene"))
        return frame

    def take_other_way(self, price: Price) -> None:
        """Do one image the other way: a pin to cut it out, or the piece itself changed to be stamped."""
        session = self._session
        name = session.names.get(price.piece, price.piece)
        if price.way == "cut":
            session.edit_elsewhere(f"cut {name} out instead", lambda work: add_pin(work, Pin("cut", (price.piece,))))
        else:
            session.edit(f"stamp {name} instead", lambda work: stamp_with_backs(work, price.piece)[0])

    def make_it_so(self) -> None:
        """Turn what is pinned to be cut out into cutouts of the scene; the pins are then done with."""

        def change(work: Work) -> Work:
            cut = [piece for piece in work.card.pieces if piece.id in cut_by_pins(work)]
            for piece in cut:
                if isinstance(piece, Impression):
                    work = cutouts.cut_out(work, piece.id)
            pins = tuple(pin for pin in work.card.masking.pins if pin.kind != "cut")
            return set_masking(work, pins=pins)

        self._session.edit("cut them out on the card", change)

    def find_mix(self) -> None:
        """Search the quickest mix, away from the interface."""
        work, session = self._session.work, self._session
        self.mixer.ask(lambda: (work, masks.find_mix(work, go_on=lambda: session.is_wanted(work))))

    def _take_mix(self, result: tuple[Work, Mix]) -> None:
        work, mix = result
        if work is not self._session.work:
            return
        how = "No mix is quicker" if mix.proven else "Nothing quicker was found in time"
        if not mix.cut:
            self._session.said.emit(
                f"{how} than it is planned now: {mix.before.minutes:.0f} min (waits for drying not weighed)."
            )
            return
        change = mix.after.less(mix.before)
        pins = mix.pins
        self._session.edit("take the quickest mix", lambda one: with_pins(one, pins))
        self._session.said.emit(f"Cut out {len(mix.cut)} instead of masking: {say_change(change)}.")
