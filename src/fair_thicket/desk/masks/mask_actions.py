"""What the Masks menu does: pins, the ways to cut single masks, and the habits of the maker's table."""

from collections.abc import Callable
from functools import partial

import msgspec
from PySide6.QtWidgets import QFileDialog, QWidget

from fair_thicket.desk.frame.actions import Record, line
from fair_thicket.desk.parts.form import YES_NO, Field, Values, ask, field_of
from fair_thicket.desk.session.session import Session
from fair_thicket.estimate.minutes import following_min
from fair_thicket.masks.pin_edits import add_pin, set_masking, set_way, take_pins_of
from fair_thicket.model.card import Card, Work
from fair_thicket.model.declared import limit_of
from fair_thicket.model.errors import PaperError, ThicketError
from fair_thicket.model.keys import piece_key
from fair_thicket.model.masking import Masking, Pin, PinKind
from fair_thicket.model.pieces import Impression
from fair_thicket.model.units import say_length

LIDS = ("left", "right", "top")
PAPERS = ("smooth", "textured")
INKS = ("quick", "slow")
KINDS = ("whole", "part")
RATES = (
    ("place_min", "Placing one stamp, minutes"),
    ("press_min", "Inking and pressing, minutes"),
    ("lay_min", "Laying a mask, minutes"),
    ("rough_min", "Stamping and roughly cutting a mask, minutes"),
    ("careful_mm_per_min", "Following a line with scissors, mm a minute"),
    ("die_min", "Die cutting one piece, minutes"),
    ("glue_min", "Gluing one piece, minutes"),
    ("dry_min", "Until quick ink is dry, minutes"),
    ("slow_dry_min", "Until slow ink is dry, minutes"),
    ("wash_min", "Inking a wash, minutes"),
    ("wash_dry_min", "Until a wash is dry, minutes"),
    ("paste_dry_min", "Until paste is dry, minutes"),
    ("gsm", "Weight of the paper cut out, g/m²"),
    ("paper_mm", "Thickness of that paper, mm"),
)


