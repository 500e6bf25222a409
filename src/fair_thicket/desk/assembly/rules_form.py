"""How a card is glued, as a form: tapes, distances, drying."""

import msgspec

from fair_thicket.desk.parts.form import Field, Values, field_of
from fair_thicket.model.assembly import USUAL_FOAM_MM, AssemblyRules
from fair_thicket.model.errors import InputError
from fair_thicket.model.units import Unit, parse_length

MOST_WIDTHS = 8
NUMBERS = (
    ("foam_in_mm", "Foam stays in from an edge by", "length"),
    ("foam_reach_mm", "No part is farther from foam than", "length"),
    ("glue_free_mm", "No glue nearer to what stays free than", "length"),
    ("base_mm", "Card base is thick", "length"),
    ("hold_min", "Minutes till glue holds", "count"),
    ("vellum_min", "Minutes till vellum is dry", "count"),
    ("gloss_min", "Minutes till drops and gloss are dry", "count"),
)
"""Fields that are asked for as they are."""


def fields_of(rules: AssemblyRules, unit: Unit) -> list[Field]:
    """Return the fields of the form."""
    thicknesses = rules.foam_mm or USUAL_FOAM_MM[unit]
    widths = ", ".join(f"{width:g}" for width in rules.foam_widths)
    return [
        Field("widths", "Foam tape owned, widths in mm", "words", widths),
        Field("thick", "Foam owned, thicknesses in mm", "words", ", ".join(f"{mm:g}" for mm in thicknesses)),
        *(field_of(rules, *row) for row in NUMBERS),
    ]


def rules_of(values: Values, rules: AssemblyRules) -> AssemblyRules:
    """Return the rules that a form was filled in with; what it does not ask for stays.

    Raises
    ------
    InputError, LengthError
        When the widths are none.
    """
    widths = _lengths(values["widths"], f"Say 1 to {MOST_WIDTHS} widths of foam tape, like 12 mm, 6 mm, 3 mm.")
    thick = _lengths(values["thick"], f"Say 1 to {MOST_WIDTHS} thicknesses of foam, like 1.6 mm, 3.2 mm.")
    return msgspec.structs.replace(
        rules,
        foam_widths=tuple(sorted(widths, reverse=True)),
        foam_mm=() if tuple(sorted(thick)) in USUAL_FOAM_MM.values() and not rules.foam_mm else tuple(sorted(thick)),
        **{path: values.number(path) for path, _, _ in NUMBERS},
    )


def _lengths(value: object, refusal: str) -> set[float]:
    """Read lengths with commas between them; a bare number is mm."""
    words = [word for word in str(value).split(",") if word.strip()]
    if not 1 <= len(words) <= MOST_WIDTHS:
        raise InputError(refusal)
    return {round(parse_length(word, Unit.MM), 2) for word in words}
