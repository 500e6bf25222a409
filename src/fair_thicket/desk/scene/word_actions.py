"""Forms of words by menu: shadow copies, words on vellum, inks from top to bottom, a line cut in two, one base line."""

from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.parts.colours import ink_colours, paper_colours
from fair_thicket.desk.parts.form import Field, Values, ask
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import adding, word_forms
from fair_thicket.edits.pieces import set_card, set_pieces
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.declared import limit_of
from fair_thicket.model.formats import all_round
from fair_thicket.model.palette import PALETTE
from fair_thicket.model.pieces import INK, Border, Cutout, Form, Impression, Panel, Piece, Strip, Wash
from fair_thicket.model.units import say_length, say_size
from fair_thicket.shape.paper import local_area

WORDS = "Piece/Words"
MARK_MM = 40.0
"""A mark is small: larger images are not offered."""
DUSK, FERN, PINE = (dict(PALETTE)[name] for name in ("dusk", "fern", "pine"))


class WordActions:
    """What the menus do about words.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session) -> None:
        self._station, self._session = station, session
        self.records = [
            Record("shadow-copy", WORDS, "Shadow copy from another paper …", "", self.add_shadow, self._is_paper),
            Record("float", WORDS, "Let it float on vellum", "", self.float_on_vellum, self._is_cut),
            Record("inks-down", WORDS, "Inks from top to bottom …", "", self.ink_down, self._is_stamped),
            Record("cut-in-two", WORDS, "Cut the line into two strips …", "", self.cut_in_two, self._is_cut),
            Record("insert", "Add", "Insert panel for the inside …", "", self.add_insert, lambda: session.is_open),
            Record("pen", "Ink", "A pen writes over it", "", self.write_over, self._is_ink, self._is_written),
            Record("mark", "Card", "Your mark on the back …", "", self.ask_mark),
            Record("base-line", WORDS, "Bring onto one base line", "", self.align, self._are_several),
        ]

    def _piece(self) -> Piece | None:
        chosen = self._session.selection
        return self._session.work.card.find(next(iter(chosen))) if len(chosen) == 1 else None

    def _is_paper(self) -> bool:
        return isinstance(self._piece(), Cutout | Strip | Panel | Border)

    def _is_cut(self) -> bool:
        return isinstance(self._piece(), Cutout)

    def _is_stamped(self) -> bool:
        return isinstance(self._piece(), Impression)

    def _are_several(self) -> bool:
        return len(self._session.selection) > 1

    def _ask(self, title: str, fields: list[Field], told: str) -> Values | None:
        def tell(values: Values) -> str:
            del values
            return told

        unit = self._session.work.card.unit
        return ask(self._station.window(), title, fields, unit=unit, tell=tell, done="Make it so")

    def add_shadow(self) -> None:
        """Ask for paper and offset, and lay the same shape under the chosen one."""
        piece = self._piece()
        if piece is None:
            return
        fields = [
            Field("colour", "Its paper", "colour", DUSK, paper_colours(self._session)),
            Field("right", "To the right", "length", 1.5, limit=limit_of(Cutout, "x")),
            Field("down", "Down", "length", 1.5, limit=limit_of(Cutout, "y")),
        ]
        values = self._ask("Shadow copy", fields, "1 to 2 mm down and to the right is usual; left or up with a minus.")
        if values is not None:
            off, colour = (values.number("right"), values.number("down")), values.text("colour")
            self._station.bench.add(
                "lay a shadow copy", lambda work: word_forms.add_shadow(work, piece.id, colour, off_mm=off)
            )

    def float_on_vellum(self) -> None:
        """Put vellum behind the chosen word, blanks behind that, and a blank under the word itself."""
        piece = self._piece()
        if piece is not None:
            self._session.edit("let words float on vellum", lambda work: word_forms.float_on_vellum(work, piece.id)[0])

    def ink_down(self) -> None:
        """Ask for two or three inks, and ink the chosen stamp in them from its top to its foot."""
        piece = self._piece()
        if piece is None:
            return
        inks = ink_colours(self._session)
        fields = [
            Field("first", "At the top", "colour", FERN, inks),
            Field("second", "Then", "colour", PINE, inks),
            Field("third", "At the foot", "colour", INK, inks),
            Field("count", "How many", "choice", 1, ("two", "three")),
        ]
        told = "Light to dark: ink the whole in the first, wipe a band, ink it anew, and so on; then press once."
        values = self._ask("Inks from top to bottom", fields, told)
        if values is not None:
            names = ("first", "second") if values.whole("count") == 0 else ("first", "second", "third")
            chosen = [values.text(name) for name in names]
            self._session.edit("ink it from top to bottom", lambda work: word_forms.ink_down(work, piece.id, chosen))

    def cut_in_two(self) -> None:
        """Ask where the chosen line of words is cut; its end then lies below as a strip of its own."""
        piece, work = self._piece(), self._session.work
        if piece is None:
            return
        left, _, right, _ = local_area(piece, work.stash).bounds
        fields = [
            Field("at", "From its left end", "length", round((right - left) / 2, 1), limit=limit_of(Strip, "width_mm"))
        ]
        told = f"It is {say_length(right - left, work.card.unit)} long. Stamped once, cut into two strips."
        values = self._ask("Cut the line into two strips", fields, told)
        if values is not None:
            at = values.number("at")
            self._station.bench.add("cut a line in two", lambda work: word_forms.cut_in_two(work, piece.id, at))

    def add_insert(self) -> None:
        """Ask for an insert's border and paper, and lay it on the inside."""

        def tell(values: Values) -> str:
            width, height = all_round(self._session.work.card.panel, values.number("border"))
            unit = self._session.work.card.unit
            return f"Cut {say_size(width, height, unit)}; images trimmed to it bleed off its edge."

        fields = [
            Field(
                "border", "Of the base shows all round", "length", adding.INSERT_MM, limit=limit_of(Form, "width_mm")
            ),
            Field("colour", "Its paper", "colour", WHITE, paper_colours(self._session)),
        ]
        unit = self._session.work.card.unit
        values = ask(self._station.window(), "Insert panel", fields, unit=unit, tell=tell, done="Lay it in")
        if values is not None:
            border, colour = values.number("border"), values.text("colour")
            self._station.bench.add(
                "lay an insert in", lambda work: adding.add_insert(work, border_mm=border, colour=colour)
            )

    def _is_ink(self) -> bool:
        return isinstance(self._piece(), Impression | Wash)

    def _is_written(self) -> bool:
        piece = self._piece()
        return piece is not None and piece.written_over

    def write_over(self) -> None:
        """Keep ink pale where a pen will write over it, or let it be as it is."""
        keys, now = set(self._session.selection), self._is_written()
        self._session.edit("say where a pen writes", lambda work: set_pieces(work, keys, written_over=not now))

    def ask_mark(self) -> None:
        """Ask for the maker's mark on the back: an image of the stash, or words."""
        card, stash = self._session.work.card, self._session.work.stash
        stamps = [one for one in stash.stamps if not one.kind.is_plain and one.width_mm <= MARK_MM]
        names = ["words, as typed", *(one.name for one in stamps), "none"]
        keys = [one.id for one in stamps]
        at = keys.index(card.mark) + 1 if card.mark in keys else 0
        fields = [
            Field("which", "Stamped", "choice", at, tuple(names)),
            Field("words", "Words", "words", "" if card.mark in keys else card.mark or "made by hand"),
        ]
        told = "Small, in the middle of the foot of the back, before the front gets its height."
        values = self._ask("Your mark on the back", fields, told)
        if values is not None:
            chosen = values.whole("which")
            mark = values.text("words")[:100] if chosen == 0 else "" if chosen > len(keys) else keys[chosen - 1]
            self._session.edit("put your mark on the back", lambda work: set_card(work, mark=mark))

    def align(self) -> None:
        """Bring the chosen words onto the base line of the leftmost."""
        keys, pictures = set(self._session.selection), dict(self._session.pictures)

        def change(work: Work) -> Work:
            return word_forms.align_words(work, keys, pictures)

        self._session.edit("bring words onto one base line", change)
