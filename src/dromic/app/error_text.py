"""Errors in the words of the window."""

from __future__ import annotations

from dromic.console import harmless
from dromic.errors import DromicError, RiffError

LONGEST = 300


def error_words(error: DromicError) -> str:
    """Say where an error is, and what it is.

    Examples
    --------
    >>> error_words(RiffError("no such mark", line=3, column=7))
    'Line 3, column 7: no such mark.'
    >>> error_words(RiffError("this is a folder", file="riffs"))
    'riffs: this is a folder.'
    """
    place = ""
    message = str(error)
    if isinstance(error, RiffError):
        message = error.message
        place = error.file or ""
        if error.line is not None:
            place += ", line " if place else "Line "
            place += str(error.line)
            place += f", column {error.column}" if error.column is not None else ""
    else:
        message = message[:1].upper() + message[1:]
    words = harmless((f"{place}: " if place else "") + message.rstrip(".") + ".")
    return words if len(words) <= LONGEST else f"{words[:LONGEST]}…"
