"""Forms of words by menu: shadow copies, words on vellum, inks from top to bottom, a line cut in two, one base line."""

from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.parts.colours import ink_colours, paper_colours
from fair_thicket.desk.parts.form import Field, Values, ask
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import word_forms
from fair_thicket.model.card import Work
from fair_thicket.model.palette import PALETTE
from fair_thicket.model.pieces import INK, Border, Cutout, Impression, Panel, Piece, Strip
from fair_thicket.model.units import say_length
from fair_thicket.shape.paper import local_area

DUSK, FERN, PINE = (dict(PALETTE)[name] for name in ("dusk", "fern", "pine"))


class WordActions:
    """What the Words menu does.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session) -> None:
        self._station, self._session = station, session
        self.records = [
            Record("shadow-copy", "Words", "Shadow copy from another paper …", "", self.add_shadow, self._is_paper),
            Record("float", "Words", "Let it float on vellum", "", self.float_on_vellum, self._is_cut),
            Record("inks-down", "Words", "Inks from top to bottom …", "", self.ink_down, self._is_stamped),
            Record("cut-in-two", "Words", "Cut the line into two strips …", "", self.cut_in_two, self._is_cut),
            Record("base-line", "Words", "Bring onto one base line", "", self.align, self._are_several),
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
            Field("right", "To the right", "length", 1.5),
            Field("down", "Down", "length", 1.5),
        ]
        values = self._ask("Shadow copy", fields, "1 to 2 mm down and to the right is usual; left or up with a minus.")
        if values is not None:
            off, colour = (float(str(values["right"])), float(str(values["down"]))), str(values["colour"])
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
            names = ("first", "second") if int(str(values["count"])) == 0 else ("first", "second", "third")
            chosen = [str(values[name]) for name in names]
            self._session.edit("ink it from top to bottom", lambda work: word_forms.ink_down(work, piece.id, chosen))

    def cut_in_two(self) -> None:
        """Ask where the chosen line of words is cut; its end then lies below as a strip of its own."""
        piece, work = self._piece(), self._session.work
        if piece is None:
            return
        left, _, right, _ = local_area(piece, work.stash).bounds
        fields = [Field("at", "From its left end", "length", round((right - left) / 2, 1))]
        told = f"It is {say_length(right - left, work.card.unit)} long. Stamped once, cut into two strips."
        values = self._ask("Cut the line into two strips", fields, told)
        if values is not None:
            at = float(str(values["at"]))
            self._station.bench.add("cut a line in two", lambda work: word_forms.cut_in_two(work, piece.id, at))

    def align(self) -> None:
        """Bring the chosen words onto the base line of the leftmost."""
        keys, pictures = set(self._session.selection), dict(self._session.pictures)

        def change(work: Work) -> Work:
            return word_forms.align_words(work, keys, pictures)

        self._session.edit("bring words onto one base line", change)
