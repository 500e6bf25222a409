"""Where shadow lies: round parts, panels between folds, ribs, lamps; what lies how; touches on top."""

import numpy as np
import pytest

from fair_thicket.edits.colouring import colour_parts, set_regions
from fair_thicket.edits.image_marks import add_fold, add_touch, set_lamp, set_rounding
from fair_thicket.ink.layings import lay_image, laying_of
from fair_thicket.ink.shading import colour_image
from fair_thicket.laid.stack import stack
from fair_thicket.masks import plan, rehearse
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import Region, Shade
from fair_thicket.model.pieces import Cutout, Part
from fair_thicket.model.supplies import Medium
from making import pictures_of, square, stamp, work_of

RUN = tuple(Shade(colour) for colour in ("#2c5a33", "#4f8a4a", "#9cc08a"))
SIDE = 20.0
PX = 300 / 25.4


def coloured(shades: tuple[Shade, ...] = RUN, *more: tuple[str, float, float], **fields: object) -> Work:
    """A toad of one square region at 40, 40, and what else there is."""
    work = work_of(("toad", 40, 40), *more, stamps=(stamp("toad", SIDE),))
    work = set_regions(work, "toad", (Region(1, square(SIDE - 1.2)),), ())
    return colour_parts(work, {"toad-1"}, [(1,)], shades=shades, **fields)


def light_of(work: Work) -> np.ndarray:
    """Lightness of the toad, a value for every mm2."""
    leaves = stack(work)
    laying = laying_of(work.card, work.stash, leaves, next(leaf for leaf in leaves if leaf.key == "toad-1"))
    assert laying is not None
    light = colour_image(laying).mean(axis=2)
    side = round(PX)
    count = int(SIDE) - 1
    return light[: side * count, : side * count].reshape(count, side, count, side).mean(axis=(1, 3))


def test_a_round_part_is_dark_at_all_its_edges_and_light_in_the_middle() -> None:
    light = light_of(set_rounding(coloured(), "toad", [1], "round"))
    middle = light[8:11, 8:11].mean()
    for edge in (light[1, 6:13], light[-2, 6:13], light[6:13, 1], light[6:13, -2]):
        assert edge.mean() < middle - 0.08


def test_a_panel_is_dark_at_both_sides_and_not_at_its_ends() -> None:
    """An upright panel: of a part three times as high as wide only the long sides darken."""
    work = work_of(("toad", 40, 40), stamps=(stamp("toad", SIDE),))
    ring = ((-3.0, -9.0), (3.0, -9.0), (3.0, 9.0), (-3.0, 9.0))
    work = set_regions(work, "toad", (Region(1, ring),), ())
    work = set_rounding(colour_parts(work, {"toad-1"}, [(1,)], shades=RUN), "toad", [1], "panel")
    light = light_of(work)
    middle = light[9, 9]
    assert light[9, 7] < middle - 0.1
    assert light[9, 11] < middle - 0.1
    assert light[2:17, 9].mean() == pytest.approx(middle, abs=0.12)


def test_shadow_lies_along_a_fold_on_every_region_that_it_crosses() -> None:
    plain = light_of(coloured())
    folded = light_of(add_fold(coloured(), "toad", ((-8.0, 4.0), (8.0, 4.0))))
    along = int(SIDE / 2 + 4)
    assert folded[along, 4:15].mean() < plain[along, 4:15].mean() - 0.05
    assert folded[along, 4:15].mean() < folded[along - 5, 4:15].mean() - 0.1


@pytest.mark.parametrize(("lamp", "far", "near"), [((70, 40), np.s_[:, 1:5], np.s_[:, 14:18]),
                                                   ((40, 70), np.s_[1:5, :], np.s_[14:18, :])])  # fmt: skip
def test_near_a_lamp_shadow_lies_away_from_the_lamp(
    lamp: tuple[float, float], far: tuple[slice, slice], near: tuple[slice, slice]
) -> None:
    """Light falls from the upper left; a lamp at the right, or below, turns it round."""
    work = coloured(RUN, ("lantern", *lamp))
    assert light_of(work)[far].mean() > light_of(work)[near].mean() + 0.03
    lit = light_of(set_lamp(work, {"lantern-2"}, 80.0))
    assert lit[near].mean() > lit[far].mean() + 0.03


