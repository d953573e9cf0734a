"""A plan as sound: every note on its string, with clicks and a count-in when they are wanted."""

from __future__ import annotations

import wave
from dataclasses import dataclass, replace
from io import BytesIO
from itertools import pairwise
from pathlib import Path

import numpy as np

from dromic.arrays import Floats
from dromic.errors import RiffError
from dromic.hands.picking import PICK
from dromic.listening.sound.extent import Extent
from dromic.listening.sound.metronome import add_clicks, add_drone, count_in_seconds
from dromic.listening.sound.voice import (
    BASS_PICK_TOUCH,
    BASS_PLUCK_TOUCH,
    DEAD_TOUCH,
    OPEN_TOUCH,
    PALM_TOUCH,
    PLUCK_TOUCH,
    RATE,
    SLUR_TOUCH,
    Touch,
    tone,
)
from dromic.music.pitch import frequency
from dromic.music.riff import BEND_SEMITONES, TRILL_SEMITONES, Mark, Note, Place, Stroke, harmonic_rise
from dromic.planner.plan import Plan, PlannedEvent, StrokeKind
from dromic.storage.writing import write_bytes

SLIDE_S, BEND_S = 0.07, 0.16
NOWHERE_SEMITONES, FALL_SEMITONES = 2.0, 4.0
# A pinch harmonic mostly sounds the third to fifth part of the string; two octaves stand for them.
PINCH_SEMITONES = 24
LONGEST_S = 4.0
LONGEST_SOUND_S = 1_800.0
ACCENT = 1.35
UP_LOUD, UP_NEARER = 0.92, 0.88
REST_LOUD, REST_NOISE = 1.1, 1.3
SWEEP_LOUD, SWEEP_NOISE = 0.9, 0.7
LONGEST_GUITAR_MM = 740.0
LOUD = 0.55


@dataclass(frozen=True)
class Sounding:
    """One note to be sounded: times in quarter notes, pitches as MIDI numbers from start to end."""

    onset: float
    end: float
    string: int
    pitches: tuple[float, float]
    glide_s: float
    touch: Touch
    rolled_s: float = 0.0
    slides_off: bool = False


def soundings(plan: Plan) -> tuple[Sounding, ...]:
    """Every note of a plan with its length: until its string is needed, or until it is over."""
    return tuple(one for _, one in soundings_by_event(plan))


def soundings_by_event(plan: Plan) -> tuple[tuple[int, Sounding], ...]:
    """Every note of a plan as `soundings` has it, each with the index of its event."""
    rows: list[tuple[int, Sounding]] = []
    events = plan.events
    ends = _ends(plan)
    before: PlannedEvent | None = None
    for number, event in enumerate(events):
        if event.step is None:
            continue
        marks = event.moment.event.marks
        for place, note in enumerate(event.notes):
            end = ends[number, note.string]
            if Mark.LET_RING not in marks:
                end = min(end, _written_end(events, number))
            if Mark.STACCATO in marks:
                end = float(event.moment.played) + 0.45 * (end - float(event.moment.played))
            pitches, glide = _glide(plan, event, number, note.pitch + _harmonic(event, place), note.string)
            touch = _touch(plan, event, before)
            order = place if event.stroke is not Stroke.UP else len(event.notes) - 1 - place
            spread = 0.012 if Mark.RAKE in marks else 0.003
            one = Sounding(
                float(event.moment.played),
                end,
                note.string,
                pitches,
                glide,
                touch,
                spread * order,
                Mark.SLIDE_OFF in marks,
            )
            rows.append((event.moment.index, one))
        before = event
    return tuple(rows)


def _harmonic(event: PlannedEvent, place: int) -> int:
    """Semitones that a harmonic sounds above the fret that it is touched or held at."""
    marks = event.moment.event.marks
    if Mark.PINCH in marks:
        return PINCH_SEMITONES
    note = event.notes[place]
    return harmonic_rise(Note(Place(note.string, note.fret)), marks)


