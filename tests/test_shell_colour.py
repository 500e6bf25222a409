"""Regions, runs and colours from the shell."""

import json
from pathlib import Path

import pytest
from PIL import Image

from fair_thicket.cli import main
from fair_thicket.demo import CARD_FILE, SUPPLIES_FILE
from fair_thicket.files.card_file import open_card, save_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Form, Panel
from fair_thicket.model.stash import Stash
from making import framed_png, pictures_of, work_of

ART = CARD_FILE.parent / "art"


def told(capsys: pytest.CaptureFixture[str], *words: object) -> dict[str, object]:
    assert main([*map(str, words), "--json"]) == 0
    return json.loads(capsys.readouterr().out)


def refused(capsys: pytest.CaptureFixture[str], *words: object) -> str:
    assert main(list(map(str, words))) == 1
    return capsys.readouterr().err


def test_regions_of_a_drawing_and_of_a_picture(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    drawn = told(capsys, "regions", ART / "courier-snail.svg")
    assert drawn["image"] == {"w_mm": pytest.approx(34, abs=0.1), "h_mm": pytest.approx(27, abs=0.2)}
    assert [region["id"] for region in drawn["regions"]] == list(range(1, len(drawn["regions"]) + 1))
    assert sorted(key for part in drawn["parts"] for key in part) == [region["id"] for region in drawn["regions"]]
    frame = tmp_path / "frame.png"
    frame.write_bytes(framed_png(10, 8, 0.6))
    (region,) = told(capsys, "regions", frame, "--dpi", 300)["regions"]
    assert region["area_mm2"] == pytest.approx(8.8 * 6.8, rel=0.03)
    xs, ys = zip(*region["outline"], strict=True)
    assert (min(xs), max(xs)) == pytest.approx((0.6, 9.4), abs=0.1)
    assert (min(ys), max(ys)) == pytest.approx((0.6, 7.4), abs=0.1)
    assert region["holes"] == []


def test_a_picture_without_regions_resolution_or_ink_is_told(
    capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    white, line = tmp_path / "white.png", tmp_path / "line.png"
    Image.new("L", (200, 200), 255).save(white, dpi=(300, 300))
    strip = Image.new("L", (300, 200), 255)
    strip.paste(0, (40, 100, 260, 108))
    strip.save(line)
    assert "nothing stamped" in refused(capsys, "regions", white)
    assert "--dpi" in refused(capsys, "regions", line)
    assert "no region that its lines close" in refused(capsys, "regions", line, "--dpi", 300)
    assert told(capsys, "regions", line, "--dpi", 300)["regions"] == []
    assert "not there" in refused(capsys, "regions", tmp_path / "none.png", "--dpi", 300)
    assert "is not a picture" in refused(capsys, "regions", SUPPLIES_FILE, "--dpi", 300)
    assert "was not scanned at" in refused(capsys, "regions", line, "--dpi", 1e9)
    dot = tmp_path / "dot.png"
    Image.new("L", (1, 1), 0).save(dot)
    assert "a few dots large" in refused(capsys, "regions", dot, "--dpi", 300)


def test_runs_out_of_a_list_of_markers(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    run = told(capsys, "runs", SUPPLIES_FILE, "--colour", "#4f8a4a", "--shades", 3)
    assert [shade["name"] for shade in run["run"]] == ["fern 4", "fern 3", "fern 2"]
    assert run["steps"] == pytest.approx([17.388, 18.917], abs=0.001)  # as scikit-image has them
    assert run["optimal"] is True
    kraft = told(capsys, "runs", SUPPLIES_FILE, "--colour", "#4f8a4a", "--shades", 2, "--paper", "#c3a27b")
    assert kraft["steps"] != run["steps"][:1]
    few = tmp_path / "few.csv"
    few.write_text("what,name,colour\nmarker,one,#4f8a4a\n", encoding="utf-8")
    assert "fewer shades" in refused(capsys, "runs", few, "--colour", "#4f8a4a")
    assert "1 to 6 shades" in refused(capsys, "runs", few, "--colour", "#4f8a4a", "--shades", 9)
    none = tmp_path / "none.csv"
    none.write_text("what,name,colour\nink,pond,#2c6e7f\n", encoding="utf-8")
    assert "no marker with a colour" in refused(capsys, "runs", none, "--colour", "#4f8a4a", "--shades", 1)
    bare = tmp_path / "bare.csv"
    bare.write_text("name,colour\nleaf,#4f8a4a\nmoss,#8aa465\n", encoding="utf-8")
    run = told(capsys, "runs", bare, "--colour", "#4f8a4a", "--shades", 2)["run"]
    assert [shade["name"] for shade in run] == ["leaf", "moss"]
    with pytest.raises(SystemExit):
        main(["runs", str(few), "--colour", "green"])
    assert "#3c6e47" in capsys.readouterr().err


def test_a_card_takes_the_first_suggestion(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    out = tmp_path / "out.thicket"
    made = told(capsys, "colour", CARD_FILE, "-o", out, "--markers", SUPPLIES_FILE, "--seed", 4)
    assert made["families"]
    assert 0 < made["score"] <= 1
    work, _ = open_card(out)
    before, _ = open_card(CARD_FILE)
    assert [piece.id for piece in work.card.pieces] == [piece.id for piece in before.card.pieces]
    assert work.card.find("toad-postmaster-1").colouring
    assert main(["colour", str(CARD_FILE), "-o", str(out)]) == 0
    assert "families" in capsys.readouterr().out


def test_an_image_without_regions_has_them_read_and_a_card_that_knows_no_markers_asks_for_a_list(
    capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    work = work_of(("toad", 30, 30), ("newt", 60, 30))
    card, out = tmp_path / "card.thicket", tmp_path / "out.thicket"
    save_card(card, work, pictures_of(work))
    assert "--markers" in refused(capsys, "colour", card, "-o", out)
    assert not out.exists()
    told(capsys, "colour", card, "-o", out, "--markers", SUPPLIES_FILE)
    assert all(piece.colouring for piece in open_card(out)[0].card.pieces)
    before = card.read_bytes()
    assert "ends in .thicket" in refused(capsys, "colour", card, "-o", tmp_path / "out.png")
    assert "another name" in refused(capsys, "colour", card, "-o", card, "--markers", SUPPLIES_FILE)
    assert card.read_bytes() == before


def test_a_card_of_plain_papers_is_written_as_it_was(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    card, out = tmp_path / "plain.thicket", tmp_path / "coloured.thicket"
    work = Work(Card(pieces=(Panel("panel-1", Form("rectangle", 60, 40), 70, 50),)), Stash())
    save_card(card, work, {})
    document = told(capsys, "colour", card, "-o", out, "--markers", SUPPLIES_FILE)
    assert (document["families"], document["score"]) == ([], None)
    assert open_card(out)[0] == open_card(card)[0]
    assert main(["colour", str(card), "-o", str(out), "--markers", str(SUPPLIES_FILE)]) == 0
    assert "as it was" in capsys.readouterr().out
