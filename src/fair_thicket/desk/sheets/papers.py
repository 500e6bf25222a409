"""The papers that a card takes, counted down, beside the sheets."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QWidget

from fair_thicket.desk.parts.controls import Column, label
from fair_thicket.desk.parts.ink_choice import swatch
from fair_thicket.desk.sheets.pages import say_need
from fair_thicket.model.units import Unit
from fair_thicket.sheets import SheetsPlan


def fill_papers(column: Column, plan: SheetsPlan, unit: Unit) -> None:
    """List the papers of a plan in a column: what fits none, how many are wanted, what is left after."""
    column.clear()
    for words in plan.misfits:
        column.box.addWidget(label(words, "", wrap=True))
    for need in plan.needs:
        if not need.wanted:
            continue
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 2, 0, 2)
        field = label("")
        field.setPixmap(swatch(need.stock.colour).pixmap(18, 18))
        line.addWidget(field, 0, Qt.AlignmentFlag.AlignTop)
        after = "" if need.stock.left is None else f", {max(0, need.stock.left - need.wanted)} left after"
        short = f" · buy {need.short}" if need.stock.left is not None and need.short else ""
        line.addWidget(label(f"{say_need(need, unit)}{after}{short}", wrap=True), 1)
        column.box.addWidget(row)