def _ends(plan: Plan) -> dict[tuple[int, int], float]:
    """When each note's string is needed again, by event and string."""
    ends: dict[tuple[int, int], float] = {}
    over = float(plan.events[-1].moment.ends) + 2.0
    by_string: dict[int, list[tuple[int, float]]] = {}
    for number, event in enumerate(plan.events):
        for note in event.notes if event.step is not None else ():
            by_string.setdefault(note.string, []).append((number, float(event.moment.played)))
    for string, uses in by_string.items():
        for (number, _), (_, until) in pairwise([*uses, (-1, over)]):
            ends[number, string] = until
    return ends


def _written_end(events: tuple[PlannedEvent, ...], number: int) -> float:
    """When a note is over as written, ties included: where what follows begins, swung as it may be."""
    last = number
    while last + 1 < len(events) and events[last + 1].moment.tied:
        last += 1
    own = events[last].moment
    following = events[last + 1].moment if last + 1 < len(events) else None
    if following is not None and following.played > own.played:
        return float(following.played)
    return float(own.ends)


def _touch(plan: Plan, event: PlannedEvent, before: PlannedEvent | None) -> Touch:
    """How a note is sounded, so that two plans of one riff can be heard apart."""
    marks = event.moment.event.marks
    bass = plan.instrument.scale_mm > LONGEST_GUITAR_MM
    picked = event.stroke in PICK
    if Mark.DEAD in marks:
        touch = DEAD_TOUCH
    elif Mark.PALM_MUTE in marks:
        touch = PALM_TOUCH
    elif event.stroke is Stroke.NONE:
        touch = SLUR_TOUCH
    elif picked:
        touch = BASS_PICK_TOUCH if bass else OPEN_TOUCH
    else:
        touch = BASS_PLUCK_TOUCH if bass else PLUCK_TOUCH
    if picked and event.stroke is not Stroke.NONE:
        touch = _stroked(touch, event, before)
    if Mark.ACCENT in marks:
        touch = replace(touch, loud=touch.loud * ACCENT)
    trill = next((semitones for mark, semitones in TRILL_SEMITONES.items() if mark in marks), 0)
    return replace(touch, vibrato=0.35 if Mark.VIBRATO in marks else 0.0, trill=trill)


def _stroked(touch: Touch, event: PlannedEvent, before: PlannedEvent | None) -> Touch:
    """What the stroke does to the sound: ups are lighter, rest strokes fuller, sweeps fall through softly."""
    if event.stroke is Stroke.UP:
        touch = replace(touch, loud=touch.loud * UP_LOUD, plucked_at=touch.plucked_at * UP_NEARER)
    if event.stroke_kind is StrokeKind.REST:
        touch = replace(touch, loud=touch.loud * REST_LOUD, pick_noise=touch.pick_noise * REST_NOISE)
    if before is not None and before.stroke is event.stroke and _next_to(before, event):
        touch = replace(touch, loud=touch.loud * SWEEP_LOUD, pick_noise=touch.pick_noise * SWEEP_NOISE)
    return touch


def _next_to(before: PlannedEvent, event: PlannedEvent) -> bool:
    """Whether a stroke goes on to the next string."""
    return len(before.notes) == len(event.notes) == 1 and abs(before.notes[0].string - event.notes[0].string) == 1


def _glide(
    plan: Plan, event: PlannedEvent, number: int, pitch: int, string: int
) -> tuple[tuple[float, float], float]:
    """Where the pitch begins and ends, and how long it takes."""
    marks = event.moment.event.marks
    bent = next((up for mark, up in BEND_SEMITONES.items() if mark in marks), 0.0)
    if bent:
        return (float(pitch), pitch + bent), BEND_S
    if Mark.SLIDE_IN in marks or (Mark.SLIDE in marks and event.legato is None):
        return (float(pitch) - NOWHERE_SEMITONES, float(pitch)), SLIDE_S
    before = next(
        (
            one
            for one in reversed(plan.events[:number])
            if one.step is not None and any(note.string == string for note in one.notes)
        ),
        None,
    )
    if before is not None and (Mark.SLIDE in marks or Mark.RELEASE in marks):
        other = next(note.pitch for note in before.notes if note.string == string)
        up = next((up for mark, up in BEND_SEMITONES.items() if mark in before.moment.event.marks), 0.0)
        return (other + (up if Mark.RELEASE in marks else 0.0), float(pitch)), SLIDE_S
    return (float(pitch), float(pitch)), 0.0


