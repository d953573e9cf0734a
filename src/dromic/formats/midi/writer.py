"""MIDI files, the writer: the riff as it sounds, with strokes and fingers as text events."""

from __future__ import annotations

import io
from fractions import Fraction
from itertools import pairwise

import mido

from dromic.formats.reading.own_header import own_fields
from dromic.hands.fingers import finger_words
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Event, Locks, Mark, Place, Riff, harmonic_rise, stroke_words
from dromic.music.timeline import bars_in_time, timeline

TICKS = 5040
GUITAR, BASS = 25, 33
LOUD, ACCENTED, MUTED = 88, 112, 66


def write_midi(riff: Riff) -> bytes:
    """Write a riff as a MIDI file of one track, repeats played out.

    Parameters
    ----------
    riff : Riff
        With strokes decided where they are to be seen (see `dromic.planner.locking.decided_riff`).

    Returns
    -------
    bytes
        Format 1: a track with tempo and metres, and one with the notes. Swing is played.
    """
    file = mido.MidiFile(ticks_per_beat=TICKS)
    file.tracks.append(_conductor(riff))
    file.tracks.append(_notes(riff))
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


OWN = "dromic "


def _conductor(riff: Riff) -> mido.MidiTrack:
    track = mido.MidiTrack()
    track.append(mido.MetaMessage("track_name", name=_latin(riff.title) or "Riff", time=0))
    for name, value in own_fields(riff):
        track.append(mido.MetaMessage("text", text=_latin(f"{OWN}{name}: {value}"), time=0))
    track.append(mido.MetaMessage("set_tempo", tempo=round(60_000_000 / riff.tempo), time=0))
    rows: list[tuple[int, mido.MetaMessage]] = []
    shift = _lead(riff)
    tempo = riff.tempo
    for bar in bars_in_time(riff):
        if bar.tempo != tempo:
            tempo = bar.tempo
            rows.append((_ticks(bar.start + shift), mido.MetaMessage("set_tempo", tempo=round(60_000_000 / tempo))))
    meter = None
    for moment in timeline(riff):
        if moment.meter != meter:
            meter = moment.meter
            at = _ticks(moment.onset - (moment.beat - 1) if moment.bar else moment.onset)
            signature = mido.MetaMessage("time_signature", numerator=meter.count, denominator=meter.unit)
            rows.append((max(at, 0), signature))
    now = 0
    for at, message in sorted(rows, key=lambda row: row[0]):
        track.append(message.copy(time=at - now))
        now = at
    return track


def _lead(riff: Riff) -> Fraction:
    """Silence before a pickup, which stands at the end of a whole bar, so that bar lines fall where they belong."""
    return riff.meter.bar - riff.pickup if riff.pickup else Fraction(0)


def _notes(riff: Riff) -> mido.MidiTrack:
    instrument = instrument_for(riff)
    track = mido.MidiTrack()
    bass = riff.instrument.startswith("bass")
    track.append(mido.MetaMessage("track_name", name="Bass" if bass else "Guitar", time=0))
    track.append(mido.Message("program_change", program=BASS if bass else GUITAR, time=0))
    rows: list[tuple[int, int, mido.Message | mido.MetaMessage]] = []
    moments = timeline(riff)
    end = moments[-1].swung + moments[-1].duration
    shift = _lead(riff)
    stops = [after.swung for _, after in pairwise(moments)] + [end]
    for number, moment in enumerate(moments):
        event = moment.event
        if event.rest or moment.tied:
            continue
        last = number
        while last + 1 < len(moments) and moments[last + 1].tied:
            last += 1
        start, stop = _ticks(moment.swung + shift), _ticks(stops[last] + shift)
        if Mark.STACCATO in event.marks:
            stop = start + (stop - start) // 2
        words = _words(event)
        if words:
            rows.append((start, 0, mido.MetaMessage("text", text=words, time=0)))
        for note in event.notes:
            midi = min(instrument.pitch_of(note.target) + harmonic_rise(note, event.marks), 127)
            loud = ACCENTED if Mark.ACCENT in event.marks else MUTED if Mark.PALM_MUTE in event.marks else LOUD
            rows.append((start, 2, mido.Message("note_on", note=midi, velocity=loud)))
            rows.append((max(stop, start + 1), 1, mido.Message("note_off", note=midi, velocity=0)))
    now = 0
    for at, _, message in sorted(rows, key=lambda row: row[:2]):
        track.append(message.copy(time=at - now))
        now = at
    return track


def _words(event: Event) -> str:
    """Stroke and fingers in words."""
    locks: Locks = event.locks
    words = [stroke_words(locks.stroke)] if locks.stroke is not None else []
    for note in event.notes:
        finger = note.locks.finger or (locks.finger if len(event.notes) == 1 else None)
        place = f"string {note.target.string} fret {note.target.fret}" if isinstance(note.target, Place) else ""
        words += [" ".join(filter(None, [place, finger_words(finger) if finger else ""]))]
    return ", ".join(filter(None, words))


def _ticks(quarters: Fraction) -> int:
    return round(quarters * TICKS)


def _latin(text: str) -> str:
    return text.encode("latin-1", "replace").decode("latin-1")
