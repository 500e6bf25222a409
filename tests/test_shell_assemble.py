"""The word assemble of the shell."""

import json
from pathlib import Path

import pytest

from fair_thicket.cli import main
from fair_thicket.demo import CARD_FILES


def test_assemble_tells_heights_foam_glue_steps_and_post(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    out = tmp_path / "book.pdf"
    assert main(["assemble", str(CARD_FILES[4]), "-o", str(out), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert set(told) == {"heights", "foam", "glue", "steps", "post", "minutes", "optimal"}
    pieces = {one["id"]: one for one in told["heights"]["pieces"]}
    assert pieces["far-hill-1"]["bottom_mm"] == 0
    assert told["heights"]["most_mm"] == max(one["top_mm"] for one in pieces.values())
    assert {one["piece"] for one in told["foam"]} >= {"toad-postmaster-1", "strip-1"}
    assert all(len(one["outline"]) >= 3 for one in (*told["foam"], *told["glue"]))
    starts = {one["key"]: one["start_min"] for one in told["steps"]}
    assert all(starts[edge["key"]] <= one["start_min"] for one in told["steps"] for edge in one["after"])
    assert all(edge["because"] for one in told["steps"] for edge in one["after"])
    assert told["optimal"] is True
    assert told["post"]["thickness_mm"] == pytest.approx(0.7 + told["heights"]["most_mm"], abs=0.01)
    assert out.read_bytes().startswith(b"%PDF")
    assert main(["assemble", str(CARD_FILES[4])]) == 0
    assert "no order takes less time" in capsys.readouterr().out


def test_what_is_no_card_and_a_book_over_the_card_are_refused(
    capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    assert main(["assemble", str(tmp_path / "none.thicket")]) == 1
    card = tmp_path / "card.thicket"
    card.write_bytes(CARD_FILES[4].read_bytes())
    assert main(["assemble", str(card), "-o", str(card)]) == 1
    assert capsys.readouterr().err.count("\n") == 2
    assert card.read_bytes() == CARD_FILES[4].read_bytes()
