"""What is drawn over the bench: marks of advice, gaps, guides, ghosts, the envelope and bare areas. Painting only."""

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPixmap, QTransform

from fair_thicket.desk import theme
from fair_thicket.desk.parts.pictures import ring_path
from fair_thicket.desk.scene.gaps import Gap
from fair_thicket.desk.theme.weights import WEIGHT_COLOURS
from fair_thicket.model.finding import Finding
from fair_thicket.model.formats import Envelope
from fair_thicket.model.units import Unit, say_length
from fair_thicket.scene.room import Room
from fair_thicket.scene.snapping import Guide

PILL_INK = QColor("#1d1608")


@dataclass
class Overlays:
    """What lies over the card in the view until something else is looked at; places are mm on the panel.

    Attributes
    ----------
    gaps, guides
        Of what is being moved.
    finding : Finding or None
        Whose places are marked.
    earlier : sequence of paths
        Outlines of an earlier layout.
    bare : path or None
        Where no ink is needed.
    places : sequence of Room
        Proposed for a greeting.
    outlined : path or None
        What is pointed at.
    envelope : Envelope or None
        That the card needs, where anything hangs over.
    """

    gaps: Sequence[Gap] = ()
    guides: Sequence[Guide] = ()
    finding: Finding | None = None
    earlier: Sequence[QPainterPath] = ()
    bare: QPainterPath | None = None
    places: Sequence[Room] = ()
    outlined: QPainterPath | None = None
    envelope: Envelope | None = None

    def forget(self) -> None:
        """Forget what was said of the card as it was before a change."""
        self.finding, self.outlined = None, None
        self.gaps, self.guides, self.places = (), (), ()

    def draw(self, painter: QPainter, view: QTransform, panel: tuple[float, float]) -> None:
        """Draw all but gaps and guides."""
        if self.bare is not None:
            draw_bare(painter, self.bare, view)
        if self.earlier:
            draw_earlier(painter, self.earlier, view)
        if self.outlined is not None:
            draw_outline(painter, self.outlined, view, theme.BERRY)
        if self.envelope is not None:
            draw_envelope(painter, self.envelope, panel, view)
        draw_places(painter, self.places, view)
        if self.finding is not None:
            draw_finding(painter, self.finding, view)

    def draw_moves(self, painter: QPainter, view: QTransform, unit: Unit) -> None:
        """Draw gaps and guides, over all else."""
        draw_guides(painter, self.guides, view)
        draw_gaps(painter, self.gaps, view, unit)


def draw_knob(painter: QPainter, knob: QPointF, foot: QPointF, *, angle_deg: float | None) -> None:
    """Draw the knob that turns a piece, and how far it is turned while it is."""
    painter.setPen(QPen(theme.HONEY, 2))
    painter.drawLine(foot, knob)
    painter.setBrush(theme.HONEY)
    painter.drawEllipse(knob, 6, 6)
    if angle_deg is not None:
        theme.draw_pill(painter, knob - QPointF(0, 20), f"{angle_deg:.0f}°", ground=theme.HONEY, ink=theme.INK)


def draw_ghost(painter: QPainter, picture: QPixmap, box: QRectF, at: QPointF, view: QTransform) -> None:
    """Draw an image that is being brought from the drawer."""
    where = QRectF(box.x() + at.x(), box.y() + at.y(), box.width(), box.height())
    painter.setOpacity(0.75)
    painter.drawPixmap(view.mapRect(where), picture, QRectF(picture.rect()))
    painter.setOpacity(1)


