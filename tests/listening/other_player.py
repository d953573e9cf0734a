"""A player and an instrument that share nothing with ours: another model of errors, and another synthesiser.

The tempo wanders with pink noise, the spread of an interval grows with its length, notes after some movements are
more uneven (not only later), and the player now and then stops and begins again at a bar line. What is played goes
as MIDI to fluidsynth with a General MIDI sound font, one channel a string; half of the slurs bend a string that
sounds already, so that they have no attack at all.
"""

from __future__ import annotations

import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path

import mido
import numpy as np
import soundfile

from dromic.arrays import Floats
from dromic.listening.movement_classes import main_class
from dromic.listening.sound.rendering import Sounding, soundings_by_event
from dromic.listening.take import End, Restart, State, TakeNote, TakeReport
from dromic.music.riff import Mark, Stroke
from dromic.music.timeline import total_played
from dromic.planner.plan import Plan, PlannedEvent

TICKS_A_SECOND = 10_000
BEND_RANGE = 12
Row = tuple[float, int, mido.Message]
SOUND_FONTS = (
    "/usr/share/sounds/sf2/FluidR3_GM.sf2",
    "/usr/share/sounds/sf2/TimGM6mb.sf2",
)
STEEL, CLEAN, OVERDRIVE, FINGER_BASS, PICK_BASS = 25, 27, 29, 33, 34
LEAD_S = 0.7
DAMPED_S = 0.025


@dataclass(frozen=True)
class Habits:
    """How the other player errs; shares are of notes, times in ms."""

    wander: float = 0.01
    spread_ms: float = 4.0
    spread_share: float = 0.02
    uneven: tuple[tuple[str, float], ...] = (("skip", 1.6), ("shift", 1.8))
    late_ms: tuple[tuple[str, float], ...] = ()
    missed: float = 0.0
    extra: float = 0.0
    restarts: int = 0
    cut: float = 0.0
    rings: float = 0.0
    tempo_ratio: float = 1.0


@dataclass(frozen=True)
class Struck:
    """One note sent to the synthesiser."""

    onset: float
    end: float
    part: Sounding
    velocity: int
    bends: bool = False


@dataclass(frozen=True)
class OtherTake:
    """What the other player played, and what is true of it."""

    struck: tuple[Struck, ...]
    truth: TakeReport
    seconds: float


def pink(count: int, chance: np.random.Generator) -> Floats:
    """Noise with equal power in every octave, standard deviation 1."""
    spectrum = np.fft.rfft(chance.standard_normal(max(count, 4) * 2))
    spectrum[1:] /= np.sqrt(np.arange(1, len(spectrum)))
    spectrum[0] = 0.0
    noise = np.fft.irfft(spectrum)[:count]
    return noise / max(float(noise.std()), 1e-9)


def other_take(plan: Plan, seed: int, habits: Habits | None = None, rounds: int = 1) -> OtherTake:
    """Play a plan."""
    how = habits or Habits()
    chance = np.random.default_rng((seed, 77))
    parts: dict[int, list[Sounding]] = {}
    for index, one in soundings_by_event(plan):
        parts.setdefault(index, []).append(one)
    events = [event for event in plan.events if event.step is not None]
    length = float(total_played(plan.riff))
    order = [(number, at) for number in range(rounds) for at in range(len(events))]
    order, restarts_at = _with_restarts(order, events, how.restarts, chance)
    tempo = plan.tempo * how.tempo_ratio
    quarter = 60.0 / tempo
    slow = pink(len(order), chance) * how.wander
    notes: list[TakeNote] = []
    struck: list[Struck] = []
    extra: list[float] = []
    restarts: list[Restart] = []
    clock, place = LEAD_S, float(events[0].moment.played)
    uneven, late = dict(how.uneven), dict(how.late_ms)
    for here, (number, at) in enumerate(order):
        event = events[at]
        beat = number * length + float(event.moment.played)
        if here in restarts_at:
            clock += float(chance.uniform(0.9, 1.8))
            restarts.append(Restart(round(clock, 6), event.moment.index))
        else:
            clock += (beat - place) * quarter * (1 + slow[here])
        place = beat
        kind = main_class(plan, event.step or 0)
        gap = (beat - float(events[at - 1].moment.played) if at else 0.25) * quarter
        spread = (how.spread_ms / 1000 + how.spread_share * min(abs(gap), 0.5)) * uneven.get(kind, 1.0)
        onset = clock + float(chance.normal(0.0, spread)) * 0.7 + late.get(kind, 0.0) / 1000
        if struck:
            onset = max(onset, struck[-1].onset + 0.03)
        missed = bool(chance.random() < how.missed)
        notes.append(
            TakeNote(
                number,
                event.moment.index,
                round(onset, 6),
                round(1000 * (onset - clock), 3),
                State.MISSED if missed else State.PLAYED,
            )
        )
        if missed:
            continue
        accent = Mark.ACCENT in event.moment.event.marks
        velocity = int(np.clip(chance.normal(92 + 18 * accent - 22 * (event.stroke is Stroke.NONE), 5), 30, 127))
        bends = event.stroke is Stroke.NONE and bool(chance.random() < 0.5)
        for order_in_chord, part in enumerate(parts[event.moment.index]):
            long = (part.end - part.onset) * quarter
            begins = onset + (0.004 * float(chance.random()) if order_in_chord else 0.0)
            struck.append(Struck(begins, onset + long, part, velocity, bends))
        if chance.random() < how.extra:
            at_s = onset + float(chance.uniform(0.4, 0.6)) * _until_next(order, here, events, length) * quarter
            extra.append(round(at_s, 6))
            struck.append(Struck(at_s, at_s + 0.1, parts[event.moment.index][0], 80))
    notes, struck = _ended(notes, struck, how, chance)
    start = LEAD_S - float(events[0].moment.played) * quarter
    report = TakeReport(tempo, start, rounds, tuple(notes), tuple(extra), tuple(restarts))
    return OtherTake(tuple(struck), report, max(one.end for one in struck) + 1.5)


