"""Borders, strips and frames made to fit, by menu: joints, reach, rows, other sizes; worked out away from the desk."""

import msgspec

from fair_thicket import edits
from fair_thicket.backdrop.frames import Growth, grow_piece, is_frame
from fair_thicket.backdrop.reaching import reach_across
from fair_thicket.backdrop.rows import MOST_ROWS, make_rows, step_borders
from fair_thicket.desk.frame.actions import Record, line
from fair_thicket.desk.parts.form import YES_NO, Field, Values, ask
from fair_thicket.desk.scene.joints import ask_joints
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.model.card import Work
from fair_thicket.model.declared import named_limit
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Border, Strip
from fair_thicket.model.units import say_length, say_size
from fair_thicket.shape.paper import local_area

FIRST_DROP_MM, MOST_DROP_MM = 4.0, 100.0
LEAST_FRAME_MM, MOST_FRAME_MM = 30.0, 600.0


class BorderActions:
    """The records about borders, strips and frames.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session) -> None:
        self._station, self._session = station, session
        self.records = [
            Record("joints", "Piece", "Its joints …", "", self.ask_joints, self._is_long_border),
            Record("reach", "Arrange", "Reach from edge to edge", "", self.reach, self._can_reach),
            Record("grow", "Arrange", "Make the frame wider or higher …", "", self.grow, self._is_frame),
            Record("make-rows", "Arrange", "Rows of this border …", "", self.make_rows, self._is_border),
            Record("step-rows", "Arrange", "Step rows, crests apart", "", self.step_rows, self._are_rows),
            line("Arrange"),
        ]

    def _border(self) -> Border | None:
        """Return the chosen border when it is longer than its die."""
        work, chosen = self._session.work, self._session.selection
        if len(chosen) != 1:
            return None
        piece = work.card.find(next(iter(chosen)))
        if isinstance(piece, Border) and piece.length_mm > work.stash.find(piece.stamp).width_mm:
            return piece
        return None

    def _is_long_border(self) -> bool:
        return self._border() is not None

    def _are_rows(self) -> bool:
        work, chosen = self._session.work, self._session.selection
        borders = [piece for piece in work.card.pieces if piece.id in chosen and isinstance(piece, Border)]
        return len(borders) > 1 and len({piece.stamp for piece in borders}) == 1

    def _can_reach(self) -> bool:
        find, chosen = self._session.work.card.find, self._session.selection
        return bool(chosen) and all(isinstance(find(key), Border | Strip) for key in chosen)

    def reach(self) -> None:
        """Let the chosen borders and strips reach across their sheets, tilted ones as well, trimmed flush."""
        chosen, session = self._session.selection, self._session

        def change(work: Work) -> Work:
            for key in sorted(chosen):
                piece = work.card.find(key)
                if isinstance(piece, Border | Strip):
                    pieces = (reach_across(work, piece),)
                    work = msgspec.structs.replace(work, card=edits.place_pieces(work.card, pieces))
            return work

        def told() -> None:
            pieces = [session.work.card.find(key) for key in sorted(chosen)]
            lengths = [one.length_mm if isinstance(one, Border) else getattr(one, "width_mm", 0.0) for one in pieces]
            told = ", ".join(say_length(length, session.work.card.unit) for length in lengths)
            session.said.emit(f"Cut {told} long, and trim flush at both ends.")

        session.edit_elsewhere("reach across", change, told)

    def _is_frame(self) -> bool:
        work, chosen = self._session.work, self._session.selection
        return len(chosen) == 1 and is_frame(work, work.card.find(next(iter(chosen))))

    def grow(self) -> None:
        """Ask how wide and high the chosen frame is to be, and join cuts of its die to that size."""
        (key,), session = self._session.selection, self._session
        piece, unit = session.work.card.find(key), session.work.card.unit
        left, top, right, bottom = local_area(piece, session.work.stash).bounds
        side = named_limit(LEAST_FRAME_MM, MOST_FRAME_MM, "frame_mm")
        fields = [
            Field("width", "Width", "length", right - left, limit=side),
            Field("height", "Height", "length", bottom - top, limit=side),
        ]

        def size(values: Values) -> tuple[float, float]:
            return values.number("width"), values.number("height")

        def tell(values: Values) -> str:
            width, height = size(values)
            return f"It is cut more than once and joined on its straight sides: {say_size(width, height, unit)}."

        title = f"Size of the {session.names[key]}"
        values = ask(self._station.window(), title, fields, unit=unit, tell=tell, done="Join it")
        if values is None:
            return
        wanted = size(values)
        growths: list[Growth] = []

        def change(work: Work) -> Work:
            grown, growth = grow_piece(work, key, *wanted)
            growths.append(growth)
            return msgspec.structs.replace(work, card=edits.place_pieces(work.card, (grown,)))

        def told() -> None:
            growth = growths[-1]
            session.said.emit(
                f"Cut its die {growth.count} times; the edges are {growth.mismatch_mm:.2f} mm apart at the worst joint."
            )

        session.edit_elsewhere("make the frame another size", change, told)

    def _is_border(self) -> bool:
        chosen = self._session.selection
        return len(chosen) == 1 and isinstance(self._session.work.card.find(next(iter(chosen))), Border)

    def make_rows(self) -> None:
        """Ask how many rows of the chosen border there are to be, and put them before it, stepped."""
        (key,), session, least = self._session.selection, self._session, [0.0]
        unit = session.work.card.unit
        fields = [
            Field("rows", "Rows in all", "count", 2, limit=named_limit(2, MOST_ROWS, "rows")),
            Field("drop", "Each lower by", "length", FIRST_DROP_MM, limit=named_limit(0, MOST_DROP_MM, "drop_mm")),
            Field("deepens", "Each of a deeper colour", "choice", 1, YES_NO),
        ]

        def read(values: Values) -> tuple[int, float, bool]:
            return values.whole("rows"), values.number("drop"), values["deepens"] == 1

        def tell(values: Values) -> str:
            rows, drop, _ = read(values)
            return (
                f"The front row lies {say_length(drop * (rows - 1), unit)} lower; crests keep apart as far as may be."
            )

        values = ask(self._station.window(), "Rows of this border", fields, unit=unit, tell=tell, done="Lay them")
        if values is None:
            return
        rows, drop, deepens = read(values)

        def change(work: Work) -> Work:
            made, least[0] = make_rows(work, key, rows, drop, deepens=deepens)
            return made

        def told() -> None:
            session.said.emit(f"Crests of the rows keep {say_length(least[0], unit)} apart, or more.")

        session.edit_elsewhere("lay rows of a border", change, told)

    def step_rows(self) -> None:
        """Step the chosen borders so that their crests do not line up, and say how far apart they are."""
        chosen, session, least = self._session.selection, self._session, [0.0]

        def change(work: Work) -> Work:
            made, least[0] = step_borders(work, chosen)
            return made

        def told() -> None:
            session.said.emit(f"Crests of the rows keep {say_length(least[0], session.work.card.unit)} apart, or more.")

        session.edit_elsewhere("step rows", change, told)

    def ask_joints(self) -> None:
        """Show how the chosen border is joined, and let its joints be dragged."""
        piece = self._border()
        if piece is None:
            return
        try:
            made = ask_joints(self._session.work, piece, self._station.window())
        except PaperError as problem:
            self._session.said.emit(str(problem))
            return
        if made is not None:
            cuts = made.cuts
            self._session.edit("join the border", lambda work: edits.set_pieces(work, {piece.id}, cuts=cuts))
