"""The plan as sound: right pitches at the right times, mutes short, bends and slides where they lead."""

from __future__ import annotations

import wave
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from dromic.errors import RiffError
from dromic.listening.sound.extent import Extent, whole
from dromic.listening.sound.metronome import beats, count_in_seconds
from dromic.listening.sound.rendering import pcm, render, soundings, write_wav
from dromic.listening.sound.voice import DEAD_TOUCH, OPEN_TOUCH, PALM_TOUCH, RATE, tone
from dromic.music.pitch import frequency
from dromic.planner.plan import Plan
from tests.helpers import line, plan, riff


def loudest_hertz(sound: np.ndarray, near: float) -> float:
    """The strongest frequency within a third of one, by a parabola through the spectrum's peak."""
    window = np.hanning(len(sound))
    spectrum = np.abs(np.fft.rfft(sound * window, 4 * len(sound)))
    step = RATE / (4 * len(sound))
    low, high = int(near * 0.75 / step), int(near * 1.33 / step)
    peak = low + int(spectrum[low:high].argmax())
    left, middle, right = np.log(spectrum[peak - 1 : peak + 2])
    return float(step * (peak + 0.5 * (left - right) / (left - 2 * middle + right)))


def piece(planned: Plan, sound: np.ndarray, start: float, end: float) -> np.ndarray:
    second = 60 / planned.tempo
    return sound[round(start * second * RATE) : round(end * second * RATE)]


