"""The library keeps what was told done, finds it as it is typed, and survives being killed."""

import io
import random
import signal
import sqlite3
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import msgspec
import pytest
from PIL import Image

from fair_thicket.files.stash_file import open_stash, save_stash
from fair_thicket.library import Library, open_library
from fair_thicket.library.schema import STEPS, THUMB_PX, VERSION
from fair_thicket.model.colouring import Region
from fair_thicket.model.errors import FileFormatError, LibraryError, PictureError
from fair_thicket.model.stash import Kind, Marks, Stamp, Zone
from fair_thicket.model.supplies import Ink, Marker, Paper
from fair_thicket.shape.die_picture import CUT_EDGE, CUT_PAPER, picture_cut
from making import framed_png, some_of, stamp

PICTURE = framed_png(10, 10)


def known(key: str, **fields: object) -> Stamp:
    return msgspec.structs.replace(stamp(key), **fields)


@pytest.fixture
def library(tmp_path: Path):
    made = open_library(tmp_path / "folder" / "library.sqlite")
    yield made
    made.close()


@pytest.fixture
def filled(library: Library) -> Library:
    images = [
        known("courier-snail", name="Courier snail", set_name="Fernside post", tags=("critter", "shell")),
        known("toad", name="toad", set_name="Fernside post", tags=("critter",)),
        known("moss-edge", name="moss edge", kind=Kind.BORDER, width_mm=108.0, may_flip=True),
        known("naif", name="Café naïf", tags=("words",), kind=Kind.GREETING),
    ]
    library.keep(images, {image.picture: PICTURE for image in images})
    return library


def names(entries: list) -> list[str]:
    return [entry.name for entry in entries]


def test_an_empty_library_finds_nothing(library: Library) -> None:
    assert (library.count(), library.search(), library.search("fern")) == (0, [], [])


@pytest.mark.parametrize(
    ("typed", "found"),
    [
        ("", ["Café naïf", "Courier snail", "moss edge", "toad"]),
        ("sn", ["Courier snail"]),
        ("fernside", ["Courier snail", "toad"]),
        ("critter to", ["toad"]),
        ("cafe naif", ["Café naïf"]),
        ("SHELL", ["Courier snail"]),
        ("nail", []),
        ('"; DROP TABLE images', []),
        ("* -", ["Café naïf", "Courier snail", "moss edge", "toad"]),
    ],
)
def test_images_are_found_by_beginnings_of_words(filled: Library, typed: str, found: list[str]) -> None:
    assert names(filled.search(typed)) == found


def test_kind_and_size_narrow_what_is_found(filled: Library) -> None:
    assert names(filled.search(kinds=[Kind.BORDER])) == ["moss edge"]
    assert names(filled.search(kinds=[Kind.STAMP, Kind.GREETING])) == ["Café naïf", "Courier snail", "toad"]
    assert names(filled.search(size_mm=(50, 200))) == ["moss edge"]
    assert names(filled.search(most=2)) == ["Café naïf", "Courier snail"]


def test_an_image_comes_back_as_it_was_kept_and_as_it_was_changed(filled: Library) -> None:
    entry = filled.search("snail")[0]
    image, picture = filled.load(entry.id)
    assert (image.set_name, image.tags) == ("Fernside post", ("critter", "shell"))
    assert picture == {"images/courier-snail.png": PICTURE}
    filled.change(entry.id, msgspec.structs.replace(image, name="old snail", marks=Marks(flies=True)))
    assert filled.search("courier") == []
    assert filled.load(filled.search("old")[0].id)[0].marks.flies
    filled.drop([entry.id])
    assert filled.search("snail") == []
    with pytest.raises(KeyError):
        filled.load(entry.id)


def test_images_are_kept_all_or_none(library: Library) -> None:
    with pytest.raises(PictureError, match="“toad” is missing or damaged"):
        library.keep([stamp("snail"), stamp("toad")], {"images/snail.png": PICTURE})
    assert library.count() == 0
    with pytest.raises(PictureError):
        library.keep([stamp("toad")], {}, [Ink("pond", "#2c6e7f")])
    assert library.list_supplies() == []
    library.keep([stamp("snail")], {"images/snail.png": PICTURE}, [Ink("pond", "#2c6e7f")])
    assert [supply.name for _, supply in library.list_supplies()] == ["pond"]


def test_what_is_kept_is_there_when_opened_again(filled: Library) -> None:
    again = Library(filled.path)
    assert again.count() == 4
    again.close()


