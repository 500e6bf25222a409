"""What paper there is to make a card of, for how many cards, and with spares or not."""

import msgspec
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget

from fair_thicket import edits
from fair_thicket.desk.parts.controls import Column, Stepper, label
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.sheets.papers import fill_papers
from fair_thicket.model.card import Work
from fair_thicket.model.declared import limit_of
from fair_thicket.model.sheets import SheetRules
from fair_thicket.sheets import SheetsPlan


class PapersPane(QWidget):
    """Cards to make, spares, and the papers that are needed.

    Attributes
    ----------
    cards : Stepper
    spares : QCheckBox
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        row = QHBoxLayout()
        row.addWidget(label("Cards", "soft"))
        pair = limit_of(SheetRules, "cards").pair
        self.cards = Stepper("How many of this card are made", pair, 1, lambda value: f"{value:.0f}", self.set_cards)
        row.addWidget(self.cards)
        row.addStretch(1)
        self.spares = QCheckBox("Spares of what is hard")
        self.spares.toggled.connect(self._set_spares)
        row.addWidget(self.spares)
        column.addLayout(row)
        self._papers = Column(spacing=4, margin=0)
        column.addWidget(self._papers, 1)

    def show_rules(self, rules: SheetRules) -> None:
        """Show what the card says."""
        self.cards.show_value(rules.cards)
        self.spares.blockSignals(True)
        self.spares.setChecked(rules.spares)
        self.spares.blockSignals(False)

    def show_papers(self, plan: SheetsPlan) -> None:
        """Show what is needed."""
        fill_papers(self._papers, plan, self._session.work.card.unit)

    def _set(self, words: str, **fields: object) -> None:
        def change(work: Work) -> Work:
            return edits.set_card(work, sheets=msgspec.structs.replace(work.card.sheets, **fields))

        self._session.edit(words, change)

    def set_cards(self, value: float) -> None:
        """Say how many of this card are made."""
        self._set("make more or fewer cards", cards=round(value))

    def _set_spares(self, is_on: bool) -> None:
        self._set("stamp spares or none", spares=is_on)
