"""A difference in a maker's words: one headline and one sentence, for advice, the station and the shell alike."""

from collections.abc import Mapping
from types import MappingProxyType

from fair_thicket.laid.mask_edges import rim_of
from fair_thicket.masks.differences import Difference
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.pieces import Wash
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.tolerance import SLIGHT_MM
from fair_thicket.model.units import say_length

WORDS: Mapping[tuple[str, str], tuple[str, str]] = MappingProxyType(
    {
        ("missing", "colour"): ("The {back} is not coloured", "Its colours are missing on {area}."),
        ("missing", "words"): ("The words of the {back} are missing", "They are not put on the strip."),
        ("missing", "paper"): ("The {back} is not glued on", "It is missing on {area}, with all that lies on it."),
        ("missing", "never"): ("The {back} is never {done}", "No press makes it: {area} of it are missing."),
        ("missing", "both"): ("The {back} stops at lines of the {front}", "{press}{area} of it are missing."),
        ("missing", "ink"): (
            "Part of the {back} stays bare",
            "{press}a mask lies on it, or something keeps its ink off: {area}.",
        ),
        ("extra", "colour"): ("The {back} is coloured twice", "On {area} it comes out darker than composed."),
        ("extra", "words"): ("The words of the {back} are put on twice", "On {area} they are not as composed."),
        ("extra", "paper"): ("The {back} lies where nothing belongs", "It takes up {area}."),
        ("extra", "ink"): (
            "Too much of the {back}",
            "{press}on {area} it is {done} twice, or where nothing is wanted.",
        ),
        ("colour", "ink"): ("The {back} comes out in another colour", "{press}on {area} it is not as composed."),
        ("colour", "colour"): ("The {back} is coloured in other shades", "On {area} it is not as composed."),
        ("place", "ink"): ("The {back} is not in its place", "{press}{area} of the card differ for it."),
        ("place", "paper"): ("The {back} is not in its place", "{area} of the card differ for it."),
        ("order", "paper"): (
            "The {front} lies over the {back}",
            "It belongs under it; {area} are hidden that should be seen.",
        ),
        ("order", "both"): (
            "The {back} comes in the wrong order",
            "{press}it comes after the {front}, in front of which it stands, and a mask lies over its place: {area}.",
        ),
        ("order", "ink"): (
            "The {back} comes in the wrong order",
            "{press}on {area} it lies under what belongs under it.",
        ),
    }
)
"""By kind and what it is about; `never`: no press makes it, `both`: two images are concerned."""
UNKNOWN = (
    "The {back} does not come out as composed",
    "{area} of it differ between the card as rehearsed and as composed; why is not known.",
)


def tell_difference(one: Difference, work: Work, plan: MaskPlan) -> tuple[str, str]:
    """Return a headline and a sentence about a difference."""
    names = {**name_pieces(work), "": "card itself"}
    words = {"front": names.get(one.front, one.front), "back": names.get(one.back, one.back)}
    words["area"] = f"{one.area_mm2:.1f} mm²"
    words["press"] = _say_press(one, plan)
    is_wash = any(isinstance(piece, Wash) and piece.id == one.back for piece in work.card.pieces)
    words["done"] = "inked" if is_wash else "stamped"
    title, text = _by_edge(one, work) or WORDS.get(_row_of(one), UNKNOWN)
    return title.format(**words), text.format(**words)


def _say_press(one: Difference, plan: MaskPlan) -> str:
    if not 0 <= one.press < len(plan.presses):
        return ""
    name = plan.name_of(one.press)
    return f"{name}: " if name != "Ink" else ""


def _row_of(one: Difference) -> tuple[str, str]:
    if one.what == "ink" and one.kind == "missing" and one.press < 0:
        return one.kind, "never"
    if one.what == "ink" and one.kind in {"missing", "order"} and one.front != one.back:
        return one.kind, "both"
    return one.kind, one.what


def _by_edge(one: Difference, work: Work) -> tuple[str, str] | None:
    line = say_length(one.length_mm, work.card.unit)
    if one.kind == "spill":
        return (
            "The {back} spills over the {front}",
            f"{line} of the {{back}} would print beyond the {{front}}, for want of its counter mask.",
        )
    if one.kind == "skip":
        return (
            "The {back} skips beside piled masks",
            f"Where masks lie on one another beside the {{front}}, the stamp bridges and about {one.area_mm2:.2f} mm² "
            "of its line is skipped. Press with a finger along the edge, or draw the line with a pen.",
        )
    if one.kind == "ghost":
        text = f"{line} of the {{back}} would print over the {{front}}, up to {one.width_mm:.1f} mm inside its edge."
        is_pinned = any(pin.kind == "unmasked" and one.front in pin.pieces for pin in work.card.masking.pins)
        text += " You pinned the {front} never to be masked." if is_pinned else ""
        return "Ghost line on the {front}", text
    if one.kind != "halo":
        return None
    return (
        "White gap round the {front}",
        f"{_say_why(work, one.front)}, so the {{back}} stops {one.width_mm:.1f} mm short of the {{front}}: {{area}} of "
        "missing line.",
    )


def _say_why(work: Work, piece: str) -> str:
    rim = rim_of(work.card, piece)
    if rim > 0:
        return f"Its mask reaches farther than the {rim:g} mm that you want round it"
    return "Its mask reaches beyond the line"


def is_slight(one: Difference) -> bool:
    """Whether a difference is hardly seen: a gap, a ghost or a skip as narrow as the softness of a line."""
    return one.kind in {"ghost", "halo", "skip"} and one.width_mm <= SLIGHT_MM
