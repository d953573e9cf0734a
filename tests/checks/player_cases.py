"""Cases of what good players choose, and how plans are judged by them.

A case is a riff with one or more whole *ways* to play it that a good teacher would let pass. They are invented,
common practice, no source; each was written before any plan of it was seen. `players/open.cases` are the team's
open cases, `players/own.cases` those of the developers. A case reads::

    = name genre school
    why it is played so, in one sentence
    instrument: guitar-6
    | D4/8 E4 F#4 G4 r/2 |
    > 2:3(34)d 1:0(0)u | ...

Each line with ``>`` is a way: for every note that is struck or reached, chords from the thickest string, its place,
the fingers that may take it and the strokes that may sound it (``-``: none), with ``/`` between places. ``@0`` says
that the first bar is a pickup.

A bar is without objection when place, finger and stroke of each of its notes are let pass by one whole way; the way
that fits best counts.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from dromic.formats.rifftext.reader import read_riff_text
from dromic.music.riff import Riff, Stroke
from dromic.planner.plan import Plan

CASES = Path(__file__).parent / "players"
LETTERS = {Stroke.DOWN: "d", Stroke.UP: "u", Stroke.NONE: "-"}
_TOKEN = re.compile(r"(\d+:\d+)\(([0-4]+)\)")


@dataclass(frozen=True)
class Wanted:
    """What may be done with one note: the fingers of each place, and the strokes."""

    bar: int
    fingers: dict[str, str]
    strokes: str


@dataclass(frozen=True)
class Case:
    """A riff with the ways that players would let pass."""

    name: str
    genre: str
    school: str
    why: str
    riff: Riff
    ways: tuple[tuple[Wanted, ...], ...]


@dataclass(frozen=True)
class Played:
    """What a plan does with one note."""

    place: str
    finger: int
    stroke: str
    position: int
    chord: bool

    @property
    def string(self) -> int:
        """1 is the thinnest."""
        return int(self.place.split(":")[0])

    @property
    def fret(self) -> int:
        """0 is open."""
        return int(self.place.split(":")[1])


@dataclass(frozen=True)
class Judged:
    """How a plan fares against the way that fits it best: notes with what is right of each, and bars.

    `right` has place, place and finger, and stroke of each note.
    """

    way: tuple[Wanted, ...]
    notes: tuple[Played, ...]
    right: tuple[tuple[bool, bool, bool], ...]
    bars: dict[int, bool]


def cases_of(name: str) -> tuple[Case, ...]:
    """Cases of a file, such as ``open``."""
    text = (CASES / f"{name}.cases").read_text(encoding="utf-8")
    return tuple(_case(block.splitlines()) for block in text.split("\n\n") if block.strip())


def _case(lines: list[str]) -> Case:
    name, genre, school = lines[0].removeprefix("= ").split()
    ways = [line.removeprefix("> ") for line in lines[2:] if line.startswith("> ")]
    bars = [line for line in lines[2:] if line.startswith("|")]
    header = [line for line in lines[2:] if not line.startswith((">", "|"))]
    riff = read_riff_text("\n".join([f"title: {name}", *header, "", *bars, ""])).riff
    return Case(name, genre, school, lines[1], riff, tuple(tuple(_way(way)) for way in ways))


def _way(text: str) -> Iterator[Wanted]:
    bar = 1
    for token in text.split():
        if token.startswith("@"):
            bar = int(token[1:])
        elif token == "|":
            bar += 1
        else:
            strokes = token[token.rindex(")") + 1 :]
            yield Wanted(bar, dict(_TOKEN.findall(token)), strokes)


def played(plan: Plan) -> tuple[Played, ...]:
    """What a plan does with each note, chords from the thickest string."""
    found = []
    for event in plan.events:
        if event.rest:
            continue
        whole = event.strokes[0] if event.strokes else event.stroke
        strokes = event.strokes if len(event.strokes) == len(event.notes) else (whole,) * len(event.notes)
        rows = sorted(zip(event.notes, strokes, strict=True), key=lambda one: -one[0].string)
        for note, stroke in rows:
            letter = LETTERS.get(stroke, str(stroke))
            chord = len(event.notes) > 1
            found.append(Played(f"{note.string}:{note.fret}", note.finger, letter, event.position or 0, chord))
    return tuple(found)


def judged(case: Case, notes: tuple[Played, ...]) -> Judged:
    """Judge notes by the way of a case that fits best.

    Raises
    ------
    ValueError
        Where no way has as many notes.
    """
    found = [_by_way(way, notes) for way in case.ways if len(way) == len(notes)]
    if not found:
        raise ValueError(f"{case.name}: {len(notes)} notes are played, {len(case.ways[0])} are expected")
    return max(found, key=lambda one: (sum(one.bars.values()), sum(map(sum, one.right))))


def _by_way(way: tuple[Wanted, ...], notes: tuple[Played, ...]) -> Judged:
    bars: dict[int, bool] = {}
    right = []
    for want, note in zip(way, notes, strict=True):
        place = note.place in want.fingers
        finger = place and str(note.finger) in want.fingers[note.place]
        stroke = note.stroke in want.strokes
        bars[want.bar] = bars.get(want.bar, True) and finger and stroke
        right.append((place, finger, stroke))
    return Judged(way, notes, tuple(right), bars)


def faults(one: Judged) -> Iterator[tuple[int, str]]:
    """Notes that a player objects to, by number, and what kind of fault each is."""
    for number, (want, note, (place, finger, stroke)) in enumerate(zip(one.way, one.notes, one.right, strict=True)):
        if not place:
            yield number, _place_fault(want, note)
        elif not finger:
            yield number, _finger_fault(one, number)
        elif not stroke:
            yield number, "stroke" if note.stroke in "du-" and set(want.strokes) <= set("du-") else "plucking"


def _place_fault(want: Wanted, note: Played) -> str:
    frets = [int(place.split(":")[1]) for place in want.fingers]
    strings = [int(place.split(":")[0]) for place in want.fingers]
    if note.fret == 0:
        return "open string for a fretted note"
    if all(fret == 0 for fret in frets):
        return "fretted note for an open string"
    if note.chord:
        return "shape"
    return "region: too far up" if note.string > max(strings) else "region: too far down"


def _finger_fault(one: Judged, number: int) -> str:
    note = one.notes[number]
    if note.chord:
        return "shape"
    near = [one.notes[at] for at in (number - 1, number + 1) if 0 <= at < len(one.notes)]
    if any(abs(other.string - note.string) == 1 and other.fret == note.fret for other in near):
        return "roll"
    if number and one.notes[number - 1].position != note.position:
        return "shift"
    return "finger"
