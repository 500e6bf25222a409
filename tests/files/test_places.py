"""Where files go, and what must not be written over."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from fair_thicket.cli import main
from fair_thicket.files.atomic import sweep_parts, write_whole
from fair_thicket.files.card_file import open_card, save_card
from fair_thicket.files.places import file_stem, fingerprint_of, has_changed
from fair_thicket.files.recovery import Autosave, recovery_folder, tidy_recovery
from making import pictures_of, work_of


@pytest.mark.parametrize(
    ("title", "stem"),
    [("moth / newt", "moth - newt"), ("../..", "-"), ("  ", "card"), ("a\nb\0c", "abc"), (".hidden.", "hidden")],
)
def test_a_title_makes_a_file_name_and_never_a_folder(title: str, stem: str) -> None:
    made = file_stem(title)
    assert "/" not in made
    assert made == stem
    assert len(file_stem("ż" * 400).encode()) <= 120


def test_a_file_that_another_program_wrote_is_known_and_one_that_was_only_touched_is_not(tmp_path: Path) -> None:
    file = tmp_path / "c.thicket"
    file.write_bytes(b"one")
    known = fingerprint_of(file)
    assert not has_changed(file, known)
    os.utime(file, ns=(1, 1))
    assert not has_changed(file, known)
    file.write_bytes(b"two")
    assert has_changed(file, known)
    file.unlink()
    assert not has_changed(file, known)


def test_a_link_stays_a_link_and_what_it_leads_to_is_written(tmp_path: Path) -> None:
    there, link = tmp_path / "there", tmp_path / "link"
    there.write_bytes(b"old")
    link.symlink_to(there)
    write_whole(link, b"new")
    assert link.is_symlink()
    assert there.read_bytes() == b"new"


def test_a_device_is_written_to_and_not_replaced(tmp_path: Path) -> None:
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    reader = os.open(pipe, os.O_RDONLY | os.O_NONBLOCK)
    write_whole(pipe, b"through")
    assert os.read(reader, 99) == b"through"
    os.close(reader)
    assert pipe.is_fifo()


@pytest.mark.parametrize("words", [["render"], ["print"]])
@pytest.mark.parametrize("target", ["c.thicket", "link.png", "other.thicket", "folder"])
def test_no_picture_is_written_over_a_card(
    words: list[str], target: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    work = work_of(("a", 20, 20))
    card = tmp_path / "c.thicket"
    save_card(card, work, pictures_of(work))
    (tmp_path / "link.png").symlink_to(card)
    (tmp_path / "folder").mkdir()
    before = card.read_bytes()
    assert main([*words, str(card), "-o", str(tmp_path / target)]) == 1
    assert capsys.readouterr().err.count("\n") == 1
    assert card.read_bytes() == before


def test_a_program_killed_while_it_writes_leaves_nothing_behind(tmp_path: Path) -> None:
    script = (
        "import os, sys, threading\nfrom pathlib import Path\nfrom fair_thicket.files.atomic import write_whole\n"
        "print('go', flush=True)\n"
        "while True: write_whole(Path(sys.argv[1]), os.urandom(2_000_000))\n"
    )
    target = tmp_path / "c.thicket"
    for number in range(6):
        run = subprocess.Popen([sys.executable, "-c", script, str(target)], stdout=subprocess.PIPE, text=True)
        assert run.stdout is not None
        run.stdout.readline()
        time.sleep(0.02 + 0.013 * number)
        run.send_signal(signal.SIGKILL)
        run.wait()
        run.stdout.close()
        sweep_parts(target)
        assert {file.name for file in tmp_path.iterdir()} <= {"c.thicket"}


def test_notes_and_parts_of_killed_programs_are_tidied_and_cards_are_not() -> None:
    folder = recovery_folder()
    work = work_of(("a", 20, 20))
    autosave = Autosave()
    autosave.keep(work, pictures_of(work), "")
    (folder / "999999999-0.json").write_bytes(b'{"pid": 999999999, "started": 5, "title": "gone", "path": ""}')
    (folder / ".999999999-1.thicket-999999999-abcd.part").write_bytes(b"half")
    tidy_recovery()
    assert {file.name for file in folder.iterdir()} == {autosave.file.name, autosave.file.with_suffix(".json").name}
    assert open_card(autosave.file)[0] == work
    autosave.drop()
