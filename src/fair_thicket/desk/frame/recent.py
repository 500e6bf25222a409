"""The cards that were opened or saved last, newest first; kept for later sessions."""

from pathlib import Path

from PySide6.QtCore import QSettings

KEY = "cards/recent"
MOST = 8


def recent_cards() -> list[Path]:
    """List the cards that were open last and are still there."""
    return [path for path in _kept() if path.is_file()]


def are_any_kept() -> bool:
    """Whether any card was open before; none is looked for, so that no far folder keeps anyone waiting."""
    return bool(_kept())


def _kept() -> list[Path]:
    kept = QSettings().value(KEY)
    names = [kept] if isinstance(kept, str) else kept if isinstance(kept, list) else []  # one is kept as bare text
    return [Path(str(name)) for name in names]


def remember_card(path: Path) -> None:
    """Put a card first among those that were open last."""
    here = path.absolute()
    others = [one for one in _kept() if one != here]
    QSettings().setValue(KEY, [str(one) for one in (here, *others)][:MOST])
