"""The images that were found on a page, beside it: their names, sizes and kinds, and what becomes of the page."""

from collections.abc import Collection, Sequence

import shapely
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fair_thicket.desk.parts.controls import Column, Hint, button, ground, label
from fair_thicket.desk.parts.pictures import StampPictures
from fair_thicket.desk.parts.stamp_rows import StampRow, Thumb
from fair_thicket.desk.stash.ways import key_of, tell_facts
from fair_thicket.intake.sorting import Sorting
from fair_thicket.model.plan import SheetImage
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import Unit, say_area, say_size
from fair_thicket.shape.outline import to_area

HOW = "Click an image and type its name; merge, split or drop it. Shift and click: several."
HOW_TO_CUT = "Draw a line across the image on the page; it is parted there."
HOW_TO_OUTLINE = (
    "Click an area: it turns from ground to body or back. Drag across a gap to close it. Keys: arrows move the cross "
    "(Shift: a little), Space turns the area, Enter begins and ends a line, N sees the next image."
)
HOW_TO_BEGIN = "Open a page, or drop files anywhere on the window."


def doubtful_first(images: Sequence[SheetImage]) -> list[int]:
    """Return the places of images in the list, those first whose outlines are in doubt."""
    return sorted(range(len(images)), key=lambda index: (not images[index].is_doubtful, index))


class FoundList(QWidget):
    """Lists found images; names that were typed stay with their images however the page is sorted.

    Attributes
    ----------
    rows : list of StampRow
    keep_button, leave_button : QPushButton
    pressed : Signal(int, bool)
        An image's row was clicked, and whether it is added to what is chosen.
    keepWanted, leaveWanted : Signal()
    """

    pressed = Signal(int, bool)
    keepWanted = Signal()
    leaveWanted = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.rows: list[StampRow] = []
        self._names: dict[object, str] = {}
        pane = ground("paperPane", width=330)
        outer = QHBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(pane)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 12, 8, 12)
        self._facts = Hint()
        self._heading = label("", "subheading")
        box.addWidget(self._heading)
        box.addWidget(self._facts)
        self._hint = label("", "soft", wrap=True)
        box.addWidget(self._hint)
        self._list = Column(spacing=6, margin=0)
        self._list.box.setContentsMargins(0, 2, 6, 2)
        box.addWidget(self._list, 1)
        foot = QHBoxLayout()
        self.keep_button = button("Keep these", self.keepWanted.emit, "primary")
        self.leave_button = button("Leave this page", self.leaveWanted.emit)
        foot.addWidget(self.keep_button)
        foot.addWidget(self.leave_button)
        foot.addStretch(1)
        box.addLayout(foot)

    def forget_names(self) -> None:
        """Forget what was typed: another page comes."""
        self._names = {}

    def hold_names(self, images: Sequence[SheetImage]) -> None:
        """Hold on to the names that were typed for the images that are listed now."""
        for row, image in zip(self.rows, images, strict=False):
            if row.name.isModified():
                self._names[key_of(image)] = row.name.text()

    def names(self, images: Sequence[SheetImage]) -> list[str]:
        """Return the images' names, as typed or as found."""
        return [row.name.text().strip() or image.name for row, image in zip(self.rows, images, strict=True)]

    def show_sorting(self, sorting: Sorting | None, unit: Unit, *, waiting: int) -> None:
        """List the images of a page anew; `waiting` more pages wait."""
        for made in (self.keep_button, self.leave_button):
            made.setVisible(sorting is not None)
        self._list.clear()
        self.rows = []
        if sorting is None:
            self._heading.setText("No page open")
            self._facts.setText("")
            self._hint.setText(HOW_TO_BEGIN)
            return
        self._heading.setText(f"Found on {sorting.name}: {len(sorting.images)}")
        self._facts.setText(tell_facts(sorting, waiting))
        self._hint.setText(HOW)
        pictures = StampPictures({str(index): image.picture for index, image in enumerate(sorting.images)})
        for index, image in enumerate(sorting.images):
            self._add(index, image, pictures, unit)
        for index in doubtful_first(sorting.images):
            self._list.box.addWidget(self.rows[index])

    def _add(self, index: int, image: SheetImage, pictures: StampPictures, unit: Unit) -> None:
        stand_in = Stamp("found", image.name, image.width_mm, image.height_mm, image.outline, str(index))
        kind = "" if image.kind == "image" else f" · {image.kind}"
        kind += _tell_pockets(image)
        if image.is_doubtful:
            kind += " · outline in doubt"
        size = f"{index + 1} · {say_size(image.width_mm, image.height_mm, unit)}{kind}"
        typed = self._names.get(key_of(image))
        row = StampRow(Thumb(stand_in, pictures), typed or image.name, size)
        row.name.setModified(typed is not None)
        row.pressed.connect(lambda adding: self.pressed.emit(index, adding))
        self.rows.append(row)

    def begin_name(self, index: int) -> None:
        """Take what is typed next as the name of an image."""
        self.rows[index].name.setFocus()
        self.rows[index].name.selectAll()

    def tell_how_to_cut(self) -> None:
        """Say how an image is cut in two."""
        self._hint.setText(HOW_TO_CUT)

    def tell_how(self, words: str) -> None:
        """Say what can be done now."""
        self._hint.setText(words)

    def show_choice(self, chosen: Collection[int]) -> None:
        """Show which images are chosen; a single one comes into sight."""
        for index, row in enumerate(self.rows):
            row.show_chosen(index in chosen)
        if len(chosen) == 1 and self.rows:
            self._list.ensureWidgetVisible(self.rows[next(iter(chosen))])


def _tell_pockets(image: SheetImage) -> str:
    """Say how many pockets an image has and how large they are together."""
    if not image.pockets:
        return ""
    total = sum(float(shapely.area(to_area(ring))) for ring in image.pockets)
    count = len(image.pockets)
    return f" · {count} pocket{'' if count == 1 else 's'}, {say_area(total)}"