def draw_edge(painter: QPainter, box: QRectF) -> None:
    """Draw the card's edge."""
    painter.setPen(QPen(theme.SOFT_INK, 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box)


def draw_invitation(painter: QPainter, box: QRectF, *, has_stamps: bool) -> None:
    """Write on an empty card what to do next."""
    painter.setPen(theme.SOFT_INK)
    painter.setFont(theme.font(15))
    if has_stamps:
        words = "Drag an image from the drawer onto the card,\nor add a panel or a strip. Nothing is stuck yet."
    else:
        words = "The drawer is empty.\nOpen a scan of stamped images at the Stash station."
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def draw_finding(painter: QPainter, finding: Finding, view: QTransform) -> None:
    """Mark the places of a finding."""
    colour = QColor(WEIGHT_COLOURS[finding.weight])
    painter.setPen(QPen(colour, 2))
    wash = QColor(colour)
    wash.setAlpha(90)
    painter.setBrush(wash)
    for ring in finding.places:
        painter.drawPath(view.map(ring_path(ring)))


def draw_gaps(painter: QPainter, gaps: Sequence[Gap], view: QTransform, unit: Unit) -> None:
    """Draw gaps as lines with their lengths."""
    pills: list[QRectF] = []
    for gap in gaps:
        start, end = view.map(QPointF(*gap.start)), view.map(QPointF(*gap.end))
        painter.setPen(QPen(theme.HONEY_TEXT, 1.5))
        painter.drawLine(start, end)
        words = f"{say_length(abs(gap.length_mm), unit)}{gap.words}"
        middle = (start + end) / 2
        pills.append(theme.draw_pill(painter, middle, words, ground=theme.HONEY, ink=PILL_INK, clear_of=tuple(pills)))


def draw_guides(painter: QPainter, guides: Sequence[Guide], view: QTransform) -> None:
    """Draw the lines that a dragged piece has caught on, each with what it is."""
    for guide in guides:
        ends = (
            (QPointF(guide.at, guide.low - 3), QPointF(guide.at, guide.high + 3))
            if guide.is_upright
            else (QPointF(guide.low - 3, guide.at), QPointF(guide.high + 3, guide.at))
        )
        start, end = (view.map(point) for point in ends)
        painter.setPen(QPen(theme.BERRY, 1.4, Qt.PenStyle.DashDotLine))
        painter.drawLine(start, end)
        theme.draw_pill(painter, start, guide.words, ground=theme.BERRY, ink=QColor("white"))


def draw_places(painter: QPainter, places: Sequence[Room], view: QTransform) -> None:
    """Draw proposed places for a greeting as numbered ghosts."""
    for number, place in reversed(list(enumerate(places, 1))):
        box = view.mapRect(QRectF(place.left, place.top, place.width_mm, place.height_mm))
        painter.setPen(QPen(theme.PINE, 2, Qt.PenStyle.DashLine))
        painter.setBrush(QColor(255, 253, 246, 150))
        painter.drawRoundedRect(box, 4, 4)
        theme.draw_pill(painter, box.center(), f"place {number}", ground=theme.PINE, ink=QColor("white"))


def draw_envelope(painter: QPainter, envelope: Envelope, panel: tuple[float, float], view: QTransform) -> None:
    """Draw an envelope's outline round the card, centred on it."""
    width, height = envelope.width_mm, envelope.height_mm
    if (panel[0] < panel[1]) != (width < height):
        width, height = height, width
    box = view.mapRect(QRectF((panel[0] - width) / 2, (panel[1] - height) / 2, width, height))
    painter.setPen(QPen(theme.HONEY_TEXT, 1.6, Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box)
    foot = QPointF(box.center().x(), box.bottom())
    theme.draw_pill(painter, foot, envelope.name, ground=theme.HONEY_WASH, ink=theme.INK)


def draw_bare(painter: QPainter, bare: QPainterPath, view: QTransform) -> None:
    """Hatch what needs no ink."""
    painter.setPen(QPen(theme.HONEY_TEXT, 1))
    painter.setBrush(QBrush(QColor(138, 83, 0, 130), Qt.BrushStyle.BDiagPattern))
    painter.drawPath(view.map(bare))


def draw_earlier(painter: QPainter, paths: Sequence[QPainterPath], view: QTransform) -> None:
    """Draw an earlier layout's outlines as a ghost."""
    painter.setPen(QPen(QColor(31, 58, 48, 170), 1.3, Qt.PenStyle.DotLine))
    painter.setBrush(QColor(31, 58, 48, 16))
    for path in paths:
        painter.drawPath(view.map(path))


def draw_outline(painter: QPainter, path: QPainterPath, view: QTransform, colour: QColor) -> None:
    """Draw a path that is hovered or picked, with a light fill."""
    wash = QColor(colour)
    wash.setAlpha(70)
    painter.setPen(QPen(colour, 2))
    painter.setBrush(wash)
    painter.drawPath(view.map(path))
