"""What came with version 4: stepped stencils, coats, water, paste, texture, grown frames."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cases import STASH
from fair_thicket.files.card_file import decode_card, encode_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import FileFormatError
from fair_thicket.model.pieces import (
    Blend,
    Cutout,
    Form,
    Lay,
    Paste,
    Splatter,
    Stencilled,
    Texture,
    Wash,
    Water,
)
from fair_thicket.model.spans import Cut

FORM = Form("rectangle", 100.0, 60.0)
PLACES = st.floats(-300, 300).map(lambda value: round(value, 3))
COLOURS = st.integers(0, 0xFFFFFF).map(lambda value: f"#{value:06x}")
LAYS = st.builds(Lay, x=PLACES, y=PLACES, flipped=st.booleans(), ink=st.none() | COLOURS)
PLACED = {"id": st.just("sky-1"), "form": st.just(FORM), "x": PLACES, "y": PLACES, "coats": st.integers(1, 9)}
THROUGH = {
    "stencil": st.sampled_from(["", "wave"]),
    "lays": st.lists(LAYS, max_size=12).map(tuple),
    "reach_mm": st.floats(0, 300).map(lambda value: round(value, 3)),
    "taped": st.lists(st.integers(0, 999), max_size=5).map(tuple),
}
DROPS = {"drops": st.integers(1, 2000), "seed": st.integers(0, 1_000_000)}
WASHES = st.one_of(
    st.builds(Blend, **PLACED),
    st.builds(Stencilled, **PLACED, **THROUGH),
    st.builds(Paste, **PLACED, **THROUGH),
    st.builds(Splatter, **PLACED, **DROPS),
    st.builds(Water, **PLACED, **DROPS),
    st.builds(
        Texture,
        **PLACED,
        mark=st.sampled_from(["dot", "wave", "grass"]),
        spots=st.lists(st.tuples(PLACES, PLACES), max_size=20).map(tuple),
    ),
)


@settings(max_examples=60)
@given(WASHES)
def test_every_wash_opens_as_it_was_saved(wash: Wash) -> None:
    work = Work(Card(pieces=(wash,)), STASH)
    assert decode_card(encode_card(work), "mine") == work


def test_a_grown_frame_opens_as_it_was_saved() -> None:
    cuts = (Cut(0.0, 70.0, 0.0), Cut(40.0, 116.0, 64.0))
    work = Work(Card(pieces=(Cutout("f-1", "vines", 60.0, 50.0, across=cuts, down=cuts),)), STASH)
    assert decode_card(encode_card(work), "mine") == work


@pytest.mark.parametrize(
    ("wash", "change", "words"),
    [
        (Blend, {"type": "sprayed"}, "sprayed"),
        (Blend, {"coats": 0}, ">= 1"),
        (Blend, {"coats": 10}, "<= 9"),
        (Blend, {"drops": 30}, "unknown field"),
        (Paste, {"reach_mm": -1.0}, ">= 0"),
        (Stencilled, {"lays": [{"x": 9e9, "y": 0.0}]}, "<= 2000"),
        (Stencilled, {"lays": [{"x": 1.0}]}, "missing required field"),
        (Stencilled, {"lays": [{"x": 0.0, "y": 0.0}] * 13}, "length <= 12"),
        (Texture, {"spots": [[0.0, 0.0]] * 3001}, "length <= 3000"),
        (Texture, {"mark_mm": 0.0}, ">= 0.3"),
        (Stencilled, {"stencil": "nowhere"}, "no stamp “nowhere”"),
    ],
)
def test_what_no_wash_can_be_is_told_in_one_sentence(wash: type[Wash], change: dict[str, object], words: str) -> None:
    data = json.loads(encode_card(Work(Card(pieces=(wash("sky-1", FORM, 60.0, 40.0),)), STASH)))
    data["card"]["pieces"][0].update(change)
    with pytest.raises(FileFormatError) as caught:
        decode_card(json.dumps(data).encode(), "mine.thicket")
    said = str(caught.value)
    assert words in said
    assert "pieces[0]" in said
    assert "\n" not in said
