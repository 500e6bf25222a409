"""Every operation of a card from the first sheet to the envelope, each with what must come before it, and why.

Glossary
--------
operation
    What is done in one go; what it leaves wet dries while hands are free.
because
    Why one comes before another: a rule of the trade, or that paper lies on paper.
"""

from collections.abc import Iterator, Sequence

from fair_thicket.assembly.glue import BECAUSE
from fair_thicket.assembly.last_steps import drawn_early, dries, mark_back, say_finish, set_last, wet_min
from fair_thicket.assembly.operation import After, Operation, join_operations
from fair_thicket.assembly.side import Side
from fair_thicket.assembly.surface_steps import (
    EMBOSS,
    PLAIN,
    colour_minutes,
    drying_of,
    list_surface_steps,
)
from fair_thicket.assembly.trimming import (
    CUT_THEN_GLUED,
    CUT_THEN_RAISED,
    TRIMMED_THEN_GLUED,
    TRIMMED_THEN_RAISED,
    find_trims,
    list_trims,
    shorten,
)
from fair_thicket.assembly.tucks import find_tucks, order_of_tucks
from fair_thicket.estimate.minutes import (
    HEAT_MIN,
    cutting_min,
    dry_min,
    gluing_min,
    laying_min,
    printing_min,
    stamping_min,
)
from fair_thicket.ink.naming import say_colour
from fair_thicket.laid.cutting import frame_of, shares_print, tool_of
from fair_thicket.laid.heights import Rest
from fair_thicket.model.card import name_pieces
from fair_thicket.model.keys import flap_number, image_key, is_flap, piece_key
from fair_thicket.model.masking import Rates
from fair_thicket.model.pieces import INK, Cutout, Embellishment, Impression, PaperPiece, Piece, Strip, Wash
from fair_thicket.model.plan import SHEET
from fair_thicket.model.speech import join_words
from fair_thicket.model.units import say_length

POST_MIN, LAY_OUT_MIN = 2.0, 5.0
"""The envelope, a dry layout (our own guesses)."""

SLID_IN = "it is slid in under what is on the card already, whose edge is still free"
WORDS_THEN_CUT = "stamped and embossed on a larger piece, then trimmed to a strip; a smudged one is turned over"
FLAP_FIRST = "a strand is left loose until what goes under it is in, and only then covered itself"
BY_HAND = "what is to meet a figure on free ground is stamped by hand when the figure sits"


def list_operations(sides: Sequence[Side]) -> list[Operation]:
    """List what is done for one card, all sides; in which order, its edges say."""
    found: list[Operation] = list(mark_back(sides))
    for side in sides:
        found += _Maker(side, found).list()
    last = shorten(sides[0].work, found) if sides else None
    found += [last] if last is not None else []
    found += set_last(sides, found)
    if not found:
        return []
    everything = tuple(After(one.key, "the card is done before it is posted", dries(sides, one)) for one in found)
    words = "Weigh it and put it into its envelope"
    return [*found, Operation("post", "post", words, (), POST_MIN, "envelope", everything)]


