"""What the masks and their rehearsal have to say."""

from fair_thicket.masks.rehearsal import Difference, Rehearsal
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.tolerance import PILE_LIMIT
from fair_thicket.model.units import say_length

SLIGHT_MM = 0.3
"""A halo up to this width is hardly seen (common practice)."""


def judge(work: Work, plan: MaskPlan, rehearsal: Rehearsal | None = None) -> list[Finding]:
    """Judge a plan, and its rehearsal where there has been one.

    Returns
    -------
    list of Finding
        Ghosts and halos by pair of images, piled masks, and a word of praise when the rehearsal equals the scene.
    """
    findings = []
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
                text=f"{len(plan.presses)} presses; fewer than {plan.fewest_presses} are impossible. "
                "There was no time to prove the rest.",
                measure=float(len(plan.presses)),
                unit="count",
            )
        )
    if rehearsal is not None:
        findings += [_tell(work, one) for one in rehearsal.differences]
        if plan.presses and not rehearsal.differences:
            findings.append(
                Finding(
                    code="proven",
                    weight=Weight.GOOD,
                    station="masks",
                    title="The rehearsal equals the scene",
                    text=f"All {len(plan.presses)} presses were performed on simulated paper at 300 dpi: "
                    "no line too many, none missing.",
                    measure=0.0,
                    unit="mm",
                )
            )
    return findings


def _tell(work: Work, difference: Difference) -> Finding:
    names = name_pieces(work)
    front, back, unit = names[difference.front], names[difference.back], work.card.unit
    if difference.kind == "ghost":
        weight = Weight.TROUBLE if difference.width_mm > SLIGHT_MM else Weight.CAUTION
        text = (
            f"{say_length(difference.length_mm, unit)} of the {back} would print over the {front}, up to "
            f"{difference.width_mm:.1f} mm inside its edge."
        )
        return Finding(
            code="ghost",
            weight=weight,
            station="masks",
            title=f"Ghost line on the {front}",
            text=text,
            measure=difference.width_mm,
            unit="mm",
            pieces=(difference.front, difference.back),
            places=difference.places,
            remedy=_on_the_line(work),
        )
    weight = Weight.CAUTION if difference.width_mm > SLIGHT_MM else Weight.NOTE
    text = (
        f"Masks are cut {work.card.mask_rim_mm:g} mm outside the line, so the {back} stops "
        f"{difference.width_mm:.1f} mm short of the {front}: a white halo, {difference.area_mm2:.1f} mm² of "
        "missing line."
    )
    return Finding(
        code="halo",
        weight=weight,
        station="masks",
        title=f"White halo round the {front}",
        text=text,
        measure=difference.width_mm,
        unit="mm",
        pieces=(difference.front, difference.back),
        places=difference.places,
        remedy=_on_the_line(work),
    )


def _on_the_line(work: Work) -> Remedy | None:
    return Remedy("Cut masks on the line", mask_rim_mm=0.0) if work.card.mask_rim_mm else None
