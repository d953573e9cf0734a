"""A lick in other rhythms: triplets for straight notes and back, uneven pairs, moved accents, moved by a beat."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction

from dromic.errors import RiffError
from dromic.music.laying import rests_of
from dromic.music.rhythm import NoteValue
from dromic.music.riff import Event, Mark, Riff
from dromic.practice.vary.lick import Draft, Drafts, Lick, Refusal, Unit, laid, units_of, with_events

_OTHER = {
    Fraction(1, 4): (NoteValue(8, tuplet=3), "triplets for sixteenths"),
    Fraction(1, 2): (NoteValue(8, tuplet=3), "triplets for eighths"),
    Fraction(1, 3): (NoteValue(16), "sixteenths for triplets"),
    Fraction(1, 6): (NoteValue(16), "sixteenths for sixteenth triplets"),
}
_UNEVEN = {Fraction(1, 2): (NoteValue(8, 1), NoteValue(16)), Fraction(1, 4): (NoteValue(16, 1), NoteValue(32))}


def drafts(lick: Lick) -> Drafts:
    """The lick in other rhythms."""
    riff, units = lick.riff, units_of(lick.riff)
    usual = usual_length(units)
    for words, new in _values(units, usual):
        yield _draft(lick, words, new)
    if usual not in _OTHER:
        yield Refusal("rhythm", f"Notes of {usual} quarter notes have no triplets to be turned into.")
    for words, moved in _accents(riff, len(lick.struck)):
        made = replace(moved, title=lick.title(words))
        yield Draft(words, "rhythm", made, lick.all_origins())
    for length, words in (
        (riff.meter.beat, "displaced by a beat"),
        (riff.meter.beat / 2, "displaced by half a beat"),
    ):
        if length < Fraction(1, 8) or length == usual / 2:
            continue
        yield _draft(lick, words, displaced(units, length))


def usual_length(units: Sequence[Unit]) -> Fraction:
    """The length that most notes have."""
    lengths = Counter(unit.quarters for unit in units if not unit.rest)
    return lengths.most_common(1)[0][0] if lengths else Fraction(0)


def displaced(units: Sequence[Unit], by: Fraction) -> list[Unit]:
    """Units that begin later by a length."""
    return [*(Unit((event,)) for event in rests_of(by)), *units]


def _draft(lick: Lick, words: str, units: Sequence[Unit]) -> Draft | Refusal:
    try:
        riff, origins = laid(lick.riff, units, lick.title(words))
    except RiffError as error:
        return Refusal("rhythm", f"It does not go {words}: {error.message}.")
    return Draft(words, "rhythm", riff, origins)


def _values(units: Sequence[Unit], usual: Fraction) -> list[tuple[str, list[Unit]]]:
    found = []
    if usual in _OTHER:
        value, words = _OTHER[usual]
        found.append((words, revalued(units, usual, value)))
    if usual in _UNEVEN:
        long, short = _UNEVEN[usual]
        found.append(("long and short in pairs", _in_pairs(units, usual, (long, short))))
        found.append(("short and long in pairs", _in_pairs(units, usual, (short, long))))
    return found


def revalued(units: Sequence[Unit], usual: Fraction, value: NoteValue) -> list[Unit]:
    """Units of one length given another value; runs of them are filled up to whole beats with rests.

    Parameters
    ----------
    units : sequence of Unit
    usual : Fraction
        The length that changes, in quarter notes.
    value : NoteValue
    """
    found: list[Unit] = []
    run = Fraction(0)
    for unit in units:
        if unit.quarters == usual and len([event for event in unit.events if not event.grace]) == 1:
            found.append(_with_value(unit, value))
            run += value.quarters
            continue
        found += _up_to_beat(run, value)
        run = Fraction(0)
        found.append(unit)
    return [*found, *_up_to_beat(run, value)]


def _with_value(unit: Unit, value: NoteValue) -> Unit:
    *graces, last = unit.events
    return replace(unit, events=(*graces, replace(last, value=value)))


def _up_to_beat(run: Fraction, value: NoteValue) -> list[Unit]:
    missing = -run % 1
    count = missing / value.quarters
    return [Unit((Event(value),)) for _ in range(int(count))]


def _in_pairs(units: Sequence[Unit], usual: Fraction, pair: tuple[NoteValue, NoteValue]) -> list[Unit]:
    """Pairs that begin on the grid of two notes, made uneven."""
    found: list[Unit] = []
    at = Fraction(0)
    waiting: Unit | None = None
    for unit in units:
        plain = unit.quarters == usual and len([event for event in unit.events if not event.grace]) == 1
        if waiting is not None and plain:
            found[-1:] = [_with_value(waiting, pair[0]), _with_value(unit, pair[1])]
            waiting = None
        else:
            found.append(unit)
            waiting = unit if plain and not at % (2 * usual) else None
        at += unit.quarters
    return found


def _accents(riff: Riff, notes: int) -> list[tuple[str, Riff]]:
    events = [event for event in riff.written_events() if not event.rest and Mark.TIE not in event.marks]
    accented = {at for at, event in enumerate(events) if Mark.ACCENT in event.marks}
    found: list[tuple[str, Callable[[int], bool]]] = []
    if accented:
        found.append(("accents a note later", lambda at: (at - 1) % notes in accented))
    found.append(("an accent on every third note", lambda at: not at % 3))
    if not accented:
        found.append(("accents off the beat", lambda at: at % 2 == 1))
    return [(words, with_accents(riff, wanted)) for words, wanted in found]


def with_accents(riff: Riff, wanted: Callable[[int], bool]) -> Riff:
    """The riff with accents on those struck notes, and on no others.

    Parameters
    ----------
    riff : Riff
    wanted : callable
        Takes which struck note it is.
    """
    at = -1

    def event_of(event: Event) -> Event:
        nonlocal at
        if event.rest or Mark.TIE in event.marks:
            return event
        at += 1
        marks = event.marks - {Mark.ACCENT}
        return replace(event, marks=marks | {Mark.ACCENT} if wanted(at) and not event.grace else marks)

    return with_events(riff, event_of)
