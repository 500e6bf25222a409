"""Sheets from the shell: jobs in, documents out, one sentence for what cannot be."""

import json
from pathlib import Path

import pytest

from fair_thicket.cli import main
from fair_thicket.demo import CARD_FILES, SUPPLIES_FILE

NEST = {
    "sheet": {"w_mm": 279.4, "h_mm": 215.9}, "gap_mm": 3, "edge_mm": 10, "turns": "any",
    "pieces": [
        {"id": "strip", "outline": [[0, 0], [60, 0], [60, 30], [0, 30]], "count": 5},
        {"id": "tent", "outline": [[0, 0], [40, 0], [20, 50]], "count": 2},
    ],
}  # fmt: skip
STOCK = {
    "sheets": [{"id": "letter", "w_mm": 215.9, "h_mm": 279.4, "count": None}], "kerf_mm": 0,
    "pieces": [{"id": "base", "w_mm": 107.95, "h_mm": 279.4, "count": 2, "turns": True}],
}  # fmt: skip


def job(folder: Path, document: object) -> str:
    path = folder / "job.json"
    path.write_text(document if isinstance(document, str) else json.dumps(document))
    return str(path)


def test_a_nest_gives_sheets_and_a_bound(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["nest", job(tmp_path, NEST), "--json", "--seconds", "0"]) == 0
    told = json.loads(capsys.readouterr().out)
    (sheet,) = told["sheets"]
    assert told["bound"] == 1
    assert len(sheet["pieces"]) == 7
    assert set(sheet["pieces"][0]) == {"id", "x_mm", "y_mm", "angle_deg"}
    assert 0 < sheet["used_mm"] < 259.4
    assert main(["nest", job(tmp_path, NEST), "--seconds", "0"]) == 0
    assert "none fewer will do" in capsys.readouterr().out


def test_a_stock_plan_gives_cuts_and_its_proof(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["stock", job(tmp_path, STOCK), "--json", "--seconds", "60"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["optimal"] is True
    assert told["bound"] == 1
    assert told["sheets"][0]["cuts"] == [{"x1": 107.95, "y1": 0.0, "x2": 107.95, "y2": 279.4}]
    assert {one["x_mm"] for one in told["sheets"][0]["pieces"]} == {0.0, 107.95}
    assert main(["stock", job(tmp_path, STOCK)]) == 0
    assert "1 cuts" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("word", "document", "words"),
    [
        ("nest", "{", "is no JSON"),
        ("nest", {**NEST, "turns": "twice"}, "no such job"),
        ("nest", {**NEST, "sheet": {"w_mm": -1, "h_mm": 5}}, "no such job"),
        ("nest", {**NEST, "pieces": [{"id": "a", "outline": [[0, 0], [900, 0], [900, 900]]}]}, "fits no sheet"),
        ("nest", {**NEST, "pieces": NEST["pieces"] * 2}, "of one id"),  # type: ignore[operator]
        ("nest", {**NEST, "more": 1}, "no such job"),
        ("stock", {**STOCK, "sheets": []}, "no sheet"),
        ("stock", {**STOCK, "sheets": [{"id": "a", "w_mm": 215.9, "h_mm": 279.4, "count": 0}]}, "too few sheets"),
        ("stock", {**STOCK, "pieces": [{"id": "a", "w_mm": 400, "h_mm": 300}]}, "larger than every sheet"),
        ("stock", {**STOCK, "kerf_mm": "wide"}, "no such job"),
    ],
)
def test_jobs_that_cannot_be_are_told_in_one_line(
    word: str, document: object, words: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main([word, job(tmp_path, document), "--json"]) == 1
    told = capsys.readouterr()
    assert told.out == ""
    assert words in told.err
    assert told.err.count("\n") == 1


def test_lists_and_cut_files_of_a_card_are_written(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "sheets"
    card = str(CARD_FILES[1])
    assert main(["sheets", card, "-o", str(out), "--supplies", str(SUPPLIES_FILE), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert len(told["things"]) == 14
    assert told["misfits"] == []
    assert told["files"] == sorted(path.name for path in out.iterdir())
    assert {"cut-list.csv", "images-white-card-1.svg", "images-white-card-1.dxf"} <= set(told["files"])
    assert (out / "cut-list.csv").read_text().count("\n") == 15
    assert all(one["optimal"] for one in told["stock"])
    assert main(["sheets", str(tmp_path / "none.thicket"), "-o", str(out)]) == 1
    assert "none.thicket" in capsys.readouterr().err
