"""New pieces by menu: layers, panels, frames, rings, strips, washes and sequins, each with its arithmetic shown."""

from collections.abc import Callable
from typing import Literal

from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.parts.colours import Colour, ink_colours, paper_colours
from fair_thicket.desk.parts.form import Field, Values, ask
from fair_thicket.desk.scene.hill import ask_hill
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import adding, openings
from fair_thicket.edits.pieces import set_pieces, surface_at
from fair_thicket.model.card import WHITE, Work, is_greeting
from fair_thicket.model.declared import limit_of
from fair_thicket.model.finishes import FINISHES
from fair_thicket.model.formats import all_round, border_of
from fair_thicket.model.palette import PALETTE
from fair_thicket.model.pieces import Cutout, Embellishment, End, Form, Impression, Panel, Piece, Strip, Window
from fair_thicket.model.units import MM_PER_INCH, say_length, say_size

PINE, DUSK, LANTERN = (dict(PALETTE)[name] for name in ("pine", "dusk", "lantern"))
ENDS: tuple[End, ...] = ("straight", "fishtail", "folded", "tag")
PATTERNS = ("one", "line", "scatter")


class AddActions:
    """What the Add menu does.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session) -> None:
        self._station, self._session = station, session
        self.records = [
            Record("add-layer", "Add", "Layer with a border …", "Alt+L", self.add_layer),
            Record("add-panel", "Add", "Panel …", "", self.add_panel),
            Record("add-frame", "Add", "Frame …", "", self.add_frame),
            Record("add-window", "Add", "Window in the panel …", "", self.add_window, self._has_panel),
            Record("drop-windows", "Add", "Take its windows away", "", self.drop_windows, self._has_windows),
            Record("add-opening", "Add", "What fell out of its opening", "", self.add_opening, self._has_opening),
            Record("add-ring", "Add", "Ring from two dies …", "", self.add_ring),
            Record("add-strip", "Add", "Greeting strip …", "Alt+G", self.add_strip),
            Record(
                "strip-under", "Add", "Strip under the stamped greeting", "", self.put_strip_under, self._has_stamped
            ),
            Record("add-wash", "Add", "Wash …", "", self.add_wash),
            Record("add-hill", "Add", "Hill drawn by points …", "", self.add_hill),
            Record("add-sequins", "Add", "Sequins, gems, gloss, twine …", "", self.add_sequins),
        ]

    def add_hill(self) -> None:
        """Let the maker draw a hill over the card; it comes in front of all, on what lies in the middle."""
        session = self._session
        made = ask_hill(session.work, session.pictures, self._top(), self._papers(), self._station.window())
        if made is not None:
            work, key, pictures = made
            session.pictures.update(pictures)
            session.edit("draw a hill", lambda _: work)
            session.select({key})

    def _ask(self, title: str, fields: list[Field], tell: Callable[[Values], str]) -> Values | None:
        return ask(self._station.window(), title, fields, unit=self._session.work.card.unit, tell=tell)

    def _papers(self) -> list[Colour]:
        return paper_colours(self._session)

    def _inks(self) -> list[Colour]:
        return ink_colours(self._session)

    def _say(self, length_mm: float) -> str:
        return say_length(length_mm, self._session.work.card.unit)

    def _size(self, width: float, height: float) -> str:
        return say_size(width, height, self._session.work.card.unit)

    def _middle(self) -> tuple[float, float]:
        width, height = self._session.work.card.panel
        return width / 2, height / 2

    def _top(self) -> str:
        return surface_at(self._session.work, self._middle())

    def add_layer(self) -> None:
        """Ask for a border all round, say what to cut, and lay it."""
        work = self._session.work
        under = adding.top_layer(work)
        outer = (under.form.width_mm, under.form.height_mm) if under else work.card.panel
        on = f"the {self._session.names[under.id]}" if under else "the card"

        def tell(values: Values) -> str:
            border = values.number("border")
            width, height = all_round(outer, border)
            return (
                f"On {on}, {self._size(*outer)}: cut {self._size(width, height)}, that is {self._say(2 * border)} less "
                "each way."
            )

        fields = [
            Field("border", "Border all round", "length", MM_PER_INCH / 8, limit=limit_of(Form, "width_mm")),
            Field("colour", "Colour", "colour", WHITE, self._papers()),
        ]
        values = self._ask("Layer with a border", fields, tell)
        if values is not None:
            border, colour = values.number("border"), _colour(values)
            self._station.bench.add("add a layer", lambda work: adding.add_layer(work, border, colour=colour))

    def add_panel(self) -> None:
        """Ask for a panel's size and lay it in the middle."""
        outer = self._session.work.card.panel

        def tell(values: Values) -> str:
            form = _form(values)
            border = border_of(outer, (form.width_mm, form.height_mm))
            sides = f"{self._say(border.left)} left and right, {self._say(border.top)} above and below"
            return f"Centred, the card shows {sides}."

        start = all_round(outer, MM_PER_INCH / 4)
        colours = Field("colour", "Colour", "colour", WHITE, self._papers())
        values = self._ask("Panel", [*_form_fields(start), colours], tell)
        if values is not None:
            form, colour, on = _form(values), _colour(values), self._top()
            self._station.bench.add("add a panel", lambda work: adding.add_panel(work, form, on=on, colour=colour))

    def add_frame(self) -> None:
        """Ask for a frame's size and bars and lay it in front."""
        outer = self._session.work.card.panel

        def tell(values: Values) -> str:
            form, bar = _form(values), values.number("bar")
            window = adding.frame_of(form, bar)[0].form
            return f"Its window is {self._size(window.width_mm, window.height_mm)}, bars {self._say(bar)} all round."

        fields = [
            *_form_fields(all_round(outer, MM_PER_INCH / 8)),
            Field("bar", "Width of its bars", "length", MM_PER_INCH / 2, limit=limit_of(Form, "width_mm")),
            Field("foam", "Foam under it", "length", 0.0, limit=limit_of(Panel, "lift_mm")),
            Field("colour", "Colour", "colour", WHITE, self._papers()),
        ]
        values = self._ask("Frame", fields, tell)
        if values is not None:
            form, bar, colour = _form(values), values.number("bar"), _colour(values)
            lift = values.number("foam")
            self._station.bench.add(
                "add a frame",
                lambda work: adding.add_panel(
                    work, form, windows=adding.frame_of(form, bar), colour=colour, lift_mm=lift
                ),
            )

    def _chosen_piece(self) -> Piece | None:
        chosen = self._session.selection
        return self._session.work.card.find(next(iter(chosen))) if len(chosen) == 1 else None

    def _has_panel(self) -> bool:
        return isinstance(self._chosen_piece(), Panel)

    def _has_windows(self) -> bool:
        piece = self._chosen_piece()
        return isinstance(piece, Panel) and bool(piece.windows)

    def _has_opening(self) -> bool:
        piece = self._chosen_piece()
        return isinstance(piece, Cutout) and bool(openings.openings_of(self._session.work, piece.id))

    def add_window(self) -> None:
        """Ask for a window's size and place, and cut it into the chosen panel beside those that it has."""
        piece = self._chosen_piece()
        if not isinstance(piece, Panel):
            return
        key, form = piece.id, piece.form

        def make(work: Work, values: Values) -> Work:
            window = _form(values)
            x = values.number("left") + window.width_mm / 2 - form.width_mm / 2
            y = values.number("top") + window.height_mm / 2 - form.height_mm / 2
            return adding.cut_window(work, key, Window(window, round(x, 4), round(y, 4)))

        def tell(values: Values) -> str:
            make(self._session.work, values)
            window = _form(values)
            right = form.width_mm - values.number("left") - window.width_mm
            foot = form.height_mm - values.number("top") - window.height_mm
            return f"{self._say(right)} of paper stay at its right, {self._say(foot)} below it."

        third = (round(form.width_mm / 3, 1), round(form.height_mm / 2, 1))
        fields = [
            *_form_fields(third),
            Field("left", "From the panel's left edge", "length", MM_PER_INCH / 4, limit=limit_of(Window, "x")),
            Field("top", "From its upper edge", "length", MM_PER_INCH / 4, limit=limit_of(Window, "y")),
        ]
        values = self._ask(f"Window in the {self._session.names[key]}", fields, tell)
        if values is not None:
            self._session.edit("cut a window", lambda work: make(work, values))

    def drop_windows(self) -> None:
        """Take all windows of the chosen panel away."""
        keys = self._session.selection
        self._session.edit("take windows away", lambda work: set_pieces(work, keys, windows=()))

    def add_opening(self) -> None:
        """Lay down what fell out of the chosen die cut's openings: next to it, or flush in it as an inlay."""
        piece = self._chosen_piece()
        if piece is None:
            return
        work = self._session.work
        known = openings.openings_of(work, piece.id)
        names = [f"opening {number + 1}, {self._size(*size)}" for number, size in known]
        fields = [
            Field("opening", "Which", "choice", 0, names),
            Field("where", "Where", "choice", 0, ("flush in its opening, as an inlay", "in the middle of the card")),
            Field("colour", "Cut from", "colour", WHITE, self._papers()),
        ]
        told = "Cut by the same die in the same setting, so that it fits."
        values = self._ask("What fell out of it", fields, lambda _: told)
        if values is not None:
            number = known[values.whole("opening")][0]
            at = None if values["where"] == 0 else self._middle()
            colour = _colour(values)
            self._station.bench.add(
                "lay an opening", lambda work: openings.add_opening(work, piece.id, number, at=at, colour=colour)
            )

    def add_ring(self) -> None:
        """Ask for two nested dies and lay the ring between them."""

        def tell(values: Values) -> str:
            outer, inner = values.number("outer"), values.number("inner")
            openings.add_ring(self._session.work, outer, inner)
            return f"The ring is {self._say(openings.ring_width(outer, inner))} wide: half the difference of the dies."

        fields = [
            Field("outer", "Outer die", "length", 2.5 * MM_PER_INCH, limit=limit_of(Form, "width_mm")),
            Field("inner", "Inner die", "length", 2.0 * MM_PER_INCH, limit=limit_of(Form, "width_mm")),
        ]
        values = self._ask("Ring from two dies", fields, tell)
        if values is not None:
            outer, inner = values.number("outer"), values.number("inner")
            self._station.bench.add("add a ring", lambda work: openings.add_ring(work, outer, inner))

    def add_strip(self) -> None:
        """Ask for words and lay a strip that is cut to their length."""

        def tell(values: Values) -> str:
            ends = (ENDS[values.whole("left")], ENDS[values.whole("right")])
            width, height = adding.strip_for(
                adding.break_lines(values.text("words")) or "greeting", values.number("letters"), ends
            )
            return f"Cut the strip {self._size(width, height)}."

        fields = [
            Field("words", "Words; “ / ” breaks the line", "words", "a little post for you"),
            Field("letters", "Height of the capitals", "length", 5.0, limit=limit_of(Strip, "words_mm")),
            Field("left", "Left end", "choice", 0, ENDS),
            Field("right", "Right end", "choice", 0, ENDS),
            Field("colour", "Colour", "colour", WHITE, self._papers()),
            Field("ink", "Colour of the words", "colour", PINE, self._inks()),
        ]
        values = self._ask("Greeting strip", fields, tell)
        if values is None:
            return
        width, height = self._session.work.card.panel
        words, letters, on = adding.break_lines(values.text("words")[:120]), values.number("letters"), self._top()
        left, right = ENDS[values.whole("left")], ENDS[values.whole("right")]
        ink, colour = values.text("ink"), _colour(values)
        self._station.bench.add(
            "add a strip",
            lambda work: adding.add_strip(
                work,
                words,
                at=(width / 2, height * 0.18),
                words_mm=letters,
                on=on,
                left=left,
                right=right,
                colour=colour,
                ink=ink,
            ),
        )

    def _stamped_greeting(self) -> str:
        """Id of the chosen stamped greeting, or of the only one there is; empty for none."""
        work = self._session.work
        found = [
            piece.id
            for piece in work.card.pieces
            if isinstance(piece, Impression)
            and is_greeting(piece, work.stash)
            and (not piece.on or isinstance(work.card.find(piece.on), Panel))
        ]
        chosen = [key for key in found if key in self._session.selection]
        return chosen[0] if chosen else found[0] if len(found) == 1 else ""

    def _has_stamped(self) -> bool:
        return bool(self._stamped_greeting())

    def put_strip_under(self) -> None:
        """Put a strip under the stamped greeting, which is then stamped on the strip."""
        key = self._stamped_greeting()
        if key:
            self._station.bench.add("put a strip under the greeting", lambda work: adding.add_strip_under(work, key))

    def add_wash(self) -> None:
        """Ask for a colour and ink the topmost panel with it."""
        on = self._top()
        where = f"the {self._session.names[on]}" if on else "the card itself"
        caution = "Ink behind coloured images only with their masks on. Brushes and sprays: follow the maker's label."
        values = self._ask(
            "Wash",
            [Field("colour", "Colour", "colour", DUSK, self._inks())],
            lambda _: f"It inks all of {where}. {caution}",
        )
        if values is not None:
            colour = values.text("colour")
            self._station.bench.add("add a wash", lambda work: adding.add_wash(work, colour, on=on))

    def add_sequins(self) -> None:
        """Ask for a pattern and lay it in the middle."""

        def make(work: Work, values: Values) -> tuple[Work, str]:
            return adding.add_embellishment(
                work,
                PATTERNS[values.whole("pattern")],
                at=self._middle(),
                size_mm=values.number("size"),
                count=values.whole("count"),
                reach_mm=values.number("reach"),
                on=self._top(),
                colour=_colour(values),
                shape=list(FINISHES)[values.whole("what")],
            )

        def tell(values: Values) -> str:
            make(self._session.work, values)
            kind = list(FINISHES.values())[values.whole("what")]
            high = f"Adds {kind.adds_mm:g} mm" if kind.adds_mm else "Adds nothing"
            dries = {"wet": "dries for hours, lying flat", "minute": "dries a minute", "glaze": "dries five minutes"}
            told = ", ".join(word for word in (high, dries.get(kind.dries, ""), kind.mind) if word)
            return f"{told}. Odd numbers, and stop early; follow the maker's label."

        fields = [
            Field("what", "What", "choice", 0, tuple(kind.plural for kind in FINISHES.values())),
            Field("pattern", "Pattern", "choice", 2, PATTERNS),
            Field("size", "Size of one", "length", 4.0, limit=limit_of(Embellishment, "size_mm")),
            Field("count", "How many", "count", 7, limit=limit_of(Embellishment, "spots")),
            Field("reach", "Across", "length", 40.0, limit=limit_of(Form, "width_mm")),
            Field("colour", "Colour", "colour", LANTERN, self._papers()),
        ]
        values = self._ask("Finishes", fields, tell)
        if values is not None:
            self._station.bench.add("add sequins", lambda work: make(work, values))


def _form_fields(size: tuple[float, float]) -> list[Field]:
    return [
        Field("shape", "Shape", "choice", 0, ("rectangle", "round or oval")),
        Field("width", "Width", "length", size[0], limit=limit_of(Form, "width_mm")),
        Field("height", "Height", "length", size[1], limit=limit_of(Form, "height_mm")),
        Field("corner", "Round its corners by", "length", 0.0, limit=limit_of(Form, "corner_mm")),
    ]


def _form(values: Values) -> Form:
    shape: Literal["ellipse", "rectangle"] = "ellipse" if values["shape"] else "rectangle"
    return Form(shape, values.number("width"), values.number("height"), values.number("corner"))


def _colour(values: Values) -> str | None:
    colour = values.text("colour")
    return None if colour == WHITE else colour