def test_light_of_a_lamp_fades_with_distance_and_ends_at_its_reach() -> None:
    def lit(reach: float, x: float = 60) -> np.ndarray:
        return light_of(set_lamp(coloured(RUN, ("lantern", x, 40)), {"lantern-2"}, reach))

    bare = lit(0.0)
    assert np.array_equal(lit(9.0), bare)
    change = [float(np.abs(lit(80.0, x) - bare).mean()) for x in (60, 80, 100, 200)]
    assert change[0] > change[1] > change[2] > change[3] == 0
    assert lit(80.0).mean() > bare.mean()


def test_what_is_turned_by_hand_stays_so_beside_a_lamp() -> None:
    work = coloured(RUN, ("lantern", 60, 40), shadow_deg=10.0)
    assert np.array_equal(light_of(work), light_of(set_lamp(work, {"lantern-2"}, 80.0)))


@pytest.mark.parametrize(("medium", "texture"), [("pencil", 1.8), ("water", 1.05)])
def test_pencils_are_grainier_than_markers_and_water_less_even(medium: Medium, texture: float) -> None:
    def rough(kind: Medium) -> float:
        leaves = stack(work := coloured((Shade("#4f8a4a", medium=kind),)))
        laying = laying_of(work.card, work.stash, leaves, leaves[0])
        assert laying is not None
        return float(colour_image(laying).mean(axis=2)[30:-30, 30:-30].std())

    assert rough(medium) > texture * rough("alcohol")


def test_touches_lie_on_top_a_pencil_hides_what_is_under_it_and_a_white_dot_all() -> None:
    work = add_touch(coloured(), "toad", "cheek", (5, 5), 4.0)
    cheek = work.stash.find("toad").regions[-1].id
    pink = "#e58e88"
    bare = light_of(work)
    marker = light_of(colour_parts(work, {"toad-1"}, [(cheek,)], shades=(Shade(pink),)))
    pencil = light_of(colour_parts(work, {"toad-1"}, [(cheek,)], shades=(Shade(pink, medium="pencil"),)))
    at = (14, 14)
    assert marker[at] < bare[at] - 0.02
    assert pencil[at] > bare[at] + 0.05
    assert np.array_equal(pencil[:9, :9], bare[:9, :9])
    work = add_touch(work, "toad", "white dot", (-5, -5), 2.0)
    dot = work.stash.find("toad").regions[-1].id
    dotted = colour_parts(work, {"toad-1"}, [(dot,)], shades=(Shade("#ffffff", medium="pigment"),))
    leaves = stack(dotted)
    laying = laying_of(dotted.card, dotted.stash, leaves, leaves[0])
    assert laying is not None
    spot = round((SIDE / 2 - 5) * PX)
    assert colour_image(laying)[spot, spot].min() > 0.99


def test_further_images_of_a_joint_cutout_are_coloured_and_the_rehearsal_shows_them() -> None:
    stamps = (stamp("toad", SIDE), stamp("snail", 12.0))
    work = work_of(stamps=stamps)
    work = set_regions(work, "snail", (Region(1, square(10.8)),), ())
    piece = Cutout("toad-1", "toad", 60, 40, 90.0, margin_mm=0.0, joined=(Part("snail", 14.0, 0.0, 20.0),))
    work = Work(work.card.__class__(pieces=(piece,)), work.stash)
    work = colour_parts(work, {"toad-1+0"}, [(1,)], shades=RUN)
    assert lay_image(work.card, work.stash, stack(work), "toad-1") is None
    assert lay_image(work.card, work.stash, stack(work), "toad-1+0") is not None
    rehearsal = rehearse(work, pictures_of(work), plan(work))
    assert rehearsal.differences == ()
    green = rehearsal.scene[round(54 * PX), round(60 * PX)].astype(int)
    assert green[1] > green[0] + 20
    assert rehearsal.scene[round(40 * PX), round(60 * PX)].min() > 240
