"""Climbing a drill on two ladders: tempo, and how many string changes there are in a bar.

The tempo comes from what was clean (see `dromic.practice.tempo.climb`), or by the plain rule of three clean in a
row. Three failures in a row do not only slow the click: the strings change less often, and where they change as
little as they can, a smaller piece is asked for. Three clean in a row lead back. Every fourth repetition is a
burst: one beat at the tempo that is wanted in the end. All of it is common practice, no source.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from dromic.practice.passages.density import denser, sparser
from dromic.practice.tempo.climb import FAILURES, FASTEST, SLOWEST, Climb
from dromic.practice.tempo.staircase import IN_A_ROW, Staircase

BURST_EVERY = 4
BURST_BELOW = 0.95


class Rule(StrEnum):
    """How the next tempo is found."""

    RECORD = "record"
    THREE_CLEAN = "three-clean"


RULE_WORDS = {
    Rule.RECORD: "by what was clean",
    Rule.THREE_CLEAN: "3 clean up, 1 not down",
}


@dataclass(frozen=True)
class Rung:
    """What to play next.

    Parameters
    ----------
    tempo : float
        Quarter notes a minute.
    density : int
    burst : bool
        Whether it is one beat only, at the tempo that is wanted in the end.
    """

    tempo: float
    density: int = 1
    burst: bool = False


@dataclass(frozen=True)
class DrillClimb:
    """How far a player has come with a drill.

    Parameters
    ----------
    goal : float
        The tempo that is wanted in the end, quarter notes a minute.
    climbs : mapping of int to Climb
        What is known at each density that the drill can be played at; 1 is always there.
    density : int
    rule : Rule
    bursts : bool
        Whether bursts come between.
    stairs : Staircase or None
        Where the plain rule stands; None until it is asked for.
    count, failures, cleans : int
        Repetitions so far; of these how many in a row failed, or were clean, since the density changed.
    wants_smaller : bool
        Whether a smaller piece is what comes next.

    Examples
    --------
    >>> drill = DrillClimb(120.0, {1: Climb(120.0), 2: Climb(150.0)}, bursts=False)
    >>> for _ in range(3):
    ...     drill = drill.after(drill.next_rung(), clean=False)
    >>> drill.density
    2
    """

    goal: float
    climbs: Mapping[int, Climb]
    density: int = 1
    rule: Rule = Rule.RECORD
    bursts: bool = True
    stairs: Staircase | None = None
    count: int = 0
    failures: int = 0
    cleans: int = 0
    wants_smaller: bool = field(default=False)

    @property
    def climb(self) -> Climb:
        """What is known at the present density."""
        return self.climbs[self.density]

    def next_rung(self) -> Rung:
        """What to play next."""
        tempo = self._tempo()
        due = self.bursts and self.density == 1 and self.count % BURST_EVERY == BURST_EVERY - 1
        if due and tempo < BURST_BELOW * self.goal:
            return Rung(self.goal, 1, burst=True)
        return Rung(tempo, self.density)

    def _tempo(self) -> float:
        if self.rule is Rule.THREE_CLEAN:
            stairs = self.stairs or Staircase(self.climb.next_tempo())
            return min(max(stairs.tempo, SLOWEST), FASTEST)
        return self.climb.next_tempo()

    def after(self, rung: Rung, *, clean: bool) -> DrillClimb:
        """Where it stands after a repetition; a burst only counts as one, whatever became of it."""
        if rung.burst:
            return replace(self, count=self.count + 1)
        climbs = {**self.climbs, self.density: self.climb.after(rung.tempo, clean=clean)}
        stairs = (
            (self.stairs or Staircase(rung.tempo)).after(clean=clean) if self.rule is Rule.THREE_CLEAN else None
        )
        failures, cleans = (0, self.cleans + 1) if clean else (self.failures + 1, 0)
        made = replace(self, climbs=climbs, stairs=stairs, count=self.count + 1, failures=failures, cleans=cleans)
        if failures >= FAILURES:
            return made._easier()
        if cleans >= IN_A_ROW and self.density != 1:
            return made._at(self._next(denser))
        return made

    def _next(self, way: Callable[[int], int | None]) -> int | None:
        """The next density that the drill can be played at."""
        step = way(self.density)
        while step is not None and step not in self.climbs:
            step = way(step)
        return step

    def _easier(self) -> DrillClimb:
        fewer = self._next(sparser)
        if fewer is None:
            return replace(self, failures=0, wants_smaller=True)
        return self._at(fewer)

    def _at(self, density: int | None) -> DrillClimb:
        if density is None:
            return self
        # The plain rule goes on from the tempo that it had, at the new density.
        return replace(self, density=density, failures=0, cleans=0)
