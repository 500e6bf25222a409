"""Outlines of images that were taken in before silhouettes were read."""

import math

import msgspec
import pytest
import shapely

from fair_thicket import edits
from fair_thicket.intake.renewing import find_renewals, held_area, renew_outline
from fair_thicket.masks import plan
from fair_thicket.model.errors import StoppedError
from fair_thicket.model.stash import Kind, Stamp
from fair_thicket.shape.outline import to_area
from making import framed_png, open_ring_png, stamp, wire_stamp, work_of


def test_an_outline_along_an_open_line_is_renewed_round_the_body() -> None:
    wire = wire_stamp("pear")
    (found,) = find_renewals([wire], {wire.picture: open_ring_png()})
    assert found.before is wire
    assert held_area(found.after) == pytest.approx(math.pi * 15**2, rel=0.02)  # a ring of 30 mm, its gap closed
    assert found.grown > 5
    assert msgspec.structs.replace(found.after, outline=wire.outline, pockets=wire.pockets) == wire


def test_an_outline_round_a_body_stays() -> None:
    wire = wire_stamp("pear")
    after = renew_outline(wire, open_ring_png())
    assert after is not None
    assert find_renewals([after], {after.picture: open_ring_png()}) == []


def test_an_outline_whose_enclosed_areas_were_all_pockets_stays() -> None:
    """So it was before pockets were read; its mask is the same."""
    after = renew_outline(wire_stamp("pear"), open_ring_png())
    assert after is not None
    inner = tuple((0.9 * x, 0.9 * y) for x, y in after.outline)
    assert find_renewals([msgspec.structs.replace(after, pockets=(inner,))], {after.picture: open_ring_png()}) == []


def test_what_a_maker_shaped_wider_than_is_found_stays() -> None:
    wide = msgspec.structs.replace(wire_stamp("pear"), outline=((-18, -18), (18, -18), (18, 18), (-18, 18)))
    assert find_renewals([wide], {wide.picture: open_ring_png()}) == []


@pytest.mark.parametrize("kind", [Kind.DIE, Kind.BORDER, Kind.GREETING])
def test_dies_borders_and_words_are_left_alone(kind: Kind) -> None:
    wire = msgspec.structs.replace(wire_stamp("pear"), kind=kind)
    assert find_renewals([wire], {wire.picture: open_ring_png()}) == []


@pytest.mark.parametrize("picture", [b"", b"no picture", open_ring_png()[:200]])
def test_a_damaged_picture_renews_nothing(picture: bytes) -> None:
    assert renew_outline(wire_stamp("pear"), picture) is None


def test_a_picture_without_ink_renews_nothing() -> None:
    assert renew_outline(stamp("bare"), framed_png(10, 10, 0)) is None


def test_looking_stops_when_it_is_no_longer_wanted() -> None:
    with pytest.raises(StoppedError):
        find_renewals([wire_stamp("pear")], {}, lambda: False)


def test_a_plan_follows_renewed_outlines() -> None:
    """A leaf within the ring lies on bare paper beside the wire, and behind the body once it is one."""
    wire = wire_stamp("pear")
    leaf = stamp("leaf", 6.0)
    work = work_of(("leaf", 70, 70), ("pear", 70, 70), stamps=(wire, leaf))
    pictures = {wire.picture: open_ring_png(), leaf.picture: framed_png(6, 6)}
    renewed = edits.renew_outlines(work, [one.after for one in find_renewals(work.stash.stamps, pictures)])
    covered = [shapely.area(to_area(_of(one.stash.stamps, "pear").outline)) for one in (work, renewed)]
    assert covered[1] > 4 * covered[0]
    assert plan(renewed).press_count == 2
    assert len(plan(renewed).masks) == 1
    assert len(plan(work).masks) == 0


def _of(stamps: tuple[Stamp, ...], key: str) -> Stamp:
    return next(one for one in stamps if one.id == key)
