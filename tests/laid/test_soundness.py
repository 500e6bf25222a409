"""One rule for what a card may hold: where it is changed, where it is packed, where it is read."""

from collections.abc import Callable
from typing import get_args, get_type_hints

import msgspec
import pytest

from fair_thicket.files.card_file import decode_card, encode_card, pack_card
from fair_thicket.laid.soundness import check_work
from fair_thicket.model.bounds import BOUNDS, MOST_FLAPS, MOST_JOINED, MOST_PIECES
from fair_thicket.model.card import Card, Dismissal, Try, Work
from fair_thicket.model.errors import FileFormatError, UnsoundError
from fair_thicket.model.masking import Pin
from fair_thicket.model.pieces import (
    Blend,
    Cover,
    Cutout,
    Embellishment,
    Flap,
    Form,
    Hold,
    Impression,
    Panel,
    Part,
    Piece,
    Splatter,
    Strip,
    Texture,
    Wash,
    Water,
    Window,
)
from fair_thicket.model.stash import Stash
from making import pictures_of, square, stamp, work_of

FLAP = Flap(square(), "a-1", "over")
BROKEN: dict[str, tuple[dict[str, object], str]] = {
    "joined": ({"pieces": (Cutout("b", "a", 1, 1, joined=(Part("a", 0, 0),) * (MOST_JOINED + 1)),)}, "images"),
    "flaps": ({"pieces": (Cutout("b", "a", 1, 1, flaps=(FLAP,) * (MOST_FLAPS + 1)),)}, "flaps"),
    "too many pieces": ({"pieces": tuple(Impression(f"a-{n}", "a", 1, 1) for n in range(MOST_PIECES + 1))}, "pieces"),
    "dismissals": ({"dismissed": (Dismissal("covered"),) * 5001}, "pieces of advice"),
    "a long strip": ({"pieces": (Strip("s", 1800.0, 9.0, 1, 1),)}, "1000 mm"),
    "a long title": ({"title": "t" * 200}, "120 letters"),
    "a wide rim": ({"mask_rim_mm": 9.0}, "3 mm"),
    "not a number": ({"mask_rim_mm": float("nan")}, "rim of masks"),
    "endless": ({"pieces": (Panel("p", Form("rectangle", 10, 10), float("inf"), 1),)}, "place"),
    "one id twice": ({"pieces": (Impression("a-1", "a", 1, 1),) * 2}, "same id"),
    "one id on both sides": (
        {"pieces": (Impression("a-1", "a", 1, 1),), "inside": (Impression("a-1", "a", 1, 1),)},
        "same id",
    ),
    "the card's own id": ({"pieces": (Impression("card", "a", 1, 1),)}, "id “card”"),
    "no such stamp": ({"pieces": (Impression("b-1", "b", 1, 1),)}, "stamp “b”"),
    "no such surface": ({"pieces": (Impression("a-1", "a", 1, 1, on="panel"),)}, "not there"),
    "in a layout too": ({"tries": (Try("left", (Impression("b-1", "b", 1, 1),)),)}, "stamp “b”"),
    "an own size without a size": ({"format": "custom"}, "needs its size"),
    "an own size of a metre": ({"format": "custom", "custom_mm": (1000.0, 1000.0)}, "420 mm"),
    "an own size of a hair": ({"format": "custom", "custom_mm": (0.1, 90.0)}, "20 mm"),
    "an empty flap": (
        {"pieces": (Cutout("b", "a", 1, 1, flaps=(Flap(((0, 0), (1, 1), (2, 2)), "a", "over"),)),)},
        "nothing",
    ),
    "windows": (
        {"pieces": (Panel("p", Form("ellipse", 9, 9), 1, 1, windows=(Window(Form("ellipse", 1, 1)),) * 41),)},
        "windows",
    ),
    "a pin of nothing": ({"masking": msgspec.structs.replace(Card().masking, pins=(Pin("first", ()),))}, "one pin"),
}


@pytest.mark.parametrize(("fields", "words"), BROKEN.values(), ids=list(BROKEN))
def test_a_card_that_no_file_could_hold_is_refused_where_it_is_made_packed_and_read(
    fields: dict[str, object], words: str
) -> None:
    sound = work_of(("a", 20, 20))
    broken = Work(msgspec.structs.replace(Card(), **fields), sound.stash)
    with pytest.raises(UnsoundError, match=words) as refused:
        check_work(broken, sound)
    assert str(refused.value)[:1].isupper()
    assert str(refused.value).endswith(".")
    with pytest.raises(UnsoundError):
        pack_card(broken, pictures_of(broken))
    with pytest.raises(FileFormatError):
        decode_card(encode_card(broken), "c.thicket")


