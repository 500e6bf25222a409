"""Colour: images region by region in the maker's own markers, seen before they are coloured."""

from collections.abc import Mapping
from functools import partial

from PySide6.QtCore import QTimer
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout, QWidget

from fair_thicket import edits
from fair_thicket.colour.offers import Offer, markers_on, offer_runs, offer_touches, used_shades
from fair_thicket.colour.reading import read_regions
from fair_thicket.desk.colour.colour_actions import MENU, ColourActions
from fair_thicket.desk.colour.colour_map import ColourMap, Part
from fair_thicket.desk.colour.image_strip import ImageStrip
from fair_thicket.desk.colour.list_pane import ListPane
from fair_thicket.desk.colour.run_rows import RunRow
from fair_thicket.desk.colour.suggest import Suggest
from fair_thicket.desk.frame.actions import Actions, Record
from fair_thicket.desk.frame.station import Pane, State, say_to_settle
from fair_thicket.desk.parts.advice_panel import AdvicePanel
from fair_thicket.desk.parts.controls import Choices, Column, Hint, Stepper, button, ground, head_row, label
from fair_thicket.desk.parts.side_panes import SidePanes
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import colouring as colours
from fair_thicket.edits.images import Image, images_of
from fair_thicket.model.bounds import MOST_SHADES
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import Region, Shade
from fair_thicket.model.keys import piece_key
from fair_thicket.model.stash import Stamp
from fair_thicket.model.supplies import Marker
from fair_thicket.shape.outline import to_area

LIGHTS = ("left", "above", "right")
ORDERS = ("dark first", "light first")
NO_MARKERS = "No markers yet. List yours at Stash, under supplies: by hand, from a table or a swatch card."
Found = tuple[str, tuple[Region, ...], tuple[Part, ...]]


