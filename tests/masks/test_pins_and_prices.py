"""Pins, half-turn pairs, the sheet to cut from, prices of the other way and the quickest mix."""

import itertools

import msgspec
import pytest
import shapely

from fair_thicket.edits.pieces import apply_remedy
from fair_thicket.laid.mask_edges import rims_over
from fair_thicket.laid.masking_paper import _hinge
from fair_thicket.laid.pinned import stamped_only
from fair_thicket.laid.stack import stack
from fair_thicket.masks import (
    cost_of,
    find_mix,
    judge,
    list_steps,
    plan,
    plan_with_pins,
    price_all,
    price_pin,
    rehearse,
)
from fair_thicket.masks.pin_edits import add_pin, set_masking, set_way, take_pin, take_pins_of, tick
from fair_thicket.masks.prices import say_change, stamp_with_backs, with_pins
from fair_thicket.masks.problem_of_card import say_pin
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.masking import MaskWay, Pin, Rates
from fair_thicket.model.pieces import Cutout, Form, Impression, Panel, Part
from fair_thicket.model.plan import SHEET, MaskPlan, Press
from fair_thicket.model.stash import Stash
from fair_thicket.shape.outline import only_areas
from making import framed_png, pictures_of, some_of, stamp, work_of


@pytest.fixture
def chain() -> Work:
    """A snail before a toad before a fern, and a moth that touches nothing."""
    return work_of(("fern", 20, 20), ("toad", 26, 20), ("snail", 32, 20), ("moth", 80, 60))


def presses_of(made: MaskPlan) -> list[tuple[str, ...]]:
    return [press.impressions for press in made.presses]


def test_first_and_press_and_together_hold(chain: Work) -> None:
    assert presses_of(plan(chain)) == [("moth-4", "snail-3"), ("toad-2",), ("fern-1",)]
    late = plan(add_pin(chain, Pin("press", ("moth-4",), 2)))
    assert presses_of(late) == [("snail-3",), ("toad-2",), ("moth-4", "fern-1")]
    with_toad = plan(add_pin(chain, Pin("together", ("moth-4", "toad-2"))))
    assert presses_of(with_toad) == [("snail-3",), ("moth-4", "toad-2"), ("fern-1",)]
    assert with_toad.optimal
    assert "moth-4" in plan(add_pin(chain, Pin("first", ("moth-4",)))).presses[0].impressions


def test_one_more_press_than_needed_may_be_pinned(chain: Work) -> None:
    made = plan(add_pin(chain, Pin("press", ("moth-4",), 3)))
    assert presses_of(made) == [("snail-3",), ("toad-2",), ("fern-1",), ("moth-4",)]


def test_what_the_order_forbids_is_refused_with_the_images_in_front(chain: Work) -> None:
    with pytest.raises(PaperError, match=r"fern can come in press 3 at the earliest: snail and toad stand in front"):
        add_pin(chain, Pin("first", ("fern-1",)))
    with pytest.raises(PaperError, match="snail must lie under its mask before the fern"):
        add_pin(chain, Pin("together", ("fern-1", "snail-3")))
    with pytest.raises(PaperError, match="of one stamp, and there is one of it"):
        add_pin(work_of(("fern", 20, 20), ("fern", 60, 20)), Pin("together", ("fern-1", "fern-2")))
    with pytest.raises(PaperError, match="two or more"):
        add_pin(chain, Pin("together", ("fern-1",)))


def test_a_later_pin_of_the_same_piece_takes_the_place_of_the_earlier(chain: Work) -> None:
    work = add_pin(add_pin(chain, Pin("first", ("moth-4",))), Pin("press", ("moth-4",), 1))
    assert work.card.masking.pins == (Pin("press", ("moth-4",), 1),)
    assert take_pin(work, Pin("press", ("moth-4",), 1)) == chain
    assert take_pins_of(work, {"moth-4"}) == chain


def test_never_masked_prints_over_and_advice_says_so(chain: Work) -> None:
    work = add_pin(chain, Pin("unmasked", ("snail-3",)))
    made = plan(work)
    assert [mask.serves for mask in made.masks] == [("toad-2",)]
    rehearsal = rehearse(work, pictures_of(work, hatch_mm=2), made)
    (ghost,) = [one for one in judge(work, made, rehearsal) if one.code == "ghost"]
    assert ghost.pieces == ("snail-3", "toad-2")
    assert "You pinned the snail never to be masked" in ghost.text
    assert ghost.remedy is not None
    assert apply_remedy(work, ghost.remedy) == chain


