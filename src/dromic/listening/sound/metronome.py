"""The metronome's clicks, the bar that is counted before, and the drone: where they fall, and how they sound."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from dromic.arrays import Floats
from dromic.listening.sound.extent import Extent
from dromic.listening.sound.voice import RATE
from dromic.music.pitch import frequency, parse_pitch
from dromic.music.timeline import bars_in_time
from dromic.planner.plan import Plan

CLICK_S, FADE_S = 0.03, 0.02
ACCENT, BEAT, BETWEEN = (0.6, 1900.0), (0.38, 1300.0), (0.22, 1000.0)
DRONE_LOUD = 0.16
LOWEST_DRONE = 40


@dataclass(frozen=True)
class Click:
    """One click.

    Parameters
    ----------
    seconds : float
        From the start of the sound, the count-in included.
    beat, first : bool
        Whether it falls on a beat, and on the first of a bar.
    counted : bool
        Whether it belongs to the bar that is counted before.
    """

    seconds: float
    beat: bool
    first: bool
    counted: bool = False


def counted_beats(plan: Plan, extent: Extent) -> int:
    """How many beats are counted before: a bar of the metre, half of it, or none."""
    whole = round(float(plan.riff.meter.bar / plan.riff.meter.beat))
    if not extent.count_in:
        return 0
    return max(whole // 2, 1) if extent.short_count else whole


def count_in_seconds(plan: Plan, extent: Extent) -> float:
    """How long the count-in is."""
    return counted_beats(plan, extent) * float(plan.riff.meter.beat) * 60.0 / extent.tempo


def beats(plan: Plan, shares: tuple[float, ...] = (0.0,)) -> list[tuple[float, bool, bool]]:
    """Every click of a plan in quarter notes, whether it is a beat, and whether it begins a bar.

    Parameters
    ----------
    plan : Plan
    shares : tuple of float
        Where the clicks of a beat fall, as shares of the beat.
    """
    found: dict[float, tuple[bool, bool]] = {}
    for bar in bars_in_time(plan.riff):
        beat = bar.meter.beat
        over = bar.inside + bar.bar.quarters
        place = bar.inside // beat * beat
        while place < over:
            for share in shares:
                at = place + Fraction(share).limit_denominator(1_000) * beat
                if bar.inside <= at < over:
                    found[float(bar.played(at))] = (share == 0.0, at == 0)
            place += beat
    return [(at, *kinds) for at, kinds in sorted(found.items())]


def clicks(plan: Plan, extent: Extent) -> list[Click]:
    """Every click of an extent in order, the count-in first.

    Parameters
    ----------
    plan : Plan
    extent : Extent
    """
    clicks = []
    lead = count_in_seconds(plan, extent)
    if extent.count_in:
        beat = float(plan.riff.meter.beat)
        number = counted_beats(plan, extent)
        clicks = [Click(index * beat * 60.0 / extent.tempo, True, not index, True) for index in range(number)]
    if extent.click:
        length = extent.end - extent.start
        inside = [
            one
            for one in beats(plan, extent.metronome.shares())
            if extent.start - 1e-9 <= one[0] < extent.end - 1e-9
        ]
        for number in range(extent.rounds):
            clicks += [
                Click(lead + extent.when(number * length + at - extent.start), beat_, first)
                for at, beat_, first in inside
            ]
    return clicks


def add_clicks(sound: Floats, plan: Plan, extent: Extent) -> None:
    """Sound the clicks; the first sample of each is where it falls, to the sample.

    Parameters
    ----------
    sound : ndarray, shape (samples,)
        Changed in place.
    plan : Plan
    extent : Extent
    """
    count = round(CLICK_S * RATE)
    time = np.arange(count) / RATE
    fall = np.exp(-time / 0.006)
    for click in clicks(plan, extent):
        loud, pitch = (ACCENT if click.first and extent.metronome.accents else BEAT) if click.beat else BETWEEN
        loud *= extent.mix.count_in if click.counted else extent.mix.click
        start = round(click.seconds * RATE)
        room = max(min(count, len(sound) - start), 0)
        # A cosine, so that the very first sample is heard.
        sound[start : start + room] += (loud * np.cos(2 * np.pi * pitch * time) * fall)[:room]


def drone_pitch(plan: Plan) -> int:
    """The note that lies under a riff: its key's, where the riff says one, else its lowest, in a low octave."""
    name = re.match(r"\s*([A-Ga-g][#b]?)", plan.riff.key)
    pitch = parse_pitch(f"{name[1][0].upper()}{name[1][1:]}3") if name else None
    if pitch is not None:
        midi = pitch.midi
    else:
        sounded = [note.pitch for event in plan.events for note in event.notes]
        midi = min(sounded, default=LOWEST_DRONE)
    return LOWEST_DRONE + (midi - LOWEST_DRONE) % 12


def add_drone(sound: Floats, plan: Plan, extent: Extent, lead: float) -> None:
    """Sound the drone under everything but the count-in; it comes and goes softly.

    Parameters
    ----------
    sound : ndarray, shape (samples,)
        Changed in place.
    plan : Plan
    extent : Extent
    lead : float
        Seconds of the count-in.
    """
    start = round(lead * RATE)
    count = len(sound) - start
    if count <= 0:
        return
    time = np.arange(count) / RATE
    wave: Floats = np.zeros(count)
    for number, share in enumerate((1.0, 0.5, 0.25, 0.12), start=1):
        wave += share * np.sin(2 * np.pi * frequency(drone_pitch(plan)) * number * time)
    fade = min(round(FADE_S * RATE), count // 2)
    if fade:
        rise = np.linspace(0.0, 1.0, fade)
        wave[:fade] *= rise
        wave[-fade:] *= rise[::-1]
    sound[start:] += DRONE_LOUD * extent.mix.drone * wave
