"""Asks where a file is to be written; nothing that is there is written over without a word."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget


def ask_save_place(parent: QWidget, title: str, *, start: Path, kinds: str, suffix: str) -> Path | None:
    """Ask for a file to write; None when the maker wants none after all.

    Parameters
    ----------
    start : Path
        What is proposed.
    kinds : str
        Qt's filter, such as ``PDF (*.pdf)``.
    suffix : str
        The name's ending; added where it is missing, and then asked about again where such a file is there.
    """
    folder = start.parent if start.parent.is_dir() else Path.home()
    proposed = folder / start.name
    while True:
        chosen, _ = QFileDialog.getSaveFileName(parent, title, str(proposed), kinds)
        if not chosen:
            return None
        asked = Path(chosen)  # Qt has asked about this very name already
        path = asked if asked.suffix.lower() == suffix else asked.with_name(asked.name + suffix)
        if path == asked or not path.exists() or may_replace(parent, path):
            return path
        proposed = path


def may_replace(parent: QWidget, path: Path) -> bool:
    """Ask whether a file that is there may be written over."""
    return ask_yes(parent, f"{path.name} is there already.", "Put the new file in its place?", "Replace it")


def ask_yes(parent: QWidget, words: str, question: str, yes: str) -> bool:
    """Ask a question whose safe answer is no."""
    return ask_which(parent, words, question, (yes,)) == yes


def ask_which(parent: QWidget, words: str, question: str, answers: tuple[str, ...]) -> str:
    """Ask a question with named answers beside Cancel; empty for Cancel, which is the default."""
    box = QMessageBox(parent)
    box.setIcon(QMessageBox.Icon.NoIcon)
    box.setText(words)
    box.setInformativeText(question)
    made: dict[object, str] = {}
    for answer in answers:
        made[box.addButton(answer, QMessageBox.ButtonRole.AcceptRole)] = answer
    cancel = box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(cancel)
    box.setEscapeButton(cancel)
    box.exec()
    return made.get(box.clickedButton(), "")
