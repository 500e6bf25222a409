"""Who lies over whom, by menu: past one piece only, rings and their ways out, parts of a sheet lifted over or under."""

from collections.abc import Callable

from PySide6.QtWidgets import QMessageBox
from shapely.geometry import Point

from fair_thicket import edits
from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.scene.bench_hands import LineTool, PathTool, PointTool
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import flaps
from fair_thicket.edits.rings import RingError, bring_past_only, ring_with_cutout, ring_with_flap
from fair_thicket.laid.stack import stack
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError, ThicketError
from fair_thicket.model.pieces import PaperPiece

Spot = tuple[float, float]
LIFT = "Piece/Lift a part of it"


class FlapActions:
    """The records about passing, rings and flaps.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session) -> None:
        self._station, self._session = station, session
        one = self._is_one
        self.records = [
            Record("past-only", LIFT, "Bring past the other only", "", self.bring_past_only, self._are_two),
            Record("flap-line", LIFT, "Lift a part by a line …", "Alt+F", self.lift_by_line, one),
            Record("flap-ring", LIFT, "Lift what is drawn round …", "", self.lift_drawn, one),
            Record("flap-strand", LIFT, "Lift a strand …", "Alt+S", self.lift_strand, one),
            Record("flaps-back", LIFT, "Lay its flaps back", "", self.lay_flaps_back, self._has_flaps),
        ]

    def _is_one(self) -> bool:
        return len(self._session.selection) == 1

    def _are_two(self) -> bool:
        return len(self._session.selection) == 2

    def _has_flaps(self) -> bool:
        chosen = [piece for piece in self._session.work.card.pieces if piece.id in self._session.selection]
        return any(isinstance(piece, PaperPiece) and piece.flaps for piece in chosen)

    def _edit(self, words: str, change: Callable[[Work], Work]) -> None:
        self._session.edit(words, change)

    def bring_past_only(self) -> None:
        """Bring whichever of two chosen pieces lies behind in front of the other, and past nothing else.

        Where that closes a ring, the two ways out are offered.
        """
        session = self._session
        back, front = (piece.id for piece in session.work.card.pieces if piece.id in session.selection)
        try:
            session.change("bring past the other only", lambda work: bring_past_only(work, back, front))
        except RingError as problem:
            self._offer_ways_out(problem)
        except ThicketError as problem:
            session.said.emit(str(problem))

    def _offer_ways_out(self, problem: RingError) -> None:
        box = QMessageBox(self._station.window())
        box.setIcon(QMessageBox.Icon.NoIcon)
        box.setText("That closes a ring")
        box.setInformativeText(str(problem))
        names = self._session.names
        role = QMessageBox.ButtonRole.AcceptRole
        flap = box.addButton(f"Cut all out, with a flap of the {names[problem.ring[-1]]}", role)
        cut = box.addButton(f"Cut the {names[problem.ring[0]]} out and trim it", role)
        box.addButton("Leave it", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        chosen = box.clickedButton()
        if chosen is flap:
            self._session.edit("make a ring with a flap", lambda work: ring_with_flap(work, problem.ring))
        elif chosen is cut:
            self._session.edit("make a ring with a cut-out", lambda work: ring_with_cutout(work, problem.ring))
        box.deleteLater()

    def lift_by_line(self) -> None:
        """Let the maker draw a line across the chosen piece, click the part, and click what it goes past."""
        (key,) = self._session.selection
        if not self._may_lift(key):
            return
        name = self._session.names[key]
        hands = self._station.bench.hands

        def with_line(start: Spot, end: Spot) -> None:
            hands.take(PointTool("Now click the part that is to be lifted.", lambda at: with_part(start, end, at)))

        def with_part(start: Spot, end: Spot, at: Spot) -> None:
            try:
                ring = flaps.part_by_line(self._session.work, key, start, end, at)
            except PaperError as problem:
                self._session.said.emit(str(problem))
                return
            self._ask_past(key, ring)

        hands.take(LineTool(f"Draw a line across the {name}: press, drag, let go. Escape gives up.", with_line))

    def lift_drawn(self) -> None:
        """Let the maker draw round the part that is to be lifted, and click what it goes past."""
        (key,) = self._session.selection
        if not self._may_lift(key):
            return

        def with_ring(drawn: list[Spot]) -> None:
            try:
                ring = flaps.part_by_ring(self._session.work, key, drawn)
            except PaperError as problem:
                self._session.said.emit(str(problem))
                return
            self._ask_past(key, ring)

        name = self._session.names[key]
        words = f"Draw round the part of the {name}: press, drag all the way round, let go. Escape gives up."
        self._station.bench.hands.take(PathTool(words, with_ring))

    def lift_strand(self) -> None:
        """Let the maker click a strand of the chosen piece, and then what it goes past."""
        (key,) = self._session.selection
        if not self._may_lift(key):
            return
        bench = self._station.bench
        work = self._session.work
        strands = flaps.strands_of(work.card.find(key), work)

        def point(at: Spot) -> None:
            under = [strand for strand in strands if strand.distance(Point(at)) < flaps.TOUCH_MM]
            bench.show_outline(under[0] if under else None)

        def take(at: Spot) -> None:
            try:
                ring = flaps.strand_at(self._session.work, key, at)
            except PaperError as problem:
                self._session.said.emit(str(problem))
                return
            self._ask_past(key, ring)

        count = len(strands)
        words = f"{count} strands: click the one" if count != 1 else "Click the strand"
        bench.hands.take(PointTool(f"{words} that is to be lifted. Escape gives up.", take, point))

    def _may_lift(self, key: str) -> bool:
        piece = self._session.work.card.find(key)
        if isinstance(piece, PaperPiece):
            return True
        name = self._session.names[key]
        self._session.said.emit(f"The {name} is not cut out of paper, so no part of it lifts; cut it out first.")
        return False

    def _ask_past(self, key: str, ring: Ring) -> None:
        """Ask which piece the part goes past: one in front of the body is gone over, one behind it under."""

        def take(at: Spot) -> None:
            work = self._session.work
            leaves = [leaf for leaf in stack(work) if leaf.area.covers(Point(at)) and leaf.piece.id != key]
            order = [piece.id for piece in work.card.pieces]
            if not leaves:
                self._session.said.emit("Nothing lies there that it could go past; choose a piece.")
                return
            past = leaves[-1].piece.id
            side = "over" if order.index(past) > order.index(key) else "under"
            self._edit(
                f"lift a part {side} {self._session.names[past]}",
                lambda work: flaps.send_part(work, key, ring, past=past, side=side),  # type: ignore[arg-type]
            )

        self._station.bench.hands.take(PointTool("Now click the piece that it goes past.", take))

    def lay_flaps_back(self) -> None:
        """Lay all flaps of the chosen pieces back into their bodies."""
        keys = self._session.selection
        self._edit("lay flaps back", lambda work: edits.set_pieces(work, keys, flaps=()))
