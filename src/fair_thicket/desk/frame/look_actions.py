"""Looking at the card in other ways, keeping layouts to compare, places for the greeting, and what advice is for."""

from dataclasses import replace
from typing import Any

import msgspec
from PySide6.QtWidgets import QInputDialog

from fair_thicket import edits
from fair_thicket.desk.frame.actions import Record, line
from fair_thicket.desk.frame.compare import Compare
from fair_thicket.desk.frame.measure_screen import MeasureScreen, keep_scale, screen_scale
from fair_thicket.desk.parts.form import ask, field_of
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.edits.tries import card_of_try, drop_try, find_try, go_to_try, keep_try
from fair_thicket.laid.stack import paper_of
from fair_thicket.laid.visibility import ink_needed, look
from fair_thicket.model.card import Work, carried_by, is_greeting, is_sheet
from fair_thicket.model.units import say_size
from fair_thicket.scene.balance import weigh
from fair_thicket.scene.room import Room, find_places
from fair_thicket.shape.paper import footprint

LIMIT_WORDS = {
    "covered_share": ("Much of a figure covered, from", "share"),
    "precious_share": ("Of a face, a hand or words, from", "share"),
    "lost_share": ("As good as lost, from", "share"),
    "near_mm": ("Edges kiss below", "length"),
    "clear_mm": ("Clear room round words", "length"),
    "slip_deg": ("A tilt looks like a slip below", "angle"),
    "contrast": ("Least contrast of words", "ratio"),
    "ground_mm": ("Feet may end above their ground by", "length"),
    "sunk_share": ("Sunk, from", "share"),
    "contact_mm": ("Points may be apart by", "length"),
    "envelope_mm": ("Room in the envelope", "length"),
    "ink_margin_mm": ("Ink under covers by", "length"),
}


