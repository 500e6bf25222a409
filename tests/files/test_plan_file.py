"""A plan as `masks --json` prints it, edited and given back: performed as it stands, refused only for unknown names."""

import json
from pathlib import Path

import pytest

from fair_thicket.cli import main
from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card, save_card
from fair_thicket.files.plan_file import read_plans
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import SceneError
from fair_thicket.model.pieces import Blend, Cutout, Form, Impression, Part
from fair_thicket.model.plan import SHEET
from fair_thicket.model.sides import sides_of
from fair_thicket.model.stash import Stash
from fair_thicket.shell.card import plan_document
from making import drawn_for, stamp

Document = dict[str, object]


@pytest.fixture
def card(tmp_path: Path) -> Path:
    """Two images that overlap on the front, one on the inside."""
    pieces = (Impression("behind", "toad", 60, 54), Impression("front", "snail", 70, 54))
    work = Work(
        Card(pieces=pieces, inside=(Impression("in", "toad", 40, 40),)), Stash((stamp("toad", 20), stamp("snail", 16)))
    )
    save_card(tmp_path / "card.thicket", work, drawn_for(work))
    return tmp_path / "card.thicket"


def planned(card: Path, capsys: pytest.CaptureFixture[str]) -> Document:
    assert main(["masks", str(card), "--json"]) == 0
    told: Document = json.loads(capsys.readouterr().out)
    return told


def performed(card: Path, plan: Document, capsys: pytest.CaptureFixture[str]) -> Document:
    file = card.with_name("plan.json")
    file.write_text(json.dumps(plan))
    folder = str(card.with_name("frames"))
    assert main(["rehearse", str(card), "--plan", str(file), "-o", folder, "--json"]) == 0
    told: Document = json.loads(capsys.readouterr().out)
    return told


@pytest.mark.parametrize("number", range(len(CARD_FILES)))
def test_a_plan_that_was_printed_is_read_as_the_same_plan(number: int, tmp_path: Path) -> None:
    work, _ = open_card(CARD_FILES[number])
    sides = dict(sides_of(work))
    plans = {side: plan_with_pins(one)[0] for side, one in sides.items()}
    documents = {side: plan_document(plan) for side, plan in plans.items()}
    whole = documents["front"] | ({"inside": documents["inside"]} if "inside" in documents else {})
    (tmp_path / "p.json").write_text(json.dumps(whole))
    for side, plan in read_plans(tmp_path / "p.json", sides).items():
        assert plan.presses == plans[side].presses
        assert [(one.stamp, one.serves) for one in plan.masks] == [(one.stamp, one.serves) for one in plans[side].masks]
        assert [one.presses for one in plan.counters] == [one.presses for one in plans[side].counters]


