"""The boxes that ask or tell the player something."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QMessageBox, QWidget

from dromic import __version__
from dromic.app.error_text import error_words
from dromic.errors import DromicError
from dromic.planner.kernel import COMPILED


def tell(parent: QWidget, title: str, error: DromicError) -> None:
    """Say what went wrong with the player's input.

    Parameters
    ----------
    parent : QWidget
    title : str
    error : DromicError
    """
    box = QMessageBox(QMessageBox.Icon.Warning, title, error_words(error), parent=parent)
    box.setInformativeText("What you had open is still here.")
    box.open()


def tell_remarks(parent: QWidget, name: str, remarks: tuple[str, ...]) -> None:
    """Say what a kind of file could not hold.

    Parameters
    ----------
    parent : QWidget
    name : str
    remarks : tuple of str
    """
    box = QMessageBox(QMessageBox.Icon.Information, "Saved", f"Saved as {name}, but not all of it.", parent=parent)
    box.setInformativeText("\n".join(f"• {remark[:1].upper()}{remark[1:]}." for remark in remarks))
    box.open()


def tell_defect(parent: QWidget, what: str, log: Path) -> None:
    """Say that the program has failed somewhere, and that nothing is lost.

    Parameters
    ----------
    parent : QWidget
    what : str
    log : Path
    """
    box = QMessageBox(QMessageBox.Icon.Warning, "A defect in Dromic", f"Something failed: {what}.", parent=parent)
    box.setInformativeText(
        f"Your riff is still here; save it now. What happened is written down in {log}. Further failures "
        "are only written down there."
    )
    box.open()


def ask_to_save(parent: QWidget) -> QMessageBox.StandardButton:
    """Ask what is to become of the changes."""
    return QMessageBox.question(
        parent,
        "Dromic",
        "This riff has changes that are not saved. Save them?",
        QMessageBox.StandardButton.Save | QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel,
        QMessageBox.StandardButton.Save,
    )


PLAIN_KERNEL = (
    "<p>There was no C compiler when this was installed, so plans are worked out in NumPy: the same plans, more "
    "slowly. Install a compiler and set Dromic up again.</p>"
)


def about(parent: QWidget) -> None:
    """Say what this is, and how far to trust it."""
    words = (
        f"<p><b>Dromic {__version__}</b></p>"
        "<p>Plans pick strokes together with fret positions and fingers, on a model of both hands, and says "
        "why. The model's speeds are chosen, not measured on you: take its tempo ceilings as a comparison "
        "between plans, not as a promise.</p>"
        f"{'' if COMPILED else PLAIN_KERNEL}"
        "<p>Stop at pain. Numbness or tingling: see a doctor or a hand therapist.</p>"
        "<p>GPL-3.0-or-later. Type: Cabin and Inconsolata (SIL Open Font License).</p>"
    )
    QMessageBox(QMessageBox.Icon.NoIcon, "About Dromic", words, parent=parent).open()
