"""What is done with chosen pieces by menu: cutting out, trimming, flaps, contacts, copies, and bringing into line."""

import math
from collections.abc import Callable

from PySide6.QtWidgets import QInputDialog, QMessageBox
from shapely.geometry import Point

from fair_thicket.desk.actions import Record, line
from fair_thicket.desk.dialogs.form import Field, Values, ask
from fair_thicket.desk.session import Session
from fair_thicket.desk.stations.scene import SceneStation
from fair_thicket.desk.widgets.bench_hands import LineTool, PointTool
from fair_thicket.model.card import Work, carried_by
from fair_thicket.model.errors import PaperError, ThicketError
from fair_thicket.model.pieces import CARD_EDGE, Cutout, Impression, PaperPiece, Piece
from fair_thicket.model.stash import Ring
from fair_thicket.model.units import MM_PER_INCH, say_length
from fair_thicket.scene import arranging, cutouts, edits, flaps
from fair_thicket.scene.order import settle
from fair_thicket.scene.rings import RingError, bring_past_only, ring_with_cutout, ring_with_flap
from fair_thicket.shape.paper import footprint, window_area
from fair_thicket.shape.stack import stack

Spot = tuple[float, float]
HAND_MM = 4.0


class PieceDeeds:
    """What the Piece and Arrange menus do beyond moving, turning and ordering.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session) -> None:
        self._station, self._session = station, session
        one, some = self._one, self._some
        self.records = [
            line("Piece"),
            Record("cut-out", "Piece", "Cut it out instead", "", self._each(cutouts.cut_out), self._is_stamped),
            Record("stamp-here", "Piece", "Stamp it here instead", "", self._each(cutouts.stamp_instead), self._is_cut),
            Record("join", "Piece", "Cut out as one piece", "", self.join, lambda: len(session.selection) > 1),
            Record("turn-over", "Piece", "Turn over", "", self.turn_over, self._is_cut),
            Record("swap", "Piece", "Take another image instead …", "", self.swap, self._is_image),
            Record("past-only", "Piece", "Bring past the other only", "", self.bring_past_only, self._are_two),
            line("Piece"),
            Record("trim-card", "Piece", "Trim at the card's edge", "", lambda: self._trim(CARD_EDGE), self._is_paper),
            Record("trim-on", "Piece", "Trim along what it lies on", "", self.trim_on, some),
            Record("trim-window", "Piece", "Trim along the window in front", "", self.trim_window, some),
            Record("trim-none", "Piece", "Do not trim", "", lambda: self._trim(""), some),
            Record("lay-on", "Piece", "Lay it on what is beneath", "", self.lay_on, some),
            Record("take-off", "Piece", "Lay it on the card itself", "", self.take_off, some),
            line("Piece"),
            Record("flap-line", "Piece", "Lift a part by a line …", "Alt+F", self.lift_by_line, one),
            Record("flap-strand", "Piece", "Lift a strand …", "Alt+S", self.lift_strand, one),
            Record("flaps-back", "Piece", "Lay its flaps back", "", self.lay_flaps_back, self._has_flaps),
            line("Piece"),
            Record("contact", "Piece", "Put it in the hand or seat beneath", "Alt+H", self.put_at_contact, one),
            Record("let-go", "Piece", "Let it go", "", self.let_go, some),
            Record("duplicate", "Arrange", "Copy", "Ctrl+D", self.duplicate, some),
            Record("half-turn", "Arrange", "Copy half-turned", "", self.half_turn, some),
            Record("mirror", "Arrange", "Mirror the cluster to the other side", "", self.mirror, some),
            Record("row", "Arrange", "Repeat in rows …", "", self.ask_row, one),
            line("Arrange"),
            *[
                Record(f"align-{edge}", "Arrange", words, "", self._aligning(edge), some)
                for edge, words in (
                    ("left", "Left edges in line"),
                    ("middle", "Middles in line, upright"),
                    ("right", "Right edges in line"),
                    ("top", "Upper edges in line"),
                    ("centre", "Middles in line, level"),
                    ("foot", "Lower edges in line"),
                )
            ],
            Record("spread-across", "Arrange", "Equal gaps across", "", lambda: self._spread(across=True), self._three),
            Record("spread-down", "Arrange", "Equal gaps down", "", lambda: self._spread(across=False), self._three),
        ]

    # -- what is chosen ------------------------------------------------------------------------------------------

    def _one(self) -> bool:
        return len(self._session.selection) == 1

    def _some(self) -> bool:
        return bool(self._session.selection)

    def _three(self) -> bool:
        return len(self._session.selection) >= 3

    def _chosen(self) -> list[Piece]:
        return [piece for piece in self._session.work.card.pieces if piece.id in self._session.selection]

    def _is_stamped(self) -> bool:
        return any(isinstance(piece, Impression) for piece in self._chosen())

    def _is_cut(self) -> bool:
        return any(isinstance(piece, Cutout) for piece in self._chosen())

    def _is_image(self) -> bool:
        chosen = self._chosen()
        return bool(chosen) and all(isinstance(piece, Impression | Cutout) for piece in chosen)

    def _is_paper(self) -> bool:
        return any(isinstance(piece, PaperPiece) for piece in self._chosen())

    def _has_flaps(self) -> bool:
        return any(isinstance(piece, PaperPiece) and piece.flaps for piece in self._chosen())

    def _edit(self, words: str, change: Callable[[Work], Work]) -> bool:
        return self._session.edit(words, change)

    def _each(self, change: Callable[[Work, str], Work]) -> Callable[[], object]:
        """Do something with every chosen piece in one edit."""

        def act() -> None:
            kind = Impression if change is cutouts.cut_out else Cutout
            keys = [piece.id for piece in self._chosen() if isinstance(piece, kind)]

            def whole(work: Work) -> Work:
                for key in keys:
                    work = change(work, key)
                return work

            self._edit("cut out" if kind is Impression else "stamp here", whole)

        return act

    def _make(self, words: str, change: Callable[[Work], tuple[Work, list[str]]]) -> None:
        """Make new pieces by one edit and choose them."""
        made: list[str] = []

        def act(work: Work) -> Work:
            after, keys = change(work)
            made.extend(keys)
            return after

        if self._edit(words, act):
            self._session.select(made)

    # -- cutting and trimming ------------------------------------------------------------------------------------

    def join(self) -> None:
        """Cut the chosen images out as one piece."""
        keys = set(self._session.selection)

        def change(work: Work) -> tuple[Work, list[str]]:
            after, key = cutouts.join(work, keys)
            return after, [key]

        self._make("cut out as one", change)

    def swap(self) -> None:
        """Ask for another thing of the stash and make the chosen pieces with it."""
        work = self._session.work
        (first, *_) = (piece for piece in self._chosen() if isinstance(piece, Impression | Cutout))
        kind = work.stash.find(first.stamp).kind.is_plain
        others = [one for one in work.stash.stamps if one.kind.is_plain == kind and one.id != first.stamp]
        if not others:
            self._session.said.emit("The stash holds nothing else of its kind.")
            return
        name, taken = QInputDialog.getItem(
            self._station.window(), "Take another image", "Image:", [one.name for one in others], 0, False
        )
        if not taken:
            return
        stamp = next(one.id for one in others if one.name == name)
        keys = self._session.selection

        def change(work: Work) -> Work:
            for key in keys:
                work = cutouts.swap_image(work, key, stamp)
            return work

        self._edit(f"take {name} instead", change)

    def turn_over(self) -> None:
        """Turn plain paper over; a coloured image cannot be."""

        def change(work: Work) -> Work:
            for piece in self._chosen():
                if not isinstance(piece, Cutout):
                    continue
                stamp = work.stash.find(piece.stamp)
                if not stamp.may_flip:
                    raise PaperError(
                        f"“{stamp.name}” is stamped or coloured on one side and cannot be turned over; only plain "
                        "paper can."
                    )
                work = edits.set_pieces(work, {piece.id}, flipped=not piece.flipped)
            return work

        self._edit("turn over", change)

    def _trim(self, to: str) -> None:
        keys = {piece.id for piece in self._chosen() if to != CARD_EDGE or isinstance(piece, PaperPiece)}
        self._edit("trim", lambda work: edits.set_pieces(work, keys, trim_to=to))

    def trim_on(self) -> None:
        """Trim along the outline of the piece that it lies on."""

        def change(work: Work) -> Work:
            for piece in self._chosen():
                if not piece.on:
                    raise PaperError("It lies on the card itself; lay it on a piece first, or trim at the card's edge.")
                work = edits.set_pieces(work, {piece.id}, trim_to=piece.on)
            return work

        self._edit("trim", change)

    def trim_window(self) -> None:
        """Trim along the windows of the nearest frame in front."""

        def change(work: Work) -> Work:
            for piece in self._chosen():
                order = [one.id for one in work.card.pieces]
                ahead = [one for one in work.card.pieces if order.index(one.id) > order.index(piece.id)]
                frame = next((one for one in ahead if not window_area(one, work.stash).is_empty), None)
                if frame is None:
                    raise PaperError("No frame with a window lies in front of it; bring one in first.")
                work = edits.set_pieces(work, {piece.id}, trim_to=frame.id)
            return work

        self._edit("trim", change)

    def lay_on(self) -> None:
        """Lay the chosen pieces on the topmost paper beneath their middle: they then go where it goes."""
        keys = self._session.selection

        def change(work: Work) -> Work:
            for piece in self._chosen():
                led = {piece.id, *carried_by(work.card.pieces, piece.id), *keys}
                beneath = [
                    leaf.piece
                    for leaf in stack(work)
                    if isinstance(leaf.piece, PaperPiece)
                    and leaf.piece.id not in led
                    and footprint(leaf.piece, work.stash).covers(Point(piece.x, piece.y))
                ]
                if not beneath:
                    raise PaperError("No other paper lies beneath its middle.")
                work = settle(edits.set_pieces(work, {piece.id}, on=beneath[-1].id))
            return work

        self._edit("lay on", change)

    def take_off(self) -> None:
        """Lay the chosen pieces on the card itself."""
        keys = self._session.selection

        def change(work: Work) -> Work:
            for piece in self._chosen():
                fields = {"on": "", "trim_to": "" if piece.trim_to == piece.on else piece.trim_to}
                work = edits.set_pieces(work, {piece.id}, **fields)
            return settle(work)

        if keys:
            self._edit("lay on the card", change)

    # -- flaps ---------------------------------------------------------------------------------------------------

    def _are_two(self) -> bool:
        return len(self._session.selection) == 2

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

    # -- contacts ------------------------------------------------------------------------------------------------

    def put_at_contact(self) -> None:
        """Put the chosen piece at the nearest marked hand or seat; fingers of a cut-out figure go over it."""
        (key,) = self._session.selection

        def change(work: Work) -> Work:
            found = arranging.nearest_contact(work, key)
            if found is None:
                raise PaperError(
                    "No marked hand or seat lies within 12 mm of it. Move it nearer, or mark one at the Stash."
                )
            by, at, own = found
            holder = work.card.find(by)
            contacts = work.stash.find(holder.stamp).marks.contacts  # type: ignore[union-attr]
            is_hand = any(one.what == "hand" and one.at == at for one in contacts)
            order = [piece.id for piece in work.card.pieces]
            covers = order.index(key) > order.index(by)
            hand = _disc(at) if is_hand and covers and isinstance(holder, PaperPiece) else None
            return arranging.place_at_contact(work, key, by=by, at=at, own=own, hand=hand)

        self._edit(f"hold {self._session.names[key]}", change)

    def let_go(self) -> None:
        """Let the chosen pieces be held by nothing."""
        keys = self._session.selection
        self._edit("let go", lambda work: edits.set_pieces(work, keys, held=None))

    # -- copies and lines ----------------------------------------------------------------------------------------

    def duplicate(self) -> None:
        """Copy the chosen pieces beside themselves."""
        keys = self._session.selection
        self._make("copy", lambda work: arranging.duplicate(work, keys))

    def half_turn(self) -> None:
        """Copy the chosen pieces half-turned about the card's middle."""
        keys = self._session.selection
        self._make("copy half-turned", lambda work: arranging.half_turn(work, keys))

    def mirror(self) -> None:
        """Mirror the chosen cluster to the other side, and tell what could only be turned."""
        keys = self._session.selection
        turned: list[str] = []

        def change(work: Work) -> tuple[Work, list[str]]:
            after, made, only_turned = arranging.mirror_cluster(work, keys)
            turned.extend(only_turned)
            return after, made

        self._make("mirror the cluster", change)
        if turned:
            names = self._session.names
            what = ", ".join(sorted({names.get(key, key) for key in turned}))
            self._session.said.emit(f"A stamp has no mirror image: {what} stand in their places, turned to fit.")

    def ask_row(self) -> None:
        """Ask how to repeat the chosen piece, and do it."""
        (key,) = self._session.selection
        work = self._session.work
        left, top, right, bottom = footprint(work.card.find(key), work.stash).bounds
        unit = work.card.unit

        def make(work: Work, values: Values) -> tuple[Work, list[str]]:
            return arranging.row(
                work,
                key,
                int(str(values["count"])),
                float(str(values["step"])),
                rows=int(str(values["rows"])),
                down_mm=float(str(values["down"])),
                stagger=values["stagger"] == 0,
            )

        def tell(values: Values) -> str:
            _, made = make(self._session.work, values)
            gap = float(str(values["step"])) - (right - left)
            return f"{len(made)} more pieces; gap in a row {say_length(gap, unit)}. Lower rows stand in front."

        fields = [
            Field("count", "In a row", "count", 4),
            Field("step", "From middle to middle", "length", right - left + MM_PER_INCH / 8),
            Field("rows", "Rows", "count", 1),
            Field("down", "From row to row", "length", (bottom - top) / 2),
            Field("stagger", "Second rows", "choice", 0, ("stand in the gaps", "stand straight below")),
        ]
        values = ask(self._station.window(), "Repeat in rows", fields, unit=unit, tell=tell, done="Repeat")
        if values is not None:
            self._make("repeat", lambda work: make(work, values))

    def _aligning(self, edge: str) -> Callable[[], object]:
        return lambda: self._edit("bring into line", lambda work: arranging.align(work, self._session.selection, edge))

    def _spread(self, *, across: bool) -> None:
        keys = self._session.selection
        self._edit("spread evenly", lambda work: arranging.distribute(work, keys, across=across))


def _disc(at: Spot) -> Ring:
    turns = [2 * math.pi * number / 24 for number in range(24)]
    return tuple((at[0] + HAND_MM * math.cos(turn), at[1] + HAND_MM * math.sin(turn)) for turn in turns)
