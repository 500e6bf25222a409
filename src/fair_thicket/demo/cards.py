"""Further demo cards of the Fernside post: one seen through a fern window, and a slimline."""

import msgspec

from fair_thicket.backdrop.judging import best_span
from fair_thicket.backdrop.rows import step_borders
from fair_thicket.backdrop.stencils import step_stencil
from fair_thicket.demo.colours import coloured
from fair_thicket.demo.dies import FRONDS
from fair_thicket.edits.adding import strip_for
from fair_thicket.edits.flaps import part_by_line, send_part, strand_at
from fair_thicket.model.card import Card, Try, Work, order_pieces
from fair_thicket.model.formats import all_round
from fair_thicket.model.pieces import (
    CARD_EDGE,
    Blend,
    Border,
    Cover,
    Cutout,
    Embellishment,
    End,
    Form,
    Impression,
    Panel,
    Piece,
    Stencilled,
    Strip,
)
from fair_thicket.model.units import MM_PER_INCH

DUSK, HEATHER, FERN, MOSS, PINE = "#8f8fb8", "#c3a9c9", "#4b8050", "#8aa465", "#1f3a30"
CREAM, LANTERN, CLAY, BERRY, BARK, POND = "#f6efdd", "#eec25a", "#c9794a", "#a92c48", "#6b4f3a", "#5f8fa3"
LICHEN, ROSE, STONE = "#c5d3a4", "#e4b3b0", "#b9bcb6"


def window_card(work: Work) -> Work:
    """Make a card whose scene stands behind a fern window: fronds hang before and behind, a newt climbs from a slit."""
    width, height = Card(format="a2").panel
    middle = (width / 2, height / 2)
    outer = all_round((width, height), MM_PER_INCH / 16)
    inner = all_round((width, height), MM_PER_INCH / 8)
    pieces: list[Piece] = [
        Panel("mat-1", Form("rectangle", *outer), *middle, name="mat", colour=PINE),
        Panel("sky-1", Form("rectangle", *inner), *middle, name="sky panel", on="mat-1", colour=CREAM),
        Blend("dusk-1", Form("rectangle", *inner), *middle, name="dusk wash", on="sky-1", colour=DUSK),
        Cutout("moon-1", "moon", 38.0, 31.0, on="sky-1", colour=LANTERN),
        Border("far-hill-1", "far-hill", inner[0], middle[0], 81.0, on="sky-1", colour=MOSS, start_mm=3.0),
        Cutout("tall-fern-1", "tall-fern", 24.0, 69.0, -6.0, margin_mm=0.0, on="sky-1", colour=FERN),
        Cutout("stump-letterbox-1", "stump-letterbox", 108.0, 64.0, margin_mm=0.0, on="sky-1", colour=BARK),
        Cutout(
            "toad-postmaster-1", "toad-postmaster", 70.0, 64.0, margin_mm=0.0, on="sky-1", colour=LICHEN, lift_mm=1.6
        ),
        Cutout("pond-1", "pond", 84.0, 87.0, on="sky-1", colour=POND),
        Cutout("ink-newt-1", "ink-newt", 86.0, 79.5, -24.0, margin_mm=0.0, on="sky-1", colour=CLAY),
        Cutout("dusk-moth-1", "dusk-moth", 100.5, 33.0, 8.0, margin_mm=0.0, on="sky-1", colour=HEATHER, lift_mm=1.6),
        Cutout("letter-1", "letter", 60.5, 36.0, -10.0, margin_mm=0.0, on="sky-1", colour=CREAM, lift_mm=1.6),
        Cutout("fern-window-1", "fern-window", *middle, colour=FERN, lift_mm=2.4),
        _strip("strip-1", "a little post for you", (69.8, 98.6), colour=CREAM, ink=PINE, lift_mm=3.2),
    ]
    work = _with(work, Card(title="Through the fern window", pieces=tuple(pieces), paper=CREAM))
    # the newt comes up through the water: what of the pond lies below the line goes before it
    ring = part_by_line(work, "pond-1", (40.0, 83.5), (130.0, 83.5), (84.0, 95.0))
    work = send_part(work, "pond-1", ring, past="ink-newt-1", side="over", name="water")
    top = middle[1] - 4 * MM_PER_INCH / 2
    for past, number in (("dusk-moth-1", 4), ("letter-1", 2)):
        x, reach = FRONDS[number]
        lean = 0.08 if x < 0 else -0.08
        at = (middle[0] + x + lean * 0.25 * reach, top + 6 + reach * 0.5)
        ring = strand_at(work, "fern-window-1", at)
        work = send_part(work, "fern-window-1", ring, past=past, side="under", name="frond")
    return work


