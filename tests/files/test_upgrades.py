"""Card files of every version there has been open, and are written anew as ones of the present version."""

import functools
import json
import zipfile
from pathlib import Path

import pytest

from fair_thicket.files import card_file, documents, stash_file
from fair_thicket.files.card_file import VERSION, decode_card, encode_card
from fair_thicket.files.stash_file import open_stash
from fair_thicket.library import open_library
from fair_thicket.library import schema as library_schema
from fair_thicket.model import upgrades
from fair_thicket.model.errors import FileFormatError, LibraryError
from fair_thicket.model.pieces import Blend, Cover, Form, Lay, Paste, Splatter, Stencilled, Texture, Wash, Water
from making import framed_png

FILES = Path(__file__).parent / "versions"
"""Cards as the program of their time wrote them; of the first four only the things that are used."""
VERSIONS = range(1, VERSION)


def test_there_is_a_file_of_every_version_before_this() -> None:
    assert {int(path.stem) for path in FILES.glob("[0-9]*.json")} == set(VERSIONS)
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


OLD_STASHES = sorted(FILES.glob("stash-*.json"))
LIBRARIES = Path(__file__).parents[1] / "library" / "versions" / "libraries.zip"
"""Libraries as the programs of their time wrote them; of the first version none was ever handed out."""


def stash_of(file: Path, folder: Path) -> Path:
    """A stash file with the images' pictures, which are one and the same here."""
    data = json.loads(file.read_text())
    made = folder / f"{file.stem}.thicket-stash"
    with zipfile.ZipFile(made, "w") as archive:
        archive.writestr("stash.json", file.read_text())
        for name in {image["picture"] for image in data["images"]}:
            archive.writestr(name, framed_png(10, 10))
    return made


@pytest.mark.parametrize("file", OLD_STASHES, ids=lambda file: file.stem)
def test_a_stash_file_of_an_earlier_version_opens_whole(file: Path, tmp_path: Path) -> None:
    before = json.loads(file.read_text())
    document, pictures = open_stash(stash_of(file, tmp_path))
    assert [image.id for image in document.images] == [image["id"] for image in before["images"]]
    assert [image.outline for image in document.images] == [tuple(map(tuple, i["outline"])) for i in before["images"]]
    assert [supply.name for supply in document.supplies] == ["moss card", "fern", "reed 3"]
    assert pictures.keys() == {image.picture for image in document.images}


def old_library(number: str, folder: Path) -> Path:
    with zipfile.ZipFile(LIBRARIES) as archive:
        return Path(archive.extract(f"{number}.sqlite", folder))


@pytest.mark.parametrize("number", ["2", "3", "4", "5"])
def test_a_library_of_an_earlier_version_opens_whole(number: str, tmp_path: Path) -> None:
    library = open_library(old_library(number, tmp_path))
    entries = library.search()
    assert {entry.name for entry in entries} >= {"toad postmaster", "greeting post"}
    for entry in entries:
        stamp, pictures = library.load(entry.id)
        assert (stamp.name, stamp.kind) == (entry.name, entry.kind)
        assert pictures.keys() == set(stamp.pictures)
    assert sorted(supply.name for _, supply in library.list_supplies()) == ["fern", "moss card", "reed 3"]
    library.close()


def test_a_field_that_is_renamed_is_carried_over_everywhere(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """As if the next version calls an image by its `name` what this one calls `label`, and papers likewise."""
    label = upgrades.Upgrades(image=lambda image: image.update(name=image.pop("label")),
                              supply=lambda supply: supply.update(name=supply.pop("label")))  # fmt: skip
    steps = {**upgrades.UPGRADES, VERSION: label}
    card = json.loads((FILES / "9.json").read_text()) | {"version": VERSION}
    stash = json.loads(OLD_STASHES[-1].read_text()) | {"version": VERSION}
    for one in (*card["stash"]["stamps"], *stash["images"], *stash["supplies"]):
        one["label"] = one.pop("name")
    wanted = [one["label"] for one in card["stash"]["stamps"]]
    made = tmp_path / "labels.json"
    made.write_text(json.dumps(stash))
    library = open_library(old_library("5", tmp_path))
    names = sorted(entry.name for entry in library.search())
    for table, column in (("images", "stamp"), ("supplies", "supply")):
        for number, data in library._base.execute(f"SELECT id, {column} FROM {table}").fetchall():  # noqa: S608
            plain = json.loads(data)
            plain["label"] = plain.pop("name")
            change = f"UPDATE {table} SET {column} = ? WHERE id = ?"  # noqa: S608
            library._base.execute(change, (json.dumps(plain).encode(), number))
    library.close()
    with monkeypatch.context() as later:
        for place in (upgrades, card_file, stash_file, documents):
            later.setattr(place, "VERSION", VERSION + 1)
        later.setattr(library_schema, "FORM", VERSION + 1)
        for name in ("upgrade_card", "upgrade_stash", "upgrade_image", "upgrade_supply"):
            known = getattr(upgrades, name)
            for place in (card_file, stash_file, library_schema):
                if hasattr(place, name):
                    later.setattr(place, name, functools.partial(known, upgrades=steps))
        work = decode_card(json.dumps(card).encode(), "old")
        assert [stamp.name for stamp in work.stash.stamps] == wanted
        document, _ = open_stash(stash_of(made, tmp_path))
        assert [supply.name for supply in document.supplies] == ["moss card", "fern", "reed 3"]
        library = open_library(tmp_path / "5.sqlite")
        assert sorted(library.load(entry.id)[0].name for entry in library.search()) == names
        assert len(library.list_supplies()) == 3
        library.close()
    with pytest.raises(LibraryError, match="newer Fair Thicket"):
        open_library(tmp_path / "5.sqlite")
