"""Limits that a player asks for: a region of the neck, a span, strings, no open strings, one finger a fret."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dromic.arrays import Bools
from dromic.errors import RiffError
from dromic.hands.grips import Grips

HIGHEST_FRET = 36


@dataclass(frozen=True)
class Limits:
    """What grips may be used; as it stands, all of them.

    Parameters
    ----------
    low, high : int
        Frets between which every fretted note lies, both included.
    span : int or None
        How many frets the hand may cover in a position, the first finger's the first of them.
    open_strings : bool
        Whether open strings may sound.
    strings : frozenset of int or None
        Strings that may sound; None for all.
    finger_per_fret : bool
        Whether each finger keeps to its own fret of the position.

    Raises
    ------
    RiffError
        For limits that leave nothing on any instrument.
    """

    low: int = 0
    high: int = HIGHEST_FRET
    span: int | None = None
    open_strings: bool = True
    strings: frozenset[int] | None = None
    finger_per_fret: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.low <= self.high:
            raise RiffError(
                f"between: found frets {self.low} to {self.high}, expected a lower fret and a higher one, "
                "for example 5 and 9"
            )
        if self.span is not None and not 1 <= self.span <= 12:
            raise RiffError(f"span: found {self.span}, expected 1 to 12 frets, for example 4")
        if self.strings is not None and not self.strings:
            raise RiffError("on: found no strings, expected some, for example 1,2 or 2-4")

    def __bool__(self) -> bool:
        return self != ANY

    def allow(self, grips: Grips) -> Bools:
        """Whether each grip keeps within the limits, shape (grips,)."""
        return np.array([self._allows(grip.sounding, grip.position) for grip in grips.rows], dtype=np.bool_)

    def _allows(self, notes: tuple[tuple[int, int, int], ...], position: int) -> bool:
        for string, fret, finger in notes:
            if self.strings is not None and string not in self.strings:
                return False
            if not fret:
                if not self.open_strings:
                    return False
                continue
            if not self.low <= fret <= self.high:
                return False
            if self.span is not None and not 0 <= fret - position < self.span:
                return False
            if self.finger_per_fret and fret - position != finger - 1:
                return False
        return True

    @property
    def words(self) -> str:
        """The limits as a player would ask for them."""
        parts = []
        if self.low or self.high != HIGHEST_FRET:
            parts.append(f"between frets {self.low} and {self.high}")
        if self.span is not None:
            parts.append(f"within {self.span} frets of each position")
        if self.strings is not None:
            parts.append(f"on {strings_words(self.strings)}")
        if not self.open_strings:
            parts.append("with no open strings")
        if self.finger_per_fret:
            parts.append("with one finger a fret")
        return ", ".join(parts)

    def wider(self, strings: int) -> tuple[Limits, ...]:
        """Limits with one of them a little or a lot wider, the nearest first.

        Parameters
        ----------
        strings : int
            How many strings the instrument has.
        """
        found = []
        for more in range(1, 13):
            if self.low or self.high != HIGHEST_FRET:
                found += [replace(self, low=max(self.low - more, 0)), replace(self, high=self.high + more)]
            if self.span is not None and self.span + more <= 12:
                found.append(replace(self, span=self.span + more))
            if more == 1:
                found += self._let_go(strings)
        free = [replace(self, low=0, high=HIGHEST_FRET), replace(self, span=None), *self._let_go(strings)]
        return tuple(dict.fromkeys([*found, *free]))

    def _let_go(self, strings: int) -> list[Limits]:
        let_go = []
        if not self.open_strings:
            let_go.append(replace(self, open_strings=True))
        if self.finger_per_fret:
            let_go.append(replace(self, finger_per_fret=False))
        if self.strings is not None:
            near = {string + way for string in self.strings for way in (-1, 0, 1)}
            let_go.append(replace(self, strings=frozenset(near & set(range(1, strings + 1)))))
            let_go.append(replace(self, strings=None))
        return let_go


ANY = Limits()


def strings_words(strings: frozenset[int]) -> str:
    """Strings in words.

    Examples
    --------
    >>> strings_words(frozenset((4, 3, 2))), strings_words(frozenset((1, 3))), strings_words(frozenset((2,)))
    ('strings 2 to 4', 'strings 1 and 3', 'string 2')
    """
    some = sorted(strings)
    if len(some) == 1:
        return f"string {some[0]}"
    if len(some) > 2 and some == list(range(some[0], some[-1] + 1)):
        return f"strings {some[0]} to {some[-1]}"
    return f"strings {', '.join(str(one) for one in some[:-1])} and {some[-1]}"
