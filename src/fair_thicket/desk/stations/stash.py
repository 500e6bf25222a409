"""Stash: a scanned sheet becomes stamps. Nothing enters the stash before *Keep these*."""

from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from fair_thicket.desk import theme
from fair_thicket.desk.errands import Errand
from fair_thicket.desk.session import Session
from fair_thicket.desk.widgets.parts import Column, Hint, Stepper, button, head_row, label
from fair_thicket.desk.widgets.pictures import StampPictures, box_of, ring_path
from fair_thicket.intake import read_picture, scan_sheet
from fair_thicket.intake.stamps import keep_images
from fair_thicket.model.card import Work
from fair_thicket.model.formats import SHEETS
from fair_thicket.model.plan import Sheet
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import say_size
from fair_thicket.scene import edits

SCALES: tuple[tuple[str, float | None, str | None], ...] = (
    ("as the file says", None, None),
    ("150 dpi", 150, None),
    ("300 dpi", 300, None),
    ("600 dpi", 600, None),
    ("a letter sheet", None, "letter"),
    ("an A4 sheet", None, "a4"),
)
PREVIEW_PX = 1400

Scanned = tuple[Sheet, NDArray[np.uint8]]


def read_sheet(path: Path, dpi: float | None, size: str | None) -> Scanned:
    """Read a scan and find its images: the sheet, and a small grey picture of the scan."""
    picture = read_picture(path)
    sheet = scan_sheet(
        picture.pixels, dpi=dpi, stated_dpi=picture.dpi, sheet_mm=SHEETS[size] if size else None, name=path.name
    )
    return sheet, _small(picture.pixels)


def scan_demo_sheet() -> Scanned:
    """Let the simulated scanner scan the demo sheet, laid a little askew."""
    from fair_thicket.demo import sheet as demo_sheet
    from fair_thicket.intake.scanner import Glass

    pixels, _ = demo_sheet(Glass(skew_deg=1.5, seed=3))
    return scan_sheet(pixels, dpi=300.0), _small(pixels)


def _small(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    grey = pixels if pixels.ndim == 2 else cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    scale = min(1.0, PREVIEW_PX / max(grey.shape))
    return np.ascontiguousarray(cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA), np.uint8)


