"""Every kind of piece in a file: kept whole, refused in one sentence with its place; old files still open."""

import json
from collections.abc import Callable

import pytest

from cases import CASES, STASH, slit
from fair_thicket import edits
from fair_thicket.demo import CARD_FILES
from fair_thicket.edits.tries import keep_try
from fair_thicket.files.card_file import decode_card, encode_card, open_card
from fair_thicket.model.card import Card, Try, Work
from fair_thicket.model.errors import FileFormatError
from fair_thicket.model.limits import Limits
from fair_thicket.model.pieces import Impression


def document(work: Work | None = None) -> dict:
    return json.loads(encode_card(work or slit()))


def broken(change: Callable[[dict], object]) -> str:
    """What is said about a document that was changed."""
    data = document()
    change(data)
    with pytest.raises(FileFormatError) as caught:
        decode_card(json.dumps(data).encode(), "mine.thicket")
    return str(caught.value)


PIECE = {"type": "impression", "id": "new-1", "stamp": "figure", "x": 10.0, "y": 10.0}


@pytest.mark.parametrize(
    ("change", "words", "place"),
    [
        (
            lambda d: d["card"]["pieces"][1].update(on="nowhere"),
            "lies on “nowhere”, which is not there",
            "pieces[1].on",
        ),
        (lambda d: d["card"]["pieces"][0].update(on="panel-1"), "in a ring", "pieces[0].on"),
        (lambda d: d["card"]["pieces"].append({**PIECE, "id": "card"}), "may have the id “card”", "pieces"),
        (lambda d: d["card"]["pieces"].append({**PIECE, "id": "panel-1"}), "two pieces have the same id", "pieces"),
        (lambda d: d["card"].update(inside=[{**PIECE, "id": "panel-1"}]), "two pieces have the same id", "pieces"),
        (lambda d: d["card"]["pieces"].append({**PIECE, "stamp": "none"}), "no stamp “none”", "pieces[2].stamp"),
        (
            lambda d: d["card"]["pieces"].append({**PIECE, "inked": [[0, 0], [1, 1], [2, 2]]}),
            "encloses nothing",
            "pieces[2]",
        ),
        (
            lambda d: d["card"]["pieces"][0]["flaps"][0].update(ring=[[0, 0], [1, 1], [2, 2]]),
            "encloses nothing",
            "pieces[0]",
        ),
        (lambda d: d["card"].update(format="custom"), "custom format needs its size", "custom_mm"),
        (lambda d: d["card"].update(paper="red"), "regex", "paper"),
        (lambda d: d["card"]["pieces"].append({**PIECE, "type": "sculpture"}), "sculpture", "pieces[2]"),
        (lambda d: d["card"]["pieces"].append({**PIECE, "lift_mm": 3}), "unknown field", "pieces[2]"),
        (lambda d: d["card"]["pieces"][0]["form"].update(width_mm=0), ">= 0.1", "width_mm"),
        (
            lambda d: d["card"].update(tries=[{"name": "one", "pieces": [{**PIECE, "on": "x"}]}]),
            "not there",
            "tries[0].pieces[0].on",
        ),
        (lambda d: d["card"].update(limits={"contrast": 99}), "<= 21", "contrast"),
    ],
)
def test_a_broken_card_is_told_in_one_sentence_with_its_place(change: Callable, words: str, place: str) -> None:
    said = broken(change)
    assert words in said
    assert place in said
    assert "\n" not in said


def test_files_of_version_1_open_as_they_are() -> None:
    """As the first version wrote them: impressions with all their fields, and no other kinds."""
    stamp = json.loads(encode_card(Work(Card(), STASH)))["stash"]["stamps"][0]
    old = {
        "format": "fair-thicket card",
        "version": 1,
        "card": {
            "title": "old",
            "format": "a2",
            "landscape": True,
            "fold": "top",
            "unit": "in",
            "mask_rim_mm": 0.0,
            "pieces": [{"type": "impression", "id": "f-1", "stamp": "figure", "x": 17.0, "y": 66.0, "angle_deg": -7.0}],
        },
        "stash": {"stamps": [stamp]},
    }
    work = decode_card(json.dumps(old).encode(), "old")
    assert work.card.pieces == (Impression("f-1", "figure", 17.0, 66.0, -7.0),)
    assert work.card.limits == Limits()


def test_a_file_in_an_order_that_paper_does_not_allow_is_brought_into_one() -> None:
    data = document()
    data["card"]["pieces"].append(PIECE)
    work = decode_card(json.dumps(data).encode(), "mine")
    assert [piece.id for piece in work.card.pieces] == ["new-1", "panel-1", "figure-1"]


def test_what_has_its_usual_value_is_left_out_of_the_file() -> None:
    first = document()["card"]["pieces"][1]
    assert set(first) == {"type", "id", "stamp", "x", "y", "colour"}


def test_layouts_limits_and_what_was_dismissed_are_kept() -> None:
    work = keep_try(slit(), "one")
    work = edits.dismiss(edits.set_card(work, limits=Limits(near_mm=0.5)), "near", "figure-1")
    again = decode_card(encode_card(work), "mine")
    assert again == work
    assert isinstance(again.card.tries[0], Try)


@pytest.mark.parametrize("case", CASES)
def test_the_same_card_gives_the_same_bytes(case: Callable[[], Work]) -> None:
    assert encode_card(case()) == encode_card(case())


def test_all_demo_cards_open_and_use_every_kind_of_piece() -> None:
    kinds = set()
    for path in CARD_FILES:
        work, pictures = open_card(path)
        assert {stamp.picture for stamp in work.stash.stamps} <= pictures.keys()
        kinds |= {type(piece).__name__ for piece in work.card.pieces}
    assert kinds == {"Impression", "Cutout", "Panel", "Strip", "Border", "Blend", "Stencilled", "Embellishment"}
