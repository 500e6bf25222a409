"""What tests share: plain stamps, small works, and a zoo of outlines."""

import datetime as dt
import os
from pathlib import Path

import pytest

from fair_thicket.desk.session.background import give_memory_back
from making import EVERY

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("TEST_DAY", str(dt.datetime.now(dt.UTC).toordinal()))  # the same for all processes of a run
FROM_ITEMS = 1500
"""From so many tests on it is a run of all of them."""
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


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Of the tests that take long (slow.txt), run one half today and the other tomorrow, when all are run.

    EVERY_CASE=1 and TEST_DAY=every run them all, and so does whoever asks for a file, a folder or a test.
    """
    if EVERY == 1 or len(items) < FROM_ITEMS or os.environ["TEST_DAY"] == "every":
        return
    slow = {name: place for place, name in enumerate((Path(__file__).parent / "slow.txt").read_text().splitlines())}
    today = int(os.environ["TEST_DAY"])
    left = [item for item in items if (slow.get(f"tests/{item.nodeid.split('tests/')[-1]}", today) + today) % 2]
    config.hook.pytest_deselected(items=left)
    items[:] = [item for item in items if item not in set(left)]