def test_a_plan_is_performed_as_it_stands_and_judged(card: Path, capsys: pytest.CaptureFixture[str]) -> None:
    plan = planned(card, capsys)
    sound = performed(card, plan, capsys)
    assert sound["equal"]
    assert sound["inside"]["equal"]  # type: ignore[index]
    presses: list[dict[str, list[str]]] = plan["presses"]  # type: ignore[assignment]
    kinds: dict[str, set[tuple[str, str]]] = {}
    for name, broken in {
        "unmasked": [presses[0], presses[1] | {"masked": []}],
        "left out": [presses[0], presses[1] | {"impressions": []}],
        "twice": [presses[0], presses[1] | {"impressions": ["behind", "behind"]}],
        "in one press": [{"impressions": ["front", "behind"], "masked": []}],
    }.items():
        told = performed(card, plan | {"presses": broken}, capsys)
        assert not told["equal"], name
        kinds[name] = {(one["kind"], one["back"]) for one in told["differences"]}  # type: ignore[index, attr-defined]
        assert all(one["places"] and one["area_mm2"] > 0.3 for one in told["differences"])  # type: ignore[index, attr-defined]
    assert kinds["unmasked"] == kinds["in one press"] == {("ghost", "behind")}
    assert kinds["left out"] == {("missing", "behind")}
    assert kinds["twice"] == {("extra", "behind")}
    inside = performed(card, {"inside": {"presses": []}}, capsys)
    assert inside["equal"]
    assert {one["kind"] for one in inside["inside"]["differences"]} == {"missing"}  # type: ignore[index]


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("{", "not readable JSON"),
        ("{}", "has no “presses”"),
        ('{"presses": 3}', "not a plan"),
        (
            '{"presses": [{"impressions": ["nobody"]}]}',
            "press 1: nothing to stamp or ink of this card is called",
        ),
        ('{"presses": [{"impressions": ["front"], "masked": ["x"]}]}', "press 1: no image to mask"),
        ('{"presses": [{"impressions": ["front"], "surface": "moon"}]}', "press 1: no surface"),
        ('{"presses": [], "masks": [{"stamp": "fox", "for": []}]}', "mask 1: no stamp"),
        ('{"presses": [], "masks": [{"stamp": "toad", "for": ["y"]}]}', "mask 1: no image to mask"),
        ('{"presses": [], "counters": [{"opening": "z", "for": []}]}', "no piece"),
        ('{"presses": [], "colour": 1}', "unknown field"),
    ],
)
def test_unknown_names_and_forms_are_refused_with_their_place(
    card: Path, text: str, told: str, capsys: pytest.CaptureFixture[str]
) -> None:
    file = card.with_name("plan.json")
    file.write_text(text)
    assert main(["rehearse", str(card), "--plan", str(file), "-o", str(card.with_name("f"))]) == 1
    line = capsys.readouterr().err
    assert told in line
    assert line.count("\n") == 1
    assert not card.with_name("f").exists()


def test_a_plan_of_a_side_that_bears_nothing_is_refused(tmp_path: Path) -> None:
    work = Work(Card(pieces=(Impression("a", "toad", 60, 54),)), Stash((stamp("toad", 20),)))
    (tmp_path / "p.json").write_text('{"presses": [], "inside": {"presses": []}}')
    with pytest.raises(SceneError, match="bears nothing there"):
        read_plans(tmp_path / "p.json", dict(sides_of(work)))
    with pytest.raises(SceneError, match="is not there"):
        read_plans(tmp_path / "none.json", dict(sides_of(work)))


def test_a_row_that_inks_a_wash_is_no_press_whether_or_not_it_says_so(tmp_path: Path) -> None:
    wash = Blend("sky", Form("rectangle", 60, 40), 60, 50, colour="#a0c0e0")
    work = Work(Card(pieces=(Impression("toad-1", "toad", 60, 54), wash)), Stash((stamp("toad", 20),)))
    rows = [
        {"impressions": ["toad-1"], "masked": []},
        {"impressions": ["sky"], "masked": []},
        {"impressions": ["sky"], "masked": [], "ink": True},
        {"impressions": [], "masked": [], "ink": True},
    ]
    (tmp_path / "p.json").write_text(json.dumps({"presses": rows}))
    plan = read_plans(tmp_path / "p.json", {"front": work})["front"]
    assert [press.is_ink for press in plan.presses] == [False, True, True, True]


def test_only_a_joined_image_has_further_images_to_stamp_and_mask(tmp_path: Path) -> None:
    joined = Cutout("pair", "toad", 60, 54, margin_mm=0.0, joined=(Part("toad", 12, 0),))
    work = Work(Card(pieces=(Impression("one", "toad", 60, 20), joined)), Stash((stamp("toad", 20),)))
    for key, is_known in (("pair+0", True), ("pair+1", False), ("one+0", False), ("one", True)):
        row = {"impressions": [key], "masked": [key], "surface": SHEET if key.startswith("pair") else ""}
        (tmp_path / "p.json").write_text(json.dumps({"presses": [row]}))
        if is_known:
            plan = read_plans(tmp_path / "p.json", {"front": work})["front"]
            assert plan.presses[0].impressions == (key,)
        else:
            with pytest.raises(SceneError, match="nothing to stamp or ink"):
                read_plans(tmp_path / "p.json", {"front": work})
