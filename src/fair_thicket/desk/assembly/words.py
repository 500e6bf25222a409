"""What the station says of a step and of the back of a piece."""

from fair_thicket.assembly import Assembly
from fair_thicket.assembly.operation import Operation
from fair_thicket.assembly.side import Side

BECAUSES = 6
"""So many whys of a step are told, the nearest first."""


def say_becauses(made: Assembly, operation: Operation) -> list[str]:
    """Say what comes before an operation and why, the nearest first."""
    places = {one.operation.key: number for number, one in enumerate(made.schedule.steps, 1)}
    edges = sorted(operation.after, key=lambda edge: -places.get(edge.key, 0))
    told = []
    for edge in edges[:BECAUSES]:
        wait = f", and {edge.wait_min:g} min after it" if edge.wait_min else ""
        told.append(f"after {places.get(edge.key, 0)}{wait}: {edge.because}")
    if len(edges) > BECAUSES:
        told.append(f"and after {len(edges) - BECAUSES} more")
    return told or ["nothing has to come before it"]


def say_back(side: Side, key: str) -> str:
    """Say how much foam and what glue a piece takes."""
    strips = side.foam.of(key)
    told = []
    for thick in sorted({one.thick_mm for one in strips}):
        own = [one for one in strips if one.thick_mm == thick]
        told.append(f"foam {thick:g} mm high: {len(own)} strips, {sum(one.length_mm for one in own):.0f} mm in all")
    glue = next((one for one in side.glue.glues if one.piece == key), None)
    if glue is not None:
        width = f" {glue.tape_mm:g} mm wide" if glue.tape_mm else ""
        told.append(f"{glue.kind}{width}, {glue.area.area / 100:.1f} cm²")
    if strips:
        reach = side.work.card.assembly.foam_reach_mm
        told.append(f"no point is farther than {reach:g} mm from foam; none is seen")
    return "\n".join(told)
