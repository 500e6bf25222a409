"""Setting up on a machine where something is missing: a sentence each, and what was half made is made anew."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

HOME = Path(__file__).parents[1]


@pytest.fixture
def project(tmp_path: Path) -> Path:
    """A place with the setup script alone, and commands that stand in for the machine's."""
    (tmp_path / "setup").mkdir()
    shutil.copy(HOME / "setup" / "environment.sh", tmp_path / "setup")
    bare = tmp_path / "commands"
    bare.mkdir()
    _command(bare / "id", "echo 1000")  # nobody who may install packages
    return tmp_path


def _command(path: Path, script: str) -> Path:
    path.write_text(f"#!/usr/bin/env bash\n{script}\n", encoding="utf-8")
    path.chmod(0o755)
    return path


def _run(project: Path, words: str) -> subprocess.CompletedProcess[str]:
    environment = os.environ | {"PATH": f"{project / 'commands'}:{os.environ['PATH']}"}
    script = f'. "{project}/setup/environment.sh"; {words}'
    return subprocess.run(
        ["/bin/bash", "-c", script], check=False, capture_output=True, text=True, timeout=300, env=environment
    )


def test_without_the_venv_package_one_line_says_what_to_type_and_nothing_is_left_behind(project: Path) -> None:
    python = _command(project / "commands" / "python-bare", 'case "$*" in *ensurepip*|*venv*) exit 1;; esac')
    made = _run(project, f'need_venv "{python}"')
    assert made.returncode != 0
    assert made.stderr.strip() == (
        "Python cannot make virtual environments here. Type: sudo apt-get install python3-venv"
    )
    assert not (project / ".venv").exists()


def test_an_environment_that_was_left_half_made_is_made_anew(project: Path) -> None:
    (project / ".venv" / "bin").mkdir(parents=True)
    _command(project / ".venv" / "bin" / "python", 'echo "No module named pip" >&2; exit 1')
    made = _run(project, f'need_venv "{sys._base_executable}"')
    assert (made.returncode, made.stderr) == (0, "")
    whole = subprocess.run(
        [project / ".venv" / "bin" / "python", "-m", "pip", "--version"], check=False, capture_output=True, timeout=60
    )
    assert whole.returncode == 0


def test_an_unfit_python_is_told_in_one_line(project: Path) -> None:
    for name in ("python3.11", "python3.12", "python3.13", "python3"):
        _command(project / "commands" / name, "exit 1")
    made = _run(project, "find_python")
    assert made.returncode == 1
    assert made.stderr == "Fair Thicket needs Python 3.11 to 3.13; install it, then start this again.\n"


def test_a_full_disk_is_told_as_such_and_not_as_a_missing_package(project: Path) -> None:
    """Before anything is made: what the disk has left and what is needed; and when it fills up under way."""
    shutil.copy(HOME / "pyproject.toml", project)
    shutil.copy(HOME / "setup" / "constraints.txt", project / "setup")
    _command(project / "commands" / "df", "echo Filesystem; echo '/dev/one 90000 89963 37 100% /'")
    full = _run(project, 'need_environment ""')
    assert full.returncode == 1
    assert full.stderr == (
        f"Setting up takes about 1100 MB, and the disk of {project} has 37 MB left. Make room, then start this again.\n"
    )
    assert not (project / ".venv").exists()
    _command(project / "commands" / "df", "echo Filesystem; echo '/dev/one 90000 89963 3700 100% /'")
    (project / ".venv" / "bin").mkdir(parents=True)
    says = 'case "$*" in *install*) echo "OSError: [Errno 28] No space left on device"; exit 1;; esac'
    _command(project / ".venv" / "bin" / "python", says)
    filled = _run(project, 'need_environment ""')
    assert filled.returncode == 1
    assert filled.stderr.splitlines()[-1] == (
        f"The disk of {project} is full: setting up takes about 1100 MB. Make room, then start this again."
    )
