"""The eighteen cases that a card must be able to hold (common practice), each composed by the program's own edits."""

from collections.abc import Callable

import msgspec

from fair_thicket import edits
from fair_thicket.edits import adding, arranging, cutouts, flaps, openings
from fair_thicket.model.basics import Point, Ring
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Form, Impression, Window
from fair_thicket.model.stash import Contact, Kind, Marks, Stamp, Stash, Zone

RED, BLUE, GREEN, SAND, GOLD, GREY = "#c04040", "#4060c0", "#40a060", "#e0d0b0", "#e0b040", "#909090"


def _stamp(key: str, ring: Ring, kind: Kind = Kind.STAMP, **fields: object) -> Stamp:
    xs, ys = [x for x, _ in ring], [y for _, y in ring]
    made = Stamp(key, key, max(xs) - min(xs), max(ys) - min(ys), ring, f"images/{key}.png", kind=kind)
    made = msgspec.structs.replace(made, may_flip=kind.is_plain)
    return msgspec.structs.replace(made, **fields)


def _box(width: float, height: float) -> Ring:
    return ((-width / 2, -height / 2), (width / 2, -height / 2), (width / 2, height / 2), (-width / 2, height / 2))


FIGURE: Ring = (
    (-6, -9),
    (0, -12),
    (6, -9),
    (5, 0),
    (9, 2),
    (9, 5),
    (5, 5),
    (6, 12),
    (-6, 12),
    (-5, 3),
    (-8, 1),
    (-5, -3),
)
LEAF: Ring = ((-12, 2), (-6, -5), (4, -6), (12, 0), (5, 6), (-5, 6))
WAVE: Ring = ((-20, -4), (-10, -8), (0, -4), (10, -8), (20, -4), (20, 8), (-20, 8))
VINES: Ring = (
    (-50, -28), (-30.5, -28), (-30.5, 2), (-28, 6), (-25.5, 2), (-25.5, -28), (5.5, -28), (5.5, 10), (8, 15),
    (10.5, 10), (10.5, -28),
    (50, -28), (50, 28), (-50, 28),
)  # fmt: skip
"""The window of a frame with two strands hanging into it."""

STASH = Stash(
    (
        _stamp(
        "figure",
        FIGURE,
        marks=Marks(
            feet=((-6.0, 12.0), (6.0, 12.0)),
            zones=(Zone("face", ((-4, -10), (4, -10), (4, -4), (-4, -4))),),
            looks_deg=0.0,
            contacts=(Contact("hand", (8.0, 3.5)), Contact("seat", (0.0, -11.0))),
        ),
    ),
        _stamp("leaf", LEAF, die_margin_mm=1.5),
        _stamp("hat", ((-7, 3), (-4, -4), (4, -4), (7, 3)), marks=Marks(contacts=(Contact("seat", (0.0, 2.0)),))),
        _stamp("stick", _box(2.0, 24.0)),
        _stamp("moth", ((-10, -6), (0, -2), (10, -6), (8, 6), (0, 2), (-8, 6)), marks=Marks(flies=True)),
        _stamp("dots", _box(40.0, 4.0)),
        _stamp("corn", ((-4, 9), (-4, -5), (0, -9), (4, -5), (4, 9))),
        _stamp("greeting", _box(44.0, 7.0), Kind.GREETING),
        _stamp("wave", WAVE, Kind.BORDER),
        _stamp("bubble", ((-16, 0), (-11, -10), (11, -10), (16, 0), (11, 10), (-11, 10)), Kind.DIE),
        _stamp("vines", _box(116.0, 76.0), Kind.BACKDROP, pockets=(VINES,)),
        _stamp("word", ((-15, 4), (-15, -4), (-5, -4), (-5, 0), (5, 0), (5, -4), (15, -4), (15, 4)), Kind.DIE),
        _stamp("disc", tuple((14 * x, 14 * y) for x, y in (
            (1, 0), (0.924, 0.383), (0.707, 0.707), (0.383, 0.924), (0, 1), (-0.383, 0.924), (-0.707, 0.707),
            (-0.924, 0.383), (-1, 0), (-0.924, -0.383), (-0.707, -0.707), (-0.383, -0.924), (0, -1), (0.383, -0.924),
            (0.707, -0.707), (0.924, -0.383),
        )), Kind.DIE),
    )
)  # fmt: skip


