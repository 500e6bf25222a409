"""The bare scene form of the shell: outlines in place, front first, nothing else (DESIGN of the shell interface)."""

from pathlib import Path
from typing import Annotated

import msgspec

from fair_thicket.files.card_file import decode_card, open_card
from fair_thicket.model.card import Work
from fair_thicket.model.errors import SceneError
from fair_thicket.model.reading import Unreadable, read_file

MOST_BYTES = 64_000_000
Coordinate = Annotated[float, msgspec.Meta(ge=-100_000, le=100_000)]
BareRing = Annotated[tuple[tuple[Coordinate, Coordinate], ...], msgspec.Meta(min_length=3, max_length=1_000_000)]


class BarePanel(msgspec.Struct, frozen=True):
    """Size of the panel, mm."""

    w_mm: Annotated[float, msgspec.Meta(gt=0, le=5000)]
    h_mm: Annotated[float, msgspec.Meta(gt=0, le=5000)]


class BareImpression(msgspec.Struct, frozen=True):
    """One impression: its outline in place on the panel, mm."""

    id: str
    stamp: str
    outline: BareRing
    holes: tuple[BareRing, ...] = ()


class BareScene(msgspec.Struct, frozen=True):
    """A scene of impressions, front first."""

    panel: BarePanel
    impressions: tuple[BareImpression, ...]
    copies: dict[str, Annotated[int, msgspec.Meta(ge=1, le=1000)]] = {}


def read_scene(path: Path) -> Work | BareScene:
    """Read a scene: a .thicket file, a card's card.json, or the bare form.

    Raises
    ------
    SceneError, FileFormatError
        One sentence with the place.
    """
    name = path.name
    try:
        data = read_file(path, MOST_BYTES)
    except Unreadable as problem:
        raise SceneError(f"{name} {problem}.") from None
    if data[:2] == b"PK":
        return open_card(path)[0]
    return _decode(data, name)


def _decode(data: bytes, name: str) -> Work | BareScene:
    try:
        probe = msgspec.json.decode(data, type=dict[str, msgspec.Raw])
        if "format" in probe or "card" in probe:
            return decode_card(data, name)
        scene = msgspec.json.decode(data, type=BareScene)
    except msgspec.ValidationError as problem:
        words, _, where = str(problem).partition(" - at ")
        raise SceneError(f"{name} is not a scene: {words}{f' (at {where.strip(chr(96))})' if where else ''}.") from None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as problem:
        raise SceneError(f"{name} is not readable JSON: {str(problem)[:120]}.") from None
    keys = [one.id for one in scene.impressions]
    if len(set(keys)) < len(keys):
        raise SceneError(f"{name}: two impressions have the same id; every one needs its own.")
    return scene
