"""Finishes that are set on, dabbed or tied on last: one row a kind, with what it adds and how long it lies wet.

Heights and waits are common practice, in the middle of what is usual.
"""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

Finish = Literal[
    "round",
    "drop",
    "star",
    "gem",
    "pearl",
    "confetti",
    "glitter",
    "gloss",
    "shimmer",
    "pen",
    "glaze",
    "twine",
    "bow",
    "line",
]
Dries = Literal["", "wet", "minute", "glaze"]
"""Not at all; for hours, lying flat; a minute; five."""
GLAZE_MIN, PEN_MIN = 5.0, 1.0
Spot = Literal["disc", "star", "drop", "octagon", "hexagon", "dab", "bow"]
Shine = Literal["", "light", "glitter", "shimmer", "twist"]
"""What is seen on it besides its colour."""


class FinishKind(NamedTuple):
    """A kind of finish.

    Attributes
    ----------
    noun, plural : str
        One, and several.
    adds_mm : float
        To the height of the card.
    dries : str
    how : str
        What is done with it.
    at_hand : str
        What is needed.
    is_glued : bool
        Whether it wants glue of its own.
    mind : str
        What is to be minded; empty for nothing.
    spot : str
        Outline of one.
    is_line : bool
        Whether several spots are the bends of one line.
    shine : str
    is_scattered : bool
        Whether it is strewn over a scene in small numbers, which are better odd.
    """

    noun: str
    plural: str
    adds_mm: float
    dries: Dries
    how: str
    at_hand: str
    is_glued: bool = True
    mind: str = ""
    spot: Spot = "disc"
    is_line: bool = False
    shine: Shine = ""
    is_scattered: bool = False


SMALL_PARTS, FLAT, GLUED = "not for small children or pets", "fingers off", "glue with a fine tip, tweezers"
FINISHES: Mapping[Finish, FinishKind] = MappingProxyType(
    {
        "round": FinishKind(
            "sequin",
            "sequins",
            1.0,
            "wet",
            "Set",
            "sequins, glue with a fine tip, tweezers",
            mind=SMALL_PARTS,
            shine="light",
            is_scattered=True,
        ),
        "star": FinishKind(
            "star",
            "stars",
            1.0,
            "wet",
            "Set",
            "stars, glue with a fine tip, tweezers",
            mind=SMALL_PARTS,
            spot="star",
            shine="light",
            is_scattered=True,
        ),
        "drop": FinishKind(
            "drop",
            "drops",
            2.0,
            "wet",
            "Set",
            "drops that dry clear or coloured",
            False,
            "fingers off",
            spot="drop",
            shine="light",
            is_scattered=True,
        ),
        "gem": FinishKind(
            "gem",
            "gems",
            2.0,
            "wet",
            "Set",
            "gems, glue with a fine tip, tweezers",
            mind=SMALL_PARTS,
            spot="octagon",
            shine="light",
            is_scattered=True,
        ),
        "pearl": FinishKind(
            "pearl",
            "pearls",
            2.5,
            "wet",
            "Set",
            "pearls, glue, tweezers",
            mind=SMALL_PARTS,
            shine="light",
            is_scattered=True,
        ),
        "confetti": FinishKind(
            "confetti",
            "confetti",
            0.2,
            "",
            "Stick",
            "confetti, a glue pen, tweezers",
            spot="hexagon",
            is_scattered=True,
        ),
        "glitter": FinishKind(
            "dab of glitter",
            "dabs of glitter",
            0.75,
            "wet",
            "Dab",
            "glitter glue",
            False,
            "fingers off",
            spot="dab",
            shine="glitter",
            is_scattered=True,
        ),
        "gloss": FinishKind(
            "dab of gloss",
            "dabs of gloss",
            0.75,
            "wet",
            "Dab",
            "thick gloss, a pin",
            False,
            "fingers off",
            spot="dab",
            shine="light",
            is_scattered=True,
        ),
        "shimmer": FinishKind(
            "touch of shimmer", "touches of shimmer", 0.0, "", "Brush", "a shimmer pen", False, shine="shimmer"
        ),
        "pen": FinishKind("white dot", "white dots", 0.0, "minute", "Draw", "a white pen", False, "last of all"),
        "glaze": FinishKind("glazed spot", "glazed spots", 0.1, "glaze", "Glaze", "a glaze pen", False, shine="light"),
        "twine": FinishKind(
            "twine", "twine", 2.0, "", "Tie", "twine, scissors, low-tack tape", is_line=True, shine="twist"
        ),
        "line": FinishKind(
            "drawn line", "drawn line", 0.0, "minute", "Draw", "a fine pen of the lines' colour", False, is_line=True
        ),
        "bow": FinishKind("bow", "bows", 3.0, "", "Tie", "twine or ribbon, one dot of glue", spot="bow"),
    }
)


def find_finish(shape: Finish) -> FinishKind:
    """Return the row of a finish."""
    return FINISHES[shape]


def name_finish(shape: Finish, count: int) -> str:
    """Say what so many are called."""
    kind = find_finish(shape)
    return kind.noun if count == 1 else kind.plural
