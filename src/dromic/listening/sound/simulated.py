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
from dromic.listening.movement_classes import main_class
from dromic.listening.sound.extent import Extent, whole
from dromic.listening.sound.metronome import add_clicks, count_in_seconds
from dromic.listening.sound.player_errors import Errors
from dromic.listening.sound.rendering import (
    LONGEST_S,
    LONGEST_SOUND_S,
    LOUD,
    Sounding,
    sound_of,
    soundings_by_event,
)
from dromic.listening.sound.voice import RATE, SLUR_TOUCH
from dromic.listening.take import End, Restart, State, TakeNote, TakeReport, UnaskedString
from dromic.music.riff import Place
from dromic.planner.plan import Plan, PlannedEvent

BACK_TO_THE_BEAT = 0.35
LEAD_S, TAIL_S = 0.5, 1.0
DOUBLE_AFTER_S, SMEAR_S = 0.028, 0.018
LEAST_GAP_S = 0.02
RING_S = 0.25
JOINS_WITHIN_S = 0.03
EXTRA_LOUD, EXTRA_S = 0.6, 0.08
RINGING_DB, RINGING_S = -8.0, 0.8
PAUSE_S = (0.9, 1.8)
LEAST_FOR_RESTARTS = 24
HICCUP_WIDTH = 0.03
HISS = 0.0005


