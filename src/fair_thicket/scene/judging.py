"""What the arrangement has to say: covered images, edges that kiss, and what leaves the panel."""

import math
from collections.abc import Sequence

import msgspec
import shapely
from shapely.geometry import box

from fair_thicket.model.card import Card, Impression, Work, name_pieces
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.tolerance import COVERED_SHARE, LOST_SHARE, NEAR_MM, OVERLAP_MM2
from fair_thicket.model.units import say_length
from fair_thicket.scene.visibility import Sight, see
from fair_thicket.shape.outline import Area, footprint, to_rings
from fair_thicket.shape.overlap import find_near

OVERLAP_BY_MM = 2.0
"""How far a near-touch is pushed together: an overlap that is plainly meant (common practice)."""
MOST_NEAR = 12


def judge(work: Work) -> list[Finding]:
    """Judge the arrangement of a card.

    Returns
    -------
    list of Finding
        Every remedy has been tried: it removes its own finding.
    """
    if not work.card.pieces:
        return []
    scene = _Scene(work)
    findings = [*_judge_cover(scene), *_judge_near(scene), *_judge_edges(scene)]
    if not findings:
        findings.append(
            Finding(
                code="clear",
                weight=Weight.GOOD,
                title="Nothing in the way",
                text=f"No image is covered by more than {COVERED_SHARE:.0%}, none kisses another, "
                "all stay on the panel.",
                measure=0.0,
                unit="count",
            )
        )
    return findings


class _Scene:
    """What the judges share: footprints by id, sights, names, and a quick way to try a piece elsewhere."""

    def __init__(self, work: Work) -> None:
        self.work = work
        self.card = work.card
        self.names = name_pieces(work)
        self.areas = {piece.id: footprint(piece, work.stash.find(piece.stamp)) for piece in work.card.pieces}
        self.sights = {sight.id: sight for sight in see(work)}
        self.paper = box(0, 0, *work.card.panel)

    def move(self, piece: Impression, by: tuple[float, float]) -> Impression:
        return msgspec.structs.replace(piece, x=round(piece.x + by[0], 4), y=round(piece.y + by[1], 4))

    def others(self, key: str) -> list[tuple[str, Area]]:
        return [(other, area) for other, area in self.areas.items() if other != key]

    def brings_kiss(self, key: str, moved: Area) -> bool:
        """Say whether a piece, moved, would nearly touch another that it does not overlap."""
        return any(
            moved.distance(area) < NEAR_MM and moved.intersection(area).area <= OVERLAP_MM2
            for _, area in self.others(key)
        )


def _judge_cover(scene: _Scene) -> list[Finding]:
    findings = []
    for piece in scene.card.pieces:
        sight = scene.sights[piece.id]
        share = sight.hidden_share
        if share <= COVERED_SHARE or not sight.hidden_by:
            continue
        by = sorted(sight.hidden_by, key=lambda key: -sight.hidden_by[key])
        name = scene.names[piece.id]
        lost = share > LOST_SHARE
        words = _list([f"the {scene.names[key]}" for key in by[:3]])
        text = f"{words[0].upper()}{words[1:]} {'cover' if len(by) > 1 else 'covers'} {share:.0%} of it"
        text += (
            "; there is hardly a line left to stamp."
            if lost
            else f"; more than {COVERED_SHARE:.0%} is much for a figure."
        )
        hidden = shapely.intersection(scene.areas[piece.id], shapely.union_all([scene.areas[key] for key in by]))
        findings.append(
            Finding(
                code="covered",
                weight=Weight.TROUBLE if lost else Weight.CAUTION,
                title=f"{name.capitalize()} is {share:.0%} covered",
                text=text,
                measure=share,
                unit="share",
                pieces=(piece.id, *by),
                places=to_rings(hidden),
                remedy=_uncover(scene, piece, by[0]),
            )
        )
    return findings


def _uncover(scene: _Scene, piece: Impression, cover: str) -> Remedy | None:
    """Find the shortest straight move of the main cover that lets enough of the piece be seen."""
    front = scene.card.find(cover)
    unit = scene.card.unit
    best: tuple[float, Remedy] | None = None
    for word, way in (("left", (-1, 0)), ("right", (1, 0)), ("up", (0, -1)), ("down", (0, 1))):
        for step in range(1, 13):
            distance = step * 25.4 / 16 if unit.value == "in" else step * 1.5
            if best and distance >= best[0]:
                break
            moved = scene.move(front, (way[0] * distance, way[1] * distance))
            if _settles_cover(scene, piece, moved):
                words = f"Move the {scene.names[cover]} {say_length(distance, unit)} {word}"
                best = (distance, Remedy(words, (moved,)))
                break
    return best[1] if best else None


def _settles_cover(scene: _Scene, piece: Impression, moved: Impression) -> bool:
    sights = _sights_if_it_fits(scene, moved)
    return sights is not None and sights[piece.id].hidden_share <= COVERED_SHARE


def _sights_if_it_fits(scene: _Scene, moved: Impression) -> dict[str, Sight] | None:
    """See the card with a piece moved; None when the move brings a new kiss, overhang or cover."""
    area = footprint(moved, scene.work.stash.find(moved.stamp))
    if area.difference(scene.paper).area > max(OVERLAP_MM2, scene.sights[moved.id].off_panel_mm2):
        return None
    if scene.brings_kiss(moved.id, area):
        return None
    sights = {sight.id: sight for sight in see(Work(place_pieces(scene.card, (moved,)), scene.work.stash))}
    worse = any(sights[key].hidden_share > max(COVERED_SHARE, scene.sights[key].hidden_share) for key in sights)
    return None if worse else sights