def _until_next(order: list[tuple[int, int]], here: int, events: list[PlannedEvent], length: float) -> float:
    """Quarter notes until the next note."""
    if here + 1 == len(order):
        return 0.5
    (number, at), (later, then) = order[here], order[here + 1]
    apart = float(events[then].moment.played - events[at].moment.played) + (later - number) * length
    return min(apart, 1.0) if apart > 0 else 0.25


def _with_restarts(
    order: list[tuple[int, int]], events: list[PlannedEvent], count: int, chance: np.random.Generator
) -> tuple[list[tuple[int, int]], set[int]]:
    """Where the player stops, and goes back to the beginning of that bar."""
    found: set[int] = set()
    for _ in range(count):
        stop = int(chance.integers(len(order) // 3, len(order) - 3))
        number, at = order[stop]
        # Who stops at the very end and begins anew plays another round.
        while at >= len(events) - 2:
            stop -= 1
            number, at = order[stop]
        bar = events[at].moment.bar
        back = at
        while (
            back > 0
            and events[back - 1].moment.bar == bar
            and events[back - 1].moment.played < events[back].moment.played
        ):
            back -= 1
        again = [(number, one) for one in range(back, at + 1)]
        order = order[: stop + 1] + again + order[stop + 1 :]
        found = {one if one <= stop else one + len(again) for one in found} | {stop + 1}
    return order, found


def _ended(
    notes: list[TakeNote], struck: list[Struck], how: Habits, chance: np.random.Generator
) -> tuple[list[TakeNote], list[Struck]]:
    """Ends as written, cut short, or ringing on."""
    found: list[Struck] = []
    starts = np.array(sorted(one.onset for one in struck))
    truth: dict[float, tuple[End, float | None]] = {}
    for one in struck:
        later = starts[starts > one.onset + 0.02]
        if not len(later) or one.end <= float(later[0]) - 0.03:
            found.append(one)
            continue
        until = float(later[0])
        following = [other for other in struck if abs(other.onset - until) < 0.012]
        same = any(other.part.string == one.part.string for other in following)
        draw = chance.random()
        if draw < how.cut and not any(other.bends for other in following):
            end = one.onset + (until - one.onset) * float(chance.uniform(0.4, 0.65))
            truth[one.onset] = (End.GAP, 1000 * (until - end))
        elif not same and draw < how.cut + how.rings:
            end = until + 0.3
            truth[one.onset] = (End.RINGS, None)
        else:
            end = until
            truth[one.onset] = (End.JOINED, None)
        found.append(replace(one, end=end))
    out = []
    for note in notes:
        near = [key for key in truth if 0 <= key - note.onset_s < 0.0045]
        if near and note.state is not State.MISSED:
            ends, gap = truth[near[0]]
            note = replace(note, end=ends, gap_ms=gap)
        out.append(note)
    return out, found


def has_synthesiser() -> bool:
    """Whether fluidsynth and a sound font are here."""
    return shutil.which("fluidsynth") is not None and sound_font() is not None


def sound_font() -> str | None:
    """The first sound font that is here."""
    return next((font for font in SOUND_FONTS if Path(font).exists()), None)


@lru_cache(maxsize=16)
def attack_delays(program: int, font: str) -> dict[int, float]:
    """How long after a note-on each pitch begins to sound in this sound font, in seconds.

    Samples begin with some silence of their own, up to 15 ms and not the same for every pitch; what is true of a
    take is when it begins to sound. Each pitch by itself: the first moment at a fifth of its first 80 ms' peak.
    """
    pitches = range(28, 92)
    rows: list[Row] = [(0.0, 0, mido.Message("program_change", channel=0, program=program))]
    for number, pitch in enumerate(pitches):
        rows.append((0.5 + number, 1, mido.Message("note_on", channel=0, note=pitch, velocity=92)))
        rows.append((0.8 + number, 0, mido.Message("note_off", channel=0, note=pitch)))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "delays.wav"
        _write_midi(rows, path, font)
        sound, rate = soundfile.read(path)
    sound = np.abs(sound.mean(1))
    found = {}
    for number, pitch in enumerate(pitches):
        start = round((0.5 + number) * rate)
        piece = sound[start : start + round(0.08 * rate)]
        found[pitch] = float((piece >= 0.2 * piece.max()).argmax()) / rate
    return found


def write_sounded(take: OtherTake, path: Path, program: int = CLEAN, font: str | None = None) -> None:
    """Let fluidsynth play a take into a WAV file.

    Every string has two channels, so that a note can be sent as early as its sample needs while the one before it
    still sounds.
    """
    wanted = font or str(sound_font())
    delays = attack_delays(program, wanted)
    rows: list[Row] = []
    strings = sorted({one.part.string for one in take.struck})
    for number, string in enumerate(strings):
        pair = [at if at < 9 else at + 1 for at in (2 * number, 2 * number + 1)]
        for channel in pair:
            rows.append((0.0, 0, mido.Message("program_change", channel=channel, program=program)))
            for control, value in ((101, 0), (100, 0), (6, BEND_RANGE), (38, 0)):
                message = mido.Message("control_change", channel=channel, control=control, value=value)
                rows.append((0.0, 1, message))
        own = sorted((one for one in take.struck if one.part.string == string), key=lambda one: one.onset)
        rows += _string(own, pair, delays)
    rows.append((take.seconds, 9, mido.Message("control_change", channel=0, control=120, value=0)))
    _write_midi(rows, path, wanted)


def _string(own: list[Struck], pair: list[int], delays: dict[int, float]) -> Iterator[Row]:
    """What is sent for the notes of one string."""
    channel, pitch, sounds = pair[0], 0, False
    for number, one in enumerate(own):
        wanted = round(one.part.pitches[1])
        if one.bends and sounds and abs(wanted - pitch) <= BEND_RANGE:
            value = round(8191 * (wanted - pitch) / BEND_RANGE)
            yield one.onset, 3, mido.Message("pitchwheel", channel=channel, pitch=value)
        else:
            if sounds:
                yield one.onset, 2, mido.Message("control_change", channel=channel, control=120, value=0)
            channel = pair[1] if channel == pair[0] else pair[0]
            start, pitch, sounds = max(one.onset - delays[wanted], 0.0), wanted, True
            yield start, 3, mido.Message("pitchwheel", channel=channel, pitch=0)
            yield start, 4, mido.Message("note_on", channel=channel, note=pitch, velocity=one.velocity)
        following = own[number + 1] if number + 1 < len(own) else None
        goes_on = following is not None and following.onset - one.end < (0.05 if following.bends else DAMPED_S)
        if not goes_on:
            yield from _damped(channel, one.end)
            sounds = False


def _damped(channel: int, end: float) -> Iterator[Row]:
    """A finger on the string: silent within a fortieth of a second, as the samples' own release is not."""
    for step, value in enumerate((90, 50, 22, 8, 0)):
        at = end + DAMPED_S * (step + 1) / 6
        yield at, 2, mido.Message("control_change", channel=channel, control=11, value=value)
    last = end + DAMPED_S
    yield last, 2, mido.Message("control_change", channel=channel, control=120, value=0)
    yield last, 3, mido.Message("control_change", channel=channel, control=11, value=127)


def _write_midi(rows: list[Row], path: Path, font: str) -> None:
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=1_000_000)])
    before = 0
    for at, _, message in sorted(rows, key=lambda row: row[:2]):
        tick = round(at * TICKS_A_SECOND)
        track.append(message.copy(time=max(tick - before, 0)))
        before = max(tick, before)
    file = mido.MidiFile(ticks_per_beat=TICKS_A_SECOND, tracks=[track])
    with tempfile.TemporaryDirectory() as folder:
        midi = Path(folder) / "take.mid"
        file.save(midi)
        command = ["fluidsynth", "-ni", "-q", "-R", "0", "-C", "0", "-g", "0.6", "-r", "44100", "-F", str(path)]
        subprocess.run(
            [*command, font, str(midi)],
            check=True,
            capture_output=True,
            timeout=120,
        )
