"""The shipped typeface, Fernbank Sans (SIL Open Font License, see OFL.txt), for the screen and for paper."""

from collections.abc import Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Any

STYLES = ("Regular", "SemiBold", "Bold")


def font_file(style: str) -> Path:
    """Path of the TrueType file of a style."""
    return Path(__file__).parent / f"FernbankSans-{style}.ttf"


FONTS: Mapping[str, Any] = MappingProxyType(
    {
        "skip_system_fonts": True,
        "font_files": [str(font_file(style)) for style in STYLES],
        "font_family": "Fernbank Sans",
    }
)
"""How the renderer of drawings is told to set words: in the shipped typeface, the same on every machine."""