def render(plan: Plan, extent: Extent) -> Floats:
    """Sound a part of a plan.

    Parameters
    ----------
    plan : Plan
    extent : Extent

    Returns
    -------
    ndarray, shape (samples,)
        From -1 to 1, at `RATE` samples a second, the count-in first. What rings beyond the end is cut.

    Raises
    ------
    RiffError
        For more than half an hour of sound.
    """
    lead = count_in_seconds(plan, extent)
    if lead + extent.seconds > LONGEST_SOUND_S:
        raise RiffError(f"{(lead + extent.seconds) / 60:.0f} minutes of sound are too long; play a part of it")
    total = round((lead + extent.seconds) * RATE)
    sound = np.zeros(total + 1)
    if extent.mix.voice:
        _add_voice(sound, plan, extent, lead)
    if extent.click or extent.count_in:
        add_clicks(sound, plan, extent)
    if extent.mix.drone:
        add_drone(sound, plan, extent, lead)
    sound *= LOUD
    most = float(np.abs(sound).max())
    return sound / most if most > 1.0 else sound


def _add_voice(sound: Floats, plan: Plan, extent: Extent, lead: float) -> None:
    known: dict[tuple[object, ...], Floats] = {}
    length = extent.end - extent.start
    inside = [one for one in soundings(plan) if extent.sounds(one.onset)]
    for number in range(extent.rounds):
        for one in inside:
            begins, ends = (extent.when(number * length + at - extent.start) for at in (one.onset, one.end))
            start = round((lead + begins + one.rolled_s) * RATE)
            count = min(round(min(ends - begins, LONGEST_S) * RATE), len(sound) - start)
            if count <= 0:
                continue
            key = (one.pitches, one.touch, count, one.glide_s, one.slides_off)
            if key not in known:
                known[key] = sound_of(one, count, seed=len(known))
            sound[start : start + count] += extent.mix.voice * known[key]


def sound_of(one: Sounding, count: int, seed: int = 0) -> Floats:
    """One note for so many samples, by itself.

    Parameters
    ----------
    one : Sounding
    count : int
    seed : int
        Makes the pick's noise.

    Returns
    -------
    ndarray, shape (count,)
    """
    return tone(_curve(one, count), one.touch, seed)


def _curve(one: Sounding, count: int) -> Floats:
    low, high = (frequency(0) * 2 ** (pitch / 12) for pitch in one.pitches)
    curve = np.full(count, high)
    glide = min(round(one.glide_s * RATE), count)
    if glide and low != high:
        curve[:glide] = low * (high / low) ** np.linspace(0.0, 1.0, glide)
    fall = min(round(SLIDE_S * RATE), count // 2) if one.slides_off else 0
    if fall:
        curve[-fall:] *= 2 ** (-np.linspace(0.0, FALL_SEMITONES, fall) / 12)
    return curve


def pcm(sound: Floats) -> bytes:
    """Sound as 16-bit samples, lowest byte first."""
    return bytes((np.clip(sound, -1.0, 1.0) * 32767).astype("<i2").tobytes())


def write_wav(sound: Floats, path: Path | str) -> None:
    """Write sound as a WAV file, one channel of 16 bits.

    Raises
    ------
    RiffError
        When the file cannot be written; what stood there before is kept.
    """
    out = BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes(pcm(sound))
    write_bytes(out.getvalue(), path)
