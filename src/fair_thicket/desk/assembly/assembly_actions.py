"""What the menu asks about how a card is put together: foam and glue, the maker's own pace."""

from PySide6.QtWidgets import QWidget

from fair_thicket import edits
from fair_thicket.assembly.pace import list_pace, use_pace
from fair_thicket.desk.assembly.rules_form import fields_of, rules_of
from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.parts.form import Field, Values, ask
from fair_thicket.desk.session.session import Session


class AssemblyActions:
    """The records about the assembly.

    Attributes
    ----------
    records : list of Record
    """

    def __init__(self, station: QWidget, session: Session) -> None:
        self._station, self._session = station, session
        self.records = [
            Record("assembly-rules", "Card", "Foam, glue and drying …", "", self.ask_rules),
            Record("pace", "Card", "Your own pace …", "", self.ask_pace, lambda: bool(list_pace(session.work))),
        ]

    def ask_rules(self) -> None:
        """Ask for tapes, distances and drying."""
        rules, unit = self._session.work.card.assembly, self._session.work.card.unit
        values = ask(self._station.window(), "Foam, glue and drying", fields_of(rules, unit), unit=unit, done="Glue so")
        if values is not None:
            self._session.edit(
                "say how it is glued", lambda work: edits.set_card(work, assembly=rules_of(values, work.card.assembly))
            )

    def ask_pace(self) -> None:
        """Show what steps really took, and reckon with it when the maker says so."""
        told = ". ".join(one.words[:1].upper() + one.words[1:] for one in list_pace(self._session.work))
        fields = [Field("use", "From now on", "choice", 0, ("reckon with it", "go on as planned"))]

        def tell(values: Values) -> str:
            del values
            return f"{told}."

        unit = self._session.work.card.unit
        values = ask(self._station.window(), "Your own pace", fields, unit=unit, tell=tell, done="Take this")
        if values is not None and values.whole("use") == 0:
            self._session.edit("reckon with your own pace", use_pace)
