"""The shell whatever its terminal does, and photos and both sides of a card from it."""

import io
import json
import os
import signal
import subprocess
import sys
import time
from functools import partial
from pathlib import Path

import msgspec
import numpy as np
import pytest
from PIL import Image
from pypdf import PdfReader

from cases import CASES
from cases_more import MORE_CASES
from fair_thicket.cli import main
from fair_thicket.demo import CARD_FILE, CARD_FILES, SUPPLIES_FILE
from fair_thicket.files.card_file import open_card, save_card
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Form, Impression, Panel
from fair_thicket.shell.output import speak
from making import EVERY, pictures_of

RUN = [sys.executable, "-m", "fair_thicket"]


def run(*words: object, **how: object) -> subprocess.CompletedProcess[str]:
    return subprocess.run(  # type: ignore[call-overload]
        [*RUN, *map(str, words)], check=False, capture_output=True, text=True, timeout=300, **how
    )


def test_a_closed_pipe_is_no_fault() -> None:
    made = subprocess.Popen([*RUN, "visible", str(CARD_FILE)], stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    assert made.stdout is not None
    made.stdout.close()
    _, told = made.communicate(timeout=300)
    assert told == b""


def test_a_full_disk_is_told_in_one_line() -> None:
    with Path("/dev/full").open("w") as full:
        words = [*RUN, "visible", str(CARD_FILE)]
        made = subprocess.run(words, check=False, stdout=full, stderr=subprocess.PIPE, timeout=300)
    assert made.returncode == 1
    assert made.stderr.count(b"\n") == 1
    assert b"no space left" in made.stderr


def test_a_terminal_of_few_letters_gets_what_it_can_show() -> None:
    made = run("advice", CARD_FILES[1], env={**os.environ, "PYTHONIOENCODING": "ascii", "LC_ALL": "C"})
    assert made.returncode == 0
    assert made.stderr == ""
    assert "?" in made.stdout


def test_ctrl_c_while_a_library_loads_ends_in_one_line(capfd: pytest.CaptureFixture[str]) -> None:
    """A library of compiled code that is interrupted while it loads raises ImportError instead."""

    def load() -> int:
        try:
            signal.raise_signal(signal.SIGINT)
        except KeyboardInterrupt:
            raise ImportError("initialization failed") from None
        return 0

    assert speak(load) == 130
    assert capfd.readouterr().err == "fair-thicket: stopped.\n"
    with pytest.raises(ImportError, match="nowhere"):
        speak(partial(__import__, "nowhere_to_be_found"))


def test_ctrl_c_ends_in_one_line() -> None:
    made = subprocess.Popen([*RUN, "advice", str(CARD_FILE)], stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    script = Path(f"/proc/{made.pid}/cmdline")
    while b"advice" not in script.read_bytes():
        pass
    time.sleep(1.0)
    made.send_signal(signal.SIGINT)
    _, told = made.communicate(timeout=300)
    assert made.returncode in (130, 0, -2)
    assert b"Traceback" not in told


@pytest.mark.parametrize("words", [["--gap", "nan"], ["--gap", "-1"], ["--dpi", "inf"], ["--dpi", "soon"]])
def test_numbers_that_are_none_are_wrong_usage(words: list[str]) -> None:
    with pytest.raises(SystemExit) as ended:
        main(["scan", "sheet.png", *words])
    assert ended.value.code == 2


# -- photos --------------------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def photo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A photo of the demo sheet, as a phone would write it."""
    from fair_thicket.demo import sheet
    from fair_thicket.simulators.camera import Camera, take_photo
    from fair_thicket.simulators.scanner import Glass

    page, _ = sheet(Glass(dpi=300, lid=None, noise=0, slope=0, dust=0))
    pixels = take_photo(page, (215.9, 279.4), Camera(tilt_deg=15))
    file = tmp_path_factory.mktemp("photo") / "sheet.jpg"
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0x829A] = (1, 60)
    Image.fromarray(pixels).save(file, quality=92, dpi=(72, 72), exif=exif)
    return file


def test_a_photo_is_read_by_its_sheet_and_told_when_it_is_taken_for_a_scan(
    photo: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["scan", str(photo), "--photo", "--sheet", "letter", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert len(found["images"]) == 14
    assert main(["scan", str(photo)]) == 1
    told = capsys.readouterr().err
    assert "is a photo and no scan" in told
    assert told.count("\n") == 1
    for words in (["--photo"], ["--photo", "--card", "--length", "30"], ["--card"], ["--photo", "--dpi", "300"]):
        assert main(["scan", str(photo), *words]) == 1
        assert capsys.readouterr().err.count("\n") == 1


def test_so_many_tiny_images_are_doubted(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    page = np.full((800, 600), 250, np.uint8)
    for row in range(40, 760, 40):
        for column in range(40, 560, 40):
            page[row : row + 11, column : column + 11] = 30
    Image.fromarray(page).save(tmp_path / "dots.png", dpi=(72, 72))
    assert main(["scan", str(tmp_path / "dots.png"), "--json"]) == 0
    out = capsys.readouterr()
    assert len(json.loads(out.out)["images"]) > 60
    assert "is the resolution of 72 dpi right" in out.err


# -- both sides ----------------------------------------------------------------------------------------------------


@pytest.fixture
def two_sided(tmp_path: Path) -> Path:
    work, pictures = open_card(CARD_FILE)
    panel = Panel("panel-9", Form("rectangle", 60, 40), 60, 50)
    inside = (panel, Impression("letter-9", "letter", 60, 50, on="panel-9"))
    file = tmp_path / "two.thicket"
    save_card(file, Work(msgspec.structs.replace(work.card, inside=inside), work.stash), pictures)
    return file


def test_every_word_of_the_shell_sees_the_inside(
    two_sided: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    def asked(*words: object) -> dict[str, object]:
        assert main([*map(str, words), "--json"]) == 0
        return json.loads(capsys.readouterr().out)

    assert asked("masks", two_sided)["inside"]["presses"][0]["impressions"] == ["letter-9"]  # type: ignore[index]
    assert {one["id"] for one in asked("visible", two_sided)["inside"]["pieces"]} == {"panel-9", "letter-9"}  # type: ignore[index]
    assert {one["side"] for one in asked("advice", two_sided)["findings"]} == {"front", "inside"}  # type: ignore[attr-defined, index]
    assert asked("rehearse", two_sided, "-o", tmp_path / "frames")["inside"]["equal"] is True  # type: ignore[index]
    assert (tmp_path / "frames" / "inside" / "press-01.png").exists()
    assert main(["render", str(two_sided), "-o", str(tmp_path / "in.png"), "--dpi", "60", "--side", "inside"]) == 0
    assert main(["print", str(two_sided), "-o", str(tmp_path / "two.pdf"), "--svg", str(tmp_path / "svg")]) == 0
    pages = [page.extract_text() for page in PdfReader(io.BytesIO((tmp_path / "two.pdf").read_bytes())).pages]
    assert pages[0].startswith("Front: where everything goes")
    assert sum("Inside: where everything goes" in page for page in pages) == 1
    assert any("A2 inside" in page for page in pages)


def test_a_card_whose_inside_alone_bears_anything_is_printed_as_such(
    two_sided: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    work, pictures = open_card(two_sided)
    save_card(two_sided, Work(msgspec.structs.replace(work.card, pieces=()), work.stash), pictures)
    assert main(["print", str(two_sided), "-o", str(tmp_path / "in.pdf")]) == 0
    pages = [page.extract_text() for page in PdfReader(io.BytesIO((tmp_path / "in.pdf").read_bytes())).pages]
    assert pages[0].startswith("Inside: where everything goes")
    assert main(["masks", str(two_sided), "--json"]) == 0
    assert "inside" in json.loads(capsys.readouterr().out.splitlines()[-1])


@pytest.mark.parametrize("case", [*CASES, *MORE_CASES][::EVERY], ids=lambda case: case.__name__)
def test_every_composition_goes_through_every_word(case: object, tmp_path: Path) -> None:
    work = case()  # type: ignore[operator]
    card = tmp_path / "c.thicket"
    save_card(card, work, pictures_of(work))
    for words in (
        ["masks", card], ["visible", card], ["advice", card], ["rehearse", card, "-o", tmp_path / "r"],
        ["print", card, "-o", tmp_path / "c.pdf", "--svg", tmp_path], ["render", card, "-o", tmp_path / "c.png"],
        ["sheets", card, "-o", tmp_path / "s", "--seconds", "0"], ["assemble", card, "-o", tmp_path / "a.pdf"],
        ["colour", card, "-o", tmp_path / "coloured.thicket", "--markers", SUPPLIES_FILE],
    ):  # fmt: skip
        assert main([str(word) for word in words]) == 0, words
    coloured, _ = open_card(tmp_path / "coloured.thicket")
    assert len(coloured.card.pieces) == len(work.card.pieces)


@pytest.mark.parametrize("word", ["rehearse", "sheets"])
def test_a_file_in_the_place_of_a_folder_is_told_as_one(
    word: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    card = tmp_path / "c.thicket"
    card.write_bytes(CARD_FILE.read_bytes())
    assert main([word, str(card), "-o", str(card)]) == 1
    assert "is a file" in capsys.readouterr().err
    assert card.read_bytes() == CARD_FILE.read_bytes()
