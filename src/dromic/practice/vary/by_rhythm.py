"""A lick in other rhythms: triplets for straight notes and back, uneven pairs, moved accents, moved by a beat."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction

from dromic.errors import RiffError
from dromic.music.laying import PLAIN, rests_of
from dromic.music.rhythm import NoteValue
from dromic.music.riff import Event, Mark, Riff
from dromic.practice.vary.lick import Draft, Drafts, Lick, Refusal, with_events
from dromic.practice.vary.units import Unit, laid, units_of

_OTHER = {
    Fraction(1, 4): (NoteValue(8, tuplet=3), "triplets for sixteenths"),
    Fraction(1, 2): (NoteValue(8, tuplet=3), "triplets for eighths"),
    Fraction(1, 3): (NoteValue(16), "sixteenths for triplets"),
    Fraction(1, 6): (NoteValue(16), "sixteenths for sixteenth triplets"),
}
_GALLOP = [Fraction(1, 4), Fraction(1, 4), Fraction(1, 2)]
LEAST_RUN = 3
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
    values = []
    if usual in _OTHER:
        value, words = _OTHER[usual]
        values.append((words, revalued(units, usual, value)))
    if usual in _UNEVEN:
        long, short = _UNEVEN[usual]
        values.append(("long and short in pairs", _in_pairs(units, usual, (long, short))))
        values.append(("short and long in pairs", _in_pairs(units, usual, (short, long))))
    return values


def revalued(units: Sequence[Unit], usual: Fraction, value: NoteValue) -> list[Unit]:
    """Units of one length given another value, where some follow each other; rests keep the beats in place.

    A beat of an eighth and two sixteenths, in whatever order, becomes a triplet as a whole; what is in triplets
    with the notes that change changes with them.

    Parameters
    ----------
    units : sequence of Unit
    usual : Fraction
        The length that changes, in quarter notes.
    value : NoteValue
    """
    ratio = value.quarters / usual
    revalued: list[Unit] = []
    at = now = Fraction(0)
    for run, changes in _runs(units, usual, gallops=value.tuplet == 3):
        rests = _rests((at - now) % 1)
        made = [_with_value(unit, PLAIN.get(unit.quarters * ratio, value)) for unit in run] if changes else run
        revalued += [*rests, *made]
        at += _length(run)
        now += _length(rests) + _length(made)
    return revalued


def _length(units: Sequence[Unit]) -> Fraction:
    return sum((unit.quarters for unit in units), Fraction(0))


def _rests(length: Fraction) -> list[Unit]:
    """Rests of a length below a beat: plain ones where they say it, else those of triplets."""
    rests: list[Unit] = []
    tuplet = 0 if 16 % length.denominator == 0 else 3
    for base in (4, 8, 16, 32, 64):
        value = NoteValue(base, tuplet=tuplet)
        while value.quarters <= length:
            rests.append(Unit((Event(value),)))
            length -= value.quarters
    return rests


def _runs(units: Sequence[Unit], usual: Fraction, *, gallops: bool) -> list[tuple[list[Unit], bool]]:
    """Units in order, in pieces: those that change, and those between."""
    runs: list[tuple[list[Unit], bool]] = []
    number, at = 0, Fraction(0)
    while number < len(units):
        beat = list(units[number : number + 3])
        gallop = sorted(unit.quarters for unit in beat) == _GALLOP and all(map(_single, beat))
        if gallops and gallop and not at % 1:
            runs.append((beat, True))
        else:
            run = [units[number]]
            if _alike(run[0], usual):
                while number + len(run) < len(units) and _alike(units[number + len(run)], usual):
                    run.append(units[number + len(run)])
            runs.append((run, len(run) >= LEAST_RUN and _alike(run[0], usual)))
        number += len(runs[-1][0])
        at += _length(runs[-1][0])
    return runs


def _alike(unit: Unit, usual: Fraction) -> bool:
    """Whether a unit changes: it has the length, or is in triplets with those that have."""
    together = usual.denominator % 3 == 0 and unit.events[-1].value.tuplet == 3
    return _single(unit) and (together or unit.quarters == usual)


def _single(unit: Unit) -> bool:
    """Whether it is one note, with whatever grace notes, or a rest."""
    return len([event for event in unit.events if not event.grace]) == 1


def _with_value(unit: Unit, value: NoteValue) -> Unit:
    *graces, last = unit.events
    return replace(unit, events=(*graces, replace(last, value=value)))


def _in_pairs(units: Sequence[Unit], usual: Fraction, pair: tuple[NoteValue, NoteValue]) -> list[Unit]:
    """Pairs that begin on the grid of two notes, made uneven, where some follow each other."""
    found: list[Unit] = []
    at = Fraction(0)
    for run, changes in _runs(units, usual, gallops=False):
        lead = 1 if changes and at % (2 * usual) else 0
        for number, unit in enumerate(run):
            paired = changes and lead <= number < lead + (len(run) - lead) // 2 * 2
            found.append(_with_value(unit, pair[(number - lead) % 2]) if paired else unit)
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