def test_papers_inks_and_markers_are_kept(library: Library) -> None:
    paper = Paper("ivory base", "#fbf6e6", weight_gsm=298.0, sheets_left=12)
    numbers = library.keep_supplies([Ink("pond", "#2c6e7f"), Marker("fern 2", "#4f8a4a", "fe·2", "fern"), paper])
    assert [supply.name for _, supply in library.list_supplies()] == ["pond", "fern 2", "ivory base"]
    library.change_supply(numbers[2], msgspec.structs.replace(paper, sheets_left=11))
    ((_, kept),) = library.list_supplies("paper")
    assert kept.sheets_left == 11
    library.drop_supplies(numbers[:1])
    assert library.list_supplies("ink") == []


def test_a_library_of_an_earlier_version_is_brought_up_to_date(tmp_path: Path) -> None:
    path = tmp_path / "old.sqlite"
    base = sqlite3.connect(path)
    base.executescript(STEPS[0] + "PRAGMA user_version = 1;")
    base.execute("INSERT INTO images (name, set_name, tags, kind, longest_mm, stamp, picture, thumb)"
                 " VALUES ('snail', '', '', 'stamp', 9.0, ?, x'', x'')",
                 (msgspec.json.encode(stamp("snail")),))  # fmt: skip
    die = msgspec.structs.replace(stamp("moss"), kind=Kind.BORDER)
    base.execute("INSERT INTO images (name, set_name, tags, kind, longest_mm, stamp, picture, thumb)"
                 " VALUES ('moss', '', '', 'border die', 9.0, ?, x'', x'')",
                 (msgspec.json.encode(die),))  # fmt: skip
    base.commit()
    base.close()
    library = open_library(path)
    assert names(library.search("sna")) == ["snail"]
    assert library.search("moss")[0].thumb == picture_cut(die, THUMB_PX)
    library.keep_supplies([Ink("pond", "#2c6e7f")])
    library.close()


