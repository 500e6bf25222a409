"""Four orders of work that are not the usual one, from a card file through every word of the shell to print."""

import json
from pathlib import Path

import pypdf
import pytest

from fair_thicket.cli import main
from fair_thicket.edits.trimming import trim_base
from fair_thicket.files.card_file import save_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Blend, Cutout, Form, Impression, Panel
from fair_thicket.model.stash import Stash
from making import pictures_of, stamp

GROUND = Panel("ground", Form("rectangle", 126, 94), 69.85, 54)
DUSK = Blend(id="dusk", form=Form("rectangle", 120, 90), x=69.85, y=54, colour="#5f8fa3", on="ground")
FLYER = Cutout("flyer", "toad", 80, 40, margin_mm=0.0, lift_mm=1.6, on="ground")


def cards() -> dict[str, tuple[Work, list[str]]]:
    """Each card, and steps in the order in which they must come."""
    stash = Stash((stamp("toad", 20.0), stamp("word", 16.0), stamp("trail", 12.0), stamp("snail", 16.0)))

    def card(*pieces: object) -> Work:
        return Work(Card(pieces=pieces), stash)  # type: ignore[arg-type]

    greeting = Impression("word", "word", 60, 80, on="ground", stamped="over dry inks")
    trail = Impression("trail", "trail", 62, 40, on="ground", stamped="by hand")
    edge = Cutout("edge", "snail", 130, 54, margin_mm=0.0, on="ground", trim_to="ground")
    small = Panel("ground", Form("rectangle", 133.7, 90), 69.85, 54)
    return {
        "a greeting stamped after the wash": (
            card(GROUND, DUSK, greeting, FLYER),
            ["press 1", "press 2", "glue flyer"],
        ),
        "a trail under a flyer": (card(GROUND, DUSK, trail, FLYER), ["press 1", "glue flyer", "press 3"]),
        "the whole flat scene cut again": (
            card(GROUND, edge, FLYER),
            ["glue edge", "cut again ground", "glue ground", "glue flyer"],
        ),
        "the base shortened last": (trim_base(card(small, FLYER)), ["glue ground", "glue flyer", "shorten", "post"]),
    }


@pytest.mark.parametrize("name", cards())
def test_it_is_scheduled_rehearsed_and_printed(name: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    work, order = cards()[name]
    path, folder = tmp_path / "card.thicket", tmp_path / "frames"
    save_card(path, work, pictures_of(work))

    def ask(*words: str) -> dict:
        assert main([*words, "--json"]) == 0
        return json.loads(capsys.readouterr().out)

    steps = {one["key"]: one["start_min"] for one in ask("assemble", str(path))["steps"]}
    assert [key for key in sorted(steps, key=steps.__getitem__) if key in order] == order
    rehearsed = ask("rehearse", str(path), "-o", str(folder))
    assert rehearsed["equal"]
    assert rehearsed["landed"]
    assert (folder / f"land-{len(rehearsed['landed']):02d}.png").exists()
    codes = {one["code"] for one in ask("advice", str(path))["findings"]}
    assert not codes & {"not-by-hand", "not-after-inks", "unlike", "ghost", "halo"}
    assert main(["print", str(path), "-o", str(tmp_path / "plan.pdf")]) == 0
    text = "".join(page.extract_text() for page in pypdf.PdfReader(tmp_path / "plan.pdf").pages)
    said = {
        "a greeting stamped after the wash": "slow ink",
        "a trail under a flyer": "clear block",
        "the whole flat scene cut again": "once more with its",
        "the base shortened last": "ruler and knife",
    }
    assert said[name] in " ".join(text.split())
