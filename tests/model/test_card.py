"""Values of the card and the stash."""

import pytest

from fair_thicket.model.card import Card, name_pieces
from fair_thicket.model.formats import FORMATS, find_format
from fair_thicket.model.plan import MaskPlan, Press
from fair_thicket.model.stash import Stash, new_key
from making import stamp, work_of


def test_the_panel_turns_with_the_card() -> None:
    assert Card(landscape=True).panel == pytest.approx((139.7, 107.95))
    assert Card(landscape=False).panel == pytest.approx((107.95, 139.7))


def test_several_impressions_of_a_stamp_are_numbered_from_the_left() -> None:
    names = name_pieces(work_of(("tall-fern", 90, 10), ("tall-fern", 20, 10), ("newt", 50, 10)))
    assert names == {"tall-fern-1": "tall fern 2", "tall-fern-2": "tall fern 1", "newt-3": "newt"}


def test_a_stash_finds_its_stamps_and_says_when_it_has_none() -> None:
    stash = Stash((stamp("snail"),))
    assert stash.has("snail")
    assert not stash.has("toad")
    with pytest.raises(KeyError):
        stash.find("toad")
    with pytest.raises(KeyError):
        Card().find("toad-1")


@pytest.mark.parametrize(
    ("name", "taken", "key"),
    [
        ("Courier Snail", (), "courier-snail"),
        ("Courier snail", ("courier-snail", "courier-snail-2"), "courier-snail-3"),
        ("!!!", (), "image"),
        ("Ünïcøde 9", (), "n-c-de-9"),
    ],
)
def test_keys_are_plain_and_new(name: str, taken: tuple[str, ...], key: str) -> None:
    assert new_key(name, taken) == key


def test_an_unknown_format_falls_back_to_the_first() -> None:
    assert find_format("nonsense") is FORMATS[0]


def test_a_plan_knows_in_which_press_an_impression_is_stamped() -> None:
    plan = MaskPlan(presses=(Press(("a",), ()), Press(("b", "c"), ("a",))))
    assert [plan.press_of(key) for key in "abc"] == [0, 1, 1]
    with pytest.raises(KeyError):
        plan.press_of("d")
