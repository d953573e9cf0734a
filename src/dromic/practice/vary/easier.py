"""Easier versions of a lick.

Fewer string changes, fewer notes, a slur or an open string that buys time, and another key, a capo or a tuning in
which it lies better.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction

from dromic.errors import RiffError
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import LOWEST_OPEN, TUNING_NAMES, instrument_for
from dromic.music.laying import rests_of
from dromic.music.rhythm import NoteValue
from dromic.music.riff import LEGATO_MARKS, STRUCK_MARKS, Event, Locks, Mark, Note, Place, Riff
from dromic.practice.vary.by_keys import HIGHEST_MOVE, LOWEST_MOVE, in_key
from dromic.practice.vary.lick import Draft, Drafts, Lick, Refusal, freed, with_events
from dromic.practice.vary.units import Unit, laid, units_of

HIGHEST_CAPO = 7
MOST_SLURS = 4
REACH_FRETS, SHIFT_PRICE = 4, 0.25
# Tunings that are common on six strings (common practice, no source), thickest string first.
SIX_STRING_TUNINGS = {
    "open D": "D2 A2 D3 F#3 A3 D4",
    "open G": "D2 G2 D3 G3 B3 D4",
    "open A": "E2 A2 E3 A3 C#4 E4",
    "D A D G A D": "D2 A2 D3 G3 A3 D4",
    "double drop D": "D2 A2 D3 G3 B3 D4",
    "all fourths": "E2 A2 D3 G3 C4 F4",
}


def drafts(lick: Lick) -> Drafts:
    """Easier versions of the lick; which are easier is seen when they are planned."""
    yield from _fewer_changes(lick)
    yield from _thinner(lick)
    yield from _slurred(lick)
    yield from _opened(lick)
    yield from _in_other_keys(lick)
    yield from _with_capo(lick)
    yield from _retuned(lick)


# -- places and slurs -----------------------------------------------------------------------------------------


def _fewer_changes(lick: Lick) -> Drafts:
    """The same notes with fewer changes of string, the hand going along where that is worth it."""
    if any(len(state.notes) > 1 for state in lick.states):
        return
    instrument = lick.instrument
    midis = [instrument.pitch(Place(*state.notes[0][:2])) for state in lick.states]
    places = fewest_changes(instrument, midis)
    if places == [Place(*state.notes[0][:2]) for state in lick.states]:
        return
    at = -1

    def event_of(event: Event) -> Event:
        nonlocal at
        if event.rest:
            return event
        at += Mark.TIE not in event.marks
        return replace(event, notes=(replace(event.notes[0], target=places[at]),))

    words = "with fewer string changes"
    riff = with_events(freed(lick.riff, lick), event_of)
    yield Draft(words, "easier", replace(riff, title=lick.title(words)), lick.all_origins(), "string changes")


def fewest_changes(instrument: Instrument, midis: Sequence[int]) -> list[Place]:
    """A place for each pitch: changes of string weighed against leaps of the hand, the best way exactly.

    Parameters
    ----------
    instrument : Instrument
    midis : sequence of int
        Each on the instrument.
    """
    sums: dict[Place, tuple[float, list[Place]]] = {}
    for number, midi in enumerate(midis):
        found: dict[Place, tuple[float, list[Place]]] = {}
        for place in instrument.places(midi):
            if not number:
                found[place] = (0.0, [place])
                continue
            ways = [(price + change_price(before, place), way) for before, (price, way) in sums.items()]
            price, way = min(ways, key=lambda one: one[0])
            found[place] = (price, [*way, place])
        sums = found
    return min(sums.values(), key=lambda one: one[0])[1]


def change_price(before: Place, place: Place) -> float:
    """What it costs to get from place to place: strings passed, and a quarter for each fret beyond reach.

    Parameters
    ----------
    before, place : Place
    """
    leap = max(abs(place.fret - before.fret) - REACH_FRETS, 0) if before.fret and place.fret else 0
    return abs(place.string - before.string) + SHIFT_PRICE * leap + 0.01 * abs(place.fret - before.fret)


def _slurred(lick: Lick) -> Drafts:
    """Slurs where the pick has least time, on notes that the plan plays on one string."""
    chosen = [step for step in _hardest(lick, "pick") if _can_slur(lick, step)][:MOST_SLURS]
    if not chosen:
        yield Refusal("easier", "No slur buys time: where the pick is short of time the strings change.")
        return
    riff = _with_slurs(lick, chosen)
    count = len(chosen)
    words = f"with {count} slur{'s' if count > 1 else ''} where the pick is short of time"
    yield Draft(words, "easier", replace(riff, title=lick.title(words)), lick.all_origins(), "slurs")


def _hardest(lick: Lick, hand: str) -> list[int]:
    """Struck notes by how little time a hand has on the way to them, the hardest first."""
    loads = []
    for at, written in enumerate(lick.struck):
        own = lick.plan.event_of_step(lick.first_steps[written]).loads
        loads.append((own.pick if hand == "pick" else own.fret, at))
    return [at for load, at in sorted(loads, key=lambda one: (-one[0], one[1])) if load > 0]


def _can_slur(lick: Lick, at: int) -> bool:
    if not at:
        return False
    before, here = lick.states[at - 1], lick.states[at]
    events = lick.riff.written_events()
    event = events[lick.struck[at]]
    if len(before.notes) > 1 or len(here.notes) > 1 or before.string != here.string or before.fret == here.fret:
        return False
    between = events[lick.struck[at - 1] + 1 : lick.struck[at]]
    marks = event.marks | event.notes[0].marks
    free = not marks & (STRUCK_MARKS | set(LEGATO_MARKS)) and event.locks.stroke is None
    # Up to a higher fret by another finger, or down to a lower one, also to an open string.
    fingers = here.finger != before.finger and (here.fret > 0 or here.fret < before.fret)
    return free and fingers and not any(one.rest for one in between)


def _with_slurs(lick: Lick, chosen: Sequence[int]) -> Riff:
    at = -1

    def event_of(event: Event) -> Event:
        nonlocal at
        if event.rest or Mark.TIE in event.marks:
            return event
        at += 1
        if at not in chosen and at + 1 not in chosen:
            return event
        string, fret, _ = lick.states[at].notes[0]
        notes = (replace(event.notes[0], target=Place(string, fret)),)
        if at not in chosen:
            return replace(event, notes=notes)
        mark = Mark.HAMMER if fret > lick.states[at - 1].fret else Mark.PULL
        return replace(event, notes=notes, marks=event.marks | {mark})

    return tied_like_before(with_events(lick.riff, event_of))


def tied_like_before(riff: Riff) -> Riff:
    """The riff with what is tied at the place of the note that it sounds on from."""
    last: tuple[Note, ...] = ()

    def event_of(event: Event) -> Event:
        nonlocal last
        if Mark.TIE in event.marks and last:
            return replace(event, notes=tuple(Note(note.target) for note in last))
        last = event.notes
        return event

    return with_events(riff, event_of)


def _opened(lick: Lick) -> Drafts:
    """An open string where the fretting hand has least time: each possible one is tried."""
    instrument = lick.instrument
    found = False
    for at in _hardest(lick, "fret")[:MOST_SLURS]:
        for near in (at, at - 1):
            state = lick.states[near] if near >= 0 else None
            if state is None or len(state.notes) > 1 or not state.fret:
                continue
            midi = instrument.pitch(Place(state.string, state.fret))
            opens = [place for place in instrument.places(midi) if not place.fret]
            for place in opens:
                found = True
                yield _with_open(lick, near, place)
    if not found:
        yield Refusal("easier", "No open string has the pitch of a note where the fretting hand is short of time.")


def _with_open(lick: Lick, at: int, place: Place) -> Draft:
    number = -1

    def event_of(event: Event) -> Event:
        nonlocal number
        number += not event.rest and Mark.TIE not in event.marks
        if number != at or event.rest:
            return event
        tie = Mark.TIE in event.marks
        notes = (replace(event.notes[0], target=place),)
        return replace(event, notes=notes, locks=event.locks if tie else Locks(event.locks.stroke))

    where = lick.plan.task.steps[lick.first_steps[lick.struck[at]]].moment.place_words
    words = f"with an open string at {where}"
    riff = with_events(lick.riff, event_of)
    return Draft(words, "easier", replace(riff, title=lick.title(words)), lick.all_origins(), "an open string")


# -- fewer notes ----------------------------------------------------------------------------------------------


def _thinner(lick: Lick) -> Drafts:
    """The notes on the larger beats only, each as long as what it stands for."""
    units = units_of(lick.riff)
    shortest = min((unit.quarters for unit in units if not unit.rest), default=Fraction(0))
    for grid, name in ((Fraction(1, 2), "eighths"), (Fraction(1), "beats")):
        if shortest >= grid:
            continue
        found = thinned(units, grid)
        if found is None:
            continue
        words = f"only the notes on the {name}"
        try:
            riff, origins = laid(lick.riff, found, lick.title(words))
        except RiffError:
            continue
        if sum(origin is not None for origin in origins) >= 2:
            yield Draft(words, "easier", riff, origins, f"density of {name}")


def thinned(units: Sequence[Unit], grid: Fraction) -> list[Unit] | None:
    """Units that begin on a grid, lasting until the next of them; None where that cannot be written.

    Parameters
    ----------
    units : sequence of Unit
    grid : Fraction
        In quarter notes.
    """
    starts: list[tuple[Fraction, Unit]] = []
    at = Fraction(0)
    for unit in units:
        if not at % grid:
            starts.append((at, unit))
        at += unit.quarters
    thinned: list[Unit] = []
    ends = [*(start for start, _ in starts[1:]), at]
    for (start, unit), end in zip(starts, ends, strict=True):
        length = end - start
        if (16 * length).denominator != 1:
            return None
        thinned.append(_of_length(unit, length))
    return thinned


def _of_length(unit: Unit, length: Fraction) -> Unit:
    *_, struck = [event for event in unit.events if not event.grace][:1]
    if unit.rest:
        return Unit(rests_of(length))
    values = [event.value for event in rests_of(length)]
    held = {Mark.TIE} | (struck.marks & {Mark.PALM_MUTE, Mark.LET_RING, Mark.VIBRATO})
    plain = struck.marks - set(LEGATO_MARKS) - {Mark.STACCATO}
    events = [
        replace(
            struck, value=value, marks=frozenset(held if number else plain), chord=None if number else struck.chord
        )
        for number, value in enumerate(_whole(values, length))
    ]
    return Unit(tuple(events), unit.origins[-1:])


def _whole(values: list[NoteValue], length: Fraction) -> list[NoteValue]:
    """One value where a dotted one says it."""
    for base in (1, 2, 4, 8, 16):
        dotted = NoteValue(base, 1)
        if dotted.quarters == length:
            return [dotted]
    return values


# -- another key, a capo, a tuning ----------------------------------------------------------------------------


def _in_other_keys(lick: Lick) -> Drafts:
    instrument, midis = lick.instrument, lick.midis
    if lick.harmony.key.key is None:
        yield Refusal("easier", lick.harmony.key.words)
        return
    for by in range(LOWEST_MOVE, HIGHEST_MOVE + 1):
        if not by or not instrument.lowest <= min(midis) + by or not max(midis) + by <= instrument.highest:
            continue
        other = lick.key.up(by)
        words = f"in {other}, {_semitones(by)}"
        riff = in_key(freed(lick.riff, lick, by), lick, other)
        yield Draft(words, "easier", riff, lick.all_origins(), "another key")


def _semitones(by: int) -> str:
    return f"{abs(by)} semitone{'s' if abs(by) > 1 else ''} {'higher' if by > 0 else 'lower'}"


def _with_capo(lick: Lick) -> Drafts:
    """The same notes with a capo: what lies better behind it."""
    sounding = freed(lick.riff, lick)
    for capo in range(HIGHEST_CAPO + 1):
        if capo == lick.riff.capo:
            continue
        riff = replace(sounding, capo=capo)
        if _reaches(lick, riff):
            words = f"with a capo at fret {capo}" if capo else "without the capo"
            yield Draft(words, "easier", replace(riff, title=lick.title(words)), lick.all_origins(), "a capo")


def _retuned(lick: Lick) -> Drafts:
    """The same notes on strings tuned otherwise."""
    sounding = freed(lick.riff, lick)
    for words, tuning in _tunings(lick.riff):
        riff = replace(sounding, tuning=tuning)
        if instrument_for(riff).tuning != lick.instrument.tuning and _reaches(lick, riff):
            named = f"in the tuning {words}"
            yield Draft(
                named, "easier", replace(riff, title=lick.title(named)), lick.all_origins(), "another tuning"
            )


def _tunings(riff: Riff) -> Iterator[tuple[str, str]]:
    for name in TUNING_NAMES:
        yield name.replace("-", " "), name
    if riff.instrument == "guitar-6":
        yield from SIX_STRING_TUNINGS.items()


def _reaches(lick: Lick, riff: Riff) -> bool:
    """Whether an instrument has all of the lick's pitches; dead notes stay at their places."""
    try:
        instrument = instrument_for(riff)
    except RiffError:
        return False
    inside = instrument.lowest <= min(lick.midis) and max(lick.midis) <= instrument.highest
    return inside and min(instrument.tuning) >= LOWEST_OPEN