@pytest.mark.parametrize("midi", [28, 40, 45, 57, 64, 76])
def test_a_string_sounds_its_pitch(midi: int) -> None:
    """ISO 16: A is 440 Hz."""
    hertz = frequency(midi)
    sound = tone(np.full(RATE, hertz), OPEN_TOUCH)
    assert loudest_hertz(sound, hertz) == pytest.approx(hertz, rel=2e-3)
    assert np.abs(sound).max() < 2
    assert np.abs(sound[: RATE // 20]).max() > 1.4 * np.abs(sound[-RATE // 20 :]).max()


def test_a_palm_takes_the_life_out_and_a_dead_note_has_no_pitch() -> None:
    hertz = np.full(RATE, 110.0)
    ringing, muted = tone(hertz, OPEN_TOUCH), tone(hertz, PALM_TOUCH)
    later = slice(RATE // 2, RATE // 2 + 4000)
    assert np.abs(muted[later]).max() < 0.2 * np.abs(ringing[later]).max()
    dead = tone(hertz, DEAD_TOUCH)
    assert np.abs(dead[RATE // 4 :]).max() < 0.02 * np.abs(dead).max()
    assert len(tone(np.zeros(0), OPEN_TOUCH)) == 0


@pytest.mark.parametrize(("share", "silent"), [(0.2, 5), (0.25, 4), (0.125, 8)])
def test_harmonics_with_a_node_where_the_string_is_plucked_are_silent(share: float, silent: int) -> None:
    """Source: Fletcher and Rossing, The Physics of Musical Instruments: amplitude goes with sin(h pi p)."""
    sound = tone(np.full(RATE, 110.0), replace(OPEN_TOUCH, plucked_at=share, pick_noise=0.0))
    spectrum = np.abs(np.fft.rfft(sound * np.hanning(RATE)))
    own = [spectrum[110 * number - 3 : 110 * number + 4].max() for number in range(1, 10)]
    assert own[silent - 1] < 0.02 * own[silent - 2]
    assert own[silent - 1] < 0.02 * own[silent]


def brightness(sound: np.ndarray) -> float:
    power = np.abs(np.fft.rfft(sound * np.hanning(len(sound)))) ** 2
    return float(np.average(np.fft.rfftfreq(len(sound), 1 / RATE), weights=power))


def level(sound: np.ndarray) -> float:
    return float(np.sqrt(np.mean(sound**2)))


def first_note(text: str, school: str = "least-motion", **header: object) -> np.ndarray:
    planned = plan(riff(text, tempo=60, **header), school)
    return render(planned, whole(planned))[: RATE // 2]


def test_how_a_note_is_struck_is_heard() -> None:
    """Common practice, no source: a fingertip is darker than a pick, an up lighter, a bass darker still."""
    down, up = first_note("| 4:5!d/4 r r r |"), first_note("| 4:5!u/4 r r r |")
    finger = first_note("| 4:5!m/4 r r r |", "hybrid")
    assert level(up) < 0.97 * level(down)
    assert brightness(finger) < 0.9 * brightness(down)
    bass = first_note("| 1:0/4 r r r |", instrument="bass-4")
    guitar = first_note("| 5:10/4 r r r |")
    assert brightness(bass) < 0.9 * brightness(guitar)


def test_two_plans_of_one_riff_are_heard_apart() -> None:
    """The same notes in the same places: a sweep falls through softly, alternate strokes do not."""
    swept = plan(riff("| 3:5!d/8 2:5!d 1:5!d r 3:5!d 2:5!d 1:5!d r |", tempo=100))
    alternate = plan(riff("| 3:5!d/8 2:5!u 1:5!d r 3:5!d 2:5!u 1:5!d r |", tempo=100))
    one, other = render(swept, whole(swept)), render(alternate, whole(alternate))
    at = slice(round(0.3 * RATE), round(0.3 * RATE) + 400)
    assert np.abs(one[at]).max() != pytest.approx(np.abs(other[at]).max(), rel=0.02)
    touches = [[note.touch for note in soundings(made)] for made in (swept, alternate)]
    assert touches[0][1].pick_noise < touches[1][1].pick_noise


def test_notes_stand_where_they_are_written() -> None:
    planned = plan(riff("| 5:0/4 r 4:0/4 5:12 |", tempo=120))
    sound = render(planned, whole(planned))
    assert len(sound) == pytest.approx(2 * RATE, abs=2)
    assert loudest_hertz(piece(planned, sound, 0.05, 0.95), 110) == pytest.approx(110, rel=0.01)
    assert np.abs(piece(planned, sound, 1.1, 1.9)).max() < 0.02
    assert loudest_hertz(piece(planned, sound, 2.05, 2.95), 146.8) == pytest.approx(146.8, rel=0.01)
    assert loudest_hertz(piece(planned, sound, 3.05, 3.95), 220) == pytest.approx(220, rel=0.01)


def test_bends_releases_and_slides_arrive() -> None:
    planned = plan(riff("| 3:7.b2/2 3:7.r | 3:5/2 3:9.s |", tempo=100))
    sound = render(planned, whole(planned))
    seventh = frequency(62)
    assert loudest_hertz(piece(planned, sound, 0.8, 1.9), seventh * 2 ** (2 / 12)) == pytest.approx(
        seventh * 2 ** (2 / 12), rel=0.01
    )
    assert loudest_hertz(piece(planned, sound, 2.6, 3.9), seventh) == pytest.approx(seventh, rel=0.01)
    ninth = frequency(64)
    assert loudest_hertz(piece(planned, sound, 6.6, 7.9), ninth) == pytest.approx(ninth, rel=0.01)


def test_what_rings_goes_on_and_a_string_sounds_one_note_at_a_time() -> None:
    ringing = plan(riff("| 5:3.l/4 4:2.l 3:0.l 4:0.l |"))
    ends = [one.end for one in soundings(ringing)]
    assert ends[0] > 4
    assert ends[1] == 3
    plain = plan(riff("| 5:3/4 4:2 3:0 4:0 |"))
    assert [one.end for one in soundings(plain)] == [1, 2, 3, 4]
    short = plan(riff("| 5:3.z/4 4:2 3:0 4:0 |"))
    assert soundings(short)[0].end < 0.5
    tied = plan(riff("| 5:3/4 5:3.t 3:0/2 |"))
    assert soundings(tied)[0].end == 2


def test_swing_and_tempo() -> None:
    planned = plan(line("5:0 5:0 5:0 5:0", "8", swing="2:1", tempo=60))
    assert [one.onset for one in soundings(planned)] == pytest.approx([0, 2 / 3, 1, 5 / 3])
    assert whole(planned, 120).seconds == pytest.approx(1.0)
    half = Extent(1.0, 2.0, 60.0)
    assert len(render(planned, half)) == pytest.approx(RATE, abs=2)


def test_clicks_and_the_count_in() -> None:
    planned = plan(riff("| r/1 | 5:0/1 |", tempo=120))
    assert [at for at, _, first in beats(planned) if first] == [0.0, 4.0]
    assert [at for at, *_ in beats(planned)[:5]] == [0.0, 1.0, 2.0, 3.0, 4.0]
    extent = Extent(0.0, 4.0, 120.0, click=True, count_in=True)
    sound = render(planned, extent)
    assert count_in_seconds(planned, extent) == 2.0
    for beat in range(8):
        at = round(beat * 0.5 * RATE)
        assert np.abs(sound[at : at + 500]).max() > 0.1
        assert np.abs(sound[at + 5000 : at + 20000]).max() < 0.01
    compound = plan(riff("| 5:0/8 5:0 5:0 5:0 5:0 5:0 |", meter="6/8"))
    assert [at for at, *_ in beats(compound)] == [0.0, 1.5]


def test_the_file_is_a_wave_file_of_the_same_samples(tmp_path: Path) -> None:
    """Read by Python's own wave module."""
    planned = plan(riff("| 5:0/4 4:0 3:0 2:0 |", tempo=200))
    sound = render(planned, whole(planned))
    write_wav(sound, tmp_path / "out.wav")
    with wave.open(str(tmp_path / "out.wav")) as file:
        assert (file.getnchannels(), file.getsampwidth(), file.getframerate()) == (1, 2, RATE)
        assert file.readframes(file.getnframes()) == pcm(sound)
    with pytest.raises(RiffError, match="cannot be written"):
        write_wav(sound, tmp_path / "no" / "out.wav")


def test_the_same_plan_sounds_the_same() -> None:
    planned = plan(riff("| (5:3 4:5 3:5)/2 1:5.v |"))
    one, two = (render(planned, whole(planned)) for _ in range(2))
    np.testing.assert_array_equal(one, two)
    assert np.abs(one).max() <= 1.0


def test_what_stood_there_is_kept_when_sound_cannot_be_written_whole(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Sound once was written straight into the old file, which a full disk left cut short."""
    path = tmp_path / "out.wav"
    path.write_bytes(b"the last good take")

    def full(_handle: int, _data: bytes) -> int:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("dromic.storage.writing.os.write", full)
    with pytest.raises(RiffError, match="no space left on device; what stood there before is kept"):
        write_wav(np.zeros(100), path)
    assert path.read_bytes() == b"the last good take"
    assert list(tmp_path.iterdir()) == [path]
