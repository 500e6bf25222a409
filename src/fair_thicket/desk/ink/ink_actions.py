"""How stamps are inked, by menu: a line drawn across one on the bench, then a side of it clicked."""

from collections.abc import Callable

from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.parts.colours import ink_colours
from fair_thicket.desk.parts.form import Field, Values, ask
from fair_thicket.desk.scene.bench_hands import LineTool, PointTool
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import ink_edits
from fair_thicket.edits.pieces import set_pieces
from fair_thicket.ink.overlay import covers
from fair_thicket.model.card import Work
from fair_thicket.model.palette import PALETTE
from fair_thicket.model.pieces import INK, Cutout, Impression, Strip

Spot = tuple[float, float]
FERN = dict(PALETTE)["fern"]
EMBOSS = "Ink/Emboss"
POWDERS = [("white", "#ffffff"), ("gold", "#c59a3d"), ("silver", "#b9bdc4"), ("copper", "#b16c40")]
"""Powders that most makers own (common practice); a clear one is a resist."""
WHEN = (
    ("before inks", "with the others"),
    ("over dry inks", "over the inks, when they are dry"),
    ("by hand", "by hand, when all is glued"),
)
MEANS = (
    "In as few presses as can be; where it is coloured, before any ink, under its mask.",
    "In slow ink over what was blended; it dries once more, or is heated. A coloured image has the ink under it.",
    "A small stamp on a clear block, on flat ground with nothing glued or stamped there.",
)


