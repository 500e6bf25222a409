"""Printing ends soon when nobody wants it any more."""

import time

import pytest

from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.making import list_all_steps, print_card
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.errors import StoppedError
from fair_thicket.printing.plan_pdf import Side


def test_printing_stops_within_a_page_and_never_goes_on_after_it_was_told() -> None:
    work, pictures = open_card(CARD_FILES[1])
    plan = plan_with_pins(work)[0]
    side = Side("front", work, plan, list_all_steps(work, plan))
    asked: list[float] = []

    def go_on() -> bool:
        asked.append(time.monotonic())
        return len(asked) < 4

    with pytest.raises(StoppedError):
        print_card([side], pictures, go_on=go_on)
    assert len(asked) == 4
    whole: list[float] = []
    print_card([side], pictures, go_on=lambda: bool(whole.append(time.monotonic())) or True)
    assert len(whole) > 500, "asked at everything that is drawn"
