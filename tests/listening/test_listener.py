"""Takes are heard: in our own voice, through another synthesiser, and with something wrong in them."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import mir_eval
import numpy as np
import pytest
import soundfile
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dromic.arrays import Floats
from dromic.errors import RiffError
from dromic.formats.take_audio import read_take
from dromic.listening.hearing.listener import Heard, listen
from dromic.listening.hearing.recording import HEARING_RATE, checked
from dromic.listening.hearing.review import review_of
from dromic.listening.sound.player_errors import LEVELS, Errors
from dromic.listening.sound.rendering import write_wav
from dromic.listening.sound.simulated import performance, take_of
from dromic.listening.sound.voice import RATE
from dromic.listening.take import State, TakeReport
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.practice.passages.excerpt import request_like
from dromic.practice.passages.splits import Split, fretting_alone, picking_alone
from dromic.practice.tempo.ladder import Range
from dromic.reports.take_json import write_take_json
from dromic.reports.take_text import write_review_text
from tests.command_line import run_command
from tests.helpers import not_none
from tests.listening.material import material
from tests.listening.other_player import (
    CLEAN,
    SOUND_FONTS,
    Habits,
    has_synthesiser,
    other_take,
    write_sounded,
)

needs_synthesiser = pytest.mark.skipif(
    not has_synthesiser(), reason="fluidsynth with a sound font is not here (apt: fluidsynth, timgm6mb-soundfont)"
)
PLAIN = "sixteenths"


def played(
    name: str, seed: int, errors: Errors, folder: Path, **how: float | int | bool
) -> tuple[Heard, TakeReport]:
    """A take of the simulated player, written, read and listened to."""
    plan = material()[name]
    take = take_of(performance(plan, seed, errors, **how))  # type: ignore[arg-type]
    write_wav(take.sound, folder / "take.wav")
    return listen(plan, read_take(folder / "take.wav")), take.truth


def f_measure(heard: TakeReport, truth: TakeReport, window: float) -> float:
    """By mir_eval, the reference of the field."""
    real, said = (
        np.array(sorted([n.onset_s for n in one.notes if n.state is not State.MISSED] + list(one.extra)))
        for one in (truth, heard)
    )
    return float(mir_eval.onset.f_measure(real, said, window=window)[0])


def onset_errors(heard: TakeReport, truth: TakeReport) -> Floats:
    mine = {(note.round, note.index): note for note in heard.notes if note.state is not State.MISSED}
    pairs = [
        (mine[note.round, note.index].onset_s, note.onset_s)
        for note in truth.notes
        if (note.round, note.index) in mine and note.state is not State.MISSED
    ]
    return np.array([1000 * (said - real) for said, real in pairs])


@pytest.mark.parametrize("name", ["gallop", "chords", "bass", "fast", "lamplighter"])
def test_a_take_is_found_with_nothing_set(name: str, tmp_path: Path) -> None:
    heard, truth = played(name, 501, LEVELS["light"], tmp_path, rounds=2, count_in=True)
    assert heard.report.rounds == 2
    assert heard.report.tempo == pytest.approx(truth.tempo, rel=0.02)
    assert heard.report.start_s == pytest.approx(truth.start_s, abs=0.03)
    assert f_measure(heard.report, truth, 0.025) > 0.98
    assert np.quantile(np.abs(onset_errors(heard.report, truth)), 0.95) < 3.0


@needs_synthesiser
@pytest.mark.parametrize(("name", "seed"), [("sixteenths", 511), ("legato", 512), ("rolls", 513), ("gallop", 514)])
def test_another_player_on_another_instrument_is_heard_too(name: str, seed: int, tmp_path: Path) -> None:
    """Source: fluidsynth with a General MIDI sound font, and errors of another model than ours."""
    plan = material()[name]
    habits = Habits(missed=0.03, cut=0.05, rings=0.03, restarts=1, tempo_ratio=0.85)
    take = other_take(plan, seed, habits, rounds=2)
    write_sounded(take, tmp_path / "take.wav", CLEAN, SOUND_FONTS[1] if Path(SOUND_FONTS[1]).exists() else None)
    heard = listen(plan, read_take(tmp_path / "take.wav")).report
    assert f_measure(heard, take.truth, 0.025) > 0.95
    assert [one.index for one in heard.restarts] == [one.index for one in take.truth.restarts]
    assert heard.restarts[0].onset_s == pytest.approx(take.truth.restarts[0].onset_s, abs=0.1)
    missed = {(note.round, note.index) for note in take.truth.notes if note.state is State.MISSED}
    told = {(note.round, note.index) for note in heard.notes if note.state is State.MISSED}
    assert len(told ^ missed) <= 1


def test_missed_and_extra_notes_and_odd_attacks_are_named(tmp_path: Path) -> None:
    errors = Errors(clock_ms=3, hand_ms=2, missed=0.06, extra=0.04, double=0.06, smeared=0.06)
    heard, truth = played("triplets", 520, errors, tmp_path, rounds=8)
    told = {(note.round, note.index): note.state for note in heard.report.notes}
    wanted = {(note.round, note.index): note.state for note in truth.notes}
    for state in (State.MISSED, State.DOUBLE, State.SMEARED):
        real = [key for key, own in wanted.items() if own is state]
        assert len(real) >= 3
        assert sum(told[key] is state for key in real) >= 0.6 * len(real), state
        assert sum(own is state and wanted[key] is not state for key, own in told.items()) <= 1, state
    found = sum(any(abs(one - other) < 0.05 for other in heard.report.extra) for one in truth.extra)
    assert found >= 0.8 * len(truth.extra) >= 2


def test_loudness_and_ends_are_heard(tmp_path: Path) -> None:
    errors = Errors(clock_ms=3, hand_ms=2, loud_db=3.0, cut=0.15, rings=0.1)
    heard, truth = played("shifts", 530, errors, tmp_path, rounds=3)
    off = [
        one.loudness_db - other.loudness_db
        for one, other in zip(heard.report.notes, truth.notes, strict=True)
        if one.loudness_db is not None and other.loudness_db is not None
    ]
    assert np.mean(np.abs(off) < 2.0) > 0.9
    ends = [(one.end, other.end) for one, other in zip(heard.report.notes, truth.notes, strict=True) if one.end]
    assert len(ends) > 0.8 * len(truth.notes)
    assert np.mean([one is other for one, other in ends]) > 0.93
    gaps = [
        one.gap_ms - other.gap_ms
        for one, other in zip(heard.report.notes, truth.notes, strict=True)
        if one.gap_ms is not None and other.gap_ms is not None
    ]
    assert len(gaps) > 5
    assert np.quantile(np.abs(gaps), 0.9) < 10.0


@pytest.mark.parametrize("cents", [-40.0, 0.0, 25.0])
def test_how_far_a_bend_is_off_its_goal(cents: float, tmp_path: Path) -> None:
    """Source: 100 cents are a semitone; the file is the same take at another rate."""
    heard, _ = played("bends", 540, LEVELS["none"], tmp_path)
    flat = next(note for note in heard.report.notes if note.cents is not None)
    assert flat.cents == pytest.approx(0.0, abs=5.0)
    sound, _ = soundfile.read(tmp_path / "take.wav", dtype="float32")
    soundfile.write(tmp_path / "off.wav", sound, round(RATE * 2 ** (cents / 1200)))
    off = listen(material()["bends"], read_take(tmp_path / "off.wav")).report
    assert next(note for note in off.notes if note.cents is not None).cents == pytest.approx(cents, abs=6.0)


def test_swing_is_told_with_its_interval(tmp_path: Path) -> None:
    heard, _ = played("lamplighter", 545, LEVELS["light"], tmp_path, rounds=2)
    swing = heard.measured.swing
    assert swing is not None
    assert swing.low < 2.0 < swing.high or swing.ratio == pytest.approx(2.0, abs=0.08)


def test_a_string_that_sounds_unasked_is_named(tmp_path: Path) -> None:
    plan = material()["bends"]
    take = take_of(performance(plan, 546, LEVELS["none"]))
    time = np.arange(len(take.sound)) / RATE
    open_string = sum(np.sin(2 * np.pi * 110.0 * part * time) / part for part in (1, 2, 3, 4, 5))
    write_wav(0.7 * take.sound, tmp_path / "clean.wav")
    assert not listen(plan, read_take(tmp_path / "clean.wav")).report.unasked
    write_wav(0.7 * take.sound + 0.08 * open_string * (time > 2.0), tmp_path / "rings.wav")
    heard = listen(plan, read_take(tmp_path / "rings.wav")).report.unasked
    assert heard[0].string == 5
    assert heard[0].onset_s > 1.5
    assert sum(one.string != 5 for one in heard) <= 1


@pytest.mark.parametrize("hand", [picking_alone, fretting_alone])
def test_one_hand_alone_is_heard_too(hand: Callable[[Plan, Range], Split], tmp_path: Path) -> None:
    whole = material()["shifts"]
    split = hand(whole, Range(0, 12))
    alone = plan_riff(not_none(split.riff), request_like(whole))
    take = take_of(performance(alone, 548, LEVELS["light"], rounds=3))
    write_wav(take.sound, tmp_path / "take.wav")
    heard = listen(alone, read_take(tmp_path / "take.wav")).report
    assert heard.rounds == 3
    assert f_measure(heard, take.truth, 0.05) > 0.9


# -- other tempi, other beginnings, other files ------------------------------------------------------------------


@pytest.mark.parametrize(("ratio", "words"), [(0.5, "half"), (2.0, "double")])
def test_half_and_double_tempo_are_said(ratio: float, words: str, tmp_path: Path) -> None:
    plan = material()["rolls"]
    heard, truth = played("rolls", 550, LEVELS["light"], tmp_path, tempo=plan.tempo * ratio, rounds=2)
    assert heard.report.tempo == pytest.approx(truth.tempo, rel=0.02)
    assert any(f"at {words} the plan's tempo" in remark for remark in heard.remarks)


def test_a_tempo_that_grows_is_followed(tmp_path: Path) -> None:
    heard, truth = played("fast", 551, Errors(clock_ms=3, hand_ms=2, drift=0.5), tmp_path, tempo=100, rounds=16)
    assert f_measure(heard.report, truth, 0.05) > 0.99
    assert np.std([note.deviation_ms for note in heard.report.notes]) < 7.0


def test_other_playing_before_the_riff_is_left_out(tmp_path: Path) -> None:
    before = take_of(performance(material()["skips"], 1, LEVELS["light"])).sound
    take = take_of(performance(material()["shifts"], 552, LEVELS["light"], rounds=2))
    write_wav(np.concatenate([before, take.sound]), tmp_path / "take.wav")
    heard = listen(material()["shifts"], read_take(tmp_path / "take.wav")).report
    assert heard.rounds == 2
    assert heard.start_s == pytest.approx(len(before) / RATE + take.truth.start_s, abs=0.04)


@pytest.mark.parametrize(
    ("rate", "subtype", "channels"),
    [(48_000, "PCM_24", 2), (96_000, "FLOAT", 1), (22_050, "PCM_16", 2), (8_000, "PCM_U8", 1)],
)
def test_any_rate_depth_and_number_of_channels(rate: int, subtype: str, channels: int, tmp_path: Path) -> None:
    """Source: the same onsets, whatever the file; the sound is brought to its rate by scipy."""
    from math import gcd

    from scipy.signal import resample_poly

    take = take_of(performance(material()[PLAIN], 560, LEVELS["light"]))
    common = gcd(rate, RATE)
    sound = 0.8 * resample_poly(take.sound, rate // common, RATE // common)
    # The second channel cancels the first, or is silent.
    columns = np.stack([sound, -sound if rate == 48_000 else 0 * sound], axis=1)[:, :channels]
    soundfile.write(tmp_path / "take.wav", columns, rate, subtype=subtype)
    heard = listen(material()[PLAIN], read_take(tmp_path / "take.wav"))
    errors = onset_errors(heard.report, take.truth)
    assert len(errors) == len([note for note in take.truth.notes if note.state is not State.MISSED])
    # Eight thousand samples a second hold little of an attack.
    assert np.quantile(np.abs(errors), 0.9) < (10.0 if rate == 8_000 else 4.0)
    assert any("channel" in remark for remark in heard.remarks) == (channels == 2)


def test_flac_is_read_as_wav_is(tmp_path: Path) -> None:
    take = take_of(performance(material()[PLAIN], 561, LEVELS["none"]))
    for name in ("a.wav", "a.flac"):
        soundfile.write(tmp_path / name, np.round(30_000 * take.sound).astype(np.int16), RATE)
    assert np.array_equal(read_take(tmp_path / "a.wav").samples, read_take(tmp_path / "a.flac").samples)


def test_a_long_take_has_no_seams_where_it_was_read_in_blocks(tmp_path: Path) -> None:
    time = np.arange(25 * 44_100) / 44_100
    soundfile.write(tmp_path / "tone.wav", 0.5 * np.sin(2 * np.pi * 440 * time), 44_100, subtype="FLOAT")
    samples = read_take(tmp_path / "tone.wav").samples
    whole = 0.5 * np.sin(2 * np.pi * 440 * np.arange(len(samples)) / HEARING_RATE)
    assert np.abs(samples - whole)[200:-200].max() < 2e-3


# -- what is wrong with a take ------------------------------------------------------------------------------------


def sound_of(name: str = PLAIN) -> Floats:
    return take_of(performance(material()[name], 570, LEVELS["light"], rounds=2)).sound


def heard_of(sound: Floats, folder: Path, name: str = PLAIN) -> Heard:
    soundfile.write(folder / "take.wav", sound, RATE, subtype="PCM_16")
    return listen(material()[name], read_take(folder / "take.wav"))


def test_a_silent_take_is_refused(tmp_path: Path) -> None:
    with pytest.raises(RiffError, match=r"take\.wav: the take is silent; check that the instrument is plugged in"):
        heard_of(np.zeros(RATE * 4), tmp_path)


def test_hiss_and_hum_alone_are_no_take(tmp_path: Path) -> None:
    with pytest.raises(RiffError, match=r"does not sound like|no note begins"):
        heard_of(0.01 * np.random.default_rng(1).standard_normal(RATE * 6), tmp_path)
    with pytest.raises(RiffError, match="no note begins in this take"):
        heard_of(0.05 * np.sin(2 * np.pi * 50 * np.arange(RATE * 6) / RATE), tmp_path)


@pytest.mark.parametrize("other", ["triplets", "gallop", "shifts"])
def test_another_riff_is_told_from_this_one(other: str, tmp_path: Path) -> None:
    with pytest.raises(RiffError, match=r"the take does not sound like this riff: of .* notes heard only"):
        heard_of(sound_of(other), tmp_path)


def test_the_riff_in_another_tuning_is_told_from_this_one(tmp_path: Path) -> None:
    sound = sound_of()
    soundfile.write(tmp_path / "low.wav", sound, round(RATE / 2 ** (1 / 12)), subtype="PCM_16")
    with pytest.raises(RiffError, match="in this tuning"):
        listen(material()[PLAIN], read_take(tmp_path / "low.wav"))


def test_clipping_and_hum_and_quietness_are_said(tmp_path: Path) -> None:
    clipped = heard_of(np.clip(8 * sound_of(), -1, 1), tmp_path)
    assert any("the recording clips" in remark for remark in clipped.remarks)
    sound = sound_of()
    time = np.arange(len(sound)) / RATE
    hum = 0.03 * np.sin(2 * np.pi * 60 * time) + 0.02 * np.sin(2 * np.pi * 120 * time)
    hums = heard_of(0.6 * sound + hum, tmp_path)
    assert any("mains hum at 60 Hz" in remark for remark in hums.remarks)
    assert len([note for note in hums.report.notes if note.state is State.MISSED]) < 4
    quiet = heard_of(0.008 * sound, tmp_path)
    assert any("very quiet" in remark for remark in quiet.remarks)
    assert not heard_of(0.8 * sound, tmp_path).remarks


def test_files_that_are_no_takes_are_refused(tmp_path: Path) -> None:
    (tmp_path / "notes.wav").write_text("these are words")
    with pytest.raises(RiffError, match=r"notes\.wav: this is no sound file that can be read"):
        read_take(tmp_path / "notes.wav")
    with pytest.raises(RiffError, match="there is no such sound file"):
        read_take(tmp_path / "missing.wav")
    with pytest.raises(RiffError, match="there is no such sound file"):
        read_take(tmp_path)
    soundfile.write(tmp_path / "short.wav", np.ones(1000) * 0.1, RATE)
    with pytest.raises(RiffError, match=r"lasts 0\.02 s; there is nothing to listen to yet"):
        read_take(tmp_path / "short.wav")
    with pytest.raises(RiffError, match="samples that are not numbers"):
        checked(np.full(HEARING_RATE, np.nan, np.float32), 0)


def test_a_take_of_hours_is_refused_before_it_is_read(tmp_path: Path) -> None:
    """A file of two gigabytes: only its head is looked at."""
    path = tmp_path / "hours.wav"
    soundfile.write(path, np.zeros(RATE, np.int16), RATE, subtype="PCM_16")
    with path.open("r+b") as file:
        size = 2_000_000_000
        file.seek(4)
        file.write((size + 36).to_bytes(4, "little"))
        file.seek(40)
        file.write(size.to_bytes(4, "little"))
        file.truncate(size + 44)
    with pytest.raises(RiffError, match="lasts 378 minutes; half an hour is the most"):
        read_take(path)


@settings(max_examples=30, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.binary(max_size=400), cut=st.integers(0, 3000), at=st.integers(0, 60))
def test_broken_sound_files_never_end_in_anything_but_words(data: bytes, cut: int, at: int, tmp_path: Path) -> None:
    path = tmp_path / "broken.wav"
    soundfile.write(path, 0.3 * np.sin(np.arange(1500)), RATE, subtype="PCM_16")
    whole = path.read_bytes()
    path.write_bytes((whole[:at] + data + whole[at + len(data) :])[: len(whole) - cut])
    with pytest.raises(RiffError, match=r"broken\.wav: "):
        read_take(path)


# -- what is told ------------------------------------------------------------------------------------------


def review_for(plan: Plan, folder: Path, errors: Errors = LEVELS["heavy"], rounds: int = 4, seed: int = 580):  # type: ignore[no-untyped-def]
    take = take_of(performance(plan, seed, errors, rounds=rounds))
    write_wav(take.sound, folder / "take.wav")
    return review_of(plan, read_take(folder / "take.wav")), take.truth


def test_one_finding_on_top_and_spots_behind_it(tmp_path: Path) -> None:
    plan = material()["shifts"]
    review, _ = review_for(plan, tmp_path, Errors(clock_ms=3, hand_ms=2, late_ms=(("shift", 20.0),)))
    assert [one.key for one in review.report.findings] == ["shift"]
    assert review.report.findings[0].effect_ms == pytest.approx(20.0, abs=6.0)
    assert review.top.startswith("notes after position shifts come")
    assert review.spots
    late = plan.events[review.spots[0].index]
    assert "late" in review.spots[0].text
    assert late.moment.place_words in review.spots[0].text
    text = write_review_text(review)
    assert "Where to work:" in text
    assert "a steady lead or lag of the whole take cannot be told" in text


def test_an_even_take_says_that_nothing_stands_out(tmp_path: Path) -> None:
    review, _ = review_for(material()["rolls"], tmp_path, Errors(clock_ms=2, hand_ms=1.5))
    assert review.top == "nothing stands out"
    assert not review.report.findings
    assert review.unevenness is not None
    assert review.unevenness[0] < 6.0


def test_the_report_and_the_truth_have_one_form(tmp_path: Path) -> None:
    review, truth = review_for(material()["shifts"], tmp_path)
    said, real = (json.loads(write_take_json(one)) for one in (review.report, truth))
    assert (
        said.keys()
        == real.keys()
        >= {"schema", "tempo", "start_s", "rounds", "notes", "extra", "restarts", "findings"}
    )
    assert said["notes"][0].keys() == real["notes"][0].keys()
    assert {"class", "effect_ms", "low_ms", "high_ms", "notes", "text"} <= said["findings"][0].keys()


def test_the_command_line_listens_to_what_it_played(tmp_path: Path) -> None:
    def run(*words: str) -> subprocess.CompletedProcess[str]:
        return run_command(*words, folder=tmp_path)

    (tmp_path / "a.riff").write_text("title: Tin Roof\ntempo: 120\n| 5:5/16 5:7 5:8 4:5 4:7 4:9 3:5 3:7 2:5/2 |\n")
    (tmp_path / "b.riff").write_text(
        "title: Wet Slate\ntempo: 120\n| 1:12/8 1:15 2:12 2:15 1:12 1:17 2:17 2:13 |\n"
    )
    assert run("play", "a.riff", "a.wav", "--rounds", "2", "--errors", "none").returncode == 0
    told = run("listen", "a.riff", "a.wav")
    assert told.returncode == 0
    assert told.stdout.startswith("Tin Roof: nothing stands out")
    data = json.loads(run("listen", "a.riff", "a.wav", "--json").stdout)
    truth = json.loads((tmp_path / "a.json").read_text())
    assert [note["state"] for note in data["notes"]] == [note["state"] for note in truth["notes"]]
    for name, words in (
        ("b.riff", "a.wav: the take does not sound like 'Wet Slate'"),
        ("a.riff", "no such sound file"),
    ):
        refused = run("listen", name, "a.wav" if name == "b.riff" else "c.wav")
        assert refused.returncode == 1
        assert words in refused.stderr
        assert refused.stderr.count("\n") == 1


def test_listening_is_cancelled_by_its_watch(tmp_path: Path) -> None:
    class StopHereError(Exception):
        pass

    def watch(share: float) -> None:
        if share > 0.3:
            raise StopHereError("stop here")

    write_wav(sound_of(), tmp_path / "take.wav")
    with pytest.raises(StopHereError, match="stop here"):
        listen(material()[PLAIN], read_take(tmp_path / "take.wav"), watch)


def test_the_same_take_is_heard_the_same_twice(tmp_path: Path) -> None:
    write_wav(sound_of(), tmp_path / "take.wav")
    one, two = (listen(material()[PLAIN], read_take(tmp_path / "take.wav")).report for _ in range(2))
    assert one == replace(two)
