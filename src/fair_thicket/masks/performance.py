"""A plan performed on simulated paper: presses with the masks that lie, colours, words, and gluing, action by action.

Every sheet is worked on by itself and lands where the order of the hands puts it. Nothing here asks how the card is
composed: what comes of the actions is what is there.
"""

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.ground import VEIL, put
from fair_thicket.ink.ink_patch import Ink
from fair_thicket.ink.inking import Paper, lay_cut_inks, lay_inks, to_levels
from fair_thicket.ink.painter import Floats, Look, Painter
from fair_thicket.ink.simulated_sheet import Lay, SimulatedSheet
from fair_thicket.laid.masking_paper import Lying, MaskingPaper
from fair_thicket.laid.stack import Leaf, stack
from fair_thicket.masks.piles import Entry, Piles
from fair_thicket.masks.sheet_pictures import Frames
from fair_thicket.masks.tolerances import SKIP_MM
from fair_thicket.model.card import Work
from fair_thicket.model.errors import check_wanted
from fair_thicket.model.keys import piece_key
from fair_thicket.model.performance import Action
from fair_thicket.model.pieces import Cutout, Impression, PaperPiece, Strip, Wash, Water, is_glued
from fair_thicket.model.plan import SHEET, MaskPlan, Press
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.model.wanted import GoOn
from fair_thicket.shape.outline import Area, only_areas, turn_area
from fair_thicket.shape.raster import BoolArray
from fair_thicket.shape.windows import Window, common_window, from_corner, size_of, whole_window

PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH


@dataclass
class Kept:
    """What kept ink off one stamping: masks by the image they lie on, and places in its window that were skipped."""

    window: Window
    masks: list[tuple[str, Area]] = field(default_factory=list)
    skipped: BoolArray | None = None


