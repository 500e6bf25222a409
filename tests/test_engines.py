"""An engine more is one record: its advice, its steps and its pages come as every other's."""

import io
import json
from collections.abc import Mapping, Sequence
from pathlib import Path

import msgspec
import pypdf
import pytest

from fair_thicket import colour, edits, masks
from fair_thicket.advice import advise
from fair_thicket.cli import main
from fair_thicket.demo import CARD_FILES
from fair_thicket.engines import ENGINES, Engine, assemble
from fair_thicket.files.card_file import open_card, save_card
from fair_thicket.making import list_all_steps, print_card
from fair_thicket.masks.pin_edits import add_pin
from fair_thicket.model.card import Dismissal, Work
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.masking import Pin
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.steps import Step
from fair_thicket.printing.page import Sheets
from fair_thicket.printing.plan_pdf import Side
from fair_thicket.shell import words
from fair_thicket.shell.words import of_cards
from making import pictures_of, work_of

FAR_MM = 100.0
FAR, FARTHER = "far-2", "farther-3"
HELPS, HELPS_NOT = "Bring it to the middle", "Push it a little"


def judge_far(work: Work) -> Sequence[Finding]:
    """Say what stands far to the right; what is offered for `far` helps, what is offered for `farther` does not."""
    return [
        Finding(
            code="far",
            weight=Weight.CAUTION,
            title=f"The {piece.id} is far",
            text="It stands far to the right.",
            measure=piece.x,
            unit="mm",
            pieces=(piece.id,),
            remedy=Remedy(
                HELPS if piece.id == FAR else HELPS_NOT,
                (msgspec.structs.replace(piece, x=70.0 if piece.id == FAR else piece.x - 1),),
            ),
        )
        for piece in work.card.pieces
        if piece.x > FAR_MM
    ]


def list_far(work: Work) -> list[str]:
    return [piece.id for piece in work.card.pieces if piece.x > FAR_MM]


def fetch(work: Work, plan: MaskPlan) -> list[Step]:
    return [Step("lay", len(plan.presses), f"Fetch the {key} from afar", (key,)) for key in list_far(work)]


def draw_far(sheets: Sheets, side: Side, pictures: Mapping[str, bytes]) -> None:
    del pictures
    sheets.start_page("What is far")
    for number, key in enumerate(list_far(side.work)):
        sheets.text(20, 40 + 6 * number, f"far: {key}")


FAR_WORD = of_cards(
    "far", "what is far", lambda work, pictures: {"far": list_far(work)}, lambda told: [f"far: {told['far']}"]
)
OWN = Engine(
    "distance",
    "ledger",
    lambda work, known, go_on: judge_far(work),
    lambda work, known, go_on: judge_far,
    turn=15,
    steps=fetch,
    pages=draw_far,
)


def told(work: Work) -> dict[str, Finding]:
    return {one.pieces[0]: one for one in advise(work, engines=[*ENGINES, OWN]) if one.code == "far"}


def test_an_engine_more_is_one_record() -> None:
    work = work_of(("near", 20, 20), ("far", 115, 20), ("farther", 115, 70))
    found = told(work)
    assert found.keys() == {FAR, FARTHER}
    assert {one.station for one in found.values()} == {"ledger"}
    assert {one.station for one in advise(work)} <= {"scene", "masks"}
    assert found[FAR].remedy is not None
    assert found[FAR].remedy.words == HELPS
    assert found[FARTHER].remedy is None  # it was tried, and does not settle it
    assert told(edits.apply_remedy(work, found[FAR].remedy)).keys() == {FARTHER}
    quiet = edits.dismiss(work, "far", FAR)
    assert Dismissal("far", FAR) in quiet.card.dismissed
    assert {key: one.is_dismissed for key, one in told(quiet).items()} == {FAR: True, FARTHER: False}


def test_its_steps_come_in_their_turn() -> None:
    work = work_of(("near", 20, 20), ("far", 115, 20))
    plan = masks.plan(work)
    steps = list_all_steps(work, plan, engines=[OWN, *ENGINES])
    assert steps[:-1] == list(masks.list_steps(work, plan))
    assert steps[-1].words == "Fetch the far-2 from afar"


def test_its_pages_are_printed_between_the_others() -> None:
    work = work_of(("near", 20, 20), ("far", 115, 20))
    plan = masks.plan(work)
    side = Side("front", work, plan, list_all_steps(work, plan, engines=[OWN, *ENGINES]))
    pages = [
        page.extract_text()
        for page in pypdf.PdfReader(io.BytesIO(print_card([side], pictures_of(work), engines=[OWN, *ENGINES]))).pages
    ]
    (at,) = [number for number, text in enumerate(pages) if "far: far-2" in text]
    assert at == len(pages) - 2
    assert "After the presses" in pages[-1]
    assert "Fetch the far-2 from afar" in pages[-1]


def test_a_word_of_the_shell_more_is_one_row(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    work = work_of(("near", 20, 20), ("far", 115, 20))
    save_card(tmp_path / "c.thicket", work, pictures_of(work))
    monkeypatch.setattr(words, "WORDS", (*words.WORDS, FAR_WORD))
    assert main(["far", str(tmp_path / "c.thicket"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == {"far": ["far-2"]}
    assert main(["far", str(tmp_path / "c.thicket")]) == 0
    assert capsys.readouterr().out == "far: ['far-2']\n"
    with pytest.raises(SystemExit):
        main(["--help"])
    assert "what is far" in capsys.readouterr().out


def test_assembly_takes_colouring_from_its_list_and_cuts_out_what_pins_say() -> None:
    """Minutes are shared out from the fetches of markers; an image pinned as cut out is cut and glued."""
    whole, _ = open_card(CARD_FILES[0])
    listed = colour.list_colouring(whole)
    made = assemble(whole, {})
    coloured = [one for one in made.operations if one.kind == "colour"]
    assert sum(one.minutes for one in coloured) == pytest.approx(listed.minutes, abs=0.1)
    with_pin = add_pin(whole, Pin("cut", ("letter-1",)))
    keys = {one.key for one in assemble(with_pin, {"front": masks.plan_with_pins(with_pin)[0]}).operations}
    assert {"cut letter-1", "glue letter-1"} <= keys
    assert "cut letter-1" not in {one.key for one in made.operations}
