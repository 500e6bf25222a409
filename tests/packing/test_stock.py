"""Rectangles out of sheets: published instances, common practice, small jobs by trying everything."""

import itertools
import random
from collections.abc import Sequence

import pytest
from exhaustive import fewest, fits_by_cuts

from fair_thicket.model.errors import InputError
from fair_thicket.packing.blocks import Block, Kind
from fair_thicket.packing.quick_cuts import _pack
from fair_thicket.packing.stock import CutSheet, StockPiece, StockPlan, StockSheet, plan_cuts
from making import EVERY, some_of

INCH = 25.4
LETTER = StockSheet("letter", 8.5 * INCH, 11 * INCH)


def check(plan: StockPlan, sheets: list[StockSheet], pieces: list[StockPiece], kerf: float = 0.0) -> None:
    """Cut every sheet as the plan says, stroke by stroke: every piece must come out whole, of its size."""
    sizes = {one.id: (one.w_mm, one.h_mm) for one in sheets}
    wanted = {one.id: one for one in pieces}
    got: dict[str, int] = {}
    for one in plan.sheets:
        parts = [(0.0, 0.0, *sizes[one.sheet])]
        for cut in one.cuts:
            part = next(p for p in parts if is_across(cut, p))
            parts.remove(part)
            parts += parted(part, cut, kerf)
        for piece in one.pieces:
            own = wanted[piece.id]
            width, height = (own.h_mm, own.w_mm) if piece.turned else (own.w_mm, own.h_mm)
            assert own.turns or not piece.turned
            box = (piece.x_mm, piece.y_mm, piece.x_mm + width, piece.y_mm + height)
            assert any(all(abs(a - b) < 0.01 for a, b in zip(box, part, strict=True)) for part in parts), piece
            got[piece.id] = got.get(piece.id, 0) + 1
        if min(one.offcut_mm) > 0:
            assert any(
                abs(right - left - one.offcut_mm[0]) < 0.01 and abs(bottom - top - one.offcut_mm[1]) < 0.01
                for left, top, right, bottom in parts
            )
    assert got == {one.id: one.copies for one in pieces}


Part = tuple[float, float, float, float]


def is_across(cut: object, part: Part) -> bool:
    left, top, right, bottom = part
    x1, y1, x2, y2 = cut  # type: ignore[misc]
    if abs(x1 - x2) < 1e-6:
        return left < x1 < right and abs(y1 - top) < 0.01 and abs(y2 - bottom) < 0.01
    return top < y1 < bottom and abs(x1 - left) < 0.01 and abs(x2 - right) < 0.01


def parted(part: Part, cut: object, kerf: float) -> list[Part]:
    left, top, right, bottom = part
    x1, y1, x2, _ = cut  # type: ignore[misc]
    if abs(x1 - x2) < 1e-6:
        return [(left, top, x1, bottom), (x1 + kerf, top, right, bottom)]
    return [(left, top, right, y1), (left, y1 + kerf, right, bottom)]


def the(plan: StockPlan) -> CutSheet:
    (one,) = plan.sheets
    return one


def test_two_bases_come_out_of_a_letter_sheet_by_one_cut() -> None:
    """Common practice: a letter sheet gives two A2 bases."""
    pieces = [StockPiece("base", 4.25 * INCH, 11 * INCH, 2)]
    plan = plan_cuts([LETTER], pieces, seconds=60)
    check(plan, [LETTER], pieces)
    assert len(the(plan).cuts) == 1
    assert the(plan).offcut_mm == (0.0, 0.0)
    assert plan.is_best


def test_four_mats_come_out_of_a_letter_sheet() -> None:
    """Common practice: A2 mats 4 1/8 x 5 3/8, four from a letter sheet."""
    pieces = [StockPiece("mat", 4.125 * INCH, 5.375 * INCH, 4)]
    plan = plan_cuts([LETTER], pieces, seconds=60)
    check(plan, [LETTER], pieces)
    assert len(plan.sheets) == 1
    assert len(plan_cuts([LETTER], [StockPiece("mat", 4.125 * INCH, 5.375 * INCH, 5)], seconds=60).sheets) == 2


def test_a_slimline_base_leaves_four_by_eight_and_a_half() -> None:
    """Common practice: slimline base 7 x 8 1/2 leaves 4 x 8 1/2."""
    plan = plan_cuts([LETTER], [StockPiece("base", 7 * INCH, 8.5 * INCH)], seconds=60)
    assert sorted(the(plan).offcut_mm) == pytest.approx([4 * INCH, 8.5 * INCH])
    assert len(the(plan).cuts) == 1


