"""Foam and glue held against rasters of their own: near everything, never seen, never where things stay free."""

import itertools
import random

import cv2
import msgspec
import numpy as np
import pytest
import shapely
from PIL import Image, ImageDraw

from fair_thicket.assembly.foam import owned_foam, plan_foam, slits_of
from fair_thicket.assembly.glue import plan_glue
from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.laid.heights import find_heights
from fair_thicket.laid.stack import paper_of
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Cutout, Flap, Form, Panel, PaperPiece, Strip, Window
from fair_thicket.model.stash import Stash
from making import some_of, stamp

PX = 4.0
EDGE_MM, REACH_MM = 0.4, 12.0


def card_of(*pieces: PaperPiece) -> Work:
    return Work(Card(pieces=pieces), Stash((stamp("toad", 20.0), stamp("snail", 26.0))))


def panel(key: str, x: float, y: float, w: float, h: float, **more: object) -> Panel:
    return Panel(key, Form("rectangle", w, h), x, y, **more)  # type: ignore[arg-type]


def mask(area: shapely.Geometry) -> np.ndarray:
    """Cells of an area by Pillow's own filling, on a sheet of 200 x 160 mm that begins 30 mm beside the card."""
    picture = Image.new("L", (round(200 * PX), round(160 * PX)), 0)
    draw = ImageDraw.Draw(picture)
    for part in shapely.get_parts(area):
        if isinstance(part, shapely.Polygon) and not part.is_empty:
            draw.polygon([((x + 30) * PX, (y + 30) * PX) for x, y in part.exterior.coords], fill=1)
            for ring in part.interiors:
                draw.polygon([((x + 30) * PX, (y + 30) * PX) for x, y in ring.coords], fill=0)
    return np.asarray(picture) > 0


def off_mm(cells: np.ndarray) -> np.ndarray:
    return cv2.distanceTransform((~cells).astype(np.uint8), cv2.DIST_L2, 5) / PX


def check(work: Work) -> None:
    """Look at every raised piece by distance transform: backed everywhere, and nothing of its foam seen past it."""
    heights = find_heights(work)
    foam = plan_foam(work, heights)
    for rest in heights.rests:
        if "~" in rest.key or rest.how == "flat" or rest.piece.translucent:
            assert not foam.of(rest.key)
            continue
        own = mask(rest.area)
        strips = [mask(one.area) for one in foam.of(rest.key)]
        owned = min(owned_foam(work))
        bent = [mask(area) for gap, area in rest.gaps if gap < owned / 2]  # paper bends so far (our own estimate)
        backed = np.logical_or.reduce([mask(rest.contact), *bent, *strips])
        sums = {
            round(sum(some), 2) for many in (1, 2, 3, 4) for some in itertools.product(owned_foam(work), repeat=many)
        }
        assert {one.thick_mm for one in foam.of(rest.key)} <= sums, "foam that is owned, or stacked"
        beyond = [one.area.difference(paper_of(work.card)).area for one in foam.of(rest.key)]
        assert not sum(beyond), "none past the card's edge"
        assert not any((one & ~own).any() for one in strips), rest.key  # none is seen past the piece
        covered = sum(one.astype(int) for one in strips) if strips else np.zeros(own.shape, int)
        seams = (covered > 1) & (off_mm(~(covered > 1)) > 0.4)
        assert not seams.any(), rest.key  # no strip lies on another
        lost = foam.unbacked.get(rest.key)
        far = own & (off_mm(backed) > REACH_MM) if backed.any() else own
        far &= ~mask(shapely.buffer(lost, 1.0)) if lost is not None else True
        assert not far.any(), (rest.key, int(far.sum()))


@pytest.mark.parametrize("number", range(len(CARD_FILES)))
def test_no_point_of_a_raised_piece_is_far_from_foam_on_the_demo_cards(number: int) -> None:
    check(open_card(CARD_FILES[number])[0])