class InkActions:
    """The records about inking stamps.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session, show: Callable[[], object]) -> None:
        self._station, self._session, self._show = station, session, show
        stamped = self._is_stamped
        self.records = [
            Record("line-ink", "Ink", "Ink of its lines or words …", "", self.ask_ink, lambda: bool(self._lined())),
            Record("ink-part", "Ink", "Ink only a part of it …", "", lambda: self.ink_part(is_taped=False), stamped),
            Record("tape-part", "Ink", "Tape a part of it off …", "", lambda: self.ink_part(is_taped=True), stamped),
            Record("ink-zone", "Ink", "Ink a part in another colour …", "", self.ink_zone, stamped),
            Record("ink-whole", "Ink", "Ink all of it again", "", self.ink_whole, stamped),
            Record("stamped", "Ink", "When it is stamped …", "", self.ask_when, lambda: bool(self._all_stamped())),
            Record("powder", EMBOSS, "Emboss with powder …", "", self.ask_powder, lambda: bool(self._worded())),
            Record("no-powder", EMBOSS, "Stamp it in ink again", "", self.take_powder, self._is_powdered),
            Record("resist", EMBOSS, "Emboss it clear, as a resist", "", self.resist, stamped, self._resists),
        ]

    def _is_stamped(self) -> bool:
        chosen = self._session.selection
        return len(chosen) == 1 and isinstance(self._session.work.card.find(next(iter(chosen))), Impression)

    def _resists(self) -> bool:
        if not self._is_stamped():
            return False
        piece = self._session.work.card.find(self._key())
        return isinstance(piece, Impression) and piece.resists

    def _key(self) -> str:
        (key,) = self._session.selection
        return key

    def _edit(self, words: str, change: Callable[[Work], Work]) -> None:
        self._session.edit(words, change)

    # -- lines --------------------------------------------------------------------------------------------------

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
            self._edit(words, lambda work: ink_edits.ink_only(work, key, *drawn, at, is_taped=is_taped))

        name = self._session.names[key]
        self._draw_line(
            f"Draw a line across the {name}: press, drag, let go. Escape gives up.",
            "Now click the part that is to be inked.",
            done,
        )

    def ink_zone(self) -> None:
        """Ask for a colour, let the maker draw a line across the stamp and click the part that gets it."""
        key = self._key()
        fields = [Field("ink", "Ink", "colour", FERN, ink_colours(self._session))]
        values = ask(
            self._station.window(), "A part in another colour", fields, unit=self._session.work.card.unit, done="Draw"
        )
        if values is None:
            return
        colour = values.text("ink")

        def done(drawn: tuple[Spot, Spot], at: Spot) -> None:
            self._edit("ink a part in a colour", lambda work: ink_edits.ink_zone(work, key, drawn, at, colour))

        name = self._session.names[key]
        self._draw_line(f"Draw a line across the {name}. Escape gives up.", "Now click the part in that colour.", done)

    def _lined(self) -> list[str]:
        """Ids of the chosen pieces that bear lines or words in an ink."""
        work = self._session.work
        return [
            piece.id
            for piece in work.card.pieces
            if piece.id in self._session.selection
            and (
                (isinstance(piece, Strip) and piece.words)
                or (isinstance(piece, Impression | Cutout) and not work.stash.find(piece.stamp).kind.is_plain)
            )
        ]

    def ask_ink(self) -> None:
        """Ask for the ink of the lines or words of the chosen pieces."""
        keys = self._lined()
        present = getattr(self._session.work.card.find(keys[0]), "ink", None) or INK
        fields = [Field("ink", "Ink of its lines or words", "colour", present, ink_colours(self._session))]

        def tell(values: Values) -> str:
            if covers(values.text("ink")):
                return "Pale ink covers what is under it: it is stamped when everything inked there is dry."
            return "It mixes with what is under it."

        unit = self._session.work.card.unit
        values = ask(self._station.window(), "Ink", fields, unit=unit, tell=tell, done="Take this")
        if values is not None:
            ink = None if values["ink"] == INK else values.text("ink")
            self._edit("take another ink", lambda work: set_pieces(work, keys, ink=ink))

    def ink_whole(self) -> None:
        """Ink all of the chosen stamp again."""
        key = self._key()
        self._edit("ink all of it", lambda work: ink_edits.ink_whole(work, key))

    def _all_stamped(self) -> list[Impression]:
        """Return the chosen pieces, where all of them are stamped."""
        work = self._session.work
        chosen = [piece for piece in work.card.pieces if piece.id in self._session.selection]
        stamped = [piece for piece in chosen if isinstance(piece, Impression)]
        return stamped if len(stamped) == len(chosen) else []

    def _worded(self) -> list[Impression | Strip]:
        """Return the chosen pieces that powder can go on."""
        chosen = [piece for piece in self._session.work.card.pieces if piece.id in self._session.selection]
        return [
            piece for piece in chosen if isinstance(piece, Impression) or (isinstance(piece, Strip) and piece.words)
        ]

    def _is_powdered(self) -> bool:
        return any(piece.powder for piece in self._worded())

    def ask_powder(self) -> None:
        """Ask for the powder that the chosen images or words are embossed with."""
        keys = [piece.id for piece in self._worded()]
        present = next((piece.ink for piece in self._worded() if piece.powder and piece.ink), POWDERS[0][1])
        fields = [Field("powder", "Powder", "colour", present, [*POWDERS, *ink_colours(self._session)])]

        def tell(values: Values) -> str:
            del values
            return (
                "It covers what is under it, and shines. Anti-static powder first, blended ink quite dry. Over 250 °C "
                "at the nozzle: tweezers, heat-proof mat; the maker's label comes first."
            )

        unit = self._session.work.card.unit
        values = ask(self._station.window(), "Emboss with powder", fields, unit=unit, tell=tell, done="Take this")
        if values is not None:
            colour = values.text("powder")
            self._edit("emboss with powder", lambda work: ink_edits.set_powder(work, keys, colour))

    def take_powder(self) -> None:
        """Stamp the chosen images or words in ink again."""
        keys = [piece.id for piece in self._worded()]
        self._edit("stamp it in ink", lambda work: ink_edits.set_powder(work, keys, None))

    def ask_when(self) -> None:
        """Ask when the chosen images are stamped."""
        pieces = self._all_stamped()
        keys = [when for when, _ in WHEN]
        present = keys.index(pieces[0].stamped)
        fields = [Field("when", "It is stamped", "choice", present, tuple(words for _, words in WHEN))]

        def tell(values: Values) -> str:
            return MEANS[values.whole("when")]

        unit = self._session.work.card.unit
        values = ask(self._station.window(), "When it is stamped", fields, unit=unit, tell=tell, done="Take this")
        if values is not None:
            when, chosen = keys[values.whole("when")], [piece.id for piece in pieces]
            self._edit("stamp it at another time", lambda work: ink_edits.set_stamped(work, chosen, when))

    def resist(self) -> None:
        """Emboss the chosen impression clear, or stamp it in ink again."""
        key, now = self._key(), self._resists()
        self._edit(
            "stamp it in ink" if now else "emboss it clear",
            lambda work: ink_edits.set_resist(work, key, resists=not now),
        )
