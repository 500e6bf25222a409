"""The details of one piece as a form: what it is cut like, what it says, how it is glued."""

from typing import Any

import msgspec

from fair_thicket import edits
from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.parts.form import YES_NO, Field, Values, ask, field_of
from fair_thicket.desk.scene.add_actions import ENDS
from fair_thicket.desk.scene.station import SceneStation
from fair_thicket.desk.session.session import Session
from fair_thicket.edits import adding
from fair_thicket.model.card import Work
from fair_thicket.model.declared import limit_of
from fair_thicket.model.errors import InputError
from fair_thicket.model.finishes import FINISHES
from fair_thicket.model.pieces import (
    Border,
    Cutout,
    Embellishment,
    Panel,
    PaperPiece,
    Piece,
    Strip,
    Wash,
)
from fair_thicket.model.units import say_size
from fair_thicket.shape.paper import local_area

GLUE = ("all", "foot", "point")
FOAM = ("all", "part")
EDGES = ("", "stitched", "embossed")
SHAPES = tuple(FINISHES)
SHAPE_NAMES = tuple(kind.plural for kind in FINISHES.values())
ON_IT = ("stays as it is", "is trimmed with it", "hangs over")


class DetailActions:
    """What “Its details …” does.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: SceneStation, session: Session) -> None:
        self._station, self._session = station, session
        self.records = [
            Record("details", "Piece", "Its details …", "Alt+D", self.ask_details, lambda: len(session.selection) == 1),
        ]

    def ask_details(self) -> None:
        """Ask for the details of the chosen piece; what comes of them is said while they are typed."""
        (key,) = self._session.selection
        piece = self._session.work.card.find(key)
        unit = self._session.work.card.unit
        fields = [Field("name", "Called", "words", piece.name), *_own_fields(piece, self._session.work)]
        if isinstance(piece, PaperPiece):
            fields += _paper_fields(piece)

        def tell(values: Values) -> str:
            made = change_details(self._session.work, key, values)
            left, top, right, bottom = local_area(made.card.find(key), made.stash).bounds
            return f"It measures {say_size(right - left, bottom - top, unit)}."

        title = f"Details of the {self._session.names[key]}"
        values = ask(self._station.window(), title, fields, unit=unit, tell=tell, done="Take these")
        if values is not None:
            self._session.edit("change details", lambda work: change_details(work, key, values))


def _own_fields(piece: Piece, work: Work) -> list[Field]:
    if isinstance(piece, Cutout):
        die = work.stash.find(piece.stamp).die_margin_mm or 0.0
        return [
            Field(
                "margin_mm",
                "White left round it",
                "length",
                die if piece.margin_mm is None else piece.margin_mm,
                limit=limit_of(Cutout, "margin_mm"),
            )
        ]
    if isinstance(piece, Panel):
        return [
            field_of(piece, "form.width_mm", "Width"),
            field_of(piece, "form.height_mm", "Height"),
            field_of(piece, "form.corner_mm", "Round its corners by"),
            Field("on_it", "What lies on it", "choice", 0, ON_IT),
        ]
    if isinstance(piece, Strip):
        return [
            Field("words", "Words; “ / ” breaks the line", "words", piece.words.replace("\n", " / ")),
            field_of(piece, "words_mm", "Height of the capitals"),
            Field("left", "Left end", "choice", ENDS.index(piece.left), ENDS),
            Field("right", "Right end", "choice", ENDS.index(piece.right), ENDS),
        ]
    if isinstance(piece, Border):
        return [
            field_of(piece, "length_mm", "Trimmed to"),
            field_of(piece, "start_mm", "Begins on the die at"),
            Field("flipped", "Turned over", "choice", int(piece.flipped), YES_NO),
        ]
    return _small_fields(piece)


def _small_fields(piece: Piece) -> list[Field]:
    if isinstance(piece, Embellishment):
        return [
            field_of(piece, "size_mm", "Size of one"),
            Field("shape", "What", "choice", SHAPES.index(piece.shape), SHAPE_NAMES),
        ]
    if isinstance(piece, Wash):
        return [
            field_of(piece, "form.width_mm", "Width"),
            field_of(piece, "form.height_mm", "Height"),
        ]
    return []


def _paper_fields(piece: PaperPiece) -> list[Field]:
    return [
        Field("translucent", "Vellum", "choice", int(piece.translucent), YES_NO),
        field_of(piece, "layers", "Glued up from", "count"),
        Field("glue", "Glued", "choice", GLUE.index(piece.glue), ("all over", "along its foot", "at one point")),
        Field("edge", "Line of its die", "choice", EDGES.index(piece.edge), ("none", *EDGES[1:])),
        Field("slides_in", "Slid in later", "choice", int(piece.slides_in), YES_NO),
        Field("foam", "Foam", "choice", FOAM.index(piece.foam), ("under all of it", "only where it would hang")),
    ]


CHOICES: dict[str, tuple[object, ...]] = {
    "left": ENDS,
    "right": ENDS,
    "shape": SHAPES,
    "glue": GLUE,
    "edge": EDGES,
    "foam": FOAM,
    "flipped": (False, True),
    "translucent": (False, True),
    "slides_in": (False, True),
}


def change_details(work: Work, key: str, values: Values) -> Work:
    """Return a piece the details of a form.

    Raises
    ------
    InputError
        For what no piece can be, in one sentence.
    """
    piece = work.card.find(key)
    known: dict[str, Any] = {"name": values.text("name")[:120]}
    for name in set(piece.__struct_fields__) & values.keys() - {"name"}:
        known[name] = CHOICES[name][values.whole(name)] if name in CHOICES else values[name]
    if "words" in known:
        known["words"] = adding.break_lines(str(known["words"]))
    if isinstance(piece, Panel | Wash):
        corner = values.get("corner_mm", piece.form.corner_mm)
        form = {"width_mm": values["width_mm"], "height_mm": values["height_mm"], "corner_mm": corner}
        known["form"] = {**msgspec.to_builtins(piece.form), **form}
    if isinstance(piece, Cutout) and piece.margin_mm is None and _is_die_margin(work, piece, values["margin_mm"]):
        known.pop("margin_mm")  # still the matching die's own
    if isinstance(piece, Strip) and (known["words"], known["words_mm"]) != (piece.words, piece.words_mm):
        ends = (str(known["left"]), str(known["right"]))
        known["width_mm"], known["height_mm"] = adding.strip_for(known["words"] or "greeting", known["words_mm"], ends)
    changed = _convert({**msgspec.to_builtins(piece), **known})
    work = msgspec.structs.replace(work, card=edits.place_pieces(work.card, (changed,)))
    return _trim_what_it_carries(work, key, ON_IT[int(str(values.get("on_it", 0)))])


def _trim_what_it_carries(work: Work, key: str, on_it: str) -> Work:
    if on_it == ON_IT[0]:
        return work
    carried = {one.id for one in work.card.pieces if one.on == key}
    return edits.set_pieces(work, carried, trim_to=key if on_it == ON_IT[1] else "")


def _is_die_margin(work: Work, piece: Cutout, margin: object) -> bool:
    die = work.stash.find(piece.stamp).die_margin_mm or 0.0
    return abs(float(str(margin)) - die) < 0.05


def _convert(data: dict[str, Any]) -> Piece:
    try:
        piece: Piece = msgspec.convert(data, Piece)
    except msgspec.ValidationError as problem:
        words, _, where = str(problem).partition(" - at ")
        name = where.strip("`$.").replace("_mm", "").replace("_", " ")
        raise InputError(f"“{name}” cannot be so: {words[:1].lower()}{words[1:]}.") from None
    return piece
