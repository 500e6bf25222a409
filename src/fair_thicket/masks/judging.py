"""What the masks and their rehearsal have to say."""

from collections.abc import Iterator, Mapping, Sequence

import msgspec
import shapely

from fair_thicket.laid.stack import stack
from fair_thicket.masks.differences import Difference
from fair_thicket.masks.pins import Refused
from fair_thicket.masks.problem_of_card import say_pin
from fair_thicket.masks.rehearsal import Rehearsal
from fair_thicket.masks.telling import is_slight, tell_difference
from fair_thicket.masks.turn_judges import judge_turns
from fair_thicket.masks.word_judges import judge_letters
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.keys import piece_key
from fair_thicket.model.masking import Pin
from fair_thicket.model.pieces import Impression
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.tolerance import PILE_LIMIT
from fair_thicket.shape.outline import Area, only_areas, open_pockets, to_area, to_rings, turn_area

ACCEPTED_MM2 = 0.3
"""Less that will be covered is not worth a word."""
POCKET_MM2 = 1.0
"""Smaller pockets are hardly coloured by hand."""


def judge(
    work: Work,
    plan: MaskPlan,
    rehearsal: Rehearsal | None = None,
    refused: Sequence[Refused] = (),
    pictures: Mapping[str, bytes] | None = None,
) -> list[Finding]:
    """Judge a plan, and its rehearsal where there has been one.

    Parameters
    ----------
    refused : sequence of Refused
        Pins that the plan could not hold.
    pictures : mapping of picture name to PNG bytes, or None
        Of the stamps; with them words are judged letter by letter.

    Returns
    -------
    list of Finding
        Pins that do not hold, ghosts, halos and skips by pair of images, piled masks, pockets that stay white, and a
        word of praise when the rehearsal equals the scene.
    """
    findings = [_refuse(work, one) for one in refused]
    findings += [*_pockets(work, plan), *judge_turns(work)]
    if plan.deepest_pile >= PILE_LIMIT:
        findings.append(
            Finding(
                code="pile",
                weight=Weight.CAUTION,
                station="masks",
                title=f"{plan.deepest_pile} masks on one another",
                text=f"Under one stamp {plan.deepest_pile} layers of masking paper lie on one another; the stamp "
                "bridges at their edge and may skip a band of print. Press with a finger along the edge.",
                measure=float(plan.deepest_pile),
                unit="count",
            )
        )
    if not plan.optimal:
        findings.append(
            Finding(
                code="unproven",
                weight=Weight.NOTE,
                station="masks",
                title="Best plan found, not proven",
                text=f"{plan.press_count} presses (fewer than {plan.fewest_presses} are impossible) and "
                f"{plan.careful_mm:.0f} mm with care (less than {plan.least_careful_mm:.0f} mm is impossible). "
                "There was no time to prove more.",
                measure=float(plan.press_count),
                unit="count",
            )
        )
    if rehearsal is not None:
        findings += _tell_all(work, plan, rehearsal.differences)
        findings += judge_letters(work, rehearsal, pictures) if pictures is not None else ()
        if rehearsal.accepted_mm2 > ACCEPTED_MM2:
            findings.append(_accept(rehearsal.accepted_mm2))
        if plan.presses and not rehearsal.differences:
            findings.append(
                Finding(
                    code="proven",
                    weight=Weight.GOOD,
                    station="masks",
                    title="The rehearsal equals the scene",
                    text=f"{_all_presses(plan.press_count)} performed on simulated paper at 300 dpi, and all else "
                    "coloured and glued on: no line too many, none missing.",
                    measure=0.0,
                    unit="mm",
                )
            )
    return findings


def _accept(area_mm2: float) -> Finding:
    """Tell of lines that print over one another where something will be glued over them."""
    return Finding(
        code="accepted",
        weight=Weight.NOTE,
        station="masks",
        title="Lines print over each other under what is glued on",
        text=f"{area_mm2:.1f} mm² of ink on the sheets are not as composed, and all of it will be covered: that is "
        "accepted and needs no mask.",
        measure=area_mm2,
        unit="mm2",
    )


def _tell_all(work: Work, plan: MaskPlan, differences: Sequence[Difference]) -> Iterator[Finding]:
    """Tell differences by their cause; those without one are told once, together."""
    for one in differences:
        if one.kind != "unlike":
            yield _tell(work, plan, one)
    unlike = [one for one in differences if one.kind == "unlike"]
    if unlike:
        first, area = unlike[0], sum(one.area_mm2 for one in unlike)
        title, text = tell_difference(msgspec.structs.replace(first, area_mm2=area), work, plan)
        places = tuple(ring for one in unlike for ring in one.places)
        pieces = tuple(one.back for one in unlike if one.back)
        yield Finding("unlike", Weight.CAUTION, title, text, round(area, 2), "mm2", pieces, places, station="masks")


