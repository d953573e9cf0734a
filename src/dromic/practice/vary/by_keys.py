"""A lick in the other keys: with its fingering kept, and round the circle of fourths by the shortest way.

A place where the fingering is the same is so many frets along the neck, and on strings that are tuned as far apart
as the lick's own. Of the places of each key the route takes one, so that the hand goes the fewest millimetres in
all, by an exact search for the shortest path through a layer a key.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dromic.errors import NoPlanError, RiffError
from dromic.instrument.instrument import Instrument
from dromic.music.chords import Chord
from dromic.music.keys import CIRCLE_STEP, Key, circle_of_fourths
from dromic.music.laying import filled_up
from dromic.music.riff import Bar, Event, Note, Phrase, Place, Riff
from dromic.planner.locking import decided_riff
from dromic.planner.planning import plan_riff
from dromic.practice.passages.excerpt import request_like
from dromic.practice.vary.lick import (
    Draft,
    Drafts,
    Lick,
    Refusal,
    freed,
    with_events,
    with_signs_changed,
)

MOST_ROUTE_NOTES = 120
HIGHEST_HOME = 17
LOWEST_MOVE, HIGHEST_MOVE = -6, 6


@dataclass(frozen=True)
class SamePlace:
    """Where the same fingering sounds another key.

    Parameters
    ----------
    strings : int
        How many strings thicker.
    frets : int
        How many frets higher.
    semitones : int
        How much higher it sounds.
    home_mm : float
        Where the hand is, from the nut.
    """

    strings: int
    frets: int
    semitones: int
    home_mm: float


def same_places(lick: Lick) -> tuple[SamePlace, ...]:
    """Every place where a lick is played with the same fingering, its own among them.

    Parameters
    ----------
    lick : Lick
    """
    instrument = lick.instrument
    notes = [note for state in lick.states for note in state.notes]
    used = {string for string, _, _ in notes}
    fretted = [fret for _, fret, _ in notes if fret]
    opens = len(fretted) < len(notes)
    homes = [state.position for state in lick.states if any(fret for _, fret, _ in state.notes)] or [1]
    home = int(np.median(homes))
    same_places = []
    for strings in range(1 - min(used), instrument.strings - max(used) + 1):
        rises = {_tuned(instrument, string + strings) - _tuned(instrument, string) for string in used}
        if len(rises) > 1:
            continue
        lowest, highest = min(fretted, default=1), max(fretted, default=1)
        first, last = 1 - min(lowest, *homes), instrument.top_fret - highest
        for frets in (0,) if opens else range(first, last + 1):
            if frets and home + frets > max(HIGHEST_HOME, home):
                continue
            mm = float(instrument.spots[min(home + frets, instrument.top_fret)])
            same_places.append(SamePlace(strings, frets, rises.pop() + frets if rises else 0, mm))
            rises = {same_places[-1].semitones - frets}
    return tuple(same_places)


def _tuned(instrument: Instrument, string: int) -> int:
    return instrument.tuning[instrument.index(string)]


def shortest_route(layers: Sequence[Sequence[SamePlace]], start: SamePlace) -> tuple[SamePlace, ...]:
    """One place of each layer, so that the hand goes the fewest millimetres along the neck from the start on.

    Parameters
    ----------
    layers : sequence of sequence of SamePlace
        None empty.
    start : SamePlace

    Notes
    -----
    Of ways as short the one that stays on the same strings is taken, then the lower one.
    """
    sums: list[tuple[float, int, tuple[SamePlace, ...]]] = [(0.0, 0, (start,))]
    for layer in layers:
        found = []
        for place in layer:
            ways = [
                (
                    mm + abs(place.home_mm - way[-1].home_mm),
                    changes + abs(place.strings - way[-1].strings),
                    way,
                )
                for mm, changes, way in sums
            ]
            mm, changes, way = min(ways, key=lambda one: (round(one[0], 6), one[1], one[2][-1].home_mm))
            found.append((mm, changes, (*way, place)))
        sums = found
    best = min(sums, key=lambda one: (round(one[0], 6), one[1], one[2][-1].home_mm))
    return best[2][1:]


def route_mm(route: Sequence[SamePlace], start: SamePlace) -> float:
    """How far the hand goes along a route."""
    homes = [start.home_mm, *(place.home_mm for place in route)]
    return float(np.abs(np.diff(homes)).sum())


def drafts(lick: Lick) -> Drafts:
    """The lick in every other key, and through all of them."""
    key = lick.key
    keys = circle_of_fourths(key)
    places = [place for place in same_places(lick) if _playable(lick, place)]
    own = next(place for place in places if not place.strings and not place.frets)
    by_key = [[one for one in places if (one.semitones - CIRCLE_STEP * step) % 12 == 0] for step in range(12)]
    for number, other in enumerate(keys[1:], start=1):
        yield from _in_key(lick, key, other, by_key[number], own, number)
    missing = [str(keys[number].tonic) for number in range(1, 12) if not by_key[number]]
    if missing:
        yield Refusal(
            "keys",
            f"The fingering cannot be kept in {', '.join(missing)}: {_why(lick)}. There it is planned anew; a capo "
            "keeps open strings and fingering.",
        )
    elif len(lick.struck) > MOST_ROUTE_NOTES:
        yield Refusal(
            "keys",
            f"A route through twelve keys is made of licks of up to {MOST_ROUTE_NOTES} notes, and this one has "
            f"{len(lick.struck)}; select a passage.",
        )
    else:
        yield _route(lick, keys, [by_key[number] for number in range(1, 12)], own)


def _playable(lick: Lick, place: SamePlace) -> bool:
    """Whether the fingers reach there what they do here: lower frets are wider apart."""
    if place.frets >= 0 and not place.strings:
        return True
    try:
        request = replace(request_like(lick.plan), explained=False)
        plan_riff(_at_place(decided_riff(lick.plan), place, lick.instrument), request)
    except NoPlanError:
        return False
    return True


def _why(lick: Lick) -> str:
    opens = any(not fret for state in lick.states for _, fret, _ in state.notes)
    return "open strings do not move" if opens else "the neck is too short for it, or its low frets too wide"


def _in_key(lick: Lick, key: Key, other: Key, places: Sequence[SamePlace], own: SamePlace, number: int) -> Drafts:
    steps = (other.tonic.pitch_class - key.tonic.pitch_class) % 12
    words = f"in {other}"
    if places:
        nearest = min(places, key=lambda place: (abs(place.home_mm - own.home_mm), abs(place.strings)))
        riff = _at_place(decided_riff(lick.plan), nearest, lick.instrument)
        where = f"{abs(nearest.frets)} frets {'up' if nearest.frets > 0 else 'down'}" if nearest.frets else ""
        if nearest.strings:
            side = "thicker" if nearest.strings > 0 else "thinner"
            count = abs(nearest.strings)
            where = ", ".join(filter(None, [where, f"{count} string{'s' if count > 1 else ''} {side}"]))
        words = f"{words}, fingering kept, {where}".replace("1 frets", "1 fret")
    else:
        by = steps if steps <= HIGHEST_MOVE else steps - 12
        low, high = min(lick.midis), max(lick.midis)
        ways = [one for one in (by, by - 12, by + 12) if low + one >= lick.instrument.lowest]
        ways = [way for way in ways if high + way <= lick.instrument.highest]
        if not ways:
            yield Refusal("keys", f"{other} is beyond the neck; an instrument with more strings reaches it.")
            return
        riff = freed(lick.riff, lick, ways[0])
        words = f"{words}, fingered anew"
    yield Draft(words, "keys", in_key(riff, lick, other), lick.all_origins())


def in_key(riff: Riff, lick: Lick, other: Key) -> Riff:
    """A riff whose header and chord signs say another key than the lick's.

    Parameters
    ----------
    riff : Riff
    lick : Lick
    other : Key
    """
    by = other.tonic.pitch_class - lick.key.tonic.pitch_class

    def sign(chord: Chord) -> Chord:
        spelled = other.scale.spelled(60 + chord.root.pitch_class + by)
        root = replace(chord.root, letter=spelled.letter, alter=spelled.alter)
        return chord.up(by, root)

    moved = with_signs_changed(riff, sign)
    return replace(moved, key=str(other), title=lick.title(f"in {other}"))


def _at_place(riff: Riff, place: SamePlace, instrument: Instrument) -> Riff:
    """A riff whose places are all decided, moved with its fingering."""

    def note_of(note: Note) -> Note:
        what = note.target
        if not isinstance(what, Place):
            raise RiffError(f"{what} has no place; plan the lick first")
        fret = what.fret + place.frets if what.fret else 0
        return replace(note, target=Place(what.string + place.strings, fret))

    def event_of(event: Event) -> Event:
        locks = event.locks
        if locks.position is not None:
            locks = replace(locks, position=min(max(locks.position + place.frets, 1), 24))
        return replace(event, notes=tuple(note_of(note) for note in event.notes), locks=locks)

    return with_events(riff, event_of)


def _route(lick: Lick, keys: Sequence[Key], layers: Sequence[Sequence[SamePlace]], own: SamePlace) -> Draft:
    """The lick in one key after the other, as one riff with a phrase a key."""
    route = shortest_route(layers, own)
    decided = decided_riff(lick.plan)
    phrases: list[Phrase] = []
    for key, place in zip(keys, (own, *route), strict=True):
        moved = in_key(_at_place(decided, place, lick.instrument), lick, key)
        bars = [bar for phrase in moved.phrases for bar in phrase.bars]
        if lick.riff.pickup:
            missing = lick.riff.meter.bar - lick.riff.pickup
            bars[0] = replace(bars[0], events=(*filled_up((), missing), *bars[0].events))
            last = (bars[-1].meter or lick.riff.meter).bar - bars[-1].quarters
            if last > 0:
                bars[-1] = replace(bars[-1], events=(*bars[-1].events, *filled_up(bars[-1].events, last)))
        opening = replace(bars[0], meter=lick.riff.meter if _changes_meter(bars) else bars[0].meter)
        phrases.append(Phrase((opening, *bars[1:]), str(key)))
    mm = route_mm(route, own)
    words = f"through the twelve keys round the circle of fourths, {mm:.0f} mm of shifts"
    riff = replace(lick.riff, title=lick.title("twelve keys"), pickup=lick.riff.pickup * 0, phrases=tuple(phrases))
    return Draft(words, "keys", riff, lick.all_origins() * 12)


def _changes_meter(bars: Sequence[Bar]) -> bool:
    return any(bar.meter is not None for bar in bars)
