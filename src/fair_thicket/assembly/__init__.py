"""How a card is put together: heights, foam, glue, order, post."""

from fair_thicket.assembly.judging import judge
from fair_thicket.assembly.planning import Assembly, plan_assembly
from fair_thicket.laid.heights import Heights, Rest, find_heights

__all__ = ["Assembly", "Heights", "Rest", "find_heights", "judge", "plan_assembly"]
