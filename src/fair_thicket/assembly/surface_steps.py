"""What is stamped, coloured and inked straight on a surface, in the order that its masks want, with the whys."""

from collections.abc import Mapping, Sequence

from fair_thicket.assembly.operation import After, Operation
from fair_thicket.estimate.minutes import dry_min, embossed_in, inking_min, laying_min, stamping_min, wash_dry_min
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.keys import image_key
from fair_thicket.model.pieces import Cutout, Drops, Impression, Paste, Piece, Wash
from fair_thicket.model.pieces.placed import Placed
from fair_thicket.model.plan import SHEET, MaskPlan, Press
from fair_thicket.model.speech import join_words

PART_MIN, TAPE_MIN = 0.8, 1.0
"""Colouring a part, taping a fold (our own guesses)."""
EMBOSS = "anti-static powder before, embossing ink, powder and heat for {}"
POWDER_LAST = "blended ink is quite dry before powder, or it sticks all over"
OVER_INK = "words and trails are stamped over blended ink when it is dry, in slow ink, and dry again"
PLAIN = "ink dries before the next mask, stencil or stamp on that spot"


def list_surface_steps(
    work: Work, plan: MaskPlan, prefix: str, cut: Mapping[str, str], colour_min: Mapping[str, float]
) -> list[Operation]:
    """List them.

    Parameters
    ----------
    prefix : str
        Of their keys: empty for the front.
    cut : mapping of str to str
        For every piece that is cut out the key of the step that does it.
    colour_min : mapping of str to float
        Minutes of colouring by piece, where they are known.
    """
    maker = _Maker(work, plan, prefix, cut, colour_min)
    for number, press in enumerate(plan.presses, 1):
        if press.surface != SHEET and not press.by_hand:  # by hand is stamped when all is glued
            maker.press(number, press)
    maker.colour_the_rest()
    return maker.found


def drying_of(work: Work, operation: Operation) -> float:
    """How long what an operation leaves on a surface has to dry, minutes."""
    masking = work.card.masking
    washes = [piece for piece in _pieces_of(work, operation.pieces) if isinstance(piece, Wash)]
    if washes:
        return max(wash_dry_min(masking.rates, piece) for piece in washes)
    return 0.0 if operation.kind == "colour" else dry_min(masking)


def colour_minutes(images: Sequence[Impression | Cutout], known: Mapping[str, float]) -> float:
    """Minutes of colouring some images: as known, else guessed by their parts."""
    return round(sum(known.get(one.id, max(1, len(one.colouring)) * PART_MIN) for one in images), 2)


