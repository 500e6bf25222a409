"""Flat colours to choose from: papers and inks of the Fernside post, names our own."""

PALETTE: tuple[tuple[str, str], ...] = (
    ("white", "#ffffff"),
    ("cream", "#f6efdd"),
    ("kraft", "#c3a27b"),
    ("mushroom", "#a8937c"),
    ("bark", "#6b4f3a"),
    ("pine", "#1f3a30"),
    ("fern", "#4b8050"),
    ("moss", "#8aa465"),
    ("lichen", "#c5d3a4"),
    ("pond", "#5f8fa3"),
    ("dusk", "#8f8fb8"),
    ("heather", "#c3a9c9"),
    ("night", "#2d3558"),
    ("lantern", "#eec25a"),
    ("clay", "#c9794a"),
    ("berry", "#a92c48"),
    ("rose", "#e4b3b0"),
    ("stone", "#b9bcb6"),
)


BRIDGES: tuple[tuple[str, str], ...] = (
    ("oatmeal", "#e9e4da"),
    ("mist", "#c9d2dc"),
    ("faded rose", "#d9c7c9"),
    ("lichen dust", "#cdd6c4"),
    ("haze", "#b9b4c4"),
)
"""Pale, greyish inks that stand between others (common practice)."""


def name_of(colour: str | None) -> str:
    """Name of a colour; its code when it has none, “no colour” for none."""
    if colour is None:
        return "no colour"
    return next((name for name, code in (*PALETTE, *BRIDGES) if code == colour), colour)