def test_a_die_is_shown_as_the_paper_it_cuts_and_a_stamp_by_its_picture(library: Library) -> None:
    (number,) = library.keep([stamp("snail")], {"images/snail.png": PICTURE})
    before = library.search("snail")[0].thumb
    library.change(number, msgspec.structs.replace(stamp("snail"), kind=Kind.DIE))
    with Image.open(io.BytesIO(library.search("snail")[0].thumb)) as shown:
        assert max(shown.size) == THUMB_PX
        assert shown.convert("RGBA").getpixel((shown.width // 2, shown.height // 2)) == (*CUT_PAPER, 255)
        row = [shown.convert("RGBA").getpixel((x, shown.height // 2)) for x in range(shown.width)]
        assert sum(one[:3] == CUT_EDGE and one[3] == 255 for one in row) in range(2, 7)  # two edges, two dots each
    library.change(number, stamp("snail"))
    assert library.search("snail")[0].thumb == before


def test_a_newer_a_damaged_and_a_foreign_library_are_told(tmp_path: Path) -> None:
    path = tmp_path / "new.sqlite"
    base = sqlite3.connect(path)
    base.execute(f"PRAGMA user_version = {VERSION + 1}")
    base.commit()
    base.close()
    with pytest.raises(LibraryError, match="newer Fair Thicket"):
        open_library(path)
    path = tmp_path / "text.sqlite"
    path.write_text("this is no library at all, it only looks like a file " * 40)
    with pytest.raises(LibraryError, match="it is damaged"):
        open_library(path)
    (tmp_path / "flat").write_text("")
    with pytest.raises(LibraryError):
        open_library(tmp_path / "flat" / "library.sqlite")


KEEPS = """
import sys, itertools
from pathlib import Path
sys.path[:0] = {paths!r}
from fair_thicket.library import open_library
from making import framed_png, some_of, stamp
from msgspec.structs import replace
picture = framed_png(10, 10)
library = open_library(Path(sys.argv[1]))
for number in itertools.count(int(sys.argv[2])):
    batch = [replace(stamp("snail"), name=f"snail {{number}} {{part}}") for part in range(3)]
    library.keep(batch, {{"images/snail.png": picture}})
    print(number, flush=True)
"""


def test_killed_50_times_in_the_middle_of_writing_nothing_committed_is_lost_and_nothing_is_half(
    tmp_path: Path,
) -> None:
    path = tmp_path / "library.sqlite"
    open_library(path).close()
    chance = random.Random(5)
    script = KEEPS.format(paths=[str(Path(__file__).parents[1])])
    told: list[int] = []
    for turn in some_of(50):
        start = 1000 * turn
        with subprocess.Popen(
            [sys.executable, "-c", script, str(path), str(start)], stdout=subprocess.PIPE, text=True
        ) as child:
            assert child.stdout is not None
            told.append(int(child.stdout.readline()))  # it writes
            time.sleep(chance.uniform(0, 0.03))
            child.send_signal(signal.SIGKILL)
            told += [int(line) for line in child.stdout.read().splitlines() if line.strip()]
    library = open_library(path)
    assert sqlite3.connect(path).execute("PRAGMA integrity_check").fetchone() == ("ok",)
    kept = {entry.name for entry in library.search(most=100_000)}
    assert {f"snail {number} {part}" for number in told for part in range(3)} <= kept
    batches = [name.rsplit(" ", 1)[0] for name in kept]
    assert all(batches.count(batch) == 3 for batch in set(batches))
    assert library.search(f"snail {told[-1]}")
    assert all(
        library.load(entry.id)[1] == {"images/snail.png": framed_png(10, 10)} for entry in library.search(most=5)
    )
    library.close()


def test_a_chosen_part_goes_out_and_comes_in_whole(filled: Library, tmp_path: Path) -> None:
    loaded = [filled.load(entry.id) for entry in filled.search("fernside")]
    path = tmp_path / "part.thicket-stash"
    images = [image for image, _ in loaded]
    save_stash(path, images, {name: data for _, own in loaded for name, data in own.items()}, [Ink("pond", "#2c6e7f")])
    document, pictures = open_stash(path)
    assert list(document.images) == images
    assert document.supplies == (Ink("pond", "#2c6e7f"),)
    other = open_library(tmp_path / "other.sqlite")
    other.keep(document.images, pictures)
    assert names(other.search("critter")) == ["Courier snail", "toad"]
    other.close()


def test_a_part_that_is_broken_is_told(tmp_path: Path) -> None:
    path = tmp_path / "part.thicket-stash"
    path.write_bytes(b"hello")
    with pytest.raises(FileFormatError, match=r"not a \.thicket-stash"):
        open_stash(path)
    line = msgspec.structs.replace(stamp("snail"), outline=((0.0, 0.0), (1.0, 1.0), (2.0, 2.0)))
    save_stash(path, [line], {line.picture: PICTURE})
    with pytest.raises(FileFormatError, match="encloses nothing"):
        open_stash(path)
    zone = Zone("face", ((0.0, 0.0), (1.0, 1.0), (2.0, 2.0)))
    save_stash(path, [msgspec.structs.replace(stamp("snail"), marks=Marks(zones=(zone,)))], {line.picture: PICTURE})
    with pytest.raises(FileFormatError, match="encloses nothing"):
        open_stash(path)
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("stash.json", '{"format": "fair-thicket stash", "version": 99}')
    with pytest.raises(FileFormatError, match="newer Fair Thicket"):
        open_stash(path)


def test_the_library_learns_how_an_image_is_coloured_by_its_very_picture(filled: Library) -> None:
    toad = known("toad", name="toad of the card", regions=(Region(4, ((0, 0), (3, 0), (0, 3))),))
    assert filled.recall(toad.picture, PICTURE) is not None
    assert filled.learn(toad, PICTURE)
    assert not filled.learn(toad, PICTURE)
    after = filled.recall(toad.picture, PICTURE)
    assert after is not None
    assert (after.regions, after.name, after.tags) == (toad.regions, "toad", ("critter",))
    assert not filled.learn(toad, framed_png(11, 11))
    assert filled.recall("images/none.png", PICTURE) is None
    assert [entry.name for entry in filled.search("toad")] == ["toad"]


def test_a_library_that_another_program_writes_to_is_told_without_a_long_wait(filled: Library) -> None:
    toad = known("toad")
    brief = open_library(filled.path, wait_s=0.01)
    other = sqlite3.connect(filled.path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    with pytest.raises(LibraryError, match="another program is writing to it; do it again in a moment"):
        brief.keep([toad], {toad.picture: PICTURE})
    other.execute("ROLLBACK")
    assert brief.keep([toad], {toad.picture: PICTURE})


def test_a_full_disk_is_told_in_a_sentence_and_the_library_goes_on(filled: Library) -> None:
    toad, base = known("toad"), sqlite3.connect(filled.path)
    pages = base.execute("PRAGMA page_count").fetchone()[0]
    filled._base.execute(f"PRAGMA max_page_count = {pages}")  # what a full disk answers
    with pytest.raises(LibraryError, match="its disk is full or cannot be written to; make some room"):
        filled.keep([toad] * 200, {toad.picture: PICTURE})
    filled._base.execute(f"PRAGMA max_page_count = {pages + 10_000}")
    assert len(filled.keep([toad] * 200, {toad.picture: PICTURE})) == 200
