"""Lines, froth and string drawn on the bench; water through a stamp; covers by an outline; stencils by their guides."""

from collections.abc import Callable

from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.parts.colours import ink_colours
from fair_thicket.desk.parts.form import Field, Values, ask
from fair_thicket.desk.scene.bench_hands import PathTool
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import adding, extending, openings
from fair_thicket.edits.pieces import surface_at
from fair_thicket.model.declared import named_limit
from fair_thicket.model.pieces import INK, Cutout, Impression, Through, Wash
from fair_thicket.model.stash import Stamp

Spot = tuple[float, float]
DRAW = "Add/Draw on the bench"
MORE = "Ink/Shadow, water, outlines, guides"
STRING = "#8a5a3a"


class ExtendActions:
    """The records about what goes beyond a stamp.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session, show: Callable[[], object]) -> None:
        self._station, self._session, self._show = station, session, show
        self.records = [
            Record("draw-line", DRAW, "Line by hand, longer than its stamp …", "", self.draw_line),
            Record("draw-froth", DRAW, "Froth along a line …", "", self.draw_froth),
            Record("draw-twine", DRAW, "Twine along a line …", "", self.draw_twine),
            Record("add-ring-of", "Add", "Ring of two dies of any shape …", "", self.add_ring_of, self._has_dies),
            Record("foot-shadow", MORE, "Shadow under its feet", "", self.shade_feet, self._is_image),
            Record("wash-outline", MORE, "Cover the wash by an outline …", "", self.cover, self._is_wash_and_one),
            Record(
                "wash-guides", "Ink", "Lay its stencil by the other's guide lines", "", self.guides, self._are_through
            ),
            Record("water-stamp", MORE, "Water through a stamp …", "", self.stamp_water, self._can_lift),
        ]

    def _ask(self, title: str, fields: list[Field], told: str) -> Values | None:
        unit = self._session.work.card.unit
        return ask(self._station.window(), title, fields, unit=unit, tell=lambda _: told, done="Go on")

    # -- drawn on the bench --------------------------------------------------------------------------------------

    def _draw(self, hint: str, words: str, make: Callable[[list[Spot], str], Callable[..., adding.Added]]) -> None:
        """Go to the bench, let the maker draw a way, and add what is made of it."""
        self._show()
        bench = self._station.bench

        def done(drawn: list[Spot]) -> None:
            on = surface_at(self._session.work, drawn[0]) if drawn else ""
            bench.add(words, make(drawn, on))

        bench.hands.take(PathTool(f"{hint}: press, drag, let go. Escape gives up.", done))

    def draw_line(self) -> None:
        """Ask for colour and width, then let the maker draw."""
        told = "A trunk, a stem or a string drawn longer with a fine pen; ink its stamp in part where the line goes on."
        asked = self._ask_width("Line by hand", "line", "Its width", 0.5, told, INK)
        if asked is not None:
            width, colour = asked
            self._draw(
                "Draw the line",
                "draw a line",
                lambda drawn, on: lambda work: extending.draw_line(work, drawn, width_mm=width, colour=colour, on=on),
            )

    def draw_froth(self) -> None:
        """Ask for the size of its dots, then let the maker draw."""
        asked = self._ask_width("Froth", "pen", "Size of a dot", 1.2, "Dots of a white pen, straying along the line.")
        if asked is not None:
            size = asked[0]
            self._draw(
                "Draw the line of the froth",
                "dot froth",
                lambda drawn, on: lambda work: extending.add_froth(work, drawn, size_mm=size, on=on),
            )

    def draw_twine(self) -> None:
        """Ask for colour and thickness, then let the maker draw."""
        asked = self._ask_width("Twine", "twine", "How thick", 1.6, "It adds about 2 mm: mind the post.", STRING)
        if asked is not None:
            width, colour = asked
            self._draw(
                "Draw where the twine lies",
                "lay twine",
                lambda drawn, on: lambda work: extending.lay_twine(work, drawn, width_mm=width, colour=colour, on=on),
            )

    def _ask_width(
        self, title: str, shape: extending.Drawn, words: str, usual: float, told: str, colour: str = ""
    ) -> tuple[float, str] | None:
        """Ask how wide something is, and for its colour where a usual one is given."""
        fields = [Field("width", words, "length", usual, limit=named_limit(*extending.WIDTHS[shape], "drawn_mm"))]
        if colour:
            fields.append(Field("colour", "Its colour", "colour", colour, ink_colours(self._session)))
        values = self._ask(title, fields, told)
        return None if values is None else (values.number("width"), str(values.get("colour", "")))

    # -- rings ---------------------------------------------------------------------------------------------------

    def _dies(self) -> list[tuple[str, str]]:
        stash = self._session.work.stash
        return [(one.id, one.name) for one in stash.stamps if one.kind in adding.OPEN_KINDS]

    def _has_dies(self) -> bool:
        return len(self._dies()) > 1

    def add_ring_of(self) -> None:
        """Ask for two dies and cut the ring between them."""
        dies = self._dies()
        names = tuple(name for _, name in dies)
        fields = [Field("outer", "Outer die", "choice", 0, names), Field("inner", "Inner die", "choice", 1, names)]
        values = self._ask(
            "Ring of two dies", fields, "The smaller one is laid within the larger and both cut at once."
        )
        if values is not None:
            outer, inner = (dies[values.whole(key)][0] for key in ("outer", "inner"))
            self._station.bench.add("cut a ring", lambda work: openings.add_ring_of(work, outer, inner))

    # -- washes --------------------------------------------------------------------------------------------------

    def _chosen(self) -> tuple[list[str], list[str]]:
        find, chosen = self._session.work.card.find, sorted(self._session.selection)
        washes = [key for key in chosen if isinstance(find(key), Wash)]
        return washes, [key for key in chosen if key not in washes]

    def _is_wash_and_one(self) -> bool:
        washes, others = self._chosen()
        return len(washes) == 1 and len(others) == 1

    def _are_through(self) -> bool:
        washes, others = self._chosen()
        pieces = [self._session.work.card.find(key) for key in washes]
        return len(washes) == 2 and not others and all(isinstance(one, Through) and one.stencil for one in pieces)

    def _images(self) -> list[Stamp]:
        return [one for one in self._session.work.stash.stamps if not one.kind.is_plain]

    def _can_lift(self) -> bool:
        return bool(self._images()) and any(
            isinstance(one, Wash) and one.is_wet for one in self._session.work.card.pieces
        )

    def _is_image(self) -> bool:
        chosen = self._session.selection
        return len(chosen) == 1 and isinstance(self._session.work.card.find(next(iter(chosen))), Impression | Cutout)

    def shade_feet(self) -> None:
        """Blend a soft shadow under the chosen image."""
        (key,) = self._session.selection
        self._station.bench.add("shade its feet", lambda work: extending.shade_feet(work, key))

    def cover(self) -> None:
        """Ask how much larger than the other piece the mask is, and cover the wash by it."""
        (wash,), (other,) = self._chosen()
        fields = [
            Field(
                "room",
                "Larger than its outline by",
                "length",
                0.5,
                limit=named_limit(-extending.MOST_ROOM_MM, extending.MOST_ROOM_MM, "room_mm"),
            ),
            Field("how", "Ink", "choice", 0, ("round it", "only within it")),
        ]
        told = "A mask cut along the image's own outline; nothing smaller than a scissors' width is followed."
        values = self._ask("Cover by an outline", fields, told)
        if values is not None:
            room, inside = values.number("room"), values.whole("how") == 1
            self._session.edit(
                "cover by an outline",
                lambda work: extending.cover_by_outline(work, wash, other, room_mm=room, inside=inside),
            )

    def guides(self) -> None:
        """Lay the later of two stencils where the earlier lies."""
        order = [piece.id for piece in self._session.work.card.pieces if piece.id in self._session.selection]
        self._session.edit(
            "lay a stencil by its guides", lambda work: extending.lay_on_guides(work, order[1], order[0])
        )

    def stamp_water(self) -> None:
        """Ask for stamp and dwell, and stamp water in the middle of the card."""
        session = self._session
        stamps = self._images()
        fields = [
            Field("stamp", "Stamp", "choice", 0, tuple(one.name for one in stamps)),
            Field("dwell", "Seconds it is left", "count", 60, limit=named_limit(1, extending.MOST_DWELL_S, "dwell_s")),
        ]
        values = self._ask("Water through a stamp", fields, "On dry ink, then blotted: about a minute lifts its shape.")
        if values is not None:
            stamp = stamps[values.whole("stamp")].id
            dwell = values.whole("dwell")
            width, height = session.work.card.panel
            at = (width / 2, height / 2)
            on = surface_at(session.work, at)
            self._station.bench.add(
                "stamp water", lambda work: extending.stamp_water(work, stamp, at, on=on, dwell_s=dwell)
            )
