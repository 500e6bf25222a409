"""What there is to say of a card once, and the figures that a text or a document names."""

import re
from collections.abc import Iterator

from fair_thicket.colour import list_colouring
from fair_thicket.engines import assemble
from fair_thicket.estimate.post import envelope_for, glued_height, outer_size, thickness
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.card import Work
from fair_thicket.model.sides import sides_of

KEYS = {"envelope": "envelope", "thickness_mm": "thickness", "grams": "grams"}
"""Of documents of the shell."""
SAID = {
    "envelope": re.compile(r"(?<!Too large for the )\b((?:[A-Z]\w*|\d[\w./]*) envelope)\b"),
    "thickness": re.compile(r"\b(\d[\d.]*) mm thick\b"),
    "grams": re.compile(r"\b(\d[\d.]*) g(?= ?[;,.·\n]|$)"),
    "colouring": re.compile(r"is out once, on every part that takes it\. About (\d+) minutes"),
}
"""In sentences; grams glued on are another figure, and so is the envelope that a card is too large for."""


def truth(work: Work) -> dict[str, str]:
    """What there is to say of a card, each figure once."""
    high = glued_height(work)
    needed = envelope_for(work, outer_size(work), high)
    plans = {name: plan_with_pins(side)[0] for name, side in sides_of(work)}
    return {
        "envelope": "" if needed is None else needed.say(work.card.unit),
        "thickness": f"{thickness(work, high):.2f}",
        "grams": f"{assemble(work, plans, seconds=0.0).post.grams:.1f}",
        "colouring": f"{list_colouring(work).minutes:.0f}",
    }


def figures(document: object) -> Iterator[tuple[str, object]]:
    """Every figure of a document that has a name of ours, wherever in it."""
    if isinstance(document, dict):
        for key, value in document.items():
            if key in KEYS and not isinstance(value, dict | list):
                yield KEYS[key], value
            yield from figures(value)
    elif isinstance(document, list):
        for value in document:
            yield from figures(value)


def is_same(name: str, said: object, true: str) -> bool:
    """Whether what is said is the figure, as finely as it is said."""
    if name == "envelope":
        return str(said) == true or (said == "" and true == "")
    digits = len(str(said).partition(".")[2])
    return abs(float(str(said)) - float(true)) <= 0.5 * 10**-digits + 0.006


def said_in(text: str) -> Iterator[tuple[str, object]]:
    """Every figure that a text names."""
    for name, pattern in SAID.items():
        yield from ((name, one) for one in pattern.findall(text))
