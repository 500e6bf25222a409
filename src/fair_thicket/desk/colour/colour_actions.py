"""What else can be done with colours: parts joined and split, schemes kept and taken, copies coloured alike."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QInputDialog, QWidget

from fair_thicket.colour.reading import read_regions
from fair_thicket.desk.colour.colour_map import ColourMap
from fair_thicket.desk.frame.actions import Record, line
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import colouring as colours
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import ColouredPart
from fair_thicket.model.pieces import Cutout, Impression
from fair_thicket.model.stash import Kind

MENU = "Colour"
Which = Callable[[], Impression | Cutout | None]


def images_of(work: Work) -> list[Impression | Cutout]:
    """Images on a card that can be coloured by their parts."""
    return [
        piece
        for piece in work.card.pieces
        if isinstance(piece, Impression | Cutout) and work.stash.find(piece.stamp).kind is Kind.STAMP
    ]


class ColourActions:
    """The records of the station's menu.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, window: QWidget, session: Session, shown: ColourMap, which: Which, reader: Worker) -> None:
        self._window, self._session, self._map, self._which, self._reader = window, session, shown, which, reader
        shown.lineDrawn.connect(self._cut_along)

        def parts() -> bool:
            return bool(self._map.chosen)

        def several() -> bool:
            return len(self._map.chosen) > 1

        def image() -> bool:
            return self._which() is not None

        def coloured() -> bool:
            piece = self._which()
            return piece is not None and bool(piece.colouring)

        self.records = [
            Record("join-parts", MENU, "Colour these parts as one", "", self.join_parts, several),
            Record("split-part", MENU, "Every region for itself", "", self.split_part, parts),
            Record("cut-region", MENU, "Part a region along a line …", "", self.cut_region, image),
            Record("read-regions", MENU, "Read its regions anew", "", self.read_anew, image),
            line(MENU),
            Record("like-other", MENU, "Colour it like …", "", lambda: None, image, lines=self._others),
            Record("runs-on", MENU, "Same runs, other parts", "", self.move_runs_on, coloured),
            Record("keep-scheme", MENU, "Keep its colours as a scheme …", "", self.ask_scheme, coloured),
            Record("take-scheme", MENU, "Take a scheme", "", lambda: None, image, lines=self._schemes),
            line(MENU),
            Record("uncolour", MENU, "Take all its colours off", "", self.uncolour, coloured),
        ]

    def cut_region(self) -> None:
        """Let a line be drawn along which a region is parted."""
        self._map.cut_next()
        self._session.said.emit("Draw a line across a region of the image, from line to line; Escape gives it up.")

    def _cut_along(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        piece = self._which()
        if piece is not None:
            self._session.edit("part a region", lambda work: colours.cut_along(work, piece.stamp, (start, end)))

    def uncolour(self) -> None:
        """Take all colours off the image."""
        piece = self._which()
        if piece is not None:
            key = piece.id
            self._session.edit("take all colours off", lambda work: colours.uncolour(work, {key}))

    def join_parts(self) -> None:
        """Make one part of those chosen."""
        piece, chosen = self._which(), list(self._map.chosen)
        if piece is not None:
            self._session.edit("join parts", lambda work: colours.join_parts(work, piece.stamp, chosen))

    def split_part(self) -> None:
        """Make every region of the part chosen one for itself."""
        piece, chosen = self._which(), list(self._map.chosen)
        if piece is not None and chosen:
            self._session.edit("split a part", lambda work: colours.split_part(work, piece.stamp, chosen[0]))

    def read_anew(self) -> None:
        """Read the regions of the image again; ids of those that are the same stay."""
        piece = self._which()
        if piece is None:
            return
        stamp = self._session.work.stash.find(piece.stamp)
        data = self._session.pictures.get(stamp.picture)
        if data is not None:
            self._reader.ask(lambda: (stamp.id, *read_regions(stamp, data)))

    def move_runs_on(self) -> None:
        """Give the same runs to other parts."""
        piece = self._which()
        if piece is not None:
            key = piece.id
            self._session.edit("give runs to other parts", lambda work: colours.move_runs_on(work, key))

    def ask_scheme(self) -> None:
        """Ask for a name, and keep the image's colours under it."""
        piece = self._which()
        name, is_given = QInputDialog.getText(self._window, "Keep its colours", "Name of the scheme")
        if is_given and piece is not None:
            key = piece.id
            self._session.edit("keep a scheme", lambda work: colours.keep_scheme(work, key, name))

    def _schemes(self) -> list[tuple[str, partial[None]]]:
        piece = self._which()
        if piece is None:
            return []
        schemes = self._session.work.stash.find(piece.stamp).schemes
        return [(scheme.name, partial(self._take_colouring, scheme.colouring)) for scheme in schemes]

    def _others(self) -> list[tuple[str, partial[None]]]:
        """List the other copies of the image that are coloured."""
        piece = self._which()
        if piece is None:
            return []
        others = [
            one
            for one in images_of(self._session.work)
            if one.stamp == piece.stamp and one.id != piece.id and one.colouring
        ]
        return [(self._session.names[one.id], partial(self._take_colouring, one.colouring)) for one in others]

    def _take_colouring(self, colouring: tuple[ColouredPart, ...]) -> None:
        piece = self._which()
        if piece is not None:
            key = piece.id
            self._session.edit("colour it like another", lambda work: colours.set_colouring(work, {key}, colouring))