def slimline_card(work: Work) -> Work:
    """Make a slimline whose moss edge and hill span it, with a banner."""
    width, height = Card(format="slimline").panel
    middle = (width / 2, height / 2)
    inner = all_round((width, height), MM_PER_INCH / 16)
    foot = height - MM_PER_INCH / 16

    def border(key: str, stamp: str, y: float, colour: str, start: float, lift: float = 0.0) -> Border:
        return Border(key, stamp, inner[0], middle[0], y, on="sky-1", colour=colour, start_mm=start, lift_mm=lift)

    pieces: list[Piece] = [
        Panel("sky-1", Form("rectangle", *inner), *middle, name="sky panel", colour="#fffdf8"),
        Blend("dusk-1", Form("rectangle", *inner), *middle, name="dusk wash", on="sky-1", colour="#ccdcec"),
        border("far-hill-1", "far-hill", foot - 21.0, LICHEN, 20.0),
        border("picket-1", "picket", foot - 20.0, CREAM, 4.0),
        Cutout("tall-fern-1", "tall-fern", 16.0, 56.0, -6.0, margin_mm=0.0, on="sky-1", colour=FERN),
        Cutout(
            "tall-fern-2", "tall-fern", 201.0, 55.5, 7.0, margin_mm=0.0, on="sky-1", colour=FERN, copy_of="tall-fern-1"
        ),
        Cutout("toadstool-1", "toadstool", 44.0, 64.0, margin_mm=0.0, on="sky-1", colour=ROSE, lift_mm=0.8),
        Cutout("lantern-1", "lantern", 66.0, 66.0, margin_mm=0.0, on="sky-1", colour=LANTERN),
        Cutout(
            "toad-postmaster-1", "toad-postmaster", 100.0, 62.0, margin_mm=0.0, on="sky-1", colour=LICHEN, lift_mm=1.6
        ),
        Cutout("parcel-1", "parcel", 127.0, 69.0, margin_mm=0.0, on="sky-1", colour=CLAY),
        Cutout("stump-letterbox-1", "stump-letterbox", 151.0, 63.5, margin_mm=0.0, on="sky-1", colour=BARK),
        Cutout("spotted-beetle-1", "spotted-beetle", 149.5, 45.0, margin_mm=0.0, on="sky-1", colour=BERRY, lift_mm=0.8),
        Cutout("courier-snail-1", "courier-snail", 172.0, 66.5, margin_mm=0.0, on="sky-1", colour=CLAY, lift_mm=1.6),
        Cutout("dusk-moth-1", "dusk-moth", 52.0, 24.0, -9.0, margin_mm=0.0, on="sky-1", colour=HEATHER, lift_mm=1.6),
        Cutout("letter-1", "letter", 26.0, 17.0, -12.0, margin_mm=0.0, on="sky-1", colour="#fffaf0", lift_mm=0.8),
        border("moss-edge-1", "moss-edge", foot - 8.6, MOSS, 10.0),
        border("moss-edge-2", "moss-edge", foot - 5.9, FERN, 23.0, 0.8),
        _strip("strip-1", "a little post for you", (137.0, 20.0), ends="fishtail", colour=PINE, ink=CREAM, lift_mm=2.4),
        Embellishment(
            "sequin-1",
            3.2,
            137.0,
            33.5,
            on="sky-1",
            colour=LANTERN,
            spots=tuple((x * 16.0, 0.0) for x in (-1.5, -0.5, 0.5, 1.5)),
        ),
    ]
    pieces = [_joined(piece, work) for piece in pieces]
    made = _with(work, Card(title="The long post round", format="slimline", pieces=tuple(pieces), paper=CREAM))
    return step_borders(made, {"moss-edge-1", "moss-edge-2"})[0]


