"""A killed program offers its work again; a running one does not."""

import os
import signal
import subprocess
import sys
from pathlib import Path

from fair_thicket.files.card_file import open_card
from fair_thicket.files.recovery import Autosave, drop_recovered, find_recovered, recovery_folder
from making import pictures_of, work_of

KEEPS = """
import sys, time
sys.path[:0] = {paths!r}
from making import pictures_of, work_of
from fair_thicket.files.recovery import Autosave
work = work_of(("snail", 20, 30), title="killed")
Autosave().keep(work, pictures_of(work), "/somewhere/card.thicket")
print("kept", flush=True)
time.sleep(60)
"""


def test_the_work_of_a_killed_program_is_found_and_opens(tmp_path: Path) -> None:
    paths = [str(Path(__file__).parents[1])]
    with subprocess.Popen(
        [sys.executable, "-c", KEEPS.format(paths=paths)], stdout=subprocess.PIPE, text=True
    ) as child:
        assert child.stdout is not None
        assert child.stdout.readline() == "kept\n"
        assert find_recovered() == []  # it still runs
        os.kill(child.pid, signal.SIGKILL)
        child.wait()
    (left,) = find_recovered()
    assert (left.title, left.path) == ("killed", "/somewhere/card.thicket")
    assert open_card(left.autosave)[0].card.title == "killed"
    drop_recovered(left)
    assert find_recovered() == []


def test_a_saved_card_leaves_nothing_behind() -> None:
    work = work_of(("snail", 20, 30))
    autosave = Autosave()
    autosave.keep(work, pictures_of(work))
    assert autosave.file.exists()
    other = Autosave()
    assert other.file != autosave.file
    autosave.drop()
    assert list(recovery_folder().iterdir()) == []


def test_unreadable_notes_are_passed_over() -> None:
    (recovery_folder() / "1-0.json").write_bytes(b"{")
    (recovery_folder() / "2-0.json").write_bytes(b'{"pid": 1, "started": 1, "title": "x", "path": ""}')
    assert find_recovered() == []