@pytest.mark.parametrize("seed", some_of(100))
def test_no_point_of_a_raised_piece_is_far_from_foam_on_random_cards(seed: int) -> None:
    dice = random.Random(seed)
    pieces: list[PaperPiece] = [panel("ground", 70, 54, 130, 98)]
    for number in range(dice.randint(2, 7)):
        x, y, turn, lift = (
            dice.uniform(10, 130),
            dice.uniform(10, 98),
            dice.uniform(0, 360),
            dice.choice([0, 0.8, 1.6, 3.2]),
        )
        if dice.random() < 0.5:
            pieces.append(
                Cutout(f"toad-{number}", dice.choice(["toad", "snail"]), x, y, turn, margin_mm=0.0, lift_mm=lift)
            )
        elif dice.random() < 0.5:
            windows = (Window(Form("ellipse", 18, 12)),) if dice.random() < 0.5 else ()
            pieces.append(
                panel(
                    f"p-{number}",
                    x,
                    y,
                    dice.uniform(25, 60),
                    dice.uniform(20, 50),
                    angle_deg=turn,
                    lift_mm=lift,
                    windows=windows,
                )
            )
        else:
            pieces.append(Strip(f"s-{number}", dice.uniform(20, 70), dice.uniform(5, 14), x, y, turn, lift_mm=lift))
    check(card_of(*pieces))


def test_a_frame_has_foam_all_round_and_none_behind_its_window() -> None:
    frame = panel("frame", 70, 54, 130, 98, windows=(Window(Form("rectangle", 106, 74)),), lift_mm=1.6)
    work = card_of(frame)
    strips = plan_foam(work, find_heights(work)).of("frame")
    window = shapely.box(70 - 53, 54 - 37, 70 + 53, 54 + 37)
    assert not any(one.area.intersects(window) for one in strips)
    for corner in ((5, 5), (135, 5), (5, 103), (135, 103)):
        assert min(one.area.distance(shapely.Point(corner)) for one in strips) <= 8.5
    assert {one.thick_mm for one in strips} == {1.6}


def test_a_shim_lies_under_what_hangs_and_nowhere_else() -> None:
    hill, tractor = panel("hill", 35, 60, 70, 40, lift_mm=1.6), panel("tractor", 65, 60, 40, 20)
    work = card_of(hill, tractor)
    heights = find_heights(work)
    strips = plan_foam(work, heights).of("tractor")
    assert strips
    assert all(one.area.bounds[0] >= 70 - 0.01 for one in strips)
    assert {one.thick_mm for one in strips} == {1.6}, "1.85 mm of room: the nearest that is owned"


def test_a_thin_tree_gets_a_sliver_and_what_is_too_thin_for_any_is_told() -> None:
    tree = panel("tree", 70, 54, 3.0, 50, lift_mm=1.6)
    twig = panel("twig", 100, 54, 0.8, 50, lift_mm=1.6)
    work = card_of(tree, twig)
    foam = plan_foam(work, find_heights(work))
    assert {one.width_mm for one in foam.of("tree")} <= {1.2, 2.0}
    assert foam.of("tree")
    assert not foam.of("twig")
    assert foam.unbacked["twig"].area == pytest.approx(0.8 * 50, rel=0.5)


def test_foam_keeps_off_a_strand_that_must_stay_free() -> None:
    ring = ((-10.0, -10.0), (10.0, -10.0), (10.0, 0.0), (-10.0, 0.0))
    hung = Cutout("toad-1", "toad", 70, 40, margin_mm=0.0, flaps=(Flap(ring, "snail-1", "over"),))
    snail = Cutout("snail-1", "snail", 78, 36, margin_mm=0.0, lift_mm=1.6)
    work = card_of(hung, snail, panel("sign", 70, 34, 50, 20, lift_mm=3.2))
    heights = find_heights(work)
    strand = next(rest.area for rest in heights.rests if rest.key == "toad-1~0")
    order = [rest.key for rest in heights.rests]
    for one in plan_foam(work, heights).strips:
        if order.index(one.piece) > order.index("toad-1~0"):
            assert one.area.distance(strand) >= work.card.assembly.glue_free_mm - 0.6