class MaskActions:
    """The records of the Masks menu.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, window: QWidget, session: Session) -> None:
        self._window, self._session = window, session

        def stamped() -> bool:
            return bool(self._chosen())

        def several() -> bool:
            return len(self._chosen()) > 1

        self.records = [
            Record("pin-first", "Masks", "Stamp it in the first press", "Alt+T", partial(self.pin, "first"), stamped),
            Record("pin-unmasked", "Masks", "Never mask it", "", partial(self.pin, "unmasked"), stamped),
            Record("pin-together", "Masks", "Stamp them in one press", "", partial(self.pin, "together"), several),
            Record("pin-cut", "Masks", "Cut it out instead", "", partial(self.pin, "cut"), stamped),
            Record("pin-sooner", "Masks", "One press sooner", "Shift+Alt+Left", partial(self.shift, -1), stamped),
            Record("pin-later", "Masks", "One press later", "Shift+Alt+Right", partial(self.shift, 1), stamped),
            Record("unpin", "Masks", "Take its pins away", "", self.unpin, self._is_pinned),
            line("Masks"),
            Record("mask-way", "Masks", "Cut its mask this way …", "Alt+M", self.ask_way, stamped),
            Record("table", "Masks", "Platform, masking sheet and ink …", "", self.ask_table),
            Record("rates", "Masks", "How long things take …", "", self.ask_rates),
            line("Masks"),
            Record("mask-svg", "Masks", "Write the masks as cut files …", "", self.write_masks, self._has_masks),
            Record("frames", "Masks", "Write the rehearsal as pictures …", "", self.write_frames, self._has_plan),
        ]

    def _chosen(self) -> list[str]:
        """Ids of the chosen impressions."""
        work = self._session.work
        return [
            piece.id
            for piece in work.card.pieces
            if piece.id in self._session.selection and isinstance(piece, Impression)
        ]

    def _is_pinned(self) -> bool:
        pins = self._session.work.card.masking.pins
        return any(set(pin.pieces) & self._session.selection for pin in pins)

    def _has_plan(self) -> bool:
        outcome = self._session.outcome
        return outcome is not None and bool(outcome.plan.presses)

    def _has_masks(self) -> bool:
        outcome = self._session.outcome
        return outcome is not None and bool(outcome.plan.masks)

    # -- pins ----------------------------------------------------------------------------------------------------

    def pin(self, kind: PinKind) -> None:
        """Pin the chosen images; one by one, but for those that are to share a press."""
        chosen = self._chosen()
        words = {"first": "stamp it first", "unmasked": "never mask it", "together": "stamp them in one press"}
        groups = [tuple(chosen)] if kind == "together" else [(key,) for key in chosen]

        def change(work: Work) -> Work:
            for group in groups:
                work = add_pin(work, Pin(kind, group))
            return work

        self._session.edit_elsewhere(words.get(kind, "cut it out instead"), change)

    def shift(self, by: int) -> None:
        """Pin each chosen image to the press before, or after, the one it is in."""
        outcome, chosen = self._session.outcome, self._chosen()
        if outcome is None or outcome.work is not self._session.work:
            return
        plan = outcome.plan
        names = self._session.names

        def change(work: Work) -> Work:
            for key in chosen:
                column = plan.press_of(key)
                surface = plan.presses[column].surface
                if plan.presses[column].by_hand:
                    raise PaperError(f"The {names[key]} is stamped by hand when all is glued; it has no press.")
                own = [p for p, one in enumerate(plan.presses) if one.surface == surface and one.is_on_platform]
                press = own.index(column) + by
                if press < 0:
                    raise PaperError(f"The {names[key]} is in the first press already.")
                work = add_pin(work, Pin("press", (key,), press))
            return work

        self._session.edit_elsewhere("stamp it in another press", change)

    def unpin(self) -> None:
        """Take all pins of the chosen images away."""
        chosen = {piece_key(key) for key in self._session.selection}
        self._session.edit("take pins away", lambda work: take_pins_of(work, chosen))

    # -- forms ---------------------------------------------------------------------------------------------------

    def ask_way(self) -> None:
        """Ask how the masks of the chosen images are cut."""
        session, chosen = self._session, self._chosen()
        card = session.work.card
        way = card.masking.way_of(chosen[0])
        rim = card.mask_rim_mm if way.rim_mm is None else way.rim_mm
        fields = [
            Field("kind", "Mask", "choice", KINDS.index(way.kind), ("the whole image", "only near what is behind")),
            Field("own", "Rim of its own", "choice", int(way.rim_mm is not None), YES_NO),
            Field("rim", "Rim, mm (below 0 inside the line)", "ratio", rim, limit=limit_of(Card, "mask_rim_mm")),
            Field("loose", "Loose at thin stems and hairs", "choice", int(way.is_loose), YES_NO),
        ]

        def make(work: Work, values: Values) -> Work:
            own = values.number("rim")
            return set_way(
                work,
                chosen,
                kind=KINDS[values.whole("kind")],
                rim_mm=round(own, 3) if values["own"] == 1 else None,
                is_loose=values["loose"] == 1,
            )

        def tell(values: Values) -> str:
            make(session.work, values)
            where = f"its own rim of {values.number('rim'):g} mm" if values["own"] == 1 else "the card's rim"
            return f"Cut with {where}; hold-down paper is left on wherever nothing is stamped beside it."

        title = f"The mask of the {session.names[chosen[0]]}" if len(chosen) == 1 else "Masks of the chosen images"
        values = ask(self._window, title, fields, unit=card.unit, tell=tell, done="Cut it so")
        if values is not None:
            session.edit("cut a mask another way", lambda work: make(work, values))

    def ask_table(self) -> None:
        """Ask for the platform's lid, the sheet of masking paper, the card's surface, the ink and splatter."""
        session = self._session
        masking, unit = session.work.card.masking, session.work.card.unit
        fields = [
            Field("lid", "The lid closes from the", "choice", LIDS.index(masking.lid), LIDS),
            Field(
                "wide", "Masking sheet: one side", "length", masking.sheet_mm[0], limit=limit_of(Masking, "sheet_mm[0]")
            ),
            Field(
                "high",
                "Masking sheet: other side",
                "length",
                masking.sheet_mm[1],
                limit=limit_of(Masking, "sheet_mm[1]"),
            ),
            Field("paper", "Card", "choice", PAPERS.index(masking.paper), ("smooth", "textured: pressed twice")),
            Field("ink", "Ink", "choice", INKS.index(masking.ink), ("dries quickly", "dries slowly: prints at once")),
            Field("splatter", "Splatter flies", "length", masking.splatter_mm, limit=limit_of(Masking, "splatter_mm")),
        ]

        def make(work: Work, values: Values) -> Work:
            sides = (values.number("wide"), values.number("high"))
            return set_masking(
                work,
                lid=LIDS[values.whole("lid")],
                sheet_mm=sides,
                paper=PAPERS[values.whole("paper")],
                ink=INKS[values.whole("ink")],
                splatter_mm=values.number("splatter"),
            )

        def tell(values: Values) -> str:
            made = make(session.work, values).card.masking
            sides = " × ".join(say_length(side, unit) for side in made.sheet_mm)
            return (
                f"Masks are laid out on sheets of {sides}; platform sheets are mirrored for a lid from the {made.lid}."
            )

        values = ask(self._window, "Platform, masking sheet and ink", fields, unit=unit, tell=tell, done="Take these")
        if values is not None:
            session.edit("change the table's habits", lambda work: make(work, values))

    def ask_rates(self) -> None:
        """Ask how long things take at this table."""
        session = self._session
        masking = session.work.card.masking
        fields = [field_of(masking.rates, key, words, "ratio") for key, words in RATES]

        def make(work: Work, values: Values) -> Work:
            rates = msgspec.structs.replace(masking.rates, **{key: round(values.number(key), 4) for key, _ in RATES})
            return set_masking(work, rates=rates)

        def tell(values: Values) -> str:
            made: Masking = make(session.work, values).card.masking
            minutes = following_min(made.rates, 100)
            return f"100 mm of line take {minutes:.1f} min. These are guesses until you correct them."

        values = ask(
            self._window, "How long things take", fields, unit=session.work.card.unit, tell=tell, done="Take these"
        )
        if values is not None:
            session.edit("change the rates", lambda work: make(work, values))

    # -- files ---------------------------------------------------------------------------------------------------

    def write_masks(self) -> None:
        """Ask for a folder and write each sheet of masks as an SVG to cut."""
        self._ask_folder("Write the masks as cut files", self.write_masks_to)

    def write_masks_to(self, folder: str) -> int:
        """Write the sheets of masks; gives how many."""
        from fair_thicket.printing.mask_sheets import write_mask_sheets

        outcome = self._session.outcome
        return len(write_mask_sheets(folder, outcome.work, outcome.plan)) if outcome else 0

    def write_frames(self) -> None:
        """Ask for a folder and write the pictures of the rehearsal."""
        self._ask_folder("Write the rehearsal as pictures", self.write_frames_to)

    def write_frames_to(self, folder: str) -> int:
        """Write the pictures of the rehearsal; gives how many."""
        from fair_thicket.files.press_pictures import write_frames

        outcome = self._session.outcome
        if outcome is None:
            return 0
        told = outcome.rehearsal
        return len(write_frames(folder, told.papers, told.scene, is_finished=told.is_finished))

    def _ask_folder(self, title: str, write: Callable[[str], int]) -> None:
        folder = QFileDialog.getExistingDirectory(self._window, title)
        if folder:
            try:
                count = write(folder)
            except ThicketError as problem:
                self._session.said.emit(str(problem))
            else:
                self._session.said.emit(f"{count} files written.")