def dusk_card(work: Work) -> Work:
    """Make a card of twelve impressions, all stamped: a dusk wash round a moon, a fern turned to both corners."""
    width, height = Card(format="a2").panel
    middle = (width / 2, height / 2)
    sky = (69.85, 39.0)

    def stamped(stamp: str, x: float, y: float, angle: float = 0.0, colour: str | None = None) -> Impression:
        return Impression(f"{stamp}-1", stamp, x, y, angle, colour=colour)

    fern = Impression("tall-fern-1", "tall-fern", 15.5, 77.5, -6.0)
    hanging = Impression("tall-fern-2", "tall-fern", 2 * middle[0] - fern.x, 2 * middle[1] - fern.y, 174.0)
    moon = Cover("disc", Form("ellipse", 22.0, 22.0), 91.0 - sky[0], 22.0 - sky[1])
    shore = Cover("torn", line=((-75.0, 32.0), (75.0, 36.0)), ragged_mm=4.0, seed=7)
    dusk = Blend(
        "dusk-1",
        Form("rectangle", 139.7, 78.0),
        *sky,
        name="dusk wash",
        colour=DUSK,
        covers=(moon, shore),
        inks=("#e6dff0", DUSK, "#5f5f92"),
        way="glow",
        centre=(moon.x, moon.y),
    )
    pieces: list[Piece] = [
        dusk,
        fern,
        hanging,
        stamped("stump-letterbox", 110.8, 81.8, colour=BARK),
        stamped("toadstool", 36.2, 82.7, -4.0, ROSE),
        stamped("toad-postmaster", 76.3, 79.1, colour=LICHEN),
        stamped("lantern", 55.8, 87.8, colour=LANTERN),
        stamped("parcel", 64.9, 97.6, 3.0, CREAM),
        stamped("ink-newt", 114.2, 96.4, colour=CLAY),
        stamped("courier-snail", 32.6, 93.2, colour=CLAY),
        stamped("moss-cushion", 85.2, 99.8, colour=MOSS),
        stamped("letter", 57.0, 41.2, -12.0, CREAM),
        stamped("dusk-moth", 47.6, 30.7, 8.0, HEATHER),
    ]
    return _with(work, Card(title="Dusk at the sorting stump", pieces=tuple(pieces)))


def cloud_card(work: Work) -> Work:
    """Make a card whose sky is a cloud bank stepped four times, with hills, a moss edge and figures before it."""
    width, height = Card(format="a2").panel
    middle = (width / 2, height / 2)
    sky = Stencilled(
        "sky-1", Form("rectangle", width, 68.0), middle[0], 34.0, name="cloud sky", colour=POND,
        stencil="cloud-bank", reach_mm=19.05,
    )  # fmt: skip
    inks = (POND, DUSK, HEATHER, ROSE)
    lays = step_stencil(work.stash.find("cloud-bank"), sky, 4, MM_PER_INCH * 5 / 8, inks=inks).lays
    pieces: list[Piece] = [
        msgspec.structs.replace(sky, lays=lays),
        Border("far-hill-1", "far-hill", width, middle[0], 84.0, colour=LICHEN, trim_to=CARD_EDGE),
        Cutout("tall-fern-1", "tall-fern", 14.0, 76.0, -8.0, margin_mm=0.0, colour=FERN),
        Cutout("stump-letterbox-1", "stump-letterbox", 109.0, 74.0, margin_mm=0.0, colour=BARK),
        Cutout("toad-postmaster-1", "toad-postmaster", 72.0, 76.0, margin_mm=0.0, colour=LICHEN, lift_mm=1.6),
        Cutout("courier-snail-1", "courier-snail", 38.0, 85.5, margin_mm=0.0, colour=CLAY, lift_mm=1.6),
        Cutout("dusk-moth-1", "dusk-moth", 104.0, 24.0, 9.0, margin_mm=0.0, colour=CREAM, lift_mm=1.6),
        Border("moss-edge-1", "moss-edge", width, middle[0], 101.0, colour=MOSS, trim_to=CARD_EDGE),
        _strip("strip-1", "a little post for you", (49.0, 17.0), colour=CREAM, ink=PINE, lift_mm=2.4),
    ]
    pieces = [_joined(piece, work) for piece in pieces]
    return _with(work, Card(title="Weather over the round", pieces=tuple(pieces), paper="#fffdf8"))


def with_tries(work: Work) -> Work:
    """Keep two layouts of a card: as it is, and with the greeting lower and the moth on the other side."""
    card = work.card
    width, _ = card.panel
    moved = {"greeting-post-1": (86.0, 24.0), "dusk-moth-1": (width - 105.5, 40.0), "letter-1": (22.0, 24.0)}
    other = tuple(
        msgspec.structs.replace(piece, x=moved[piece.id][0], y=moved[piece.id][1]) if piece.id in moved else piece
        for piece in card.pieces
    )
    tries = (Try("moth at the right", card.pieces), Try("moth at the left", other))
    return msgspec.structs.replace(work, card=msgspec.structs.replace(card, tries=tries))


def _joined(piece: Piece, work: Work) -> Piece:
    """Join a border that is longer than its die from cuts, as well as may be."""
    if not isinstance(piece, Border):
        return piece
    return msgspec.structs.replace(piece, cuts=best_span(work.stash.find(piece.stamp), piece.length_mm).cuts)


def _strip(key: str, words: str, at: tuple[float, float], *, ends: End = "straight", **fields: object) -> Strip:
    width, height = strip_for(words, 4.6, (ends, ends))
    strip = Strip(key, width, height, *at, words=words, words_mm=4.6, left=ends, right=ends)
    return msgspec.structs.replace(strip, **fields)


def _with(work: Work, card: Card) -> Work:
    return coloured(Work(msgspec.structs.replace(card, pieces=order_pieces(card.pieces)), work.stash))
