"""What came with version 4: stepped stencils, coats, water, paste, texture, grown frames. Older files still open."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cases import STASH
from fair_thicket.files.card_file import decode_card, encode_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import FileFormatError
from fair_thicket.model.pieces import Cutout, Form, Lay, Wash
from fair_thicket.model.spans import Cut

FORM = Form("rectangle", 100.0, 60.0)
PLACES = st.floats(-300, 300).map(lambda value: round(value, 3))
COLOURS = st.integers(0, 0xFFFFFF).map(lambda value: f"#{value:06x}")
LAYS = st.builds(Lay, x=PLACES, y=PLACES, flipped=st.booleans(), ink=st.none() | COLOURS)
WASHES = st.builds(
    Wash,
    id=st.just("sky-1"),
    form=st.just(FORM),
    x=PLACES,
    y=PLACES,
    how=st.sampled_from(["blend", "stencil", "splatter", "water", "paste", "texture"]),
    stencil=st.sampled_from(["", "wave"]),
    lays=st.lists(LAYS, max_size=12).map(tuple),
    reach_mm=st.floats(0, 300).map(lambda value: round(value, 3)),
    taped=st.lists(st.integers(0, 999), max_size=5).map(tuple),
    coats=st.integers(1, 9),
    mark=st.sampled_from(["dot", "wave", "grass"]),
    spots=st.lists(st.tuples(PLACES, PLACES), max_size=20).map(tuple),
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
    ("change", "words"),
    [
        ({"how": "sprayed"}, "sprayed"),
        ({"coats": 0}, ">= 1"),
        ({"coats": 10}, "<= 9"),
        ({"reach_mm": -1.0}, ">= 0"),
        ({"lays": [{"x": 9e9, "y": 0.0}]}, "<= 2000"),
        ({"lays": [{"x": 1.0}]}, "missing required field"),
        ({"lays": [{"x": 0.0, "y": 0.0}] * 13}, "length <= 12"),
        ({"spots": [[0.0, 0.0]] * 3001}, "length <= 3000"),
        ({"mark_mm": 0.0}, ">= 0.3"),
        ({"stencil": "nowhere"}, "no stamp “nowhere”"),
    ],
)
def test_what_no_wash_can_be_is_told_in_one_sentence(change: dict[str, object], words: str) -> None:
    data = json.loads(encode_card(Work(Card(pieces=(Wash("sky-1", FORM, 60.0, 40.0),)), STASH)))
    data["card"]["pieces"][0].update(change)
    with pytest.raises(FileFormatError) as caught:
        decode_card(json.dumps(data).encode(), "mine.thicket")
    said = str(caught.value)
    assert words in said
    assert "pieces[0]" in said
    assert "\n" not in said


def test_a_file_of_version_3_opens_as_it_is() -> None:
    wash = Wash("sky-1", FORM, 60.0, 40.0, how="stencil", stencil="wave", inks=("#8f8fb8", "#2d3558"), way="glow")
    data = json.loads(encode_card(Work(Card(pieces=(wash,)), STASH)))
    assert set(data["card"]["pieces"][0]) == {"type", "id", "form", "x", "y", "how", "stencil", "inks", "way"}
    data["version"] = 3
    assert decode_card(json.dumps(data).encode(), "old").card.pieces == (wash,)
