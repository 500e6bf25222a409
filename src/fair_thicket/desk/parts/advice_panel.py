"""Advice: the worst first, each with its measure, its reason, a remedy where one exists, and *show me*."""

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from fair_thicket import edits
from fair_thicket.desk import theme
from fair_thicket.desk.parts.controls import Column, Stripe, button, card_frame, label
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.theme.weights import WEIGHT_COLOURS, WEIGHT_WORDS
from fair_thicket.model.finding import Finding, Remedy, Weight

MOST_AT_ONCE = 10


class AdvicePanel(QWidget):
    """Shows the findings of a station.

    Attributes
    ----------
    findings : list of Finding
        As shown.
    cards : list of QFrame
        One a finding, in the same order.
    """

    def __init__(self, session: Session, station: str, heading: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._station = session, station
        self.findings: list[Finding] = []
        self.cards: list[QFrame] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(label(heading, "subheading"))
        self._state = label("", "soft")
        head.addWidget(self._state, 0, Qt.AlignmentFlag.AlignRight)
        box.addLayout(head)
        self._column = Column(spacing=8, margin=0)
        self._column.box.setContentsMargins(0, 2, 6, 2)
        box.addWidget(self._column, 1)
        session.outcomeChanged.connect(self.refresh)
        session.glanceChanged.connect(self._show_glance)
        session.cardChanged.connect(self._show_thinking)
        self.refresh()

    def refresh(self) -> None:
        """Show the findings of the newest outcome."""
        outcome = self._session.outcome
        self._show([] if outcome is None else outcome.findings, is_known=outcome is not None)

    def _show_glance(self) -> None:
        """Show at once what a glance tells, until remedies have been tried."""
        glance, outcome = self._session.glance, self._session.outcome
        is_told = outcome is not None and outcome.work is self._session.work
        if self._station == "scene" and glance is not None and not is_told:
            self._show(glance.findings, is_known=True)

    def _show(self, findings: Sequence[Finding], *, is_known: bool) -> None:
        shown = [one for one in findings if one.station == self._station]
        if shown == self.findings and self.cards:
            self._show_state()
            return
        self._column.clear()
        self.cards = []
        self.findings = shown
        self._add_cards(MOST_AT_ONCE)
        if not self.findings:
            words = "Nothing to say yet: put an image on the card." if is_known else "Working it out …"
            self._column.box.addWidget(label(words, "soft", wrap=True))
        self._show_state()

    def _add_cards(self, most: int) -> None:
        """Add cards for the next findings; a full card has more to say than anyone reads at once."""
        start = len(self.cards)
        for finding in self.findings[start : start + most]:
            self.cards.append(self._make_dismissed(finding) if finding.is_dismissed else self._make_card(finding))
            self._column.box.addWidget(self.cards[-1])
        left = len(self.findings) - len(self.cards)
        if left > 0:
            self._more = button(f"{left} more", self._show_more, "link")
            self._column.box.addWidget(self._more)

    def _show_more(self) -> None:
        self._more.hide()
        self._more.deleteLater()
        self._add_cards(MOST_AT_ONCE)

    def _show_state(self) -> None:
        open_ones = sum(one.weight >= Weight.CAUTION and not one.is_dismissed for one in self.findings)
        self._state.setText(f"{open_ones} to settle" if open_ones else "settled" if self.findings else "")

    def _show_thinking(self) -> None:
        self._state.setText("checking …")

    def _make_card(self, finding: Finding) -> QFrame:
        frame, box = card_frame()
        frame.setAccessibleName(f"{WEIGHT_WORDS[finding.weight]}: {finding.title}. {finding.text}")
        outer = QHBoxLayout()
        outer.setSpacing(9)
        outer.addWidget(Stripe(WEIGHT_COLOURS[finding.weight]))
        inner = QVBoxLayout()
        inner.setSpacing(3)
        outer.addLayout(inner, 1)
        box.addLayout(outer)
        title = label(finding.title, wrap=True)
        title.setFont(theme.font(13, title.font().Weight.Bold))
        title.setStyleSheet("font-weight: 700;")
        inner.addWidget(title)
        inner.addWidget(label(f"{WEIGHT_WORDS[finding.weight]} · {finding.text}", "soft", wrap=True))
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        if finding.remedy is not None:
            remedy = finding.remedy
            inner.addWidget(button(remedy.words, lambda: self._apply(remedy), "primary"), 0, Qt.AlignmentFlag.AlignLeft)
        for other in finding.more:
            inner.addWidget(button(other.words, partial(self._apply, other)), 0, Qt.AlignmentFlag.AlignLeft)
        if finding.places or finding.pieces:
            row.addWidget(button("show me", lambda: self._show_place(finding), "link"))
        row.addStretch(1)
        if finding.weight > Weight.GOOD:
            tip = "Do not say this of this piece again; it stays listed below as dismissed."
            row.addWidget(button("dismiss", lambda: self._dismiss(finding), "link", tip=tip))
        if row.count() > 1:
            inner.addLayout(row)
        return frame

    def _make_dismissed(self, finding: Finding) -> QFrame:
        frame, box = card_frame()
        frame.setAccessibleName(f"dismissed: {finding.title}")
        row = QHBoxLayout()
        row.addWidget(label(f"dismissed · {finding.title}", "soft", wrap=True), 1)
        row.addWidget(button("bring back", lambda: self._recall(finding), "link"))
        box.addLayout(row)
        return frame

    def _dismiss(self, finding: Finding) -> None:
        piece = finding.pieces[0] if finding.pieces else ""
        self._session.edit("dismiss advice", lambda work: edits.dismiss(work, finding.code, piece))

    def _recall(self, finding: Finding) -> None:
        piece = finding.pieces[0] if finding.pieces else ""
        self._session.edit("bring advice back", lambda work: edits.recall(work, finding.code, piece))

    def _apply(self, remedy: Remedy) -> None:
        self._session.edit(remedy.words[:1].lower() + remedy.words[1:], lambda work: edits.apply_remedy(work, remedy))

    def _show_place(self, finding: Finding) -> None:
        self._session.select([key for key in finding.pieces[:1] if key in self._session.names])
        self._session.shown.emit(finding)
