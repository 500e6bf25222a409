"""The card file: what is saved opens the same; what is broken is told with its place and changes nothing."""

import io
import zipfile
from collections.abc import Callable
from pathlib import Path

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fair_thicket.files import atomic
from fair_thicket.files.card_file import card_schema, decode_card, encode_card, open_card, pack_card, save_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import FileFormatError, PictureError, StorageError
from fair_thicket.model.pieces import Impression
from fair_thicket.model.stash import Stash
from fair_thicket.model.units import Unit
from making import framed_png, pictures_of, stamp, work_of

PARTS = dict[str, bytes]


@pytest.fixture
def work() -> Work:
    return work_of(("snail", 20, 30), ("toad", 40, 40), title="Fernside post", unit=Unit.MM)


@pytest.fixture
def parts(work: Work) -> PARTS:
    with zipfile.ZipFile(io.BytesIO(pack_card(work, pictures_of(work)))) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def pack(path: Path, parts: PARTS) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in parts.items():
            archive.writestr(name, data)
    return path


def test_a_saved_card_opens_the_same(work: Work, tmp_path: Path) -> None:
    pictures = pictures_of(work)
    save_card(tmp_path / "card.thicket", work, pictures)
    assert open_card(tmp_path / "card.thicket") == (work, pictures)
    save_card(tmp_path / "again.thicket", work, pictures)
    assert (tmp_path / "again.thicket").read_bytes() == (tmp_path / "card.thicket").read_bytes()


def test_a_card_file_holds_json_pictures_and_a_preview(parts: PARTS) -> None:
    assert set(parts) == {"card.json", "preview.png", "images/snail.png", "images/toad.png"}
    assert parts["preview.png"].startswith(b"\x89PNG")


coordinate = st.floats(-2000, 2000)
impressions = st.builds(
    Impression, id=st.from_regex(r"\A[a-z0-9][a-z0-9-]{0,12}\Z"), stamp=st.just("snail"), x=coordinate, y=coordinate,
    angle_deg=st.floats(-360, 360),
)  # fmt: skip


@settings(max_examples=50, deadline=None)
@given(
    st.lists(impressions, max_size=8, unique_by=lambda piece: piece.id),
    st.text(max_size=120),
    st.booleans(),
    st.floats(-1, 3),
)
def test_whatever_a_card_holds_survives_its_file(pieces: list, title: str, landscape: bool, rim: float) -> None:
    title = title.encode("utf-8", "ignore").decode()
    made = Work(Card(title=title, landscape=landscape, mask_rim_mm=rim, pieces=tuple(pieces)), Stash((stamp("snail"),)))
    assert decode_card(encode_card(made), "card") == made


def json_with(parts: PARTS, old: bytes, new: bytes) -> PARTS:
    assert old in parts["card.json"], old
    return {**parts, "card.json": parts["card.json"].replace(old, new, 1)}


def without(parts: PARTS, name: str) -> PARTS:
    return {key: data for key, data in parts.items() if key != name}


BROKEN: dict[str, tuple[Callable[[PARTS], PARTS], str]] = {
    "no card": (lambda parts: without(parts, "card.json"), "has no card.json"),
    "no picture": (lambda parts: without(parts, "images/toad.png"), r"at images/toad.png\): this picture is missing"),
    "leads out": (lambda parts: {**parts, "../outside": b"x"}, "leads out"),
    "absolute": (lambda parts: {**parts, "/etc/x": b"x"}, "leads out"),
    "no json": (lambda parts: {**parts, "card.json": b"{"}, "not readable JSON"),
    "not text": (lambda parts: {**parts, "card.json": b"\xff\xfe\x00"}, "not readable JSON"),
    "a list": (lambda parts: {**parts, "card.json": b"[]"}, "expected `object`"),
    "deep": (lambda parts: {**parts, "card.json": b"[" * 200_000}, "(not readable JSON|expected)"),
    "other": (lambda parts: json_with(parts, b"fair-thicket card", b"other"), r"\$.format"),
    "newer": (lambda parts: json_with(parts, b'"version": 10', b'"version": 11'), "made by a newer Fair Thicket"),
    "wrong type": (lambda parts: json_with(parts, b'"x": 20,', b'"x": "left",'), r"\$.card.pieces\[0\].x"),
    "nan": (lambda parts: json_with(parts, b'"x": 20,', b'"x": NaN,'), "not readable JSON"),
    "endless": (lambda parts: json_with(parts, b'"x": 20,', b'"x": 1e999,'), "pieces"),
    "far": (lambda parts: json_with(parts, b'"x": 20,', b'"x": 1e7,'), r"\$.card.pieces\[0\].x"),
    "unknown field": (lambda parts: json_with(parts, b'"x": 20,', b'"z": 1, "x": 20,'), "unknown field"),
    "lost stamp": (lambda parts: json_with(parts, b'"stamp": "snail"', b'"stamp": "newt"'), "no stamp “newt”"),
    "twins": (lambda parts: json_with(parts, b'"id": "toad-2"', b'"id": "snail-1"'), "two pieces have the same id"),
    "twin stamps": (
        lambda parts: json_with(parts, b'"id": "toad",', b'"id": "snail",'),
        "(two stamps have the same id|no stamp)",
    ),
    "path in a picture": (lambda parts: json_with(parts, b"images/toad.png", b"../toad.png"), r"stamps\[1\].picture"),
    "no outline": (
        lambda parts: {
            **parts,
            "card.json": encode_card(
                Work(Card(), Stash((msgspec.structs.replace(stamp("a"), outline=((0, 0), (1, 1), (2, 2))),)))
            ),
        },
        "encloses nothing",
    ),
    "no png": (lambda parts: {**parts, "images/toad.png": b"GIF89a"}, "damaged or no PNG"),
    "cut png": (lambda parts: {**parts, "images/toad.png": framed_png(9, 9)[:60]}, "damaged or no PNG"),
    "crowd": (lambda parts: {**parts, **{f"x{k}": b"" for k in range(2100)}}, "holds 2104 files"),
    "bomb": (lambda parts: {**parts, "card.json": b" " * 70_000_000}, "larger than 64 MB"),
}


