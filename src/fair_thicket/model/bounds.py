"""How much a card may hold: every limit of a card file, said once, and in the words in which it is told.

What is made is held against these before it becomes the card (`shape.soundness`), so that whatever is saved opens.
"""

import re
from collections.abc import Mapping
from types import MappingProxyType

import msgspec

MOST_PIECES = 500
MOST_IMAGES, MOST_SPOTS, MOST_DROPS, MOST_MARKS = 300, 5000, 20_000, 12_000
"""Of one side, all pieces together: stamped images with those joined to them, finishes set, drops flicked, marks of
textures. No hand makes so many on a card; beyond them nothing answers in seconds."""
MOST_TRIES = 40
MOST_DISMISSED = 5000
MOST_JOINED = 100
MOST_FLAPS = 100
MOST_CUT_AWAY = 100
MOST_CUTS = 40
MOST_COPIES = 20
MOST_WORDS = 120
MOST_LAYERS = 6
MOST_POCKETS = 400
MOST_REGIONS, MOST_HOLES = 2000, 400
MOST_FOLDS = 40
MOST_LAMP_MM = 200.0
MOST_PARTS = 500
MOST_SHADES = 6
MOST_SCHEMES = 60
MOST_POINTS = 60_000
"""Points of all rings of one thing together: a tracing at 0.05 mm of a most detailed stamp has some 5,000."""
FARTHEST_MM = 2000.0
"""Places lie within this of the panel's top left."""
LARGEST_MM = 1000.0
"""Nothing is wider or higher."""
LEAST_MM = 0.1
"""Nothing that scissors, dies or stamps make is narrower."""
LEAST_SHEET_MM = 20.0
"""No sheet of paper or plate of a machine is smaller."""
LEAST_FRONT_MM = 20.0
"""A card front of an own size is no smaller: an envelope's smallest label."""
MOST_FRONT_MM = 420.0
"""Nor larger than the long side of A3 (ISO 216): at 300 dpi its picture still fits the memory of a small machine."""


class Bound(msgspec.Struct, frozen=True):
    """How a limit of some field is told.

    Attributes
    ----------
    thing : str
        What the field is, after “The” or “A piece’s”.
    unit : str
        Of its measure or of what is counted.
    way_out : str
        What to do instead.
    """

    thing: str
    unit: str
    way_out: str


def find_bound(path: str) -> Bound:
    """Find how the limit at a path such as ``.pieces[3].joined`` is told; what has no words of its own gets plain ones.

    Examples
    --------
    >>> find_bound(".limits.covered_share").thing
    'the covered share'
    """
    names = re.findall(r"[a-z_]+", path)
    for key in (".".join(names[-2:]), names[-1] if names else ""):
        if key in BOUNDS:
            return BOUNDS[key]
    plain = (names[-1] if names else "value").removesuffix("_mm").removesuffix("_deg").replace("_", " ")
    unit = "mm" if path.endswith("_mm") else "degrees" if path.endswith("_deg") else ""
    return Bound(f"the {plain}", unit, "take another")


def say_bound(bound: Bound, sign: str, limit: float, whose: str = "") -> str:
    """Say a limit that was gone beyond: ``at most``, ``at least`` or ``more than`` so much, and the way out.

    Examples
    --------
    >>> say_bound(find_bound(".kerf_mm"), "at most", 5)
    'what a cut takes must be at most 5 mm: take another.'
    """
    count = f"{sign} {limit:g} {bound.unit}".rstrip()
    return f"{bound.thing} must be {count}{whose}: {bound.way_out}."


