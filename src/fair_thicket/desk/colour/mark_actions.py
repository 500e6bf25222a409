"""What is marked on an image for its colours: round parts, folds and ribs, cheeks, eyes, white dots; and lamps."""

from collections.abc import Callable
from functools import partial

from fair_thicket.desk.colour.colour_map import ColourMap, Drawing
from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import image_marks
from fair_thicket.edits.images import Image
from fair_thicket.model.colouring import TOUCHES, RegionKind, Rounding
from fair_thicket.model.units import say_length

MENU = "Colour"
ROUNDINGS: dict[Rounding, str] = {
    "plain": "By the light alone",
    "round": "Round: dark at all its edges",
    "panel": "A panel between folds: dark at both sides",
}
TOUCH_WORDS: dict[RegionKind, str] = {
    "cheek": "Mark cheeks …",
    "eye": "Mark eyes to glaze …",
    "white dot": "Mark white dots …",
}
REACHES_MM = (0.0, 20.0, 40.0, 60.0, 90.0)


class MarkActions:
    """The records of what can be marked.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, session: Session, shown: ColourMap, which: Callable[[], Image | None]) -> None:
        self._session, self._map, self._which = session, shown, which
        shown.lineDrawn.connect(self._take_line)
        shown.spotClicked.connect(self._take_spot)

        def parts() -> bool:
            return bool(self._map.chosen)

        def is_image() -> bool:
            return self._which() is not None

        marks = [
            Record(f"mark-{kind}".replace(" ", "-"), MENU, words, "", partial(self.mark, kind), is_image)
            for kind, words in TOUCH_WORDS.items()
        ]
        self.records = [
            Record("rounding", MENU, "These parts are shaded", "", lambda: None, parts, lines=self._roundings),
            Record("mark-fold", MENU, "Mark a rib or fold …", "", self.mark_fold, is_image),
            Record("clear-folds", MENU, "Forget ribs and folds of these parts", "", self.clear_folds, parts),
            *marks,
            Record("drop-touches", MENU, "Take these cheeks, eyes or dots away", "", self.drop_touches, self._on_touch),
            Record("lamp", MENU, "It gives light", "", lambda: None, is_image, lines=self._reaches),
        ]

    def _regions(self) -> list[int]:
        return [region for part in self._map.chosen for region in part]

    def _on_touch(self) -> bool:
        image = self._which()
        if image is None or not self._map.chosen:
            return False
        chosen = set(self._regions())
        return any(one.is_touch and one.id in chosen for one in self._session.work.stash.find(image.stamp).regions)

    def _roundings(self) -> list[tuple[str, Callable[[], object]]]:
        return [(words, partial(self.set_rounding, rounding)) for rounding, words in ROUNDINGS.items()]

    def set_rounding(self, rounding: Rounding) -> None:
        """Say how the parts chosen are shaded."""
        image, regions = self._which(), self._regions()
        if image is not None and regions:
            key = image.stamp
            self._session.edit(
                "say how parts are shaded", lambda work: image_marks.set_rounding(work, key, regions, rounding)
            )

    def mark_fold(self) -> None:
        """Let a line be drawn along which shadow lies."""
        self._map.draw_next(Drawing("fold"))
        self._session.said.emit("Draw along a rib or a fold of the image; Escape gives it up.")

    def clear_folds(self) -> None:
        """Forget the folds of the parts chosen."""
        image, regions = self._which(), self._regions()
        if image is not None and regions:
            key = image.stamp
            self._session.edit("forget folds", lambda work: image_marks.clear_folds(work, key, regions))

    def mark(self, kind: RegionKind) -> None:
        """Let cheeks, eyes or white dots be marked by clicks."""
        self._map.draw_next(Drawing(kind, is_spot=True))
        self._session.said.emit(f"Click where a {kind} is, as often as there are; Escape ends it.")

    def _take_line(self, purpose: str, start: tuple[float, float], end: tuple[float, float]) -> None:
        image = self._which()
        if image is not None and purpose == "fold":
            key = image.stamp
            self._session.edit("mark a fold", lambda work: image_marks.add_fold(work, key, (start, end)))

    def _take_spot(self, kind: str, at: tuple[float, float]) -> None:
        image = self._which()
        touch = next((one for one in TOUCHES if one == kind), None)
        if image is not None and touch is not None:
            key = image.stamp
            self._session.edit(f"mark a {kind}", lambda work: image_marks.add_touch(work, key, touch, at))

    def drop_touches(self) -> None:
        """Take the touches chosen away."""
        image, regions = self._which(), self._regions()
        if image is not None:
            key = image.stamp
            self._session.edit("take marks away", lambda work: image_marks.drop_touches(work, key, regions))

    def _reaches(self) -> list[tuple[str, Callable[[], object]]]:
        image = self._which()
        now = image.piece.lamp_mm if image is not None else 0.0
        lines: list[tuple[str, Callable[[], object]]] = []
        for reach in REACHES_MM:
            words = f"As far as {say_length(reach, self._session.work.card.unit)}" if reach else "No light"
            lines.append((f"{words} (now)" if reach == now else words, partial(self.set_lamp, reach)))
        return lines

    def set_lamp(self, reach_mm: float) -> None:
        """Say how far the image gives light."""
        image = self._which()
        if image is not None:
            key = image.piece.id
            self._session.edit("let it give light", lambda work: image_marks.set_lamp(work, {key}, reach_mm))
