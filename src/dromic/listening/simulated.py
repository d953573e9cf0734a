"""A simulated player: plays a plan into a take, with the errors that players make, and tells what was played.

Timing follows Wing and Kristofferson: a clock whose intervals vary, and a hand that is late or early by itself at
every note, so that a long interval tends to be followed by a short one; the player goes back to the beat by a share
of each deviation. On top come a slow drift of the tempo, lateness of some movements, notes that are missed, doubled
or smeared, notes that are not in the riff, strings that ring on, and notes that are cut short. Everything is drawn
from one seed.

References
----------
Wing and Kristofferson 1973, Response delays and the timing of discrete motor responses, Perception & Psychophysics
14, 5-12.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from dromic.arrays import Floats
from dromic.errors import RiffError
from dromic.listening.extent import Extent, whole
from dromic.listening.metronome import add_clicks, count_in_seconds
from dromic.listening.rendering import (
    LONGEST_S,
    LONGEST_SOUND_S,
    LOUD,
    Sounding,
    sound_of,
    soundings_by_event,
)
from dromic.listening.take import End, State, TakeNote, TakeReport
from dromic.listening.voice import RATE
from dromic.music.riff import Stroke
from dromic.planner.plan import Plan

BACK_TO_THE_BEAT = 0.35
LEAD_S, TAIL_S = 0.5, 1.0
DOUBLE_AFTER_S, SMEAR_S = 0.028, 0.018
LEAST_GAP_S = 0.02
RING_S = 0.25
JOINS_WITHIN_S = 0.03
EXTRA_LOUD, EXTRA_S = 0.6, 0.08
HISS = 0.0005


@dataclass(frozen=True)
class Errors:
    """How far from perfect a player is.

    Parameters
    ----------
    clock_ms, hand_ms : float
        Standard deviations of the clock's intervals and of the hand at each note.
    drift : float
        How much faster the take is at its end than at its start, as a share of the tempo.
    late_ms : tuple of (str, float)
        By how much notes after a kind of movement come late: ``shift``, ``skip``, ``sweep``, ``inside``,
        ``outside`` or ``legato``.
    missed, double, smeared, extra, rings, cut : float
        Shares of notes that are missed, sounded twice, blurred into the one before, followed by one that is not in
        the riff, ring on under the next, or end too early.
    loud_db : float
        Standard deviation of the loudness.
    """

    clock_ms: float = 0.0
    hand_ms: float = 0.0
    drift: float = 0.0
    late_ms: tuple[tuple[str, float], ...] = ()
    missed: float = 0.0
    double: float = 0.0
    smeared: float = 0.0
    extra: float = 0.0
    rings: float = 0.0
    cut: float = 0.0
    loud_db: float = 0.0


LEVELS = {
    "none": Errors(),
    "light": Errors(
        clock_ms=4.0,
        hand_ms=3.0,
        drift=0.01,
        late_ms=(("shift", 8.0),),
        missed=0.01,
        extra=0.005,
        rings=0.01,
        cut=0.02,
        loud_db=1.5,
    ),
    "heavy": Errors(
        clock_ms=9.0,
        hand_ms=7.0,
        drift=0.04,
        late_ms=(("shift", 18.0), ("skip", 12.0)),
        missed=0.05,
        double=0.02,
        smeared=0.03,
        extra=0.02,
        rings=0.05,
        cut=0.06,
        loud_db=3.0,
    ),
}


@dataclass(frozen=True)
class Take:
    """A take with its truth: samples from -1 to 1 at `RATE` a second."""

    sound: Floats = field(repr=False)
    truth: TakeReport


def movement_kind(plan: Plan, step: int) -> str:
    """What the hands do on the way to a note, in one word; empty for nothing out of the way.

    Parameters
    ----------
    plan : Plan
    step : int
    """
    if not step:
        return ""
    before, here = plan.states[step - 1], plan.states[step]
    if not here.sounded:
        return "legato"
    if here.position != before.position and here.finger:
        return "shift"
    travel = before.ends - here.begins
    if abs(travel) > 1:
        return "skip"
    if not travel or not before.sounded or Stroke.NONE in (before.stroke, here.stroke):
        return ""
    if before.stroke is here.stroke:
        return "sweep"
    # Going on in the direction of the last stroke, the pick comes round from the outer side.
    outer = (before.stroke is Stroke.DOWN) == (travel < 0)
    return "outside" if outer else "inside"


@dataclass(frozen=True)
class Performance:
    """What a player does, before it is sounded.

    Parameters
    ----------
    plan : Plan
    seed : int
    extent : Extent
    lead_s : float
        Until the riff begins.
    total_s : float
        Of the whole take.
    planned : tuple of _Planned
    extra : tuple of (float, Sounding)
        Notes that are not in the riff.
    """

    plan: Plan
    seed: int
    extent: Extent
    lead_s: float
    total_s: float
    planned: tuple[_Planned, ...]
    extra: tuple[tuple[float, Sounding], ...]

    @property
    def report(self) -> TakeReport:
        """What is in the take."""
        notes = tuple(one.note for one in self.planned)
        extra = tuple(at for at, _ in self.extra)
        return TakeReport(self.extent.tempo, round(self.lead_s, 6), self.extent.rounds, notes, extra)


def performance(
    plan: Plan,
    seed: int = 0,
    errors: Errors | None = None,
    *,
    tempo: float | None = None,
    rounds: int = 1,
    count_in: bool = False,
) -> Performance:
    """Let the simulated player play a plan.

    Parameters
    ----------
    plan : Plan
    seed : int
    errors : Errors or None
        None for a player who makes none.
    tempo : float or None
        None for the plan's own.
    rounds : int
        How often the riff is played, one after the other.
    count_in : bool
        Whether a bar is clicked before.

    Raises
    ------
    RiffError
        Where the take would last more than half an hour.
    """
    wanted, start = errors or Errors(), tempo or plan.tempo
    drifted = start * (1 + wanted.drift) if wanted.drift else None
    extent = Extent(0.0, whole(plan).end, start, count_in=count_in, end_tempo=drifted, rounds=rounds)
    lead = LEAD_S + count_in_seconds(plan, extent)
    total_s = lead + extent.seconds + TAIL_S
    if total_s > LONGEST_SOUND_S:
        raise RiffError(f"{total_s / 60:.0f} minutes are too long for a take; play fewer rounds")
    player = _Player(plan, np.random.default_rng(seed), wanted, start, rounds)
    notes, extra = player.notes(lead, extent)
    return Performance(plan, seed, extent, lead, total_s, tuple(notes), tuple(extra))


def take_of(played: Performance) -> Take:
    """Sound a performance, with a little hiss.

    Parameters
    ----------
    played : Performance
    """
    chance = np.random.default_rng((played.seed, 1))
    sound: Floats = chance.standard_normal(round(played.total_s * RATE)) * HISS
    if played.extent.count_in:
        clicks = np.zeros(round(played.lead_s * RATE))
        add_clicks(clicks[round(LEAD_S * RATE) :], played.plan, played.extent)
        sound[: len(clicks)] += LOUD * clicks
    for one in played.planned:
        if one.note.state is State.MISSED:
            continue
        gain = 10 ** ((one.note.loudness_db or 0.0) / 20)
        for part in one.parts:
            onset = one.note.onset_s + part.rolled_s
            _add(sound, part, onset, one.length_s, gain, chance)
            if one.note.state is State.DOUBLE:
                _add(sound, part, onset + DOUBLE_AFTER_S, one.length_s - DOUBLE_AFTER_S, gain, chance)
            elif one.note.state is State.SMEARED:
                # The attack is spread: the stroke brushes the string before it plays it.
                _add(sound, part, onset - SMEAR_S, 0.8 * SMEAR_S, 0.5 * gain, chance)
    for at, part in played.extra:
        _add(sound, part, at, EXTRA_S, EXTRA_LOUD, chance)
    most = float(np.abs(sound).max())
    return Take(sound / most if most > 1.0 else sound, played.report)


def _add(
    sound: Floats, part: Sounding, onset: float, length: float, gain: float, chance: np.random.Generator
) -> None:
    start = round(onset * RATE)
    count = min(round(min(length, LONGEST_S) * RATE), len(sound) - start)
    if count > 0 <= start:
        sound[start : start + count] += LOUD * gain * sound_of(part, count, seed=int(chance.integers(2**31)))


@dataclass
class _Player:
    plan: Plan
    chance: np.random.Generator
    errors: Errors
    tempo: float
    rounds: int

    # -- when --------------------------------------------------------------------------------------------------

    def notes(self, lead: float, extent: Extent) -> tuple[list[_Planned], list[tuple[float, Sounding]]]:
        """Every note with its real onset, and the notes that are not in the riff."""
        late = dict(self.errors.late_ms)
        parts: dict[int, list[Sounding]] = {}
        for index, one in soundings_by_event(self.plan):
            parts.setdefault(index, []).append(one)
        found: list[_Planned] = []
        extra: list[tuple[float, Sounding]] = []
        off, before = 0.0, -1.0
        for number in range(self.rounds):
            for event in self.plan.events:
                if event.step is None:
                    continue
                beat = number * (extent.end - extent.start) + float(event.moment.played)
                due = lead + extent.when(beat)
                off = (1 - BACK_TO_THE_BEAT) * off + self._ms(self.errors.clock_ms)
                own = self._ms(self.errors.hand_ms) + late.get(movement_kind(self.plan, event.step), 0.0) / 1000
                onset = max(due + off + own, before + LEAST_GAP_S)
                state = self._state()
                note = TakeNote(
                    number,
                    event.moment.index,
                    round(onset, 6),
                    round(1000 * (onset - due), 3),
                    state,
                    round(float(self.chance.normal(0.0, self.errors.loud_db)), 2) if self.errors.loud_db else 0.0,
                )
                found.append(_Planned(note, tuple(parts[event.moment.index])))
                if state is not State.MISSED:
                    before = onset
                    if self._happens(self.errors.extra):
                        at = onset + float(self.chance.uniform(0.4, 0.6)) * self._room(event.moment.index, extent)
                        extra.append((round(at, 6), parts[event.moment.index][0]))
                        before = at
        return list(self._ended(found)), extra

    def _room(self, index: int, extent: Extent) -> float:
        """Seconds until the next note is due."""
        places = [float(event.moment.played) for event in self.plan.events if event.step is not None]
        here = float(self.plan.events[index].moment.played)
        following = next((place for place in places if place > here), places[0] + extent.end - extent.start)
        return (following - here) * 60.0 / self.tempo

    def _ms(self, sd: float) -> float:
        return float(self.chance.normal(0.0, sd)) / 1000 if sd else 0.0

    def _happens(self, share: float) -> bool:
        return bool(share) and bool(self.chance.random() < share)

    def _state(self) -> State:
        for state, share in (
            (State.MISSED, self.errors.missed),
            (State.DOUBLE, self.errors.double),
            (State.SMEARED, self.errors.smeared),
        ):
            if self._happens(share):
                return state
        return State.PLAYED

    # -- how long and how loud ---------------------------------------------------------------------------------

    def _ended(self, notes: list[_Planned]) -> Iterator[_Planned]:
        """Every note with its end: as written, cut short, or ringing on under the next."""
        sounded = [at for at, one in enumerate(notes) if one.note.state is not State.MISSED]
        following = dict(pairwise(sounded))
        for at, one in enumerate(notes):
            if at not in following:
                length = max(self._written(one), 2 * LEAST_GAP_S)
                yield one if one.note.state is State.MISSED else replace(one, length_s=length)
                continue
            until = notes[following[at]].note.onset_s - one.note.onset_s
            length = min(self._written(one), until)
            joins = self._written(one) > until - JOINS_WITHIN_S
            other_string = not {part.string for part in one.parts} & {
                part.string for part in notes[following[at]].parts
            }
            if joins and self._happens(self.errors.cut):
                length = until * float(self.chance.uniform(0.4, 0.7))
                joins = False
            elif joins and other_string and self._happens(self.errors.rings):
                note = replace(one.note, end=End.RINGS)
                yield replace(one, note=note, length_s=until + RING_S)
                continue
            end = End.JOINED if joins else End.GAP
            gap = None if joins else round(1000 * (until - length), 3)
            yield replace(one, note=replace(one.note, end=end, gap_ms=gap), length_s=until if joins else length)

    def _written(self, one: _Planned) -> float:
        """How long a note lasts as written, in seconds."""
        return max((part.end - part.onset for part in one.parts), default=0.0) * 60.0 / self.tempo


@dataclass(frozen=True)
class _Planned:
    """A note to be sounded: its parts, and how long."""

    note: TakeNote
    parts: tuple[Sounding, ...]
    length_s: float = 0.0
