"""The simulated player: what it says of itself is in the sound, and its errors are as large as was asked for."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import numpy as np
import pytest

from dromic.arrays import Floats
from dromic.errors import RiffError
from dromic.listening.movement_classes import main_class
from dromic.listening.sound.player_errors import LEVELS, Errors
from dromic.listening.sound.simulated import performance, take_of
from dromic.listening.sound.voice import RATE
from dromic.listening.take import End, State, TakeNote
from dromic.reports.take_json import write_take_json
from tests.command_line import run_command
from tests.helpers import plan, riff

# One string, one pitch: nothing but time.
EVEN = plan(riff(f"| 5:5/16 {'5:5 ' * 15}|", tempo=100), "strict-alternate")
MIXED = plan(riff("| 5:5/8 5:7 4:5 4:7 5:12 5:14 4:12 2:12 |", tempo=100), "strict-alternate")


def onsets(errors: Errors, seed: int, rounds: int = 40) -> Floats:
    return np.array([note.onset_s for note in performance(EVEN, seed, errors, rounds=rounds).report.notes])


def deviations(notes: tuple[TakeNote, ...]) -> Floats:
    return np.array([note.deviation_ms for note in notes])


def test_a_player_without_errors_is_on_the_beat_in_the_sound() -> None:
    take = take_of(performance(MIXED, rounds=2))
    assert not np.any(deviations(take.truth.notes))
    assert {note.state for note in take.truth.notes} == {State.PLAYED}
    assert take.truth.start_s == 0.5
    for note in take.truth.notes:
        at = round(note.onset_s * RATE)
        before, after = take.sound[at - 300 : at], take.sound[at : at + 600]
        assert np.abs(after).max() > 1.3 * np.abs(before).max()
    assert np.abs(take.sound[: round(0.49 * RATE)]).max() < 0.01


def test_a_late_hand_is_followed_by_a_short_interval_as_wing_and_kristofferson_say() -> None:
    """Source: Wing and Kristofferson 1973: delays of the hand alone give a lag-one correlation of -1/2."""
    intervals = np.diff(onsets(Errors(hand_ms=4.0), 1))
    lag = float(np.corrcoef(intervals[:-1], intervals[1:])[0, 1])
    assert lag == pytest.approx(-0.5, abs=0.1)
    assert float(intervals.std()) * 1000 == pytest.approx(4.0 * 2**0.5, rel=0.1)
    both = np.diff(onsets(Errors(clock_ms=4.0, hand_ms=4.0), 1))
    assert -0.5 < float(np.corrcoef(both[:-1], both[1:])[0, 1]) < 0.0


def test_the_tempo_drifts_as_far_as_it_is_said_to() -> None:
    """Source: intervals of sixteenths are 15 s over the tempo."""
    intervals = np.diff(onsets(Errors(drift=0.1), 0))
    assert intervals[0] == pytest.approx(15 / 100, rel=0.002)
    assert intervals[-1] == pytest.approx(15 / 110, rel=0.002)


def test_errors_come_as_often_as_they_are_asked_for() -> None:
    errors = Errors(missed=0.1, double=0.05, smeared=0.05, extra=0.05)
    notes = performance(EVEN, 4, errors, rounds=60).report
    count = len(notes.notes)
    shares = {state: sum(note.state is state for note in notes.notes) / count for state in State}
    assert shares[State.MISSED] == pytest.approx(0.1, abs=0.03)
    assert shares[State.DOUBLE] == pytest.approx(0.05, abs=0.02)
    assert shares[State.SMEARED] == pytest.approx(0.05, abs=0.02)
    assert len(notes.extra) / count == pytest.approx(0.05, abs=0.02)
    assert all(note.end is None for note in notes.notes if note.state is State.MISSED)
    cut = performance(EVEN, 4, Errors(cut=0.1), rounds=60).report.notes
    gaps = [note for note in cut if note.end is End.GAP]
    assert len(gaps) / count == pytest.approx(0.1, abs=0.04)
    assert all(note.gap_ms is not None and note.gap_ms > 20 for note in gaps)


def test_one_kind_of_movement_can_be_late() -> None:
    kinds = [main_class(MIXED, step) for step in range(len(MIXED.states))]
    assert kinds == ["", "", "inside", "", "shift", "", "inside", "skip"]
    played = performance(MIXED, 2, Errors(hand_ms=3.0, late_ms=(("shift", 20.0),)), rounds=60)
    late = deviations(played.report.notes).reshape(60, -1)
    assert late[:, 4].mean() == pytest.approx(20.0, abs=1.5)
    assert np.abs(np.delete(late, 4, axis=1).mean(axis=0)).max() < 1.5


def test_strings_ring_on_and_notes_are_louder_or_softer() -> None:
    notes = performance(MIXED, 6, Errors(rings=0.5, loud_db=2.0), rounds=40).report.notes
    rings = [note for note in notes if note.end is End.RINGS]
    assert rings
    # Only a string that the next note does not need can ring on.
    assert {note.index for note in rings} <= {1, 3, 5, 6, 7}
    loud = [note.loudness_db for note in notes if note.loudness_db is not None]
    assert float(np.std(loud)) == pytest.approx(2.0, rel=0.2)


def test_one_seed_is_one_take() -> None:
    one, again, other = (take_of(performance(MIXED, seed, LEVELS["heavy"], rounds=4)) for seed in (5, 5, 6))
    assert one.truth == again.truth
    np.testing.assert_array_equal(one.sound, again.sound)
    assert one.truth != other.truth
    assert np.abs(one.sound).max() <= 1.0
    with pytest.raises(RiffError, match="too long for a take"):
        take_of(performance(MIXED, rounds=1_000))


def test_a_count_in_is_clicked_before() -> None:
    take = take_of(performance(MIXED, count_in=True))
    assert take.truth.start_s == pytest.approx(0.5 + 4 * 0.6)
    assert np.abs(take.sound[round(0.5 * RATE) : round(0.52 * RATE)]).max() > 0.1


def test_the_truth_is_told_in_the_form_of_a_report(tmp_path: Path) -> None:
    path, out = tmp_path / "a.riff", tmp_path / "take.wav"
    path.write_text("| 5:5/8 5:7 4:5 4:7 r/2 |\n")

    def play(*more: str) -> subprocess.CompletedProcess[str]:
        return run_command("play", str(path), *more)

    done = play(str(out), "--seed", "3", "--errors", "heavy", "--rounds", "2")
    assert done.returncode == 0, done.stderr
    truth = json.loads((tmp_path / "take.json").read_text())
    assert set(truth) >= {"schema", "tempo", "start_s", "rounds", "notes", "extra", "restarts", "findings"}
    assert len(truth["notes"]) == 8
    names = {"round", "index", "onset_s", "deviation_ms", "state", "loudness_db", "end", "gap_ms", "cents"}
    assert set(truth["notes"][0]) >= names
    for wrong, words in (
        ([str(tmp_path / "take.mp3")], "sound"),
        ([str(out), "--errors", "some"], "expected one of none, light, heavy"),
        ([str(out), "--seed", "x"], "--seed"),
        ([str(out), "--rounds", "0"], "--rounds"),
    ):
        failed = play(*wrong)
        assert failed.returncode == 1
        assert words in failed.stderr
        assert failed.stderr.count("\n") == 1
    assert json.loads(write_take_json(take_of(performance(MIXED)).truth))["tempo"] == 100.0
