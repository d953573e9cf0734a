"""What is told of a take is more than chance: planted effects are found, planted zeros are not."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.formats.take_audio import read_take
from dromic.listening.hearing.effects import Rows, findings, findings_in
from dromic.listening.hearing.hiccup import hiccup_of
from dromic.listening.hearing.passage import passage_of, plan_you_plan
from dromic.listening.hearing.review import review_of
from dromic.listening.hearing.spots import spots_of
from dromic.listening.hearing.take_reps import reps_of
from dromic.listening.hearing.tempo_curve import tempo_curve
from dromic.listening.movement_classes import classes_of
from dromic.listening.sound.player_errors import Errors
from dromic.listening.sound.rendering import write_wav
from dromic.listening.sound.simulated import performance, take_of
from dromic.listening.sound.stretching import stretched
from dromic.listening.sound.voice import RATE
from dromic.listening.take import State, TakeReport
from dromic.practice.log.logbook import Clean, Source
from dromic.practice.tempo.ladder import Range
from tests.helpers import plan, riff
from tests.listening.material import material

STEADY = Errors(clock_ms=4, hand_ms=3, drift=0.01)


def report(name: str, seed: int, errors: Errors, rounds: int, tempo: float | None = None) -> TakeReport:
    return performance(material()[name], seed, errors, rounds=rounds, tempo=tempo).report


@pytest.mark.parametrize(
    ("name", "key", "rounds"), [("triplets", "inside", 6), ("shifts", "shift", 5), ("rolls", "sweep", 4)]
)
def test_ten_milliseconds_of_one_movement_are_found(name: str, key: str, rounds: int) -> None:
    own = material()[name]
    hits, sizes = 0, []
    for seed in range(900, 920):
        found = findings(own, report(name, seed, replace(STEADY, late_ms=((key, 10.0),)), rounds))
        hits += bool(found) and found[0].key == key
        sizes += [one.effect_ms for one in found if one.key == key]
        for one in found:
            assert one.low_ms < one.effect_ms < one.high_ms
            assert one.notes >= 8
    assert hits >= 18
    assert np.mean(sizes) == pytest.approx(10.0, abs=2.0)


@pytest.mark.parametrize("name", ["triplets", "lamplighter", "millrace-reel"])
def test_where_nothing_was_planted_nothing_is_found(name: str) -> None:
    """At most one take in twenty, and a little chance."""
    found = [findings(material()[name], report(name, seed, STEADY, 3)) for seed in range(950, 980)]
    assert sum(bool(one) for one in found) <= 4


def test_the_place_in_the_beat_is_not_blamed_on_a_movement() -> None:
    """Off-beats are late, and every string change falls on one: nothing may be said of string changes."""
    chance = np.random.default_rng(5)
    places = np.tile([0, 1], 60)
    label = (places == 1) & (np.arange(120) % 4 == 1)
    late = 15.0 * (places == 1) + chance.normal(0, 3.0, 120)
    follows = np.arange(120) > 0
    assert not findings_in(Rows(late, places, {"outside": label}, follows))
    told = findings_in(Rows(late + 12.0 * label, places, {"outside": label}, follows))
    assert [one.key for one in told] == ["outside"]
    assert told[0].effect_ms == pytest.approx(12.0, abs=3.0)


def test_fewer_than_eight_notes_say_nothing() -> None:
    label = np.arange(60) < 7
    rows = Rows(np.where(label, 40.0, 0.0), np.zeros(60, int), {"skip": label}, np.arange(60) > 0)
    assert not findings_in(rows)


def test_a_single_slip_is_no_effect() -> None:
    chance = np.random.default_rng(3)
    off = chance.normal(0, 3.0, 80)
    label = np.arange(80) % 5 == 0
    off[10] = 300.0
    assert not findings_in(Rows(off, np.zeros(80, int), {"skip": label}, np.arange(80) > 0))


@settings(max_examples=20, deadline=None)
@given(seed=st.integers(0, 10_000), scale=st.floats(0.5, 5.0))
def test_findings_do_not_hang_on_the_unit_nor_on_a_steady_lead(seed: int, scale: float) -> None:
    chance = np.random.default_rng(seed)
    label = chance.random(90) < 0.3
    if not 8 <= label.sum() <= 82:
        return
    off = chance.normal(0, 5.0, 90) + 25.0 * label
    rows = Rows(off, np.zeros(90, int), {"shift": label}, np.arange(90) > 0)
    one, other = findings_in(rows), findings_in(replace(rows, deviations=off + 40.0))
    assert [round(found.effect_ms, 3) for found in one] == [round(found.effect_ms, 3) for found in other]
    wider = findings_in(replace(rows, deviations=off * scale))
    assert [found.key for found in wider if abs(found.effect_ms) > 4] == [
        found.key for found in one if scale * found.effect_ms > 4
    ]


def test_classes_are_what_players_call_them() -> None:
    """Common practice, no source: inside and outside picking, sweeps, skips, turns."""
    own = plan(riff("| 3:5!d/8 2:5!u 3:5!d 2:5!d 4:5!u 4:7!d 4:5!u 4:4!d |", tempo=90), "strict-alternate")
    free = plan(riff("| 3:5!d/8 2:5!u 3:5!d 2:5!d 4:5!u r r r |", tempo=90))
    assert "outside" in classes_of(free, 1)
    assert "turn" in classes_of(free, 2)
    assert "sweep" in classes_of(free, 3)
    assert "skip" in classes_of(free, 4)
    assert classes_of(free, 0) == ()
    assert not set(classes_of(own, 6)) & {"inside", "outside", "skip", "sweep"}
    legato = plan(riff("| 3:5/8 3:7.h 2:5 2:8.h 1:5 r r r |", tempo=90))
    assert classes_of(legato, 1) == ("legato",)
    assert "re-entry" in classes_of(legato, 2)


# -- ramps and spots --------------------------------------------------------------------------------------------


def test_the_hiccup_of_a_ramp_is_found_at_its_tempo() -> None:
    found = []
    for seed in range(20):
        errors = Errors(clock_ms=3, hand_ms=3, drift=0.6, hiccup=(125.0, 18.0))
        one = hiccup_of(material()["rolls"], report("rolls", seed, errors, 24, 100.0))
        found.append(one.tempo if one is not None else np.nan)
    assert np.sum(np.abs(np.array(found) - 125.0) < 7.0) >= 17


def test_a_ramp_without_a_hiccup_has_none() -> None:
    errors = Errors(clock_ms=3, hand_ms=3, drift=0.6)
    told = [hiccup_of(material()["rolls"], report("rolls", seed, errors, 24, 100.0)) for seed in range(20)]
    assert sum(one is not None for one in told) <= 3
    steady = report("rolls", 1, Errors(clock_ms=3, hand_ms=3, hiccup=(100.0, 20.0)), 24, 100.0)
    assert hiccup_of(material()["rolls"], steady) is None


def test_the_worst_spot_comes_first() -> None:
    own = material()["shifts"]
    take = report("shifts", 4, Errors(), 3)
    notes = tuple(
        replace(note, state=State.MISSED)
        if note.index == 9
        else replace(note, deviation_ms=30.0)
        if note.index == 3
        else note
        for note in take.notes
    )
    spots = spots_of(own, replace(take, notes=notes))
    assert [spot.index for spot in spots] == [9, 3]
    assert spots[0].text.endswith(": missed every time")
    assert spots[1].text.endswith(": 30 ms late")
    assert not spots_of(own, take)


def test_a_curve_follows_a_tempo_and_no_single_note() -> None:
    """Source: a straight line through all but one point."""
    beats = np.arange(40) / 4
    times = 1.0 + 0.5 * beats
    times[20] += 0.2
    curve = tempo_curve(beats, times, 0.5)
    assert np.abs(curve.when(beats) - (1.0 + 0.5 * beats)).max() < 0.002
    assert curve.quarter_s(0.0) == pytest.approx(0.5, abs=0.002)


# -- a take in the log, and beside the plan ------------------------------------------------------------------


def test_rounds_of_a_take_go_into_the_log_clean_or_not(tmp_path: Path) -> None:
    from datetime import UTC, datetime

    own = material()["rolls"]
    when = datetime(2026, 3, 1, 18, 0, tzinfo=UTC)
    for errors, clean in ((Errors(clock_ms=2, hand_ms=2), Clean.CLEAN), (Errors(missed=0.2), Clean.NOT)):
        write_wav(take_of(performance(own, 6, errors, rounds=3, tempo=84.0)).sound, tmp_path / "take.wav")
        reps = reps_of(review_of(own, read_take(tmp_path / "take.wav")), when, "abc")
        assert [rep.clean for rep in reps] == [clean] * 3
        assert {rep.source for rep in reps} == {Source.TAKE}
        assert all(rep.tempo == pytest.approx(84.0, rel=0.01) for rep in reps)
        assert len({rep.uid for rep in reps}) == 3


def test_plan_you_plan_lines_up(tmp_path: Path) -> None:
    own = material()["shifts"]
    take = take_of(performance(own, 7, Errors(), rounds=2))
    write_wav(take.sound, tmp_path / "take.wav")
    recording = read_take(tmp_path / "take.wav")
    review = review_of(own, recording)
    passage = passage_of(review, Range(4, 9), 1)
    note = next(
        note for note in take.truth.notes if note.round == 1 and note.index == own.event_of_step(4).moment.index
    )
    assert passage.start_s == pytest.approx(note.onset_s, abs=0.01)
    assert passage.extent.tempo == pytest.approx(own.tempo / 2, rel=0.01)
    sound = plan_you_plan(review, recording.samples, passage)
    assert len(sound) / RATE == pytest.approx(passage.extent.seconds, abs=0.01)
    third = len(sound) // 3
    # Each third begins with the same pitch, the plan's and the take's.
    peaks = [
        np.abs(np.fft.rfft(sound[at * third + 800 : at * third + 8800] * np.hanning(8000))).argmax()
        for at in range(3)
    ]
    assert peaks[0] == peaks[2]
    assert abs(int(peaks[1]) - int(peaks[0])) <= 2


@settings(max_examples=15, deadline=None)
@given(hertz=st.floats(90.0, 900.0), ratio=st.floats(1.3, 3.0))
def test_stretched_sound_keeps_its_pitch(hertz: float, ratio: float) -> None:
    time = np.arange(22_050) / 22_050
    tone = np.sin(2 * np.pi * hertz * time)
    long = stretched(tone, round(22_050 * ratio))
    assert len(long) == round(22_050 * ratio)
    middle = long[3_000:-3_000]
    spectrum = np.abs(np.fft.rfft(middle * np.hanning(len(middle)), 1 << 17))
    assert spectrum.argmax() * 22_050 / (1 << 17) == pytest.approx(hertz, rel=0.02)
