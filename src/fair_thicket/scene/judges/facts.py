"""What the judges share: the card as it is seen, what pieces are called, and drafts of findings.

Glossary
--------
draft
    A finding together with the changes that may settle it, the least change first. Which of them really does is tried
    later, so that a judge may offer what is only likely.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from typing import NamedTuple

import shapely

from fair_thicket import edits
from fair_thicket.laid.stack import Leaf, paper_of
from fair_thicket.laid.visibility import Sight, View, sights_of
from fair_thicket.model.basics import Point, Ring
from fair_thicket.model.card import Work, is_greeting, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.finding import Finding, Remedy
from fair_thicket.model.pieces import Cutout, Impression, Piece
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import MM_PER_INCH, Unit, say_length
from fair_thicket.shape.outline import Area, FloatArray, only_areas, turn_points

Offer = tuple[str, Callable[[], Work]]


class Draft(NamedTuple):
    """A finding without its remedy, and what to try: words for the button, and the work as it then would be."""

    finding: Finding
    offers: Callable[[], Iterable[Offer]] = tuple


class Facts:
    """What the judges know of a card.

    Attributes
    ----------
    work, card, stash, limits
    view : View
    sights : dict of str to Sight
    names : dict of str to str
    paper : Polygon
        The card's front.
    is_quick : bool
        Whether only a glance is wanted: places may then be told roughly.
    pieces : list of Piece
        Those of which something is left after trimming, from the back to the front.
    """

    def __init__(self, work: Work, view: View, *, is_quick: bool = False) -> None:
        self.work, self.view, self.is_quick = work, view, is_quick
        self.card, self.stash, self.limits = work.card, work.stash, work.card.limits
        self.names = name_pieces(work)
        self.sights: dict[str, Sight] = {sight.id: sight for sight in sights_of(view)}
        self.paper = paper_of(work.card)
        self.leaves_of: dict[str, list[int]] = {}
        for index, leaf in enumerate(view.leaves):
            self.leaves_of.setdefault(leaf.piece.id, []).append(index)
        self.pieces = [piece for piece in self.card.pieces if not self.area(piece.id).is_empty]
        self.greetings = {piece.id for piece in self.pieces if is_greeting(piece, self.stash)}

    @property
    def unit(self) -> Unit:
        """Unit in which the maker thinks."""
        return self.card.unit

    def say(self, length_mm: float) -> str:
        """Say a length in the maker's unit; what a ruler's sixteenths do not tell apart is said in mm."""
        if self.unit is Unit.INCH and abs(length_mm) < MM_PER_INCH / 16:
            return f"{length_mm:.1f} mm"
        return say_length(length_mm, self.unit)

    def the(self, key: str) -> str:
        """Name of a piece with its article."""
        return f"the {self.names[key]}"

    def leaves(self, key: str) -> list[Leaf]:
        """Leaves of a piece, its body first."""
        return [self.view.leaves[index] for index in self.leaves_of.get(key, ())]

    def area(self, key: str) -> Area:
        """All that a piece takes up, its flaps included."""
        leaves = self.leaves(key)
        return leaves[0].area if len(leaves) == 1 else only_areas(shapely.union_all([leaf.area for leaf in leaves]))

    def seen(self, key: str) -> Area:
        """All that is seen of a piece."""
        parts = [self.view.seen[index] for index in self.leaves_of.get(key, ())]
        return parts[0] if len(parts) == 1 else only_areas(shapely.union_all(parts))

    def is_family(self, first: Piece, second: Piece) -> bool:
        """Whether one carries or holds the other, so that they touch on purpose."""
        return (
            second.id in {first.on, first.trim_to, first.held.by if first.held else ""}
            or first.id in {second.on, second.trim_to, second.held.by if second.held else ""}
            or bool(first.on and first.on == second.on and first.id in self.greetings and second.id in self.greetings)
        )

    def moves(self, key: str, words: str, steps: int = 12) -> Iterator[Offer]:
        """Offer to move a piece straight left, right, up or down, the shortest way first."""
        step = MM_PER_INCH / 16 if self.unit is Unit.INCH else 1.5
        for number in range(1, steps + 1):
            for word, way in (("left", (-1, 0)), ("right", (1, 0)), ("up", (0, -1)), ("down", (0, 1))):
                by = (way[0] * step * number, way[1] * step * number)
                say = f"{words} {say_length(step * number, self.unit)} {word}"
                yield say, partial(edits.move_by, self.work, {key}, by)


def stamp_of(piece: Piece, facts: Facts) -> Stamp | None:
    """Return the thing in the stash whose marks tell about a piece; None for plain paper."""
    if isinstance(piece, Impression):
        return facts.stash.find(piece.stamp)
    if isinstance(piece, Cutout) and piece.opening is None:
        return facts.stash.find(piece.stamp)
    return None


def is_flipped(piece: Piece) -> bool:
    """Whether a piece is turned over."""
    return isinstance(piece, Cutout) and piece.flipped


def place_points(piece: Piece, points: Sequence[Point] | Ring) -> FloatArray:
    """Points of a piece's image, mm from its middle, in place on the panel, (n, 2) float, mm."""
    side = -1.0 if is_flipped(piece) else 1.0
    return turn_points([(side * x, y) for x, y in points], piece.angle_deg, piece.x, piece.y)


def to_remedy(words: str, before: Work, after: Work) -> Remedy | None:
    """Tell a change as a remedy; None when nothing changes or more than pieces and their order do."""
    known = {piece.id: piece for piece in before.card.pieces}
    if known.keys() != {piece.id for piece in after.card.pieces}:
        return None
    changed = tuple(piece for piece in after.card.pieces if piece != known[piece.id])
    order = tuple(piece.id for piece in after.card.pieces)
    is_moved = order != tuple(piece.id for piece in before.card.pieces)
    if not changed and not is_moved:
        return None
    return Remedy(words, changed, order=order if is_moved else ())


def attempt(change: Callable[[], Work]) -> Work | None:
    """Make a change; None where paper refuses it."""
    try:
        return change()
    except PaperError:
        return None


def capital(words: str) -> str:
    """Words with a capital at their head."""
    return words[:1].upper() + words[1:]
