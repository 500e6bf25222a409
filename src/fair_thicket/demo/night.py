"""The demo card with words, finishes and an inside: a night round, banner and vellum, stars and a stitched edge."""

import msgspec

from fair_thicket.demo.colours import coloured
from fair_thicket.edits.adding import strip_for
from fair_thicket.edits.extending import shade_feet
from fair_thicket.edits.word_forms import add_shadow
from fair_thicket.model.card import Card, Work, order_pieces
from fair_thicket.model.formats import all_round
from fair_thicket.model.pieces import (
    Blend,
    Border,
    Cutout,
    Embellishment,
    Form,
    Impression,
    Panel,
    Piece,
    Strip,
)
from fair_thicket.model.units import MM_PER_INCH

NIGHT, DUSK, ROSE, MOSS, PINE = "#2c3862", "#6f74a6", "#e6c3bb", "#8aa86f", "#1f3a30"
CREAM, LANTERN, CLAY, BARK, VELLUM, PALE = "#f6efdd", "#eec25a", "#c9794a", "#6b4f3a", "#fbfaf6", "#c6d6c4"
STARS = ((0.0, 0.0), (12.0, -6.0), (25.0, 0.5), (7.5, 6.0), (32.5, -6.5))
DEW = ((0.0, 0.0), (4.2, 3.0), (-3.4, 4.1))


def night_card(work: Work) -> Work:
    """Make a card with a folded banner in white powder, a greeting on vellum, finishes, an inside and a mark."""
    width, height = Card(format="a2").panel
    middle = (width / 2, height / 2)
    inner = all_round((width, height), MM_PER_INCH / 8)
    words = "good night, round the bank"
    wide, high = strip_for(words, 4.4, ("folded", "folded"))
    pieces: list[Piece] = [
        Panel("night-1", Form("rectangle", *inner, 3.0), *middle, name="night panel", colour=CREAM, edge="stitched"),
        Blend(
            "dusk-1", Form("rectangle", inner[0], 93.0), middle[0], 49.7, name="night wash", on="night-1",
            inks=(NIGHT, DUSK, ROSE), way="linear", colour=DUSK,
        ),
        Cutout("moon-1", "moon", 115.0, 31.0, on="night-1", colour=LANTERN),
        Border(
            "far-hill-1", "far-hill", inner[0], middle[0], 88.6, on="night-1", colour=MOSS, start_mm=3.0,
            trim_to="night-1",
        ),
        Panel(
            "vellum-1", Form("rectangle", 58.0, 12.5, 2.0), 86.0, 97.0, name="vellum", on="night-1", colour=VELLUM,
            translucent=True,
        ),
        Impression("greeting-post-1", "greeting-post", 86.0, 97.0, on="vellum-1"),
        Cutout("tall-fern-1", "tall-fern", 124.5, 66.5, 7.0, margin_mm=0.0, on="night-1", colour=MOSS),
        Cutout("toad-postmaster-1", "toad-postmaster", 80.0, 72.0, margin_mm=0.0, on="night-1", lift_mm=1.6),
        Cutout("courier-snail-1", "courier-snail", 29.0, 85.5, margin_mm=0.0, on="night-1"),
        Cutout("dusk-moth-1", "dusk-moth", 31.0, 60.0, -12.0, margin_mm=0.0, on="night-1", lift_mm=1.6),
        Strip(
            "banner-1", wide, high, 53.0, 19.0, words=words, words_mm=4.4, left="folded", right="folded",
            colour=PINE, ink="#ffffff", powder=True, on="night-1", lift_mm=1.6,
        ),
        Embellishment("stars-1", 4.6, 56.0, 44.0, shape="star", spots=STARS, colour=LANTERN, on="night-1"),
        Embellishment("glitter-1", 2.6, 113.0, 28.0, shape="glitter", spots=DEW, colour="#e2b64c", on="night-1"),
        Embellishment("bow-1", 11.0, 50.0, 97.0, -8.0, shape="bow", colour=CLAY, on="night-1"),
    ]  # fmt: skip
    card = Card(
        title="A night round", pieces=order_pieces(pieces), paper=PINE, inside=tuple(_inside((width, height))),
        mark="made on the fern bank",
    )  # fmt: skip
    made = coloured(Work(card, work.stash))
    made, _ = add_shadow(made, "moon-1", NIGHT)
    made, _ = shade_feet(made, "courier-snail-1", colour="#8c9a86")
    return msgspec.structs.replace(made, card=msgspec.structs.replace(made.card, pieces=order_pieces(made.card.pieces)))


def _inside(front: tuple[float, float]) -> list[Piece]:
    """Return the inside of a dark base: an insert, words, and an image so pale that a pen goes over it."""
    insert = all_round(front, MM_PER_INCH / 4)
    middle = (front[0] / 2, front[1] / 2)
    return [
        Panel("insert-1", Form("rectangle", *insert), *middle, name="insert", colour=CREAM),
        Impression("moth-in-1", "dusk-moth", 104.0, 76.0, 10.0, on="insert-1", ink=PALE, written_over=True),
        Impression("words-in-1", "greeting-post", middle[0], 26.0, on="insert-1", ink=PINE),
    ]