@dataclass(frozen=True)
class Take:
    """A take with its truth: samples from -1 to 1 at `RATE` a second."""

    sound: Floats = field(repr=False)
    truth: TakeReport


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
    ringing : tuple of (float, Sounding)
        Open strings that sound unasked.
    restarts : tuple of Restart
    """

    plan: Plan
    seed: int
    extent: Extent
    lead_s: float
    total_s: float
    planned: tuple[_Planned, ...]
    extra: tuple[tuple[float, Sounding], ...]
    ringing: tuple[tuple[float, Sounding], ...] = ()
    restarts: tuple[Restart, ...] = ()

    @property
    def report(self) -> TakeReport:
        """What is in the take."""
        notes = tuple(one.note for one in self.planned)
        extra = tuple(at for at, _ in self.extra)
        unasked = tuple(UnaskedString(round(at, 6), one.string, RINGING_DB) for at, one in self.ringing)
        start = round(self.lead_s, 6)
        return TakeReport(self.extent.tempo, start, self.extent.rounds, notes, extra, self.restarts, unasked)


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
    player = _Player(plan, np.random.default_rng(seed), wanted, extent, lead)
    notes = tuple(player.notes())
    return Performance(
        plan,
        seed,
        extent,
        lead,
        total_s + player.stood_s,
        notes,
        tuple(player.extra),
        tuple(player.ringing),
        tuple(player.restarts),
    )


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
    for at, part in played.ringing:
        _add(sound, part, at, RINGING_S, 10 ** (RINGING_DB / 20), chance)
    most = float(np.abs(sound).max())
    return Take(sound / most if most > 1.0 else sound, played.report)


def _add(
    sound: Floats, part: Sounding, onset: float, length: float, gain: float, chance: np.random.Generator
) -> None:
    start = round(onset * RATE)
    count = min(round(min(length, LONGEST_S) * RATE), len(sound) - start)
    if count > 0 <= start:
        sound[start : start + count] += LOUD * gain * sound_of(part, count, seed=int(chance.integers(2**31)))


class _Player:
    def __init__(
        self, plan: Plan, chance: np.random.Generator, errors: Errors, extent: Extent, lead: float
    ) -> None:
        self.plan, self.chance, self.errors, self.extent, self.lead = plan, chance, errors, extent, lead
        self.events = [event for event in plan.events if event.step is not None]
        self.length = extent.end - extent.start
        self.extra: list[tuple[float, Sounding]] = []
        self.ringing: list[tuple[float, Sounding]] = []
        self.restarts: list[Restart] = []
        self.stood_s = 0.0

    # -- when --------------------------------------------------------------------------------------------------

    def notes(self) -> Iterator[_Planned]:
        """Every note with its real onset and end."""
        return self._ended(list(self._struck()))

    def _struck(self) -> Iterator[_Planned]:
        """Every note with its real onset; on the way, what is not in the riff."""
        late = dict(self.errors.late_ms)
        parts: dict[int, list[Sounding]] = {}
        for index, one in soundings_by_event(self.plan):
            parts.setdefault(index, []).append(one)
        off, before = 0.0, -1.0
        for number, event, again in self._order():
            place = self.extent.when(number * self.length + float(event.moment.played))
            if again:
                # After the stop the tempo is what it was, and the place further back.
                self.stood_s += before + float(self.chance.uniform(*PAUSE_S)) - self.lead - place - self.stood_s
                self.restarts.append(Restart(round(self.lead + place + self.stood_s, 6), event.moment.index))
                off = 0.0
            due = self.lead + place + self.stood_s
            off = (1 - BACK_TO_THE_BEAT) * off + self._ms(self.errors.clock_ms)
            own = self._ms(self.errors.hand_ms) + late.get(main_class(self.plan, event.step or 0), 0.0) / 1000
            own += self._ms(self._hiccup_ms(place))
            onset = max(due + off + own, before + LEAST_GAP_S)
            state = self._state()
            loud = float(self.chance.normal(0.0, self.errors.loud_db)) if self.errors.loud_db else 0.0
            sounding, cents = self._off_goal(tuple(parts[event.moment.index]))
            note = TakeNote(
                number,
                event.moment.index,
                round(onset, 6),
                round(1000 * (onset - due), 3),
                state,
                round(loud, 2),
                cents=cents,
            )
            yield _Planned(note, sounding)
            if state is State.MISSED:
                continue
            before = onset
            if self._happens(self.errors.unasked):
                self._ring(onset, event)
            if self._happens(self.errors.extra):
                at = onset + float(self.chance.uniform(0.4, 0.6)) * self._room(event)
                self.extra.append((round(at, 6), parts[event.moment.index][0]))
                before = at

    def _order(self) -> list[tuple[int, PlannedEvent, bool]]:
        """Rounds and notes in the order of playing, and where the player begins again."""
        order = [(number, event, False) for number in range(self.extent.rounds) for event in self.events]
        for _ in range(self.errors.restarts):
            if len(order) < LEAST_FOR_RESTARTS:
                break
            # Who stops at the very end and begins anew plays another round.
            last = self.events[-2:]
            places = [at for at in range(len(order) // 4, len(order) - 2) if order[at][1] not in last]
            if not places:
                break
            stop = int(self.chance.choice(places))
            back = stop
            number, event, _again = order[stop]
            while (
                back > 0
                and not order[back][2]
                and (order[back - 1][0], order[back - 1][1].moment.bar) == (number, event.moment.bar)
            ):
                back -= 1
            first, *others = order[back : stop + 1]
            order[stop + 1 : stop + 1] = [(first[0], first[1], True), *others]
        return order

    def _hiccup_ms(self, place_s: float) -> float:
        if self.errors.hiccup is None:
            return 0.0
        tempo, spread = self.errors.hiccup
        ramp = self.extent.ramp
        now = ramp.tempo(min(place_s, ramp.seconds)) if ramp is not None else self.extent.tempo
        return spread if abs(now / tempo - 1) < HICCUP_WIDTH else 0.0

    def _off_goal(self, parts: tuple[Sounding, ...]) -> tuple[tuple[Sounding, ...], float | None]:
        """A bend or slide that comes to rest a little beside its goal."""
        if len(parts) != 1 or parts[0].pitches[0] == parts[0].pitches[1]:
            return parts, None
        cents = float(self.chance.normal(0.0, self.errors.off_goal_cents)) if self.errors.off_goal_cents else 0.0
        start, goal = parts[0].pitches
        return (replace(parts[0], pitches=(start, goal + cents / 100)),), round(cents, 1)

    def _ring(self, onset: float, event: PlannedEvent) -> None:
        """An open string begins to sound that neither this note nor the next is on."""
        at = self.events.index(event)
        following = self.events[(at + 1) % len(self.events)]
        used = {note.string for note in (*event.notes, *following.notes)}
        free = [string for string in range(1, self.plan.instrument.strings + 1) if string not in used]
        if free:
            string = int(self.chance.choice(free))
            pitch = float(self.plan.instrument.pitch(Place(string, 0)))
            self.ringing.append((round(onset, 6), Sounding(0.0, 1.0, string, (pitch, pitch), 0.0, SLUR_TOUCH)))

    def _room(self, event: PlannedEvent) -> float:
        """Seconds until the next note is due."""
        places = [float(one.moment.played) for one in self.events]
        here = float(event.moment.played)
        following = next((place for place in places if place > here), places[0] + self.length)
        return (following - here) * 60.0 / self.extent.tempo

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
        return max((part.end - part.onset for part in one.parts), default=0.0) * 60.0 / self.extent.tempo


@dataclass(frozen=True)
class _Planned:
    """A note to be sounded: its parts, and how long."""

    note: TakeNote
    parts: tuple[Sounding, ...]
    length_s: float = 0.0
