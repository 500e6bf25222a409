"""What else can be done with colours: parts joined and split, schemes kept and taken, copies coloured alike."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QInputDialog, QWidget

from fair_thicket.colour.reading import read_regions
from fair_thicket.desk.colour.colour_map import ColourMap, Drawing
from fair_thicket.desk.colour.mark_actions import MarkActions
from fair_thicket.desk.frame.actions import Record, line
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import colouring as colours
from fair_thicket.edits.images import Image, coloured_images
from fair_thicket.model.colouring import ColouredPart

MENU = "Colour"
Which = Callable[[], Image | None]


class ColourActions:
    """The records of the station's menu.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, window: QWidget, session: Session, shown: ColourMap, which: Which, reader: Worker) -> None:
        self._window, self._session, self._map, self._which, self._reader = window, session, shown, which, reader
        shown.lineDrawn.connect(self._take_line)

        def parts() -> bool:
            return bool(self._map.chosen)

        def several() -> bool:
            return len(self._map.chosen) > 1

        def is_image() -> bool:
            return self._which() is not None

        def coloured() -> bool:
            image = self._which()
            return image is not None and bool(image.colouring)

        self.records = [
            Record("join-parts", MENU, "Colour these parts as one", "", self.join_parts, several),
            Record("split-part", MENU, "Every region for itself", "", self.split_part, parts),
            Record("cut-region", MENU, "Part a region along a line …", "", self.cut_region, is_image),
            Record("read-regions", MENU, "Read its regions anew", "", self.read_anew, is_image),
            line(MENU),
            *MarkActions(session, shown, which).records,
            line(MENU),
            Record("like-other", MENU, "Colour it like …", "", lambda: None, is_image, lines=self._others),
            Record("runs-on", MENU, "Same runs, other parts", "", self.move_runs_on, coloured),
            Record("keep-scheme", MENU, "Keep its colours as a scheme …", "", self.ask_scheme, coloured),
            Record("take-scheme", MENU, "Take a scheme", "", lambda: None, is_image, lines=self._schemes),
            line(MENU),
            Record("uncolour", MENU, "Take all its colours off", "", self.uncolour, coloured),
        ]

    def cut_region(self) -> None:
        """Let a line be drawn along which a region is parted."""
        self._map.draw_next(Drawing("cut"))
        self._session.said.emit("Draw a line across a region of the image, from line to line; Escape gives it up.")

    def _take_line(self, purpose: str, start: tuple[float, float], end: tuple[float, float]) -> None:
        image = self._which()
        if image is not None and purpose == "cut":
            self._session.edit("part a region", lambda work: colours.cut_along(work, image.stamp, (start, end)))

    def uncolour(self) -> None:
        """Take all colours off the image."""
        image = self._which()
        if image is not None:
            key = image.key
            self._session.edit("take all colours off", lambda work: colours.uncolour(work, {key}))

    def join_parts(self) -> None:
        """Make one part of those chosen."""
        image, chosen = self._which(), list(self._map.chosen)
        if image is not None:
            self._session.edit("join parts", lambda work: colours.join_parts(work, image.stamp, chosen))

    def split_part(self) -> None:
        """Make every region of the part chosen one for itself."""
        image, chosen = self._which(), list(self._map.chosen)
        if image is not None and chosen:
            self._session.edit("split a part", lambda work: colours.split_part(work, image.stamp, chosen[0]))

    def read_anew(self) -> None:
        """Read the regions of the image again; ids of those that are the same stay."""
        image = self._which()
        if image is None:
            return
        stamp = self._session.work.stash.find(image.stamp)
        data = self._session.pictures.get(stamp.picture)
        if data is not None:
            self._reader.ask(lambda: (stamp.id, *read_regions(stamp, data)))

    def move_runs_on(self) -> None:
        """Give the same runs to other parts."""
        image = self._which()
        if image is not None:
            key = image.key
            self._session.edit("give runs to other parts", lambda work: colours.move_runs_on(work, key))

    def ask_scheme(self) -> None:
        """Ask for a name, and keep the image's colours under it."""
        image = self._which()
        name, is_given = QInputDialog.getText(self._window, "Keep its colours", "Name of the scheme")
        if is_given and image is not None:
            key = image.key
            self._session.edit("keep a scheme", lambda work: colours.keep_scheme(work, key, name))

    def _schemes(self) -> list[tuple[str, partial[None]]]:
        image = self._which()
        if image is None:
            return []
        schemes = self._session.work.stash.find(image.stamp).schemes
        return [(scheme.name, partial(self._take_colouring, scheme.colouring)) for scheme in schemes]

    def _others(self) -> list[tuple[str, partial[None]]]:
        """List the other copies of the image that are coloured."""
        image = self._which()
        if image is None:
            return []
        others = [
            one for one in coloured_images(self._session.work) if one.stamp == image.stamp and one.key != image.key
        ]
        return [(self._session.names[one.key], partial(self._take_colouring, one.colouring)) for one in others]

    def _take_colouring(self, colouring: tuple[ColouredPart, ...]) -> None:
        image = self._which()
        if image is not None:
            key = image.key
            self._session.edit("colour it like another", lambda work: colours.set_colouring(work, {key}, colouring))