class PageView(QWidget):
    """The scan with every found image outlined and numbered."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("The scanned page with the images that were found")
        self._image: QImage | None = None
        self._sheet: Sheet | None = None
        self._kept: set[int] = set()

    def show_sheet(self, scanned: Scanned | None) -> None:
        """Show a scan; None shows nothing."""
        if scanned is None:
            self._image = self._sheet = None
        else:
            self._sheet, grey = scanned
            self._image = QImage(
                grey.data, grey.shape[1], grey.shape[0], grey.shape[1], QImage.Format.Format_Grayscale8
            ).copy()
            self._kept = set(range(len(self._sheet.images)))
        self.update()

    def mark_kept(self, kept: set[int]) -> None:
        """Mark the images that will be kept."""
        self._kept = kept
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        image, sheet = self._image, self._sheet
        if image is None or sheet is None:
            return
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        scale = min((self.width() - 16) / image.width(), (self.height() - 16) / image.height())
        left = (self.width() - image.width() * scale) / 2
        top = (self.height() - image.height() * scale) / 2
        painter.translate(left, top)
        painter.scale(scale, scale)
        painter.drawImage(QPointF(0, 0), image)
        to_scan = _page_to_picture(sheet, image.width())
        for index, found in enumerate(sheet.images):
            kept = index in self._kept
            path = to_scan.map(ring_path(tuple((x + found.cx, y + found.cy) for x, y in found.outline)))
            pen = QPen(
                theme.FERN if kept else theme.SOFT_INK, 2.0, Qt.PenStyle.SolidLine if kept else Qt.PenStyle.DotLine
            )
            pen.setCosmetic(True)
            painter.setPen(pen)
            wash = QColor("#7cc27f")
            wash.setAlpha(70 if kept else 0)
            painter.setBrush(wash)
            painter.drawPath(path)
        painter.resetTransform()
        painter.setFont(theme.font(12, QFont.Weight.Bold))
        for index, found in enumerate(sheet.images):
            corner = to_scan.map(QPointF(found.cx - found.width_mm / 2, found.cy - found.height_mm / 2))
            at = QPointF(left + corner.x() * scale, top + corner.y() * scale)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.PINE if index in self._kept else theme.SOFT_INK)
            painter.drawEllipse(at, 10, 10)
            painter.setPen(QColor("white"))
            painter.drawText(QRectF(at.x() - 10, at.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, str(index + 1))


def _page_to_picture(sheet: Sheet, width_px: int) -> QTransform:
    """Lead from page mm to pixels of a small picture of the scan, by the skew and the origin that the sheet tells."""
    small = width_px / sheet.scan_width_mm
    turned = QTransform().rotate(sheet.skew_deg)
    shift = QTransform().translate(sheet.origin_mm[0] * small, sheet.origin_mm[1] * small)
    return QTransform().scale(small, small) * turned * shift


class StampRow(QWidget):
    """One line of a list: a picture, a name to type, and something more at the end."""

    def __init__(self, picture: QWidget, name: str, size: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(8, 4, 8, 4)
        self.row.addWidget(picture)
        box = QVBoxLayout()
        box.setSpacing(2)
        self.name = QLineEdit(name)
        self.name.setMaxLength(80)
        self.name.setCursorPosition(0)
        self.name.setAccessibleName(f"Name of {name}")
        box.addWidget(self.name)
        box.addWidget(label(size, "soft"))
        self.row.addLayout(box, 1)


class Thumb(QWidget):
    """A small picture of a stamp or of a found image."""

    def __init__(self, stamp: Stamp, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._stamp, self._pictures = stamp, pictures
        self.setFixedSize(60, 54)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = box_of(self._stamp)
        scale = min(self.width() / box.width(), self.height() / box.height(), 2.2)
        picture = self._pictures.get(self._stamp, scale * self.devicePixelRatioF())
        where = QRectF(0, 0, box.width() * scale, box.height() * scale)
        where.moveCenter(QPointF(self.width() / 2, self.height() / 2))
        painter.drawPixmap(where, picture, QRectF(picture.rect()))


class StashStation(QWidget):
    """Opens scans, shows what was found, keeps it, and lists the stash.

    Attributes
    ----------
    errand : Errand
    found : list of StampRow
        Rows of the images of the scan that is looked at.
    """

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._pictures = session, pictures
        self._scanned: Scanned | None = None
        self._seen: object = None
        self._path: Path | None = None
        self.found: list[StampRow] = []
        self._checks: list[QCheckBox] = []
        self.errand = Errand(self)
        self.errand.done.connect(self._take)
        self.errand.failed.connect(session.said)
        self.errand.busyChanged.connect(self._show_busy)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())
        session.cardChanged.connect(self.refresh)
        self.refresh()

    def _left(self) -> QWidget:
        pane = QWidget()
        pane.setObjectName("mistPane")
        pane.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box = QVBoxLayout(pane)
        box.setContentsMargins(16, 10, 16, 12)
        self._facts = Hint()
        box.addLayout(head_row("Stash", self._facts))
        row = QHBoxLayout()
        row.addWidget(
            button(
                "Open a scan …",
                self.choose_scan,
                "primary",
                tip="A white sheet with stamped images: PNG, JPEG, TIFF or WebP",
            )
        )
        row.addWidget(label("its scale:", "soft"))
        self.scale = QComboBox()
        self.scale.addItems([words for words, _, _ in SCALES])
        self.scale.setAccessibleName("Scale of the scan")
        self.scale.currentIndexChanged.connect(self._read_again)
        row.addWidget(self.scale)
        row.addWidget(
            button(
                "Scan the demo sheet",
                self.scan_demo,
                tip="The simulated scanner prints our drawings on a sheet and scans it",
            )
        )
        row.addStretch(1)
        self._busy = QProgressBar()
        self._busy.setRange(0, 0)
        self._busy.setTextVisible(False)
        self._busy.setFixedWidth(120)
        self._busy.setAccessibleName("Finding the images")
        self._stop = button("Stop", self.errand.cancel, "link")
        row.addWidget(self._busy)
        row.addWidget(self._stop)
        box.addLayout(row)
        self._stack = QStackedWidget()
        self._page = PageView()
        welcome = label(
            "Stamp your images on a white sheet, leave a finger's width between them,\nscan the sheet at 300 "
            "dpi and open the scan here.\n\nEvery image becomes a stamp at its true size; "
            "no outline needs drawing.",
            "soft",
        )
        welcome.setAlignment(Qt.AlignmentFlag.AlignCenter)
        welcome.setStyleSheet("font-size: 15px;")
        self._stack.addWidget(welcome)
        self._stack.addWidget(self._page)
        box.addWidget(self._stack, 1)
        self._show_busy(False)
        return pane

    def _right(self) -> QWidget:
        pane = QWidget()
        pane.setObjectName("paperPane")
        pane.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        pane.setFixedWidth(352)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 12, 8, 12)
        self._heading = label("", "subheading")
        self._hint = label("", "soft", wrap=True)
        box.addWidget(self._heading)
        box.addWidget(self._hint)
        self._list = Column(spacing=6, margin=0)
        self._list.box.setContentsMargins(0, 2, 6, 2)
        box.addWidget(self._list, 1)
        foot = QHBoxLayout()
        self.keep_button = button("Keep these", self.keep, "primary")
        self._drop_button = button("Drop the scan", self._drop_scan)
        foot.addWidget(self.keep_button)
        foot.addWidget(self._drop_button)
        foot.addStretch(1)
        box.addLayout(foot)
        return pane

    # -- scans ---------------------------------------------------------------------------------------------------

    def choose_scan(self) -> None:
        """Ask for a scan and read it."""
        chosen, _ = QFileDialog.getOpenFileName(
            self, "Open a scan", str(Path.home()), "Scans (*.png *.jpg *.jpeg *.tif *.tiff *.webp);;All files (*)"
        )
        if chosen:
            self.open_scan(Path(chosen))

    def open_scan(self, path: Path) -> None:
        """Read a scan away from the interface thread."""
        self._path = path
        _, dpi, size = SCALES[self.scale.currentIndex()]
        self._ask(lambda: read_sheet(path, dpi, size))

    def scan_demo(self) -> None:
        """Let the simulated scanner scan the demo sheet."""
        self._path = None
        self._ask(scan_demo_sheet)

    def _ask(self, function: Callable[[], Scanned]) -> None:
        self.errand.ask(function)

    def _read_again(self) -> None:
        if self._path is not None:
            self.open_scan(self._path)

    def _show_busy(self, busy: bool) -> None:
        self._busy.setVisible(busy)
        self._stop.setVisible(busy)

    def _take(self, scanned: Scanned) -> None:
        self._scanned = scanned
        self._page.show_sheet(scanned)
        self._show_list()

    def keep(self) -> None:
        """Put the ticked images into the stash under the names that were typed."""
        if self._scanned is None:
            return
        chosen = [index for index, check in enumerate(self._checks) if check.isChecked()]
        images = [self._scanned[0].images[index] for index in chosen]
        names = [self.found[index].name.text().strip() or self._scanned[0].images[index].name for index in chosen]
        if not images:
            self._session.said.emit("Nothing is ticked; tick the images to keep, or drop the scan.")
            return

        def change(work: Work) -> Work:
            after, new = keep_images(work, images, names=names)
            self._session.pictures.update(new)
            return after

        if self._session.edit(f"keep {len(images)} images", change):
            self._session.said.emit(f"{len(images)} images are in the drawer now.")
            self._drop_scan()

    def _drop_scan(self) -> None:
        self._scanned = None
        self._path = None
        self._page.show_sheet(None)
        self._seen = None
        self.refresh()

    # -- lists ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the stash as it is, unless a scan is looked at."""
        key = (self._session.work.stash, self._session.work.card.unit)
        if self._scanned is None and key != self._seen:
            self._seen = key
            self._show_list()

    def _show_list(self) -> None:
        self._list.clear()
        self.found, self._checks = [], []
        scanned = self._scanned is not None
        self._stack.setCurrentIndex(1 if scanned else 0)
        self.keep_button.setVisible(scanned)
        self._drop_button.setVisible(scanned)
        if self._scanned is not None:
            self._list_found(self._scanned[0])
        else:
            self._list_stash()

    def _list_found(self, sheet: Sheet) -> None:
        unit = self._session.work.card.unit
        turned = f" · lay {abs(sheet.skew_deg):.1f}° askew, straightened" if sheet.skew_from != "none" else ""
        self._facts.setText(f"{len(sheet.images)} images at {sheet.dpi:g} dpi{turned}")
        self._heading.setText(f"Found on this sheet: {len(sheet.images)}")
        self._hint.setText("Type names, untick what is no image, then keep them.")
        preview = StampPictures({image.name: image.picture for image in sheet.images})
        for image in sheet.images:
            stand_in = Stamp("found", image.name, image.width_mm, image.height_mm, image.outline, image.name)
            row = StampRow(Thumb(stand_in, preview), image.name, say_size(image.width_mm, image.height_mm, unit))
            check = QCheckBox()
            check.setChecked(True)
            check.setAccessibleName(f"Keep {image.name}")
            check.toggled.connect(self._show_ticks)
            row.row.insertWidget(0, check)
            self._checks.append(check)
            self.found.append(row)
            self._list.box.addWidget(row)

    def _show_ticks(self) -> None:
        self._page.mark_kept({index for index, check in enumerate(self._checks) if check.isChecked()})

    def _list_stash(self) -> None:
        stash, unit = self._session.work.stash, self._session.work.card.unit
        self._facts.setText(f"{len(stash.stamps)} stamps at hand" if stash.stamps else "nothing at hand yet")
        self._heading.setText("Stamps at hand")
        self._hint.setText(
            "How many there are of each decides how many presses it takes."
            if stash.stamps
            else "Open a scan, or let the simulated scanner scan the demo sheet."
        )
        for stamp in stash.stamps:
            self._list.box.addWidget(self._stash_row(stamp, say_size(stamp.width_mm, stamp.height_mm, unit)))

    def _stash_row(self, stamp: Stamp, size: str) -> StampRow:
        row = StampRow(Thumb(stamp, self._pictures), stamp.name, size)
        row.name.editingFinished.connect(lambda: self._rename(stamp, row.name))
        copies = Stepper(
            f"How many of {stamp.name} there are",
            (1, 20),
            1,
            lambda value: f"× {value:.0f}",
            lambda value: self._session.edit(
                f"count {stamp.name}",
                lambda work: edits.set_copies(work, stamp.id, round(value)),
                merge_key=f"copies {stamp.id}",
            ),
        )
        copies.show_value(stamp.copies)
        row.row.addWidget(copies)
        row.row.addWidget(
            button(
                "drop",
                lambda: self._session.edit(f"drop {stamp.name}", lambda work: edits.drop_stamp(work, stamp.id)),
                "link",
                tip=f"Take {stamp.name} out of the stash",
            )
        )
        return row

    def _rename(self, stamp: Stamp, field: QLineEdit) -> None:
        name = field.text().strip()
        if not name:
            field.setText(stamp.name)
        elif name != stamp.name:
            self._session.edit(f"rename {stamp.name}", lambda work: edits.rename_stamp(work, stamp.id, name))
