"""What a log says of movements: the answers that count for a drill, and when they were given."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from datetime import UTC, datetime

from dromic.practice.log.logbook import Clean, Logbook, Rep
from dromic.practice.movement import movement_and_gap
from dromic.practice.tempo.climb import Answer

MOST_REPS, MOST_ANSWERS = 5_000, 200
DAY_S = 86_400.0


class History:
    """Repetitions of a log, by the movements in them.

    Parameters
    ----------
    reps : iterable of Rep
        In the order in which they were written.
    now : datetime or None
        None for the present.
    """

    def __init__(self, reps: Iterable[Rep] = (), now: datetime | None = None) -> None:
        self.now = now or datetime.now(UTC)
        self.reps = tuple(rep for rep in reps if rep.clean is not Clean.UNMARKED)
        self._by_movement: dict[tuple[str, int], list[tuple[Rep, float]]] = defaultdict(list)
        for rep in self.reps:
            for key in rep.movement_keys:
                movement, gap = movement_and_gap(key)
                self._by_movement[movement, rep.density].append((rep, gap))

    def days_ago(self, rep: Rep) -> float:
        """How long ago it was; never less than nothing, for clocks are set back."""
        return max((self.now - rep.when).total_seconds() / DAY_S, 0.0)

    def answers(self, key: str, movements: int = 1, density: int = 1) -> tuple[Answer, ...]:
        """What was answered where a movement was played.

        Parameters
        ----------
        key : str
            The drill's hardest movement.
        movements : int
            How many movements the drill has. That a much longer passage was not clean does not say which of its
            movements failed; that it was clean says that all were.
        density : int
        """
        most = 2 * movements + 2
        movement, gap = movement_and_gap(key)
        found = [
            one
            for one in self._by_movement.get((movement, density), ())
            if one[0].clean is Clean.CLEAN or len(one[0].movement_keys) <= most
        ]
        return tuple(
            # Where the notes are shorter, the same movement is as fast at a lower tempo.
            Answer(
                rep.tempo * (gap / other if gap and other else 1.0), rep.clean is Clean.CLEAN, self.days_ago(rep)
            )
            for rep, other in found[-MOST_ANSWERS:]
        )


def history_of(log: Logbook, now: datetime | None = None) -> History:
    """The last repetitions of a log.

    Raises
    ------
    RiffError
        When it cannot be read.
    """
    return History(log.reps(last=MOST_REPS), now)