class LookActions:
    """What the Look and Layouts menus do.

    Attributes
    ----------
    records : list of Record
    places : list of Room
        Places last found for the greeting.
    """

    def __init__(self, station: SceneStation, session: Session) -> None:
        self._station, self._session = station, session
        self.places: list[Room] = []
        self._shows_bare = False
        self._earlier = ""
        bench = station.bench
        self.records = [
            Record(
                "frames-off",
                "Look",
                "Frames lifted away",
                "Alt+W",
                self.lift_frames,
                is_on=lambda: bench.are_frames_off,
            ),
            Record(
                "lift-away",
                "Look",
                "The chosen piece lifted away",
                "Alt+P",
                self.lift_away,
                lambda: bool(session.selection or bench.look.without),
                lambda: bool(bench.look.without),
            ),
            Record("line-art", "Look", "Lines only", "", self.switch_colours, is_on=lambda: not bench.look.colours),
            Record(
                "grey", "Look", "Light and dark only", "", lambda: self._switch("grey"), is_on=lambda: bench.look.grey
            ),
            Record(
                "shadows",
                "Look",
                "Shadows by height",
                "",
                lambda: self._switch("shadows"),
                is_on=lambda: bench.look.shadows,
            ),
            line("Look"),
            Record(
                "life-size",
                "Look",
                "Life size",
                "Alt+O",
                self.show_life_size,
                is_on=lambda: bench.life_px_per_mm is not None,
            ),
            Record("measure", "Look", "Measure this screen …", "", self.measure_screen),
            Record("ink-needed", "Look", "Where ink is needed", "", self.show_bare, is_on=lambda: self._shows_bare),
            Record("keep-try", "Layouts", "Keep this layout …", "Alt+K", self.keep_layout),
            Record("compare", "Layouts", "Compare two …", "", self.compare, self._has_tries),
            Record(
                "ghost-try",
                "Layouts",
                "Show one as a ghost …",
                "",
                self.show_ghost,
                self._has_tries,
                lambda: bool(self._earlier),
            ),
            Record("back-to-try", "Layouts", "Go back to one …", "", self.go_back, self._has_tries),
            Record("drop-try", "Layouts", "Drop one …", "", self.drop_layout, self._has_tries),
            line("Layouts"),
            Record(
                "find-places", "Layouts", "Find places for the greeting", "Alt+R", self.find_places, self._has_greeting
            ),
            *[
                Record(
                    f"place-{number}",
                    "Layouts",
                    f"Put it at place {number}",
                    "",
                    lambda number=number: self.put_at(number),  # type: ignore[misc]
                    lambda number=number: len(self.places) >= number,  # type: ignore[misc]
                )
                for number in (1, 2, 3)
            ],
            Record("limits", "Look", "When advice speaks …", "", self.ask_limits),
        ]
        session.cardChanged.connect(self._refresh)
        session.cardChanged.connect(self._refresh_bare)
        session.selectionChanged.connect(self._refresh_bare)

    def _refresh(self) -> None:
        self.places = []
        names = [one.name for one in self._session.work.card.tries]
        if self._earlier and self._earlier not in names:
            self._earlier = ""
            self._station.bench.show_earlier(None)

    # -- looking -------------------------------------------------------------------------------------------------

    def lift_frames(self) -> None:
        """Lift all frames away from the view, or lay them back."""
        self._station.bench.show_frames(are_off=not self._station.bench.are_frames_off)

    def lift_away(self) -> None:
        """Lift the chosen pieces away from the view, or lay all back."""
        bench = self._station.bench
        without = frozenset() if bench.look.without else frozenset(self._session.selection)
        bench.show_look(replace(bench.look, without=without))

    def switch_colours(self) -> None:
        """Show lines only, or colours."""
        self._switch("colours")

    def _switch(self, field: str) -> None:
        bench = self._station.bench
        fields: dict[str, Any] = {field: not getattr(bench.look, field)}
        bench.show_look(replace(bench.look, **fields))

    def show_life_size(self) -> None:
        """Show the card as large as it is, or as large as there is room for."""
        bench = self._station.bench
        bench.life_px_per_mm = None if bench.life_px_per_mm else screen_scale(bench)
        bench.fit()
        if bench.life_px_per_mm:
            self._session.said.emit(
                "Life size, as this screen was measured. Hold a ruler to it; measure anew if it is off."
            )

    def measure_screen(self) -> None:
        """Let the maker measure the screen, and show the card at life size."""
        dialog = MeasureScreen(self._station.window())
        if dialog.exec():
            keep_scale(dialog.px_per_mm)
            self._station.bench.life_px_per_mm = dialog.px_per_mm
            self._station.bench.fit()
        dialog.deleteLater()

    def show_bare(self) -> None:
        """Hatch what needs no ink, or no longer."""
        self._shows_bare = not self._shows_bare
        self._refresh_bare()
        if self._shows_bare:
            margin = self._session.work.card.limits.ink_margin_mm
            self._session.said.emit(f"Hatched: covered by more than {margin:g} mm; it may stay bare of ink.")

    def _refresh_bare(self) -> None:
        if not self._shows_bare:
            self._station.bench.show_bare(None, None)
            return
        work = self._session.work
        width, height = work.card.panel
        chosen = [key for key in self._session.selection if carried_by(work.card.pieces, key)]
        key = chosen[0] if len(chosen) == 1 else edits.surface_at(work, (width / 2, height / 2))
        needed = ink_needed(self._session.view, work.card.limits.ink_margin_mm)
        surface = paper_of(work.card) if not key or key not in needed else self._station.bench.area_of(key)
        self._station.bench.show_bare(surface, needed.get(key, surface))

    # -- layouts -------------------------------------------------------------------------------------------------

    def _has_tries(self) -> bool:
        return bool(self._session.work.card.tries)

    def keep_layout(self) -> None:
        """Ask for a name and keep the present layout under it."""
        number = len(self._session.work.card.tries) + 1
        name, taken = QInputDialog.getText(self._station.window(), "Keep this layout", "Name:", text=f"try {number}")
        if taken and self._session.edit("keep a layout", lambda work: keep_try(work, name)):
            self._session.said.emit(f"Kept as “{name.strip()}”; compare it or go back to it under Layouts.")

    def _choose(self, title: str) -> str:
        names = [one.name for one in self._session.work.card.tries]
        name, taken = QInputDialog.getItem(self._station.window(), title, "Layout:", names, 0, False)
        return name if taken else ""

    def compare(self) -> None:
        """Show two layouts side by side."""
        dialog = Compare(self._session, self._station.window())
        dialog.wanted.connect(self._go_to)
        dialog.exec()
        dialog.deleteLater()

    def go_back(self) -> None:
        """Ask for a layout and go back to it."""
        name = self._choose("Go back to a layout")
        if name:
            self._go_to(name)

    def _go_to(self, name: str) -> None:
        """Go back to a layout; the card is opened, or closed, to the side that it was kept from."""
        session = self._session
        if find_try(session.work.card, name).is_other_side:
            session.open_card(is_open=not session.is_open)
        session.edit(f"go back to {name}", lambda work: go_to_try(work, name))

    def drop_layout(self) -> None:
        """Ask for a layout and drop it."""
        name = self._choose("Drop a layout")
        if name:
            self._session.edit(f"drop {name}", lambda work: drop_try(work, name))

    def show_ghost(self) -> None:
        """Show a layout's outlines as a ghost over the card, or none."""
        bench = self._station.bench
        self._earlier = "" if self._earlier else self._choose("Show a layout as a ghost")
        work = self._session.work
        bench.show_earlier(Work(card_of_try(work.card, self._earlier), work.stash) if self._earlier else None)

    # -- the greeting --------------------------------------------------------------------------------------------

    def _greeting(self) -> str:
        """Id of the greeting that is to be placed: the chosen one, or the only one; a strip for the words on it."""
        work = self._session.work
        found = [piece for piece in work.card.pieces if is_greeting(piece, work.stash)]
        chosen = [piece for piece in found if piece.id in self._session.selection] or found
        if len({piece.on or piece.id for piece in chosen}) != 1:
            return ""
        first = chosen[0]
        carrier = work.card.find(first.on) if first.on else first
        return first.id if is_sheet(carrier) else carrier.id

    def _has_greeting(self) -> bool:
        return bool(self._greeting())

    def find_places(self) -> None:
        """Find the best places for the greeting and show them as ghosts."""
        key = self._greeting()
        work = self._session.work
        view = look(work)
        led = edits.followers(work.card.pieces, {key})
        areas = [leaf.area for leaf in view.leaves if leaf.piece.id not in led and not is_sheet(leaf.piece)]
        left, top, right, bottom = footprint(work.card.find(key), work.stash).bounds
        bare = edits.delete(work, {key})
        centre = weigh(look(bare), proportion=None).centre
        clear = work.card.limits.clear_mm
        places = find_places(areas, work.card.panel, (right - left, bottom - top), clear_mm=clear, centre=centre)
        self.places = places
        self._station.bench.show_places(places)
        size = say_size(right - left, bottom - top, work.card.unit)
        if places:
            self._session.said.emit(f"The best {len(places)} free places for {size}; choose one under Layouts.")
        else:
            self._session.said.emit(f"Nowhere on the card are {size} free, with {clear:g} mm round them.")

    def put_at(self, number: int) -> None:
        """Put the greeting at one of the places found."""
        key, place = self._greeting(), self.places[number - 1]
        work = self._session.work
        left, top, right, bottom = footprint(work.card.find(key), work.stash).bounds
        by = (place.middle[0] - (left + right) / 2, place.middle[1] - (top + bottom) / 2)
        self._session.edit(f"put the greeting at place {number}", lambda work: edits.move_by(work, {key}, by))

    # -- limits --------------------------------------------------------------------------------------------------

    def ask_limits(self) -> None:
        """Ask from where on advice speaks."""
        present = self._session.work.card.limits
        fields = [field_of(present, key, words, kind) for key, (words, kind) in LIMIT_WORDS.items()]

        told = "Defaults are common practice; the contrast is WCAG 2's for words. They are kept with the card."
        values = ask(
            self._station.window(),
            "When advice speaks",
            fields,
            unit=self._session.work.card.unit,
            tell=lambda _: told,
            done="Take these",
        )
        if values is not None:
            limits = msgspec.structs.replace(present, **{key: values.number(key) for key in LIMIT_WORDS})
            self._session.edit("set when advice speaks", lambda work: edits.set_card(work, limits=limits))
