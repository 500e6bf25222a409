"""What pieces and the base are cut from: patterned papers of the stash, taken in from their pictures."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.parts.colours import paper_colours
from fair_thicket.desk.parts.form import Field, ask
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import papers
from fair_thicket.edits.trimming import find_equal_borders, trim_base
from fair_thicket.ink.patterns import main_colour
from fair_thicket.intake.apart import run_apart
from fair_thicket.intake.patterned import PatternPicture, read_patterned
from fair_thicket.model.card import Work
from fair_thicket.model.declared import limit_of
from fair_thicket.model.pieces import Glued, PaperPiece
from fair_thicket.model.stash import Kind, Stamp

PAPER_MENU = "Piece/Patterned paper"
READ_S = 60.0
USUAL_MM = 152.4
"""A picture that does not say its size is taken for one of a 6 in pad, until the maker says otherwise."""
Lines = list[tuple[str, Callable[[], object]]]


class PaperActions:
    """The records of patterned papers.

    Attributes
    ----------
    records, of_base : list of Record
        Of pieces; of the base.
    reader : Worker
        Reads the picture of a paper.
    """

    def __init__(self, station: SceneStation, session: Session) -> None:
        self._station, self._session = station, session
        self._name = ""
        self.reader = Worker(station)
        station.workers.append(self.reader)
        self.reader.done.connect(self._ask_size)
        self.reader.failed.connect(session.said)
        self.records = [
            Record("pattern", PAPER_MENU, "Cut it from", "", lambda: None, self._is_paper, lines=self._of_pieces),
            Record("pattern-turn", PAPER_MENU, "Turn the pattern a quarter", "", self.turn, self._is_patterned),
            Record("pattern-new", PAPER_MENU, "Take a paper in from a picture …", "", self.ask_picture),
        ]
        self.of_base = [
            Record("base-colour", "Card", "Paper of the base …", "", self.ask_base),
            Record("base-pattern", "Card", "Base of patterned paper", "", lambda: None, lines=self._of_base),
            Record("equal-borders", "Card", "Trim the base to equal borders", "", self.trim_base, self._has_panel),
        ]

    def _chosen(self) -> list[Glued]:
        keys = self._session.selection
        return [one for one in self._session.work.card.pieces if one.id in keys and isinstance(one, PaperPiece)]

    def _is_paper(self) -> bool:
        return bool(self._chosen())

    def _is_patterned(self) -> bool:
        return any(piece.pattern for piece in self._chosen())

    def _papers(self) -> list[tuple[str, str, str]]:
        """Return the patterned papers of the stash: key, name, and the colour that stands for each."""
        pictures = self._session.pictures
        found = [stamp for stamp in self._session.work.stash.stamps if stamp.kind is Kind.PAPER]
        return [(one.id, one.name, main_colour(pictures[one.picture])) for one in found if one.picture in pictures]

    def _of_pieces(self) -> Lines:
        lines: Lines = [(name, partial(self.take, key, colour)) for key, name, colour in self._papers()]
        return [("Plain paper", self.take_plain), *lines]

    def _of_base(self) -> Lines:
        lines: Lines = [(name, partial(self.take_base, key, colour)) for key, name, colour in self._papers()]
        return [("Plain card", self.take_plain_base), *lines]

    def take(self, key: str, colour: str) -> None:
        """Cut the pieces chosen from a patterned paper."""
        keys = set(self._session.selection)
        self._session.edit("cut it from patterned paper", lambda work: papers.set_pattern(work, keys, key, colour))

    def take_plain(self) -> None:
        """Cut the pieces chosen from plain paper of the same colour."""
        keys = {piece.id for piece in self._chosen()}

        def change(work: Work) -> Work:
            for piece in work.card.pieces:
                if piece.id in keys:
                    work = papers.set_paper(work, {piece.id}, piece.colour)
            return work

        self._session.edit("cut it from plain paper", change)

    def turn(self) -> None:
        """Lay the pattern of the pieces chosen another way up."""
        keys = set(self._session.selection)
        self._session.edit("turn the pattern", lambda work: papers.turn_pattern(work, keys))

    def ask_base(self) -> None:
        """Ask for the plain paper that the card's base is made of."""
        session = self._session
        fields = [Field("paper", "Paper of the base", "colour", session.work.card.paper, paper_colours(session))]
        window, unit = self._station.window(), session.work.card.unit
        values = ask(window, "Paper of the base", fields, unit=unit, done="Take this")
        if values is not None:
            colour = values.text("paper")
            session.edit("take another base", lambda work: papers.set_base_paper(work, colour))

    def _has_panel(self) -> bool:
        return find_equal_borders(self._session.work) is not None

    def trim_base(self) -> None:
        """Trim the base so that its borders round the panel are equal."""
        self._session.edit("trim the base to equal borders", trim_base)

    def take_base(self, key: str, colour: str) -> None:
        """Make the base of a patterned paper."""
        self._session.edit("take a patterned base", lambda work: papers.set_base_paper(work, colour, key))

    def take_plain_base(self) -> None:
        """Make the base of plain card of the same colour."""
        self._session.edit("take a plain base", lambda work: papers.set_base_paper(work, work.card.paper))

    def ask_picture(self) -> None:
        """Ask for the picture of a patterned paper."""
        path, _ = QFileDialog.getOpenFileName(
            self._station.window(), "Picture of a patterned paper", "", "Pictures (*.png *.jpg *.jpeg *.tif *.webp)"
        )
        if path:
            self.read(Path(path))

    def read(self, path: Path) -> None:
        """Read the picture of a patterned paper."""
        self._name = path.stem
        self.reader.ask_stoppable(
            lambda go_on: run_apart(read_patterned, path, name=path.name, seconds=READ_S, go_on=go_on)
        )

    def _ask_size(self, found: PatternPicture) -> None:
        unit = self._session.work.card.unit
        fields = [
            Field("name", "Name of the paper", "words", self._name),
            Field(
                "width",
                "The picture is this wide",
                "length",
                found.width_mm or USUAL_MM,
                limit=limit_of(Stamp, "width_mm"),
            ),
        ]
        values = ask(self._station.window(), "Patterned paper", fields, unit=unit, done="Take it in")
        if values is None:
            return
        width, name = values.number("width"), values.text("name")
        size = (width, width * found.height_px / found.width_px)
        picture = self._session.add_picture(found.png)
        keys = {piece.id for piece in self._chosen()}

        def change(work: Work) -> Work:
            work, key = papers.add_patterned(work, name, size, picture)
            return papers.set_pattern(work, keys, key, main_colour(found.png)) if keys else work

        self._session.edit("take in a patterned paper", change)