class _Maker:
    """The steps so far, and the last on each surface."""

    def __init__(
        self, work: Work, plan: MaskPlan, prefix: str, cut: Mapping[str, str], colour_min: Mapping[str, float]
    ) -> None:
        self._colour_min, self._plan = colour_min, plan
        self._work, self._prefix, self._cut = work, prefix, cut
        self._names = name_pieces(work)
        self._last: dict[str, Operation] = {}
        self._coloured: set[str] = set()
        self._stamped: set[str] = set()
        self.found: list[Operation] = []

    def press(self, number: int, press: Press) -> None:
        """Stamp or ink once; before the first ink images are coloured, and a folded base is taped."""
        rates = self._work.card.masking.rates
        surface = press.surface
        if press.is_ink:
            self._colour(surface)
            if not surface:
                self._tape()
        known = dict.fromkeys(self._names.get(image_key(key), key) for key in press.impressions)
        which = join_words(list(known))
        where = self._names.get(surface, surface or "card")
        pieces = _pieces_of(self._work, press.impressions)
        self._stamped |= {piece.id for piece in pieces}
        if press.is_ink:
            words, tool = f"Ink {which} on the {where}", "brush"
            minutes = sum(inking_min(rates, piece) for piece in pieces if isinstance(piece, Wash))
            if any(isinstance(piece, Paste) for piece in pieces):
                words = f"{words}; wash the stencil at once"
        else:
            minutes = stamping_min(self._work, press) + laying_min(self._work, self._plan, number - 1)
            words, tool = f"Stamp {which} on the {where}", "platform"
            embossed = embossed_in(self._work, press)
            if embossed:
                names = join_words([self._names[one.id] for one in embossed])
                words, tool = f"{words}; {EMBOSS.format(names)}", "heat tool"
        kind = "ink" if press.is_ink else "press"
        self._add(surface, Operation(f"{self._prefix}press {number}", kind, words, tuple(press.impressions),
                                     round(minutes, 2), tool, self._after(surface, pieces)))  # fmt: skip

    def colour_the_rest(self) -> None:
        """Colour images on surfaces that are not inked at all."""
        for surface in list(self._last):
            self._colour(surface)

    def _after(self, surface: str, pieces: list[Piece]) -> tuple[After, ...]:
        """Say what comes before a step on a surface, and why."""
        before = self._last.get(surface)
        if before is None:
            known = self._cut.get(surface)
            return (After(known, "the panel is cut before it is stamped"),) if known else ()
        return (After(before.key, self._because(before, pieces), drying_of(self._work, before)),)

    def _because(self, before: Operation, pieces: list[Piece]) -> str:
        """Return the first reason that holds."""
        earlier = _pieces_of(self._work, before.pieces)
        is_ink = _has(pieces, Wash)
        drips = _has(pieces, Drops) and not _has(earlier, Drops)
        stamped = [one for one in pieces if isinstance(one, Impression)]
        is_powder = any(one.powder for one in stamped)
        waits = any(one.stamped == "over dry inks" for one in stamped)
        reasons = (
            (before.kind == "colour", "alcohol colouring comes before water-based blending over the mask"),
            (before.kind == "tape", "fold and back are taped before ink goes on a folded base"),
            (
                is_ink and any(isinstance(one, Impression) and one.resists for one in earlier),
                "the resist is melted through before ink goes over it",
            ),
            (drips, "the gradient comes before splatter and drops of water"),
            (is_powder and before.kind == "ink", POWDER_LAST),
            (waits and not is_ink, OVER_INK),
            (_has(earlier, Paste), "paste is dry, about an hour, before anything goes over it"),
        )
        return next((because for holds, because in reasons if holds), PLAIN)

    def _colour(self, surface: str) -> None:
        """Colour the images that are stamped on a surface by now, each once."""
        images = [
            piece
            for piece in self._work.card.pieces
            if isinstance(piece, Impression) and piece.on == surface and piece.is_coloured
            if piece.id in self._stamped - self._coloured
        ]
        before = self._last.get(surface)
        if not images or before is None:
            return
        self._coloured |= {piece.id for piece in images}
        where = self._names.get(surface, surface or "card")
        many = f"{len(images)} image{'s' * (len(images) != 1)}"
        ready = After(before.key, "stamped and dry, then coloured", drying_of(self._work, before))
        keys = tuple(piece.id for piece in images)
        words = f"Colour {many} on the {where}, marker by marker"
        key = f"{self._prefix}colour on {surface or 'card'}"
        key += ", over the ink" if any(one.key == key for one in self.found) else ""
        self._add(
            surface,
            Operation(key, "colour", words, keys, colour_minutes(images, self._colour_min), "markers", (ready,)),
        )

    def _tape(self) -> None:
        """Tape the fold and the back of the base over, before it is inked."""
        key = f"{self._prefix}tape"
        if not any(one.key == key for one in self.found):
            before = self._last.get("")
            after = (After(before.key, PLAIN, drying_of(self._work, before)),) if before is not None else ()
            words = "Tape the fold and the back of the base over with low-tack tape"
            self._add("", Operation(key, "tape", words, (), TAPE_MIN, "tape", after))

    def _add(self, surface: str, operation: Operation) -> None:
        self.found.append(operation)
        self._last[surface] = operation


def _pieces_of(work: Work, keys: tuple[str, ...]) -> list[Piece]:
    known = {piece.id: piece for piece in work.card.pieces}
    return [known[image_key(key)] for key in keys if image_key(key) in known]


def _has(pieces: Sequence[Piece], kind: type[Placed]) -> bool:
    return any(isinstance(piece, kind) for piece in pieces)
