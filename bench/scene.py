"""Seeing, judging and dragging 60 and 200 pieces of 300 vertices: python -m bench.scene."""

import math
import os
import random
import statistics
import time
from functools import partial

from bench.timing import alone, best_of, tell

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
VERTICES = 300


def stamps(count: int = 12) -> list:
    """Make wavy blobs of 300 vertices, 10 to 24 mm across: sixty of them cover a front once."""
    from fair_thicket.model.stash import Stamp

    dice = random.Random(4)  # noqa: S311
    made = []
    for number in range(count):
        radius, lobes = dice.uniform(5, 12), dice.randint(3, 9)
        turns = [2 * math.pi * k / VERTICES for k in range(VERTICES)]
        reach = [radius * (1 + 0.18 * math.sin(lobes * turn)) for turn in turns]
        ring = tuple((r * math.cos(turn), r * math.sin(turn)) for r, turn in zip(reach, turns, strict=True))
        width, height = (max(p[k] for p in ring) - min(p[k] for p in ring) for k in (0, 1))
        made.append(Stamp(f"blob-{number}", f"blob {number}", width, height, ring, f"images/blob-{number}.png"))
    return made


def scene_of(count: int) -> object:
    """Make a card of so many pieces, two in three cut out."""
    from fair_thicket.model.card import Card, Work, order_pieces
    from fair_thicket.model.pieces import Cutout, Impression
    from fair_thicket.model.stash import Stash

    dice = random.Random(count)  # noqa: S311
    known = stamps()
    pieces = []
    for number in range(count):
        kind = Impression if number % 3 == 0 else Cutout
        stamp = known[number % len(known)]
        pieces.append(kind(f"p-{number}", stamp.id, dice.uniform(5, 135), dice.uniform(5, 103), dice.uniform(-20, 20)))
    return Work(Card(pieces=order_pieces(pieces)), Stash(tuple(known)))


def drag_frames(count: int) -> tuple[list[float], float]:
    """Wall times of drag frames, seconds, and how long advice took after the stop."""
    from PySide6.QtCore import QPoint, QPointF, Qt
    from PySide6.QtTest import QTest
    from tests.making import framed_png

    from fair_thicket.desk.frame.application import make_application, open_window

    application = make_application()
    window = open_window()
    window.resize(1280, 800)
    window.show()
    work = scene_of(count)
    pictures = {one.picture: framed_png(one.width_mm, one.height_mm, 0.4) for one in work.stash.stamps}
    window.session.start(work, pictures)

    def wait(until) -> float:
        begun = time.perf_counter()
        while not until() and time.perf_counter() - begun < 60:
            application.processEvents()
            time.sleep(0.002)
        return time.perf_counter() - begun

    session, bench = window.session, window.panes["scene"].bench
    wait(lambda: not session.is_thinking)
    piece = session.work.card.pieces[-1]
    place = bench.mapFromScene(QPointF(piece.x, piece.y))
    plain, left = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
    times = []
    QTest.mousePress(bench.viewport(), left, plain, place)
    for frame in range(160):
        begun = time.perf_counter()
        QTest.mouseMove(bench.viewport(), place + QPoint(5 + frame % 60, frame % 25))
        application.processEvents()
        times.append(time.perf_counter() - begun)
    QTest.mouseRelease(bench.viewport(), left, plain, place + QPoint(30, 12))
    told = wait(lambda: session.glance is not None and session.glance.work is session.work)
    session.undo_stack.setClean()
    window.close()
    return sorted(times[5:]), told


def see_and_judge(count: int) -> None:
    """Time what is seen, judged and weighed of a card of so many pieces."""
    from fair_thicket import edits
    from fair_thicket.laid.visibility import look
    from fair_thicket.model.derived import begin_with
    from fair_thicket.scene import judge
    from fair_thicket.scene.balance import weigh

    work = scene_of(count)
    look(work)
    scratch = best_of(5, lambda: look(alone(work)))
    view = look(work)
    steps = []
    for number in range(20):
        work = begin_with(edits.move_by(work, {work.card.pieces[number].id}, (2.0, -1.0)), work)
        begun = time.perf_counter()
        view = look(work)
        steps.append(time.perf_counter() - begun)
    judged = best_of(3, lambda: judge(alone(work), view, remedies=False))
    weighed = best_of(3, partial(weigh, view))
    tell(f"{count} pieces: visibility from scratch", scratch * 1000, "ms", 60 if count == 60 else math.inf)
    tell(
        f"{count} pieces: after moving one, median",
        statistics.median(steps) * 1000,
        "ms",
        10 if count == 60 else math.inf,
    )
    print(f"      judged in {judged * 1000:.0f} ms, weighed in {weighed * 1000:.0f} ms")


def tell_crowded(count: int = 500) -> None:
    """How long it takes to look at cards of very many pieces of the demo, heaped by chance and in rows."""
    from fair_thicket.demo import demo_work
    from fair_thicket.laid.visibility import look
    from fair_thicket.model.card import Card, Work
    from fair_thicket.model.pieces import Border, Cutout, Embellishment, Impression

    stash, dice = demo_work()[0].stash, random.Random(1)  # noqa: S311
    kinds = {
        "ferns cut out": lambda key: Cutout(key, "tall-fern", dice.uniform(5, 135), dice.uniform(5, 100)),
        "ferns stamped": lambda key: Impression(key, "tall-fern", dice.uniform(5, 135), dice.uniform(5, 100)),
        "snails cut out": lambda key: Cutout(key, "courier-snail", dice.uniform(5, 135), dice.uniform(5, 100)),
        "hills by chance": lambda key: Border(
            key, "far-hill", 139.7, dice.uniform(0, 140), dice.uniform(5, 105), dice.uniform(-20, 20)
        ),
        "pickets by chance": lambda key: Border(
            key, "picket", 139.7, dice.uniform(0, 140), dice.uniform(5, 105), dice.uniform(-20, 20)
        ),
        "pickets in rows": lambda key: Border(key, "picket", 139.7, 69.85, 10 + 0.18 * int(key[2:])),
        "moss edges in rows": lambda key: Border(key, "moss-edge", 139.7, 69.85, 10 + 0.18 * int(key[2:])),
        "sequins": lambda key: Embellishment(key, size_mm=4.0, x=dice.uniform(5, 135), y=dice.uniform(5, 100)),
    }
    for kind, make in kinds.items():
        work = Work(Card(pieces=tuple(make(f"p-{number}") for number in range(count))), stash)
        tell(f"{count} {kind} seen", best_of(2, lambda work=work: look(alone(work))), "s", 2.0)


def main() -> None:
    import tempfile

    os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()
    for count in (60, 200):
        see_and_judge(count)
    tell_crowded()
    for count, limit in ((60, 16.7), (200, 33.0)):
        frames, told = drag_frames(count)
        tell(f"{count} pieces: drag frame, 95th percentile", frames[int(len(frames) * 0.95)] * 1000, "ms", limit)
        tell(f"{count} pieces: advice after the stop", told * 1000, "ms", 100 if count == 60 else math.inf)


if __name__ == "__main__":
    main()
