"""What is done with chosen pieces by menu: cutting out, trimming, flaps, contacts, copies, and bringing into line."""

import math
from collections.abc import Callable

from PySide6.QtWidgets import QInputDialog
from shapely.geometry import Point

from fair_thicket import edits
from fair_thicket.desk.frame.actions import Record, line
from fair_thicket.desk.parts.form import Field, Values, ask
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import arranging, cutouts
from fair_thicket.edits.order import settle
from fair_thicket.laid.stack import stack
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work, carried_by
from fair_thicket.model.declared import limit_of, named_limit
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import CARD_EDGE, Cutout, Impression, PaperPiece, Piece
from fair_thicket.model.units import MM_PER_INCH, say_length
from fair_thicket.shape.paper import footprint, window_area

Spot = tuple[float, float]
HAND_MM = 4.0
WAY, TRIM, HAND = "Piece/Stamp it or cut it out", "Piece/Trim it, lay it on", "Piece/Hand and seat"


class PieceActions:
    """What the Piece and Arrange menus do beyond moving, turning and ordering.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session) -> None:
        self._station, self._session = station, session
        one, some = self._one, self._some
        self.records = [
            Record("cut-out", WAY, "Cut it out instead", "", self._each(cutouts.cut_out), self._is_stamped),
            Record("stamp-here", WAY, "Stamp it here instead", "", self._each(cutouts.stamp_instead), self._is_cut),
            Record("join", WAY, "Cut out as one piece", "", self.join, lambda: len(session.selection) > 1),
            Record("turn-over", WAY, "Turn over", "", self.turn_over, self._is_cut),
            Record("swap", WAY, "Take another image instead …", "", self.swap, self._is_image),
            Record("trim-card", TRIM, "Trim at the card's edge", "", lambda: self._trim(CARD_EDGE), self._is_paper),
            Record("trim-on", TRIM, "Trim along what it lies on", "", self.trim_on, some),
            Record("trim-window", TRIM, "Trim along the window in front", "", self.trim_window, some),
            Record("trim-none", TRIM, "Do not trim", "", lambda: self._trim(""), some),
            Record("lay-on", TRIM, "Lay it on what is beneath", "", self.lay_on, some),
            Record("take-off", TRIM, "Lay it on the card itself", "", self.take_off, some),
            Record("contact", HAND, "Put it in the hand or seat beneath", "Alt+H", self.put_at_contact, one),
            Record("let-go", HAND, "Let it go", "", self.let_go, some),
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
                values.whole("count"),
                values.number("step"),
                rows=values.whole("rows"),
                down_mm=values.number("down"),
                stagger=values["stagger"] == 0,
            )

        def tell(values: Values) -> str:
            _, made = make(self._session.work, values)
            gap = values.number("step") - (right - left)
            return f"{len(made)} more pieces; gap in a row {say_length(gap, unit)}. Lower rows stand in front."

        fields = [
            Field("count", "In a row", "count", 4, limit=named_limit(1, arranging.MOST_IN_ROWS, "row")),
            Field(
                "step",
                "From middle to middle",
                "length",
                right - left + MM_PER_INCH / 8,
                limit=limit_of(Impression, "x"),
            ),
            Field("rows", "Rows", "count", 1, limit=named_limit(1, arranging.MOST_IN_ROWS, "row")),
            Field("down", "From row to row", "length", (bottom - top) / 2, limit=limit_of(Impression, "y")),
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
