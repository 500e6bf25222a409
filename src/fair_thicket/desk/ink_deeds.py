"""How stamps are inked and washes are covered, by menu: lines drawn on the bench, sides clicked, small forms."""

from collections.abc import Callable

from fair_thicket.backdrop.washes import judge_washes
from fair_thicket.desk.actions import Record, line
from fair_thicket.desk.dialogs.form import Field, Values, ask
from fair_thicket.desk.dialogs.stencil_steps import ask_steps
from fair_thicket.desk.session import Session
from fair_thicket.desk.stations.scene import SceneStation
from fair_thicket.desk.widgets.bench_hands import LineTool, PointTool
from fair_thicket.model.card import Work
from fair_thicket.model.errors import InputError
from fair_thicket.model.palette import BRIDGES, PALETTE, name_of
from fair_thicket.model.pieces import WASH, Cover, Form, Impression, Wash
from fair_thicket.model.stash import Kind
from fair_thicket.scene import inking_ways

Spot = tuple[float, float]
COVERS = ("disc", "counter", "tape", "sheet")
COVER_WORDS = ("a disc or shape", "all but a shape (counter mask)", "a strip of tape", "a cover sheet")
SHAPES = ("ellipse", "rectangle")
HOWS = ("blend", "stencil", "splatter")
NO_STENCIL = "none in the stash"
INKS = 6
WAYS = ("even", "linear", "band", "corner", "glow")
WAY_WORDS = ("evenly", "from edge to edge", "from a band outward", "from a corner", "as a glow from a point")