# -- glue -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("number", range(len(CARD_FILES)))
def test_glue_lies_behind_its_piece_and_away_from_what_stays_free_on_the_demo_cards(number: int) -> None:
    work, _ = open_card(CARD_FILES[number])
    heights = find_heights(work)
    plan = plan_glue(work, heights)
    loose = [rest for rest in heights.rests if "~" in rest.key]
    strands = [rest for rest in loose if rest.piece.flaps[int(rest.key.partition("~")[2])].slit is None]
    slits = [slit for rest in heights.rests for slit in slits_of(rest.piece)]
    for one in plan.glues:
        rest = heights.find(one.piece)
        assert not (mask(one.area) & ~mask(shapely.buffer(rest.area, 0.1))).any()
        for strand in strands:
            if strand.piece.id == one.piece:
                assert one.area.distance(strand.area) >= work.card.assembly.glue_free_mm - 0.05
        for slit in slits:
            assert one.area.distance(slit) >= work.card.assembly.glue_free_mm - 0.25


def test_what_lies_before_a_slit_is_glued_but_along_its_line_and_foam_is_what_the_maker_has() -> None:
    """A pond with a slit: 4 mm along its cut line stay free, all else is glued (common practice)."""
    lower = ((-40.0, 0.0), (40.0, 0.0), (40.0, 20.0), (-40.0, 20.0))
    flap = Flap(lower, "toad-1", "over", slit=((-20.0, 0.0), (20.0, 0.0)))
    pond = msgspec.structs.replace(panel("pond", 70, 60, 80, 40), flaps=(flap,))
    toad = Cutout("toad-1", "toad", 70, 55, margin_mm=0.0)
    leaf = panel("leaf", 70, 72, 12, 8)
    work = card_of(pond, toad, leaf)
    glues = {one.piece: one.area for one in plan_glue(work, find_heights(work)).glues}
    assert glues["leaf"].area > 40, "it lies on the lower part, which is held"
    assert glues["pond"].distance(shapely.LineString([(50, 60), (90, 60)])) >= 4.0 - 0.25
    hill, tractor = panel("hill", 35, 60, 70, 40, lift_mm=2.6), panel("tractor", 65, 60, 40, 20)
    for thick, wanted in (((), {2.6}), ((1.0,), {2.6, 3.0}), ((0.7, 3.0), {2.6, 3.0, 2.8})):
        own = card_of(hill, tractor)
        rules = msgspec.structs.replace(own.card.assembly, foam_mm=thick)
        own = msgspec.structs.replace(own, card=msgspec.structs.replace(own.card, assembly=rules))
        strips = plan_foam(own, find_heights(own)).of
        assert {one.thick_mm for one in strips("hill")} == {2.6}, "a lift that the card gives is never rounded"
        assert {one.thick_mm for one in strips("tractor")} <= wanted


def test_kinds_of_glue_follow_the_craft() -> None:
    """Common practice: tape on panels, a fine tip on thin words, one dot for wings, on vellum behind words."""
    ground = panel("ground", 70, 54, 130, 98)
    word = panel("word", 70, 20, 40, 2.0)
    wing = Cutout("toad-1", "toad", 30, 60, margin_mm=0.0, glue="point")
    vellum = panel("vellum", 90, 60, 60, 30, translucent=True)
    on_it = panel("on-it", 90, 60, 20, 10)
    foot = Cutout("snail-1", "snail", 30, 90, margin_mm=0.0, glue="foot")
    work = card_of(ground, word, wing, vellum, on_it, foot)
    heights = find_heights(work)
    plan = {one.piece: one for one in plan_glue(work, heights).glues}
    assert (plan["ground"].kind, plan["ground"].tape_mm) == ("tape", 10.0)
    assert plan["word"].kind == "fine tip"
    assert plan["toad-1"].kind == "one dot"
    assert plan["toad-1"].area.area == pytest.approx(np.pi * 4, rel=0.05)
    assert plan["vellum"].kind == "behind what is opaque"
    assert shapely.box(80, 55, 100, 65).buffer(-EDGE_MM).contains(plan["vellum"].area)
    assert plan["snail-1"].area.bounds[1] >= 90 + 13 - 8 - 0.1


def test_vellum_with_nothing_opaque_on_it_has_no_place_for_glue() -> None:
    work = card_of(panel("vellum", 70, 54, 60, 30, translucent=True))
    plan = plan_glue(work, find_heights(work))
    assert plan.glues == ()
    assert plan.loose == ("vellum",)
