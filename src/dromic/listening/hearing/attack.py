"""Whether a note's attack is clean, smeared, or double.

In fine steps round the attack the sound may rise a second time. A rise a few hundredths of a second after the
attack, as strong as the attack itself, is a second one; a weak rise just before the strong one means that the
string was brushed, or a finger came down, before the stroke. Which of the two it was cannot be told from the sound.
Every instrument has its own way to build up an attack, so a rise counts only if it stands out among those of its
take.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import maximum_filter1d

from dromic.listening.hearing.onset_times import STEP, Attacks
from dromic.listening.hearing.recording import HEARING_RATE
from dromic.listening.take import State

FROM_S, TO_S, EARLIEST_S = 0.011, 0.038, 0.033
ROOM_S = 0.012
PEAK_S = 0.004
LEAST_DB, TIMES_SPREAD = 2.0, 5.0
LEAST_SPREAD_DB = 0.35
BRUSHED_WITHIN_S = 0.024
BRUSHED_DB, BRUSHED_EARLY_DB, DOUBLE_DB = (2.0, 13.0), (0.5, 13.0), (-4.0, 7.0)


@dataclass(frozen=True)
class SecondRise:
    """The largest rise of the sound near an attack that is not the attack itself.

    Parameters
    ----------
    after_s : float
        How long after the attack; before it where it is below zero.
    rise_db : float
        By how much all of the period before it is passed.
    stronger_db : float
        How much stronger the later of the two is.
    """

    after_s: float
    rise_db: float
    stronger_db: float


def second_rise(
    attacks: Attacks, onset_s: float, before_s: float, next_s: float, period_s: float
) -> SecondRise | None:
    """Look for a second rise near the attack of a picked note; None where there is no room for one.

    Parameters
    ----------
    attacks : Attacks
    onset_s, before_s, next_s : float
        Of the note, of the one before it, and of the one after it.
    period_s : float
        Of the lowest note that sounds.
    """
    step = STEP / HEARING_RATE
    period = max(round(1.1 * period_s / step), round(PEAK_S / step))
    own = attacks.highest(onset_s, onset_s + 0.009)
    after = _rise(attacks, onset_s + FROM_S, min(onset_s + TO_S, next_s - ROOM_S), period)
    early = _rise(attacks, max(onset_s - EARLIEST_S, before_s + ROOM_S), onset_s - FROM_S, period)
    found = []
    if after is not None:
        found.append(SecondRise(float(after[0] - onset_s), after[1], _decibels(after[2] / own)))
    if early is not None:
        found.append(SecondRise(float(early[0] - onset_s), early[1], _decibels(own / early[2])))
    return max(found, key=lambda one: one.rise_db, default=None)


def states_of(rises: list[SecondRise | None]) -> list[State]:
    """Which attacks of a take are clean, smeared or double.

    Parameters
    ----------
    rises : list of SecondRise or None
        None for a note whose attack is not looked at.
    """
    known = np.array([rise.rise_db for rise in rises if rise is not None])
    if not len(known):
        return [State.PLAYED] * len(rises)
    usual = float(np.median(known))
    spread = max(1.4826 * float(np.median(np.abs(known - usual))), LEAST_SPREAD_DB)
    return [_state(rise, usual + max(LEAST_DB, TIMES_SPREAD * spread)) for rise in rises]


def _state(rise: SecondRise | None, least_db: float) -> State:
    if rise is None or rise.rise_db < max(least_db, LEAST_DB):
        return State.PLAYED
    low, high = BRUSHED_DB if rise.after_s > 0 else BRUSHED_EARLY_DB
    if abs(rise.after_s) < BRUSHED_WITHIN_S and low < rise.stronger_db < high:
        return State.SMEARED
    # What is far weaker or far stronger than the attack is no second attack: an echo, or the attack itself.
    return State.DOUBLE if DOUBLE_DB[0] < rise.stronger_db < DOUBLE_DB[1] else State.PLAYED


def _rise(attacks: Attacks, start_s: float, end_s: float, period: int) -> tuple[float, float, float] | None:
    """The largest rise between two times: where, by how many decibels, and to what level."""
    step = STEP / HEARING_RATE
    first, last = round(start_s / step), round(end_s / step)
    if last - first < 4:
        return None
    peak = round(PEAK_S / step)
    index = np.clip(np.arange(first - period, last + peak + 1), 0, len(attacks.level) - 1)
    level = attacks.level[index] + attacks.floor
    before = maximum_filter1d(level, period, origin=(period - 1) // 2)[period - 1 : -peak - 2]
    after = maximum_filter1d(level, peak, origin=-(peak // 2))[period : -peak - 1]
    rise = 20 * np.log10(after[: len(before)] / before[: len(after)])
    best = int(rise.argmax())
    return (first + best) * step, float(rise[best]), float(after[best])


def _decibels(ratio: float) -> float:
    return float(20 * np.log10(max(ratio, 1e-6)))
