"""Six more cards of what the eighteen of `cases` leave out: inside, pale ink, resist, steps, shapes, many pieces."""

from collections.abc import Callable

import msgspec

from cases import BLUE, GOLD, GREEN, GREY, RED, SAND, STASH, Maker
from fair_thicket import edits
from fair_thicket.backdrop.stencils import step_stencil
from fair_thicket.edits import arranging
from fair_thicket.model.card import Work
from fair_thicket.model.masking import Pin
from fair_thicket.model.pieces import Blend, Form, Splatter, Stencilled, Wash, Water

NIGHT = "#1c2440"


def inside() -> Work:
    """A front of its own and an inside with a panel, words and a tucked image."""
    m = Maker(paper=SAND)
    m.panel(Form("rectangle", 90, 60), (70, 50), colour=BLUE)
    m.put("leaf", (60, 50), colour=GREEN)
    m.put("figure", (70, 52), colour=RED)
    front = m.work.card
    n = Maker(paper=SAND)
    panel = n.panel(Form("rectangle", 110, 80), (70, 54), colour=SAND)
    n.put("greeting", (70, 40), on=panel)
    n.put("leaf", (60, 70), colour=GREEN)
    n.put("moth", (70, 70), cut=True, colour=GOLD)
    own = [
        msgspec.structs.replace(piece, id=f"in-{piece.id}", on=f"in-{piece.on}" if piece.on else "")
        for piece in n.work.card.pieces
    ]
    return Work(msgspec.structs.replace(front, inside=tuple(own)), STASH)


def night() -> Work:
    """Pale words and a pale figure over a glow that comes from the moth, splattered with white."""
    m = Maker()
    moth = m.put("moth", (95, 34), cut=True, colour=GOLD)
    sky = Blend(
        "sky", Form("rectangle", 139.7, 107.95), 69.85, 53.975, inks=("#f4e2a0", NIGHT), way="glow",
        centre=(25.0, -20.0), glows_from=moth,
    )  # fmt: skip
    drops = Splatter("drops", Form("rectangle", 120, 60), 69.85, 40, colour="#ffffff", drops=60)
    m.do(lambda work: edits.set_order(_with(work, sky, drops), ["sky", "drops", moth]))
    words = m.put("greeting", (55, 90))
    m.change(words, ink="#ffffff")
    m.change(m.put("figure", (40, 60)), ink="#f6efdd")
    return m.work


def resisted() -> Work:
    """A figure stamped in clear resist and inked over, its like in dark ink beside it, water on the wash."""
    m = Maker()
    first = m.put("figure", (45, 55))
    m.change(first, resists=True)
    m.change(m.put("leaf", (95, 55)), resists=True)
    m.put("figure", (70, 55))
    wash = Blend("sky", Form("rectangle", 139.7, 107.95), 69.85, 53.975, inks=(BLUE, GREEN), way="linear")
    water = Water("water", Form("rectangle", 80, 40), 60, 40, drops=30)
    m.work = _with(m.work, wash, water)
    return m.work


def stepped() -> Work:
    """A panel whose sky is stepped three times through a border, fading out, with a row of borders at its foot."""
    m = Maker(paper=SAND)
    panel = m.panel(Form("rectangle", 34, 60), (69, 50), colour="#ffffff")
    sky = Stencilled("sky", Form("rectangle", 34, 60), 69, 50, on=panel, stencil="wave", reach_mm=12.0)
    lays = step_stencil(STASH.find("wave"), sky, 3, 12.0, inks=(BLUE, GREY)).lays
    m.work = _with(m.work, msgspec.structs.replace(sky, lays=lays, colour=BLUE))
    m.put("wave", (70, 96), colour=GREEN, length_mm=139.7)
    return m.work


def pinned() -> Work:
    """A chain of overlaps whose order is partly the maker's own, a tall card in landscape, an image off every edge."""
    m = Maker(paper="#ffffff")
    keys = [m.put("leaf" if number % 2 else "figure", (40 + 9 * number, 50 + number)) for number in range(6)]
    masking = msgspec.structs.replace(m.work.card.masking, pins=(Pin("first", (keys[2],)), Pin("unmasked", (keys[4],))))
    m.work = Work(msgspec.structs.replace(m.work.card, masking=masking), STASH)
    for at in ((0.0, 50.0), (139.0, 60.0), (70.0, 107.0)):
        m.put("disc", at, colour=GOLD)
        m.put("figure", at)
    return m.work


def thicket() -> Work:
    """Near fifty pieces: rows of corn, rows of borders, leaves stamped over and under one another, a scatter."""
    m = Maker(paper=SAND)
    corn = m.put("corn", (16, 30), cut=True, colour=GOLD)
    m.do(lambda work: arranging.row(work, corn, 9, 11.0, rows=2, down_mm=9.0)[0])
    for number in range(4):
        m.put("wave", (70, 66 + 9 * number), colour=(GREEN, BLUE)[number % 2], length_mm=139.7)
    for number in range(24):
        m.put(("leaf", "figure", "moth")[number % 3], (12 + 5.2 * number, 44 + 4 * (number % 5)), cut=number % 4 == 0)
    return m.work


def _with(work: Work, *washes: Wash) -> Work:
    """Put washes behind everything."""
    return Work(msgspec.structs.replace(work.card, pieces=(*washes, *work.card.pieces)), work.stash)


MORE_CASES: tuple[Callable[[], Work], ...] = (inside, night, resisted, stepped, pinned, thicket)
