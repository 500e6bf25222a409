"""The shell face, run as a person would."""

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from fair_thicket import cli
from fair_thicket.demo import CARD_FILE, SHEET_MM
from fair_thicket.files.card_file import open_card
from fair_thicket.simulators.scanner import Drawing, Glass, lay_out, scan_page
from making import square

DISC = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="20mm" viewBox="0 0 20 20">'
    '<circle cx="10" cy="10" r="8" fill="none" stroke="#000" stroke-width="0.6"/></svg>'
)


def run(capsys: pytest.CaptureFixture[str], *words: object) -> tuple[int, str, str]:
    code = cli.main([str(word) for word in words])
    out, err = capsys.readouterr()
    return code, out, err


def picture(path: Path) -> np.ndarray:
    with Image.open(path) as image:
        return np.asarray(image)


@pytest.fixture
def scan(tmp_path: Path) -> Path:
    made = [Drawing("disc", DISC)]
    pixels = scan_page(made, lay_out(made, (60.0, 80.0)), (60.0, 80.0), Glass(skew_deg=2))
    path = tmp_path / "sheet.png"
    Image.fromarray(pixels).save(path, dpi=(300, 300))
    return path


def bare(tmp_path: Path, **changes: object) -> Path:
    def at(x: float, y: float) -> list[list[float]]:
        return [[px + x, py + y] for px, py in square(10)]

    scene = {
        "panel": {"w_mm": 100, "h_mm": 80},
        "copies": {"fern": 1},
        "impressions": [
            {"id": "f", "stamp": "fern", "outline": at(26, 20), "holes": []},
            {"id": "b", "stamp": "toad", "outline": at(20, 20)},
        ],
        **changes,
    }
    path = tmp_path / "scene.json"
    path.write_text(json.dumps(scene))
    return path


def test_scan_tells_page_and_images(scan: Path, capsys: pytest.CaptureFixture[str]) -> None:
    code, out, _ = run(capsys, "scan", scan, "--json")
    document = json.loads(out)
    assert code == 0
    assert set(document) == {"dpi", "page", "images"}
    assert document["dpi"] == 300
    assert set(document["page"]) == {"w_mm", "h_mm", "skew_deg"}
    (image,) = document["images"]
    assert set(image) == {"name", "cx_mm", "cy_mm", "w_mm", "h_mm", "outline", "pockets"}
    assert image["pockets"] == []
    assert image["w_mm"] == pytest.approx(16.6, abs=0.1)
    xs = [x for x, _ in image["outline"]]
    assert (min(xs) + max(xs)) / 2 == pytest.approx(image["cx_mm"], abs=0.1)
    code, out, _ = run(capsys, "scan", scan, "--sheet", "60x80")
    assert code == 0
    assert "1 images on a page of" in out


