"""Asks where a file is to be written; its ending is settled before the question about overwriting."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from draxet.files import plain_words

__all__ = ["ask_where"]


def ask_where(parent: QWidget, title: str, suggested: Path, ending: str, what: str) -> Path | None:
    """A path with one of the endings, or None where that is given up.

    Parameters
    ----------
    ending : without a point; added where none is typed. what : the kind of file, in words.
    """
    name, _ = QFileDialog.getSaveFileName(parent, title, str(suggested.with_name(plain_words(suggested.name).replace("/", "-"))), f"{what} (*.{ending})")
    if not name:
        return None
    path = Path(name)
    if path.suffix.lower() == f".{ending}":
        return path
    path = path.with_name(f"{path.name}.{ending}")
    return path if not path.exists() or _may_replace(parent, path) else None


def _may_replace(parent: QWidget, path: Path) -> bool:
    box = QMessageBox(parent)
    box.setWindowTitle("Replace it?")
    box.setText(f"{path.name} is there already.")
    yes = box.addButton("Replace it", QMessageBox.ButtonRole.AcceptRole)
    box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    return box.clickedButton() is yes