def test_pins_that_no_longer_hold_are_left_out_and_told(chain: Work) -> None:
    work = with_pins(chain, [Pin("press", ("moth-4",), 1), Pin("first", ("fern-1",))])
    made, refused = plan_with_pins(work)
    assert presses_of(made)[1] == ("moth-4", "toad-2")
    assert [one.pin.kind for one in refused] == ["first"]
    (finding,) = [one for one in judge(work, made, refused=refused) if one.code == "pin"]
    assert "press 3 at the earliest" in finding.text
    assert finding.remedy is not None
    assert apply_remedy(work, finding.remedy).card.masking.pins == (Pin("press", ("moth-4",), 1),)


def test_pins_of_pieces_that_are_gone_do_nothing(chain: Work) -> None:
    assert plan(with_pins(chain, [Pin("first", ("gone-9",)), Pin("cut", ("gone-9",))])) == plan(chain)


def test_a_pin_costs_what_the_plan_without_it_saves(chain: Work) -> None:
    pin = Pin("press", ("moth-4",), 3)
    work = add_pin(chain, pin)
    cost = price_pin(work, plan(work), pin)
    assert (cost.presses, cost.masks, cost.careful_mm) == (1, 0, 0)
    assert cost.minutes > 0
    free = add_pin(chain, Pin("first", ("moth-4",)))
    assert say_change(price_pin(free, plan(free), Pin("first", ("moth-4",)))) == "no difference"
    assert say_pin(work, pin) == "moth in press 4"


# -- half-turn pairs ---------------------------------------------------------------------------------------------


def test_a_half_turned_pair_is_stamped_in_neighbouring_presses_with_the_stamp_left_in_place() -> None:
    width, height = Card().panel
    fern = Impression("fern-1", "fern", 20.0, 30.0, 10.0)
    turned = Impression("fern-2", "fern", width - 20.0, height - 30.0, 190.0 - 360.0)
    other = work_of(("toad", 60, 50), ("snail", 66, 50), ("moth", 72, 50), ("newt", 78, 50))
    pieces = (*other.card.pieces, fern, turned)
    work = Work(Card(pieces=pieces), Stash((*other.stash.stamps, stamp("fern"))))
    made = plan(work)
    first, second = made.press_of("fern-1"), made.press_of("fern-2")
    assert abs(first - second) == 1
    later = made.presses[max(first, second)]
    assert later.turned in (("fern-1",), ("fern-2",))
    assert made.press_count == 4  # turning saves placing, not a press
    steps = list_steps(work, made)
    (turn,) = [step for step in steps if step.kind == "turn"]
    assert "turn the panel half round" in turn.words
    placed = next(step for step in steps if step.kind == "stamp" and step.press == max(first, second))
    assert "place fern" not in placed.words
    moved = msgspec.structs.replace(turned, x=turned.x + 0.5)
    apart = plan(Work(Card(pieces=(*other.card.pieces, fern, moved)), work.stash))
    assert all(press.turned == () for press in apart.presses)


# -- the sheet to cut from ---------------------------------------------------------------------------------------


def test_images_to_be_cut_out_are_stamped_on_a_sheet_of_their_own_last() -> None:
    base = work_of(("toad", 30, 30))
    cut = (
        Cutout("snail-1", "snail", 60.0, 60.0),
        Cutout("snail-2", "snail", 60.0, 62.0),
        Panel("p", Form("rectangle", 9, 9), 9, 9),
    )
    work = Work(
        msgspec.structs.replace(base.card, pieces=(*base.card.pieces, *cut)),
        Stash((*base.stash.stamps, stamp("snail"))),
    )
    made = plan(work)
    assert made.presses == (
        Press(("toad-1",), ()),
        Press(("snail-2",), (), SHEET),
        Press(("snail-1",), (), SHEET),
    ) or presses_of(made) == [("toad-1",), ("snail-1",), ("snail-2",)]
    rehearsal = rehearse(work, pictures_of(work), made)
    assert rehearsal.differences == ()
    assert (rehearsal.papers[1] == rehearsal.papers[3]).all()
    assert "sheet to cut from" in list_steps(work, made)[2].words


