"""Card files changed by chance: each is refused with its place, or every word of the shell stands it."""

import copy
import json
import os
import random
import zipfile
from collections.abc import Iterator
from pathlib import Path

import msgspec
import pytest

from cases_more import night
from fair_thicket.cli import main
from fair_thicket.files.card_file import open_card, save_card
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.card import Work
from fair_thicket.model.errors import FileFormatError
from fair_thicket.model.masking import Pin
from fair_thicket.model.pieces import Blend, Border, Embellishment, Form, Panel, Strip
from making import pictures_of, some_of, work_of

MUTANTS = int(os.environ.get("MUTANTS", "6"))
"""How many cards are changed."""
EXTREMES = (
    0, -1, 1e-9, 0.5, 3, 1999, -1999, 4e9, 1e308, "", "x", "wave", "figure-1", "#ffffff", None, True, [], {}, [[0, 0]],
    [[0, 0], [0, 0], [0, 0]], "ü" * 199, "\u202e\u0000", "moth-1",
)  # fmt: skip


def _work() -> Work:
    """A small card with a piece of every kind."""
    work = night()
    pieces = (
        *work.card.pieces,
        Panel("panel-1", Form("rectangle", 60, 40), 60, 60, colour="#c0a080"),
        Strip("strip-1", 60, 12, 60, 90, words="hello", ink="#203040"),
        Border("wave-1", "wave", 60, 60, 100),
        Embellishment("gems-1", size_mm=4.0, x=60, y=20),
        Blend("tint", Form("ellipse", 30, 30), 100, 80, colour="#d0e0f0"),
    )
    masking = msgspec.structs.replace(work.card.masking, pins=(Pin("press", ("figure-1",), press=1),))
    return Work(msgspec.structs.replace(work.card, pieces=pieces, masking=masking), work.stash)


def _places(value: object, path: tuple[object, ...] = ()) -> Iterator[tuple[object, ...]]:
    if isinstance(value, dict):
        for key, inner in value.items():
            yield (*path, key)
            yield from _places(inner, (*path, key))
    elif isinstance(value, list):
        for index, inner in enumerate(value):
            yield (*path, index)
            yield from _places(inner, (*path, index))


def _mutate(document: object, dice: random.Random) -> None:
    """Change one to three values of a document's card, or of its stash, to what nobody would write."""
    for _ in range(dice.randint(1, 3)):
        places = [place for place in _places(document) if place[0] in {"card", "stash"} and len(place) > 1]
        *way, last = dice.choice(places)
        there = document
        for step in way:
            there = there[step]  # type: ignore[index]
        what = dice.random()
        if what < 0.1 and isinstance(there, dict):
            del there[last]
        elif what < 0.4 and isinstance(there[last], int | float):  # type: ignore[index]
            there[last] *= dice.choice((-1, 0, 0.001, 30, 1000))  # type: ignore[index]
        else:
            there[last] = copy.deepcopy(dice.choice(EXTREMES))  # type: ignore[index]


@pytest.fixture(scope="module")
def parts(tmp_path_factory: pytest.TempPathFactory) -> dict[str, bytes]:
    work = _work()
    file = tmp_path_factory.mktemp("whole") / "card.thicket"
    save_card(file, work, pictures_of(work))
    with zipfile.ZipFile(file) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def _refusal(card: Path) -> str:
    """Why a card is not opened; empty when it is."""
    try:
        open_card(card)
    except FileFormatError as problem:
        return str(problem)
    return ""


def _pack(path: Path, parts: dict[str, bytes], how: int = zipfile.ZIP_DEFLATED) -> Path:
    with zipfile.ZipFile(path, "w", how) as archive:
        for name, data in parts.items():
            archive.writestr(name, data)
    return path


@pytest.mark.parametrize("seed", some_of(MUTANTS))
def test_a_changed_card_is_refused_with_its_place_or_every_engine_stands_it(
    seed: int, parts: dict[str, bytes], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    dice = random.Random(seed)
    for _ in range(60):  # most changes are refused; one that opens is worth more
        document = json.loads(parts["card.json"])
        _mutate(document, dice)
        card = _pack(tmp_path / "c.thicket", parts | {"card.json": json.dumps(document).encode()})
        refusal = _refusal(card)
        if not refusal:
            break
        assert "card.json" in refusal or "images/" in refusal
        assert "\n" not in refusal
    for words in (
        ["masks", card], ["visible", card], ["advice", card], ["rehearse", card, "-o", tmp_path / "r"],
        ["print", card, "-o", tmp_path / "c.pdf"], ["render", card, "-o", tmp_path / "c.png", "--dpi", "60"],
        ["sheets", card, "-o", tmp_path / "s", "--seconds", "0"],
    ):  # fmt: skip
        done = main([str(word) for word in words])
        told = capsys.readouterr().err
        assert done in (0, 1), words
        assert done == 0 or (told.startswith("fair-thicket: ") and told.count("\n") == 1), told


@pytest.mark.parametrize("how", [zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA])
def test_parts_that_are_packed_in_other_ways_are_refused_before_they_are_unpacked(
    how: int, parts: dict[str, bytes], tmp_path: Path
) -> None:
    bomb = _pack(tmp_path / "bomb.thicket", parts | {"card.json": b"[" * 80_000_000}, how)
    assert bomb.stat().st_size < 1_000_000
    with pytest.raises(FileFormatError, match=r"card\.json|packed"):
        open_card(bomb)


def test_a_part_that_is_larger_than_it_says_is_refused_where_the_limit_is_reached(
    parts: dict[str, bytes], tmp_path: Path
) -> None:
    bomb = _pack(tmp_path / "bomb.thicket", parts | {"card.json": b" " * 400_000_000})
    lying = bomb.read_bytes().replace((400_000_000).to_bytes(4, "little"), (1000).to_bytes(4, "little"))
    bomb.write_bytes(lying)
    with pytest.raises(FileFormatError):
        open_card(bomb)


@pytest.mark.parametrize("share", [0.1, 0.5, 0.9])
def test_a_damaged_picture_is_told_in_one_line(
    share: float, parts: dict[str, bytes], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    name = "images/figure.png"
    whole = parts[name]
    at = int(len(whole) * share)
    card = _pack(tmp_path / "c.thicket", parts | {name: whole[:at] + bytes(len(whole) - at)})
    for words in (["render", card, "-o", tmp_path / "c.png"], ["print", card, "-o", tmp_path / "c.pdf"]):
        done = main([str(word) for word in words])
        told = capsys.readouterr().err
        assert done == 0 or told.count("\n") == 1, told


@pytest.mark.parametrize("press", [1, 7, 99])
def test_a_wish_for_a_press_that_is_not_there_is_met_by_the_last_that_is(press: int) -> None:
    work = work_of(("a", 20, 30), ("b", 28, 34), ("c", 36, 38))
    pins = (Pin("press", ("a-1",), press=press),)
    work = Work(
        msgspec.structs.replace(work.card, masking=msgspec.structs.replace(work.card.masking, pins=pins)), work.stash
    )
    plan, refused = plan_with_pins(work)
    assert sorted(key for one in plan.presses for key in one.impressions) == ["a-1", "b-2", "c-3"]
    assert refused or plan.presses
