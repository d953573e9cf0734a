"""A tempo that grows smoothly, and its clicks: from v0 to v1 quarter notes a minute in T seconds, evenly in time.

At t seconds ``b(t) = (v0 t + (v1 - v0) t^2 / 2T) / 60`` beats are over; turned round in closed form, that says
when each beat falls.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import floor, sqrt

from dromic.errors import RiffError

SLOWEST, FASTEST, LONGEST_S = 10.0, 500.0, 1_800.0


@dataclass(frozen=True)
class Ramp:
    """A tempo that grows, or falls, or stays.

    Parameters
    ----------
    start, end : float
        Quarter notes a minute.
    seconds : float
    """

    start: float
    end: float
    seconds: float

    def __post_init__(self) -> None:
        for tempo in (self.start, self.end):
            if not SLOWEST <= tempo <= FASTEST:
                raise RiffError(f"found a ramp to {tempo:g}, expected tempi from {SLOWEST:g} to {FASTEST:g}")
        if not 0.0 < self.seconds <= LONGEST_S:
            raise RiffError(f"found a ramp of {self.seconds:g} s, expected at most {LONGEST_S:g}")

    def tempo(self, seconds: float) -> float:
        """The tempo at a time."""
        return self.start + (self.end - self.start) * seconds / self.seconds

    def beats(self, seconds: float) -> float:
        """How many beats are over at a time.

        Examples
        --------
        >>> Ramp(60.0, 120.0, 60.0).beats(60.0)
        90.0
        """
        return (self.start * seconds + (self.end - self.start) * seconds**2 / (2 * self.seconds)) / 60.0

    def when(self, beat: float) -> float:
        """When a beat falls, in seconds.

        Examples
        --------
        >>> Ramp(120.0, 120.0, 10.0).when(4.0), round(Ramp(60.0, 120.0, 60.0).when(90.0), 9)
        (2.0, 60.0)
        """
        if self.start == self.end:
            return 60.0 * beat / self.start
        grows = (self.end - self.start) / self.seconds
        # The root in this form loses nothing where the tempo hardly changes.
        return 120.0 * beat / (self.start + sqrt(max(self.start**2 + 120.0 * grows * beat, 0.0)))

    def clicks(self) -> tuple[float, ...]:
        """When every whole beat falls, from the first."""
        return tuple(self.when(beat) for beat in range(floor(self.beats(self.seconds) + 1e-9) + 1))
