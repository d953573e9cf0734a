"""Hypothesis strategies shared by all property tests: riffs of any shape, and small ones to plan."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from hypothesis import strategies as st

from dromic.instrument.presets import PRESETS, instrument_for
from dromic.music.chords import parse_sign
from dromic.music.pitch import parse_pitch, pitch_name
from dromic.music.rhythm import Meter, NoteValue, Swing
from dromic.music.riff import (
    BEND_SEMITONES,
    NO_LOCKS,
    TRILL_SEMITONES,
    Bar,
    Event,
    Gain,
    Locks,
    Mark,
    Note,
    Phrase,
    Place,
    Riff,
    Stroke,
    Style,
    without_rivals,
)
from dromic.schools.registry import SCHOOLS
from tests.helpers import not_none, place_of

WORDS = st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")), min_size=1, max_size=8)
TITLES = st.lists(WORDS, min_size=1, max_size=3).map(" ".join)
COMMENTS = TITLES
NAMES = (
    st.lists(st.text("abcABC xyz09-'", min_size=1, max_size=6), min_size=1, max_size=2)
    .map(lambda words: " ".join(" ".join(words).split()))
    .filter(bool)
)
VALUES = [
    NoteValue(4),
    NoteValue(8),
    NoteValue(8, 1),
    NoteValue(16),
    NoteValue(8, tuplet=3),
    NoteValue(16, tuplet=5),
]
METERS = [Meter(4, 4), Meter(3, 4), Meter(6, 8), Meter(7, 8), Meter(2, 2)]
SWINGS = [Swing(), Swing(Fraction(2, 3)), Swing(Fraction(3, 5), 16), Swing(Fraction(57, 100))]
TUNINGS = ["", "drop", "half-step-down", "whole-step-down"]
_INFLECTED = [
    Mark.BEND_QUARTER,
    Mark.TRILL_HALF,
    Mark.TRILL_WHOLE,
    Mark.SLIDE_IN,
    Mark.HARMONIC,
    Mark.PINCH,
]
_SIGNS = [*[None] * 9, *map(parse_sign, ("Am7", "C/E", "N.C.", "F#m7b5", "Bb7b9", "E7alt", "Gsus4", "D6/9"))]
_LONE_MARKS = [Mark.PALM_MUTE, Mark.ACCENT, Mark.DEAD, Mark.VIBRATO, Mark.RAKE, Mark.STACCATO, Mark.SLIDE_OFF]
_REACHED = [None, Mark.HAMMER, Mark.PULL, Mark.SLIDE, Mark.RELEASE, Mark.SLIDE_IN, Mark.TAP, Mark.PINCH]
_STROKES = [None, *[stroke for stroke in Stroke if stroke is not Stroke.NONE]]


@st.composite
def _locks(draw: st.DrawFn) -> Locks:
    return Locks(
        draw(st.sampled_from(_STROKES)),
        draw(st.sampled_from([None, 1, 2, 3, 4, 5])),
        draw(st.one_of(st.none(), st.integers(1, 24))),
    )


@st.composite
def _marks(draw: st.DrawFn) -> frozenset[Mark]:
    marks = set(draw(st.lists(st.sampled_from(_LONE_MARKS), max_size=2, unique=True)))
    reached = draw(st.sampled_from(_REACHED))
    risen = draw(st.sampled_from([None, *BEND_SEMITONES, *TRILL_SEMITONES]))
    marks |= {mark for mark in (reached, risen) if mark is not None}
    return without_rivals(marks)


def _what(riff: Riff) -> st.SearchStrategy:
    instrument = instrument_for(riff)
    pitches = st.integers(instrument.lowest, instrument.highest)
    return st.one_of(
        st.builds(Place, st.integers(1, instrument.strings), st.integers(0, instrument.top_fret)),
        st.builds(lambda midi, flats: parse_pitch(pitch_name(midi, flats=flats)), pitches, st.booleans()),
    )


@st.composite
def _event(draw: st.DrawFn, riff: Riff, value: NoteValue) -> Event:
    made = draw(_unsigned(riff, value))
    return replace(made, chord=draw(st.sampled_from(_SIGNS)))


@st.composite
def _unsigned(draw: st.DrawFn, riff: Riff, value: NoteValue) -> Event:
    kind = draw(st.sampled_from(["note", "note", "note", "rest", "chord"]))
    if kind == "rest":
        return Event(value)
    marks = draw(st.one_of(st.just(frozenset()), _marks()))
    locks = draw(st.one_of(st.just(NO_LOCKS), _locks()))
    if kind == "note":
        return Event(value, (Note(draw(_what(riff))),), marks, locks)
    strings = instrument_for(riff).strings
    chosen = draw(st.lists(st.integers(1, strings), min_size=2, max_size=strings, unique=True))
    notes = tuple(
        Note(
            Place(string, draw(st.integers(0, 12))),
            # The whole chord slides off, or is short, or neither.
            draw(_marks()) - {Mark.STACCATO, Mark.SLIDE_OFF},
            Locks(finger=draw(st.sampled_from([None, 1, 3, 5]))),
        )
        for string in chosen
    )
    return Event(value, notes, marks, locks)


@st.composite
def _bar(draw: st.DrawFn, riff: Riff, quarters: Fraction) -> Bar:
    """A bar of an exact length: random values, and a rest of sixty-fourths where nothing else fits."""
    events: list[Event] = []
    left = quarters
    while left > 0:
        fitting = [value for value in VALUES if value.quarters <= left]
        if not fitting:
            break
        value = draw(st.sampled_from(fitting))
        count = value.tuplet or 1
        if value.quarters * count > left:
            value, count = next(one for one in reversed([*VALUES, NoteValue(64)]) if not one.tuplet), 1
            if value.quarters > left:
                break
        events += [draw(_event(riff, value)) for _ in range(count)]
        left -= value.quarters * count
    while left > 0:
        value = NoteValue(64)
        if left < value.quarters:
            raise AssertionError("bar lengths are multiples of a sixty-fourth")
        events.append(Event(value))
        left -= value.quarters
    return Bar(tuple(events), comment=draw(st.one_of(st.just(""), COMMENTS)))


@st.composite
def riffs(draw: st.DrawFn) -> Riff:
    """Any riff that can be written, with everything the grammar knows."""
    meter = draw(st.sampled_from(METERS))
    pickup = draw(st.sampled_from([Fraction(0), Fraction(0), Fraction(1, 2), Fraction(1)]))
    head = Riff(
        (),
        title=draw(st.one_of(st.just(""), TITLES)),
        instrument=draw(st.sampled_from(list(PRESETS))),
        tuning=draw(st.sampled_from(TUNINGS)),
        scale=draw(st.sampled_from([0.0, 0.0, 628.5, 700.0])),
        nut=draw(st.sampled_from([0.0, 36.0])),
        bridge=draw(st.sampled_from([0.0, 52.25])),
        capo=draw(st.sampled_from([0, 0, 2, 7])),
        tempo=draw(st.sampled_from([120.0, 92.5, 10.0, 500.0])),
        meter=meter,
        swing=draw(st.sampled_from(SWINGS)),
        pickup=pickup,
        gain=draw(st.sampled_from(Gain)),
        style=draw(st.sampled_from([None, *Style])),
        key=draw(st.one_of(st.just(""), TITLES)),
        section=draw(st.one_of(st.just(""), TITLES)),
        comments=tuple(draw(st.lists(COMMENTS, max_size=2))),
        tail=tuple(draw(st.lists(COMMENTS, max_size=2))),
    )
    phrases: list[Phrase] = []
    at_pickup = bool(pickup)
    current = meter
    for number in range(draw(st.integers(1, 3))):
        changes = [] if pickup else draw(st.lists(st.sampled_from(METERS), max_size=2))
        lengths = [pickup] if at_pickup else []
        lengths += [meter.bar] * draw(st.integers(0 if lengths else 1, 2))
        times = draw(st.sampled_from([1, 1, 2, 5]))
        if at_pickup and times > 1:
            lengths.append(meter.bar - pickup)
        else:
            at_pickup = False
        bars = [draw(_bar(head, length)) for length in lengths]
        if current != meter:
            bars[0] = replace(bars[0], meter=meter)
        for current in changes:
            tempo = draw(st.sampled_from([None, None, 64.0, 250.5]))
            bars.append(replace(draw(_bar(head, current.bar)), meter=current, tempo=tempo))
        current = changes[-1] if changes else meter
        name = draw(st.one_of(st.none(), NAMES)) if number == 0 or phrases[-1].times == 1 else draw(NAMES)
        name = name if number == 0 or name else draw(NAMES)
        school = draw(st.sampled_from(["", "", *SCHOOLS])) if name else ""
        phrases.append(Phrase(tuple(bars), name, times, school))
    return Riff(
        tuple(phrases), **{name: getattr(head, name) for name in Riff.__dataclass_fields__ if name != "phrases"}
    )


@st.composite
def short_lines(draw: st.DrawFn, most: int = 6, *, legato: bool = True, decided: bool = False) -> Riff:
    """Single-note lines of 1 to `most` notes that stay near one place, to plan and to search through.

    `decided` adds locks of strokes and positions, which may leave no plan.
    """
    instrument = draw(st.sampled_from(["guitar-6", "bass-4", "guitar-7"]))
    base = draw(st.integers(1, 9))
    events: list[Event] = []
    value = draw(st.sampled_from([NoteValue(8), NoteValue(16), NoteValue(8, tuplet=3)]))
    for number in range(draw(st.integers(1, most))):
        place = Place(draw(st.integers(1, 4)), draw(st.sampled_from([0, base, base, base + 1, base + 2, base + 3])))
        marks: set[Mark] = set()
        if draw(st.integers(0, 3)) == 0:
            marks.add(draw(st.sampled_from([Mark.PALM_MUTE, Mark.ACCENT, Mark.STACCATO])))
        before = events[-1] if number else None
        if legato and before is not None and before.notes and draw(st.integers(0, 2)) == 0:
            previous = before.notes[0].target
            if isinstance(previous, Place):
                place = Place(previous.string, place.fret)
                if place.fret > previous.fret:
                    marks.add(Mark.HAMMER if previous.fret == 0 or draw(st.booleans()) else Mark.SLIDE)
                elif place.fret < previous.fret:
                    marks.add(Mark.PULL)
        locks = Locks(finger=draw(st.sampled_from([None] * 8 + [1, 2]))) if place.fret else NO_LOCKS
        if decided and draw(st.integers(0, 7)) == 0 and not marks & {Mark.HAMMER, Mark.PULL, Mark.SLIDE}:
            locks = replace(locks, stroke=draw(st.sampled_from([Stroke.DOWN, Stroke.UP])))
        if decided and draw(st.integers(0, 9)) == 0:
            locks = replace(locks, position=max(place.fret - draw(st.integers(0, 2)), 1))
        events.append(Event(value, (Note(place),), frozenset(marks), locks))
        if draw(st.integers(0, 7)) == 0:
            events.append(Event(value))
    meter = Meter(len(events), value.base) if not value.tuplet else Meter(max(len(events), 3), value.base)
    tempo = float(draw(st.sampled_from([60, 110, 160, 230])))
    gain = draw(st.sampled_from(Gain))
    return Riff((Phrase((Bar(tuple(events)),)),), instrument=instrument, meter=meter, tempo=tempo, gain=gain)


@st.composite
def pitch_lines(draw: st.DrawFn, most: int = 4) -> Riff:
    """Short lines of pitches that lie on several strings."""
    instrument = draw(st.sampled_from(["guitar-6", "bass-4", "bass-5"]))
    value = draw(st.sampled_from([NoteValue(8), NoteValue(16)]))
    tuning = instrument_for(Riff((), instrument=instrument)).tuning
    middle = draw(st.integers(tuning[0], tuning[-1] + 5))
    events = []
    for _ in range(draw(st.integers(1, most))):
        midi = min(max(middle + draw(st.integers(-5, 5)), tuning[0]), tuning[-1] + 12)
        events.append(Event(value, (Note(not_none(parse_pitch(pitch_name(midi)))),)))
    meter = Meter(len(events), value.base)
    tempo = float(draw(st.sampled_from([80, 140, 220])))
    return Riff((Phrase((Bar(tuple(events)),)),), instrument=instrument, meter=meter, tempo=tempo)


_TIED = {Mark.TIE}
MOST_STEPS = 4


def _chord(draw: st.DrawFn, base: int, strings: int) -> tuple[Note, ...]:
    """Two or three notes struck together: places on strings that lie close, or pitches."""
    if draw(st.integers(0, 3)) == 0:
        root = draw(st.integers(45, 52))
        steps = draw(st.sampled_from([(0, 7), (0, 12), (0, 4, 7)]))
        return tuple(Note(not_none(parse_pitch(pitch_name(root + step)))) for step in steps)
    top = draw(st.integers(1, strings - 2))
    count = draw(st.sampled_from([2, 2, 3]))
    frets = [draw(st.sampled_from([0, base, base, base + 2])) for _ in range(count)]
    return tuple(Note(Place(top + count - 1 - at, fret)) for at, fret in enumerate(frets))


@st.composite
def small_material(draw: st.DrawFn, most: int = 3) -> Riff:
    """A few events with everything that a step can be: chords, rakes, held notes, ties, grace notes, swing."""
    instrument = draw(st.sampled_from(["guitar-6", "bass-4"]))
    strings = 6 if instrument == "guitar-6" else 4
    base = draw(st.integers(1, 8))
    value = draw(st.sampled_from([NoteValue(8), NoteValue(16), NoteValue(8, tuplet=3)]))
    events: list[Event] = []
    rings = draw(st.booleans())
    for number in range(draw(st.integers(2, most))):
        single = Note(Place(draw(st.integers(1, 3)), draw(st.sampled_from([0, base, base + 1, base + 2]))))
        before = events[-1] if number else None
        kind = draw(
            st.sampled_from(
                [
                    "note",
                    "note",
                    "chord",
                    "raked",
                    "tie",
                    "grace",
                    "bend",
                    "vibrato",
                    "locked",
                    "inflected",
                    "tapped",
                ]
            )
        )
        if kind == "chord":
            raked = draw(st.integers(0, 3)) == 0
            events.append(Event(value, _chord(draw, base, strings), frozenset({Mark.RAKE} if raked else ())))
        elif kind == "raked":
            note = Note(Place(draw(st.integers(2, strings - 1)), base))
            events.append(Event(value, (note,), frozenset({Mark.RAKE})))
        elif kind == "tie" and before is not None and before.notes and not before.grace:
            notes = tuple(replace(note, locks=NO_LOCKS) for note in before.notes)
            events.append(Event(value, notes, frozenset(_TIED)))
        elif kind == "grace":
            events.append(Event(NoteValue(16), (single,), frozenset({Mark.GRACE})))
            reached = {Mark.HAMMER} if place_of(single).fret and draw(st.booleans()) else set()
            goal = (
                Note(Place(place_of(single).string, place_of(single).fret + 2)) if reached else Note(Place(2, base))
            )
            events.append(Event(value, (goal,), frozenset(reached)))
        elif kind == "bend":
            bent = Note(Place(2, base + 4))
            events.append(Event(value, (bent,), frozenset({Mark.BEND_WHOLE})))
            if draw(st.booleans()):
                events.append(Event(value, (Note(Place(1, base + 4)),)))
            events.append(Event(value, (bent,), frozenset({Mark.RELEASE})))
        elif kind == "inflected":
            mark = draw(st.sampled_from([*_INFLECTED]))
            fret = 7 if mark is Mark.HARMONIC else base + 2
            chord = _chord(draw, base, strings)
            notes = chord if mark is not Mark.HARMONIC and draw(st.booleans()) else (Note(Place(2, fret)),)
            events.append(Event(value, notes, frozenset({mark})))
        elif kind == "nowhere":
            if number:
                events.append(Event(value))
            hammered = Note(Place(draw(st.integers(1, 2)), base + draw(st.integers(0, 2))))
            events.append(Event(value, (hammered,), frozenset({Mark.HAMMER})))
        elif kind == "tapped":
            string = draw(st.integers(1, 2))
            events.append(Event(value, (Note(Place(string, base + 9)),), frozenset({Mark.TAP})))
            if draw(st.booleans()):
                events.append(Event(value, (Note(Place(string, base)),), frozenset({Mark.PULL})))
        elif kind == "vibrato":
            events.append(Event(value, (Note(Place(2, base + 2)),), frozenset({Mark.VIBRATO})))
        else:
            marks = (
                {Mark.LET_RING} if rings else {draw(st.sampled_from([Mark.ACCENT, Mark.PALM_MUTE, Mark.STACCATO]))}
            )
            locks = draw(st.sampled_from([NO_LOCKS, Locks(stroke=Stroke.UP)])) if kind == "locked" else NO_LOCKS
            events.append(Event(value, (single,), frozenset(marks if draw(st.booleans()) else ()), locks))
    # What is searched through exhaustively has to stay small.
    while sum(bool(event.notes) for event in events) > MOST_STEPS or events[-1].grace:
        events.pop()
    count = sum(not event.grace for event in events)
    return Riff(
        (Phrase((Bar(tuple(events)),)),),
        instrument=instrument,
        meter=Meter(max(count, 3) if value.tuplet else count, value.base),
        swing=draw(st.sampled_from([Swing(), Swing(Fraction(2, 3))])),
        tempo=float(draw(st.sampled_from([60, 110, 160, 230]))),
        gain=draw(st.sampled_from(Gain)),
    )


@st.composite
def repeated_lines(draw: st.DrawFn, most: int = 3) -> Riff:
    """A phrase of a few notes played twice, and a note behind it."""
    line = draw(short_lines(most=most, legato=False))
    first = line.phrases[0].bars[0]
    after = Event(first.events[0].value, (Note(Place(draw(st.integers(1, 3)), draw(st.integers(0, 5)))),))
    last = Bar((after,), meter=Meter(1, after.value.base))
    return replace(line, phrases=(Phrase((first,), "again", 2), Phrase((last,), "end")))


@st.composite
def moved_figures(draw: st.DrawFn) -> Riff:
    """Six pitches on a bass: a wide figure of two or three notes, taken again a little higher or lower."""
    length = draw(st.sampled_from([2, 3]))
    start = draw(st.integers(33, 38))
    inner = [0, draw(st.sampled_from([7, 9, 12])), draw(st.sampled_from([3, 5]))][:length]
    events = []
    for take in range(6 // length):
        start += draw(st.integers(-3, 3)) if take else 0
        for interval in inner:
            wider = draw(st.integers(-1, 1)) if interval else 0
            pitch = parse_pitch(pitch_name(max(start, 28) + interval + wider))
            events.append(Event(NoteValue(16), (Note(not_none(pitch)),)))
    bar = Bar(tuple(events))
    return Riff(
        (Phrase((bar,)),), instrument="bass-4", tempo=draw(st.sampled_from([70.0, 120.0])), meter=Meter(6, 16)
    )


@st.composite
def broken_chords(draw: st.DrawFn) -> Riff:
    """A chord broken, marked to ring or going round, or strummed over its bass; a note or two beside."""
    tones = [draw(st.integers(40, 52))]
    for interval in draw(st.lists(st.sampled_from([3, 4, 5, 7, 8]), min_size=2, max_size=3)):
        tones.append(tones[-1] + interval)
    kind = draw(st.sampled_from(["rings", "round", "strum"]))
    if kind == "rings":
        voice = [tones[-1] + draw(st.sampled_from([-2, -1, 1, 2]))] if draw(st.booleans()) else []
        rows = [[tone] for tone in draw(st.lists(st.sampled_from(tones + voice), min_size=3, max_size=4))]
    elif kind == "round":
        rows = [[tone] for tone in tones[:3]] * 2
    else:
        rows = [tones[:1], tones[1:], [draw(st.sampled_from([tones[0] - 5, tones[0] + 2]))], tones[1:]]
    marks = frozenset({Mark.LET_RING}) if kind == "rings" or draw(st.booleans()) else frozenset()
    events = [_struck(row, marks) for row in rows]
    at = draw(st.integers(0, len(events) - 1))
    locks = draw(st.sampled_from([Locks(), Locks(), Locks(finger=2), Locks(position=2), Locks(stroke=Stroke.DOWN)]))
    events[at] = replace(events[at], locks=locks)
    if draw(st.booleans()) and len(events) < 5:
        events.insert(0, _struck([draw(st.integers(45, 60))], frozenset()))
    if draw(st.booleans()) and len(events) < 5:
        legato = frozenset({Mark.HAMMER}) if draw(st.booleans()) else frozenset()
        events.append(_struck([draw(st.integers(45, 60))], legato))
    tuning = draw(st.sampled_from(["", "drop"]))
    gain = draw(st.sampled_from([Gain.CLEAN, Gain.CLEAN, Gain.HIGH]))
    return Riff(
        (Phrase((Bar(tuple(events)),)),),
        tuning=tuning,
        gain=gain,
        tempo=draw(st.sampled_from([70.0, 140.0])),
        meter=Meter(len(events), 16),
    )


def _struck(pitches: Sequence[int], marks: frozenset[Mark]) -> Event:
    notes = tuple(Note(not_none(parse_pitch(pitch_name(max(pitch, 40))))) for pitch in pitches)
    return Event(NoteValue(16), notes, marks)
