"""SVG files are read with care: size, depth, entities, recursion and vertex count are looked at first."""

import re
from collections.abc import Iterator
from pathlib import Path
from xml.etree.ElementTree import Element, ParseError, register_namespace, tostring

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from fair_thicket.model.errors import DrawingError
from fair_thicket.model.reading import Unreadable, read_file

MOST_BYTES = 20_000_000
MOST_ELEMENTS = 50_000
MOST_EXPANDED = 100_000
MOST_DEPTH = 60
MOST_PATH_LETTERS = 1_500_000
SVG = "{http://www.w3.org/2000/svg}"
XLINK = "{http://www.w3.org/1999/xlink}href"
DROPPED = frozenset(
    {"script", "image", "foreignObject", "animate", "animateTransform", "animateMotion", "set", "iframe", "a:img"}
)
"""Elements that run, load or move something; a drawing of lines needs none of them."""
FAR = re.compile(r"\d{7,}|\d[eE]\+?(?:[6-9]|\d\d)")
"""A drawing in millimetres, points or 96ths of an inch has no number of seven places before its point."""
ENDLESS = re.compile(r"(?<![\w#])[-+]?(?:nan|inf(?:inity)?)(?![\w])|\d[eE]\+?\d{3,}", re.IGNORECASE)


def read_guarded(path: Path) -> Element:
    """Read an SVG file into a tree without anything that runs, loads or repeats without end.

    Raises
    ------
    DrawingError
        One sentence: not there, not an SVG, too large, entities, recursion, numbers that are not finite.
    """
    name = path.name
    try:
        data = read_file(path, MOST_BYTES)
    except Unreadable as problem:
        raise DrawingError(f"{name} {problem}.") from None
    return parse_guarded(data, name)


def parse_guarded(data: bytes, name: str) -> Element:
    """Parse an SVG; see `read_guarded`."""
    try:
        root: Element = fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except DefusedXmlException:
        raise DrawingError(
            f"{name} defines entities of its own, which can hide endless text; export it again as plain SVG."
        ) from None
    except (ParseError, ValueError, UnicodeDecodeError, LookupError):
        raise DrawingError(f"{name} is not an SVG drawing, or it was cut short; export it again.") from None
    except RecursionError:
        raise DrawingError(f"{name} is nested too deeply; export a simpler drawing.") from None
    if root.tag not in {f"{SVG}svg", "svg"}:
        raise DrawingError(f"{name} is an XML file, but not an SVG drawing.")
    _check_size(root, name)
    _drop(root)
    _check_uses(root, name)
    return root


def to_text(root: Element) -> str:
    """Write a tree as SVG text, its names without prefixes: not every reader follows those."""
    register_namespace("", SVG[1:-1])
    register_namespace("xlink", XLINK[1:].partition("}")[0])
    return tostring(root, encoding="unicode")


def local(element: Element) -> str:
    """Name of an element without its namespace."""
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _walk(element: Element, depth: int = 0) -> Iterator[tuple[Element, int]]:
    stack = [(element, depth)]
    while stack:
        one, level = stack.pop()
        yield one, level
        stack += [(child, level + 1) for child in one]


def _check_size(root: Element, name: str) -> None:
    letters = 0
    for count, (element, depth) in enumerate(_walk(root)):
        if depth > MOST_DEPTH:
            raise DrawingError(f"{name} is nested more than {MOST_DEPTH} deep; export a simpler drawing.")
        if count > MOST_ELEMENTS:
            raise DrawingError(f"{name} has more than {MOST_ELEMENTS} elements; export a simpler drawing.")
        for key, value in element.attrib.items():
            if key in {"d", "points"}:
                letters += len(value)
            if key in {"d", "points", "transform", "viewBox"} and FAR.search(value):
                raise DrawingError(f"{name} has places farther than a kilometre off ({key}); export it at its size.")
            if key not in {"id", "class", "style", "href", XLINK} and len(value) < 200_000 and ENDLESS.search(value):
                raise DrawingError(f"{name} has a number that is not finite ({key}); export it again.")
    if letters > MOST_PATH_LETTERS:
        raise DrawingError(f"{name} has outlines of some {letters // 12:,} points; simplify them and export it again.")


def _drop(root: Element) -> None:
    for parent, _ in list(_walk(root)):
        for child in list(parent):
            if local(child) in DROPPED or not isinstance(child.tag, str):
                parent.remove(child)
        for key in list(parent.attrib):
            value = parent.attrib[key].strip()
            loads = key.endswith("href") and not value.startswith("#")
            if key.lower().startswith("on") or loads or ("url(" in value and "url(#" not in value.replace(" ", "")):
                del parent.attrib[key]
        if local(parent) == "style" and parent.text and ("@import" in parent.text or "url(" in parent.text):
            parent.text = re.sub(r"@import[^;]*;?|url\([^)]*\)", "", parent.text)


def _check_uses(root: Element, name: str) -> None:
    """Refuse a drawing that repeats itself without end, or so often that it would never be done."""
    by_id = {element.get("id"): element for element, _ in _walk(root) if element.get("id")}
    sizes: dict[int, int] = {}

    def size_of(element: Element, path: frozenset[int]) -> int:
        key = id(element)
        if key in path:
            raise DrawingError(f"{name} repeats itself without end (use); export it again without symbols.")
        if key not in sizes:
            inner = path | {key}
            total = 1 + sum(size_of(child, inner) for child in element)
            if local(element) == "use":
                target = by_id.get((element.get("href") or element.get(XLINK) or "").removeprefix("#"))
                total += size_of(target, inner) if target is not None else 0
            if total > MOST_EXPANDED:
                raise DrawingError(f"{name} repeats its parts over {MOST_EXPANDED} times; export a simpler drawing.")
            sizes[key] = total
        return sizes[key]

    size_of(root, frozenset())