class Performance:
    """What came of the actions.

    Attributes
    ----------
    work : Work
        As the hands did it.
    leaves : tuple of Leaf
    sheets : mapping of id to SimulatedSheet
        Every sheet of paper; the card's base by an empty id.
    pile : list of Entry
        What lies on the base, from below.
    kept : mapping of (press, key) to Kept
    landed : list of (Action, tuple of Entry)
        Every colouring after the last press, and every landing, with the pile as it was then.
    first : (rows, columns, 3) uint8
        The sheets that will be inked on, where they will lie, while they are bare.
    changes : mapping of press to list of (window, picture)
        What each press changed in the picture of the sheets where they will lie.
    """

    def __init__(self, work: Work, pictures: Mapping[str, bytes], plan: MaskPlan, masking: MaskingPaper) -> None:
        self.work, self.plan, self.masking = work, plan, masking
        self._pictures = pictures
        self.leaves = stack(work)
        self.painter = Painter(work, pictures, _size(work), PX_PER_MM)
        self._by_id = {piece.id: piece for piece in work.card.pieces}
        self._bodies = {leaf.piece.id: leaf for leaf in self.leaves if leaf.key == leaf.piece.id}
        self.sheets = {"": SimulatedSheet("", whole_window(_size(work)), self.painter.canvas, PX_PER_MM)}
        self._parts: dict[str, list[Leaf]] = {}
        for leaf in self.leaves:
            if is_glued(leaf.piece):
                self._parts.setdefault(leaf.piece.id, []).append(leaf)
        for key, parts in self._parts.items():
            self.sheets[key] = self._cut(parts[0])
        self._piles = Piles(work, self._parts)
        self.kept: dict[tuple[int, str], Kept] = {}
        self.landed: list[tuple[Action, tuple[Entry, ...]]] = []
        self.changes: dict[int, list[tuple[Window, Paper]]] = {}
        self._pressed: set[int] = set()
        self._unshown: list[Window] = []
        self.first = self._picture(whole_window(_size(work)))

    @property
    def pile(self) -> list[Entry]:
        return self._piles.on_base

    def _cut(self, leaf: Leaf) -> SimulatedSheet:
        """Return a sheet of bare paper for a piece, where it will lie, with what its die leaves on it."""
        window, inside = self.painter.cover(leaf.sheet)
        bare = self.painter.bare_sheet(leaf.piece, window)
        if not _is_veil(leaf):
            self.painter.dress(bare, leaf, window, inside)
        return SimulatedSheet(leaf.piece.id, window, bare, PX_PER_MM)

    # -- actions -------------------------------------------------------------------------------------------------

    def do(self, action: Action, inks: Mapping[str, Ink], lying: Sequence["LaidMask"], *, with_counters: bool) -> None:
        """Do one thing; what is named and is not there changes nothing."""
        if action.kind == "press":
            self._press(action.press, inks, lying, with_counters=with_counters)
        elif action.kind == "colour":
            self._colour(action)
        elif action.kind == "words":
            self._write(action.piece)
        elif self._piles.land(action):
            self.landed.append((action, tuple(self.pile)))

    def _press(self, p: int, inks: Mapping[str, Ink], lying: Sequence["LaidMask"], *, with_counters: bool) -> None:
        press = self.plan.presses[p]
        here = [one for one in lying if one.lying.first <= p <= one.lying.last and one.surface == press.surface]
        windows = []
        for key in press.impressions:
            for sheet, ink in self._stamped_by(press, key, inks):
                near = [one for one in here if one.area.intersects(ink.area)]
                limit = ink.limit if with_counters and _has_counter(self.plan, p, key) else None
                windows.append(ink.window)
                self._lay(sheet, ink, p, near, limit)
        self._pressed.add(p)
        self.changes[p] = [(window, self._picture(window)) for window in [*self._unshown, *windows]]
        self._unshown.clear()

    def _stamped_by(self, press: Press, key: str, inks: Mapping[str, Ink]) -> Iterator[tuple[SimulatedSheet, Ink]]:
        """Yield the sheets that a stamping prints on, and what it prints: a cut image lies on a sheet of its own."""
        if press.surface != SHEET:
            if key in inks:
                yield self.sheets.get(press.surface, self.sheets[""]), inks[key]
            return
        for piece in self.work.card.pieces:
            if isinstance(piece, Cutout) and piece_key(key) in (piece.id, piece.print_of):
                for ink in lay_cut_inks(self.work, piece, self._pictures, REHEARSAL_DPI, only=key).values():
                    yield self.sheets[piece.id], ink

    def _lay(self, sheet: SimulatedSheet, ink: Ink, p: int, near: Sequence["LaidMask"], limit: Area | None) -> None:
        """Press one stamp, or ink one wash, with masks lying near it."""
        layers = np.zeros(ink.passing.shape, np.uint8)
        for one in near:
            layers += ink.cover(one.area)
        skipped = None if ink.is_wash else skips_beside(layers)
        kept_off = layers > 0
        if skipped is not None:
            kept_off |= skipped
        if limit is not None:
            kept_off |= ~ink.cover(limit)
        piece = self._by_id.get(ink.piece)
        if isinstance(piece, Water):
            wet = frozenset(one.id for one in self.work.card.pieces if isinstance(one, Wash) and one.is_wet)
            sheet.lift(ink.area, wet)
        elif isinstance(piece, Impression) and piece.resists:
            sheet.emboss_clear(ink, kept_off)
        elif self.plan.presses[p].by_hand:  # it lands on whatever is there by now
            self.pile.append(Lay(ink, np.where(kept_off, np.float32(0.0), 1 - ink.passing), p))
            self.landed.append((Action("press", ink.piece, p), tuple(self.pile)))
        else:
            is_powder = isinstance(piece, Impression) and piece.powder
            sheet.press(ink, p, kept_off if kept_off.any() else None, is_embossed=is_powder)
        self.kept[p, ink.key] = Kept(ink.window, [(one.lying.impression, one.area) for one in near], skipped)

    def _colour(self, action: Action) -> None:
        leaf = self._bodies.get(action.piece)
        if leaf is None or not isinstance(leaf.piece, Impression | Cutout):
            return
        piece = leaf.piece
        sheet = self.sheets.get(piece.id if isinstance(piece, Cutout) else piece.on, self.sheets[""])
        window, inside = self.painter.cover(self._left_to_colour(leaf))
        tones = self.painter.tones_of(leaf, window)
        if tones is None or not inside.any():
            return
        tones = np.broadcast_to(tones, (*inside.shape, 3))
        common = common_window(window, sheet.window)
        part = from_corner(common, window)
        sheet.colour(piece.id, common, tones[part], inside[part])
        if isinstance(piece, Impression):
            self._unshown.append(common)
        if len(self._pressed) == sum(not press.by_hand for press in self.plan.presses):
            self.landed.append((action, tuple(self.pile)))

    def _left_to_colour(self, own: Leaf) -> Area:
        """Return what of an image is not taken by images in front of it on its own surface."""
        if not isinstance(own.piece, Impression):
            return own.sheet
        fronts = [
            leaf.area
            for leaf in self.leaves[self.leaves.index(own) + 1 :]
            if isinstance(leaf.piece, Impression) and leaf.piece.on == own.piece.on and leaf.area.intersects(own.area)
        ]
        return only_areas(shapely.difference(own.area, shapely.union_all(fronts))) if fronts else own.area

    def _write(self, key: str) -> None:
        piece, sheet = self._by_id.get(key), self.sheets.get(key)
        if sheet is None or not isinstance(piece, Strip):
            return
        ink = self.painter.words_of(piece, sheet.window)
        if ink is not None:
            sheet.press(ink, -1)

    # -- pictures ------------------------------------------------------------------------------------------------

    def _picture(self, window: Window) -> Paper:
        """Picture a window of the panel with all sheets that are inked on where they will lie."""
        view = self.sheets[""].canvas[window].copy()
        surfaces = {piece.on for piece in self.work.card.pieces if isinstance(piece, Impression | Wash)}
        for leaf in self.leaves:
            if leaf.piece.id in surfaces and is_glued(leaf.piece):
                self._put_leaf(view, leaf, window)
        return to_levels(view)

    def _put_leaf(self, view: Floats, leaf: Leaf, frame: Window) -> None:
        """Put one leaf of paper, with all that was done to it, on a canvas of a window of the panel."""
        window, inside = self.painter.cover(leaf.area)
        common = common_window(common_window(window, frame), self.sheets[leaf.piece.id].window)
        if not inside.size or 0 in size_of(common):
            return
        inside, part = inside[from_corner(common, window)], view[from_corner(common, frame)]
        sheet = self.sheets[leaf.piece.id]
        if not _is_veil(leaf):
            put(part, sheet.canvas[from_corner(common, sheet.window)], inside)
            return
        tone = sheet.bare[from_corner(common, sheet.window)]
        seen = part + (tone - part) * np.float32(VEIL)
        self.painter.dress(seen, leaf, common, inside)
        for lay in sheet.lays:
            sheet.put(seen, lay, common)
        put(part, seen, inside)

    def picture_pile(self, pile: Sequence[Entry], look: Look | None = None) -> Floats:
        """Picture a pile on the base; (rows, columns, 3) float32."""
        frame = whole_window(_size(self.work))
        view = self.sheets[""].canvas.copy()
        for entry in pile:
            self.put_entry(view, entry, frame, look)
        return view

    def put_entry(self, view: Floats, entry: Entry, frame: Window, look: Look | None = None) -> None:
        """Put what lies in a pile on a canvas of the whole panel, with its shadow where shadows are pictured."""
        if isinstance(entry, Lay):
            self.sheets[""].put(view, entry, frame)
            return
        if look is not None and look.shadows:
            self.painter.cast_shadow(entry, view)
        self._put_leaf(view, entry, frame)

    def settle(self) -> None:
        """Keep only what pictures of its piles need: a result is kept as long as its card, and must not weigh."""
        self.painter.settle()
        self.changes.clear()
        veils = {leaf.piece.id for leaf in self.leaves if _is_veil(leaf)}
        for key, sheet in self.sheets.items():
            if key not in veils:
                sheet.settle()

    def frames(self) -> Frames:
        """Return the pictures of the sheets, bare and after each press of the plan."""
        found = Frames(self.first)
        for p in range(len(self.plan.presses)):
            found.add_patches(self.changes.get(p, []))
        return found


