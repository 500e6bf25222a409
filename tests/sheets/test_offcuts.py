"""Which offcuts are kept, and under which name."""

import pytest

from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Form, Panel
from fair_thicket.model.stash import Stash
from fair_thicket.model.supplies import Paper
from fair_thicket.sheets.planning import OFFCUT_MM, forget_plans, offcuts_of, plan_sheets


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
    forget_plans()
    panel = Panel("moss", Form("rectangle", 100, 40), 50, 50, colour="#4f8a4a")
    paper = Paper("moss", "#4f8a4a", width_mm=sheet[0], height_mm=sheet[1], sheets_left=1)
    plan = plan_sheets(Work(Card(pieces=(panel,)), Stash(())), (paper,))
    own = [one for one in offcuts_of(plan) if one.name.startswith("moss")]
    assert [tuple(sorted((one.width_mm, one.height_mm))) for one in own] == kept
    assert all(min(one.width_mm, one.height_mm) >= OFFCUT_MM for one in offcuts_of(plan))
    assert all(one.sheets_left == 1 for one in own)