def _tell(work: Work, plan: MaskPlan, one: Difference) -> Finding:
    """Tell a difference by its kind; the piece to act on comes first."""
    title, text = tell_difference(one, work, plan)
    weight, remedy = Weight.TROUBLE, None
    if is_slight(one) or one.kind in {"halo", "skip"}:
        weight = Weight.NOTE if is_slight(one) and one.kind != "ghost" else Weight.CAUTION
    if one.kind == "ghost":
        pin = next((pin for pin in work.card.masking.pins if pin.kind == "unmasked" and one.front in pin.pieces), None)
        remedy = _without(work, pin, "Mask it after all") if pin else _on_the_line(work, one.front)
    elif one.kind == "halo":
        remedy = _on_the_line(work, one.front)
    acts = (one.front, one.back) if one.kind in ("ghost", "halo") else (one.back, one.front)
    return Finding(one.kind, weight, title, text, one.width_mm, "mm", acts, one.places, remedy, station="masks")


def _on_the_line(work: Work, piece: str) -> Remedy | None:
    way = work.card.masking.way_of(piece)
    if way.rim_mm or way.is_loose:
        ways = tuple(one for one in work.card.masking.ways if one.piece != piece)
        masking = msgspec.structs.replace(work.card.masking, ways=ways)
        return Remedy("Cut this mask on the line", masking=masking, mask_rim_mm=0.0)
    return Remedy("Cut masks on the line", mask_rim_mm=0.0) if work.card.mask_rim_mm else None


def _without(work: Work, pin: Pin, words: str) -> Remedy:
    pins = tuple(one for one in work.card.masking.pins if one != pin)
    return Remedy(words, masking=msgspec.structs.replace(work.card.masking, pins=pins))


def _refuse(work: Work, refused: Refused) -> Finding:
    return Finding(
        code="pin",
        weight=Weight.TROUBLE,
        station="masks",
        title=f"This pin cannot hold: {say_pin(work, refused.pin)}",
        text=f"{refused.reason} The plan goes without it.",
        measure=1.0,
        unit="count",
        pieces=refused.pin.pieces,
        remedy=_without(work, refused.pin, "Take this pin away"),
    )


def _pockets(work: Work, plan: MaskPlan) -> list[Finding]:
    """List enclosed paper of masked images where what is behind would show through, were it not covered as well."""
    names = name_pieces(work)
    told, places, pieces, whole = [], [], [], 0.0
    for key, holes in sorted(list_pockets(work, plan).items()):
        area = float(sum(hole.area for hole in holes))
        whole += area
        told.append(f"{names[key]} {len(holes)}")
        places += [ring for hole in holes for ring in to_rings(hole)]
        pieces.append(key)
    if not told:
        return []
    return [
        Finding(
            code="pocket",
            weight=Weight.NOTE,
            station="masks",
            title="Pockets that masks keep white",
            text=f"Masks cover {whole:.0f} mm² enclosed by the images' own lines, where what is behind could show "
            f"through: {', '.join(told)}. Colour those that are gaps by pen, or open them in the stash (tool: hole).",
            measure=round(whole, 2),
            unit="mm2",
            pieces=tuple(pieces),
            places=tuple(places),
        )
    ]


def list_pockets(work: Work, plan: MaskPlan) -> dict[str, list[Area]]:
    """Return the pockets of masked images that lie over something behind and that no colour fills, in place, by id."""
    leaves = {leaf.key: leaf.whole for leaf in stack(work)}
    over: dict[str, set[str]] = {}
    for press in plan.presses:
        for key in press.masked:
            over.setdefault(piece_key(key), set()).update(piece_key(one) for one in press.impressions)
    found = {}
    for key, behind in over.items():
        piece = work.card.find(key)
        if not isinstance(piece, Impression) or piece.colour is not None:
            continue  # a flat colour fills its pockets
        seen = shapely.union_all([leaves[one] for one in behind if one in leaves])
        met = [
            hole for hole in _white_pockets(work, piece) if shapely.area(shapely.intersection(hole, seen)) > POCKET_MM2
        ]
        if met:
            found[key] = met
    return found


def _white_pockets(work: Work, piece: Impression) -> list[Area]:
    """Return the closed pockets of an image that none of its own colours fills, in place."""
    stamp = work.stash.find(piece.stamp)
    filled = {key for part in piece.colouring if part.shades for key in part.regions}
    taken = shapely.union_all([to_area(one.ring, one.holes) for one in stamp.regions if one.id in filled])
    opened = open_pockets(stamp)
    closed = [ring for ring in stamp.pockets if ring not in opened]
    left = [shapely.difference(to_area(ring), taken) for ring in closed]
    return [only_areas(turn_area(one, piece.angle_deg, piece.x, piece.y)) for one in left if one.area]


def _all_presses(count: int) -> str:
    if count == 1:
        return "The one press was"
    return f"All {count} presses were" if count else "All was"
