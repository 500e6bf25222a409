"""Plans as values: who is stamped when, which masks are cut, and the sheet of images a scan gave.

Glossary
--------
press
    One closing of the platform: impressions that are stamped together.
careful
    The stretch of a mask's outline where the scissors must follow the line.
placement
    Laying a mask down; one that stays where it lies is not laid again.
pile
    Layers of masking paper that lie on one another under a stamp.
"""

import msgspec

from fair_thicket.model.basics import Ring
from fair_thicket.model.keys import piece_key

SHEET = "~sheet"
"""Surface of what is stamped to be cut out: no piece can have this id."""


class Press(msgspec.Struct, frozen=True):
    """One press: what is stamped, and which impressions must lie under a mask meanwhile (ids, front first).

    Attributes
    ----------
    surface : str
        Key of the piece that is stamped on; empty for the card itself, `SHEET` for the sheet to cut from.
    is_ink : bool
        Not a closing of the platform but a wash being inked.
    by_hand : bool
        Not a closing of the platform but one image stamped by hand, when everything is glued.
    turned : tuple of str
        Impressions whose stamp stays in place from the press before: the panel is turned by half instead.
    """

    impressions: tuple[str, ...]
    masked: tuple[str, ...]
    surface: str = ""
    is_ink: bool = False
    turned: tuple[str, ...] = ()
    by_hand: bool = False

    @property
    def is_on_platform(self) -> bool:
        """Whether the platform is closed for it."""
        return not self.is_ink and not self.by_hand


class Mask(msgspec.Struct, frozen=True):
    """One mask to cut.

    Attributes
    ----------
    stamp : str
        Stamp whose image it copies.
    serves : tuple of str
        Impressions it covers, in the order in which they need it.
    careful_mm, full_mm : float
        Length of its careful stretches, and of its whole outline.
    stretches : tuple of (float, float)
        Careful stretches as shares 0..1 of the way round the outline, from its first vertex; start <= end.
    """

    stamp: str
    serves: tuple[str, ...]
    careful_mm: float
    full_mm: float
    stretches: tuple[tuple[float, float], ...] = ()


class CounterMask(msgspec.Struct, frozen=True):
    """A mask with an opening, for what is stamped inside a shape.

    Attributes
    ----------
    opening : str
        Id of the piece whose outline, or whose windows, are left open.
    serves : tuple of str
        What is stamped inside.
    presses : tuple of int
        Indices of the presses in which it lies.
    careful_mm, full_mm : float
        Line to follow with care, and in all.
    """

    opening: str
    serves: tuple[str, ...]
    presses: tuple[int, ...]
    careful_mm: float
    full_mm: float


class MaskPlan(msgspec.Struct, frozen=True):
    """The order of stamping with the fewest presses, and the masks it takes.

    Attributes
    ----------
    presses : tuple of Press
        In the order in which they are made.
    masks : tuple of Mask
    counters : tuple of CounterMask
    placements : int
    deepest_pile : int
    optimal : bool
        Whether every figure was proven least, in the order presses, careful length, placements.
    fewest_presses : int
        Proven lower bound on the number of presses.
    least_careful_mm : float
        Proven lower bound on careful cutting, for that many presses.
    """

    presses: tuple[Press, ...] = ()
    masks: tuple[Mask, ...] = ()
    counters: tuple[CounterMask, ...] = ()
    placements: int = 0
    deepest_pile: int = 0
    optimal: bool = True
    fewest_presses: int = 0
    least_careful_mm: float = 0.0

    @property
    def press_count(self) -> int:
        """How often the platform is closed; washes, and what is stamped by hand, do not count."""
        return sum(press.is_on_platform for press in self.presses)

    def number_of(self, index: int) -> int:
        """Return the number that a press goes by, from 1; a wash has that of the press before it."""
        return sum(press.is_on_platform for press in self.presses[: index + 1])

    def name_of(self, index: int) -> str:
        """Say what one of the presses is: a press by its number, ink, or a stamp in the hand."""
        press = self.presses[index]
        return "Ink" if press.is_ink else "By hand" if press.by_hand else f"Press {self.number_of(index)}"

    @property
    def careful_mm(self) -> float:
        """Careful cutting over all masks, counter masks included, mm."""
        return sum(mask.careful_mm for mask in self.masks) + sum(one.careful_mm for one in self.counters)

    def press_of(self, impression: str) -> int:
        """Index of the press that stamps this impression, or its last layer; KeyError when none does."""
        for index in range(len(self.presses) - 1, -1, -1):
            if any(key == impression or piece_key(key) == impression for key in self.presses[index].impressions):
                return index
        raise KeyError(impression)


DOUBTFUL = 0.1
"""An outline is marked as doubtful from this share of its body on."""


class SheetImage(msgspec.Struct, frozen=True):
    """One image found on a scanned sheet.

    Attributes
    ----------
    cx, cy : float
        Middle of its bounding box on the page, mm from the page's top left.
    width_mm, height_mm : float
    outline, pockets : rings
        Millimetres from that middle.
    picture : bytes
        PNG with transparent paper, exactly the bounding box.
    kind : str
        ``image``, or ``greeting`` for a line of separate glyphs.
    members : tuple of int
        Numbers of the parts that it is made of, as the intake counts them.
    is_coloured : bool
        Whether it was coloured in, or stamped in coloured ink.
    doubt : float
        Share of its body that might as well be ground, or the other way round.
    """

    name: str
    cx: float
    cy: float
    width_mm: float
    height_mm: float
    outline: Ring
    pockets: tuple[Ring, ...]
    picture: bytes
    kind: str = "image"
    members: tuple[int, ...] = ()
    is_coloured: bool = False
    doubt: float = 0.0

    @property
    def is_doubtful(self) -> bool:
        """Whether its outline is worth a look before it is kept."""
        return self.doubt > DOUBTFUL


class Sheet(msgspec.Struct, frozen=True):
    """A scanned sheet, measured.

    Attributes
    ----------
    dpi : float
        Resolution that was used.
    width_mm, height_mm : float
        The page, or the whole scan where its edges are not to be seen.
    skew_deg : float
        How far the page lay turned clockwise in the scan.
    skew_from : str
        What the skew was read from: ``edges``, ``lines`` of the images, ``corners`` of a photographed sheet,
        a reference ``card``, a known ``length``, or ``none``.
    scan_width_mm : float
        Width of the whole scan.
    origin_mm : (float, float)
        The page's top left corner in the scan.
    """

    dpi: float
    width_mm: float
    height_mm: float
    skew_deg: float
    skew_from: str
    images: tuple[SheetImage, ...]
    scan_width_mm: float
    origin_mm: tuple[float, float]
