"""Envelope, thickness, grams and minutes are searched for wherever the program says anything, and all must agree."""

import ast
import io
import json
from collections.abc import Iterator
from pathlib import Path

import pypdf
import pytest
from test_one_truth import CARDS, changed

import fair_thicket
from fair_thicket.advice import advise
from fair_thicket.cli import main
from fair_thicket.estimate import post as post_rule
from fair_thicket.files.card_file import save_card
from fair_thicket.making import list_all_steps, print_card
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.card import Work
from fair_thicket.model.masking import Rates
from fair_thicket.model.sides import sides_of
from fair_thicket.printing.plan_pdf import Side
from fair_thicket.shell.words import WORDS
from figures import figures, is_same, said_in, truth
from making import EVERY, pictures_of

SOURCE = Path(str(fair_thicket.__file__)).parent
RATES = {name for name in Rates.__struct_fields__ if name.endswith(("_min", "_per_min"))} | {"gsm"}
ASKED = (8, 17)
"""Cards that are asked about by every word of the shell and printed, each time."""
READ_RATES = {"estimate/minutes.py", "estimate/post.py", "assembly/pace.py", "masks/mix.py"}
"""Rates become minutes in the first two; the last two scale them, to the maker's pace and to the solver's ticks."""


def documents(card: Path, folder: Path, capsys: pytest.CaptureFixture[str]) -> Iterator[tuple[str, str]]:
    """What every word of the shell that takes a card says, as a document and in words."""
    for word in WORDS:
        if word.name in {"print", "render"}:  # they say where they wrote to; what is printed is read below
            continue
        for form in (["--json"], []):
            for more in ([], ["-o", str(folder / f"{word.name}{len(form)}")]):
                try:
                    code = main([word.name, str(card), *more, *form])
                except SystemExit:
                    code = 2  # it takes no card, or wants -o
                said = capsys.readouterr().out
                if code == 0:
                    yield " ".join([word.name, *form]), said
                    break


def sentences(work: Work, *, printed: bool) -> Iterator[tuple[str, str]]:
    """What is advised, what the steps say, and what is printed."""
    sides = [
        Side(name, side, plan, list_all_steps(side, plan))
        for name, side in sides_of(work)
        for plan in [plan_with_pins(side)[0]]
    ]
    yield "advice", "\n".join(f"{one.title}\n{one.text}" for one in advise(work))
    for side in sides:
        yield f"steps of the {side.name}", "\n".join(step.words for step in side.steps)
    if printed:
        pages = pypdf.PdfReader(io.BytesIO(print_card(sides, pictures_of(work)))).pages
        yield "print", "\n".join(page.extract_text() for page in pages)


def disagreements(
    work: Work, folder: Path, capsys: pytest.CaptureFixture[str], *, everywhere: bool = True
) -> tuple[list[str], set[str]]:
    """Places that say another figure, and all figures that are said at all."""
    card, true, wrong, met = folder / "card.thicket", truth(work), [], set()
    said = list(sentences(work, printed=everywhere))
    if everywhere:
        save_card(card, work, pictures_of(work))
        said += documents(card, folder, capsys)
    for place, words in said:
        found: list[tuple[str, object]] = []
        if place.endswith("--json"):
            found += figures(json.loads(words))
        found += said_in(words)
        met |= {name for name, _ in found}
        wrong += [
            f"{place}: {name} {one}, not {true[name]}" for name, one in found if not is_same(name, one, true[name])
        ]
    return wrong, met


@pytest.mark.parametrize("number", range(len(CARDS)))
def test_whatever_names_a_figure_names_the_same(
    number: int, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """As it is for even numbers, with other rates, envelope and paper for odd ones; a few in the shell and print."""
    work = CARDS[number]()
    everywhere = EVERY == 1 or number in ASKED
    wrong, met = disagreements(changed(work) if number % 2 else work, tmp_path, capsys, everywhere=everywhere)
    assert not wrong
    assert met >= {"envelope", "thickness", "grams"} or not everywhere


def test_every_word_of_the_shell_that_takes_a_card_is_asked(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    save_card(tmp_path / "card.thicket", work := CARDS[8](), pictures_of(work))
    asked = {place for place, _ in documents(tmp_path / "card.thicket", tmp_path, capsys)}
    words = {"masks", "visible", "sheets", "assemble", "advice", "rehearse"}  # to colour it takes markers
    assert asked == words | {f"{word} --json" for word in words}


def test_a_place_that_reckons_by_itself_is_found(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    work = CARDS[8]()
    monkeypatch.setattr(
        "fair_thicket.assembly.post.thickness", lambda work, high: post_rule.thickness(work, high) + 0.4
    )
    wrong, _ = disagreements(work, tmp_path, capsys)
    assert {one.partition(":")[0] for one in wrong} >= {"assemble --json", "assemble"}


def test_rates_are_turned_into_minutes_in_one_place() -> None:
    """Whoever reads a rate reckons with it; forms and files only show and keep it."""
    reads = set()
    for file in SOURCE.rglob("*.py"):
        place = file.relative_to(SOURCE).as_posix()
        if place.startswith(("model/", "desk/")):
            continue
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Attribute) and node.attr in RATES:
                reads.add(place)
    assert reads == READ_RATES
