"""Looks that the style sheet tells apart by a property of a widget."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget


def set_look(widget: QWidget, name: str, *, on: bool) -> None:
    """Turn a look on or off.

    Parameters
    ----------
    widget : QWidget
    name : str
        The property that the style sheet asks for.
    on : bool

    Notes
    -----
    A style sheet takes a millisecond to look at a widget again, so that nothing is done where nothing changes.
    """
    wanted = "true" if on else "false"
    if widget.property(name) == wanted:
        return
    widget.setProperty(name, wanted)
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)