@pytest.mark.parametrize("fields", [{"copies": 25}, {"name": ""}, {"outline": ((0, 0), (1, 1), (2, 2))}])
def test_a_stamp_beyond_its_limits_is_refused_wherever_it_comes_from(fields: dict[str, object]) -> None:
    sound = work_of(("a", 20, 20))
    broken = msgspec.structs.replace(
        sound, stash=msgspec.structs.replace(sound.stash, stamps=(msgspec.structs.replace(stamp("a"), **fields),))
    )
    with pytest.raises(UnsoundError):
        check_work(broken, sound)


def test_what_is_the_same_in_a_sound_card_is_not_looked_at_again(monkeypatch: pytest.MonkeyPatch) -> None:
    sound = work_of(("a", 20, 20))
    moved = msgspec.structs.replace(sound, card=msgspec.structs.replace(sound.card, title="moved"))
    monkeypatch.setattr("fair_thicket.laid.soundness.to_area", lambda ring: pytest.fail("looked at again"))
    check_work(moved, sound)


def test_every_limited_list_of_a_card_is_told_in_words_of_its_own() -> None:
    limited = set()
    for struct in (Card, Cutout, Panel, Wash, Hold):
        for field, hint in get_type_hints(struct, include_extras=True).items():
            metas = [meta for meta in get_args(hint) if isinstance(meta, msgspec.Meta)]
            if any(meta.max_length is not None for meta in metas):
                limited.add(field)
    assert limited - {"inside", "taped"} <= BOUNDS.keys()


def test_a_cover_cut_along_an_outline_that_encloses_nothing_is_refused() -> None:
    wash = Blend(id="w", form=Form("rectangle", 40, 30), x=50, y=50)
    flat = msgspec.structs.replace(wash, covers=(Cover("disc", ring=((0, 0), (20, 0), (10, 0))),))
    sound = work_of(("a", 20, 20))
    for piece, is_sound in ((wash, True), (flat, False)):
        card = msgspec.structs.replace(sound.card, pieces=(*sound.card.pieces, piece))
        work = msgspec.structs.replace(sound, card=card)
        if is_sound:
            check_work(work, sound)
        else:
            with pytest.raises(UnsoundError, match="encloses nothing"):
                check_work(work, sound)


BLOT = Form("rectangle", 60, 40)
AMOUNTS: dict[str, tuple[int, Callable[[int], tuple[Piece, ...]]]] = {
    "images": (
        300,
        lambda n: (
            *(Impression(f"i{k}", "a", 20, 20) for k in range(n - 200)),
            *(Cutout(f"c{k}", "a", 20, 20, joined=(Part("a", 1, 1),) * 99) for k in range(2)),
        ),
    ),
    "finishes": (
        5000,
        lambda n: tuple(
            Embellishment(f"e{k}", size_mm=2.0, x=20, y=20, spots=((0.0, 0.0),) * (400 if k < 12 else n - 4800))
            for k in range(13)
        ),
    ),
    "drops": (
        20_000,
        lambda n: (
            *(Splatter(f"s{k}", BLOT, 40, 40, colour="#203040", drops=1900) for k in range(10)),
            Water("w", BLOT, 40, 40, drops=n - 19_000),
        ),
    ),
    "marks of textures": (
        12_000,
        lambda n: tuple(
            Texture(f"t{k}", BLOT, 40, 40, colour="#203040", spots=((0.0, 0.0),) * (2500 if k < 4 else n - 10_000))
            for k in range(5)
        ),
    ),
}


@pytest.mark.parametrize("side", ["pieces", "inside"])
@pytest.mark.parametrize("things", AMOUNTS)
def test_a_side_holds_no_more_than_hands_make_all_pieces_together(things: str, side: str) -> None:
    """At the limit it is a card that opens; one more is refused with the number, where it is made and where read."""
    most, make = AMOUNTS[things]
    stash = Stash((stamp("a"),))
    full = Work(Card(**{side: make(most)}), stash)
    assert decode_card(encode_card(full), "card") == full
    over = Work(Card(**{side: make(most + 1)}), stash)
    with pytest.raises(UnsoundError, match=f"at most {most} {things}, all pieces together, and not {most + 1}"):
        check_work(over)
    with pytest.raises(FileFormatError, match=f"at most {most} {things}"):
        decode_card(encode_card(over), "card")
