"""MIDI files, the reader: tracks to choose from, quantised beat by beat."""

from __future__ import annotations

import io
from collections import defaultdict
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise

import mido

from dromic.errors import RiffError
from dromic.formats.midi.counting import more_messages_than
from dromic.formats.midi.quantise import Placed, Played, quantised
from dromic.formats.midi.writer import OWN
from dromic.formats.reading.assembly import assembled
from dromic.formats.reading.note_lengths import UnsayableError, snapped, sounding
from dromic.formats.reading.own_header import with_own_fields
from dromic.formats.reading.raw import Imported, Part, RawBar, RawPhrase, Remarks, Source, clean_title, counted
from dromic.formats.reading.tempo_map import TempoMap
from dromic.music.pitch import parse_pitch, pitch_name
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import Event, Mark, Note, Riff

LARGEST = 8 * 2**20
MOST_MESSAGES = 400_000
MOST_FIELDS = 40
LEAST_CHANGE = 0.04
MOST_BARS = 5_000
# Four bytes of seven bits (Standard MIDI Files 1.0, variable-length quantities).
LONGEST_WAIT = 2**28 - 1
MOST_SILENT = 8
_DRUMS = 9
_BASSES = range(32, 40)
_FLAT_KEYS = ("F", "Bb", "Eb", "Ab", "Db", "Gb", "Cb", "Dm", "Gm", "Cm", "Fm", "Bbm", "Ebm", "Abm")


@dataclass
class _Track:
    name: str = ""
    program: int = 0
    notes: list[Played] = field(default_factory=list)


@dataclass
class _File:
    tracks: dict[tuple[int, int], _Track] = field(default_factory=dict)
    tempi: list[tuple[float, float]] = field(default_factory=list)
    own: list[tuple[str, str]] = field(default_factory=list)
    meters: list[tuple[Fraction, Meter]] = field(default_factory=list)
    key: str = ""
    title: str = ""


def midi_source(data: bytes) -> Source:
    """Find the tracks of a MIDI file that have notes, drums left out.

    Raises
    ------
    RiffError
        When it is no MIDI file, is broken, or has no notes.
    """
    file = _read(data)
    keys = [key for key, track in file.tracks.items() if track.notes]
    if not keys:
        raise RiffError("there are no notes in this MIDI file, other than drums perhaps")
    parts = tuple(
        Part(
            file.tracks[key].name or f"Track {key[0] + 1}, channel {key[1] + 1}",
            counted(len(file.tracks[key].notes), "note"),
        )
        for key in keys
    )
    likely = max(range(len(keys)), key=lambda number: len(file.tracks[keys[number]].notes))
    return Source(parts, lambda number: _riff(file, file.tracks[keys[number]]), likely)


def _read(data: bytes) -> _File:
    if not data.startswith(b"MThd"):
        raise RiffError("this is no MIDI file: it does not begin as one")
    if len(data) > LARGEST:
        raise RiffError(f"the file is larger than {LARGEST // 2**20} MB, which no riff is")
    if more_messages_than(data, MOST_MESSAGES):
        raise RiffError(f"the file has more than {MOST_MESSAGES} messages; split it")
    try:
        file = mido.MidiFile(file=io.BytesIO(data), clip=True)
    except Exception as error:  # noqa: BLE001 - the reader has no error of its own for broken files
        words = " ".join(str(error).split())[:80] or type(error).__name__
        raise RiffError(f"the MIDI file is broken ({words}); save it anew from the program it comes from") from None
    if file.ticks_per_beat <= 0:
        raise RiffError("this MIDI file counts film frames instead of beats; save it with beats")
    found = _File()
    for number, track in enumerate(file.tracks):
        _track(found, number, track, file.ticks_per_beat)
    return found


def _track(found: _File, number: int, track: mido.MidiTrack, ticks: int) -> None:
    now = 0
    name = ""
    open_notes: dict[tuple[int, int], list[int]] = defaultdict(list)
    for message in track:
        if message.time > LONGEST_WAIT:
            raise RiffError(f"track {number + 1} of the MIDI file waits longer than MIDI can say; it is broken")
        now += message.time
        at = Fraction(now, ticks)
        if message.type == "track_name":
            name = clean_title(message.name)
            found.title = found.title or (name if number == 0 else "")
        elif message.type == "text" and message.text.startswith(OWN) and len(found.own) < MOST_FIELDS:
            name_of, _, value = message.text.removeprefix(OWN).partition(":")
            found.own.append((name_of, value))
        elif message.type == "set_tempo" and message.tempo:
            found.tempi.append((float(at), round(60_000_000 / message.tempo, 2)))
        elif message.type == "time_signature":
            if 1 <= message.numerator <= 32 and message.denominator in (1, 2, 4, 8, 16, 32):
                found.meters.append((at, Meter(message.numerator, message.denominator)))
        elif message.type == "key_signature":
            found.key = found.key or str(message.key)
        elif message.type == "program_change" and message.channel != _DRUMS:
            found.tracks.setdefault((number, message.channel), _Track()).program = message.program
        elif message.type in ("note_on", "note_off") and message.channel != _DRUMS:
            key = (message.channel, message.note)
            if message.type == "note_on" and message.velocity:
                open_notes[key].append(now)
            elif open_notes[key]:
                start = open_notes[key].pop(0)
                own = found.tracks.setdefault((number, message.channel), _Track())
                own.notes.append(Played(start / ticks, max(now, start + 1) / ticks, message.note))
    for key in [key for key in found.tracks if key[0] == number]:
        found.tracks[key].name = name


