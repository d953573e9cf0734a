"""Which style is told from a riff that names none. Common practice, no source."""

from __future__ import annotations

import pytest

from dromic.instrument.presets import instrument_named
from dromic.music.riff import Style
from dromic.planner.task.sounding import sound_of
from dromic.schools.registry import school_named
from tests.helpers import riff

GUITAR = instrument_named("guitar-6")
OPEN = {"F": 5, "C": 0, "G": 7, "D": 2, "A": 9, "E": 4}
CLOSED = {"Bb": 10, "Eb": 3, "Ab": 8, "Db": 1, "Gb": 6, "B": 11}
SHARPS = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
MAJOR = (0, 2, 4, 5, 7, 9, 11, 12)


def told(tonic: int, school: str = "pulse-alternate", **header: str) -> Style:
    pitches = [52 + (tonic - 4) % 12 + step for step in MAJOR]
    words = " ".join(f"{SHARPS[pitch % 12]}{pitch // 12 - 1}" for pitch in pitches)
    return sound_of(riff(f"| {words.replace(' ', '/8 ', 1)} |", **header), school_named(school), GUITAR).style


@pytest.mark.parametrize("tonic", OPEN.values(), ids=list(OPEN))
def test_a_clean_tune_in_a_key_of_open_strings_is_at_home_by_the_nut(tonic: int) -> None:
    assert told(tonic) is Style.BLUEGRASS


@pytest.mark.parametrize("tonic", CLOSED.values(), ids=list(CLOSED))
def test_a_clean_line_in_another_key_is_not(tonic: int) -> None:
    assert told(tonic) is Style.JAZZ


def test_gain_and_school_come_before_the_key() -> None:
    assert told(OPEN["G"], gain="high") is Style.ROCK
    assert told(OPEN["G"], "sweep", gain="high") is Style.METAL
    assert told(OPEN["G"], "economy") is Style.JAZZ
    assert told(CLOSED["Bb"], "hybrid") is Style.COUNTRY


def test_with_a_capo_open_strings_are_wanted() -> None:
    assert told(OPEN["A"], "strict-alternate") is Style.JAZZ
    assert told(OPEN["A"], "strict-alternate", capo="2") is Style.BLUEGRASS
    assert told(CLOSED["Bb"], capo="3") is Style.BLUEGRASS


@pytest.mark.parametrize(
    ("chords", "style"),
    [
        ("(D3 F3 C4 E4)/2 (G2 F3 B3 E4)", Style.JAZZ),
        ("(A2 E3 C4)/2 (E2 D3 G#3 B3)", Style.COUNTRY),
        ("(A2 E3)/2 (D3 A3)", Style.COUNTRY),
    ],
    ids=["ninths and thirteenths", "a triad and a seventh", "fifths"],
)
def test_chords_of_jazz_are_jazz(chords: str, style: Style) -> None:
    assert sound_of(riff(f"| {chords} |"), school_named("hybrid"), GUITAR).style is style
