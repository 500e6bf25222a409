"""What tests share: plain stamps, small works, and a zoo of outlines."""

import os
from pathlib import Path

import pytest

from fair_thicket.desk.session.background import give_memory_back

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
TESTED = [0]


@pytest.fixture(autouse=True)
def _own_folders(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """No test touches the folders of whoever runs it."""
    for name in ("XDG_DATA_HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME"):
        monkeypatch.setenv(name, str(tmp_path / name.lower()))


def pytest_runtest_logfinish() -> None:
    """Give back what pictures of whole cards left free, so that several processes of tests have room."""
    TESTED[0] += 1
    if TESTED[0] % 20 == 0:
        give_memory_back()
