"""At which tempo a player is clean, told from what was clean and what was not, and which tempo comes next.

The chance that a repetition at tempo v is clean is taken as logistic((ln theta - ln v) / s): theta is the tempo
at which it is one half, s how sharp the edge is. Both are unknown; what is known of them is kept on a grid,
begins wide round the model's ceiling, and is narrowed by every answer, so that the model advises and the
player's record decides. The next tempo is one where success is likely but not sure, a small step from the last;
after three failures in a row something else than the tempo has to change. What is older counts for less, half as
much after a fortnight. The chance, the steps, the failures and the fortnight are assumptions, to be looked at
beside what comes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from dromic.arrays import Floats

SLOWEST, FASTEST = 15.0, 500.0
THETAS = 200
EDGES = (0.04, 0.08, 0.16)
PRIOR_SD = float(np.log(1.5))
WANTED = 0.8
MOST_STEP_UP, LEAST_STEP_DOWN, MOST_STEP_DOWN = 0.06, 0.03, 0.12
FAILURES = 3
FIRST_SHARE = 0.6
HALF_LIFE_DAYS = 14.0
NEW_DAY, BACK = 0.5, 0.9


@dataclass(frozen=True)
class Answer:
    """One repetition: its tempo in quarter notes a minute, whether it was clean, and how many days ago it was."""

    tempo: float
    clean: bool
    days_ago: float = 0.0

    @property
    def weight(self) -> float:
        """How much it still says: hands change, so what is old says less."""
        return float(0.5 ** (max(self.days_ago, 0.0) / HALF_LIFE_DAYS))


@dataclass(frozen=True)
class Climb:
    """What is known of a player on one drill.

    Parameters
    ----------
    centre : float
        Where the tempo is thought to be before anything was played: the drill's ceiling, quarter notes a minute.
    answers : tuple of Answer
        In order; repetitions that were not marked are none.
    goal : float or None
        The tempo that is wanted in the end: what is found out first begins no faster than a part of it.

    Examples
    --------
    >>> climb = Climb(120.0).after(80, clean=True).after(84, clean=True)
    >>> 84 < climb.next_tempo() <= 84 * 1.06, climb.stuck
    (True, False)
    """

    centre: float
    answers: tuple[Answer, ...] = field(default=())
    goal: float | None = None

    def after(self, tempo: float, *, clean: bool) -> Climb:
        """The same climb with one more answer."""
        return replace(self, answers=(*self.answers, Answer(float(tempo), clean)))

    @cached_property
    def weights(self) -> Floats:
        """How likely each theta and each edge is, shape (thetas, edges); they add up to 1."""
        log = -0.5 * ((_LOGS[:, None] - np.log(self.centre)) / PRIOR_SD) ** 2 + np.zeros(len(EDGES))
        if self.answers:
            tempi = np.log([answer.tempo for answer in self.answers])
            clean = np.array([answer.clean for answer in self.answers])[:, None, None]
            counts = np.array([answer.weight for answer in self.answers])
            chances = _chance(tempi[:, None, None])
            told = np.log(np.clip(np.where(clean, chances, 1.0 - chances), 1e-12, 1.0))
            log = log + np.tensordot(counts, told, 1)
        weights: Floats = np.exp(log - log.max())
        weights /= weights.sum()
        return weights

    def chance(self, tempo: float) -> float:
        """How likely a repetition at a tempo is clean."""
        return float((self.weights * _chance(np.log(tempo))).sum())

    @property
    def clean_tempo(self) -> float:
        """The tempo at which one repetition in two is clean, as far as is known: the median."""
        return self.quantile(0.5)

    def quantile(self, share: float) -> float:
        """The tempo below which theta lies with a probability."""
        sums = np.cumsum(self.weights.sum(axis=1))
        return float(np.exp(np.interp(share, sums, _LOGS)))

    def between(self, share: float = 0.9) -> tuple[float, float]:
        """Tempi between which theta lies with a probability, as much below as above."""
        return self.quantile((1 - share) / 2), self.quantile((1 + share) / 2)

    @property
    def give_or_take(self) -> float:
        """Half of the interval in which theta lies with a probability of two thirds."""
        low, high = self.between(2 / 3)
        return (high - low) / 2

    def next_tempo(self) -> float:
        """The tempo to play next: where success is likely, not too far from the last one."""
        wanted = self._where(WANTED)
        if not self.answers:
            # The first is for finding out, and slow.
            return max(SLOWEST, min(wanted, FIRST_SHARE * min(self.centre, self.goal or self.centre)))
        if self.answers[-1].days_ago > NEW_DAY:
            # A day begins below what the last one came to.
            return float(min(max(min(wanted, BACK * self.clean_tempo), SLOWEST), FASTEST))
        last = self.answers[-1].tempo
        if not self.answers[-1].clean:
            # However much is known, the same again straight after a failure is not what a teacher asks for.
            wanted = min(wanted, (1 - LEAST_STEP_DOWN) * last)
        return float(min(max(wanted, last * (1 - MOST_STEP_DOWN)), last * (1 + MOST_STEP_UP), FASTEST))

    def _where(self, chance: float) -> float:
        chances = np.tensordot(_CHANCES, self.weights, 2)
        # Falling with the tempo, so turned round for the interpolation.
        return float(np.interp(chance, chances[::-1], _TRIED[::-1]))

    @property
    def stuck(self) -> bool:
        """Whether the last repetitions have all failed: lower the density, or take a smaller piece."""
        last = self.answers[-FAILURES:]
        return len(last) == FAILURES and not any(answer.clean for answer in last)


_LOGS: Floats = np.linspace(np.log(SLOWEST), np.log(FASTEST), THETAS)
_TRIED: Floats = np.exp(np.linspace(np.log(SLOWEST), np.log(FASTEST), 160))


def _chance(log_tempo: float | Floats) -> Floats:
    """Of being clean at a tempo, shape (thetas, edges); at several of shape (n, 1, 1), shape (n, thetas, edges)."""
    chance: Floats = 1.0 / (1.0 + np.exp(-(_LOGS[:, None] - log_tempo) / np.array(EDGES)))
    return chance


_CHANCES: Floats = np.array([_chance(np.log(tempo)) for tempo in _TRIED])
"""Of being clean at each tempo that is tried, shape (tempi, thetas, edges)."""


def chances_before(centre: float, answers: Sequence[Answer]) -> list[float]:
    """How likely each repetition was thought to be clean before it was played; none of them counts as old.

    Parameters
    ----------
    centre : float
        As in `Climb`.
    answers : sequence of Answer
        In order.

    Examples
    --------
    >>> first, second = chances_before(120.0, [Answer(100.0, True), Answer(100.0, True)])
    >>> first < second
    True
    """
    log = -0.5 * ((_LOGS[:, None] - np.log(centre)) / PRIOR_SD) ** 2 + np.zeros(len(EDGES))
    chances = []
    for answer in answers:
        chance = _chance(np.log(answer.tempo))
        weights = np.exp(log - log.max())
        chances.append(float((weights * chance).sum() / weights.sum()))
        log = log + np.log(np.clip(chance if answer.clean else 1.0 - chance, 1e-12, 1.0))
    return chances
