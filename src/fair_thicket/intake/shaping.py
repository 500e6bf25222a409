"""What a maker says of an image's outline where it was not found as scissors would cut."""

import msgspec

from fair_thicket.model.basics import Point

LIKELY = 0.75
TIGHTEST, LOOSEST = 0.98, 0.1


class Shaping(msgspec.Struct, frozen=True):
    """How an outline is to be found.

    Attributes
    ----------
    likely : float, 0..1
        What is likelier to be body than this is: less for a looser outline, more for a tighter one.
    turned : tuple of (x, y)
        Places whose area is turned from ground to body or back, one after the other, page mm.
    joined : tuple of pairs of (x, y)
        Gaps that are closed: from where to where, page mm.
    """

    likely: float = LIKELY
    turned: tuple[Point, ...] = ()
    joined: tuple[tuple[Point, Point], ...] = ()

    def moved(self, x: float, y: float) -> "Shaping":
        """Return it with its places told from another corner, which lies at (x, y) mm."""
        turned = tuple((px - x, py - y) for px, py in self.turned)
        joined = tuple(((ax - x, ay - y), (bx - x, by - y)) for (ax, ay), (bx, by) in self.joined)
        return Shaping(self.likely, turned, joined)


AS_FOUND = Shaping()
