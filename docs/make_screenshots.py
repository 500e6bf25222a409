"""Make the pictures in docs/screenshots anew from the demo: python docs/make_screenshots.py."""

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
for name in ("XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CONFIG_HOME"):
    os.environ[name] = tempfile.mkdtemp()

from PySide6.QtCore import QPoint, QPointF, Qt  # noqa: E402 - Qt reads the platform when it is imported
from PySide6.QtTest import QTest  # noqa: E402
from PySide6.QtWidgets import QApplication  # noqa: E402

from fair_thicket.desk.application import make_application, open_window  # noqa: E402
from fair_thicket.desk.main_window import MASKS, PAPER, REHEARSAL, SCENE, STASH, MainWindow  # noqa: E402

FOLDER = Path(__file__).parent / "screenshots"


def wait_until(is_done: Callable[[], bool], *, seconds: float = 30) -> None:
    begun = time.monotonic()
    while not is_done() and time.monotonic() - begun < seconds:
        QApplication.processEvents()
        time.sleep(0.01)
    for _ in range(20):
        QApplication.processEvents()
        time.sleep(0.01)


def take(window: MainWindow, name: str) -> None:
    session = window.session
    wait_until(lambda: not session.is_thinking and session.outcome is not None)
    window.grab().save(str(FOLDER / f"{name}.png"))
    print(name)


def show_scene(window: MainWindow) -> None:
    """Show the bench while an image is being dragged."""
    window.go(SCENE)
    bench = window.scene.bench
    piece = window.session.work.card.find("parcel-1")
    start = bench.mapFromScene(QPointF(piece.x, piece.y))
    QTest.mousePress(bench.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    for step in range(1, 5):
        QTest.mouseMove(bench.viewport(), start - QPoint(0, 8) * step)
    take(window, "scene")
    QTest.keyClick(bench, Qt.Key.Key_Escape)


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    make_application()
    window = open_window(demo=True)
    window.resize(1280, 800)
    window.show()
    show_scene(window)
    window.go(MASKS)
    window.masks.timetable.choose(3)
    take(window, "masks")
    window.go(REHEARSAL)
    window.rehearsal.slider.setValue(7)
    take(window, "rehearsal")
    window.go(PAPER)
    wait_until(window.paper.save_button.isEnabled)
    take(window, "paper")
    window.go(STASH)
    window.stash.intake.scan_demo()
    wait_until(lambda: len(window.stash.intake.found) > 0)
    take(window, "stash")
    window.session.undo_stack.setClean()
    window.close()


if __name__ == "__main__":
    main()