class Maker:
    """A card being composed: each verb is one edit of the program's."""

    def __init__(self, **card: object) -> None:
        self.work = Work(msgspec.structs.replace(Card(), **card), STASH)

    def put(self, stamp: str, at: Point, *, cut: bool = False, on: str = "", **fields: object) -> str:
        self.work, key = adding.add_from_stash(self.work, stamp, at, cut=cut, on=on)
        if fields:
            self.change(key, **fields)
        return key

    def panel(self, form: Form, at: Point | None = None, **fields: object) -> str:
        self.work, key = adding.add_panel(self.work, form, at=at, **fields)  # type: ignore[arg-type]
        return key

    def strip(self, words: str, at: Point, **fields: object) -> str:
        self.work, key = adding.add_strip(self.work, words, at=at, **fields)  # type: ignore[arg-type]
        return key

    def change(self, *keys: str, **fields: object) -> None:
        self.work = edits.set_pieces(self.work, keys, **fields)

    def do(self, edit: Callable[[Work], Work]) -> None:
        self.work = edit(self.work)


def tucked() -> Work:
    """1: behind one piece, between two strips the front one glued along its foot only, between two leaves."""
    m = Maker(paper=SAND)
    m.put("figure", (30, 40), cut=True, colour=RED)
    m.put("leaf", (30, 52), cut=True, colour=GREEN)
    back = m.put("wave", (70, 70), colour=BLUE, length_mm=139.7)
    m.put("figure", (80, 66), cut=True, colour=GOLD)
    m.put("wave", (70, 78), colour=GREEN, glue="foot", start_mm=10.0)
    m.put("leaf", (118, 40), cut=True, colour=GREEN, angle_deg=20.0)
    m.put("moth", (112, 36), cut=True, colour=GOLD)
    m.put("leaf", (106, 44), cut=True, colour=GREY, margin_mm=0.0)
    assert m.work.card.find(back)
    return m.work


def strands() -> Work:
    """2: one die-cut sheet whose single strands are in front of and behind other pieces."""
    m = Maker(paper=SAND)
    moth = m.put("moth", (41.8, 40), cut=True, colour=RED, margin_mm=0.0)
    frame = m.put("vines", (69.85, 54), colour=GREEN)
    bird = m.put("figure", (78, 44), cut=True, colour=BLUE)
    ring = flaps.strand_at(m.work, frame, (77.8, 40))
    m.do(lambda work: flaps.send_part(work, frame, ring, past=bird, side="over", name="strand"))
    ring = flaps.strand_at(m.work, frame, (41.8, 40))
    m.do(lambda work: flaps.send_part(work, frame, ring, past=moth, side="under", name="strand"))
    return m.work


def slit() -> Work:
    """3: a figure through a slit: half in front of a sheet, half behind it."""
    m = Maker(paper=SAND)
    sheet = m.panel(Form("rectangle", 100, 50), (70, 65), colour=BLUE)
    figure = m.put("figure", (70, 58), cut=True, colour=RED)
    ring = flaps.part_by_line(m.work, sheet, (15, 62), (125, 62), (70, 80))
    m.do(lambda work: flaps.send_part(work, sheet, ring, past=figure, side="over"))
    return m.work


def contacts() -> Work:
    """4: a prop in a hand with part of the hand over it, a hat on a head, a rider on a back, a strip over hands."""
    m = Maker()
    figure = m.put("figure", (50, 60), cut=True, colour=SAND)
    hat = m.put("hat", (55, 45), cut=True, colour=RED)
    stick = m.put("stick", (62, 60), cut=True, colour=GREY)
    hand: Ring = ((5, 0), (12, 0), (12, 7), (5, 7))
    m.do(lambda work: arranging.place_at_contact(work, hat, by=figure, at=(0.0, -11.0), own=(0.0, 2.0)))
    m.do(lambda work: arranging.place_at_contact(work, stick, by=figure, at=(8.0, 3.5), own=(0.0, 4.0), hand=hand))
    rider = m.put("figure", (102, 50), cut=True, colour=GREEN)
    m.put("leaf", (100, 66), cut=True, colour=GOLD)
    m.strip("hello", (50, 74), colour=BLUE)
    assert m.work.card.find(rider)
    return m.work


def frames() -> Work:
    """5: across a frame's bar, behind a raised window frame, over the panel's edge, over the card's edge."""
    m = Maker(paper=SAND)
    panel = m.panel(Form("rectangle", 120, 90), colour=BLUE)
    m.put("figure", (40, 50), cut=True, on=panel, colour=RED)
    m.put("leaf", (128, 50), cut=True, on=panel, colour=GREEN)
    frame = Form("rectangle", 100, 70)
    m.panel(frame, (69.85, 54), windows=adding.frame_of(frame, 9.0), colour=GREY, lift_mm=2.0)
    m.put("moth", (114, 80), cut=True, colour=GOLD)
    m.put("leaf", (3, 30), cut=True, colour=GREEN)
    return m.work