def _riff(file: _File, track: _Track) -> Imported:
    remarks = Remarks()
    meters = sorted(dict(file.meters).items()) or [(Fraction(0), Meter())]
    if not file.meters:
        remarks.add("the file gives no metre; 4/4 is assumed")
    if meters[0][0] > 0:
        meters.insert(0, (Fraction(0), Meter()))
    try:
        bars = _laid(file, track, meters, remarks)
    except UnsayableError:
        remarks.add("some lengths are no note values; everything is put on sixteenths")
        bars = _laid(file, track, meters, remarks, coarse=True)
    remarks.add("lengths and times are put on a grid, beat by beat; look at the rhythm")
    tempo = TempoMap(file.tempi).starting(min(note.start for note in track.notes), remarks)
    lowest = min(note.pitch for note in track.notes)
    bass = track.program in _BASSES or "bass" in track.name.lower()
    head = Riff(
        (),
        title=file.title or track.name,
        instrument="bass-4" if bass and lowest >= 28 else "bass-5" if bass else "guitar-6",
        tempo=tempo,
        key=clean_title(file.key),
    )
    head = with_own_fields(head, file.own)
    # Silence before the first note, and whole bars of it at the end, are no part of a riff.
    while bars and not any(event.notes for event in bars[0].events):
        bars.pop(0)
    return assembled(head, [RawPhrase(bars)], remarks)


def _laid(
    file: _File, track: _Track, meters: list[tuple[Fraction, Meter]], remarks: Remarks, *, coarse: bool = False
) -> list[RawBar]:
    """Notes on grids, in bars."""
    beat = meters[0][1].beat if meters[0][1].compound else Fraction(1)
    swing = with_own_fields(Riff(()), file.own).swing
    notes = track.notes
    if not swing.straight and all((meter.bar / swing.pair).denominator == 1 for _, meter in meters):
        notes = [Played(swing.written(note.start), swing.written(note.end), note.pitch) for note in notes]
    placed = quantised(notes, beat, coarse=coarse)
    longest = MOST_SILENT * meters[0][1].bar
    if any(one.end - one.start > longest for one in placed):
        remarks.add(f"notes longer than {MOST_SILENT} bars are cut")
        placed = tuple(replace(one, end=min(one.end, one.start + longest)) for one in placed)
    return _bars(placed, meters, TempoMap(file.tempi), remarks, flats=file.key in _FLAT_KEYS)


def _bars(
    placed: tuple[Placed, ...],
    meters: list[tuple[Fraction, Meter]],
    tempi: TempoMap,
    remarks: Remarks,
    *,
    flats: bool,
) -> list[RawBar]:
    """Cut into bars; notes that cross a bar line are tied over it, and minutes of waiting are cut short."""
    last = max(one.end for one in placed)
    pieces: list[tuple[Fraction, Fraction, Event]] = []
    at = Fraction(0)
    for one in placed:
        if one.start > at:
            pieces.append((at, one.start, Event(NoteValue(4))))
        pitches = [parse_pitch(pitch_name(midi, flats=flats)) for midi in one.pitches]
        notes = tuple(Note(pitch) for pitch in pitches if pitch is not None)
        pieces.append((one.start, one.end, Event(NoteValue(4), notes)))
        at = one.end
    bars: list[RawBar] = []
    start = Fraction(0)
    waiting = pieces[::-1]
    while start < last:
        if len(bars) >= MOST_BARS:
            raise RiffError(f"the track lasts more than {MOST_BARS} bars; split it")
        meter = [meter for since, meter in meters if since <= start][-1]
        if waiting and waiting[-1][2].rest and waiting[-1][0] == start:
            changes = [since for since, _ in meters if since > start]
            silent = int((min([waiting[-1][1], *changes]) - start) // meter.bar)
            if silent > MOST_SILENT:
                remarks.add(f"silence of more than {MOST_SILENT} bars is shortened")
                start += (silent - MOST_SILENT) * meter.bar
                waiting[-1] = (start, *waiting[-1][1:])
        end = start + meter.bar
        bar = RawBar(
            [], meter, tempo=_steady(bars[-1].tempo if bars else None, tempi.over(float(start), float(end)))
        )
        while waiting and waiting[-1][0] < end:
            begin, stop, event = waiting.pop()
            bar.events += _cut(event, begin, min(stop, end))
            if stop > end:
                waiting.append((end, stop, _tied(event)))
        missing = end - start - bar.quarters
        if missing > 0:
            bar.events += sounding(Event(NoteValue(4)), snapped(missing))
        bars.append(bar)
        start = end
    return bars


def _steady(before: float | None, now: float | None) -> float | None:
    """The tempo of a bar: small swings, as a recorded performance has them, are no change."""
    if before is None or now is None:
        return now
    return before if abs(now / before - 1) < LEAST_CHANGE else now


def _tied(event: Event) -> Event:
    return event if event.rest else replace(event, marks=frozenset({Mark.TIE}))


def _cut(event: Event, begin: Fraction, end: Fraction) -> list[Event]:
    """An event's values; cut at beats where no values add up to its length."""
    try:
        return sounding(event, end - begin)
    except UnsayableError:
        inside = range(int(begin) + 1, int(-(-end // 1)))
        edges = [begin, *(Fraction(beat) for beat in inside), end]
        cut: list[Event] = []
        for one, other in pairwise(edges):
            cut += sounding(event if not cut else _tied(event), other - one)
        return cut
