"""Inking in part and in zones, resist, covers and torn paper: pure edits, refused with their reason."""

import pytest
import shapely

from fair_thicket.edits.ink_edits import (
    cover_wash,
    ink_only,
    ink_whole,
    ink_zone,
    set_resist,
    set_wash,
    tear_wash,
    uncover_wash,
)
from fair_thicket.files.card_file import decode_card, encode_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Blend, Cover, Cutout, Form, Impression, Splatter
from fair_thicket.model.stash import Stash
from fair_thicket.shape.paper import footprint
from making import stamp


@pytest.fixture
def work() -> Work:
    """A wash turned by 90 degrees, a toad stamped upside down, a snail cut out."""
    wash = Blend("sky-1", Form("rectangle", 60.0, 100.0), 60.0, 40.0, 90.0)
    pieces = (wash, Impression("toad-1", "toad", 40, 40, 180.0), Cutout("snail-1", "snail", 90.0, 40.0))
    return Work(Card(pieces=pieces), Stash((stamp("toad", 20), stamp("snail", 10))))


def test_only_what_lies_on_the_clicked_side_is_inked(work: Work) -> None:
    made = ink_only(work, "toad-1", (36, 20), (36, 60), (32, 40))
    assert footprint(made.card.find("toad-1"), made.stash).bounds == pytest.approx((30, 30, 36, 50), abs=1e-6)
    taped = ink_only(work, "toad-1", (36, 20), (36, 60), (32, 40), is_taped=True).card.find("toad-1")
    assert isinstance(taped, Impression)
    assert taped.is_taped
    assert ink_whole(made, "toad-1") == work


def test_a_zone_has_its_own_colour_and_the_newest_lies_over_the_older(work: Work) -> None:
    made = ink_zone(work, "toad-1", ((36, 20), (36, 60)), (32, 40), "#c00000")
    made = ink_zone(made, "toad-1", ((20, 36), (60, 36)), (40, 32), "#00c000")
    piece = made.card.find("toad-1")
    assert isinstance(piece, Impression)
    assert [zone.ink for zone in piece.zones] == ["#00c000", "#c00000"]
    assert decode_card(encode_card(made), "zones") == made
    assert ink_whole(made, "toad-1") == work
    for _ in range(10):
        made = ink_zone(made, "toad-1", ((36, 20), (36, 60)), (32, 40), "#0000c0")
    with pytest.raises(PaperError, match="at most 12 zones"):
        ink_zone(made, "toad-1", ((36, 20), (36, 60)), (32, 40), "#0000c0")


def test_what_is_not_stamped_has_no_stamp_to_ink(work: Work) -> None:
    with pytest.raises(PaperError, match="there is no stamp to ink"):
        ink_only(work, "snail-1", (88, 20), (88, 60), (80, 40))
    with pytest.raises(PaperError, match="does not part"):
        ink_only(work, "toad-1", (80, 20), (80, 60), (70, 40))
    with pytest.raises(PaperError, match="is no wash"):
        uncover_wash(work, "toad-1")


def test_a_resist_is_set_and_taken_back(work: Work) -> None:
    made = set_resist(work, "toad-1", resists=True)
    assert made.card.find("toad-1").resists  # type: ignore[union-attr]
    assert set_resist(made, "toad-1", resists=False) == work


def test_a_cover_lies_where_it_is_put_on_the_panel_however_the_wash_is_turned(work: Work) -> None:
    made = cover_wash(work, "sky-1", Cover("disc", Form("ellipse", 10.0, 10.0)), (80.0, 30.0))
    area = footprint(made.card.find("sky-1"), made.stash)
    assert not area.covers(shapely.Point(80, 30))
    assert area.covers(shapely.Point(80, 36))
    assert area.area == pytest.approx(6000 - 78.5, abs=0.5)
    assert uncover_wash(made, "sky-1") == work


@pytest.mark.parametrize("start", [(20.0, 40.0), (100.0, 40.0)])
def test_torn_paper_covers_the_clicked_side_whichever_way_the_line_was_drawn(
    work: Work, start: tuple[float, float]
) -> None:
    end = (120.0 - start[0], 40.0)
    made = tear_wash(work, "sky-1", (start, end), (60, 60), ragged_mm=0.0, seed=1)
    assert footprint(made.card.find("sky-1"), made.stash).bounds == pytest.approx((10, 10, 110, 40), abs=1e-3)


def test_a_wash_that_would_be_covered_whole_is_refused(work: Work) -> None:
    with pytest.raises(PaperError, match="cover less of it"):
        cover_wash(work, "sky-1", Cover("sheet", Form("rectangle", 300.0, 300.0)), (60.0, 40.0))


def test_a_wash_is_inked_another_way_and_kept(work: Work) -> None:
    made = set_wash(work, "sky-1", Splatter, drops=30, seed=4)
    assert footprint(made.card.find("sky-1"), made.stash).area < 200
    assert decode_card(encode_card(made), "splatter") == made