def test_images_cut_out_as_one_are_masked_against_each_other_on_the_sheet() -> None:
    joint = Cutout("toad-1", "toad", 60.0, 60.0, joined=(Part("snail", 6.0, 0.0),))
    work = Work(Card(pieces=(joint,)), Stash((stamp("toad"), stamp("snail"))))
    made = plan(work)
    assert presses_of(made) == [("toad-1+0",), ("toad-1",)]
    (mask,) = made.masks
    assert (mask.stamp, mask.serves) == ("snail", ("toad-1+0",))
    assert mask.careful_mm == pytest.approx(24.0, abs=0.01)  # as for two squares 6 mm apart
    cuts = rehearse(work, pictures_of(work), made).masking.cuts
    assert cuts[0].edge.area == pytest.approx(100.0)
    assert "snail joined to the toad" in list_steps(work, made)[0].words


# -- prices ------------------------------------------------------------------------------------------------------


def test_cutting_out_takes_what_stands_in_front_along(chain: Work) -> None:
    prices = {price.piece: price for price in price_all(chain, plan(chain))}
    assert prices["fern-1"].along == ("snail-3", "toad-2")
    assert prices["toad-2"].along == ("snail-3",)
    assert prices["moth-4"].along == ()


def test_prices_follow_the_rates_by_hand(chain: Work) -> None:
    """Cutting the snail out: a press on the sheet more, its mask gone, 40 mm cut by hand, 100 mm2 of 216 g/m2."""
    rates = Rates(place_min=0, press_min=2, lay_min=1, rough_min=3, careful_mm_per_min=20, glue_min=4, dry_min=0)
    work = set_masking(chain, rates=rates)
    other = add_pin(work, Pin("cut", ("snail-3",)))
    before, after = cost_of(work, plan(work)), cost_of(other, plan(other))
    change = after.less(before)
    assert (before.presses, before.masks, before.careful_mm) == (3, 2, pytest.approx(48.0))
    # presses 3 * 2, masks 2 * (3 + 1), careful 48 / 20
    assert before.minutes == pytest.approx(6 + 8 + 2.4)
    # panel 2 presses and sheet 1; the mask of the snail gone (24 mm); the snail cut (40 mm) and glued
    assert change.presses == 0
    assert change.masks == -1
    assert change.careful_mm == pytest.approx(40 - 24)
    assert change.minutes == pytest.approx(-4 + 16 / 20 + 4)
    assert change.grams == pytest.approx(100 * 216 / 1e6)
    assert change.height_mm == 0.25


def test_stamping_a_cutout_instead_takes_what_lies_under_it_along_or_says_why_not() -> None:
    cut = tuple(Cutout(f"{key}-1", key, x, 20.0) for key, x in (("fern", 20.0), ("toad", 26.0)))
    work = Work(Card(pieces=cut), Stash((stamp("fern"), stamp("toad"))))
    made, along = stamp_with_backs(work, "toad-1")
    assert along == ("fern-1",)
    assert all(isinstance(piece, Impression) for piece in made.card.pieces)
    panel = Panel("panel-1", Form("rectangle", 40, 40), 20, 20)
    over = Work(Card(pieces=(panel, *cut)), work.stash)
    with pytest.raises(PaperError, match="lies over the panel, which is glued"):
        stamp_with_backs(over, "fern-1")
    price = next(one for one in price_all(over, plan(over)) if one.piece == "fern-1")
    assert price.change is None
    assert "glued" in price.reason


@pytest.mark.parametrize("seed", some_of(6))
def test_the_quickest_mix_equals_trying_every_choice(seed: int) -> None:
    """Second method: every set of impressions that paper allows is pinned to be cut out and priced by its own plan."""
    import random

    dice = random.Random(seed)
    places = [(dice.choice("abc"), dice.uniform(8, 40), dice.uniform(8, 30)) for _ in range(5)]
    work = work_of(*places)
    # waits are not weighed by the search, and placing is the same either way
    rates = Rates(dry_min=0, place_min=0, careful_mm_per_min=dice.choice([8, 20, 60]), glue_min=dice.choice([0, 1, 3]))
    work = set_masking(work, rates=rates)
    ids = [piece.id for piece in work.card.pieces]
    best = min(
        cost_of(tried, plan(tried)).minutes
        for count in range(len(ids) + 1)
        for keys in itertools.combinations(ids, count)
        for tried in [with_pins(work, [Pin("cut", keys)] if keys else [])]
    )
    mix = find_mix(work, seconds=60)
    assert mix.proven
    assert mix.after.minutes == pytest.approx(best, abs=0.02)


