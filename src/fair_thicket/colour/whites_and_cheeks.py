"""What custom says of whites, cheeks, eyes and white dots (common practice), out of the maker's own markers."""

from collections.abc import Sequence

from fair_thicket.ink.difference import difference_of
from fair_thicket.ink.mixing import chroma_of, hue_of, mix, to_lab
from fair_thicket.ink.shading import COVERING
from fair_thicket.model.colouring import ColouredPart, RegionKind, Shade, shade_of
from fair_thicket.model.supplies import Colour, Marker

PINK: Colour = "#f0a8a4"
"""A cheek as it is usual."""
GLAZE = Shade("#141414", "black glaze", "pigment")
WHITE_PEN = Shade("#ffffff", "white pen", "pigment")
CHEEK_SEEN, CHEEK_PLAIN = 6.0, 9.0
"""A cheek that differs less from what it lies on (CIEDE2000) is not seen; by the second it is plainly (our guess)."""
CHEEK_HUE_DEG = 45.0
DARK_UNDER = 70.0
"""On what is darker, CIELAB lightness, a pencil is taken where there is one: a marker goes brown there."""
PALEST, PALE_CHROMA = 80.0, 16.0
"""Whites are coloured with markers lighter than this and of less chroma, CIELAB."""
WARM_DEG = (20.0, 160.0)
"""Hues of browns, yellows and greens, beside which warm greys sit."""


def cheek_on(under: Colour, cheek: Shade) -> float:
    """Tell how a cheek differs from what it is laid on (CIEDE2000): pencils hide it, inks absorb together."""
    seen = cheek.colour if cheek.medium in COVERING else mix([under, cheek.colour])
    return difference_of(seen, under)


def find_cheek(markers: Sequence[Marker], under: Colour) -> Shade | None:
    """Find the pink that is plainly seen on a colour: the lightest that is; None where none is."""
    pinks = [
        one
        for one in markers
        if chroma_of(one.colour) > PALE_CHROMA
        and abs((hue_of(one.colour) - hue_of(PINK) + 180) % 360 - 180) <= CHEEK_HUE_DEG
    ]
    by_light = sorted(pinks, key=lambda one: -to_lab(one.colour)[0])
    plain = [one for one in by_light if cheek_on(under, shade_of(one)) >= CHEEK_PLAIN]
    on_dark = [one for one in plain if one.medium in COVERING and to_lab(under)[0] < DARK_UNDER]
    return next((shade_of(one) for one in (*on_dark, *plain)), None)


def find_pale_run(markers: Sequence[Marker], *, is_warm: bool) -> tuple[Shade, ...]:
    """Find what whites are coloured with: the two palest greys or sands, warm or cool; fewer if there are no two."""
    pale = [one for one in markers if to_lab(one.colour)[0] >= PALEST and chroma_of(one.colour) <= PALE_CHROMA]
    fitting = [one for one in pale if is_warm_hue(one.colour) == is_warm] or pale
    chosen = sorted(fitting, key=lambda one: -to_lab(one.colour)[0])[:2]
    return tuple(shade_of(one) for one in reversed(chosen))


def is_warm_hue(colour: Colour) -> bool:
    """Whether a colour is warm, as browns, yellows and greens are; what has no hue is."""
    return chroma_of(colour) < 1.0 or WARM_DEG[0] <= hue_of(colour) <= WARM_DEG[1]


def are_warm(colouring: Sequence[ColouredPart]) -> bool:
    """Whether most parts of an image are of warm colours."""
    leads = [part.shades[len(part.shades) // 2].colour for part in colouring if part.shades]
    return 2 * sum(map(is_warm_hue, leads)) >= len(leads)


def touch_shade(kind: RegionKind, markers: Sequence[Marker], under: Colour) -> Shade | None:
    """Return what a touch is put on with."""
    if kind == "eye":
        return GLAZE
    return WHITE_PEN if kind == "white dot" else find_cheek(markers, under)
