"""How washes are inked and covered, by menu: inks, stencils, drops, paste, texture; covers, torn lines, spotlights."""

from collections.abc import Callable, Sequence

from fair_thicket.desk.frame.actions import Record, line
from fair_thicket.desk.ink.blend import ask_blend
from fair_thicket.desk.ink.stencil_steps import ask_steps
from fair_thicket.desk.ink.wash_how import ask_how
from fair_thicket.desk.parts.colours import ink_colours
from fair_thicket.desk.parts.form import Field, Values, ask
from fair_thicket.desk.scene.bench_hands import LineTool, PointTool
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import ink_edits
from fair_thicket.model.card import Work, is_greeting
from fair_thicket.model.declared import limit_of, named_limit
from fair_thicket.model.palette import PALETTE
from fair_thicket.model.pieces import AnyWash, Cover, Form, Texture, Wash, is_stepped
from fair_thicket.shape.wash_kinds import kind_of

Spot = tuple[float, float]
COVERS = ("disc", "counter", "tape", "sheet")
COVER_WORDS = ("a disc or shape", "all but a shape (counter mask)", "a strip of tape", "a cover sheet")
SHAPES = ("ellipse", "rectangle")
MOSS = dict(PALETTE)["moss"]


class WashActions:
    """The records about washes.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session, show: Callable[[], object]) -> None:
        self._station, self._session, self._show = station, session, show
        washed, both = self._is_wash, self._is_wash_and_more
        self.records = [
            line("Ink"),
            Record("wash-how", "Ink", "How the wash is inked …", "", self.ask_how, washed),
            Record("wash-blend", "Ink", "Blend the wash of several inks …", "", self.ask_blend, self._is_blendable),
            Record("wash-steps", "Ink", "Step a stencil over the wash …", "", self.ask_steps, washed),
            Record("wash-texture", "Ink", "Texture where the ground is free …", "", self.ask_texture, washed),
            line("Ink"),
            Record("wash-glow", "Ink", "Let the wash glow from the other piece", "", self.glow, both),
            Record("wash-spot", "Ink", "Spotlight round the other piece", "", self.spotlight, both),
            Record("wash-keep-off", "Ink", "Keep the wash off the other pieces", "", self.keep_off, both),
            line("Ink"),
            Record("wash-cover", "Ink", "Cover a part of the wash …", "", self.ask_cover, washed),
            Record("wash-tear", "Ink", "Tear paper along a line for the wash …", "", self.tear, washed),
            Record("wash-part", "Ink", "Part the wash along a torn line …", "", self.ask_part, washed),
            Record("wash-bare", "Ink", "Take its covers away", "", self.uncover, washed),
        ]

    def _chosen(self) -> tuple[list[str], list[str]]:
        """Ids of the washes, and of the other pieces, that are chosen."""
        find, chosen = self._session.work.card.find, sorted(self._session.selection)
        washes = [key for key in chosen if isinstance(find(key), Wash)]
        return washes, [key for key in chosen if key not in washes]

    def _is_wash(self) -> bool:
        washes, others = self._chosen()
        return len(washes) == 1 and not others

    def _is_blendable(self) -> bool:
        """Whether one wash is chosen whose inks can go over into each other: a stepped stencil's are its lays'."""
        piece = self._session.work.card.find(self._key()) if self._is_wash() else None
        return isinstance(piece, Wash) and not is_stepped(piece) and kind_of(piece).has_colour

    def _is_wash_and_more(self) -> bool:
        washes, others = self._chosen()
        return len(washes) == 1 and bool(others)

    def _key(self) -> str:
        washes, _ = self._chosen()
        return washes[0]

    def _edit(self, words: str, change: Callable[[Work], Work]) -> None:
        self._session.edit(words, change)

    def _ask(
        self, title: str, fields: Sequence[Field], tell: Callable[[Values], str], *, done: str = "Add"
    ) -> Values | None:
        return ask(self._station.window(), title, fields, unit=self._session.work.card.unit, tell=tell, done=done)

    # -- ink -----------------------------------------------------------------------------------------------------

    def ask_how(self, kind: type[AnyWash] | None = None) -> None:
        """Ask what the chosen wash is, beginning with one kind."""
        key = self._key()
        piece = self._session.work.card.find(key)
        made = (
            ask_how(self._session.work, piece, self._station.window(), kind=kind) if isinstance(piece, Wash) else None
        )
        if made is not None:
            self._edit("ink the wash another way", lambda work: ink_edits.set_wash(work, key, type(made), **_own(made)))

    def ask_texture(self) -> None:
        """Ask for marks to be stamped within the chosen wash wherever the ground is free."""
        self.ask_how(Texture)

    def ask_blend(self) -> None:
        """Ask for the inks of the chosen wash, and for the way in which they are blended."""
        key, own = self._key(), self._session.own_inks()
        piece = self._session.work.card.find(key)
        made = (
            ask_blend(self._session.work, piece, self._station.window(), own=own) if isinstance(piece, Wash) else None
        )
        if made is not None:
            fields = {name: getattr(made, name) for name in ("inks", "way", "toward_deg", "centre", "coats", "colour")}
            self._edit("blend a wash", lambda work: ink_edits.set_wash(work, key, **fields))

    def ask_steps(self) -> None:
        """Ask how a stencil is stepped over the chosen wash."""
        key = self._key()
        piece = self._session.work.card.find(key)
        own, window = self._session.own_inks(), self._station.window()
        made = ask_steps(self._session.work, piece, window, own=own) if isinstance(piece, Wash) else None
        if made is not None:
            self._edit("step a stencil", lambda work: ink_edits.set_wash(work, key, type(made), **_own(made)))

    def glow(self) -> None:
        """Let the chosen wash glow from the other piece chosen."""
        (key,), (other, *_) = self._chosen()
        self._edit("let it glow", lambda work: ink_edits.glow_from(work, key, other))

    def spotlight(self) -> None:
        """Keep a disc round the other piece free and let the wash glow from there."""
        (key,), (other, *_) = self._chosen()
        self._edit("spotlight", lambda work: ink_edits.spotlight(work, key, other))

    # -- covers --------------------------------------------------------------------------------------------------

    def keep_off(self) -> None:
        """Tape the room of the other pieces chosen over, so that the wash leaves it to them."""
        (key,), others = self._chosen()
        words = is_greeting(self._session.work.card.find(others[0]), self._session.work.stash)
        told = "keep room for the greeting" if words else "keep room"
        self._edit(told, lambda work: ink_edits.keep_off(work, key, others))

    def ask_cover(self) -> None:
        """Ask for a cover of the chosen wash: its kind, shape, size and place."""
        session, key = self._session, self._key()
        width, height = session.work.card.panel
        fields = [
            Field("kind", "Cover", "choice", 0, COVER_WORDS),
            Field("shape", "Shape", "choice", 0, ("round", "straight")),
            Field("wide", "Width", "length", 22.0, limit=limit_of(Cover, "form.width_mm")),
            Field("high", "Height", "length", 22.0, limit=limit_of(Cover, "form.height_mm")),
            Field("x", "Its middle, from the left", "length", width / 2, limit=limit_of(Cover, "x")),
            Field("y", "Its middle, from the top", "length", height / 3, limit=limit_of(Cover, "y")),
        ]

        def make(work: Work, values: Values) -> Work:
            wide, high, x, y = (values.number(name) for name in ("wide", "high", "x", "y"))
            form = Form(SHAPES[values.whole("shape")], wide, high)  # type: ignore[arg-type]
            kind = COVERS[values.whole("kind")]
            return ink_edits.cover_wash(work, key, Cover(kind, form), (x, y))  # type: ignore[arg-type]

        def tell(values: Values) -> str:
            make(session.work, values)
            return "The counter mask is what is left when the shape is cut out." if values["kind"] == 1 else ""

        values = ask(self._station.window(), "Cover a part of the wash", fields, unit=session.work.card.unit, tell=tell)
        if values is not None:
            self._edit("cover a part of the wash", lambda work: make(work, values))

    def _draw_line(self, words: str, done: Callable[[Spot, Spot], object]) -> None:
        """Go to the bench and let the maker draw a line."""
        self._show()
        self._station.bench.hands.take(LineTool(words, done))

    def tear(self) -> None:
        """Let the maker draw the torn line and click the side that is covered."""
        key = self._key()
        seed = len(getattr(self._session.work.card.find(key), "covers", ())) + 1

        def done(drawn: tuple[Spot, Spot], at: Spot) -> None:
            self._edit(
                "tear paper for the wash",
                lambda work: ink_edits.tear_wash(work, key, drawn, at, ragged_mm=2.5, seed=seed),
            )

        def with_line(start: Spot, end: Spot) -> None:
            side = PointTool("Now click the side that is covered.", lambda at: done((start, end), at))
            self._station.bench.hands.take(side)

        self._draw_line("Draw the line along which the paper is torn. Escape gives up.", with_line)

    def ask_part(self) -> None:
        """Ask for the gap and the second ink; let the maker draw the torn line that parts the wash in two."""
        key = self._key()
        fields = [
            Field("gap", "White left between", "length", 1.5, limit=named_limit(0, ink_edits.MOST_GAP_MM, "gap_mm")),
            Field("ink", "Ink of the second zone", "colour", MOSS, ink_colours(self._session)),
        ]

        told = "Zone one is inked with torn paper on the other side; then the other way round."
        values = self._ask("Part the wash along a torn line", fields, lambda _: told, done="Draw the line")
        if values is None:
            return
        gap, ink = values.number("gap"), values.text("ink")
        seed = len(getattr(self._session.work.card.find(key), "covers", ())) * 2 + 1

        def part(start: Spot, end: Spot) -> None:
            self._edit(
                "part a wash",
                lambda work: ink_edits.part_wash(work, key, (start, end), gap_mm=gap, seed=seed, ink=ink),
            )

        self._draw_line("Draw the line along which the two zones meet. Escape gives up.", part)

    def uncover(self) -> None:
        """Take the covers of the chosen wash away."""
        key = self._key()
        self._edit("take covers away", lambda work: ink_edits.uncover_wash(work, key))


def _own(piece: AnyWash) -> dict[str, object]:
    """Return what only a wash's kind has, and its inks."""
    own = [name for name in piece.__struct_fields__ if name not in Wash.__struct_fields__]
    return {name: getattr(piece, name) for name in (*own, "colour", "inks")}
