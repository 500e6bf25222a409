"""Colours, typeface and small painted marks of the desk. Every text colour keeps 4.5:1 on its ground."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPainterPath, QPalette, QPen, QPixmap

from fair_thicket.fonts import STYLES, font_file

PINE = QColor("#1f3a30")
FERN = QColor("#376641")
MOSS = QColor("#7c9a62")
PAPER = QColor("#fffdf6")
SAND = QColor("#efe8d8")
BARK = QColor("#e3dac5")
MIST = QColor("#dbe4de")
INK = QColor("#26302b")
SOFT_INK = QColor("#55645b")
HONEY = QColor("#d6921e")
HONEY_TEXT = QColor("#8a5300")
HONEY_WASH = QColor("#f6e3b8")
BERRY = QColor("#a92c48")
LINE = QColor("#cfc6b0")

FAMILY = "Fernbank Sans"
BAR_TINTS = ("#3f6f4a", "#8a6a3b", "#5d6f8c", "#7d5a78", "#5f7d3c", "#9a5a44", "#4b7a78", "#6d6552")
PLAIN_TINT = "#5b5a6e"
"""Grounds of the thicket's bars, all dark enough for white words; a stamp keeps its tint."""


def palette() -> QPalette:
    """Colours for whatever the style sheet does not name, so that a dark scheme of the desktop mixes into nothing."""
    made = QPalette()
    role = QPalette.ColorRole
    for one, colour in (
        (role.Window, PAPER), (role.WindowText, INK), (role.Base, QColor("white")), (role.AlternateBase, SAND),
        (role.Text, INK), (role.Button, PAPER), (role.ButtonText, INK), (role.BrightText, BERRY),
        (role.ToolTipBase, PAPER), (role.ToolTipText, INK), (role.PlaceholderText, SOFT_INK), (role.Link, FERN),
        (role.LinkVisited, PINE), (role.Highlight, FERN), (role.HighlightedText, QColor("white")), (role.Light, PAPER),
        (role.Midlight, SAND), (role.Mid, LINE), (role.Dark, BARK), (role.Shadow, SOFT_INK),
    ):  # fmt: skip
        made.setColor(one, colour)
    for one in (role.WindowText, role.Text, role.ButtonText):
        made.setColor(QPalette.ColorGroup.Disabled, one, QColor("#75806f"))
    return made


def load_fonts() -> None:
    """Make the shipped typeface known to Qt."""
    for style in STYLES:
        QFontDatabase.addApplicationFont(str(font_file(style)))


def font(size_px: int = 13, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """Return the desk's typeface at a size in pixels."""
    made = QFont(FAMILY)
    made.setPixelSize(size_px)
    made.setWeight(weight)
    return made


def leaf_path(tip: QPointF, base: QPointF, fullness: float = 0.32) -> QPainterPath:
    """Draw a leaf from its base to its tip: the program's own mark."""
    along = tip - base
    across = QPointF(-along.y(), along.x()) * fullness
    path = QPainterPath(base)
    path.cubicTo(base + along * 0.2 + across, base + along * 0.7 + across, tip)
    path.cubicTo(base + along * 0.75 - across * 0.7, base + along * 0.25 - across, base)
    return path


def program_icon(size: int = 64) -> QIcon:
    """Draw the window's icon: two fern leaves, one before the other."""
    picture = QPixmap(size, size)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(PINE, size / 24))
    painter.setBrush(QColor("#9fbf86"))
    painter.drawPath(leaf_path(QPointF(size * 0.88, size * 0.22), QPointF(size * 0.28, size * 0.9)))
    painter.setBrush(FERN)
    painter.drawPath(leaf_path(QPointF(size * 0.3, size * 0.08), QPointF(size * 0.5, size * 0.92)))
    painter.end()
    return QIcon(picture)


def pill_size(painter: QPainter, words: str) -> tuple[float, float]:
    """Width and height of words on a rounded ground, px; sets the painter's font to theirs."""
    painter.setFont(font(12, QFont.Weight.DemiBold))
    return painter.fontMetrics().horizontalAdvance(words) + 16, 20


