"""What the mouse does on the bench: choosing, moving with gaps and catches, turning, and drawing flaps."""

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen

from fair_thicket import edits
from fair_thicket.desk import theme
from fair_thicket.desk.scene.card_view import CardView
from fair_thicket.desk.scene.gaps import GapMeter
from fair_thicket.desk.session.session import Session
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Piece
from fair_thicket.scene.snapping import Guide

UPRIGHT_SNAP_DEG = 2.0
CATCH_PX = 6.0
KNOB_REACH_PX = 16
TREMBLE_PX = 4
HOLD_OFF = Qt.KeyboardModifier.ControlModifier
"""Held while dragging or turning, nothing catches."""


class Drag:
    """A drag under way: what is done, where it began (mm), what goes along, and whether it has moved yet."""

    def __init__(self, kind: str, start: QPointF, keys: frozenset[str], led: frozenset[str] = frozenset()) -> None:
        self.kind, self.start, self.keys, self.led, self.moved = kind, start, keys, led, False
        self.meter: GapMeter | None = None
        self.by = QPointF()


PATH_STEP_MM = 0.6
"""Places on a drawn way are so far apart at least."""


class LineTool:
    """A line that the maker is asked to draw across the card, and what is done with it.

    Attributes
    ----------
    hint : str
        What to do, shown at the pointer's side.
    done : callable of (start, end)
        Both ends on the panel, mm.
    """

    def __init__(self, hint: str, done: Callable[[tuple[float, float], tuple[float, float]], object]) -> None:
        self.hint, self.done = hint, done


class PointTool:
    """A point that the maker is asked to click.

    Attributes
    ----------
    hint : str
    done : callable of (x, y)
        The point on the panel, mm.
    hover : callable of (x, y) or None
        Told where the pointer is meanwhile.
    """

    def __init__(
        self,
        hint: str,
        done: Callable[[tuple[float, float]], object],
        hover: Callable[[tuple[float, float]], object] | None = None,
    ) -> None:
        self.hint, self.done, self.hover = hint, done, hover


class PathTool:
    """A way that the maker is asked to draw freely, pressed, dragged and let go.

    Attributes
    ----------
    hint : str
    done : callable of a list of (x, y)
        Places on the way, mm on the panel, no nearer to each other than `PATH_STEP_MM`.
    """

    def __init__(self, hint: str, done: Callable[[list[tuple[float, float]]], object]) -> None:
        self.hint, self.done = hint, done


Tool = LineTool | PointTool | PathTool


