"""Colours told apart: the contrast of WCAG 2, and mixing of flat colours."""

from fair_thicket.model.pieces import Colour

Channels = tuple[float, float, float]


def channels(colour: Colour) -> Channels:
    """Red, green and blue of ``#rrggbb``, sRGB 0..1."""
    red, green, blue = (int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))
    return red, green, blue


def to_colour(parts: Channels) -> Colour:
    """Write sRGB 0..1 as ``#rrggbb``."""
    return "#" + "".join(f"{round(min(1.0, max(0.0, part)) * 255):02x}" for part in parts)


def luminance(colour: Colour) -> float:
    """Relative luminance 0..1 (WCAG 2.1, definition of relative luminance, sRGB)."""
    linear = [part / 12.92 if part <= 0.03928 else ((part + 0.055) / 1.055) ** 2.4 for part in channels(colour)]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(first: Colour, second: Colour) -> float:
    """Contrast ratio of two colours, 1..21 (WCAG 2.1, definition of contrast ratio)."""
    light, dark = sorted((luminance(first), luminance(second)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def veil(behind: Colour, over: Colour, share: float) -> Colour:
    """Return what is seen through translucent paper that takes a share 0..1 of the view."""
    a, b = channels(behind), channels(over)
    return to_colour((a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share, a[2] + (b[2] - a[2]) * share))