class ColourStation(Pane):
    """One image large, its parts and their runs, and the list of all that is to be coloured.

    Attributes
    ----------
    map : ColourMap
    images : ImageStrip
        The images on the card.
    rows : list of RunRow
    reader : Worker
        Reads the regions of an image that has none yet.
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._key: str | None = None
        self._tried: set[tuple[str, str]] = set()
        self.map = ColourMap()
        self.map.partsChosen.connect(self._show_part)
        self.map.shadowAsked.connect(self._turn_shadow)
        self.rows: list[RunRow] = []
        self.reader = Worker(self)
        self.reader.done.connect(self._take_regions)
        self.reader.failed.connect(session.said)
        self.menus = {MENU: QMenu(self)}
        self._actions = ColourActions(self, session, self.map, self._image, self.reader)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())
        session.cardChanged.connect(self.refresh)
        session.outcomeChanged.connect(self._show_facts)
        session.selectionChanged.connect(self._follow_selection)
        session.libraryChanged.connect(self._show_runs)
        self.refresh()

    # -- building ------------------------------------------------------------------------------------------------

    def _left(self) -> QWidget:
        pane = ground("mistPane")
        box = QVBoxLayout(pane)
        box.setContentsMargins(16, 10, 14, 8)
        self._facts = Hint()
        head = head_row("Colour", self._facts)
        self.suggest_button = button(
            "Suggest colours …", self.suggest, "primary", tip="Proposals for the whole card, in your own markers"
        )
        head.addWidget(self.suggest_button)
        more = button("More …", self._open_menu, tip="Parts, schemes and copies")
        more.setAccessibleName("More that can be done with colours")
        self._more = more
        head.addWidget(more)
        box.addLayout(head)
        light = QHBoxLayout()
        light.addWidget(label("Light falls from the", "soft"))
        self.light = Choices(LIGHTS, lambda index: self._set_light(LIGHTS[index]))
        light.addWidget(self.light)
        light.addSpacing(12)
        light.addWidget(label("Runs are laid", "soft"))
        self.order = Choices(ORDERS, lambda index: self._set_order(ORDERS[index]))
        light.addWidget(self.order)
        light.addStretch(1)
        box.addLayout(light)
        box.addWidget(self.map, 1)
        self.images = ImageStrip(self._session)
        self.images.chosen.connect(self._choose_image)
        box.addWidget(self.images)
        return pane

    def _right(self) -> QWidget:
        pane = ground("paperPane", width=304)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 12, 8, 12)
        self.advice = AdvicePanel(self._session, "colour", "Advice for the colours")
        self.list = ListPane(self._session)
        self.panes = SidePanes({"Runs": self._runs_pane(), "Colouring list": self.list, "Advice": self.advice})
        box.addWidget(self.panes)
        return pane

    def _runs_pane(self) -> QWidget:
        whole = QWidget()
        box = QVBoxLayout(whole)
        box.setContentsMargins(0, 4, 0, 0)
        self._heading = label("", "subheading", wrap=True)
        box.addWidget(self._heading)
        self._told = label("", "soft", wrap=True)
        box.addWidget(self._told)
        row = QHBoxLayout()
        row.addWidget(label("Shades", "soft"))
        self.shades = Stepper("Shades of a run", (1, MOST_SHADES), 1, lambda value: f"{value:.0f}", self._set_shades)
        self.shades.show_value(3)
        row.addWidget(self.shades)
        row.addStretch(1)
        self.white = button("Stays white", self._stay_white, tip="Coloured around, not over")
        row.addWidget(self.white)
        self.off = button("Off", self._take_off, tip="Take the colours off the parts chosen")
        row.addWidget(self.off)
        box.addLayout(row)
        self._runs = Column(spacing=2, margin=0)
        box.addWidget(self._runs, 1)
        return whole

    # -- the frame -----------------------------------------------------------------------------------------------

    def state(self) -> State:
        """Tell how much advice for the colours is to settle."""
        return say_to_settle(self._session, "colour", State())

    def first(self) -> QWidget:
        """Return the map."""
        return self.map

    def records(self) -> list[Record]:
        """List what can be asked of colours."""
        return self._actions.records

    def take_actions(self, actions: Actions, menus: Mapping[str, QMenu]) -> None:
        """Keep the actions up to date when parts are chosen."""
        del menus
        self.map.partsChosen.connect(actions.refresh)

    def close_workers(self) -> None:
        """Give up reading regions."""
        self.reader.close()

    def _open_menu(self) -> None:
        self.menus[MENU].popup(self._more.mapToGlobal(self._more.rect().bottomLeft()))

    # -- which image ---------------------------------------------------------------------------------------------

    def _image(self) -> Image | None:
        return next((image for image in images_of(self._session.work) if image.key == self._key), None)

    def _choose_image(self, key: str) -> None:
        if key != self._key:
            self._key = key
            self._session.select({piece_key(key)})
            self._show_image()

    def _follow_selection(self) -> None:
        chosen = [image.key for image in images_of(self._session.work) if image.key in self._session.selection]
        if self._key is not None and piece_key(self._key) in self._session.selection:
            return  # a further image of the same cutout
        if len(chosen) == 1 and chosen[0] != self._key:
            self._key = chosen[0]
            if self.isVisible():  # elsewhere nothing is to be read, and no time lost, when an image is chosen
                self.images.show_chosen(self._key)
                self._show_image()

    # -- showing -------------------------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Show the card's images, the one chosen, and the list."""
        card = self._session.work.card
        self.light.show_choice(LIGHTS.index(card.light))
        self.order.show_choice(ORDERS.index(card.shade_order))
        if not self.isVisible():
            return
        there = images_of(self._session.work)
        if self._key not in {image.key for image in there}:
            self._key = there[0].key if there else None
        self.images.show_images(there, self._key)
        self._show_image()
        self.list.refresh()
        self._show_facts()

    def _show_image(self) -> None:
        work, image = self._session.work, self._image()
        self.map.show_image(work, self._session.pictures, image)
        if image is not None:
            self._ask_regions(work, image)
        self._show_part()

    def _ask_regions(self, work: Work, image: Image) -> None:
        """Have the regions of an image read that has none yet."""
        stamp = work.stash.find(image.stamp)
        data = self._session.pictures.get(stamp.picture)
        if any(not one.is_touch for one in stamp.regions) or data is None or (stamp.id, stamp.picture) in self._tried:
            return
        self._tried.add((stamp.id, stamp.picture))
        known = self._session.recall_regions(stamp, data)
        if known is not None:
            QTimer.singleShot(0, self, partial(self._take_known, stamp.id, known))  # not amid showing the card
            return
        self.reader.ask(lambda: (stamp.id, *read_regions(stamp, data)))

    def _take_known(self, key: str, known: Stamp) -> None:
        """Take an image's regions as the library has them: that work is done once."""
        if self._session.work.stash.has(key):
            words = f"take the regions of {known.name} from the library"
            self._session.edit(words, lambda work: colours.take_regions(work, key, known))

    def _take_regions(self, found: Found) -> None:
        key, regions, parts = found
        if not self._session.work.stash.has(key):
            return
        name = self._session.work.stash.find(key).name
        if not regions:
            self._session.said.emit(f"The {name} has no region that its lines close; give it a colour as a whole.")
            return
        self._session.edit(f"read the regions of {name}", lambda work: colours.set_regions(work, key, regions, parts))

    def _show_part(self) -> None:
        image = self._image()
        chosen = self.map.chosen
        for widget in (self.white, self.off, self.shades):
            widget.setEnabled(bool(chosen))
        if image is None:
            self._heading.setText("Nothing to colour")
            self._told.setText("Images come to the card at the Scene station.")
        elif not chosen:
            name = self._session.names[image.key]
            self._heading.setText(f"{name[:1].upper()}{name[1:]}")
            parts = colours.parts_of(self._session.work.stash.find(image.stamp))
            done = {region for part in image.colouring for region in part.regions}
            left = sum(not set(part) & done for part in parts)
            state = f"{left} of them without colour" if left else "all of them told"
            told = f"{len(parts)} parts, {state}. " if parts else "Its regions are being read. "
            self._told.setText(told + "Click a part; with Ctrl held several.")
        else:
            self._tell_chosen(image, chosen)
        self._show_runs()

    def _tell_chosen(self, image: Image, chosen: list[Part]) -> None:
        stamp = self._session.work.stash.find(image.stamp)
        regions = [region for part in chosen for region in part]
        area = sum(to_area(one.ring, one.holes).area for one in stamp.regions if one.id in regions)
        parts = colours.parts_of(stamp)
        which = ", ".join(str(parts.index(part) + 1) for part in chosen)
        self._heading.setText(f"Part{'s' * (len(chosen) > 1)} {which} of the {self._session.names[image.key]}")
        known = next((one for one in image.colouring if set(one.regions) & set(chosen[0])), None)
        run = "not coloured yet" if known is None else "stays white"
        if known is not None and known.shades:
            run = ", ".join(shade.name or shade.colour for shade in known.shades)
            self.shades.show_value(len(known.shades))
        many = f"{len(regions)} regions, " if len(regions) > 1 else ""
        self._told.setText(f"{many}{area / 100:.1f} cm² · {run}")

    def _show_runs(self) -> None:
        if not self.isVisible():
            return  # what is chosen on the map is of a card that may be gone
        self._runs.clear()
        self.rows = []
        markers = self.markers()
        if not markers:
            self._runs.box.addWidget(label(NO_MARKERS, "soft", wrap=True))
            return
        for offer in self._offers(markers):
            row = RunRow(offer, partial(self._take_run, offer.shades))
            row.setEnabled(bool(self.map.chosen))
            self.rows.append(row)
            self._runs.box.addWidget(row)

    def _offers(self, markers: list[Marker]) -> list[Offer]:
        image, chosen = self._image(), self.map.chosen
        if image is not None and chosen:
            regions = self._session.work.stash.find(image.stamp).regions
            touch = next((region for region in regions if region.id == chosen[0][0] and region.is_touch), None)
            if touch is not None:
                return offer_touches(touch.kind, markers)
        return offer_runs(markers, round(self.shades.value), used_shades(self._session.work))

    def markers(self) -> list[Marker]:
        """Return the maker's own markers; where there are none, those that the card is coloured with."""
        return self._session.own_markers() or markers_on(self._session.work)

    def _show_facts(self) -> None:
        there = images_of(self._session.work)
        if not there:
            self._facts.setText("no images on the card yet")
            return
        done = sum(bool(image.colouring) for image in there)
        self._facts.setText(f"{done} of {len(there)} images coloured by their parts")

    # -- asking --------------------------------------------------------------------------------------------------

    def _set_light(self, light: str) -> None:
        self._session.edit("turn the light", lambda work: colours.set_light(work, light))

    def _set_order(self, order: str) -> None:
        self._session.edit("lay runs the other way", lambda work: edits.set_card(work, shade_order=order))

    def _set_shades(self, value: float) -> None:
        self.shades.show_value(value)
        self._show_runs()

    def _colour(self, words: str, **fields: object) -> None:
        key, chosen = self._key, list(self.map.chosen)
        if key is not None and chosen:
            merge = f"shadow {key}" if "shadow_deg" in fields else ""
            self._session.edit(words, lambda work: colours.colour_parts(work, {key}, chosen, **fields), merge_key=merge)

    def _take_run(self, shades: tuple[Shade, ...]) -> None:
        self._colour("colour a part", shades=shades)

    def _stay_white(self) -> None:
        self._colour("leave a part white", shades=())

    def _turn_shadow(self, degrees: float) -> None:
        self._colour("turn a shadow", shadow_deg=degrees)

    def _take_off(self) -> None:
        key, chosen = self._key, list(self.map.chosen)
        if key is not None:
            self._session.edit("take colours off", lambda work: colours.uncolour(work, {key}, chosen))

    def suggest(self) -> None:
        """Show colours proposed for the whole card, and take those that are wanted."""
        dialog = Suggest(self._session, self.markers(), self)
        dialog.wanted.connect(lambda work: self._session.edit("colour the card", lambda _: work))
        dialog.exec()
