"""The drawer: the stash at relative true size. Drag an image onto the bench, or press Enter on it."""

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QLabel, QLineEdit, QVBoxLayout, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.coloured_stamp import picture_laid
from fair_thicket.desk.parts.controls import Column, label
from fair_thicket.desk.parts.pictures import StampPictures, box_of
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.ink.drawn import new_drawn
from fair_thicket.ink.layings import SHADOW_DEG, Laying
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.pieces import stamps_of
from fair_thicket.model.stash import Kind, Stamp
from fair_thicket.model.units import say_size

LARGEST_MM = 62.0
PICTURE_PX = 76
MOST_FOUND = 20
MOST_COLOURED = 400
Looks = tuple[str, int]
HEADINGS = {
    Kind.STAMP: "stamps",
    Kind.GREETING: "greetings",
    Kind.DIE: "die shapes",
    Kind.BORDER: "border dies",
    Kind.BACKDROP: "backdrop dies",
    Kind.STENCIL: "stencils",
    Kind.PAPER: "patterned papers",
}


def looks_of(stamp: Stamp) -> Looks:
    """Tell apart how images look in their colours."""
    return (stamp.picture, hash((stamp.regions, stamp.schemes[:1])))


def _in_colours(stamp: Stamp, picture: bytes) -> QImage:
    laying = Laying(stamp, stamp.schemes[0].colouring, SHADOW_DEG["left"], "dark first")
    image = picture_laid(laying, picture, new_drawn())
    height = max(1, round(2 * PICTURE_PX * image.height() / max(image.width(), image.height())))
    return image.scaledToHeight(height, Qt.TransformationMode.SmoothTransformation)


