"""Balance: the published formula worked by hand, and what the diagram tells."""

import msgspec
import pytest
from shapely.geometry import box

from fair_thicket import edits
from fair_thicket.laid.visibility import look
from fair_thicket.model.card import Work
from fair_thicket.model.units import Unit, say_length
from fair_thicket.scene.balance import balance_value, tell_balance, weigh
from making import work_of

PANEL = (100.0, 60.0)


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        # one object wholly left, centred down: w_L = 100 x 30, w_R = 0, so BM_v = 1; BM_h = 0; 1 - (1 + 0) / 2
        ([(box(15, 25, 25, 35), 1.0)], 0.5),
        # 10 x 10 at 30 mm left and 20 x 10 at 15 mm right of the middle: 3000 and 3000
        ([(box(15, 25, 25, 35), 1.0), (box(55, 25, 75, 35), 1.0)], 1.0),
        # 10 x 10 at 30 mm left, 10 x 10 at 15 mm right: (3000 - 1500) / 3000 = 1/2; 1 - (1/2) / 2
        ([(box(15, 25, 25, 35), 1.0), (box(60, 25, 70, 35), 1.0)], 0.75),
        # top left corner only: both terms are 1
        ([(box(0, 0, 10, 10), 1.0)], 0.0),
        # the weight of the nearer doubled: 3000 and 2 x 1500
        ([(box(15, 25, 25, 35), 1.0), (box(60, 25, 70, 35), 2.0)], 1.0),
        ([], 1.0),
    ],
)
def test_the_balance_measure_is_that_worked_by_hand(parts: list, expected: float) -> None:
    """Ngo, Teo, Byrne, Information Sciences 152 (2003) 25-46, measure of balance; formula from memory."""
    assert balance_value(parts, PANEL) == pytest.approx(expected)


def test_an_object_across_the_middle_counts_on_both_sides() -> None:
    """A box from 20 mm left to 40 mm right: 20 x 10 at 10 mm against 40 x 10 at 20 mm, 2000 to 8000."""
    assert balance_value([(box(30, 25, 90, 35), 1.0)], PANEL) == pytest.approx(1 - (1 - 2000 / 8000) / 2)


def test_the_centre_of_weight_and_the_halves_are_told() -> None:
    work = work_of(("a", 30, 30), ("b", 109.7, 30))  # mirror images about the middle of a card 139.7 wide
    balance = weigh(look(work))
    assert balance.centre == pytest.approx((69.85, 30.0))
    assert (balance.left_share, balance.symmetry) == pytest.approx((0.5, 1.0), abs=0.02)
    assert balance.top_share == pytest.approx(1.0)
    lines = tell_balance(balance, lambda mm: say_length(mm, Unit.MM))
    assert lines[0] == "Left 50% · right 50%"
    assert any("high" in line for line in lines)


def test_a_dark_piece_weighs_more_than_a_pale_one() -> None:
    work = work_of(("a", 30, 54), ("b", 109.7, 54))
    dark = edits.set_pieces(work, {"a-1"}, colour="#101010")
    assert weigh(look(dark)).off[0] < -5
    assert weigh(look(dark)).heaviest == "a-1"


def test_an_empty_card_is_balanced() -> None:
    balance = weigh(look(Work()))
    assert (balance.value, balance.left_share, balance.heaviest) == (1.0, 0.5, "")
    assert msgspec.to_builtins(balance)["centre"] == pytest.approx((69.85, 53.975))
