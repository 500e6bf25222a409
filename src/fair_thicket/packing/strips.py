"""The shortest strip that takes some outlines, by a library for irregular nesting in a child process."""

import json
import math
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from typing import Any

import shapely

from fair_thicket.model.wanted import GoOn
from fair_thicket.packing.raster_nest import Spot, Wanted

CHILD = (sys.executable, "-m", "fair_thicket.packing.strip_child")
LOOK_S = 0.05
SPARE_S = 10.0
"""So much longer than asked for the child may take before it is given up."""
SIMPLER_MM = 0.15
"""Outlines are taken so much simpler and larger: their many fine corners cost time and gain nothing."""


def shorten(
    wanted: Sequence[Wanted],
    room_mm: tuple[float, float],
    *,
    gap_mm: float,
    angles: Sequence[float] | None,
    seconds: float,
    seed: int = 1,
    go_on: GoOn = lambda: True,
) -> list[Spot] | None:
    """Lay outlines into a strip as high as the room, as far to the left as may be.

    Parameters
    ----------
    wanted : sequence of Wanted
        Ids may come more than once.
    room_mm : (width, height)
    angles : sequence of degrees, or None
        Turns that are allowed; None for any.
    seconds : float
        Whole seconds are taken, one at least.
    go_on : callable
        Asked twenty times a second; False kills the child.

    Returns
    -------
    list of Spot or None
        None where it was stopped, failed, or found nothing that lies within the room.
    """
    if not wanted:
        return []
    outlines = [
        {"id": str(number), "outline": _simple(one.area).exterior.coords[:-1]} for number, one in enumerate(wanted)
    ]
    whole = max(1, math.floor(seconds))
    asked = {
        "height_mm": room_mm[1] + 2 * gap_mm,
        "outlines": outlines,
        "angles": None if angles is None else list(angles),
        "seconds": whole,
        "gap_mm": gap_mm,
        "workers": 2,
        "seed": seed,
    }
    reply = _ask(json.dumps(asked), whole + SPARE_S, go_on)
    if reply is None or reply["width_mm"] > room_mm[0] + 2 * gap_mm + 1e-6:
        return None
    # the library keeps the gap from the walls as well, and they are set back by as much
    return [Spot(wanted[int(key)].id, x - gap_mm, y - gap_mm, angle % 360) for key, x, y, angle in reply["placed"]]


def _simple(area: shapely.Polygon) -> shapely.Polygon:
    """Return an outline simpler and no smaller, without its holes: nothing is laid into them."""
    whole = shapely.Polygon(area.exterior)
    if len(whole.exterior.coords) <= 40:
        return whole
    grown = shapely.simplify(shapely.buffer(whole, SIMPLER_MM, quad_segs=2), SIMPLER_MM)
    return grown if isinstance(grown, shapely.Polygon) and grown.covers(whole) else whole


def _ask(words: str, seconds: float, go_on: GoOn) -> dict[str, Any] | None:
    with (
        tempfile.TemporaryFile("w+", encoding="utf-8") as asked,
        tempfile.TemporaryFile("w+", encoding="utf-8") as told,
    ):
        asked.write(words)
        asked.seek(0)
        child = subprocess.Popen(CHILD, stdin=asked, stdout=told, stderr=subprocess.DEVNULL)  # noqa: S603 - our own module
        end = time.monotonic() + seconds
        try:
            while child.poll() is None and time.monotonic() < end and go_on():
                time.sleep(LOOK_S)
        finally:
            child.kill()
            child.wait()
        if child.returncode != 0:
            return None
        told.seek(0)
        reply: dict[str, Any] = json.load(told)
        return reply
