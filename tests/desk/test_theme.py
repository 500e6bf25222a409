"""The desk's own colours whatever the desktop's are, and its letters."""

import io
import itertools

import msgspec
import pytest
from pypdf import PdfReader
from PySide6.QtGui import QColor, QFont, QFontMetrics, QPalette
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLabel,
    QLineEdit,
    QMessageBox,
    QWidget,
)
from pytestqt.qtbot import QtBot

from fair_thicket.desk import theme
from fair_thicket.desk.frame.application import dress, make_application
from fair_thicket.ink.contrast import contrast
from fair_thicket.making import print_card
from fair_thicket.masks import plan
from fair_thicket.printing.plan_pdf import Side
from making import stamp, work_of

LEAST_RATIO = 4.5
"""Of words on their ground: W3C, Web Content Accessibility Guidelines 2.1, success criterion 1.4.3."""
WORDED = (QLabel, QLineEdit, QAbstractButton, QAbstractItemView, QComboBox)
WEIGHTS = (QFont.Weight.Normal, QFont.Weight.DemiBold, QFont.Weight.Bold)
LETTERS = "Zażółć gęślą jaźń · Příliš žluťoučký kůň · ğüşıöçİĞÜŞ · ăâîșț · Съешь ещё этих · Γειά σου ψυχή"


@pytest.mark.parametrize("kind", [QDialog, QMessageBox, QInputDialog, QFileDialog])
def test_a_dark_scheme_of_the_desktop_leaves_words_readable(qtbot: QtBot, kind: type[QDialog]) -> None:
    make_application()
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    before = application.palette()
    dark = QPalette(QColor("#31363b"), QColor("#232629"))  # as desktops with a dark scheme hand to programs
    for role in (QPalette.ColorRole.WindowText, QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText):
        dark.setColor(role, QColor("#eff0f1"))
    try:
        application.setPalette(dark)
        dress(application)  # as at the start
        dialog = kind()
        qtbot.addWidget(dialog)
        QLabel("hello", dialog)
        dialog.ensurePolished()
        picture = dialog.grab().toImage()
        ground = picture.pixelColor(2, 2).name()
        checked = 0
        for child in [dialog, *(one for one in dialog.findChildren(QWidget) if isinstance(one, WORDED))]:
            child.ensurePolished()
            now = child.palette()
            for words, under in (
                (QPalette.ColorRole.WindowText, QPalette.ColorRole.Window),
                (QPalette.ColorRole.Text, QPalette.ColorRole.Base),
                (QPalette.ColorRole.ButtonText, QPalette.ColorRole.Button),
            ):
                on = now.color(under).name() if now.color(under).alpha() else ground  # clear: the dialog shows through
                assert contrast(now.color(words).name(), on) >= LEAST_RATIO, type(child)
                checked += 1
        assert checked > 3
        assert contrast(theme.INK.name(), ground) >= LEAST_RATIO
    finally:
        application.setPalette(before)


def test_the_shipped_typeface_has_the_letters_of_europe(qtbot: QtBot) -> None:
    make_application()
    for letter, weight in itertools.product(sorted(set(LETTERS) - {" "}), WEIGHTS):
        assert QFontMetrics(theme.font(13, weight)).inFontUcs4(ord(letter)), letter


def test_the_letters_come_out_in_the_pdf_and_what_is_not_there_as_a_question_mark() -> None:
    work = work_of(stamps=(stamp("dot", 8.0),))
    work = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, title=f"{LETTERS[:36]} 你"))
    pages = PdfReader(io.BytesIO(print_card([Side("front", work, plan(work), ())], {}))).pages
    text = " ".join("\n".join(page.extract_text() for page in pages).split())
    assert "Zażółć gęślą jaźń" in text
    assert "你" not in text
    assert f"{LETTERS[:36]} ?" in text
