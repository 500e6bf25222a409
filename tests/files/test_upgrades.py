"""Card files of every version there has been open, and are written anew as ones of the present version."""

import json
from pathlib import Path

import pytest

from fair_thicket.files.card_file import VERSION, decode_card, encode_card
from fair_thicket.model.errors import FileFormatError
from fair_thicket.model.pieces import Blend, Cover, Form, Lay, Paste, Splatter, Stencilled, Texture, Wash, Water

FILES = Path(__file__).parent / "versions"
"""Cards as the program of their time wrote them; of the first four only the things that are used."""
VERSIONS = range(1, VERSION)


def test_there_is_a_file_of_every_version_before_this() -> None:
    assert {int(path.stem) for path in FILES.glob("*.json")} == set(VERSIONS)
    assert [json.loads((FILES / f"{number}.json").read_text())["version"] for number in VERSIONS] == [*VERSIONS]


@pytest.mark.parametrize("number", VERSIONS)
def test_a_card_of_an_earlier_version_opens_whole_and_is_written_as_one_of_this(number: int) -> None:
    data = (FILES / f"{number}.json").read_bytes()
    before = json.loads(data)
    work = decode_card(data, "old")
    assert [piece.id for piece in work.card.pieces] == [piece["id"] for piece in before["card"]["pieces"]]
    for piece, was in zip(work.card.pieces, before["card"]["pieces"], strict=True):
        assert (piece.x, piece.y, piece.name) == (was["x"], was["y"], was.get("name", ""))
    after = json.loads(encode_card(work))
    assert after["version"] == VERSION
    assert decode_card(encode_card(work), "new") == work


def test_washes_of_version_5_become_their_kinds_and_lose_nothing_that_said_something() -> None:
    card = decode_card((FILES / "5.json").read_bytes(), "old").card
    (kept,) = card.tries[0].pieces
    washes = {type(piece): piece for piece in (*card.pieces, *card.inside, kept) if isinstance(piece, Wash)}
    assert washes.keys() == {Blend, Stencilled, Splatter, Water, Paste, Texture}
    for piece in washes.values():
        assert piece.covers == (Cover("disc", Form("ellipse", 9.0, 9.0)),)
        assert (piece.coats, piece.way, piece.inks) == (2, "glow", ("#112233", "#ddeeff"))
        assert (piece.form, piece.angle_deg, piece.centre) == (Form("rectangle", 60.0, 40.0), 5.0, (3.0, 4.0))
    stencilled, paste, texture = washes[Stencilled], washes[Paste], washes[Texture]
    assert isinstance(stencilled, Stencilled)
    assert stencilled.lays == (Lay(1.0, 2.0), Lay(-3.0, -6.0, flipped=True, ink="#aabbcc"))
    assert (stencilled.stencil, stencilled.reach_mm) == ("wave", 9.0)
    assert isinstance(paste, Paste)
    assert (paste.stencil, paste.lays) == ("wave", ())
    assert {(piece.drops, piece.seed) for piece in washes.values() if isinstance(piece, Splatter | Water)} == {(77, 9)}
    assert isinstance(texture, Texture)
    assert (texture.mark, texture.mark_mm, texture.pitch_mm, len(texture.spots)) == ("grass", 2.5, 6.0, 2)


@pytest.mark.parametrize(
    "change",
    [
        {"card": None}, {"card": []}, {"card": {"pieces": 7}}, {"card": {"pieces": [None, 3, {"type": "wash"}]}},
        {"card": {"pieces": [{"type": "wash", "how": "sprayed"}]}}, {"card": {"pieces": [{"type": "wash", "how": []}]}},
        {"card": {"tries": {"pieces": []}}}, {"card": {"tries": [None, {"pieces": 1}]}}, {"version": -3},
    ],
)  # fmt: skip
@pytest.mark.parametrize("number", VERSIONS)
def test_a_broken_card_of_any_version_is_refused_in_one_sentence(number: int, change: dict[str, object]) -> None:
    data = {**json.loads((FILES / "5.json").read_text()), "version": number, **change}
    with pytest.raises(FileFormatError) as caught:
        decode_card(json.dumps(data).encode(), "old.thicket")
    assert "\n" not in str(caught.value)
