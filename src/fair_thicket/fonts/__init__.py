"""The shipped typeface, Fernbank Sans (SIL Open Font License, see OFL.txt), for the screen and for paper."""

from pathlib import Path

STYLES = ("Regular", "SemiBold", "Bold")


def font_file(style: str) -> Path:
    """Path of the TrueType file of a style."""
    return Path(__file__).parent / f"FernbankSans-{style}.ttf"