HOPPER_TURTON = {
    "C1-1": [(2, 12), (7, 12), (8, 6), (3, 6), (3, 5), (5, 5), (3, 12), (3, 7), (5, 7), (2, 6), (3, 2), (4, 2), (3, 4),
             (4, 4), (9, 2), (11, 2)],
    "C1-2": [(4, 1), (4, 5), (9, 4), (3, 5), (3, 9), (1, 4), (5, 3), (4, 1), (5, 5), (7, 2), (9, 3), (3, 13), (2, 8),
             (15, 4), (5, 4), (10, 6), (7, 2)],
    "C1-3": [(4, 14), (5, 2), (2, 2), (9, 7), (5, 5), (2, 5), (7, 7), (3, 5), (6, 5), (3, 2), (6, 2), (4, 6), (6, 3),
             (10, 3), (6, 3), (10, 3)],
}  # fmt: skip


@pytest.mark.parametrize("name", HOPPER_TURTON if EVERY == 1 else ["C1-1", "C1-3"])
def test_the_sheet_that_pieces_were_cut_from_is_found_again(name: str) -> None:
    """Hopper and Turton (European Journal of Operational Research 128, 2001), category 1: 20 x 20, nothing wasted.

    Data from memory; their areas add up to 400, so that one sheet is the optimum. The second comes out of it by cuts
    right across only when pieces are turned.
    """
    turns = name == "C1-2"
    pieces = [StockPiece(f"{n}", w * 10, h * 10, 1, turns) for n, (w, h) in enumerate(HOPPER_TURTON[name])]
    sheets = [StockSheet("square", 200, 200)]
    plan = plan_cuts(sheets, pieces, seconds=90)
    check(plan, sheets, pieces)
    assert (len(plan.sheets), plan.bound, plan.is_fewest) == (1, 1, True)


CGCUT1 = [(8, 4, 66, 2), (3, 7, 35, 1), (8, 2, 24, 3), (3, 4, 17, 5), (3, 3, 11, 2), (3, 2, 8, 2), (2, 1, 2, 1)]


def test_the_best_value_out_of_one_sheet_is_the_published_one() -> None:
    """Christofides and Whitlock (Operations Research 25, 1977), instance 1: sheet 15 x 10, optimum 244.

    Width, height, value and number of pieces from memory. Blocks are all that a guillotine can part into pieces, so
    that the worth of the best is the optimum.
    """
    from fair_thicket.packing.blocks import Kind, build_blocks

    kinds = [Kind(w, h, n, False) for w, h, _, n in CGCUT1]
    blocks = build_blocks(kinds, (15, 10), kerf=0, most_waste=150, most=60_000)
    assert blocks.is_complete
    worth = [sum(n * one[2] for n, one in zip(block.counts, CGCUT1, strict=True)) for block in blocks.found]
    assert max(worth) == 244


@pytest.mark.parametrize("seed", some_of(200))
def test_no_fewer_sheets_would_do_for_small_jobs(seed: int) -> None:
    dice = random.Random(seed)
    turns = dice.random() < 0.5
    sides = [(float(dice.randint(20, 70)), float(dice.randint(20, 60))) for _ in range(dice.randint(3, 5))]
    best = fewest(len(sides), lambda one: fits_by_cuts([sides[n] for n in sorted(one)], (100.0, 80.0), turns=turns))
    pieces = [StockPiece(str(n), *side, 1, turns) for n, side in enumerate(sides)]
    sheets = [StockSheet("s", 100, 80)]
    plan = plan_cuts(sheets, pieces, seconds=60)
    check(plan, sheets, pieces)
    assert (len(plan.sheets), plan.bound, plan.is_fewest) == (best, best, True)


@pytest.mark.parametrize("seed", some_of(40))
def test_random_jobs_come_out_whole_with_a_kerf_and_several_kinds_of_sheet(seed: int) -> None:
    dice = random.Random(seed)
    kerf = dice.choice([0.0, 0.0, 1.5])
    pieces = [
        StockPiece(
            f"p{n}", dice.uniform(15, 110), dice.uniform(15, 110), dice.choice([1, 1, 2, 4]), dice.random() < 0.6
        )
        for n in range(dice.randint(1, 9))
    ]
    sheets = [LETTER, StockSheet("square", 152.4, 152.4, dice.choice([None, 0, 2]))]
    plan = plan_cuts(sheets, pieces, kerf_mm=kerf, seconds=1.0)
    check(plan, sheets, pieces, kerf)
    assert plan.bound <= len(plan.sheets)
    assert plan.missing == {}