class _Maker:
    """The operations of one side, one kind after the other."""

    def __init__(self, side: Side, earlier: Sequence[Operation]) -> None:
        self._side, self._work = side, side.work
        self._rates: Rates = side.work.card.masking.rates
        self._names = name_pieces(side.work)
        self._inside = [one for one in earlier if one.key.startswith("inside ") or one.kind == "mark"]
        self._prefix = side.prefix
        self._found: list[Operation] = []
        self._keys: set[str] = set()
        self._trims = find_trims(side.work, side.heights)
        self._slides = order_of_tucks(side.work, find_tucks(side.work, side.heights, side.foam, side.glue))

    def list(self) -> list[Operation]:
        """List them: images, cutting, ink on surfaces, gluing from the back forward."""
        self._images()
        self._words()
        self._cuts()
        self._presses()
        self._lay_out()
        self._glues()
        self._found += list_trims(self._work, self._trims, self._prefix, self._found)
        self._join_windows()
        self._by_hand()
        return self._found

    def _lay_out(self) -> None:
        """Try all that is cut out with nothing stuck, before anything is glued."""
        cut = [one for one in self._found if one.kind == "cut"]
        if len(cut) > 1:
            words = "Lay everything out dry, frame and words too; see that nothing that matters is covered"
            after = tuple(After(one.key, "everything is there before it is laid out") for one in cut)
            keys = tuple(key for one in cut for key in one.pieces)
            self._add(Operation(self._key("lay out"), "lay", words, keys, LAY_OUT_MIN, "hands", after))

    def _key(self, words: str) -> str:
        return f"{self._prefix}{words}"

    def _add(self, operation: Operation) -> None:
        self._found.append(operation)

    def _has(self, key: str) -> bool:
        self._keys.update(one.key for one in self._found[len(self._keys) :])  # each key once
        return key in self._keys

    def _images(self) -> None:
        """Stamp what is cut out later, in one session; colour it when it is dry."""
        images = [one for one in self._work.card.pieces if isinstance(one, Cutout) and self._is_image(one)]
        if images:
            prints = [one for one in images if not shares_print(one, self._work.card.pieces)]
            minutes = round(self._printing_min(len(prints)), 2)
            words = f"Stamp {_count(len(prints), 'image')} to cut out, on one sheet, in one session"
            keys = tuple(one.id for one in images)
            self._add(Operation(self._key("stamp"), "stamp", words, keys, minutes, "platform"))
        coloured = [one for one in images if one.is_coloured]
        if coloured:
            ready = After(
                self._key("stamp"),
                "all images and layers are stamped before colouring",
                dry_min(self._work.card.masking),
            )
            keys = tuple(one.id for one in coloured)
            words = f"Colour {_count(len(keys), 'image')}, marker by marker"
            minutes = colour_minutes(coloured, self._side.colour_min)
            self._add(Operation(self._key("colour"), "colour", words, keys, minutes, "markers", (ready,)))

    def _printing_min(self, count: int) -> float:
        """Minutes of stamping the sheet that images are cut from, press by press as it is planned."""
        plan = self._side.plan
        planned = [number for number, press in enumerate(plan.presses) if press.surface == SHEET]
        stamped = sum(stamping_min(self._work, plan.presses[n]) + laying_min(self._work, plan, n) for n in planned)
        return stamped or printing_min(self._rates, count)

    def _is_image(self, piece: Cutout) -> bool:
        return not self._work.stash.find(piece.stamp).kind.is_plain

    def _words(self) -> None:
        """Put the words of strips on larger pieces of card, before those are trimmed."""
        for piece in self._work.card.pieces:
            if isinstance(piece, Strip) and piece.words:
                how = f"; {EMBOSS.format('them')}, {say_colour(piece.ink or INK)}" if piece.powder else ""
                words = f"Stamp “{piece.words.replace(chr(10), ' / ')}” on card larger than the strip{how}"
                minutes = printing_min(self._rates) + (HEAT_MIN if piece.powder else 0.0)
                tool = "heat tool" if piece.powder else "platform"
                key = self._key(f"words {piece.id}")
                self._add(Operation(key, "stamp", words, (piece.id,), round(minutes, 2), tool))

    def _cuts(self) -> None:
        for piece in self._work.card.pieces:
            if not isinstance(piece, PaperPiece) or isinstance(piece, Embellishment):
                continue
            if isinstance(piece, Cutout) and piece.opening is not None:
                self._inlay(piece)
                continue
            tool = tool_of(piece, self._work.stash)
            words = f"Cut the {self._names[piece.id]} out with {'' if tool == 'scissors' else 'the '}{tool}"
            minutes = round(cutting_min(piece, self._work), 2)
            key = self._key(f"cut {piece.id}")
            self._add(Operation(key, "cut", words, (piece.id,), minutes, tool, self._before_cutting(piece)))

    def _inlay(self, piece: Cutout) -> None:
        """Have an inlay fall out of a die: its frame's, or one that is run again in the inlay's own paper."""
        frame = frame_of(piece, self._work.card.pieces)
        if frame is not None:
            return
        minutes = round(cutting_min(piece, self._work), 2)
        words = f"Run the {self._work.stash.find(piece.stamp).name} again, in the paper of the {self._names[piece.id]}"
        self._add(Operation(self._key(f"cut {piece.id}"), "cut", words, (piece.id,), minutes, "die"))

    def _cut_of(self, piece: Piece) -> str:
        """Return the key of the step that cuts a piece out: an inlay comes with its frame."""
        frame = frame_of(piece, self._work.card.pieces) if isinstance(piece, Cutout) else None
        return self._key(f"cut {frame if frame is not None else piece.id}")

    def _before_cutting(self, piece: PaperPiece) -> tuple[After, ...]:
        """Wait for what is done to an image while it still lies on its sheet."""
        if isinstance(piece, Strip) and piece.words:
            return (After(self._key(f"words {piece.id}"), WORDS_THEN_CUT, dry_min(self._work.card.masking)),)
        if not isinstance(piece, Cutout) or not self._is_image(piece):
            return ()
        if piece.is_coloured:
            return (After(self._key("colour"), "a cut edge is hard to hold and to colour"),)
        return (After(self._key("stamp"), "stamped, then cut", dry_min(self._work.card.masking)),)

    def _presses(self) -> None:
        """Stamp, colour and ink on surfaces, press by press as the masks want it."""
        known = {one.key for one in self._found if one.kind == "cut"}
        cut = {piece.id: self._cut_of(piece) for piece in self._work.card.pieces if self._cut_of(piece) in known}
        self._found += list_surface_steps(self._work, self._side.plan, self._prefix, cut, self._side.colour_min)

    def _glues(self) -> None:
        """Glue from the back forward: what lies on something after it, what is raised after all stamping."""
        rests = self._rests()
        pressed = [
            one for one in self._found if one.kind in {"press", "ink", "colour"} and one.key != self._key("colour")
        ]
        early = drawn_early(self._side)
        for rest in rests:
            if isinstance(rest.piece, Embellishment) and rest.key in early:
                self._add(self._draw(rest, rest.piece, pressed))
            elif not isinstance(rest.piece, Embellishment):
                self._add(self._glue(rest, pressed))

    def _rests(self) -> Sequence[Rest]:
        """Return how every piece rests, once: its body, or its first part where all of it is lifted elsewhere."""
        bodies = {rest.piece.id for rest in self._side.heights.rests if not is_flap(rest.key)}
        found: dict[str, Rest] = {}
        for rest in self._side.heights.rests:
            if not is_flap(rest.key) or rest.piece.id not in bodies:
                found.setdefault(rest.piece.id, rest)
        return tuple(found.values())

    def _draw(self, rest: Rest, piece: Embellishment, pressed: Sequence[Operation]) -> Operation:
        """Draw a line or dots that something will lie over, when what they lie on is there."""
        after = [
            *self._after_what_lies_under(rest, is_raised=False),
            *self._after_pressing(rest, pressed, is_raised=False),
        ]
        words, minutes, tool = say_finish(piece, self._names[piece.id])
        return Operation(self._key(f"set {rest.key}"), "set", words, (rest.key,), minutes, tool, tuple(after))

    def _glue(self, rest: Rest, pressed: Sequence[Operation]) -> Operation:
        piece = rest.piece
        strips = self._side.foam.of(rest.key)
        glue = next((one for one in self._side.glue.glues if one.piece == rest.key), None)
        cut = self._cut_of(piece)
        after = [After(cut, "cut out before it is glued")] if self._has(cut) else []
        if self._has(self._key("lay out")):
            after.append(After(self._key("lay out"), "the dry layout comes before anything is glued"))
        after += self._after_what_lies_under(rest, is_raised=bool(strips))
        after += self._after_flaps(rest)
        after += self._after_trims(rest, is_raised=bool(strips))
        after += self._after_tucks(rest)
        after += self._after_pressing(rest, pressed, is_raised=bool(strips))
        told = []
        if strips:
            thick = " and ".join(f"{mm:g}" for mm in sorted({one.thick_mm for one in strips}))
            told.append(f"{_count(len(strips), 'strip')} of {thick} mm foam")
        if glue is not None:
            width = f" {glue.tape_mm:g} mm" if glue.tape_mm else ""
            told.append(f"{glue.kind}{width}, {BECAUSE[glue.kind]}")
        words = f"Glue the {self._names[piece.id]} on{': ' if told else ''}{'; '.join(told)}{self._say_tucks(piece.id)}"
        minutes = gluing_min(self._rates, len(strips))
        tool = "foam" if strips else "tape" if glue is not None and glue.kind == "tape" else "glue"
        key = self._key(f"glue {piece.id}")
        return Operation(key, "glue", words, (piece.id,), round(minutes, 2), tool, tuple(after))

    def _say_tucks(self, key: str) -> str:
        """Say under what a piece is slid, how deep and by which edge."""
        unit = self._work.card.unit
        told = [
            f"slide it {say_length(one.depth_mm, unit)} in under the {one.edge} edge of the {self._names[one.under]}"
            f"{', while its glue is young' if one.in_window else ', which is not glued there'}"
            for one in self._slides.tucks
            if one.piece == key
        ]
        return f"; {'; '.join(told)}" if told else ""

    def _after_what_lies_under(self, rest: Rest, *, is_raised: bool) -> Iterator[After]:
        """Wait for all that lies under it; foam is pressed on when its ground holds."""
        for key in dict.fromkeys(piece_key(one) for one in rest.under):
            if self._slides.skips(key, rest.piece.id):
                continue
            if self._trims.is_cut_with(rest.piece.id, key) or self._slides.is_on(rest.piece.id, key):
                yield After(self._key(f"cut {key}"), "the panel is cut before a scene is glued on it")
            elif self._has(self._key(f"set {key}")):
                finish = self._work.card.find(key)
                wet = wet_min(self._work, finish) if isinstance(finish, Embellishment) else 0.0
                yield After(self._key(f"set {key}"), "set, and dry, before anything is glued over it", wet)
            elif key != rest.piece.id and self._has(self._key(f"glue {key}")):
                wait = self._work.card.assembly.hold_min if is_raised and key == rest.piece.on else 0.0
                yield After(self._key(f"glue {key}"), "back to front: what lies underneath is glued first", wait)

    def _after_flaps(self, rest: Rest) -> Iterator[After]:
        """Wait for loose parts that it lies over: each comes to its place when what it goes past is there."""
        for key in rest.under:
            number = flap_number(key)
            piece = self._work.card.find(key)
            if number is not None and isinstance(piece, PaperPiece) and piece.flaps[number].side == "over":
                past = piece.flaps[number].past
                if past != rest.piece.id and self._has(self._key(f"glue {past}")):
                    yield After(self._key(f"glue {past}"), FLAP_FIRST)

    def _after_trims(self, rest: Rest, *, is_raised: bool) -> Iterator[After]:
        """Wait for what is trimmed first: itself, the flat scene that it carries, or on which it is raised."""
        key, trims = rest.piece.id, self._trims
        if key in trims.first:
            yield After(self._key(f"trim {key}"), TRIMMED_THEN_GLUED)
        if key in trims.again:
            yield After(self._key(f"cut again {key}"), CUT_THEN_GLUED)
        if is_raised and rest.piece.on in trims.again:
            yield After(self._key(f"cut again {rest.piece.on}"), CUT_THEN_RAISED)
        for other in trims.flat_at_edge if is_raised else ():
            yield After(self._key(f"trim {other}"), TRIMMED_THEN_RAISED)

    def _after_tucks(self, rest: Rest) -> Iterator[After]:
        """Wait for what it is slid in under, and for what it carries."""
        hold = self._work.card.assembly.hold_min
        for tuck in self._slides.tucks:
            if tuck.piece == rest.piece.id:
                yield After(self._key(f"glue {tuck.under}"), SLID_IN, 0.0 if tuck.in_window else hold)
        for key in self._slides.carried.get(rest.piece.id, ()):
            yield After(self._key(f"glue {key}"), "glued on what is slid in before it is slid in")

    def _after_pressing(self, rest: Rest, pressed: Sequence[Operation], *, is_raised: bool) -> Iterator[After]:
        """Wait for what is stamped and inked on it, and where it goes; what is raised waits for the inside as well."""
        piece = rest.piece
        for one in pressed:
            surface = self._surface_of(one)
            wait = drying_of(self._work, one)
            if surface == piece.id:
                yield After(one.key, "a panel is stamped and inked before it is glued on", wait)
            elif is_raised and surface in {piece.on, ""}:
                yield After(one.key, "what goes under the platform comes before anything raised", wait)
            elif surface == piece.on:
                yield After(one.key, "stamped, inked and dry before anything is glued on it", wait)
        for one in self._inside if is_raised else ():
            if one.kind in {"press", "ink", "stamp"}:
                yield After(one.key, "the inside is stamped before the front gets its height")
            elif one.kind == "mark":
                yield After(one.key, "the back is stamped before the front gets its height")

    def _join_windows(self) -> None:
        """Make one operation of a piece and what is slid in under it while its glue is young: nothing comes between."""
        for tuck in self._slides.tucks:
            if tuck.in_window:
                self._found = join_operations(
                    self._found, self._key(f"glue {tuck.under}"), self._key(f"glue {tuck.piece}")
                )

    def _by_hand(self) -> None:
        """Stamp by hand beside what is glued, when all of it holds and what is inked there is dry."""
        before = [one for one in self._found if one.kind in {"press", "ink", "glue"}]
        hold = self._work.card.assembly.hold_min
        for number, press in enumerate(self._side.plan.presses, 1):
            if not press.by_hand:
                continue
            after = tuple(
                After(one.key, BY_HAND, hold)
                if one.kind == "glue"
                else After(one.key, PLAIN, drying_of(self._work, one))
                for one in before
                if one.kind == "glue" or self._surface_of(one) == press.surface
            )
            names = join_words(list(dict.fromkeys(self._names[image_key(key)] for key in press.impressions)))
            words = f"Stamp the {names} by hand, with a clear block, on the flat, free ground"
            minutes = stamping_min(self._work, press)
            key = self._key(f"press {number}")
            self._add(Operation(key, "press", words, press.impressions, round(minutes, 2), "block", after))

    def _surface_of(self, one: Operation) -> str:
        piece = self._work.card.find(one.pieces[0]) if one.pieces else None
        return piece.on if isinstance(piece, Impression | Wash) else ""


def _count(number: int, noun: str) -> str:
    return f"{number} {noun}{'s' * (number != 1)}"
