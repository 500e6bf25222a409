"""Whatever a station says of envelope, thickness and weight is what the core says of the card."""

import re
from collections.abc import Iterator

from PySide6.QtWidgets import QLabel, QWidget
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.stations import STATIONS
from figures import is_same, said_in, truth
from hands import settle


def texts(window: QWidget) -> Iterator[str]:
    for one in window.findChildren(QLabel):
        yield re.sub(r"<[^>]+>", "", one.text())


def test_every_label_of_every_station_says_the_one_figure(window: MainWindow, qtbot: QtBot) -> None:
    true, met = truth(window.session.whole), set()
    for station in STATIONS:
        window.go(station.key)
        settle(qtbot, window.session)
        if station.key == "assembly":
            qtbot.waitUntil(lambda: any("mm thick" in text for text in texts(window)), timeout=60_000)
        for text in texts(window):
            for name, said in said_in(text):
                met.add(name)
                assert is_same(name, said, true[name]), f"{text}: not {true[name]}"
    assert met >= {"envelope", "thickness", "grams"}