def trims() -> Work:
    """6: flush at the panel, at the card's edge, along a bubble's line, and the whole stack re-cut smaller."""
    m = Maker(paper=SAND)
    panel = m.panel(Form("rectangle", 110, 80, 6.0), colour=BLUE)
    m.put("leaf", (16, 60), cut=True, on=panel, colour=GREEN, trim_to=panel)
    m.put("leaf", (2, 20), cut=True, colour=GREEN, trim_to="card")
    bubble = m.put("bubble", (90, 40), colour=GOLD, on=panel)
    m.put("figure", (100, 42), on=bubble, trim_to=bubble)
    window = Form("ellipse", 40, 40)
    ring = m.panel(window, (50, 50), windows=(Window(Form("ellipse", 32, 32)),), colour=GREY)
    inside = m.put("moth", (40, 40), cut=True, colour=RED, trim_to=ring)
    assert inside
    m.change(panel, form=Form("rectangle", 100, 72, 6.0))
    return m.work


def carriers() -> Work:
    """7: a bubble with its own scene, a tag, a window sheet with inlays dropped into its openings flush."""
    m = Maker(paper=SAND)
    bubble = m.put("bubble", (40, 35), colour=BLUE, lift_mm=1.6)
    m.put("corn", (34, 36), on=bubble, colour=GOLD)
    m.put("hat", (46, 36), cut=True, on=bubble, colour=RED)
    m.do(lambda work: edits.move_by(work, {bubble}, (3.0, 5.0)))
    m.do(lambda work: edits.turn_by(work, {bubble}, 12.0))
    opening = Form("rectangle", 14, 18)
    sheet = m.panel(
        Form("rectangle", 60, 40),
        (100, 70),
        windows=tuple(Window(opening, x, 0.0) for x in (-18.0, 0.0, 18.0)),
        colour=GREY,
    )
    for x in (-18.0, 18.0):
        m.panel(opening, (100 + x, 70), on=sheet, colour=GREEN)
    return m.work


def rings() -> Work:
    """8: a ring from two nested dies, a frame of three equal layers, an even mat, a panel off centre on purpose."""
    m = Maker(paper=SAND)
    m.do(lambda work: adding.add_layer(work, 25.4 / 16, colour=BLUE)[0])
    m.do(lambda work: adding.add_layer(work, 25.4 / 8)[0])
    m.panel(Form("rectangle", 40, 60), (30, 50), colour=GREEN)
    m.do(lambda work: openings.add_ring(work, 50.8, 38.1, at=(95.0, 50.0))[0])
    frame = Form("rectangle", 50, 50)
    m.panel(frame, (95, 50), windows=adding.frame_of(frame, 4.0), layers=3, colour=GOLD)
    return m.work


def bleed() -> Work:
    """9: stamped partly off the panel, and two half-turned copies whose overlap a disc will hide."""
    m = Maker()
    m.put("leaf", (4, 100), colour=GREEN)
    big = m.put("wave", (60, 54), colour=BLUE, length_mm=80.0)
    m.do(lambda work: edits.delete(work, {big}))
    one = m.put("figure", (66, 50), colour=RED)
    m.do(lambda work: arranging.half_turn(work, {one})[0])
    m.put("disc", (69.85, 53.975), colour=GOLD)
    return m.work


def both_ways() -> Work:
    """10: stamped and cut copies of one image on a card; images cut out together as one joint piece."""
    m = Maker(paper=SAND)
    m.put("figure", (25, 45), colour=GREEN)
    m.put("figure", (45, 48), cut=True, colour=RED)
    first = m.put("figure", (90, 50), cut=True)
    second = m.put("leaf", (98, 60), cut=True, angle_deg=30.0)
    m.do(lambda work: cutouts.join(work, {first, second})[0])
    m.change(m.work.card.pieces[-1].id, margin_mm=2.0, colour=GOLD)
    return m.work


def vellum() -> Work:
    """11: translucent paper: what is behind shows through."""
    m = Maker(paper=SAND)
    m.put("figure", (50, 50), colour=RED)
    m.put("leaf", (80, 55), cut=True, colour=GREEN)
    m.panel(Form("rectangle", 70, 20), (66, 56), translucent=True)
    m.put("moth", (60, 60), cut=True, colour=BLUE)
    return m.work


def words() -> Work:
    """12: a strip cut in two, a word with an offset shadow, copies glued up, banners, an image between words."""
    m = Maker(paper=SAND)
    m.strip("a little", (35, 20), colour=GREY, ink="#000000")
    m.strip("post", (80, 20), colour=GREY)
    m.put("word", (36, 44), colour="#505050")
    m.put("word", (35, 43), colour=RED, layers=3)
    m.strip("for you", (40, 70), colour=BLUE, left="folded", right="folded")
    m.strip("and you", (100, 90), colour=GOLD, left="fishtail", right="tag", angle_deg=8.0)
    greeting = m.put("greeting", (100, 50))
    m.do(lambda work: adding.add_strip_under(work, greeting, ends="fishtail")[0])
    strip = m.work.card.find(greeting).on
    m.put("moth", (104, 50), on=strip)
    return m.work


