"""The notes of a lick in another order: reversed, rotated, swapped inside the beat, and against a pedal tone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from dromic.errors import RiffError
from dromic.instrument.instrument import Instrument
from dromic.music.chords import Chord, NoChord
from dromic.music.riff import LEGATO_MARKS, NO_LOCKS, Event, Note, Place
from dromic.practice.vary.by_rhythm import usual_length
from dromic.practice.vary.lick import Draft, Drafts, Lick, Refusal, slurred_from
from dromic.practice.vary.units import Unit, laid, units_of, without_reaching_marks

MOST_ROTATIONS = 3


def drafts(lick: Lick) -> Drafts:
    """The lick in other orders."""
    units = units_of(lick.riff)
    notes = [unit for unit in units if not unit.rest]
    if len(notes) < 3:
        yield Refusal("order", "Two notes have no other order worth practising.")
        return
    yield _draft(lick, "backward", reversed_units(units))
    beat = lick.riff.meter.beat
    for beats in range(1, MOST_ROTATIONS + 1):
        turned = rotated(units, beat * beats)
        if turned is not None and turned != list(units):
            yield _draft(lick, f"begun {_beats(beats)} later, its start at the end", turned)
    inner = _inner_swapped(units, beat)
    if inner != list(units):
        yield _draft(lick, "the inner notes of each beat swapped, those on the beat kept", inner)
    yield from _pedal(lick, units)


def _beats(count: int) -> str:
    return "a beat" if count == 1 else f"{count} beats"


def _draft(lick: Lick, words: str, units: Sequence[Unit]) -> Draft | Refusal:
    try:
        linked = _relinked(units, units_of(lick.riff), lick.instrument)
        riff, origins = laid(lick.riff, _signed_anew(lick, linked), lick.title(words))
    except RiffError as error:
        return Refusal("order", f"It cannot be played {words}: {error.message}.")
    return Draft(words, "order", riff, origins)


def reversed_units(units: Sequence[Unit]) -> list[Unit]:
    """Units from the last to the first, each with its length; what was slurred together is so still."""
    reversed_units: list[Unit] = []
    after: Unit | None = None
    for unit in reversed(units):
        slur = after.events[0].marks & set(LEGATO_MARKS) if after is not None and not after.rest else frozenset()
        struck = unit if unit.rest else without_reaching_marks(unit)
        first = struck.events[0]
        marked = first if struck.rest else replace(first, marks=first.marks | slur)
        reversed_units.append(replace(struck, events=(marked, *struck.events[1:])))
        after = unit
    return reversed_units


def rotated(units: Sequence[Unit], by: Fraction) -> list[Unit] | None:
    """Units from a moment on, those before it at the end; None where no unit begins there."""
    at = Fraction(0)
    for number, unit in enumerate(units):
        if at == by:
            return [*units[number:], *units[:number]]
        at += unit.quarters
    return None


def _inner_swapped(units: Sequence[Unit], beat: Fraction) -> list[Unit]:
    """The second and the last note of each beat in each other's place, where they are as long."""
    inner_swapped = list(units)
    at = Fraction(0)
    places: dict[int, list[int]] = {}
    for number, unit in enumerate(units):
        places.setdefault(at // beat, []).append(number)
        at += unit.quarters
    for inside in places.values():
        own = [number for number in inside if not units[number].rest]
        # The first of the beat stays where it is.
        if len(own) >= 3 and own[0] == inside[0]:
            one, other = own[1], own[-1]
            if units[one].quarters == units[other].quarters:
                inner_swapped[one], inner_swapped[other] = inner_swapped[other], inner_swapped[one]
    return inner_swapped


def _signed_anew(lick: Lick, units: Sequence[Unit]) -> list[Unit]:
    """Units that keep the chord they had, written wherever it is another than the one before."""
    if all(chord is None for chord in lick.chords):
        return list(units)
    signed_anew: list[Unit] = []
    last: Chord | None = None
    for unit in units:
        own = next((lick.chords[origin] for origin in unit.origins if origin is not None), last)
        events = [replace(event, chord=None) for event in unit.events]
        if own != last and events:
            events[0] = replace(events[0], chord=own or NoChord())
        last = own
        signed_anew.append(replace(unit, events=tuple(events)))
    return signed_anew


def _relinked(units: Sequence[Unit], before: Sequence[Unit], instrument: Instrument) -> list[Unit]:
    """Units whose slurs lead from the note before: kept where that is on the same string, else struck."""
    follows = {unit: previous for previous, unit in zip((None, *before), before, strict=False)}
    relinked: list[Unit] = []
    last: Unit | None = None
    for unit in units:
        relinked.append(unit if follows.get(unit) is last else _reached_anew(unit, last, instrument))
        last = unit
    return relinked


def _reached_anew(unit: Unit, last: Unit | None, instrument: Instrument) -> Unit:
    before = () if last is None else last.events[-1].notes
    first = slurred_from(unit.events[0], before, instrument)
    if not set(first.marks) & set(LEGATO_MARKS):
        return without_reaching_marks(unit)
    return replace(unit, events=(first, *unit.events[1:]))


def _pedal(lick: Lick, units: Sequence[Unit]) -> Drafts:
    """After every note the same low one."""
    usual = usual_length(units)
    pedal = _pedal_note(lick)
    singles = [unit for unit in units if not unit.rest]
    if pedal is None or any(len(unit.events[-1].notes) > 1 for unit in singles):
        yield Refusal(
            "order", "A pedal tone wants single notes and a tone of the key below them; this has chords, or no key."
        )
        return
    found: list[Unit] = []
    for unit in units:
        found.append(unit)
        if unit.rest or unit.quarters != usual:
            continue
        if unit.events[-1].notes[0].target != pedal.target:
            found.append(Unit((Event(unit.events[-1].value, (pedal,)),), (None,)))
    yield _draft(lick, f"against a pedal tone ({_pedal_words(lick, pedal)})", found)


def _pedal_words(lick: Lick, pedal: Note) -> str:
    what = pedal.target
    midi = lick.instrument.pitch_of(what)
    return str(lick.key.scale.spelled(midi))


def _pedal_note(lick: Lick) -> Note | None:
    """The tonic or fifth below the lick's lowest note, an open string where there is one."""
    key = lick.harmony.key.key
    if key is None:
        return None
    instrument = lick.instrument
    lowest = min(lick.midis)
    tonic, fifth = key.tonic.pitch_class, (key.tonic.pitch_class + 7) % 12
    opens = [
        string
        for string in range(1, instrument.strings + 1)
        if instrument.pitch(Place(string, 0)) % 12 in (tonic, fifth)
        and instrument.pitch(Place(string, 0)) <= lowest
    ]
    if opens:
        best = min(opens, key=lambda string: (instrument.pitch(Place(string, 0)) % 12 != tonic, -string))
        return Note(Place(best, 0), locks=NO_LOCKS)
    for midi in range(lowest, instrument.lowest - 1, -1):
        if midi % 12 == tonic:
            return Note(key.scale.spelled(midi))
    return None
