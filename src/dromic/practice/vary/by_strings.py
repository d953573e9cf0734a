"""A lick on other strings: the same notes elsewhere, the same figure elsewhere, and an octave away."""

from __future__ import annotations

from dataclasses import replace

from dromic.errors import RiffError
from dromic.music.riff import Event, Mark, Note, Place, Riff
from dromic.planner.locking import decided_riff
from dromic.practice.vary.lick import Draft, Drafts, Lick, Refusal, freed, moved_notes, with_events


def drafts(lick: Lick) -> Drafts:
    """The lick on other strings."""
    for by in (1, -1, 2, -2):
        yield from _same_notes(lick, by)
    yield from _same_figure(lick)
    for octaves in (1, -1):
        yield from _octave(lick, octaves)


def _same_notes(lick: Lick, by: int) -> Drafts:
    """The same pitches, every note so many strings thicker."""
    instrument = lick.instrument
    at = -1
    side = "thicker" if by > 0 else "thinner"
    words = f"the same notes {abs(by)} string{'s' if abs(by) > 1 else ''} {side}"
    placed = []
    for state in lick.states:
        own = []
        for string, fret, _ in state.notes:
            other = string + by
            if not 1 <= other <= instrument.strings:
                return
            moved = instrument.pitch(Place(string, fret)) - instrument.pitch(Place(other, 0))
            if not 0 <= moved <= instrument.top_fret:
                return
            own.append(Place(other, moved))
        placed.append(own)

    def event_of(event: Event) -> Event:
        nonlocal at
        if event.rest:
            return event
        if Mark.TIE not in event.marks:
            at += 1
        pitches = {instrument.pitch(place): place for place in placed[at]}
        notes = tuple(replace(note, target=pitches[instrument.pitch_of(note.target)]) for note in event.notes)
        return replace(event, notes=notes)

    riff = with_events(freed(lick.riff, lick), event_of)
    yield Draft(words, "strings", replace(riff, title=lick.title(words)), lick.all_origins())


def _same_figure(lick: Lick) -> Drafts:
    """The same frets, fingers and strokes on other strings: other notes, the same movement."""
    strings = [string for state in lick.states for string, _, _ in state.notes]
    low, high = lick.instrument.strings - max(strings), 1 - min(strings)
    if low == high:
        yield Refusal("strings", "It needs all strings, so its figure fits on no others; choose a shorter passage.")
        return
    decided = decided_riff(lick.plan)
    middle = round((low + high) / 2)
    for by, area in {middle: "middle", low: "low", high: "high"}.items():
        if by:
            words = f"the same figure on the {area} strings"
            riff = replace(_on_strings(decided, by), title=lick.title(words))
            yield Draft(words, "strings", riff, lick.all_origins())


def _on_strings(riff: Riff, by: int) -> Riff:
    def note_of(note: Note) -> Note:
        what = note.target
        return replace(note, target=replace(what, string=what.string + by)) if isinstance(what, Place) else note

    return with_events(riff, lambda event: replace(event, notes=tuple(map(note_of, event.notes))))


def _octave(lick: Lick, octaves: int) -> Drafts:
    words = f"an octave {'higher' if octaves > 0 else 'lower'}"
    if lick.harmony.key.key is None:
        return
    try:
        moved_notes(lick, lambda _at, midi: midi + 12 * octaves, words)
    except RiffError as error:
        yield Refusal("strings", error.message)
        return
    riff = freed(lick.riff, lick, 12 * octaves)
    yield Draft(words, "strings", replace(riff, title=lick.title(words)), lick.all_origins())
