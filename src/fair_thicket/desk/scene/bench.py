"""The bench: the card's pieces in the maker's hands, by mouse, by key and from the drawer."""

from collections.abc import Callable

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QWidget

from fair_thicket import edits
from fair_thicket.desk.parts.pictures import StampPictures
from fair_thicket.desk.scene import bench_overlays as overlays
from fair_thicket.desk.scene.bench_hands import Hands
from fair_thicket.desk.scene.card_view import CardView
from fair_thicket.desk.session.session import Session
from fair_thicket.edits.adding import add_from_stash
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Cutout
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import MM_PER_INCH, Unit


class Bench(CardView):
    """Shows and moves the pieces of the session's card.

    Attributes
    ----------
    hands : Hands
        What the mouse does.
    """

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(session, pictures, parent)
        self.hands = Hands(self, session)

    def draw_knob(self, painter: QPainter) -> None:
        item = self.single()
        if item is not None and self.hands.shows_knob:
            angle = item.rotation() if self.hands.is_turning else None
            overlays.draw_knob(painter, *self.knob_at(item), angle_deg=angle)

    def draw_tool(self, painter: QPainter) -> None:
        self.hands.draw(painter)

    # -- the mouse -----------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.hands.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.hands.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.hands.release(event)

    # -- from the drawer -----------------------------------------------------------------------------------------

    def hover_stamp(self, stamp: Stamp, at_global: QPoint) -> None:
        """Show a stamp that is being dragged here from the drawer."""
        at = self.mapToScene(self.viewport().mapFromGlobal(at_global))
        inside = self.viewport().rect().contains(self.viewport().mapFromGlobal(at_global))
        self.ghost = (stamp, at) if inside else None
        self.viewport().update()

    def drop_stamp(self, stamp: Stamp, at_global: QPoint) -> bool:
        """Stamp or lay an image where it was let go; outside the bench nothing happens."""
        self.ghost = None
        local = self.viewport().mapFromGlobal(at_global)
        self.viewport().update()
        if not self.viewport().rect().contains(local):
            return False
        at = self.mapToScene(local)
        return self.add_stamp(stamp, (at.x(), at.y()))

    def add_stamp(self, stamp: Stamp, at: tuple[float, float]) -> bool:
        """Put a thing of the stash with its middle at a place of the panel, mm, and choose it."""
        verb = "lay" if stamp.kind.is_plain else "stamp"
        if not self.add(f"{verb} {stamp.name}", lambda work: add_from_stash(work, stamp.id, at)):
            return False
        (key,) = self._session.selection
        if not stamp.kind.is_plain and isinstance(self._session.work.card.find(key), Cutout):
            words = f"Something is glued there already, so the {stamp.name} is cut out and glued over it."
            self._session.said.emit(words)
        return True

    def add(self, words: str, change: Callable[[Work], tuple[Work, str]]) -> bool:
        """Add a piece by an edit that also tells its id, and choose it."""
        added: list[str] = []

        def make(work: Work) -> Work:
            after, key = change(work)
            added.append(key)
            return after

        if not self._session.edit(words, make):
            return False
        self._session.select(added[-1:])
        self.setFocus()
        return True

    # -- the keyboard --------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        way = ways.get(Qt.Key(event.key()))
        plain = not event.modifiers() & (Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.ControlModifier)
        if way is not None and plain and self._session.selection:
            self._nudge(way, far=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif event.key() in {Qt.Key.Key_Period, Qt.Key.Key_Comma} and self._items:
            self._choose_next(1 if event.key() == Qt.Key.Key_Period else -1)
        elif event.key() == Qt.Key.Key_Escape and self.hands.is_busy:
            self.hands.give_up()
        elif event.key() == Qt.Key.Key_Escape:
            self._session.select(())
        else:
            event.ignore()

    def _nudge(self, way: tuple[int, int], *, far: bool) -> None:
        step = MM_PER_INCH / 16 if self._session.work.card.unit is Unit.INCH else 1.0
        step *= 4 if far else 1
        keys = self._session.selection
        self._session.edit(
            f"nudge {self.name_of(keys)}",
            lambda work: edits.move_by(work, keys, (way[0] * step, way[1] * step)),
            merge_key="nudge " + " ".join(sorted(keys)),
        )

    def _choose_next(self, step: int) -> None:
        order = [piece.id for piece in self._session.work.card.pieces]
        current = [order.index(key) for key in self._session.selection if key in order]
        index = (current[0] + step) % len(order) if current else 0
        self._session.select({order[index]})