def draw_pill(
    painter: QPainter, centre: QPointF, words: str, *, ground: QColor, ink: QColor, clear_of: Sequence[QRectF] = ()
) -> QRectF:
    """Draw words on a rounded ground, centred, or as far below as keeps it clear of other boxes; return its box."""
    width, height = pill_size(painter, words)
    box = QRectF(centre.x() - width / 2, centre.y() - height / 2, width, height)
    for _ in clear_of:
        met = [other for other in clear_of if other.adjusted(-2, -2, 2, 2).intersects(box)]
        if met:
            box.moveTop(max(other.bottom() for other in met) + 3)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ground)
    painter.drawRoundedRect(box, 10, 10)
    painter.setPen(ink)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
    return box


_CHEVRON = (Path(__file__).parent / "icons" / "chevron.svg").as_posix()

STYLE = f"""
* {{ font-family: "{FAMILY}"; font-size: 13px; color: {INK.name()}; }}
QMainWindow, QDialog, QMessageBox {{ background: {PAPER.name()}; }}
QFileDialog, QInputDialog {{ background: {PAPER.name()}; }}
QAbstractItemView, QTextEdit, QPlainTextEdit, QSpinBox {{ background: white; }}
QHeaderView::section {{ background: {SAND.name()}; border: none; padding: 4px 8px; }}
QToolTip {{ background: {PAPER.name()}; color: {INK.name()}; border: 1px solid {LINE.name()}; padding: 4px; }}
#topBar {{ background: {PINE.name()}; }}
#topBar QLabel {{ color: #e6eee4; }}
#topBar #cardTitle {{ color: white; font-size: 17px; font-weight: 700; }}
#topBar QToolButton {{ color: #f2f6ef; background: transparent; border: none; border-radius: 6px; padding: 6px 10px; }}
#topBar QToolButton:hover, #topBar QToolButton:focus {{ background: #31523f; }}
#topBar QToolButton:disabled {{ color: #93a79a; }}
#topBar QToolButton::menu-indicator {{ image: none; width: 0; }}
#topBar #unitSwitch {{ background: #31523f; border-radius: 13px; padding: 5px 14px; }}
#topBar #rehearseButton {{ background: {HONEY.name()}; color: #1d1608; font-weight: 700; border-radius: 14px;
    padding: 6px 18px; }}
#topBar #rehearseButton:hover, #topBar #rehearseButton:focus {{ background: #e8a93c; }}
QToolButton#benchTool {{ background: transparent; border: none; border-radius: 6px; padding: 4px 16px 4px 6px;
    color: {PINE.name()}; font-weight: 600; }}
QToolButton#benchTool:hover, QToolButton#benchTool:focus {{ background: #c6d4cb; }}
QToolButton#benchTool::menu-indicator {{ image: url("{_CHEVRON}"); width: 10px; height: 10px;
    subcontrol-position: right center; subcontrol-origin: padding; left: -2px; }}
#pathBar {{ background: {BARK.name()}; }}
#bench, #mistPane {{ background: {MIST.name()}; }}
#sandPane {{ background: {SAND.name()}; }}
#paperPane {{ background: {PAPER.name()}; }}
#heading {{ font-size: 18px; font-weight: 700; color: {PINE.name()}; }}
#subheading {{ font-size: 14px; font-weight: 700; color: {PINE.name()}; }}
#soft {{ color: {SOFT_INK.name()}; font-size: 12px; }}
#wrong {{ color: {BERRY.name()}; font-size: 12px; }}
#card {{ background: white; border: 1px solid {LINE.name()}; border-radius: 8px; }}
QPushButton {{ background: white; border: 1px solid #a9b6a6; border-radius: 14px; padding: 6px 14px; }}
QPushButton:hover {{ background: #f1f5ec; }}
QPushButton:focus {{ border: 2px solid {FERN.name()}; padding: 5px 13px; }}
QPushButton:disabled {{ color: #75806f; background: #efece2; border-color: {LINE.name()}; }}
QPushButton#primary {{ background: {PINE.name()}; color: white; border-color: {PINE.name()}; font-weight: 600; }}
QPushButton#primary:hover {{ background: {FERN.name()}; }}
QPushButton#primary:focus {{ border: 2px solid {HONEY.name()}; }}
QPushButton#primary:disabled {{ background: #71877b; color: white; border-color: #71877b; }}
QPushButton#link {{ background: transparent; border: none; color: {FERN.name()}; padding: 4px 6px; font-weight: 600; }}
QPushButton#link:hover, QPushButton#link:focus {{ text-decoration: underline; color: {PINE.name()}; }}
QPushButton#choice {{ background: #f3f6ef; border-radius: 13px; padding: 5px 12px; }}
QPushButton#choice:checked {{ background: {PINE.name()}; color: white; border-color: {PINE.name()}; }}
QPushButton#smallChoice {{ background: #f3f6ef; border-radius: 11px; padding: 3px 8px; font-size: 12px; }}
QPushButton#smallChoice:checked {{ background: {PINE.name()}; color: white; border-color: {PINE.name()}; }}
QPushButton#smallChoice:disabled {{ background: #efece2; color: #75806f; }}
QLineEdit, QComboBox {{ background: white; border: 1px solid #b9b39f; border-radius: 6px;
    padding: 4px 8px; min-height: 18px; selection-background-color: {FERN.name()}; }}
QLineEdit:focus, QComboBox:focus {{ border: 2px solid {FERN.name()}; padding: 3px 7px; }}
QComboBox::drop-down {{ border: none; width: 22px; }}
QComboBox::down-arrow {{ image: url("{_CHEVRON}"); width: 12px; height: 12px; }}
QPushButton#step {{ border-radius: 12px; padding: 0; min-width: 24px; max-width: 24px;
    min-height: 24px; max-height: 24px; font-weight: 700; font-size: 15px; }}
QPushButton#step:focus {{ border: 2px solid {FERN.name()}; padding: 0; }}
QComboBox QAbstractItemView {{ background: white; selection-background-color: {FERN.name()}; selection-color: white; }}
QScrollArea {{ border: none; background: transparent; }}
QScrollArea > QWidget > QWidget {{ background: transparent; }}
QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
QScrollBar::handle:vertical {{ background: #b9b09a; border-radius: 4px; min-height: 28px; margin: 1px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 10px; }}
QScrollBar::handle:horizontal {{ background: #b9b09a; border-radius: 4px; min-width: 28px; margin: 1px; }}
QMenu {{ background: {PAPER.name()}; border: 1px solid {LINE.name()}; padding: 4px; }}
#imageStrip {{ border: 1px solid {LINE.name()}; border-radius: 6px; }}
#imageStrip::item {{ border-radius: 6px; padding: 2px; }}
#imageStrip::item:selected {{ background: {HONEY_WASH.name()}; border: 2px solid {HONEY.name()}; }}
QMenu::item {{ padding: 6px 26px 6px 14px; border-radius: 4px; }}
QMenu::item:selected {{ background: {FERN.name()}; color: white; }}
QMenu::item:disabled {{ color: #7f867b; }}
QMenu::separator {{ height: 1px; background: {LINE.name()}; margin: 4px 8px; }}
QSlider {{ min-height: 28px; }}
QSlider::groove:horizontal {{ height: 8px; background: {BARK.name()}; border-radius: 4px; }}
QSlider::sub-page:horizontal {{ background: {FERN.name()}; border-radius: 4px; }}
QSlider::handle:horizontal {{ background: {PINE.name()}; width: 20px; margin: -6px 0; border-radius: 10px; }}
QSlider::handle:horizontal:focus {{ background: {HONEY.name()}; }}
QCheckBox {{ spacing: 8px; }}
QProgressBar {{ background: {BARK.name()}; border: none; border-radius: 4px; height: 8px; }}
QProgressBar::chunk {{ background: {FERN.name()}; border-radius: 4px; }}
#offer {{ background: {HONEY_WASH.name()}; border-bottom: 1px solid {HONEY.name()}; }}
#message {{ background: {PINE.name()}; color: white; border-radius: 10px; padding: 8px 16px; font-size: 13px; }}
"""