@dataclass(frozen=True)
class LaidMask:
    """A mask where it lies; `surface` is what it lies on, or `SHEET`."""

    lying: Lying
    area: Area
    surface: str


def perform(
    work: Work,
    pictures: Mapping[str, bytes],
    plan: MaskPlan,
    actions: Sequence[Action],
    masking: MaskingPaper,
    *,
    left_out: Collection[int] = (),
    with_counters: bool = True,
    slips: Mapping[int, tuple[float, float]] | None = None,
    inks: Mapping[str, Ink] | None = None,
    go_on: GoOn = lambda: True,
) -> Performance:
    """Perform actions.

    Parameters
    ----------
    work : Work
        As the hands do it: what pins have cut out is cut out.
    masking : MaskingPaper
        The masks as cut, and where they lie.
    left_out, slips
        Of masks, by their index: forgotten, and moved by (x, y) mm.
    inks : mapping
        What `lay_inks` gives for this work at 300 dpi, where it is known already.

    Raises
    ------
    StoppedError
        When `go_on` said so.
    PictureError
        When a stamp's picture is missing or damaged.
    """
    inks = lay_inks(work, pictures, REHEARSAL_DPI) if inks is None else inks
    made = Performance(work, pictures, plan, masking)
    lying = list(_lay_masks(work, masking, plan, left_out, slips or {}))
    for action in actions:
        check_wanted(go_on, "the card")
        made.do(action, inks, lying, with_counters=with_counters)
    return made


