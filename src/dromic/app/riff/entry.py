"""Entering a riff by keys: a cursor on events and strings, a duration that sticks, and what each key does.

Plain Python without Qt. Every change is one edit of the document, so that text and undo follow.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from dromic.app.document import Document
from dromic.errors import RiffError
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music import editing, phrases
from dromic.music.pitch import Pitch, parse_pitch, pitch_name
from dromic.music.rhythm import NoteValue, parse_value
from dromic.music.riff import EXCLUSIVE_MARKS, Event, Mark, Note, Place, Riff, Stroke

BASES = (1, 2, 4, 8, 16, 32)
MIDDLE = 55


@dataclass
class Entry:
    """Where the player is in the riff, and what typing does there.

    Parameters
    ----------
    document : Document
    string : int
        1 is the thinnest.
    value : NoteValue
        What new notes last.
    anchor : int or None
        Other end of the selection.
    """

    document: Document
    string: int = 6
    value: NoteValue = field(default_factory=lambda: NoteValue(8))
    anchor: int | None = None
    _copied: tuple[Event, ...] = ()

    @property
    def cursor(self) -> int:
        """Event in reading order; one beyond the last to append. It is the document's selection."""
        return self.document.cursor

    @cursor.setter
    def cursor(self, event_index: int) -> None:
        self.document.select(event_index)

    # -- where ----------------------------------------------------------------------------------------------

    @property
    def riff(self) -> Riff:
        """The riff as it is.

        Raises
        ------
        RiffError
            While the text cannot be read.
        """
        reading = self.document.reading
        if reading is None or self.document.text_error is not None:
            raise RiffError("the text cannot be read just now; correct it first (F8 goes there), or undo")
        return reading.riff

    @property
    def instrument(self) -> Instrument:
        """What the riff is for."""
        return instrument_for(self.riff)

    @property
    def count(self) -> int:
        """Number of events."""
        reading = self.document.reading
        return len(reading.riff.written_events()) if reading is not None else 0

    @property
    def here(self) -> Event | None:
        """Event at the cursor; None beyond the last."""
        events = self.riff.written_events()
        return events[self.cursor] if self.cursor < len(events) else None

    @property
    def selected(self) -> range:
        """Events that are selected: the one at the cursor, or all up to the anchor."""
        other = self.cursor if self.anchor is None else self.anchor
        low, high = sorted((self.cursor, other))
        return range(min(low, self.count), min(high + 1, self.count))

    def settle(self) -> None:
        """Keep the cursor inside after the riff has changed from elsewhere."""
        self.cursor = min(self.cursor, self.count)
        if self.document.reading is not None:
            self.string = min(self.string, instrument_for(self.document.reading.riff).strings)
        if self.anchor is not None:
            self.anchor = min(self.anchor, self.count)

    def move(self, events: int, *, select: bool = False) -> None:
        """Go along the riff; with `select` the selection grows."""
        if select and self.anchor is None:
            self.anchor = self.cursor
        elif not select:
            self.anchor = None
        self.go(self.cursor + events)

    def go(self, cursor: int) -> None:
        """Go to an event; a note's duration is taken over."""
        self.cursor = min(max(cursor, 0), self.count)
        here = self.here if self.document.text_error is None else None
        if here is not None and not here.grace and not here.rest:
            self.value = here.value

    def turn(self, strings: int) -> None:
        """Go to another string: positive toward the floor, which is the thin side."""
        self.string = min(max(self.string - strings, 1), self.instrument.strings)

    # -- notes ----------------------------------------------------------------------------------------------

    def fret(self, fret: int) -> None:
        """Put a note on the string: it replaces the one there, or joins the others as a chord.

        Raises
        ------
        RiffError
            For a fret that the instrument does not have.
        """
        if fret > self.instrument.top_fret:
            raise RiffError(f"found fret {fret}, but {self.instrument.name} has {self.instrument.top_fret}")
        self._put(Note(Place(self.string, fret)))

    def place(self, place: Place, *, joins: bool = False) -> None:
        """Put a note where it lies on the neck, in place of what is there or joining it as a chord."""
        self.string = place.string
        self._put(Note(place), alone=not joins)

    def can_grow(self, digit: int) -> bool:
        """Whether a digit typed after the one that stands makes a fret of two digits."""
        what = self._on_string()
        return (
            isinstance(what, Place) and 1 <= what.fret <= 2 and 10 * what.fret + digit <= self.instrument.top_fret
        )

    def grow(self, digit: int) -> None:
        """Add a digit to the fret that stands."""
        what = self._on_string()
        if isinstance(what, Place):
            self.fret(10 * what.fret + digit)

    def _on_string(self) -> Place | Pitch | None:
        here = self.here
        for note in here.notes if here is not None else ():
            if isinstance(note.target, Place) and note.target.string == self.string:
                return note.target
        return None

    def pitch(self, letter: str) -> None:
        """Put a pitch whose place is planned, as near to the note before as can be."""
        near = self._pitch_before()
        names = [f"{letter}{octave}" for octave in range(8)]
        found = [pitch for pitch in (parse_pitch(name) for name in names) if pitch is not None]
        low, high = self.instrument.lowest, self.instrument.highest
        found = [pitch for pitch in found if low <= pitch.midi <= high]
        if not found:
            raise RiffError(f"{letter} cannot be played on {self.instrument.name}")
        self._put(Note(min(found, key=lambda pitch: abs(pitch.midi - near))), alone=True)

    def _pitch_before(self) -> int:
        for event in reversed(self.riff.written_events()[: self.cursor]):
            if event.notes:
                what = event.notes[0].target
                return what.midi if isinstance(what, Pitch) else self.instrument.pitch(what)
        return MIDDLE

    def _put(self, note: Note, *, alone: bool = False) -> None:
        here = self.here
        if here is None:
            self.document.edit(
                editing.insert(self.riff, self.cursor, [Event(self.value, (note,))]), "entering notes"
            )
            return
        old = here.notes
        if alone or any(isinstance(one.target, Pitch) for one in old):
            notes: tuple[Note, ...] = (note,)
        else:
            what = note.target
            mine = what.string if isinstance(what, Place) else 0
            same = [one for one in old if isinstance(one.target, Place) and one.target.string == mine]
            if same:
                note = replace(note, marks=same[0].marks)
            others = [one for one in old if one not in same]
            notes = tuple(sorted((*others, note), key=lambda one: -one.target.string))  # type: ignore[union-attr]
        # A rest gives way to a note of the duration that sticks.
        value = self.value if here.rest else here.value
        self._change(lambda event: replace(event, notes=notes, value=value), "entering notes")

    def rest(self) -> None:
        """Make the event a rest, or append one."""
        if self.here is None:
            self.document.edit(editing.insert(self.riff, self.cursor, [Event(self.value)]), "entering a rest")
        else:
            self.document.edit(editing.silence(self.riff, self.cursor), "entering a rest")

    def insert(self) -> None:
        """Put a copy of the event before it."""
        here = self.here
        new = Event(self.value) if here is None else Event(self.value, here.notes)
        self.document.edit(editing.insert(self.riff, self.cursor, [new]), "inserting a note")

    def silence(self) -> None:
        """Turn what is selected into rests, everything else staying in time; on a chord, only the string's note."""
        here = self.here
        string = self._on_string()
        if here is not None and len(here.notes) > 1 and string is not None and self.anchor is None:
            notes = tuple(note for note in here.notes if note.target != string)
            self._change(lambda event: replace(event, notes=notes), "taking out a note")
            return
        riff = self.riff
        for at in reversed(self.selected):
            riff = editing.silence(riff, at)
        self.document.edit(riff, "taking out notes")

    def remove(self) -> None:
        """Take out what is selected, and close up."""
        chosen = self.selected
        at = chosen.start
        if not len(chosen):
            if not self.cursor:
                return
            at = self.cursor - 1
        self.document.edit(editing.delete(self.riff, at, max(len(chosen), 1)), "taking out notes")
        self.anchor = None
        self.go(at)

    # -- durations, marks, decisions --------------------------------------------------------------------------

    def last(self, base: int) -> None:
        """Let the note last a whole, half, quarter and so on, and the next ones too."""
        self._lasting(replace(self.value, base=base, dots=0))

    def dot(self) -> None:
        """Put a dot on the duration, or take it off."""
        self._lasting(replace(self.value, dots=0 if self.value.dots else 1, tuplet=0))

    def triplet(self) -> None:
        """Make the duration one of a triplet, or a plain one again."""
        self.tuplet(0 if self.value.tuplet else 3)

    def tuplet(self, count: int) -> None:
        """Make the duration one of `count` in a tuplet; 0 or 1 for a plain one.

        Raises
        ------
        RiffError
            For a count that is no tuplet.
        """
        wanted = "" if count < 2 else f"q{count}"
        value = parse_value(f"{self.value.base}{wanted}")
        if value is None:
            raise RiffError(f"{count} is no tuplet; 2, 3, 4, 5, 6, 7 and 9 are")
        self._lasting(value)

    def _lasting(self, value: NoteValue) -> None:
        self.value = value
        if self.here is not None:
            riff = editing.change_all(self.riff, self.selected, lambda event: replace(event, value=value))
            self.document.edit(riff, "changing a duration")

    def mark(self, mark: Mark) -> None:
        """Put a mark on what is selected, or take it off."""
        riff = self.riff
        for at in self.selected:
            riff = editing.toggle_mark(riff, at, mark)
        self.document.edit(riff, "marking notes")

    def bend(self) -> None:
        """From no bend to a half step, a whole step, a quarter tone, and none again."""
        self._next_of((Mark.BEND_HALF, Mark.BEND_WHOLE, Mark.BEND_QUARTER), "bending")

    def trill(self) -> None:
        """From no trill to a half step, a whole step, and none again."""
        self._next_of((Mark.TRILL_HALF, Mark.TRILL_WHOLE), "trilling")

    def _next_of(self, kinds: tuple[Mark, ...], what: str) -> None:
        """Go on from one of some marks to the next, and from the last to none."""
        here = self.here
        if here is None or here.rest:
            return
        at = next((number for number, mark in enumerate(kinds, start=1) if mark in here.marks), 0)
        rivals = set(kinds).union(*(group for group in EXCLUSIVE_MARKS if set(kinds) & group))
        marks = here.marks - rivals | set(kinds[at : at + 1])
        self._change(lambda event: replace(event, marks=marks), what)

    def stroke(self, stroke: Stroke) -> None:
        """Lock the stroke, or unlock it."""
        self._lock(lambda event: replace(event.locks, stroke=None if event.locks.stroke is stroke else stroke))

    def finger(self, finger: int) -> None:
        """Lock the fretting finger, or unlock it."""
        self._lock(lambda event: replace(event.locks, finger=None if event.locks.finger == finger else finger))

    def _lock(self, new: Callable[[Event], object]) -> None:
        riff = self.riff
        for at in self.selected:
            event = riff.written_events()[at]
            if not event.rest:
                riff = editing.set_locks(riff, at, new(event))  # type: ignore[arg-type]
        self.document.edit(riff, "deciding")

    def _change(self, new: Callable[[Event], Event], words: str) -> None:
        self.document.edit(editing.change(self.riff, self.cursor, new), words)

    # -- larger pieces ------------------------------------------------------------------------------------------

    def copy(self) -> int:
        """Remember what is selected; returns how many events."""
        self._copied = tuple(self.riff.written_events()[at] for at in self.selected)
        return len(self._copied)

    def paste(self) -> None:
        """Put in what was copied, before the cursor."""
        if self._copied:
            self.document.edit(editing.insert(self.riff, self.cursor, self._copied), "pasting")
            self.anchor = None
            self.go(self.cursor + len(self._copied))

    def transpose(self, semitones: int) -> None:
        """Move the whole riff, or what is selected, by semitones."""
        riff = self.riff
        if self.anchor is None:
            self.document.edit(editing.transpose(riff, semitones, self.instrument.top_fret), "transposing")
            return
        for at in self.selected:
            riff = editing.change(riff, at, lambda event: _moved(event, semitones, self.instrument))
        self.document.edit(riff, "transposing")

    def nudge(self, semitones: int) -> None:
        """Move the note at the cursor by semitones, on its string if its place is fixed."""
        if self.here is not None:
            self._change(lambda event: _moved(event, semitones, self.instrument), "moving a note")

    @property
    def phrase(self) -> int:
        """Phrase of the cursor."""
        at = editing.where(self.riff, min(self.cursor, self.count - 1))
        return at.phrase

    def repeat(self, times: int) -> None:
        """Play the phrase at the cursor so many times."""
        self.document.edit(phrases.set_times(self.riff, self.phrase, times), "repeating a phrase")

    def copy_phrase(self) -> None:
        """Write the phrase at the cursor once more after itself."""
        self.document.edit(phrases.copied_phrase(self.riff, self.phrase), "copying a phrase")

    def begin_phrase(self, name: str) -> None:
        """Let a phrase begin at the bar of the cursor."""
        at = min(self.cursor, self.count - 1)
        self.document.edit(phrases.split_phrase(self.riff, at, name), "beginning a phrase")


def _moved(event: Event, semitones: int, instrument: Instrument) -> Event:
    notes = []
    for note in event.notes:
        what = note.target
        if isinstance(what, Pitch):
            midi = what.midi + semitones
            pitch = parse_pitch(pitch_name(midi, flats=semitones < 0))
            if pitch is None or not instrument.lowest <= midi <= instrument.highest:
                raise RiffError(f"{what} cannot move there: {instrument.name} does not reach so far")
            notes.append(replace(note, target=pitch))
        else:
            if not 0 <= what.fret + semitones <= instrument.top_fret:
                raise RiffError(f"{what} cannot move there on its string; choose another string")
            notes.append(replace(note, target=Place(what.string, what.fret + semitones)))
    return replace(event, notes=tuple(notes))
