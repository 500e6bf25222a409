"""Three flowers in a ring: impossible in a pile, refused with its reason, possible with one flap or one cut-out.

The scene is worked by hand: three squares of 20 mm about the corners of a triangle, each overlapping the two others
in a patch of its own, and all three in 3 by 4 mm.
"""

import pytest
import shapely

from fair_thicket.edits.rings import RingError, bring_past_only, ring_with_cutout, ring_with_flap
from fair_thicket.files.card_file import decode_card, encode_card
from fair_thicket.laid.visibility import look
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout, Impression
from fair_thicket.shape.paper import footprint
from making import stamp, work_of

FLOWERS = ("rose-1", "iris-2", "lily-3")


@pytest.fixture
def flowers() -> Work:
    """From the back: rose, iris, lily. The rose at the left, the iris at the right, the lily below between them."""
    places = (("rose", 40.0, 40.0), ("iris", 57.0, 40.0), ("lily", 48.5, 56.0))
    return work_of(*places, stamps=tuple(stamp(name, 20.0) for name, _, _ in places))


def seen_at(work: Work, x: float, y: float) -> str:
    """Piece whose leaf lies uppermost at a place."""
    spot = shapely.Point(x, y)
    leaves = [leaf for leaf in look(work).leaves if leaf.area.covers(spot)]
    return leaves[-1].piece.id


PATCHES = {("rose-1", "iris-2"): (48.5, 36.0), ("iris-2", "lily-3"): (55.0, 48.0), ("lily-3", "rose-1"): (42.0, 48.0)}


def test_the_three_overlap_by_pairs(flowers: Work) -> None:
    areas = {key: footprint(flowers.card.find(key), flowers.stash) for key in FLOWERS}
    for (one, other), at in PATCHES.items():
        assert shapely.intersection(areas[one], areas[other]).covers(shapely.Point(at))
    assert shapely.intersection_all(list(areas.values())).area == pytest.approx(12.0)


def test_a_ring_of_three_is_refused_with_its_reason(flowers: Work) -> None:
    """The lily is before the iris, the iris before the rose; the rose before the lily closes the ring."""
    with pytest.raises(RingError) as caught:
        bring_past_only(flowers, "rose-1", "lily-3")
    assert caught.value.ring == ("lily-3", "iris-2", "rose-1")
    words = str(caught.value)
    assert "the rose behind the iris, the iris behind the lily" in words
    assert "one flap or one cut-out" in words


def test_one_flap_makes_the_ring(flowers: Work) -> None:
    made = ring_with_flap(flowers, ("lily-3", "iris-2", "rose-1"))
    pieces = [made.card.find(key) for key in FLOWERS]
    assert all(isinstance(piece, Cutout) for piece in pieces)
    assert sum(len(piece.flaps) for piece in pieces) == 1
    assert seen_at(made, *PATCHES["rose-1", "iris-2"]) == "iris-2"
    assert seen_at(made, *PATCHES["iris-2", "lily-3"]) == "lily-3"
    assert seen_at(made, *PATCHES["lily-3", "rose-1"]) == "rose-1"
    assert decode_card(encode_card(made), "ring") == made


def test_one_cutout_trimmed_along_the_other_makes_the_ring(flowers: Work) -> None:
    made = ring_with_cutout(flowers, ("lily-3", "iris-2", "rose-1"))
    kinds = [type(made.card.find(key)) for key in FLOWERS]
    assert kinds == [Impression, Impression, Cutout]
    assert seen_at(made, *PATCHES["rose-1", "iris-2"]) == "iris-2"
    assert seen_at(made, *PATCHES["iris-2", "lily-3"]) == "lily-3"
    assert seen_at(made, *PATCHES["lily-3", "rose-1"]) == "rose-1"
    assert footprint(made.card.find("lily-3"), made.stash).area == pytest.approx(400 - 11.5 * 4.0, abs=1.0)
    assert decode_card(encode_card(made), "ring") == made


def test_a_pair_that_closes_no_ring_is_turned_round_and_nothing_else(flowers: Work) -> None:
    made = bring_past_only(flowers, "rose-1", "iris-2")
    assert seen_at(made, *PATCHES["rose-1", "iris-2"]) == "rose-1"
    assert seen_at(made, *PATCHES["iris-2", "lily-3"]) == "lily-3"
    assert seen_at(made, *PATCHES["lily-3", "rose-1"]) == "lily-3"
    with pytest.raises(PaperError, match="do not overlap"):
        bring_past_only(work_of(("rose", 20, 20), ("iris", 80, 80)), "rose-1", "iris-2")
