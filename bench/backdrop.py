"""Spans and blended washes: python -m bench.backdrop."""

import numpy as np
import shapely

from bench.timing import best_of, tell
from fair_thicket.backdrop import Joining, span_area
from fair_thicket.backdrop.rows import step_rows
from fair_thicket.ink import gradients
from fair_thicket.model.pieces import Form, Wash

INCH = 25.4


def main() -> None:
    xs = np.linspace(0, 5.5 * INCH, 2000)
    ys = -8 * np.sin(xs / 30) - 4 * np.sin(xs / 11 + 1)
    hill = shapely.Polygon([*zip(xs, ys, strict=True), (5.5 * INCH, 20.0), (0.0, 20.0)])
    for length in (8.5, 12.0):
        call = lambda length=length: span_area(hill, length * INCH, Joining(may_flip=True))  # noqa: E731
        tell(f"{length:g} in spanned with dies of 5 1/2 in, turned over", best_of(3, call), "s", 0.5)
    behind = lambda: span_area(hill, 8.5 * INCH, Joining(may_flip=True), [(90.0, 125.0), (150.0, 180.0)])  # noqa: E731
    tell("8 1/2 in of it spanned behind two figures", best_of(3, behind), "s", 0.5)
    tell("two rows of it stepped", best_of(2, lambda: step_rows(hill, 8.5 * INCH, 2)), "s", 2.0)
    inks = ("#f2c11f", "#e0a0b0", "#c9d2dc", "#8f8fb8", "#2d3558", "#1f3a30")
    wash = Wash("w", Form("rectangle", 139.7, 107.95), 69.85, 53.98, inks=inks, way="glow", centre=(20.0, -20.0))

    def preview() -> None:
        gradients._shades.cache_clear()  # as after a change of all inks
        gradients._between.cache_clear()
        gradients.wash_tones(wash, (0, 0), (638, 825), 150 / INCH)

    tell("a wash of six inks on A2 at 150 dpi after a change", best_of(5, preview) * 1000, "ms", 60)


if __name__ == "__main__":
    main()
