"""How sheets are laid out, as a form: margins, plate, platform, the size of sheets."""

import msgspec

from fair_thicket.desk.parts.form import Field, Values, field_of
from fair_thicket.model.sheets import SheetRules, Turns

TURNS: tuple[Turns, ...] = ("any", "half", "none")
TURN_WORDS = ("any way", "upright or half-turned", "as they are")
LENGTHS = (
    ("hold_mm", "Free edge of a stamping sheet"),
    ("scissors_mm", "Room between images cut by hand"),
    ("die_gap_mm", "Room between dies"),
    ("plate_mm[0]", "Plate of the machine, width"),
    ("plate_mm[1]", "Plate of the machine, length"),
    ("sheet_mm[0]", "Sheets of which nothing is said, width"),
    ("sheet_mm[1]", "Sheets of which nothing is said, length"),
    ("platform_mm[0]", "Platform, width"),
    ("platform_mm[1]", "Platform, length"),
    ("kerf_mm", "Lost at a cut"),
)


def fields_of(rules: SheetRules) -> list[Field]:
    """Return the fields of the form."""
    return [
        Field("turns", "Images may lie", "choice", TURNS.index(rules.turns), TURN_WORDS),
        *(field_of(rules, path, words) for path, words in LENGTHS),
    ]


def rules_of(values: Values, rules: SheetRules) -> SheetRules:
    """Return the rules that a form was filled in with; what it does not ask for stays."""
    return msgspec.structs.replace(
        rules,
        turns=TURNS[values.whole("turns")],
        **{name: values.number(name) for name in ("hold_mm", "scissors_mm", "die_gap_mm", "kerf_mm")},
        **{name: (values.number(f"{name}[0]"), values.number(f"{name}[1]"))
           for name in ("sheet_mm", "platform_mm", "plate_mm")},
    )  # fmt: skip