def test_masks_of_the_bare_form(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    code, out, _ = run(capsys, "masks", bare(tmp_path), "--json")
    document = json.loads(out)
    assert code == 0
    assert document["presses"] == [{"impressions": ["f"], "masked": []}, {"impressions": ["b"], "masked": ["f"]}]
    (mask,) = document["masks"]
    assert (mask["stamp"], mask["for"], mask["full_mm"]) == ("fern", ["f"], 40)
    assert mask["careful_mm"] == pytest.approx(24, abs=0.01)
    assert (document["placements"], document["deepest_pile"], document["optimal"]) == (1, 1, True)
    assert "2 presses, 1 masks to cut, 24 mm with care, proven best" in run(capsys, "masks", bare(tmp_path))[1]


def test_visible_of_the_bare_form(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    document = json.loads(run(capsys, "visible", bare(tmp_path), "--json")[1])
    assert document["pieces"] == [
        {"id": "f", "area_mm2": 100, "visible_mm2": 100, "hidden_by": {}},
        {"id": "b", "area_mm2": 100, "visible_mm2": 60, "hidden_by": {"f": 40}},
    ]


def test_a_card_file_and_its_card_json_give_the_same_plan(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    import zipfile

    with zipfile.ZipFile(CARD_FILE) as archive:
        (tmp_path / "card.json").write_bytes(archive.read("card.json"))
    whole = run(capsys, "masks", CARD_FILE, "--json")[1]
    assert whole == run(capsys, "masks", tmp_path / "card.json", "--json")[1]
    assert json.loads(whole)["optimal"] is True


def test_the_demo_card_is_judged_rehearsed_printed_and_rendered(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    findings = json.loads(run(capsys, "advice", CARD_FILE, "--json")[1])["findings"]
    assert {"near", "proven"} <= {finding["code"] for finding in findings}
    report = json.loads(run(capsys, "rehearse", CARD_FILE, "-o", tmp_path / "frames", "--json")[1])
    assert report["equal"] is True
    assert len(report["frames"]) == report["presses"] + 2  # bare paper, and coloured at last
    last, scene = (picture(tmp_path / "frames" / name) for name in (report["frames"][-1], "scene.png"))
    unlike = np.abs(last.astype(int) - scene).max(axis=2) > 1  # inks multiply in another order
    assert unlike.mean() < 1e-5  # ten pixels beside a pile are skipped, too few to be seen
    assert run(capsys, "print", CARD_FILE, "-o", tmp_path / "plan.pdf", "--paper", "a4")[0] == 0
    assert (tmp_path / "plan.pdf").read_bytes().startswith(b"%PDF")
    assert run(capsys, "render", CARD_FILE, "-o", tmp_path / "scene.png", "--dpi", 100)[0] == 0
    assert picture(tmp_path / "scene.png").shape == (425, 550, 3)


BAD: dict[str, tuple[str, str]] = {
    "not json": ("{", "is not readable JSON"),
    "a list": ("[1]", "is not a scene"),
    "no panel": ('{"impressions": []}', "missing required field `panel`"),
    "a line": (
        '{"panel":{"w_mm":9,"h_mm":9},"impressions":[{"id":"a","stamp":"s","outline":[[0,0],[1,1],[2,2]]}]}',
        "encloses nothing",
    ),
    "short": (
        '{"panel":{"w_mm":9,"h_mm":9},"impressions":[{"id":"a","stamp":"s","outline":[[0,0],[1,1]]}]}',
        r"impressions[0].outline",
    ),
    "nan": (
        '{"panel":{"w_mm":NaN,"h_mm":9},"impressions":[]}',
        "is not readable JSON",
    ),
    "twins": (
        '{"panel":{"w_mm":9,"h_mm":9},"impressions":['
        '{"id":"a","stamp":"s","outline":[[0,0],[1,0],[0,1]]},{"id":"a","stamp":"s","outline":[[0,0],[1,0],[0,1]]}]}',
        "two impressions have the same id",
    ),
    "no copies": (
        '{"panel":{"w_mm":9,"h_mm":9},"copies":{"s":0},"impressions":[]}',
        "copies",
    ),
    "a card with no stash": ('{"format":"fair-thicket card","version":1,"card":{}}', "missing required field `stash`"),
}


@pytest.mark.parametrize("name", BAD)
@pytest.mark.parametrize("command", ["masks", "visible"])
def test_a_bad_scene_gives_one_line_and_exit_code_1(
    name: str, command: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    text, words = BAD[name]
    path = tmp_path / "scene.json"
    path.write_text(text)
    code, out, err = run(capsys, command, path)
    assert (code, out) == (1, "")
    assert words in err
    assert err.startswith("fair-thicket: ")
    assert err.count("\n") == 1


def test_what_cannot_be_done_is_told_in_one_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for words in (
        ["scan", tmp_path / "none.png"],
        ["scan", CARD_FILE, "--sheet", "napkin"],
        ["masks", tmp_path / "none.json"],
        ["advice", tmp_path / "none.thicket"],
        ["render", CARD_FILE, "-o", tmp_path / "x.png", "--dpi", "1"],
        ["print", CARD_FILE, "-o", tmp_path / "none" / "x.pdf"],
    ):
        code, out, err = run(capsys, *words)
        assert (code, out) == (1, ""), words
        assert err.count("\n") == 1


@pytest.mark.parametrize("words", [["scan"], ["nonsense"], ["scan", "x", "--dpi", "a"], ["print", "x"]])
def test_wrong_usage_is_exit_code_2(words: list[str]) -> None:
    with pytest.raises(SystemExit) as caught:
        cli.main(words)
    assert caught.value.code == 2


def test_without_a_screen_the_desk_says_so(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    for name in ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY"):
        monkeypatch.delenv(name, raising=False)
    code, _, err = run(capsys)
    assert code == 1
    assert "no screen" in err


def test_the_shipped_demo_is_what_the_simulated_scanner_gives(tmp_path: Path) -> None:
    """The card that opens at once equals the one made anew through the whole path."""
    done = subprocess.run(
        [sys.executable, "-c", "import sys; from pathlib import Path; from fair_thicket.demo import demo_work; "
         "from fair_thicket.demo.cards import with_tries; work, pictures = demo_work(); "
         "from fair_thicket.files.card_file import save_card; save_card(Path(sys.argv[1]), with_tries(work), pictures)",
         str(tmp_path / "made.thicket")],
        check=True,
    )  # fmt: skip
    assert done.returncode == 0
    made, shipped = open_card(tmp_path / "made.thicket")[0], open_card(CARD_FILE)[0]
    assert made.card == shipped.card
    for new, old in zip(made.stash.stamps, shipped.stash.stamps, strict=True):
        assert (new.id, new.name) == (old.id, old.name)
        assert (new.width_mm, new.height_mm) == pytest.approx((old.width_mm, old.height_mm), abs=0.02)


def test_the_demo_holds_what_was_promised() -> None:
    work, pictures = open_card(CARD_FILE)
    assert len(work.stash.stamps) >= 10
    assert len(work.card.pieces) >= 9
    used = [piece.stamp for piece in work.card.pieces]
    assert max(used.count(stamp) for stamp in used) >= 2
    assert all(
        10 <= max(stamp.width_mm, stamp.height_mm) <= 60 for stamp in work.stash.stamps if not stamp.kind.is_plain
    )
    assert set(pictures) == {stamp.picture for stamp in work.stash.stamps}
    assert SHEET_MM[0] < SHEET_MM[1]
