"""The two ways in which a request can fail, kept apart.

`RiffError` means the input is wrong (a file, a line of riff text, an instrument, an option). `NoPlanError`
means the input is understood, but no plan exists for it: a note that no string reaches, or locks that
contradict each other or the school.

Both carry one sentence for a player: what is wrong, where, and what to do about it.
"""

from __future__ import annotations


class DromicError(Exception):
    """Any failure that is explained to the player in one line."""


class RiffError(DromicError):
    """Bad input, with its place when there is one.

    Parameters
    ----------
    message : str
        What was found, what was expected, and an example.
    line, column : int or None
        Place in the text, both counted from 1.
    file : str or None
        Name of the file as the player gave it.
    """

    def __init__(
        self, message: str, *, line: int | None = None, column: int | None = None, file: str | None = None
    ) -> None:
        super().__init__(message)
        self.message = message
        self.line = line
        self.column = column
        self.file = file

    def in_file(self, file: str) -> RiffError:
        """Return the same error, naming the file."""
        return RiffError(self.message, line=self.line, column=self.column, file=file)

    def __str__(self) -> str:
        """``file:line:column: message``, as far as the parts are known.

        Examples
        --------
        >>> print(RiffError("no bar", line=3, column=7).in_file("a.riff"))
        a.riff:3:7: no bar
        >>> print(RiffError("no bar", line=3, column=7))
        3:7: no bar
        """
        parts = [self.file, self.line, self.column]
        place = ":".join(str(part) for part in parts if part is not None)
        return f"{place}: {self.message}" if place else self.message


class NoPlanError(DromicError):
    """No playable plan: the message names the note and the locks or limits that clash.

    Parameters
    ----------
    message : str
        One sentence for the player.
    event_index : int or None
        Index of the event_index event (counted from 0 in reading order) at which the clash shows.
    """

    def __init__(self, message: str, *, event_index: int | None = None) -> None:
        super().__init__(message)
        self.message = message
        self.event_index = event_index