class InkDeeds:
    """The records about inking.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session, show: Callable[[], object]) -> None:
        self._station, self._session, self._show = station, session, show
        stamped, washed = self._is(Impression), self._is(Wash)
        self.records = [
            line("Masks"),
            Record("ink-part", "Masks", "Ink only a part of it …", "", lambda: self.ink_part(is_taped=False), stamped),
            Record("tape-part", "Masks", "Tape a part of it off …", "", lambda: self.ink_part(is_taped=True), stamped),
            Record("ink-zone", "Masks", "Ink a part in another colour …", "", self.ink_zone, stamped),
            Record("ink-whole", "Masks", "Ink all of it again", "", self.ink_whole, stamped),
            Record("resist", "Masks", "Emboss it clear, as a resist", "", self.resist, stamped, self._resists),
            line("Masks"),
            Record("wash-how", "Masks", "How the wash is inked …", "", self.ask_how, washed),
            Record("wash-blend", "Masks", "Blend the wash of several inks …", "", self.ask_blend, washed),
            Record("wash-steps", "Masks", "Step a stencil over the wash …", "", self.ask_steps, washed),
            Record("wash-cover", "Masks", "Cover a part of the wash …", "", self.ask_cover, washed),
            Record("wash-tear", "Masks", "Tear paper along a line for the wash …", "", self.tear, washed),
            Record("wash-bare", "Masks", "Take its covers away", "", self.uncover, washed),
        ]

    def _is(self, kind: type[Impression] | type[Wash]) -> Callable[[], bool]:
        def check() -> bool:
            chosen = self._session.selection
            return len(chosen) == 1 and isinstance(self._session.work.card.find(next(iter(chosen))), kind)

        return check

    def _resists(self) -> bool:
        if not self._is(Impression)():
            return False
        piece = self._session.work.card.find(self._key())
        return isinstance(piece, Impression) and piece.resists

    def _key(self) -> str:
        (key,) = self._session.selection
        return key

    def _edit(self, words: str, change: Callable[[Work], Work]) -> None:
        self._session.edit(words, change)

    # -- stamps --------------------------------------------------------------------------------------------------

    def _draw_line(self, words: str, side: str, done: Callable[[tuple[Spot, Spot], Spot], object]) -> None:
        """Go to the bench, let the maker draw a line, then click a side of it."""
        self._show()
        hands = self._station.bench.hands

        def with_line(start: Spot, end: Spot) -> None:
            hands.take(PointTool(side, lambda at: done((start, end), at)))

        hands.take(LineTool(words, with_line))

    def ink_part(self, *, is_taped: bool) -> None:
        """Let the maker draw a line across the stamp and click the part that is to be inked."""
        key = self._key()
        words = "tape a part off" if is_taped else "ink only a part"

        def done(drawn: tuple[Spot, Spot], at: Spot) -> None:
            self._edit(words, lambda work: inking_ways.ink_only(work, key, *drawn, at, is_taped=is_taped))

        name = self._session.names[key]
        self._draw_line(
            f"Draw a line across the {name}: press, drag, let go. Escape gives up.",
            "Now click the part that is to be inked.",
            done,
        )

    def ink_zone(self) -> None:
        """Ask for a colour, let the maker draw a line across the stamp and click the part that gets it."""
        key = self._key()
        names = [name for name, _ in PALETTE]
        fields = [Field("ink", "Ink", "choice", names.index("fern"), names)]
        values = ask(
            self._station.window(), "A part in another colour", fields, unit=self._session.work.card.unit, done="Draw"
        )
        if values is None:
            return
        colour = PALETTE[int(str(values["ink"]))][1]

        def done(drawn: tuple[Spot, Spot], at: Spot) -> None:
            self._edit("ink a part in a colour", lambda work: inking_ways.ink_zone(work, key, drawn, at, colour))

        name = self._session.names[key]
        self._draw_line(f"Draw a line across the {name}. Escape gives up.", "Now click the part in that colour.", done)

    def ink_whole(self) -> None:
        """Ink all of the chosen stamp again."""
        key = self._key()
        self._edit("ink all of it", lambda work: inking_ways.ink_whole(work, key))

    def resist(self) -> None:
        """Emboss the chosen impression clear, or stamp it in ink again."""
        key, now = self._key(), self._resists()
        self._edit(
            "stamp it in ink" if now else "emboss it clear",
            lambda work: inking_ways.set_resist(work, key, resists=not now),
        )

    # -- washes --------------------------------------------------------------------------------------------------

    def ask_how(self) -> None:
        """Ask how the chosen wash is inked."""
        session, key = self._session, self._key()
        piece = session.work.card.find(key)
        if not isinstance(piece, Wash):
            return
        kinds = {Kind.STENCIL, Kind.BORDER, Kind.BACKDROP}
        stencils = [one for one in session.work.stash.stamps if one.kind in kinds]
        names = [one.name for one in stencils] or [NO_STENCIL]
        at = next((index for index, one in enumerate(stencils) if one.id == piece.stencil), 0)
        fields = [
            Field("how", "Inked", "choice", HOWS.index(piece.how), ("blended", "through a stencil", "splattered")),
            Field("stencil", "Stencil, or a border used as one", "choice", at, names),
            Field("drops", "Drops of a splatter", "count", piece.drops),
            Field("seed", "Another scatter: a number", "count", piece.seed),
        ]

        def make(work: Work, values: Values) -> Work:
            how = HOWS[int(str(values["how"]))]
            drops, seed = int(str(values["drops"])), int(str(values["seed"]))
            if not (1 <= drops <= 2000 and 0 <= seed <= 1_000_000):
                raise InputError("Between 1 and 2000 drops, and a number from 0 to 1000000; type others.")
            if how == "stencil" and not stencils:
                raise InputError("There is no stencil, border or backdrop in the stash; bring one in first.")
            stencil = stencils[int(str(values["stencil"]))].id if how == "stencil" else ""
            lays = piece.lays if stencil == piece.stencil else ()
            return inking_ways.set_wash(work, key, how=how, stencil=stencil, lays=lays, drops=drops, seed=seed)

        def tell(values: Values) -> str:
            make(session.work, values)
            return (
                "Splatter: cover all that is to stay clean."
                if values["how"] == 2
                else "Light first, several thin coats."
            )

        values = ask(
            self._station.window(),
            "How the wash is inked",
            fields,
            unit=session.work.card.unit,
            tell=tell,
            done="Ink it so",
        )
        if values is not None:
            self._edit("ink the wash another way", lambda work: make(work, values))

    def ask_blend(self) -> None:
        """Ask for the inks of the chosen wash, and for the way in which they are blended."""
        session, key = self._session, self._key()
        piece = session.work.card.find(key)
        if not isinstance(piece, Wash):
            return
        now = piece.inks or (piece.colour or WASH,)
        known = [code for _, code in (*PALETTE, *BRIDGES)]
        codes = ["", *known, *(ink for ink in now if ink not in known)]
        names = ["none", *(name_of(code) for code in codes[1:])]
        chosen = [codes.index(now[index]) if index < len(now) else 0 for index in range(INKS)]
        left, top = piece.x + piece.centre[0], piece.y + piece.centre[1]
        fields = [
            Field("way", "Blended", "choice", WAYS.index(piece.way), WAY_WORDS),
            *[Field(f"ink{index}", f"Ink {index + 1}", "choice", chosen[index], names) for index in range(INKS)],
            Field("toward", "Toward (0 right, 90 down)", "angle", piece.toward_deg),
            Field("x", "A glow's middle, from the left", "length", left),
            Field("y", "A glow's middle, from the top", "length", top),
        ]

        def make(work: Work, values: Values) -> Work:
            inks = [codes[int(str(values[f"ink{index}"]))] for index in range(INKS)]
            at = (float(str(values["x"])), float(str(values["y"])))
            toward = float(str(values["toward"]))
            if not (abs(toward) <= 360 and abs(at[0]) <= 1000 and abs(at[1]) <= 1000):
                raise InputError("An angle is between -360 and 360, a place within 1000 mm; type others.")
            way = WAYS[int(str(values["way"]))]
            return inking_ways.blend_wash(work, key, tuple(ink for ink in inks if ink), way, toward_deg=toward, at=at)

        def tell(values: Values) -> str:
            made = make(session.work, values)
            troubles = [one.title for one in judge_washes(made) if key in one.pieces]
            return (
                ". ".join(troubles) + "." if troubles else "Light inks first, several thin coats, a pause after each."
            )

        unit = session.work.card.unit
        values = ask(self._station.window(), "Blend several inks", fields, unit=unit, tell=tell, done="Blend them")
        if values is not None:
            self._edit("blend a wash", lambda work: make(work, values))

    def ask_steps(self) -> None:
        """Ask how a stencil is stepped over the chosen wash."""
        key = self._key()
        piece = self._session.work.card.find(key)
        made = ask_steps(self._session.work, piece, self._station.window()) if isinstance(piece, Wash) else None
        if made is not None:
            fields = {name: getattr(made, name) for name in ("how", "stencil", "lays", "reach_mm", "taped", "colour")}
            self._edit("step a stencil", lambda work: inking_ways.set_wash(work, key, **fields))

    def ask_cover(self) -> None:
        """Ask for a cover of the chosen wash: its kind, shape, size and place."""
        session, key = self._session, self._key()
        width, height = session.work.card.panel
        fields = [
            Field("kind", "Cover", "choice", 0, COVER_WORDS),
            Field("shape", "Shape", "choice", 0, ("round", "straight")),
            Field("wide", "Width", "length", 22.0),
            Field("high", "Height", "length", 22.0),
            Field("x", "Its middle, from the left", "length", width / 2),
            Field("y", "Its middle, from the top", "length", height / 3),
        ]

        def make(work: Work, values: Values) -> Work:
            wide, high, x, y = (float(str(values[name])) for name in ("wide", "high", "x", "y"))
            if not (0.5 <= wide <= 1000 and 0.5 <= high <= 1000 and abs(x) <= 1000 and abs(y) <= 1000):
                raise InputError("A cover is between 0.5 and 1000 mm each way; type another size or place.")
            form = Form(SHAPES[int(str(values["shape"]))], wide, high)  # type: ignore[arg-type]
            kind = COVERS[int(str(values["kind"]))]
            return inking_ways.cover_wash(work, key, Cover(kind, form), (x, y))  # type: ignore[arg-type]

        def tell(values: Values) -> str:
            make(session.work, values)
            return "The counter mask is what is left when the shape is cut out." if values["kind"] == 1 else ""

        values = ask(self._station.window(), "Cover a part of the wash", fields, unit=session.work.card.unit, tell=tell)
        if values is not None:
            self._edit("cover a part of the wash", lambda work: make(work, values))

    def tear(self) -> None:
        """Let the maker draw the torn line and click the side that is covered."""
        key = self._key()
        seed = len(getattr(self._session.work.card.find(key), "covers", ())) + 1

        def done(drawn: tuple[Spot, Spot], at: Spot) -> None:
            self._edit(
                "tear paper for the wash",
                lambda work: inking_ways.tear_wash(work, key, drawn, at, ragged_mm=2.5, seed=seed),
            )

        self._draw_line(
            "Draw the line along which the paper is torn. Escape gives up.", "Now click the side that is covered.", done
        )

    def uncover(self) -> None:
        """Take the covers of the chosen wash away."""
        key = self._key()
        self._edit("take covers away", lambda work: inking_ways.uncover_wash(work, key))
