"""Papers, inks and markers as CSV, in and out."""

import csv
import io
from collections.abc import Mapping, Sequence
from pathlib import Path
from types import MappingProxyType
from typing import get_args

import msgspec

from fair_thicket.model.errors import InputError
from fair_thicket.model.reading import Unreadable, read_file
from fair_thicket.model.supplies import Ink, LineInk, Marker, Medium, Paper, Supply, Surface, parse_weight
from fair_thicket.model.units import Unit, parse_length

COLUMNS = ("what", "name", "colour", "code", "family", "weight", "width", "height", "sheets left", "kind", "cap")
MOST_BYTES = 10_000_000
MOST_ROWS = 20_000
KINDS = MappingProxyType(
    {
        "medium": get_args(Medium),
        "lines": get_args(LineInk)[1:],
        "surface": get_args(Surface)[1:],
    }
)
FORMULA = ("=", "+", "-", "@", "\t")


def write_supplies(supplies: Sequence[Supply]) -> bytes:
    """Write supplies as CSV (UTF-8); words that a spreadsheet would run as a formula are quoted with an apostrophe."""
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\n")
    writer.writerow(COLUMNS)
    for supply in supplies:
        row = [type(supply).__name__.lower(), supply.name, supply.colour, supply.code]
        row.append(supply.family if isinstance(supply, Marker) else "")
        if isinstance(supply, Paper):
            sides = (f"{supply.width_mm:g} mm", f"{supply.height_mm:g} mm")
            row += [f"{supply.weight_gsm:g} gsm", *sides, str(supply.sheets_left), supply.surface]
        else:
            row += [""] * 4
            row.append(supply.medium if isinstance(supply, Marker) else supply.lines)
        row.append(supply.cap or "" if isinstance(supply, Marker) else "")
        writer.writerow([f"'{cell}" if cell.startswith(FORMULA) else cell for cell in row])
    return buffer.getvalue().encode("utf-8")


def read_supplies(path: Path, *, as_markers: bool = False) -> list[Supply]:
    """Read supplies from CSV.

    Parameters
    ----------
    as_markers : bool
        Whether rows that do not say what they are are markers: a bare list of names and colours will do.

    Raises
    ------
    InputError
        One sentence with the line: not there, too large, no table of ours, a formula, a colour or weight that is none.
    """
    name = path.name
    try:
        text = _decode(read_file(path, MOST_BYTES), name)
    except Unreadable as problem:
        raise InputError(f"{name} {problem}.") from None
    try:
        rows = [_plain(row) for row in csv.DictReader(io.StringIO(text), delimiter=_delimiter(text))]
    except csv.Error as problem:
        raise InputError(f"{name} is no table that can be read ({problem}).") from None
    if as_markers:
        rows = [{"what": "marker", **row} for row in rows]
    if not rows and text.strip():
        raise InputError(f"{name} has headings at most, and nothing below them; put a line for each thing you own.")
    if not rows or "name" not in rows[0] or "what" not in rows[0]:
        raise InputError(f"{name} has no columns “what” and “name”; its first line should read: {', '.join(COLUMNS)}.")
    if len(rows) > MOST_ROWS:
        raise InputError(f"{name} has {len(rows)} lines; at most {MOST_ROWS} are read at once.")
    return [_read_row(row, f"{name}, line {number}") for number, row in enumerate(rows, 2)]


def _decode(data: bytes, name: str) -> str:
    for encoding in ("utf-16",) if data[:2] in {b"\xff\xfe", b"\xfe\xff"} else ("utf-8-sig", "cp1252"):
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\0" not in text:
            return text
    raise InputError(f"{name} is not text; save the table as CSV in UTF-8.")


def _plain(row: Mapping[str | None, str | None]) -> dict[str, str | None]:
    """Return a row by its headings in plain small letters."""
    headings = {"color": "colour"}
    return {headings.get(key, key): cell for name, cell in row.items() if (key := (name or "").strip().lower())}


def _delimiter(text: str) -> str:
    first = text.partition("\n")[0]
    return max(",;\t", key=first.count)


def _read_row(row: dict[str, str | None], place: str) -> Supply:
    cells = {key: (row.get(key) or "").strip() for key in COLUMNS}
    for key, cell in cells.items():
        if cell.startswith(("=", "@")):
            raise InputError(f"{place}: “{cell[:20]}” under {key} is a formula; put its value there.")
        cells[key] = cell.removeprefix("'")
    colour = cells["colour"].lower() or ("#ffffff" if cells["what"] == "paper" else "")
    try:
        if cells["what"] == "ink":
            known = {"name": cells["name"], "colour": colour, "code": cells["code"], "lines": cells["kind"]}
            return msgspec.convert({"type": "ink", **known}, Ink)
        if cells["what"] == "marker":
            known = {"name": cells["name"], "colour": colour, "code": cells["code"], "family": cells["family"]}
            more = {"medium": cells["kind"] or "alcohol", "cap": cells["cap"].lower() or None}
            return msgspec.convert({"type": "marker", **known, **more}, Marker)
        if cells["what"] == "paper":
            return _read_paper(cells, colour)
    except msgspec.ValidationError as problem:
        raise InputError(f"{place}: {_tell(problem)}.") from None
    except InputError as problem:
        raise InputError(f"{place}: {problem}") from None
    raise InputError(f"{place}: “{cells['what'][:20]}” is neither paper, ink nor marker.")


def _read_paper(cells: dict[str, str], colour: str) -> Paper:
    known: dict[str, object] = {"type": "paper", "name": cells["name"], "colour": colour, "code": cells["code"]}
    known["surface"] = cells["kind"]
    if cells["weight"]:
        known["weight_gsm"] = parse_weight(cells["weight"])
    for key in ("width", "height"):
        if cells[key]:
            known[f"{key}_mm"] = parse_length(cells[key], Unit.MM)
    if cells["sheets left"]:
        known["sheets_left"] = cells["sheets left"]
    return msgspec.convert(known, Paper, strict=False)


def _tell(problem: msgspec.ValidationError) -> str:
    words = str(problem)
    if "colour" in words or "cap`" in words:
        return "a colour is written like #3c6e47"
    for field, kinds in KINDS.items():
        if f"`$.{field}`" in words:
            return f"its kind is none of {', '.join(kinds)}"
    return words.partition(" - at ")[0].lower()