def _lay_masks(
    work: Work,
    masking: MaskingPaper,
    plan: MaskPlan,
    left_out: Collection[int],
    slips: Mapping[int, tuple[float, float]],
) -> Iterator[LaidMask]:
    """Yield the paper of every mask where it lies, moved by its slip; on the sheet to cut from it lies on its image."""
    for one in masking.lyings:
        if one.mask in left_out:
            continue
        surface = plan.presses[one.first].surface
        area = masking.lying_area(one)
        if surface == SHEET:
            piece = work.card.find(one.impression)
            if not isinstance(piece, Cutout):
                continue
            area = turn_area(area, piece.angle_deg, piece.x, piece.y)
        if one.mask in slips:
            area = shapely.affinity.translate(area, *slips[one.mask])
        yield LaidMask(one, area, surface)


def skips_beside(layers: NDArray[np.uint8]) -> BoolArray | None:
    """Bare paper that a stamp does not reach beside piles of masks; None where there is no pile.

    Parameters
    ----------
    layers : (rows, columns) uint8
        Layers of masking paper at 300 dpi.
    """
    most = int(layers.max(initial=0))
    if most < 2:
        return None
    skipped = np.zeros(layers.shape, bool)
    for pile in range(2, most + 1):
        away = cv2.distanceTransform((layers < pile).astype(np.uint8), cv2.DIST_L2, 5)
        skipped |= away <= (pile - 1) * SKIP_MM * PX_PER_MM
    beside: BoolArray = skipped & (layers == 0)
    return beside


def _has_counter(plan: MaskPlan, press: int, key: str) -> bool:
    return any(press in one.presses and key in one.serves for one in plan.counters)


def _is_veil(leaf: Leaf) -> bool:
    return isinstance(leaf.piece, PaperPiece) and leaf.piece.translucent


def _size(work: Work) -> tuple[int, int]:
    width, height = work.card.panel
    return round(height * PX_PER_MM), round(width * PX_PER_MM)
