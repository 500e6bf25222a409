"""Start of the desk and frames of a drag, offscreen: python -m bench.desk."""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from bench.timing import best_of, tell

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
LAST = "w.show(); a.processEvents(); w.grab(); import os; os._exit(0)"
BARE = "from PySide6.QtWidgets import QApplication, QWidget; a = QApplication([]); w = QWidget(); w.resize(1280, 800)"
FRAME = "from fair_thicket.desk.frame.application import *; a = make_application(); w = show_frame(demo=True)"
WHOLE = f"{FRAME}; furnish(w, demo=True)"
FRAMES = 200


def start(script: str) -> float:
    return best_of(5, lambda: subprocess.run([sys.executable, "-c", f"{script}; {LAST}"], check=True))


def drag_frames() -> list[float]:
    """Wall times of drag frames with 40 images on the card, seconds."""
    from PySide6.QtCore import QPoint, QPointF, Qt
    from PySide6.QtTest import QTest

    from fair_thicket import edits
    from fair_thicket.desk.frame.application import make_application, open_window

    application = make_application()
    window = open_window(demo=True)
    window.resize(1280, 800)
    window.show()
    session, bench = window.session, window.panes["scene"].bench
    stamps = session.work.stash.stamps
    number = 0
    while len(session.work.card.pieces) < 40:
        stamp = stamps[number % len(stamps)].id
        at = (8 + number * 37 % 124, 20 + number * 23 % 80)
        session.edit("fill", lambda work, stamp=stamp, at=at: edits.add_impression(work, stamp, at)[0])
        number += 1
    piece = session.work.card.pieces[-1]
    place = bench.mapFromScene(QPointF(piece.x, piece.y))
    begun = time.perf_counter()
    while session.is_thinking and time.perf_counter() - begun < 30:  # a drag begins on a card that was looked at
        application.processEvents()
        time.sleep(0.01)
    times = []
    QTest.mousePress(bench.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, place)
    for frame in range(FRAMES):
        begun = time.perf_counter()
        QTest.mouseMove(bench.viewport(), place + QPoint(5 + frame % 60, frame % 25))
        application.processEvents()
        times.append(time.perf_counter() - begun)
    QTest.mouseRelease(bench.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, place)
    session.undo_stack.setClean()
    window.close()
    return times[5:]


def main() -> None:
    os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()
    subprocess.run([sys.executable, "-m", "compileall", "-q", "src"], check=True)  # as after the set-up
    bare, frame, whole = start(BARE), start(FRAME), start(WHOLE)
    tell("first painted window with the demo, times a bare window's start", frame / bare, "x", 2.5)
    print(f"      bare {bare:.2f} s, first paint {frame:.2f} s, every station ready {whole:.2f} s")
    times = sorted(drag_frames())
    tell("drag frame with 40 images, 95th percentile", times[int(len(times) * 0.95)] * 1000, "ms", 16.7)
    print(f"      median {times[len(times) // 2] * 1000:.1f} ms; {Path(__file__).name} done")


if __name__ == "__main__":
    main()