class Hands:
    """The mouse on a bench."""

    def __init__(self, bench: CardView, session: Session) -> None:
        self._bench, self._session = bench, session
        self._drag: Drag | None = None
        self._tool: Tool | None = None
        self._line: tuple[QPointF, QPointF] | None = None
        self._path: list[QPointF] = []

    @property
    def is_busy(self) -> bool:
        """Whether a drag or a tool is under way."""
        return self._drag is not None or self._tool is not None

    @property
    def is_turning(self) -> bool:
        """Whether the knob is being dragged."""
        return self._drag is not None and self._drag.kind == "turn"

    @property
    def shows_knob(self) -> bool:
        """Whether the turning knob is to be seen."""
        return (self._drag is None or self.is_turning) and self._tool is None

    def take(self, tool: Tool) -> None:
        """Take up a tool; Escape puts it down."""
        self.give_up()
        self._tool = tool
        self._session.said.emit(tool.hint)
        self._bench.viewport().setCursor(Qt.CursorShape.CrossCursor)
        self._bench.setFocus()

    # -- the mouse -----------------------------------------------------------------------------------------------

    def press(self, event: QMouseEvent) -> None:
        """Begin what the button begins where it is pressed."""
        if event.button() != Qt.MouseButton.LeftButton:
            return
        bench = self._bench
        bench.show_finding(None)
        at = bench.mapToScene(event.position().toPoint())
        if self._tool is not None:
            self._line, self._path = (at, at), [at]
            return
        single = bench.single()
        if single is not None and (bench.knob_at(single)[0] - event.position()).manhattanLength() < KNOB_REACH_PX:
            key = single.piece.id
            turning = frozenset(edits.followers(self._session.work.card.pieces, {key}))
            self._drag = Drag("turn", at, frozenset({key}), turning)
            return
        item = bench.item_at(at)
        adding = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if item is None:
            if not adding:
                self._session.select(())
            self._drag = Drag("choose", at, frozenset())
            return
        self._choose(item.piece, adding=adding)
        keys = self._session.selection
        led = frozenset(edits.followers(self._session.work.card.pieces, keys))
        self._drag = Drag("move", at, keys, led) if keys else None

    def _choose(self, piece: Piece, *, adding: bool) -> None:
        chosen = self._session.selection
        if adding:
            self._session.select(chosen ^ {piece.id})
        elif piece.id not in chosen:
            self._session.select({piece.id})

    def move(self, event: QMouseEvent) -> None:
        """Go on with what was begun, or show what could be."""
        bench = self._bench
        at = bench.mapToScene(event.position().toPoint())
        if self._tool is not None:
            self._go_on_with_tool(self._tool, at)
            return
        drag = self._drag
        if drag is None:
            self._show_cursor(event.position(), at)
            return
        if not drag.moved and (at - drag.start).manhattanLength() * bench.px_per_mm < TREMBLE_PX:
            return
        if not drag.moved:
            drag.moved = True
            bench.rest(drag.led)
        free = bool(event.modifiers() & HOLD_OFF)
        if drag.kind == "move":
            self._move_pieces(drag, at - drag.start, free=free)
        elif drag.kind == "turn":
            self._turn_piece(drag, at, free=free)
        else:
            self._session.select(bench.items_within(QRectF(drag.start, at).normalized()))
        bench.viewport().update()

    def _go_on_with_tool(self, tool: Tool, at: QPointF) -> None:
        if self._line is not None:
            self._line = (self._line[0], at)
            if (at - self._path[-1]).manhattanLength() >= PATH_STEP_MM:
                self._path.append(at)
        elif isinstance(tool, PointTool) and tool.hover is not None:
            tool.hover((at.x(), at.y()))
        self._bench.viewport().update()

    def release(self, event: QMouseEvent) -> None:
        """End what was begun: one edit at most."""
        bench = self._bench
        if self._tool is not None and self._line is not None:
            self._end_tool(self._tool, self._line)
            return
        drag, self._drag = self._drag, None
        angle = bench.angle_of(next(iter(drag.keys))) if drag and drag.kind == "turn" else 0.0
        bench.show_moves((), ())
        bench.rest(())
        if drag is None or not drag.moved or event.button() != Qt.MouseButton.LeftButton:
            bench.viewport().update()
            return
        if drag.kind == "move":
            by = (drag.by.x(), drag.by.y())
            self._session.edit(f"move {bench.name_of(drag.keys)}", lambda work: edits.move_by(work, drag.keys, by))
        elif drag.kind == "turn":
            self._session.edit(f"turn {bench.name_of(drag.keys)}", lambda work: edits.turn_to(work, drag.keys, angle))
        bench.place_items(self._session.work, drag.led)  # whatever was not taken over goes back to its place
        bench.viewport().update()

    def _end_tool(self, tool: Tool, line: tuple[QPointF, QPointF]) -> None:
        path = [(point.x(), point.y()) for point in (*self._path, line[1])]
        self._tool, self._line, self._path = None, None, []
        self._bench.viewport().unsetCursor()
        self._bench.show_outline(None)
        start, end = ((point.x(), point.y()) for point in line)
        if isinstance(tool, LineTool):
            tool.done(start, end)
        elif isinstance(tool, PathTool):
            tool.done(path)
        else:
            tool.done(end)

    def give_up(self) -> None:
        """Put everything back as the card has it, and the tool down."""
        drag, self._drag = self._drag, None
        self._tool, self._line = None, None
        bench = self._bench
        bench.viewport().unsetCursor()
        bench.show_moves((), ())
        bench.show_outline(None)
        bench.rest(())
        if drag is not None:
            bench.place_items(self._session.work, drag.led)
        bench.viewport().update()

    # -- moving and turning --------------------------------------------------------------------------------------

    def _move_pieces(self, drag: Drag, by: QPointF, *, free: bool) -> None:
        if drag.meter is None:
            drag.meter = GapMeter(self._session.work, drag.led, self._session.names)
        guides: tuple[Guide, ...] = ()
        if not free:
            found = drag.meter.catch((by.x(), by.y()), CATCH_PX / self._bench.px_per_mm)
            by, guides = by + QPointF(*found.by), found.guides
        drag.by = by
        self._bench.shift_items(drag.led, by)
        self._bench.show_moves(drag.meter.measure((by.x(), by.y())), guides)

    def _turn_piece(self, drag: Drag, at: QPointF, *, free: bool) -> None:
        key = next(iter(drag.keys))
        piece = self._session.work.card.find(key)
        angle = math.degrees(math.atan2(at.x() - piece.x, piece.y - at.y()))
        nearest = round(angle / 90) * 90
        if not free and abs(angle - nearest) < UPRIGHT_SNAP_DEG:
            angle = nearest
        turned: Work = edits.turn_to(self._session.work, {key}, round(angle, 1))
        self._bench.place_items(turned, drag.led)

    def _show_cursor(self, position: QPointF, at: QPointF) -> None:
        bench = self._bench
        single = bench.single()
        if single is not None and (bench.knob_at(single)[0] - position).manhattanLength() < KNOB_REACH_PX:
            bench.viewport().setCursor(Qt.CursorShape.CrossCursor)
        elif bench.item_at(at) is not None:
            bench.viewport().setCursor(Qt.CursorShape.OpenHandCursor)
        else:
            bench.viewport().unsetCursor()

    def draw(self, painter: QPainter) -> None:
        """Draw the line, or the way, of a tool."""
        if self._line is None or isinstance(self._tool, PointTool):
            return
        points = self._path if isinstance(self._tool, PathTool) else list(self._line)
        shown = [QPointF(self._bench.mapFromScene(point)) for point in points]
        painter.setPen(QPen(QColor("white"), 4))
        painter.drawPolyline(shown)
        painter.setPen(QPen(theme.BERRY, 2, Qt.PenStyle.DashLine))
        painter.drawPolyline(shown)
