"""What is to be said of how a card is put together: what tips, hangs, stands too high, cannot be glued or posted."""

from collections.abc import Iterator

import msgspec
import shapely

from fair_thicket.assembly.foam import FoamPlan, plan_foam
from fair_thicket.assembly.glue import GluePlan, plan_glue
from fair_thicket.assembly.post import ASK, weigh_post
from fair_thicket.assembly.tucks import find_tucks
from fair_thicket.laid.heights import Heights, Rest, find_heights
from fair_thicket.laid.pinned import as_planned
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.keys import is_flap
from fair_thicket.model.pieces import Embellishment, PaperPiece
from fair_thicket.model.sides import turn_over
from fair_thicket.model.wanted import GoOn
from fair_thicket.shape.paper import window_area

HIGHER_MM = 0.2
UNBACKED_MM2 = 12.0
"""Less of a piece without foam is not worth a word (our own guess)."""
OVERLAP_MM2 = 4.0
MOST_LIFT_MM = 9.6
"""So much foam the desk offers."""


def judge(work: Work, *, go_on: GoOn = lambda: True) -> list[Finding]:
    """Judge how the side of a card that is in front is put together, as far as there is time."""
    heights = find_heights(work)
    if not heights.rests:
        return []
    names = name_pieces(work)
    foam, glue = plan_foam(work, heights, go_on=go_on), plan_glue(work, heights)
    found = [
        *_unsteady(heights, names),
        *_unbacked(heights, foam, names),
        *_above_its_frame(work, heights, names),
        *_loose(heights, foam, glue, names),
        *_tucks(work, heights, foam, glue, names),
        *_post(work, heights, foam, glue, go_on),
    ]
    return [msgspec.structs.replace(one, station="assembly") for one in found]


def _unsteady(heights: Heights, names: dict[str, str]) -> Iterator[Finding]:
    """Tell what is glued flat and lies on something high: it tips, or bridges; a shim is planned for it."""
    for rest in heights.rests:
        if (
            is_flap(rest.key)
            or rest.how not in {"tipping", "bridging", "hanging"}
            or isinstance(rest.piece, Embellishment)
        ):
            continue
        name = names[rest.piece.id]
        if rest.how == "hanging":
            yield Finding(
                "hangs", Weight.CAUTION, f"Nothing is under the {name}",
                "It lies past the card's edge and over nothing: there is nothing to glue it to.",
                round(rest.area.area, 1), "mm2", (rest.piece.id,),
            )  # fmt: skip
            continue
        gap = max(gap for gap, _ in rest.gaps)
        hanging = sum(area.area for _, area in rest.gaps)
        lifted = msgspec.structs.replace(rest.piece, lift_mm=round(gap, 1))
        how = "tips" if rest.how == "tipping" else "bridges a gap"
        yield Finding(
            "unsteady",
            Weight.NOTE,
            f"The {name} {how}",
            f"It is glued flat and rests on what is raised: {hanging / 100:.1f} cm² hang {gap:.1f} mm high. A shim of "
            "just that height is planned there; or raise the whole.",
            round(gap, 2),
            "mm",
            (rest.piece.id,),
            remedy=Remedy(f"Put {gap:.1f} mm of foam under it", (lifted,)) if gap <= MOST_LIFT_MM else None,
        )


def _unbacked(heights: Heights, foam: FoamPlan, names: dict[str, str]) -> Iterator[Finding]:
    for key, area in foam.unbacked.items():
        if area.area >= UNBACKED_MM2:
            rest = heights.find(key)
            yield Finding(
                "unbacked", Weight.NOTE, f"No foam can be hidden behind all of the {names[rest.piece.id]}",
                f"{area.area / 100:.1f} cm² of it are too thin, or lie over what must stay free. Keep it flat, or let "
                "a layer more of card stiffen it.",
                round(area.area, 1), "mm2", (rest.piece.id,),
            )  # fmt: skip


def _above_its_frame(work: Work, heights: Heights, names: dict[str, str]) -> Iterator[Finding]:
    """Tell figures that stand as high as the raised frame round them: it looks crowded, and the frame is lost."""
    for frame in heights.rests:
        opening = window_area(frame.piece, work.stash)
        if opening.is_empty or not frame.piece.lift_mm:
            continue
        for rest in _before(heights, frame):
            is_within = rest.area.area - shapely.area(shapely.intersection(rest.area, opening)) <= OVERLAP_MM2
            if is_within and rest.piece.lift_mm and rest.top_mm > frame.top_mm - HIGHER_MM:
                yield _say_above(rest, frame, names)