def test_fewer_cuts_and_a_larger_offcut_come_after_fewest_sheets() -> None:
    """Two strips of one height side by side need one cut less than one above the other with waste beside both."""
    pieces = [StockPiece("strip", 60, 20, 2, turns=False)]
    plan = plan_cuts([StockSheet("s", 120, 100)], pieces, seconds=30.0)
    assert len(the(plan).cuts) == 2
    assert the(plan).offcut_mm == (120.0, 80.0)
    assert plan.is_best


def test_turning_is_forbidden_where_paper_has_a_right_way_up() -> None:
    sheet = StockSheet("paper", 100, 60)
    assert len(plan_cuts([sheet], [StockPiece("a", 50, 60, 2, turns=False)], seconds=60).sheets) == 1
    with pytest.raises(InputError, match="larger than every sheet"):
        plan_cuts([sheet], [StockPiece("a", 60, 100, 1, turns=False)])


def test_too_few_sheets_are_counted_and_none_at_all_is_told() -> None:
    plan = plan_cuts([StockSheet("letter", 215.9, 279.4, 1)], [StockPiece("base", 107.95, 279.4, 5)], seconds=60)
    assert (len(plan.sheets), plan.missing) == (3, {"letter": 2})
    with pytest.raises(InputError, match="no sheet"):
        plan_cuts([], [StockPiece("a", 1, 1)])
    with pytest.raises(InputError, match="More than"):
        plan_cuts([LETTER], [StockPiece("a", 1, 1, 9000)])
    assert plan_cuts([LETTER], []).sheets == ()


@pytest.mark.parametrize("seed", some_of(40))
def test_offcuts_are_used_up_before_a_new_sheet_is_taken(seed: int) -> None:
    """Against every way to share pieces out on whole sheets and up to two offcuts; an offcut costs no sheet."""
    chance = random.Random(9000 + seed)
    sides = [(chance.randint(3, 12) * 5, chance.randint(3, 12) * 5) for _ in range(chance.randint(2, 5))]
    offcuts = [(chance.randint(4, 12) * 5, chance.randint(4, 12) * 5) for _ in range(chance.randint(1, 2))]
    sheets = [StockSheet("whole", 80, 70), *(StockSheet(f"{n}", *one, 1, True) for n, one in enumerate(offcuts))]
    pieces = [StockPiece(f"{n}", w, h) for n, (w, h) in enumerate(sides)]
    plan = plan_cuts(sheets, pieces, seconds=60)
    check(plan, sheets, pieces)
    assert all(sum(one.sheet == f"{n}" for one in plan.sheets) <= 1 for n in range(len(offcuts)))

    def fits(chosen: frozenset[int], room: tuple[float, float]) -> bool:
        return not chosen or fits_by_cuts([sides[n] for n in sorted(chosen)], room, turns=True)

    best = len(sides)
    for places in itertools.product(range(len(offcuts) + 1), repeat=len(sides)):
        on = [frozenset(n for n, place in enumerate(places) if place == k) for k in range(len(offcuts) + 1)]
        if all(fits(chosen, room) for chosen, room in zip(on[1:], offcuts, strict=True)):
            rest = sorted(on[0])
            wanted = fewest(len(rest), lambda part, rest=rest: fits(frozenset(rest[n] for n in part), (80, 70)))
            best = min(best, wanted)
    whole = sum(one.sheet == "whole" for one in plan.sheets)
    assert (whole, plan.bound, plan.is_fewest) == (best, best, True)


def test_no_time_at_all_still_gives_a_plan_and_many_kinds_of_sheets_take_no_longer(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    packed: list[tuple[int, int]] = []

    def counted(kinds: Sequence[Kind], sheet: tuple[int, int], *rest: object) -> list[list[Block]]:
        packed.append(sheet)
        return _pack(kinds, sheet, *rest)

    monkeypatch.setattr("fair_thicket.packing.quick_cuts._pack", counted)
    sheets = [StockSheet(f"kind {n}", 100 + n / 2, 300 - n / 3) for n in range(300)]
    pieces = [StockPiece(f"piece {n}", 20 + 3 * n, 61 - 2 * n, copies=2) for n in range(20)]
    plan = plan_cuts(sheets, pieces, seconds=0.0)
    assert len(packed) < 10, "the first plan that is found ends the search when there is no time"
    cut = [piece.id for sheet in plan.sheets for piece in sheet.pieces]
    assert sorted(cut) == sorted(2 * [piece.id for piece in pieces])
    assert not plan.is_best
