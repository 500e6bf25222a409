"""What comes from outside is read apart: stopped at once, bounded in time and memory, and never the program's end."""

import os
import time
from pathlib import Path

import pytest

from fair_thicket.intake.apart import run_apart
from fair_thicket.intake.drawing_file import read_drawing
from fair_thicket.model.errors import InputError, LengthError, StoppedError

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm" viewBox="0 0 100 50">'


def double(number: int) -> int:
    return 2 * number


def refuse(words: str) -> None:
    raise LengthError(words)


def stumble() -> None:
    raise KeyError("something deep in a library")


def swallow_memory() -> int:
    return len(bytearray(64 << 30))


def spin() -> None:
    while True:
        pass


def test_what_a_function_gives_comes_back() -> None:
    assert run_apart(double, 21, name="a", seconds=60) == 42


def test_what_it_refuses_is_refused_in_its_own_words() -> None:
    with pytest.raises(InputError, match="“soon” is not a length"):
        run_apart(refuse, "soon", name="a", seconds=60)


@pytest.mark.parametrize("function", [stumble, os.abort, swallow_memory])
def test_whatever_else_goes_wrong_is_one_sentence(function: object) -> None:
    with pytest.raises(InputError) as told:
        run_apart(function, name="page.png", seconds=60)  # type: ignore[arg-type]
    assert str(told.value).startswith("page.png ")
    assert "\n" not in str(told.value)


def test_what_takes_too_long_is_given_up() -> None:
    with pytest.raises(InputError, match=r"more than 0\.3 seconds"):
        run_apart(spin, name="a", seconds=0.3)


def test_what_nobody_wants_any_more_stops_at_once() -> None:
    asked: list[float] = []

    def go_on() -> bool:
        asked.append(time.monotonic())
        return len(asked) < 3

    with pytest.raises(StoppedError):
        run_apart(spin, name="a", seconds=60, go_on=go_on)
    assert time.monotonic() - asked[-1] < 5  # killed, not waited for


@pytest.mark.parametrize(
    "path",
    [
        "M0 0 L1e308 1e308 L9e307 0z",
        "M0 0 C1e40 1e40 -1e40 1e40 10 0z",
        "M0 0 A1e30 1 0 0 0 9 9z",
        "M0 0 h1e39 v1e39 z",
        "M" + "0 0 " * 400 + "z",
    ],
)
def test_a_drawing_of_endless_numbers_is_refused_in_a_sentence(path: str, tmp_path: Path) -> None:
    file = tmp_path / "endless.svg"
    file.write_text(f'{HEAD}<path d="{path}" fill="none" stroke="#000" stroke-width="0.1"/></svg>')
    with pytest.raises(InputError) as told:
        run_apart(read_drawing, file, as_dies=True, name=file.name, seconds=60)
    assert str(told.value).startswith("endless.svg ")