@pytest.mark.parametrize("name", BROKEN)
def test_a_broken_card_is_told_in_one_sentence_with_its_place(name: str, parts: PARTS, tmp_path: Path) -> None:
    change, words = BROKEN[name]
    path = pack(tmp_path / "broken.thicket", change(parts))
    with pytest.raises(FileFormatError, match=words) as caught:
        open_card(path)
    assert str(caught.value).startswith("broken.thicket cannot be opened as a card")
    assert len(str(caught.value)) < 400


def test_a_file_that_is_no_zip_or_was_cut_short_is_told(work: Work, tmp_path: Path) -> None:
    path = tmp_path / "card.thicket"
    path.write_bytes(b"hello")
    with pytest.raises(FileFormatError, match=r"not a \.thicket file"):
        open_card(path)
    whole = pack_card(work, pictures_of(work))
    for share in (0.1, 0.5, 0.9, 0.99):
        path.write_bytes(whole[: int(len(whole) * share)])
        with pytest.raises(FileFormatError):
            open_card(path)
    with pytest.raises(FileFormatError, match="is not there"):
        open_card(tmp_path / "none.thicket")
    with pytest.raises(FileFormatError, match="is a folder"):
        open_card(tmp_path)


def refusal(path: Path) -> str | None:
    try:
        open_card(path)
    except FileFormatError as problem:
        return str(problem)
    return None


def test_flipped_bytes_never_crash(work: Work, tmp_path: Path) -> None:
    whole = bytearray(pack_card(work, pictures_of(work)))
    path = tmp_path / "card.thicket"
    for place in range(0, len(whole), max(1, len(whole) // 150)):
        flipped = bytearray(whole)
        flipped[place] ^= 0x5A
        path.write_bytes(flipped)
        problem = refusal(path)
        assert problem is None or "\n" not in problem


def test_a_picture_that_is_missing_is_told_before_anything_is_written(work: Work, tmp_path: Path) -> None:
    path = tmp_path / "card.thicket"
    path.write_bytes(b"old")
    with pytest.raises(PictureError, match="scan the stamp again"):
        save_card(path, work, {})
    assert path.read_bytes() == b"old"


@pytest.mark.parametrize("fault", ["replace", "fsync", "fdopen"])
def test_a_failing_disk_leaves_the_old_file_whole(fault: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "card.thicket"
    path.write_bytes(b"old")

    def full(*_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(atomic.os, fault, full)
    with pytest.raises(StorageError, match=r"no space left on device.*Nothing that was there has changed"):
        atomic.write_whole(path, b"new")
    monkeypatch.undo()
    assert path.read_bytes() == b"old"
    assert [file.name for file in tmp_path.iterdir()] == ["card.thicket"]


def test_a_missing_folder_is_told(tmp_path: Path) -> None:
    with pytest.raises(StorageError, match="is not there"):
        atomic.write_whole(tmp_path / "none" / "card.thicket", b"new")


def test_the_published_schema_is_the_one_in_force() -> None:
    published = Path(__file__).parents[2] / "docs" / "card-file.schema.json"
    assert msgspec.json.decode(published.read_bytes()) == msgspec.json.decode(msgspec.json.encode(card_schema()))
