"""The sheets of the card as they were laid out last: what the maker sees of them is what is printed."""

from fair_thicket.model.card import Work
from fair_thicket.sheets import SheetsPlan


class LaidSheets:
    """Keeps a plan of sheets with the card that it is of."""

    def __init__(self) -> None:
        self._of: Work | None = None
        self._plan: SheetsPlan | None = None

    def keep(self, whole: Work, plan: SheetsPlan) -> None:
        """Keep the plan of a card, as files hold it, instead of the one before."""
        self._of, self._plan = whole, plan

    def plan_of(self, whole: Work) -> SheetsPlan | None:
        """Return the plan that is kept of this very card; None when it is another by now."""
        return self._plan if whole is self._of or whole == self._of else None
