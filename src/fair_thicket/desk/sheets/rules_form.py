"""How sheets are laid out, as a form: margins, plate, platform, the size of sheets."""

import msgspec

from fair_thicket.desk.parts.form import Field, Values
from fair_thicket.model.declared import limit_of
from fair_thicket.model.sheets import SheetRules, Turns

TURNS: tuple[Turns, ...] = ("any", "half", "none")
TURN_WORDS = ("any way", "upright or half-turned", "as they are")


def fields_of(rules: SheetRules) -> list[Field]:
    """Return the fields of the form."""
    return [
        Field("turns", "Images may lie", "choice", TURNS.index(rules.turns), TURN_WORDS),
        Field("hold", "Free edge of a stamping sheet", "length", rules.hold_mm, limit=limit_of(SheetRules, "hold_mm")),
        Field(
            "scissors",
            "Room between images cut by hand",
            "length",
            rules.scissors_mm,
            limit=limit_of(SheetRules, "scissors_mm"),
        ),
        Field("die_gap", "Room between dies", "length", rules.die_gap_mm, limit=limit_of(SheetRules, "die_gap_mm")),
        Field(
            "plate_w",
            "Plate of the machine, width",
            "length",
            rules.plate_mm[0],
            limit=limit_of(SheetRules, "plate_mm[0]"),
        ),
        Field(
            "plate_h",
            "Plate of the machine, length",
            "length",
            rules.plate_mm[1],
            limit=limit_of(SheetRules, "plate_mm[1]"),
        ),
        Field(
            "sheet_w",
            "Sheets of which nothing is said, width",
            "length",
            rules.sheet_mm[0],
            limit=limit_of(SheetRules, "sheet_mm[0]"),
        ),
        Field(
            "sheet_h",
            "Sheets of which nothing is said, length",
            "length",
            rules.sheet_mm[1],
            limit=limit_of(SheetRules, "sheet_mm[1]"),
        ),
        Field(
            "platform_w",
            "Platform, width",
            "length",
            rules.platform_mm[0],
            limit=limit_of(SheetRules, "platform_mm[0]"),
        ),
        Field(
            "platform_h",
            "Platform, length",
            "length",
            rules.platform_mm[1],
            limit=limit_of(SheetRules, "platform_mm[1]"),
        ),
        Field("kerf", "Lost at a cut", "length", rules.kerf_mm, limit=limit_of(SheetRules, "kerf_mm")),
    ]


def rules_of(values: Values, rules: SheetRules) -> SheetRules:
    """Return the rules that a form was filled in with; what it does not ask for stays."""
    told = {key: values.number(key) for key in values}
    return msgspec.structs.replace(
        rules,
        sheet_mm=(told["sheet_w"], told["sheet_h"]),
        platform_mm=(told["platform_w"], told["platform_h"]),
        plate_mm=(told["plate_w"], told["plate_h"]),
        hold_mm=told["hold"],
        scissors_mm=told["scissors"],
        die_gap_mm=told["die_gap"],
        kerf_mm=told["kerf"],
        turns=TURNS[round(told["turns"])],
    )
