"""What is heard of every note of a take, once it is known which notes they are and when they begin."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from dromic.arrays import Samples
from dromic.listening.hearing.attack import SecondRise, second_rise, states_of
from dromic.listening.hearing.chord_spread import TOLD_ABOVE_MS, chord_spread
from dromic.listening.hearing.expected import Expected, ExpectedNote
from dromic.listening.hearing.found_notes import FoundNote
from dromic.listening.hearing.intonation import goal_cents
from dromic.listening.hearing.loudness import against_their_like, attack_level
from dromic.listening.hearing.note_ends import NoteEnd, end_of
from dromic.listening.hearing.onset_times import DEFAULT_PERIOD_S, Attacks
from dromic.listening.hearing.swing_heard import Swing, swing_of
from dromic.listening.hearing.tone import StringTone, brightness, tone_by_string
from dromic.listening.hearing.unasked import unasked_at
from dromic.listening.sound.rendering import BEND_S, SLIDE_S
from dromic.listening.take import State, TakeNote, UnaskedString
from dromic.music.pitch import frequency

SETTLES_S = 0.03
HEARD_BEFORE = 1
STRINGS_APART_S = 3.0


@dataclass(frozen=True)
class Measured:
    """Everything that was heard of the notes.

    Parameters
    ----------
    notes : tuple of TakeNote
        In the order of the found notes.
    untold : tuple of str
        Of each of them, why its end cannot be told; empty where it can.
    unasked : tuple of UnaskedString
        The first time each string is heard, and again where it was silent between.
    swing : Swing or None
    tones : tuple of StringTone
    """

    notes: tuple[TakeNote, ...]
    untold: tuple[str, ...]
    unasked: tuple[UnaskedString, ...]
    swing: Swing | None
    tones: tuple[StringTone, ...]


def measure(
    samples: Samples,
    attacks: Attacks,
    expected: Expected,
    found: tuple[FoundNote, ...],
    watch: Callable[[float], None] | None = None,
) -> Measured:
    """Measure all notes of a take.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
    attacks : Attacks
        Of the same samples.
    expected : Expected
    found : tuple of FoundNote
    watch : callable or None
        Told the share of the work that is done; what it raises cancels.
    """
    return _Measuring(samples, attacks, expected, [one for one in found if not one.missed]).of(found, watch)


class _Measuring:
    def __init__(self, samples: Samples, attacks: Attacks, expected: Expected, played: list[FoundNote]) -> None:
        self.samples, self.attacks, self.expected, self.played = samples, attacks, expected, played
        self.notes: list[ExpectedNote] = [expected.notes[one.place] for one in played]
        self.over_s = len(samples) / attacks.rate

    def of(self, found: tuple[FoundNote, ...], watch: Callable[[float], None] | None) -> Measured:
        rises: list[SecondRise | None] = []
        ends: list[NoteEnd] = []
        levels: list[float] = []
        unasked: list[UnaskedString] = []
        for at in range(len(self.played)):
            if watch is not None and at % 32 == 0:
                watch(at / len(self.played))
            rises.append(self._rise(at))
            ends.append(self._end(at))
            levels.append(attack_level(self.samples, self.played[at].onset_s, self._next(at)))
            unasked += self._unasked(at)
        loud, sure = against_their_like(
            np.array(levels),
            [note.kind for note in self.notes],
            np.array([np.mean(note.pitches) if note.pitches else 40.0 for note in self.notes]),
        )
        rows: dict[tuple[int, float], tuple[TakeNote, str]] = {}
        for at, state in enumerate(states_of(rises)):
            one, rise = self.played[at], rises[at]
            # A string that is brushed before the stroke sounds with the stroke.
            later = rise.after_s if rise is not None and state is State.SMEARED else 0.0
            onset = one.onset_s + max(later, 0.0)
            cents = self._cents(at)
            spread = self._spread(at)
            note = TakeNote(
                one.round,
                self.notes[at].index,
                round(float(onset), 5),
                round(float(1000 * (onset - one.due_s)), 2),
                state,
                loud[at],
                ends[at].end,
                ends[at].gap_ms,
                cents[0] if cents else None,
                ends[at].ring_db,
                spread,
                one.sure_ms,
                sure[at],
                cents[1] if cents else None,
            )
            rows[one.round, one.onset_s] = (note, ends[at].why_not)
        told = [rows.get((one.round, one.onset_s)) or (self._missed(one), "") for one in found]
        return Measured(
            tuple(note for note, _ in told),
            tuple(why for _, why in told),
            _first_times(unasked),
            swing_of(self._pairs()),
            tone_by_string(self._tones()),
        )

    def _missed(self, one: FoundNote) -> TakeNote:
        index = self.expected.notes[one.place].index
        return TakeNote(one.round, index, round(one.onset_s, 5), 0.0, State.MISSED)

    def _next(self, at: int) -> float | None:
        return self.played[at + 1].onset_s if at + 1 < len(self.played) else None

    def _rise(self, at: int) -> SecondRise | None:
        note = self.notes[at]
        # The strings of a chord begin one after the other by themselves.
        if not note.picked or len(note.strings) > 1:
            return None
        before = self.notes[at - 1].pitches if at else ()
        lows = (*note.pitches, *before)
        period = 1 / frequency(min(lows)) if lows else DEFAULT_PERIOD_S
        earlier = self.played[at - 1].onset_s if at else -1.0
        later = self._next(at)
        onset = self.played[at].onset_s
        return second_rise(self.attacks, onset, earlier, later if later is not None else onset + 1.0, period)

    def _end(self, at: int) -> NoteEnd:
        if at + 1 >= len(self.played) or self.played[at + 1].run != self.played[at].run:
            return NoteEnd(None, why_not="nothing follows it")
        note, after = self.notes[at], self.notes[at + 1]
        onset, following = self.played[at].onset_s, self.played[at + 1].onset_s
        later = self._next(at + 1)
        return end_of(
            self.samples,
            onset,
            following,
            later if later is not None else following + 1.0,
            note.pitches,
            after.pitches,
            same_string=bool(set(note.strings) & set(after.strings)),
            dies_away="muted" in note.kind or "dead" in note.kind,
        )

    def _cents(self, at: int) -> tuple[float, float] | None:
        note = self.notes[at]
        if not note.glides or len(note.pitches) != 1:
            return None
        start = self.played[at].onset_s + (BEND_S if "bent" in note.kind else SLIDE_S) + SETTLES_S
        later = self._next(at)
        return goal_cents(
            self.samples, start, (later if later is not None else self.over_s) - 0.01, note.pitches[0]
        )

    def _spread(self, at: int) -> float | None:
        note = self.notes[at]
        if len(note.pitches) < 2:
            return None
        found = chord_spread(self.samples, self.played[at].onset_s, self._next(at), note.pitches)
        return found[0] if found is not None and found[0] > TOLD_ABOVE_MS else None

    def _unasked(self, at: int) -> list[UnaskedString]:
        later = self._next(at)
        if later is None:
            return []
        first = max(at - HEARD_BEFORE, 0)
        sounding = tuple(pitch for note in reversed(self.notes[first : at + 1]) for pitch in note.pitches)
        onset = self.played[at].onset_s
        return unasked_at(self.samples, onset, later, sounding, self.expected.open_pitches)

    def _pairs(self) -> list[tuple[float, float]]:
        pairs = []
        for at in range(len(self.played) - 2):
            first, second, third = self.notes[at : at + 3]
            runs = {one.run for one in self.played[at : at + 3]}
            if len(runs) == 1 and first.halves and third.beat > second.beat > first.beat:
                one, two, three = (self.played[at + step].onset_s for step in range(3))
                pairs.append((two - one, three - two))
        return pairs

    def _tones(self) -> list[tuple[int, float, float]]:
        return [
            (note.strings[0], note.pitches[0], brightness(self.samples, one.onset_s))
            for note, one in zip(self.notes, self.played, strict=True)
            if note.kind == "plain" and len(note.pitches) == 1
        ]


def _first_times(heard: list[UnaskedString]) -> tuple[UnaskedString, ...]:
    """Each string once for as long as it goes on sounding."""
    last: dict[int, float] = {}
    first_times = []
    for one in heard:
        if one.onset_s - last.get(one.string, -1e9) > STRINGS_APART_S:
            first_times.append(replace(one))
        last[one.string] = one.onset_s
    return tuple(first_times)