def _say_above(rest: Rest, frame: Rest, names: dict[str, str]) -> Finding:
    return Finding(
        "above-its-frame",
        Weight.CAUTION,
        f"The {names[rest.piece.id]} stands as high as the {names[frame.piece.id]}",
        f"It ends {rest.top_mm:.1f} mm high, the frame {frame.top_mm:.1f} mm: inside a raised frame figures are flat "
        "or lower, or it looks crowded and the frame is lost.",
        round(rest.top_mm - frame.top_mm, 2),
        "mm",
        (rest.piece.id, frame.piece.id),
        remedy=_flat(rest),
    )


def _before(heights: Heights, frame: Rest) -> list[Rest]:
    keys = [rest.key for rest in heights.rests]
    return [rest for rest in heights.rests[: keys.index(frame.key)] if not is_flap(rest.key)]


def _loose(heights: Heights, foam: FoamPlan, glue: GluePlan, names: dict[str, str]) -> Iterator[Finding]:
    """Tell what nothing holds: neither glue nor foam has a place."""
    held = {one.piece for one in foam.strips} | {one.piece for one in glue.glues}
    raised = [
        rest.key
        for rest in heights.rests
        if rest.how != "hanging" and rest.key not in held and not is_flap(rest.key) and rest.key not in glue.loose
        if not isinstance(rest.piece, Embellishment)
    ]
    for key in raised:
        yield Finding(
            "no-hold", Weight.TROUBLE, f"Nothing holds the {names[key]}",
            "It is raised, and neither foam nor glue finds room behind it: glue it flat, or make it wider.",
            0.0, "mm2", (key,), remedy=_flat(heights.find(key)),
        )  # fmt: skip
    for key in glue.loose:
        yield Finding(
            "no-glue", Weight.CAUTION, f"There is no place to glue the {names[key]} by",
            "Glue would be seen, or would stick what must stay free, or the ground is bumpy: put something opaque on "
            "it, or foam under it.",
            0.0, "mm2", (key,),
        )  # fmt: skip


def _flat(rest: Rest) -> Remedy | None:
    if not rest.piece.lift_mm:
        return None
    return Remedy("Glue it flat", (msgspec.structs.replace(rest.piece, lift_mm=0.0),))


def _tucks(work: Work, heights: Heights, foam: FoamPlan, glue: GluePlan, names: dict[str, str]) -> Iterator[Finding]:
    """Tell what cannot be slid in where the maker wants it; it is glued first then."""
    for one in find_tucks(work, heights, foam, glue):
        if not one.because:
            continue
        upper = work.card.find(one.under)
        can_free = isinstance(upper, PaperPiece) and upper.glue == "all" and one.depth_mm > 0
        yield Finding(
            "no-tuck",
            Weight.CAUTION,
            f"The {names[one.piece]} cannot be slid in under the {names[one.under]}",
            f"{one.because[:1].upper()}{one.because[1:]}. It is glued first, as usual; or let what lies over it be "
            "glued along its foot only.",
            one.depth_mm,
            "mm",
            (one.piece, one.under),
            remedy=Remedy(
                f"Glue the {names[one.under]} along its foot",
                (msgspec.structs.replace(upper, glue="foot", lift_mm=0.0),),
            )
            if can_free
            else None,
        )


def _post(work: Work, heights: Heights, foam: FoamPlan, glue: GluePlan, go_on: GoOn) -> Iterator[Finding]:
    """Tell why the card, both its sides, is no plain letter."""
    foams, glues, other = [foam], [glue], None
    if work.card.inside:
        turned = as_planned(turn_over(work))
        other = find_heights(turned)
        foams.append(plan_foam(turned, other, go_on=go_on))
        glues.append(plan_glue(turned, other))
    post = weigh_post(work, heights, other, foams, glues)
    if post.reasons:
        yield Finding(
            "post", Weight.NOTE, "It goes as no plain letter", f"{' '.join(post.reasons)} {ASK}",
            post.thickness_mm, "mm",
        )  # fmt: skip
