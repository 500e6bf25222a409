"""An outline mended near at hand: what the view and the tools ask becomes steps of the page."""

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QKeySequence, QShortcut

from fair_thicket.desk.stash.found_list import doubtful_first
from fair_thicket.desk.stash.outline_tools import OutlineTools
from fair_thicket.desk.stash.page_view import PageView
from fair_thicket.intake import sorting as sort
from fair_thicket.intake.sorting import Sorting
from fair_thicket.model.basics import Point

Change = Callable[[Sorting], Sorting]


class OutlineMending(QObject):
    """Leads from image to image, those first whose outlines are in doubt.

    Attributes
    ----------
    seen : Signal()
        Another image is near at hand, or the whole page is seen again.
    """

    seen = Signal()

    def __init__(
        self,
        page: PageView,
        tools: OutlineTools,
        sorting: Callable[[], Sorting | None],
        change: Callable[[str, Change, str], None],
    ) -> None:
        super().__init__(page)
        self._page, self._tools, self._sorting, self._change = page, tools, sorting, change
        page.areaPicked.connect(self._turn_area)
        page.gapDrawn.connect(self._join_gap)
        tools.likelyAsked.connect(self._loosen)
        tools.forgetAsked.connect(self._forget)
        tools.nextAsked.connect(self.see_next)
        tools.doneAsked.connect(self.see_page)
        for keys, call in (("N", self.see_next), ("Escape", self.see_page)):
            QShortcut(QKeySequence(keys), page, call, context=Qt.ShortcutContext.WidgetShortcut)

    def see_near(self) -> None:
        """See the chosen image near at hand, or the first whose outline is in doubt."""
        sorting = self._sorting()
        if sorting is not None and sorting.detected is not None and sorting.images:
            self.see(min(self._page.chosen) if self._page.chosen else doubtful_first(sorting.images)[0])

    def see_next(self) -> None:
        """See the next image near at hand, those in doubt first."""
        sorting, near = self._sorting(), self._page.near
        if sorting is not None and near is not None:
            order = doubtful_first(sorting.images)
            self.see(order[(order.index(near) + 1) % len(order)])

    def see_page(self) -> None:
        """See the whole page again."""
        if self._page.near is not None:
            self.see(None)

    def see(self, index: int | None) -> None:
        """See one image near at hand, by its place in the list, or the whole page."""
        self._page.look_near(index)
        self._page.choose(() if index is None else {index})
        self._page.setFocus()
        self.seen.emit()

    def show_shaping(self) -> None:
        """Show how tight the outline runs that is near at hand."""
        sorting, near = self._sorting(), self._page.near
        if sorting is not None and near is not None:
            self._tools.show_likely(sort.shaping_of(sorting, near).likely)

    def _loosen(self, likely: float) -> None:
        sorting, near = self._sorting(), self._page.near
        if sorting is None or near is None:
            return
        chosen = range(len(sorting.images)) if self._tools.whole_page else (near,)
        key = f"loosen {'all' if self._tools.whole_page else near}"
        self._change("run the outline tighter or looser", lambda one: sort.loosen(one, chosen, likely), key)

    def _forget(self) -> None:
        near = self._page.near
        if near is not None:
            self._change("take the outline as found", lambda sorting: sort.as_found(sorting, {near}), "")

    def _turn_area(self, place: Point) -> None:
        near = self._page.near
        if near is not None:
            self._change("turn an area", lambda sorting: sort.turn_area(sorting, near, place), "")

    def _join_gap(self, line: tuple[Point, Point]) -> None:
        near = self._page.near
        if near is not None:
            self._change("close a gap", lambda sorting: sort.join_gap(sorting, near, line), "")
