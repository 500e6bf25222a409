"""Random edits of colours, sensible and wild."""

import random

from fair_thicket.edits import colouring as colours
from fair_thicket.edits import image_marks, papers
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import Region, Shade
from fair_thicket.model.pieces import Cutout, Impression
from fair_thicket.model.stash import Kind, Stamp

SHADES = tuple(Shade(colour, name) for colour, name in (("#2c5a33", "fern 4"), ("#4f8a4a", ""), ("#ffffff", "x" * 120)))


def _image(work: Work, dice: random.Random) -> Impression | Cutout | None:
    found = [piece for piece in work.card.pieces if isinstance(piece, Impression | Cutout)]
    return dice.choice(found) if found else None


def _parts(stamp: Stamp, dice: random.Random) -> list[tuple[int, ...]]:
    parts = colours.parts_of(stamp)
    return dice.sample(parts, min(len(parts), dice.choice([1, 2, 5]))) if parts else []


def colour_wildly(work: Work, dice: random.Random) -> Work:  # noqa: C901, PLR0911 - one line for each kind of edit
    """Colour, uncolour, join, split, cut, forget regions, keep and take schemes, turn the light."""
    piece = _image(work, dice)
    if piece is None:
        return work
    stamp = work.stash.find(piece.stamp)
    parts = _parts(stamp, dice)
    keys = {one.id for one in work.card.pieces if isinstance(one, Impression | Cutout) and one.stamp == piece.stamp}
    what = dice.randrange(18)
    if what >= 12:
        return _mark_wildly(work, dice, stamp, parts)
    if what <= 2:
        run = tuple(dice.choice(SHADES) for _ in range(dice.choice([0, 1, 3, 6, 7])))
        deg = dice.choice([None, 0.0, 359.9, -720.0])
        return colours.colour_parts(work, keys, parts, shades=run, shadow_deg=deg, dots=dice.choice([None, SHADES[0]]))
    if what == 3:
        return colours.uncolour(work, keys, dice.choice([None, parts]))
    if what == 4:
        return colours.join_parts(work, stamp.id, parts)
    if what == 5:
        return colours.split_part(work, stamp.id, parts[0]) if parts else work
    if what == 6 and stamp.regions:
        line = ((-90.0, dice.uniform(-9, 9)), (90.0, dice.uniform(-9, 9)))
        return colours.cut_region(work, stamp.id, dice.choice(stamp.regions).id, line)
    if what == 7:
        kept = tuple(one for one in stamp.regions if dice.random() < 0.8)
        half = dice.uniform(0.5, 600)
        more = Region(dice.choice([1, 7, 99_999]), ((-half, -half), (half, -half), (half, half)))
        return colours.set_regions(work, stamp.id, dice.choice([kept, (*stamp.regions, more)]), ())
    if what == 8:
        return colours.keep_scheme(work, piece.id, dice.choice(["", "dusk", "s" * 300]))
    if what == 9 and stamp.schemes:
        other = _image(work, dice)
        return colours.set_colouring(work, {other.id} if other else set(), dice.choice(stamp.schemes).colouring)
    if what == 10:
        return colours.move_runs_on(work, piece.id)
    return colours.set_light(work, dice.choice(["left", "above", "right", "below"]))


def _mark_wildly(  # noqa: PLR0911 - one line for each kind of edit
    work: Work, dice: random.Random, stamp: Stamp, parts: list[tuple[int, ...]]
) -> Work:
    """Mark folds, rounding, touches, lamps; cut from patterned paper."""
    regions = [region for part in parts for region in part]
    spot = (dice.uniform(-30, 30), dice.uniform(-30, 30))
    what = dice.randrange(7)
    if what == 0:
        return image_marks.set_rounding(work, stamp.id, regions, dice.choice(["plain", "round", "panel", "odd"]))
    if what == 1:
        return image_marks.add_fold(work, stamp.id, (spot, (dice.uniform(-30, 30), 0.0)))
    if what == 2:
        kind = dice.choice(["cheek", "eye", "white dot"])
        return image_marks.add_touch(work, stamp.id, kind, spot, dice.choice([None, 0.2, 9.0]))
    if what == 3:
        return image_marks.drop_touches(work, stamp.id, regions)
    if what == 4:
        keys = {piece.id for piece in dice.sample(work.card.pieces, min(2, len(work.card.pieces)))}
        return image_marks.set_lamp(work, keys, dice.choice([0.0, 30.0, 200.0, 201.0]))
    papers_there = [one.id for one in work.stash.stamps if one.kind is Kind.PAPER]
    if what == 5 or not papers_there:
        return papers.add_patterned(work, dice.choice(["sky", ""]), (dice.choice([9.0, 9000.0]), 9.0), stamp.picture)[0]
    keys = {piece.id for piece in work.card.pieces if dice.random() < 0.3}
    work = papers.set_pattern(work, keys, dice.choice([*papers_there, "none"]), "#7d9440")
    return papers.set_base_paper(papers.turn_pattern(work, keys), "#ffffff", dice.choice(["", *papers_there]))