class DrawerCard(QWidget):
    """One stamp in the drawer.

    Attributes
    ----------
    dragged, dropped : Signal(object, QPoint)
        The stamp and where the pointer is on the screen.
    wanted : Signal(object)
        Enter was pressed on the stamp.
    coloured : QPixmap or None
        Its picture in the colours of its first scheme.
    """

    dragged = Signal(object, QPoint)
    dropped = Signal(object, QPoint)
    wanted = Signal(object)

    def __init__(
        self, stamp: Stamp, words: str, pictures: StampPictures, px_per_mm: float, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.stamp = stamp
        self._words, self._pictures, self._px_per_mm = words, pictures, px_per_mm
        self._pressed: QPoint | None = None
        self._moved = False
        self.used = 0
        self.coloured: QPixmap | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setAccessibleName(f"{stamp.name}, {words}")
        self.setToolTip("Drag onto the card; Enter stamps it in the middle.")
        self.setFixedHeight(max(46, round(stamp.height_mm * px_per_mm) + 16))

    def sizeHint(self) -> QSize:
        return QSize(180, self.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.setPen(QPen(theme.FERN, 2) if self.hasFocus() else QPen(theme.LINE, 1))
        painter.setBrush(QColor("white"))
        painter.drawRoundedRect(box, 7, 7)
        picture = self._pictures.sample(self.stamp, self._px_per_mm * self.devicePixelRatioF())
        shape = box_of(self.stamp)
        width, height = shape.width() * self._px_per_mm, shape.height() * self._px_per_mm
        where = QRectF(8 + (PICTURE_PX - width) / 2, (self.height() - height) / 2, width, height)
        if self.coloured is None:
            painter.drawPixmap(where, picture, QRectF(picture.rect()))
        else:
            own = QSizeF(self.stamp.width_mm, self.stamp.height_mm) * self._px_per_mm
            corner = where.center() - QPointF(own.width() / 2, own.height() / 2)
            painter.drawPixmap(QRectF(corner, own), self.coloured, QRectF(self.coloured.rect()))
        left = PICTURE_PX + 16
        words = QRectF(left, 4, self.width() - left - 6, self.height() - 8)
        painter.setFont(theme.font(13, QFont.Weight.DemiBold))
        painter.setPen(theme.INK)
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
        used = painter.boundingRect(words, flags, self.stamp.name)
        total = used.height() + 16
        top = (self.height() - total) / 2
        painter.drawText(QRectF(left, top, words.width(), used.height()), flags, self.stamp.name)
        painter.setFont(theme.font(12))
        painter.setPen(theme.SOFT_INK)
        painter.drawText(QPointF(left, top + used.height() + 12), self._words)
        if self.used:
            self._draw_used(painter)

    def _draw_used(self, painter: QPainter) -> None:
        """Tell in the corner how often the stamp is on the card."""
        painter.setFont(theme.font(12, QFont.Weight.Bold))
        painter.setPen(theme.FERN)
        painter.drawText(QRectF(5, 3, 30, 15), Qt.AlignmentFlag.AlignLeft, f"×{self.used}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._pressed, self._moved = event.position().toPoint(), False
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        if self._moved or (event.position().toPoint() - self._pressed).manhattanLength() > 5:
            self._moved = True
            self.dragged.emit(self.stamp, event.globalPosition().toPoint())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None and self._moved:
            self.dropped.emit(self.stamp, event.globalPosition().toPoint())
        self._pressed = None
        self.setCursor(Qt.CursorShape.OpenHandCursor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.wanted.emit(self.stamp)
        else:
            super().keyPressEvent(event)


class Drawer(QWidget):
    """The stash beside the bench, with a field to find an image by name.

    Attributes
    ----------
    dragged, dropped, wanted
        As of `DrawerCard`.
    cards : list of DrawerCard
    """

    dragged = Signal(object, QPoint)
    dropped = Signal(object, QPoint)
    wanted = Signal(object)

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("sandPane")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(214)
        self._session, self._pictures = session, pictures
        self.cards: list[DrawerCard] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(10, 12, 4, 8)
        box.setSpacing(6)
        box.addWidget(label("Drawer", "subheading"))
        self._scale = label("", "soft")
        box.addWidget(self._scale)
        self.search = QLineEdit()
        self.search.setPlaceholderText("find an image …")
        self.search.setAccessibleName("Find an image in the drawer")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._filter)
        row = QVBoxLayout()
        row.setContentsMargins(0, 0, 6, 0)
        row.addWidget(self.search)
        box.addLayout(row)
        self._column = Column(spacing=6, margin=0)
        self._column.box.setContentsMargins(0, 2, 6, 2)
        box.addWidget(self._column, 1)
        self._seen: tuple[object, object] = (None, None)
        self._headings: dict[Kind, QLabel] = {}
        self._from_library: list[QWidget] = []
        self._px_per_mm = 1.0
        self._coloured: dict[Looks, QPixmap] = {}
        self.colourer = Worker(self)
        self.colourer.done.connect(self._take_colours)
        self.colourer.failed.connect(session.said)
        session.cardChanged.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the stash as it is; the cards are made anew only when it changed."""
        work = self._session.work
        if self._seen != (work.stash, work.card.unit):
            self._seen = (work.stash, work.card.unit)
            self._make_cards()
        for card in self.cards:
            used = sum(card.stamp.id in stamps_of(piece) for piece in work.card.pieces)
            if used != card.used:
                card.used = used
                card.update()

    def _make_cards(self) -> None:
        self._column.clear()
        self.cards, self._headings, self._from_library = [], {}, []
        stash = self._session.work.stash
        largest = max((max(stamp.width_mm, stamp.height_mm) for stamp in stash.stamps), default=LARGEST_MM)
        self._px_per_mm = min(2.2, PICTURE_PX / min(largest, LARGEST_MM))
        kinds = [kind for kind in Kind if any(stamp.kind is kind for stamp in stash.stamps)]
        for kind in kinds:
            if len(kinds) > 1:
                self._headings[kind] = label(HEADINGS[kind], "soft")
                self._column.box.addWidget(self._headings[kind])
            for stamp in stash.stamps:
                if stamp.kind is kind:
                    self.cards.append(self._card(stamp))
                    self._column.box.addWidget(self.cards[-1])
        if stash.stamps:
            self._scale.setText("all at one scale; drag to the card")
        else:
            self._scale.setText("empty: open a page at Stash")
        self._filter(self.search.text())
        self._ask_colours()

    def _ask_colours(self) -> None:
        """Have images pictured in the colours of their first scheme, away from the interface."""
        for card in self.cards:
            card.coloured = self._coloured.get(looks_of(card.stamp))
        stash, pictures = self._session.work.stash, self._session.pictures
        missing = [stamp for stamp in stash.stamps if stamp.schemes and looks_of(stamp) not in self._coloured]
        if missing:
            data = [pictures.get(stamp.picture, b"") for stamp in missing]
            self.colourer.ask(
                lambda: [(looks_of(stamp), _in_colours(stamp, png)) for stamp, png in zip(missing, data, strict=True)]
            )

    def _take_colours(self, found: list[tuple[Looks, QImage]]) -> None:
        if len(self._coloured) > MOST_COLOURED:
            self._coloured.clear()
        self._coloured |= {looks: QPixmap.fromImage(image) for looks, image in found}
        for card in self.cards:
            card.coloured = self._coloured.get(looks_of(card.stamp))
            card.update()

    def _card(self, stamp: Stamp) -> DrawerCard:
        own = min(self._px_per_mm, (PICTURE_PX - 2) / (stamp.width_mm + 1))
        words = say_size(stamp.width_mm, stamp.height_mm, self._session.work.card.unit)
        card = DrawerCard(stamp, words, self._pictures, own)
        card.dragged.connect(self.dragged)
        card.dropped.connect(self._drop)
        card.wanted.connect(self._want)
        return card

    def _filter(self, words: str) -> None:
        wanted = words.casefold().split()
        shown: set[Kind] = set()
        for card in self.cards:
            stamp = card.stamp
            told = " ".join((stamp.name, stamp.set_name, *stamp.tags)).casefold()
            fits = all(word in told for word in wanted)
            card.setVisible(fits)
            if fits:
                shown.add(stamp.kind)
        for kind, heading in self._headings.items():
            heading.setVisible(kind in shown)
        self._list_library(words)

    def _list_library(self, words: str) -> None:
        """Show below the stash what else the library holds under the typed words."""
        for widget in self._from_library:
            widget.hide()
            widget.deleteLater()
        self._from_library = []
        library = self._session.library
        if library is None or not words.strip():
            return
        at_hand = {stamp.picture for stamp in self._session.work.stash.stamps}
        try:
            loaded = [library.load(entry.id) for entry in library.search(words, most=MOST_FOUND)]
        except (ThicketError, KeyError):
            return
        others = [(stamp, pictures) for stamp, pictures in loaded if stamp.picture not in at_hand]
        if others:
            self._from_library.append(label("in the library", "soft"))
        for stamp, pictures in others:
            self._pictures.pictures.update(pictures)
            self._from_library.append(self._card(stamp))
        for widget in self._from_library:
            self._column.box.addWidget(widget)

    def _own(self, stamp: Stamp) -> Stamp:
        """Return the stash's own stamp; one of the library is taken into the stash first."""
        if stamp in self._session.work.stash.stamps:
            return stamp
        return self._session.adopt(stamp, {name: self._pictures.pictures[name] for name in stamp.pictures})

    def _drop(self, stamp: Stamp, at: QPoint) -> None:
        self.dropped.emit(self._own(stamp), at)

    def _want(self, stamp: Stamp) -> None:
        self.wanted.emit(self._own(stamp))
