"""Clicks, ramps, the drone and the volumes, in the sound itself."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from dromic.arrays import Floats
from dromic.errors import RiffError
from dromic.listening.sound.extent import Extent, Metronome, Mix
from dromic.listening.sound.metronome import clicks, drone_pitch
from dromic.listening.sound.rendering import render
from dromic.listening.sound.voice import RATE
from dromic.planner.plan import Plan
from tests.helpers import plan, riff

ONLY_CLICKS = Mix(voice=0.0)
MADE = plan(riff("| 5:0/4 5:0 5:0 5:0 | 5:0 5:0 5:0 5:0 |", tempo=120))


def onsets(sound: Floats, loud: float = 0.05) -> list[int]:
    """The samples at which it gets loud after silence."""
    found: list[int] = []
    quiet = 0
    for sample in np.flatnonzero(np.abs(sound) > loud):
        if sample - quiet > RATE // 100 or not found:
            found.append(int(sample))
        quiet = int(sample)
    return found


def quarters(extent: Extent, plan_: Plan) -> list[int]:
    return onsets(render(plan_, extent))


@pytest.mark.parametrize("tempo", [57.0, 120.0, 133.7, 211.0])
def test_every_click_is_on_its_sample(tempo: float) -> None:
    extent = Extent(0.0, 8.0, tempo, click=True, mix=ONLY_CLICKS)
    assert quarters(extent, MADE) == [round(beat * 60.0 / tempo * RATE) for beat in range(8)]


@given(st.floats(45, 160), st.floats(45, 220), st.integers(1, 4))
@settings(max_examples=12)
def test_the_clicks_of_a_ramp_are_where_a_root_finder_has_them(low: float, high: float, rounds: int) -> None:
    """Source: scipy.optimize.brentq on the integral of a tempo that grows evenly in time."""
    extent = Extent(0.0, 8.0, low, click=True, end_tempo=high, rounds=rounds, mix=ONLY_CLICKS)
    length = extent.seconds

    def over(time: float) -> float:
        return (low * time + (high - low) * time**2 / (2 * length)) / 60.0

    assert over(length) == pytest.approx(8 * rounds)
    heard = quarters(extent, MADE)
    assert len(heard) == 8 * rounds
    for beat, sample in enumerate(heard):
        expected = brentq(lambda time, beat=beat: over(time) - beat, 0.0, length) if beat else 0.0
        assert abs(sample - expected * RATE) <= 1.0


def test_a_count_in_is_in_the_tempo_that_a_ramp_begins_with() -> None:
    extent = Extent(0.0, 8.0, 60.0, click=True, count_in=True, end_tempo=120.0, mix=ONLY_CLICKS)
    heard = quarters(extent, MADE)
    assert heard[:5] == [RATE * second for second in range(5)]
    assert heard[-1] - heard[-2] < 0.6 * RATE
    assert [click.counted for click in clicks(MADE, extent)] == [True] * 4 + [False] * 8


@pytest.mark.parametrize(
    ("metronome", "inside"),
    [
        (Metronome(2), [0, Fraction(1, 2)]),
        (Metronome(2, swing=2 / 3), [0, Fraction(2, 3)]),
        (Metronome(3), [0, Fraction(1, 3), Fraction(2, 3)]),
        (Metronome(4, swing=0.6), [0, Fraction(3, 10), Fraction(1, 2), Fraction(4, 5)]),
    ],
)
def test_subdivisions_and_their_swing(metronome: Metronome, inside: list[Fraction]) -> None:
    extent = Extent(0.0, 4.0, 60.0, click=True, metronome=metronome, mix=ONLY_CLICKS)
    expected = [float(beat + share) for beat in range(4) for share in inside]
    assert [click.seconds for click in clicks(MADE, extent)] == pytest.approx(expected, abs=1e-3)
    assert quarters(extent, MADE) == [round(click.seconds * RATE) for click in clicks(MADE, extent)]


def loudness(sound: Floats, at: float) -> float:
    return float(np.abs(sound[round(at * RATE) : round(at * RATE) + 400]).max())


def test_accents_and_volumes() -> None:
    accented, plain = (
        render(MADE, Extent(0.0, 8.0, 60.0, click=True, metronome=Metronome(accents=on), mix=ONLY_CLICKS))
        for on in (True, False)
    )
    assert loudness(accented, 0.0) > 1.3 * loudness(accented, 1.0)
    assert loudness(accented, 4.0) == loudness(accented, 0.0)
    assert loudness(plain, 0.0) == loudness(plain, 1.0)
    quiet = render(
        MADE, Extent(0.0, 4.0, 60.0, click=True, count_in=True, mix=Mix(voice=0.0, click=0.5, count_in=1.0))
    )
    assert loudness(quiet, 4.0) == pytest.approx(0.5 * loudness(quiet, 0.0), rel=1e-6)
    silent = Mix(voice=0.0, click=0.0, count_in=0.0)
    assert not render(MADE, Extent(0.0, 4.0, 60.0, click=True, count_in=True, mix=silent)).any()
    voiced = render(MADE, Extent(0.0, 4.0, 60.0, mix=Mix(voice=0.5)))
    np.testing.assert_allclose(voiced, 0.5 * render(MADE, Extent(0.0, 4.0, 60.0)), atol=1e-12)


@pytest.mark.parametrize(
    ("header", "midi"), [({"key": "A"}, 45), ({"key": "F#m"}, 42), ({"key": "Bb minor"}, 46), ({}, 45)]
)
def test_the_drone_is_the_key_or_the_lowest_note(header: dict[str, str], midi: int) -> None:
    """Source: equal temperament, A4 = 440 Hz; the loudest frequency by a discrete Fourier transform."""
    made = plan(riff("| 5:0/4 5:3 r/2 | 5:0/1 |", tempo=60, **header))
    assert drone_pitch(made) == midi
    sound = render(made, Extent(0.0, 8.0, 60.0, mix=Mix(voice=0.0, drone=1.0)))
    spectrum = np.abs(np.fft.rfft(sound))
    loudest = float(np.argmax(spectrum)) * RATE / len(sound)
    assert loudest == pytest.approx(440.0 * 2 ** ((midi - 69) / 12), rel=0.005)
    # It comes and goes without a click.
    assert abs(sound[0]) < 1e-6
    assert abs(sound[-1]) < 1e-3


def test_rounds_follow_each_other_without_a_gap() -> None:
    extent = Extent(0.0, 4.0, 120.0, rounds=3)
    once, thrice = render(MADE, Extent(0.0, 4.0, 120.0)), render(MADE, extent)
    assert len(thrice) == pytest.approx(3 * len(once), abs=4)
    assert [extent.place(seconds) for seconds in (0.5, 2.5, 4.5)] == pytest.approx([1.0, 1.0, 1.0])
    assert [extent.round_at(seconds) for seconds in (1.9, 2.1, 4.1)] == [0, 1, 2]
    assert extent.place(-1.0) == -2.0
    with pytest.raises(RiffError, match="minutes of sound are too long"):
        render(MADE, Extent(0.0, 8.0, 30.0, rounds=200))