def test_the_mix_leaves_pinned_images_alone(chain: Work) -> None:
    rates = Rates(careful_mm_per_min=5000, glue_min=0, rough_min=60)
    free = find_mix(set_masking(chain, rates=rates), seconds=60)
    assert "snail-3" in free.cut
    bound = find_mix(set_masking(add_pin(chain, Pin("first", ("snail-3",))), rates=rates), seconds=60)
    assert "snail-3" not in bound.cut


# -- the way a mask is cut, ticks --------------------------------------------------------------------------------


def test_one_mask_may_be_cut_another_way_and_back(chain: Work) -> None:
    work = set_way(chain, {"snail-3"}, rim_mm=0.5)
    assert work.card.masking.ways == (MaskWay("snail-3", rim_mm=0.5),)
    pictures = pictures_of(work, hatch_mm=2)
    made = rehearse(work, pictures, plan(work))
    assert made.differences == (), "a rim that is wanted is composed"
    assert (made.scene != rehearse(chain, pictures, plan(chain)).scene).any()
    deep = set_way(chain, {"snail-3"}, rim_mm=-0.9)
    ghosts = rehearse(deep, pictures, plan(deep)).differences
    assert {(one.kind, one.front) for one in ghosts} == {("ghost", "snail-3")}
    (finding,) = [one for one in judge(deep, plan(deep), rehearse(deep, pictures, plan(deep))) if one.code == "ghost"]
    assert finding.remedy is not None
    assert apply_remedy(deep, finding.remedy).card.masking.ways == ()
    assert set_way(work, {"snail-3"}, rim_mm=None) == chain


def test_a_partial_mask_covers_only_what_something_comes_near() -> None:
    work = work_of(("fern", 20, 20), ("toad", 44, 20), stamps=(stamp("fern", 20), stamp("toad", 40)))
    part = set_way(work, {"toad-2"}, kind="part")
    made = plan(part)
    pictures = {"images/fern.png": framed_png(20, 20, hatch_mm=2), "images/toad.png": framed_png(40, 40)}
    rehearsal = rehearse(part, pictures, made)
    assert rehearsal.differences == ()
    # the fern reaches 6 mm under the toad's left edge; with 3 mm of reach 9 by 26 mm, two corners round
    assert rehearsal.masking.cuts[0].edge.area == pytest.approx(9 * 26 - 2 * (9 - 9 * 3.1416 / 4), abs=0.5)


def test_a_loose_mask_leaves_paper_beside_thin_stems_only() -> None:
    # a body of 20 mm on a stem of 1 by 10 mm
    outer, stem = [(-10.0, -10.0), (10.0, -10.0), (10.0, 10.0)], [(0.5, 10.0), (0.5, 20.0), (-0.5, 20.0), (-0.5, 10.0)]
    body = (*outer, *stem, (-10.0, 10.0))
    toad = msgspec.structs.replace(stamp("toad", 20), height_mm=30.0, outline=body)
    work = set_way(
        work_of(("fern", 40, 55), ("toad", 40, 40), stamps=(toad, stamp("fern", 16))), {"toad-2"}, is_loose=True
    )
    cut = rehearse(work, {**pictures_of(work)}, plan(work)).masking.cuts[0]
    left, top, right, bottom = cut.edge.bounds
    assert (left, top, right) == pytest.approx((-10, -10, 10), abs=0.05)
    assert bottom == pytest.approx(20.8, abs=0.05)  # 0.8 mm beyond the stem's end
    at_stem = cut.edge.intersection(shapely.box(-5, 15, 5, 16)).area
    assert at_stem == pytest.approx(1.0 + 2 * 0.8, abs=0.05)


def test_hold_down_paper_is_left_on_but_never_where_something_is_stamped(chain: Work) -> None:
    made = plan(chain)
    masking = rehearse(chain, pictures_of(chain), made).masking
    for cut in masking.cuts:
        assert cut.paper.area > cut.edge.area + 20
        assert cut.paper.covers(cut.edge.buffer(-0.01))
        assert cut.hinge is not None
    for lying in masking.lyings:
        for press in made.presses[lying.first : lying.last + 1]:
            for key in press.impressions:
                area = masking._areas[key]
                beside = masking.lying_area(lying).difference(masking._areas[lying.impression].buffer(0.01))
                assert beside.distance(area) > 2.8


