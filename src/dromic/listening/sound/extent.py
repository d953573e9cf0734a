"""What is played of a plan, how fast, how often, and how loud each part of the sound is."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

from dromic.music.timeline import total_played
from dromic.planner.plan import Plan
from dromic.practice.tempo.ramp import Ramp


@dataclass(frozen=True)
class Mix:
    """How loud each part is: 0 silent, 1 as usual, 2 twice as loud.

    Parameters
    ----------
    voice, click, count_in, drone : float
        The instrument, the metronome, the bar counted before, a note that lies under it.
    """

    voice: float = 1.0
    click: float = 1.0
    count_in: float = 1.0
    drone: float = 0.0


@dataclass(frozen=True)
class Metronome:
    """What the metronome clicks.

    Parameters
    ----------
    subdivision : int
        Clicks a beat, from 1 to 6.
    accents : bool
        Whether the first beat of a bar is louder.
    swing : float
        Where the second of two clicks falls between its neighbours: a half is even, two thirds triplet swing. It
        holds for subdivisions of two and four.
    """

    subdivision: int = 1
    accents: bool = True
    swing: float = 0.5

    def shares(self) -> tuple[float, ...]:
        """Where the clicks of a beat fall, as shares of the beat.

        Examples
        --------
        >>> Metronome(3).shares()[1], Metronome(2, swing=0.625).shares(), Metronome(4, swing=0.6).shares()
        (0.3333333333333333, (0.0, 0.625), (0.0, 0.3, 0.5, 0.8))
        """
        if self.subdivision in (2, 4):
            pairs = self.subdivision // 2
            return tuple(round((pair + part) / pairs, 12) for pair in range(pairs) for part in (0.0, self.swing))
        return tuple(part / self.subdivision for part in range(self.subdivision))


@dataclass(frozen=True)
class Extent:
    """What is played, in quarter notes, and how.

    Parameters
    ----------
    start, end : float
    tempo : float
        Quarter notes a minute.
    click : bool
        Whether the metronome clicks.
    count_in : bool
        Whether a bar is counted before.
    short_count : bool
        Whether only half of that bar is.
    only : tuple of float or None
        Only notes that begin from the first to the second of these places sound; None for all.
    end_tempo : float or None
        Where the tempo is to have grown to at the end, evenly in time; None where it stays.
    rounds : int
        How often it is played, one round straight after the other.
    metronome : Metronome
    mix : Mix
    """

    start: float
    end: float
    tempo: float
    click: bool = False
    count_in: bool = False
    only: tuple[float, float] | None = None
    end_tempo: float | None = None
    rounds: int = 1
    metronome: Metronome = field(default_factory=Metronome)
    mix: Mix = field(default_factory=Mix)
    short_count: bool = False

    def sounds(self, onset: float) -> bool:
        """Whether a note that begins there is played."""
        low, high = self.only or (self.start, self.end - 2e-9)
        return low - 1e-9 <= onset <= high + 1e-9

    @property
    def quarters(self) -> float:
        """Quarter notes of all rounds together."""
        return (self.end - self.start) * self.rounds

    @cached_property
    def ramp(self) -> Ramp | None:
        """How the tempo grows; None where it stays."""
        if self.end_tempo is None:
            return None
        # Evenly in time, so that the mean tempo lies in the middle.
        return Ramp(self.tempo, self.end_tempo, 120.0 * self.quarters / (self.tempo + self.end_tempo))

    @property
    def seconds(self) -> float:
        """Length without the count-in."""
        return self.when(self.quarters)

    def when(self, quarters: float) -> float:
        """Seconds from the start, without the count-in, until so many quarter notes are over."""
        if self.ramp is not None and quarters > 0:
            return self.ramp.when(quarters)
        return quarters * 60.0 / self.tempo

    def place(self, seconds: float) -> float:
        """Where in the riff it is after so many seconds; before its start while it counts in."""
        if self.ramp is not None and seconds > 0:
            over = self.ramp.beats(min(seconds, self.ramp.seconds))
        else:
            over = seconds * self.tempo / 60.0
        return self.start + (over % (self.end - self.start) if over > 0 else over)

    def round_at(self, seconds: float) -> int:
        """How many rounds are over after so many seconds."""
        over = self.ramp.beats(min(seconds, self.ramp.seconds)) if self.ramp else seconds * self.tempo / 60.0
        return int((over + 1e-9) // (self.end - self.start))


def whole(plan: Plan, tempo: float | None = None) -> Extent:
    """The whole plan, at its tempo or another."""
    return Extent(0.0, float(total_played(plan.riff)), tempo or plan.tempo)