def _judge_near(scene: _Scene) -> list[Finding]:
    pieces = scene.card.pieces
    areas = [scene.areas[piece.id] for piece in pieces]
    findings = []
    for i, j, gap in find_near(areas, NEAR_MM):
        if gap >= NEAR_MM or areas[i].intersection(areas[j]).area > OVERLAP_MM2:
            continue
        back, front = pieces[i], pieces[j]
        line = shapely.shortest_line(areas[i], areas[j])
        place = to_rings(shapely.buffer(line, 1.5, quad_segs=4))
        first, second = scene.names[back.id], scene.names[front.id]
        findings.append(
            Finding(
                code="near",
                weight=Weight.CAUTION,
                title=f"{first.capitalize()} just misses the {second}",
                text=f"Gap {gap:.1f} mm. Let them overlap plainly or keep {NEAR_MM} mm and more between them, "
                "so that their edges do not kiss.",
                measure=gap,
                unit="mm",
                pieces=(back.id, front.id),
                places=place,
                remedy=_part(scene, back, front),
            )
        )
    return sorted(findings, key=lambda one: one.measure)[:MOST_NEAR]


def _part(scene: _Scene, back: Impression, front: Impression) -> Remedy | None:
    """Move one of two kissing pieces apart or together along the shortest line between them."""
    line = shapely.shortest_line(scene.areas[front.id], scene.areas[back.id])
    (x0, y0), (x1, y1) = line.coords[0], line.coords[-1]
    length = math.hypot(x1 - x0, y1 - y0)
    if length < 1e-6:
        (x0, y0), (x1, y1) = (front.x, front.y), (back.x, back.y)
        length = math.hypot(x1 - x0, y1 - y0) or 1.0
    toward = ((x1 - x0) / length, (y1 - y0) / length)
    gap = scene.areas[front.id].distance(scene.areas[back.id])
    for mover, sign in ((front, 1.0), (back, -1.0)):
        for word, distance in (("Overlap by", gap + OVERLAP_BY_MM), ("Leave", gap - 3.0)):
            moved = scene.move(mover, (sign * toward[0] * distance, sign * toward[1] * distance))
            if _sights_if_it_fits(scene, moved) is not None:
                measure = say_length(OVERLAP_BY_MM if word == "Overlap by" else 3.0, scene.card.unit)
                words = f"{word} {measure}" if word == "Overlap by" else f"{word} {measure} between"
                return Remedy(words, (moved,))
    return None


def _judge_edges(scene: _Scene) -> list[Finding]:
    findings = []
    for piece in scene.card.pieces:
        sight = scene.sights[piece.id]
        if sight.off_panel_mm2 <= OVERLAP_MM2:
            continue
        name = scene.names[piece.id]
        outside = scene.areas[piece.id].difference(scene.paper)
        if sight.visible_mm2 <= OVERLAP_MM2 and sight.off_panel_mm2 >= sight.area_mm2 - OVERLAP_MM2:
            findings.append(
                Finding(
                    code="off-panel",
                    weight=Weight.TROUBLE,
                    title=f"{name.capitalize()} is off the panel",
                    text="Nothing of it lands on the card. Move it in, or delete it.",
                    measure=1.0,
                    unit="share",
                    pieces=(piece.id,),
                    places=to_rings(outside),
                    remedy=_bring_in(scene, piece),
                )
            )
            continue
        reach = _reach_over(scene.areas[piece.id], scene.card)
        findings.append(
            Finding(
                code="overhang",
                weight=Weight.NOTE,
                title=f"{name.capitalize()} runs off the edge",
                text=f"{sight.off_panel_mm2 / sight.area_mm2:.0%} of it, up to {say_length(reach, scene.card.unit)}, "
                "falls beyond the edge: lay scrap paper beneath to catch the ink, or move it in.",
                measure=reach,
                unit="mm",
                pieces=(piece.id,),
                places=to_rings(outside),
                remedy=_bring_in(scene, piece),
            )
        )
    return findings


def _reach_over(area: Area, card: Card) -> float:
    left, top, right, bottom = area.bounds
    width, height = card.panel
    return max(-left, -top, right - width, bottom - height)


def _bring_in(scene: _Scene, piece: Impression) -> Remedy | None:
    left, top, right, bottom = scene.areas[piece.id].bounds
    width, height = scene.card.panel
    if right - left > width or bottom - top > height:
        return None
    moved = scene.move(piece, (max(0, -left) - max(0, right - width), max(0, -top) - max(0, bottom - height)))
    fits = _sights_if_it_fits(scene, moved) is not None
    return Remedy("Move it in to the edge", (moved,)) if fits else None


def place_pieces(card: Card, pieces: Sequence[Impression]) -> Card:
    """Put pieces in the place of those with their ids, each at its own height in the order."""
    changed = {piece.id: piece for piece in pieces}
    return msgspec.structs.replace(card, pieces=tuple(changed.get(piece.id, piece) for piece in card.pieces))


def _list(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


__all__ = ["Sight", "judge", "place_pieces"]
