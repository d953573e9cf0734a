"""Makes varied riffs for the corpus: lines, pitches, chords, let ring, legato, bends, tuplets, all schools."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction
from random import Random
from typing import Any

from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.pitch import parse_pitch, pitch_name
from dromic.music.rhythm import Meter, NoteValue, Swing
from dromic.music.riff import NO_LOCKS, Bar, Event, Gain, Locks, Mark, Note, Phrase, Place, Riff, Stroke
from dromic.schools.registry import SCHOOLS

_BEATS = (
    [NoteValue(4)],
    [NoteValue(8)] * 2,
    [NoteValue(16)] * 4,
    [NoteValue(8), NoteValue(16), NoteValue(16)],
    [NoteValue(8, 1), NoteValue(16)],
    [NoteValue(8, tuplet=3)] * 3,
    [NoteValue(16, tuplet=5)] * 5,
)
_DOTTED_BEATS = ([NoteValue(8)] * 3, [NoteValue(4), NoteValue(8)], [NoteValue(16)] * 6)
_SCALES = ((0, 2, 3, 5, 7, 8, 10), (0, 2, 4, 5, 7, 9, 11), (0, 3, 5, 7, 10))
_TRIADS = ((0, 4, 7), (0, 3, 7), (0, 7, 12), (0, 4, 7, 10), (0, 7))


@dataclass
class _Maker:
    """A riff in the making."""

    chance: Random
    instrument: Instrument
    base: int
    scale: tuple[int, ...]
    at: int = 0
    last: Place | None = None
    bent: Place | None = None
    marks: set[Mark] = field(default_factory=set)

    def rarely(self, share: float) -> bool:
        return self.chance.random() < share

    def line(self) -> Note:
        """A place in a position."""
        fret = self.chance.choice((0, self.base, self.base + 1, self.base + 2, self.base + 3, self.base + 5))
        string = self.chance.randint(1, self.instrument.strings)
        return Note(Place(string, min(fret, self.instrument.top_fret)))

    def pitch(self) -> Note:
        """A pitch of a scale, near the one before."""
        root = self.instrument.lowest + self.base
        ladder = [
            midi
            for midi in range(self.instrument.lowest, self.instrument.tuning[-1] + 14)
            if (midi - root) % 12 in self.scale
        ]
        self.at = min(max(self.at + self.chance.choice((-2, -1, -1, 1, 1, 2, 3)), 0), len(ladder) - 1)
        pitch = parse_pitch(pitch_name(ladder[self.at]))
        assert pitch is not None
        return Note(pitch)

    def chord(self) -> tuple[Note, ...]:
        """Pitches of a chord, or two or three neighbouring strings."""
        if self.rarely(0.5):
            string = self.chance.randint(3, self.instrument.strings)
            count = self.chance.choice((2, 2, 3))
            frets = [self.base, self.base + 2, self.base + 2]
            return tuple(Note(Place(string - at, frets[at])) for at in range(count) if string - at > 0)
        root = self.instrument.lowest + self.chance.randint(0, 12)
        pitches = [parse_pitch(pitch_name(root + step)) for step in self.chance.choice(_TRIADS)]
        return tuple(Note(pitch) for pitch in pitches if pitch is not None)

    def legato(self) -> tuple[Note, frozenset[Mark]] | None:
        """A note that is hammered, pulled or slid to from the one before."""
        if self.last is None or self.last.fret == 0:
            return None
        mark = self.chance.choice((Mark.HAMMER, Mark.PULL, Mark.SLIDE))
        step = self.chance.choice((1, 2)) * (-1 if mark is Mark.PULL else 1)
        fret = self.last.fret + step
        if not 0 <= fret <= self.instrument.top_fret:
            return None
        return Note(Place(self.last.string, fret)), frozenset({mark})

    def plain_marks(self) -> frozenset[Mark]:
        choice = self.chance.random()
        chances = ((0.08, Mark.PALM_MUTE), (0.14, Mark.ACCENT), (0.17, Mark.STACCATO), (0.19, Mark.DEAD))
        return frozenset(next(({mark} for limit, mark in chances if choice < limit), set()))


def _event(maker: _Maker, kind: str, value: NoteValue) -> Event:
    chance, last = maker.chance, maker.last
    maker.last = None
    if maker.rarely(0.07):
        return Event(value)
    if kind == "chords" and maker.rarely(0.55):
        marks = frozenset({Mark.RAKE}) if maker.rarely(0.1) else frozenset()
        return Event(
            value, maker.chord(), marks | (frozenset({Mark.LET_RING}) if maker.rarely(0.1) else frozenset())
        )
    if kind == "lead":
        if maker.bent is not None:
            bent, maker.bent = maker.bent, None
            return Event(value, (Note(bent),), frozenset({Mark.RELEASE}))
        maker.last = last
        reached = maker.legato() if maker.rarely(0.4) else None
        if reached is not None:
            maker.last = reached[0].target if isinstance(reached[0].target, Place) else None
            return Event(value, (reached[0],), reached[1])
        note = maker.line()
        maker.last = note.target if isinstance(note.target, Place) else None
        place = maker.last
        if place is not None and place.fret > 4 and maker.rarely(0.2):
            maker.bent, maker.last = place, None
            return Event(value, (note,), frozenset({chance.choice((Mark.BEND_HALF, Mark.BEND_WHOLE))}))
        extra = Mark.VIBRATO if maker.rarely(0.5) else Mark.RAKE
        if place is not None and place.fret and place.string < maker.instrument.strings and maker.rarely(0.1):
            return Event(value, (note,), frozenset({extra}))
        return Event(value, (note,))
    note = (
        maker.pitch() if kind in ("pitches", "chords") or (kind == "ring" and maker.rarely(0.5)) else maker.line()
    )
    if kind == "ring":
        return Event(value, (note,), frozenset({Mark.LET_RING}) if maker.rarely(0.7) else frozenset())
    locks = NO_LOCKS
    if kind == "decided" and maker.rarely(0.3):
        locks = chance.choice((Locks(stroke=Stroke.DOWN), Locks(stroke=Stroke.UP), Locks(finger=1)))
        if locks.finger and isinstance(note.target, Place) and not note.target.fret:
            locks = NO_LOCKS
    return Event(value, (note,), maker.plain_marks(), locks)


def _bar(maker: _Maker, kind: str, meter: Meter) -> Bar:
    events: list[Event] = []
    beats = _DOTTED_BEATS if meter.compound else _BEATS
    left = meter.bar
    while left > 0:
        fitting = [beat for beat in beats if sum(value.quarters for value in beat) <= left]
        values = maker.chance.choice(fitting) if fitting else [NoteValue(8)]
        for value in values:
            if kind in ("line", "lead") and maker.rarely(0.05):
                events.append(Event(NoteValue(16), (maker.line(),), frozenset({Mark.GRACE})))
            event = _event(maker, kind, value)
            if events and events[-1].notes and not events[-1].grace and maker.rarely(0.04) and event.notes:
                event = Event(value, events[-1].notes, frozenset({Mark.TIE}))
                maker.last = maker.bent = None
            events.append(event)
        left -= sum((value.quarters for value in values), Fraction(0))
    return Bar(tuple(events))


def made(seed: int) -> tuple[Riff, dict[str, Any]]:
    """A riff and how it is to be planned, the same for a seed every time."""
    chance = Random(seed)
    kind = ("line", "pitches", "chords", "ring", "lead", "decided")[seed % 6]
    school = list(SCHOOLS)[seed // 6 % len(SCHOOLS)]
    bass = school == "bass-two-finger" or chance.random() < 0.1
    name = (
        chance.choice(("bass-4", "bass-5")) if bass else chance.choice(("guitar-6",) * 4 + ("guitar-7", "guitar-8"))
    )
    meter = Meter(6, 8) if school == "jig" else chance.choice((Meter(4, 4), Meter(4, 4), Meter(3, 4), Meter(7, 8)))
    swing = chance.choice((Swing(), Swing(), Swing(Fraction(2, 3)), Swing(Fraction(3, 5), 16)))
    head = Riff(
        (),
        title=f"Corpus {seed}",
        instrument=name,
        tempo=float(chance.choice((60, 90, 120, 150, 180, 220))),
        meter=meter,
        swing=Swing() if meter.compound else swing,
        gain=Gain(chance.choice(("clean", "crunch", "high"))),
        capo=chance.choice((0, 0, 0, 2)),
    )
    maker = _Maker(chance, instrument_for(head), chance.randint(1, 12), chance.choice(_SCALES))
    maker.at = chance.randint(3, 12)
    phrases = []
    for number in range(chance.choice((1, 1, 2))):
        bars = tuple(_bar(maker, kind, meter) for _ in range(chance.choice((1, 1, 2))))
        maker.last = maker.bent = None
        phrases.append(Phrase(bars, f"p{number}", chance.choice((1, 1, 1, 2, 3))))
    plan_settings: dict[str, Any] = {"school": school}
    options: tuple[tuple[float, Callable[[], dict[str, Any]]], ...] = (
        (0.12, lambda: {"loop": True}),
        (0.12, lambda: {"objective": "tempo"}),
        (0.15, lambda: {"hands": chance.choice(("small", "large", "beginner", "fast"))}),
        (0.08, lambda: {"by_phrase": {"p0": chance.choice(list(SCHOOLS))}}),
        (0.08, lambda: {"first_stroke": chance.choice(("down", "up"))}),
        (0.05, lambda: {"free": ["strings"]}),
    )
    for share, option in options:
        if chance.random() < share:
            plan_settings |= option()
    if any(phrase.times > 1 for phrase in phrases) and chance.random() < 0.4:
        plan_settings["identical_repeats"] = True
    return replace(head, phrases=tuple(phrases)), plan_settings
