"""Inks mixed as the eye will get them: by absorption and scattering, not by averaging red, green and blue.

Glossary
--------
K/S
    Absorption over scattering of a layer that lets nothing through: (1 - R)^2 / 2R of its reflectance R.
bridge
    A colour put between two that would mix to an unwanted one where they meet.

Notes
-----
Kubelka and Munk's theory in its one-constant form: K/S of layers of ink adds up (P. Kubelka and F. Munk, Ein Beitrag
zur Optik der Farbanstriche, 1931). Here per channel of linear sRGB: three bands in the place of a spectrum.
"""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from coloraide import Color
from numpy.typing import NDArray

from fair_thicket.model.pieces import Colour

Floats = NDArray[np.float64]
DARKEST = 0.004
"""No ink reflects less than this: K/S of black would know no bounds."""
MUD_SHARE = 0.5
"""A mixture whose chroma falls below this share of its weaker parent's is mud (common practice)."""
ASIDE_DEG = 25.0
"""A mixture whose hue lies farther than this outside the way between its parents' hues is another colour."""
RAINBOW = (55.0, 82.0, 112.0, 185.0, 300.0, 345.0)
"""Where red, orange, yellow, green, blue and violet end, degrees of hue in CIELAB; then red (our own division)."""
DULL_CHROMA = 12.0
"""Greys and nearly greys have no hue to lose."""


@lru_cache(maxsize=2048)
def to_linear(colour: Colour) -> Floats:
    """Reflectance of a colour in each channel, 0..1; kept, and so not to be written to."""
    light = np.array(Color(colour).convert("srgb-linear").coords(), dtype=np.float64)
    light.setflags(write=False)
    return light


def from_linear(reflectance: Floats) -> Colour:
    """Colour of a reflectance in each channel."""
    made = Color("srgb-linear", np.clip(reflectance, 0, 1).tolist()).convert("srgb")
    return str(made.to_string(hex=True, compress=False))


def absorption(reflectance: Floats | float) -> Floats:
    """K/S of a reflectance."""
    bounded = np.clip(np.asarray(reflectance, dtype=np.float64), DARKEST, 1.0)
    return np.asarray((1 - bounded) ** 2 / (2 * bounded), dtype=np.float64)


def reflectance(k_over_s: Floats | float) -> Floats:
    """Reflectance of a K/S."""
    k = np.asarray(k_over_s, dtype=np.float64)
    return np.asarray(1 + k - np.sqrt(k * k + 2 * k), dtype=np.float64)


def mix(colours: Sequence[Colour], shares: Sequence[float] | None = None) -> Colour:
    """Mix inks, or lay them over one another: their K/S adds up by shares.

    Parameters
    ----------
    colours : sequence of colours
        Each as it looks in full strength on white paper.
    shares : sequence of float or None
        How much of each; None is the whole of each, one laid over the other.

    Examples
    --------
    >>> mix(["#ffffff", "#ffffff"])
    '#ffffff'
    """
    parts = [1.0] * len(colours) if shares is None else list(shares)
    total = sum(share * absorption(to_linear(colour)) for colour, share in zip(colours, parts, strict=True))
    return from_linear(reflectance(total)) if colours else "#ffffff"


def blend(first: Colour, second: Colour, steps: int) -> list[Colour]:
    """Colours on the way from one ink to another, both ends included."""
    ways = np.linspace(0, 1, max(2, steps))
    return [mix([first, second], [1 - way, way]) for way in ways.tolist()]


@lru_cache(maxsize=2048)
def to_lab(colour: Colour) -> tuple[float, float, float]:
    """CIELAB of a colour, white of sRGB (D65): lightness 0..100, a*, b*."""
    lightness, a, b = Color(colour).convert("lab-d65").coords()
    return float(lightness), float(a), float(b)


def chroma_of(colour: Colour) -> float:
    """How colourful it is: CIELAB chroma."""
    _, a, b = to_lab(colour)
    return float(np.hypot(a, b))


def hue_of(colour: Colour) -> float:
    """Hue angle in CIELAB, degrees 0..360."""
    _, a, b = to_lab(colour)
    return float(np.degrees(np.arctan2(b, a)) % 360)


@lru_cache(maxsize=4096)
def trouble_between(first: Colour, second: Colour) -> str:
    """Say what goes wrong where two inks meet: ``mud``, ``hue`` (another colour comes up), or nothing.

    Notes
    -----
    The mixture in the middle is looked at. Mud: its chroma is under half of the weaker parent's. Hue: it is colourful,
    and its hue lies off the shorter way between its parents' by more than 25 degrees, or a third of the circle and
    more lies between them, so that a third colour comes up half-way. Neighbours in the rainbow are in no trouble unless
    they turn grey: teal between green and blue is meant, and may be duller than both.
    """
    middle = mix([first, second], [0.5, 0.5])
    weaker = min(chroma_of(first), chroma_of(second))
    if weaker < DULL_CHROMA:
        return ""
    if are_neighbours(first, second):
        return "mud" if chroma_of(middle) < DULL_CHROMA else ""
    if chroma_of(middle) < MUD_SHARE * weaker:
        return "mud"
    return "hue" if _comes_between(hue_of(first), hue_of(second), hue_of(middle)) else ""


def are_neighbours(first: Colour, second: Colour) -> bool:
    """Whether two colours stand side by side in the rainbow: what comes between them there is expected."""
    one, other = (_place_in_rainbow(hue_of(colour)) for colour in (first, second))
    return min(abs(one - other), len(RAINBOW) - abs(one - other)) <= 1


def _place_in_rainbow(angle: float) -> int:
    return next((index for index, limit in enumerate(RAINBOW) if angle <= limit), 0)


def _comes_between(first: float, second: float, middle: float) -> bool:
    apart = abs((second - first + 180) % 360 - 180)
    off = [abs((middle - end + 180) % 360 - 180) for end in (first, second)]
    return min(off) > ASIDE_DEG and apart > 60


def find_bridge(first: Colour, second: Colour, inks: Sequence[Colour]) -> Colour | None:
    """Find an ink that can go between two so that neither meeting is in trouble; the one nearest to both.

    Returns
    -------
    colour or None
        None where the two need none, or none of the inks helps.
    """
    if not trouble_between(first, second):
        return None
    helping = [
        ink
        for ink in inks
        if ink not in (first, second) and not trouble_between(first, ink) and not trouble_between(ink, second)
    ]
    return min(helping, key=lambda ink: (_far(first, ink) + _far(ink, second), ink), default=None)


def _far(one: Colour, other: Colour) -> float:
    return float(np.linalg.norm(np.array(to_lab(one)) - np.array(to_lab(other))))