def test_ticks_are_kept_by_step_and_taken_back(chain: Work) -> None:
    keys = [step.key for step in list_steps(chain, plan(chain))]
    assert len(set(keys)) == len(keys)
    done = tick(chain, keys[0], is_done=True)
    assert done.card.masking.done == (keys[0],)
    assert tick(done, keys[0], is_done=False) == chain


def test_presses_in_place_follow_paper_ink_and_new_stamps(chain: Work) -> None:
    def words(work: Work) -> str:
        return next(step.words for step in list_steps(work, plan(work)) if step.kind == "stamp")

    assert "ink and press" in words(chain)
    assert "2 times in place" in words(set_masking(chain, paper="textured"))
    new = msgspec.structs.replace(chain.stash.find("moth"), tags=("new",))
    stash = Stash(tuple(new if one.id == "moth" else one for one in chain.stash.stamps))
    assert "3 times in place" in words(Work(chain.card, stash))
    assert "times in place" not in words(Work(set_masking(chain, ink="slow").card, stash))


def test_waits_are_told_and_longer_in_slow_ink(chain: Work) -> None:
    def waits(work: Work) -> list[str]:
        return [step.words for step in list_steps(work, plan(work)) if step.kind == "wait"]

    assert waits(chain) == ["Wait 1 min, until the ink of snail is dry", "Wait 1 min, until the ink of toad is dry"]
    assert waits(set_masking(chain, ink="slow"))[0].startswith("Wait 6 min")


def test_the_same_pin_made_twice_is_there_once(chain: Work) -> None:
    pin = Pin("cut", ("toad-2",))
    once = add_pin(chain, pin)
    assert add_pin(once, pin).card.masking.pins == (pin,)
    other = Pin("cut", ("snail-3",))
    assert add_pin(once, other).card.masking.pins == (pin, other)


def test_what_a_pin_has_cut_out_is_not_among_what_is_stamped_and_everything_else_is(chain: Work) -> None:
    pinned = add_pin(chain, Pin("cut", ("snail-3",)))
    assert [piece.id for piece in stamped_only(pinned).card.pieces] == ["fern-1", "toad-2", "moth-4"]
    assert stamped_only(chain) is chain


def test_an_image_pinned_never_to_be_masked_keeps_nothing_bare_beside_it(chain: Work) -> None:
    """A rim of 1 mm keeps the toad's lines off the snail, unless the snail is pinned bare."""
    rimmed = msgspec.structs.replace(chain, card=msgspec.structs.replace(chain.card, mask_rim_mm=1.0))
    leaves = stack(rimmed)
    toad = next(leaf for leaf in leaves if leaf.key == "toad-2")
    rim = rims_over(rimmed.card, toad, leaves)
    assert rim is not None
    assert rim.bounds == pytest.approx((32 - 6, 20 - 6, 32 + 6, 20 + 6), abs=0.05)
    bare = msgspec.structs.replace(
        rimmed.card, masking=msgspec.structs.replace(rimmed.card.masking, pins=(Pin("unmasked", ("snail-3",)),))
    )
    assert rims_over(bare, toad, leaves) is None
    other = msgspec.structs.replace(
        rimmed.card, masking=msgspec.structs.replace(rimmed.card.masking, pins=(Pin("first", ("snail-3",)),))
    )
    assert rims_over(other, toad, leaves) is not None
    assert rims_over(chain.card, toad, leaves) is None


def test_the_hinge_of_a_mask_is_the_middle_of_the_spare_paper_that_is_farthest_from_the_careful_line() -> None:
    edge = shapely.box(0, 0, 10, 10)
    near, far = shapely.box(12, 0, 20, 10), shapely.box(-40, 0, -20, 10)
    paper = only_areas(shapely.union_all([edge, near, far]))
    assert _hinge(edge, paper, shapely.LineString([(11, 0), (11, 10)])) == pytest.approx((-30.0, 5.0), abs=5.0)
    assert _hinge(edge, paper, shapely.LineString([(-41, 0), (-41, 10)])) == pytest.approx((16.0, 5.0), abs=4.0)
    assert _hinge(edge, only_areas(edge), shapely.LineString()) is None
    assert _hinge(edge, paper, shapely.LineString()) == pytest.approx((-30.0, 5.0), abs=5.0), "the larger piece"
