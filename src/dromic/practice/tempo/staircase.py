"""The plain rule that many players climb by: so many clean in a row is a step up, one that is not is a step down.

Three clean in a row settle where 79.4 % are clean, the cube root of a half (Levitt 1971, Transformed up-down
methods in psychoacoustics, Journal of the Acoustical Society of America 49, 467-477, table I).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

IN_A_ROW = 3
STEP = 0.04


@dataclass(frozen=True)
class Staircase:
    """Where the plain rule stands.

    Parameters
    ----------
    tempo : float
        Quarter notes a minute.
    in_a_row : int
        How many clean ones make a step up.
    step : float
        How large a step is, as a share of the tempo.
    clean : int
        Clean ones since the last step.

    Examples
    --------
    >>> stairs = Staircase(100.0)
    >>> for clean in (True, True, True, False):
    ...     stairs = stairs.after(clean=clean)
    >>> round(stairs.tempo, 6), Staircase(100.0).converges_at
    (100.0, 0.7937005259840998)
    """

    tempo: float
    in_a_row: int = IN_A_ROW
    step: float = STEP
    clean: int = 0

    @property
    def converges_at(self) -> float:
        """The share of clean repetitions that it settles at: as likely up as down."""
        return float(0.5 ** (1.0 / self.in_a_row))

    def after(self, *, clean: bool) -> Staircase:
        """Where it stands after one more repetition."""
        if not clean:
            return replace(self, tempo=self.tempo / (1.0 + self.step), clean=0)
        if self.clean + 1 < self.in_a_row:
            return replace(self, clean=self.clean + 1)
        return replace(self, tempo=self.tempo * (1.0 + self.step), clean=0)