def registered() -> Work:
    """13: two-part images that line up on notches: a crown on its trunk, held together."""
    m = Maker()
    trunk = m.put("stick", (50, 60), cut=True, colour=GREY)
    crown = m.put("leaf", (60, 40), cut=True, colour=GREEN)
    m.do(lambda work: arranging.place_at_contact(work, crown, by=trunk, at=(0.0, -12.0), own=(0.0, 4.0)))
    m.do(lambda work: edits.move_by(work, {trunk}, (5.0, 3.0)))
    m.do(lambda work: edits.turn_by(work, {trunk}, -10.0))
    return m.work


def trail() -> Work:
    """14: a trail of dots, inked in part, that ends at the flyer; the flyer is held by one point."""
    m = Maker()
    dots = m.put("dots", (50, 60), colour=GREY, angle_deg=-15.0)
    m.change(dots, inked=((-20, -3), (8, -3), (8, 3), (-20, 3)))
    moth = m.put("moth", (80, 50), cut=True, colour=BLUE, glue="point", lift_mm=1.6)
    m.do(lambda work: arranging.place_at_contact(work, moth, by=dots, at=(14.0, 0.0), own=(0.0, 0.0)))
    return m.work


def bridges() -> Work:
    """15: pieces half on a raised frame and half over the recess, on foam of the step's height."""
    m = Maker(paper=SAND)
    frame = Form("rectangle", 110, 80)
    m.panel(frame, windows=adding.frame_of(frame, 12.0), colour=GREY, lift_mm=3.0)
    m.put("leaf", (26, 50), cut=True, colour=GREEN, lift_mm=3.0, foam="part")
    m.put("figure", (110, 80), cut=True, colour=RED, lift_mm=3.0, foam="part")
    return m.work


def repeats() -> Work:
    """16: half-turned, shifted and mirrored repeats, a column down a side, corn in staggered rows."""
    m = Maker(paper=SAND)
    corn = m.put("corn", (24, 60), cut=True, colour=GOLD)
    m.do(lambda work: arranging.row(work, corn, 5, 11.0, rows=2, down_mm=10.0)[0])
    leaf = m.put("leaf", (4, 12), cut=True, colour=GREEN)
    for number in range(1, 4):
        m.do(lambda work, number=number: arranging.duplicate(work, {leaf}, (0.0, 14.0 * number))[0])  # type: ignore[misc]
    word = m.put("word", (100, 30), colour=BLUE, angle_deg=15.0)
    figure = m.put("figure", (110, 80), cut=True, colour=RED, angle_deg=10.0)
    m.do(lambda work: arranging.mirror_cluster(work, {word, figure}, axis_x=92.0)[0])
    m.do(lambda work: arranging.half_turn(work, {figure})[0])
    return m.work


def twice_used() -> Work:
    """17: a backdrop sheet used twice: the hole as a frame, the piece that fell out as something else."""
    m = Maker(paper=SAND)
    fallen = m.put("vines", (69.85, 54), colour=BLUE, opening=0)
    m.put("vines", (69.85, 54), colour=GREEN, name="frame")
    assert m.work.card.find(fallen)
    return m.work


def texture() -> Work:
    """18: texture added late, only where the ground is still free: it lies behind all that was stamped."""
    m = Maker(paper=SAND)
    m.do(lambda work: adding.add_wash(work, "#d0e0f0")[0])
    figure = m.put("figure", (60, 60), colour=RED)
    m.put("leaf", (90, 64), colour=GREEN)
    for number, x in enumerate((40.0, 70.0, 100.0)):
        key = m.put("dots", (x, 66.0 + number), colour=None)
        m.do(lambda work, key=key: edits.to_end(work, {key}, front=False))  # type: ignore[misc]
    m.do(lambda work: adding.add_embellishment(work, "scatter", at=(30.0, 30.0), count=7, colour=GOLD)[0])
    order = [piece.id for piece in m.work.card.pieces]
    assert order.index(figure) > max(order.index(key) for key in order if key.startswith("dots"))
    assert isinstance(m.work.card.find(figure), Impression)
    return m.work


CASES: tuple[Callable[[], Work], ...] = (
    tucked, strands, slit, contacts, frames, trims, carriers, rings, bleed, both_ways, vellum, words, registered,
    trail, bridges, repeats, twice_used, texture,
)  # fmt: skip
