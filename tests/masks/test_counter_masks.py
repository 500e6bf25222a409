"""What is stamped inside a shape takes a counter mask; forgotten, the ink spills over the shape's edge."""

import pytest
import shapely

from fair_thicket.masks import judge, list_steps, plan, rehearse
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import CARD_EDGE, Form, Impression, Panel
from fair_thicket.model.stash import Stash
from fair_thicket.printing.mask_sheets import lay_out_masks
from making import framed_png, pictures_of, stamp


@pytest.fixture
def bubble() -> Work:
    """A snail of 16 mm stamped inside a bubble of 20 mm, 8 mm right of its middle: 6 mm of it lie beyond."""
    pieces = (Impression("bubble-1", "bubble", 50, 50), Impression("snail-1", "snail", 58, 50, trim_to="bubble-1"))
    return Work(Card(pieces=pieces), Stash((stamp("bubble", 20), stamp("snail", 16))))


@pytest.fixture
def pictures() -> dict[str, bytes]:
    return {"images/bubble.png": framed_png(20, 20), "images/snail.png": framed_png(16, 16, hatch_mm=2)}


def test_the_counter_mask_lies_while_the_inner_image_is_stamped(bubble: Work, pictures: dict[str, bytes]) -> None:
    made = plan(bubble)
    assert [press.impressions for press in made.presses] == [("snail-1",), ("bubble-1",)]
    (counter,) = made.counters
    assert (counter.opening, counter.serves, counter.presses) == ("bubble-1", ("snail-1",), (0,))
    # the snail's edge lies 2 mm within the bubble's: its right side, and 10 mm and a root of 5 more above and below
    assert counter.full_mm == pytest.approx(80)
    assert counter.careful_mm == pytest.approx(20 + 2 * (10 + 5**0.5), abs=0.05)
    assert made.careful_mm == pytest.approx(sum(mask.careful_mm for mask in made.masks) + counter.careful_mm)
    words = [step.words for step in list_steps(bubble, made)]
    assert "Lay the counter mask of the bubble: only its inside stays open for snail" in words
    assert rehearse(bubble, pictures, made).differences == ()


def test_without_it_the_ink_spills_over_the_edge(bubble: Work, pictures: dict[str, bytes]) -> None:
    made = plan(bubble)
    rehearsal = rehearse(bubble, pictures, made, with_counters=False)
    (spill,) = rehearsal.differences
    assert (spill.kind, spill.front, spill.back) == ("spill", "bubble-1", "snail-1")
    assert spill.width_mm == pytest.approx(6.0, abs=0.2)
    (finding,) = [one for one in judge(bubble, made, rehearsal) if one.code == "spill"]
    assert "for want of its counter mask" in finding.text


def test_its_opening_is_the_shape_and_it_is_printed_with_the_masks(bubble: Work, pictures: dict[str, bytes]) -> None:
    made = plan(bubble)
    masking = rehearse(bubble, pictures, made).masking
    (cut,) = masking.counter_cuts
    assert cut.edge.area == pytest.approx(400)
    assert cut.paper.intersection(cut.edge).area == pytest.approx(0)
    assert cut.careful.length == pytest.approx(made.counters[0].careful_mm, abs=0.2)
    (lying,) = [area for area in masking.during(0) if area.intersects(shapely.Point(62, 50))]
    assert not lying.covers(shapely.Point(50, 50))
    labels = [placed.label for sheet in lay_out_masks(bubble, made) for placed in sheet.masks]
    assert "counter mask for snail" in labels


def test_a_window_is_an_opening_as_well_and_an_edge_of_paper_is_none() -> None:
    frame = Panel("frame-1", Form("rectangle", 60, 60), 50, 50)
    stash = Stash((stamp("snail", 16),))
    within = Work(Card(pieces=(Impression("snail-1", "snail", 78, 50, trim_to="frame-1"), frame)), stash)
    assert plan(within).counters[0].full_mm == pytest.approx(240)
    at_edge = Work(Card(pieces=(Impression("snail-1", "snail", 0, 50, trim_to=CARD_EDGE),)), stash)
    assert plan(at_edge).counters == ()
    on_panel = Work(
        Card(pieces=(frame, Impression("snail-1", "snail", 78, 50, on="frame-1", trim_to="frame-1"))), stash
    )
    assert plan(on_panel).counters == ()
    assert rehearse(on_panel, pictures_of(on_panel), plan(on_panel)).differences == ()