BOUNDS: Mapping[str, Bound] = MappingProxyType(
    {
        "pieces": Bound("the pieces of one side of a card", "pieces", "take some off first"),
        "inside": Bound("the pieces of one side of a card", "pieces", "take some off first"),
        "tries": Bound("the layouts that are kept", "layouts", "drop one first"),
        "dismissed": Bound("the advice that was dismissed", "pieces of advice", "let some of it speak again"),
        "joined": Bound("the further images that are cut out with one as one piece", "images", "choose fewer"),
        "flaps": Bound("the flaps of one piece", "flaps", "take some back first"),
        "cut_away": Bound("the parts trimmed off one piece", "parts", "trim it by one larger part"),
        "cuts": Bound("the cuts that one border is joined from", "cuts", "take a longer die or a shorter border"),
        "across": Bound("the cuts that one frame is joined from", "cuts", "take a larger die or a smaller frame"),
        "down": Bound("the cuts that one frame is joined from", "cuts", "take a larger die or a smaller frame"),
        "windows": Bound("the windows of one panel", "windows", "take fewer"),
        "covers": Bound("the covers of one wash", "covers", "take one away first"),
        "lays": Bound("the lays of one stencil", "lays", "step it fewer times"),
        "inks": Bound("the inks of one wash", "inks", "take fewer"),
        "spots": Bound("the marks or sequins of one piece", "of them", "take fewer"),
        "zones": Bound("the zones of one image", "zones", "take fewer"),
        "contacts": Bound("the contacts of one image", "contacts", "take fewer"),
        "pins.pieces": Bound("the images of one pin", "images", "choose fewer"),
        "pins": Bound("the pins", "pins", "take some out first"),
        "ways": Bound("the masks that are cut their own way", "masks", "let some be cut as all are"),
        "done": Bound("the steps that are ticked off", "steps", "begin the ticks anew"),
        "regions": Bound("the regions of one image", "regions", "scan it again with clearer lines"),
        "parts": Bound("the parts of one image", "parts", "join some"),
        "cards": Bound("the number of cards", "cards", "make them in two lots"),
        "sheet_mm": Bound("the side of a sheet", "mm", "take another size"),
        "platform_mm": Bound("the side of the platform", "mm", "take another size"),
        "plate_mm": Bound("the side of the plate", "mm", "take another size"),
        "hold_mm": Bound("the free edge of a sheet", "mm", "take another"),
        "scissors_mm": Bound("the room between images", "mm", "take another"),
        "die_gap_mm": Bound("the room between dies", "mm", "take another"),
        "kerf_mm": Bound("what a cut takes", "mm", "take another"),
        "folds": Bound("the folds of one region", "folds", "take some away first"),
        "lamp_mm": Bound("the reach of a lamp", "mm", "take another"),
        "shades": Bound("the shades of one run", "shades", "take fewer"),
        "schemes": Bound("the schemes of one image", "schemes", "drop one first"),
        "colouring": Bound("the coloured parts of one image", "parts", "join some"),
        "pockets": Bound("the pockets or openings of one thing", "openings", "simplify it"),
        "tags": Bound("the tags of one image", "tags", "take some away"),
        "title": Bound("the title of the card", "letters", "say it shorter"),
        "name": Bound("a name", "letters", "say it shorter"),
        "set_name": Bound("the name of the set", "letters", "say it shorter"),
        "words": Bound("the words of one strip", "letters", "part them between two strips"),
        "words_mm": Bound("the height of the letters", "mm", "take another height"),
        "width_mm": Bound("the width", "mm", "make it smaller, or make it of two pieces"),
        "height_mm": Bound("the height", "mm", "make it smaller, or make it of two pieces"),
        "length_mm": Bound("the length", "mm", "make it shorter, or make it of two pieces"),
        "corner_mm": Bound("the radius of the corners", "mm", "take another"),
        "custom_mm": Bound("the side of a card front", "mm", "take another size"),
        "mask_rim_mm": Bound("the rim of masks", "mm", "cut them nearer the line"),
        "rim_mm": Bound("the rim of a mask", "mm", "cut it nearer the line"),
        "margin_mm": Bound("the margin", "mm", "take another"),
        "die_margin_mm": Bound("the margin of a die", "mm", "take another"),
        "lift_mm": Bound("the height of the foam", "mm", "take another"),
        "layers": Bound("the layers of one piece or image", "layers", "take fewer"),
        "copies": Bound("the copies of one stamp", "copies", "say how many there are"),
        "frame_mm": Bound("the side of a frame", "mm", "take another size"),
        "rows": Bound("the number of rows", "rows", "take another number"),
        "drop_mm": Bound("what each row is lower", "mm", "take another"),
        "row": Bound("the number of copies", "pieces", "take another number"),
        "drawn_mm": Bound("the width of the line", "mm", "take another"),
        "room_mm": Bound("what the mask is larger", "mm", "take another"),
        "dwell_s": Bound("the time that water is left", "seconds", "a minute is usual"),
        "gap_mm": Bound("the gap", "mm", "take another"),
        "foam_in_mm": Bound("what foam stays in from an edge", "mm", "take another"),
        "foam_reach_mm": Bound("the way from paper to foam", "mm", "take another"),
        "glue_free_mm": Bound("what glue keeps off", "mm", "take another"),
        "base_mm": Bound("the thickness of the card base", "mm", "take another"),
        "hold_min": Bound("the wait", "minutes", "take another"),
        "vellum_min": Bound("the wait", "minutes", "take another"),
        "gloss_min": Bound("the wait", "minutes", "take another"),
        "splatter_mm": Bound("how far splatter flies", "mm", "take another"),
        "start_mm": Bound("where it begins on the die", "mm", "take another place"),
        "sheets_left": Bound("the number of sheets", "sheets", "take another number"),
        "x": Bound("the place of a piece", "mm from the card’s corner", "bring it nearer"),
        "y": Bound("the place of a piece", "mm from the card’s corner", "bring it nearer"),
        "size_mm": Bound("the size of a sequin", "mm", "take another"),
        "drops": Bound("the drops", "drops", "take another number"),
        "coats": Bound("the coats", "coats", "take another number"),
        "reach_mm": Bound("the reach of the ink", "mm", "take another"),
        "mark": Bound("the mark on the back", "letters", "say it shorter"),
        "took": Bound("the steps that were timed", "steps", "reckon with your own pace, or forget it"),
        "order": Bound("the wishes about the order", "wishes", "take some back first"),
        "shortened_mm": Bound("what is trimmed off the base", "mm", "begin with a smaller base"),
        "press": Bound("the number of a press", "", "take one that there is"),
        "gsm": Bound("the weight of paper", "g/m²", "take another"),
    }
)
"""By the field's name in the card file."""
