"""Which offcuts are kept, and under which name."""

import msgspec
import pytest

from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Border, Form, Panel
from fair_thicket.model.stash import DRAWN_TAG, Kind, Stamp, Stash
from fair_thicket.model.supplies import Paper
from fair_thicket.sheets.planning import BORDER_ROOM_MM, OFFCUT_MM, offcuts_of, plan_sheets


@pytest.mark.parametrize(
    ("sheet", "kept"),
    [
        ((100.0, 65.0), [(25.0, 100.0)]),  # a strip of 25 mm is left: kept
        ((100.0, 64.9), []),  # a strip of 24.9 mm is not
        ((100.0, 40.0), []),  # nothing is left
    ],
)
def test_an_offcut_is_kept_from_25_mm_on_both_ways(sheet: tuple[float, float], kept: list[tuple[float, float]]) -> None:
    """A panel of 100 x 40 mm out of a sheet as long as it is."""
    panel = Panel("moss", Form("rectangle", 100, 40), 50, 50, colour="#4f8a4a")
    paper = Paper("moss", "#4f8a4a", width_mm=sheet[0], height_mm=sheet[1], sheets_left=1)
    plan = plan_sheets(Work(Card(pieces=(panel,)), Stash(())), (paper,))
    own = [one for one in offcuts_of(plan) if one.name.startswith("moss")]
    assert [tuple(sorted((one.width_mm, one.height_mm))) for one in own] == kept
    assert all(min(one.width_mm, one.height_mm) >= OFFCUT_MM for one in offcuts_of(plan))
    assert all(one.sheets_left == 1 for one in own)


def test_a_borders_sheet_is_as_long_as_its_die_and_a_little_more_and_a_drawn_one_as_long_as_it_is() -> None:
    """A border of 80 mm out of a die of 120 mm takes 120 mm of card; a hill drawn freehand takes its own 80 mm."""
    ring = ((-60.0, -10.0), (60.0, -10.0), (60.0, 10.0), (-60.0, 10.0))
    die = Stamp("moss", "moss", 120.0, 20.0, ring, "images/moss.png", kind=Kind.BORDER)
    drawn = msgspec.structs.replace(die, id="hill", name="hill", picture="images/hill.png", tags=(DRAWN_TAG,))
    for stamp, long in ((die, 120.0), (drawn, 80.0)):
        border = Border("b", stamp.id, 80.0, 60.0, 60.0, colour="#4f8a4a")
        plan = plan_sheets(Work(Card(pieces=(border,)), Stash((stamp,))), ())
        (piece,) = [
            one for stock in plan.stock for sheet in stock.plan.sheets for one in sheet.pieces if "base" not in one.id
        ]
        assert sorted((piece.w_mm, piece.h_mm)) == pytest.approx([20.0 + BORDER_ROOM_MM, long + BORDER_ROOM_MM])
