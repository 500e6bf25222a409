"""What to stamp, cut and trim from which paper, in the fewest sheets, passes and cuts."""

from fair_thicket.sheets.judging import judge
from fair_thicket.sheets.planning import SheetsPlan, plan_sheets
from fair_thicket.sheets.things import Thing, list_masks, list_things

__all__ = ["SheetsPlan", "Thing", "judge", "list_masks", "list_things", "plan_sheets"]
