from __future__ import annotations

from fractions import Fraction

import pytest

from dromic.errors import RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.music.grid import grid_places
from dromic.music.pitch import Pitch, frequency, parse_pitch, pitch_name
from dromic.music.rhythm import Meter, NoteValue, Swing, parse_value, tuplet_time
from dromic.music.timeline import timeline, total_played, total_quarters
from tests.helpers import not_none, riff

F = Fraction


@pytest.mark.parametrize("midi", range(128))
def test_names_and_numbers_of_pitches_agree(midi: int) -> None:
    for flats in (False, True):
        pitch = parse_pitch(pitch_name(midi, flats=flats))
        assert pitch is not None
        assert pitch.midi == midi


@pytest.mark.parametrize("text", ["", "c4", "H4", "C", "C###4", "C4 ", "Cb#4", "4C", "C+4"])
def test_what_is_not_a_pitch(text: str) -> None:
    assert parse_pitch(text) is None


def test_spelling_is_kept() -> None:
    assert str(parse_pitch("Cb4")) == "Cb4"
    assert Pitch("C", -1, 4).midi == not_none(parse_pitch("B3")).midi
    assert frequency(69) == 440.0


@pytest.mark.parametrize(
    ("text", "quarters"),
    [
        ("1", F(4)),
        ("4", F(1)),
        ("8.", F(3, 4)),
        ("8..", F(7, 8)),
        ("8t", F(1, 3)),
        ("16q5", F(1, 5)),
        ("4q2", F(3, 2)),
    ],
)
def test_durations(text: str, quarters: F) -> None:
    value = parse_value(text)
    assert value is not None
    assert value.quarters == quarters
    assert str(value) == text


@pytest.mark.parametrize("text", ["3", "128", "8...", "16q1", "16q8", "16q17", "", "8tt"])
def test_what_is_not_a_duration(text: str) -> None:
    assert parse_value(text) is None


def test_tuplets_of_any_count_fill_their_time() -> None:
    for count in (2, 3, 4, 5, 6, 7, 9, 10, 11, 12, 13, 15):
        assert count * NoteValue(8, tuplet=count).quarters == tuplet_time(count) * F(1, 2)


def test_swing_bends_the_second_half_only() -> None:
    swing = Swing(F(2, 3))
    assert [swing.played(F(n, 2)) for n in range(4)] == [0, F(2, 3), 1, F(5, 3)]
    assert Swing(F(3, 5), 16).played(F(1, 4)) == F(3, 10)
    assert Swing().played(F(7, 3)) == F(7, 3)


def test_repeats_are_played_out() -> None:
    moments = timeline(riff("[A] | 6:0/2 6:1 | x2 [B] | 6:2/1 |"))
    assert [moment.event_index for moment in moments] == [0, 1, 0, 1, 2]
    assert [(moment.bar, moment.beat) for moment in moments] == [
        (1, F(1)),
        (1, F(3)),
        (2, F(1)),
        (2, F(3)),
        (3, F(1)),
    ]
    assert [(moment.phrase, moment.pass_number) for moment in moments] == [(0, 0), (0, 0), (0, 1), (0, 1), (1, 0)]
    assert total_quarters(riff("[A] | 6:0/1 | x3")) == 12


def test_grace_notes_take_their_time_from_the_next() -> None:
    moments = timeline(riff("| 6:0/2 6:1.g 6:2.gh 6:3.h/4 6:0 |"))
    assert [moment.onset for moment in moments] == [0, 2, F(17, 8), F(9, 4), 3]
    assert [moment.duration for moment in moments] == [2, F(1, 8), F(1, 8), F(3, 4), 1]
    crowded = timeline(riff("| 6:1.g 6:2.gh 6:3.gh 6:4.h/16 6:0/8. 6:0/2. |"))
    assert crowded[3].onset == F(1, 8)


def test_a_swung_riff_keeps_its_beats() -> None:
    moments = timeline(riff("| 6:0/8 6:0 6:0 6:0 6:0/2 |", swing="2:1"))
    assert [moment.played for moment in moments] == [0, F(2, 3), 1, F(5, 3), 2]
    assert [moment.onset for moment in moments] == [0, F(1, 2), 1, F(3, 2), 2]


def test_half_a_pair_at_the_end_of_a_bar_is_straight() -> None:
    """Else a note behind the middle of it would fall into the next bar."""
    moments = timeline(riff("| 6:0/8 6:0 6:1/16 6:2.g 6:3 | 6:0/4. |", meter="3/8", swing="2:1"))
    assert [moment.played for moment in moments] == [0, F(2, 3), 1, F(5, 4), F(11, 8), F(3, 2)]


def parts(bars: str, **header: object) -> list[tuple[int, int]]:
    made = riff(bars, **header)
    return [(place.part, place.parts) for place in grid_places(timeline(made))]


def test_the_grid_shares_its_finest_binary_division_in_a_bar() -> None:
    assert parts("| 6:0/8 6:0 6:0/16 6:0 6:0 6:0 6:0/2 |") == [
        (0, 4), (2, 4), (0, 4), (1, 4), (2, 4), (3, 4), (0, 4),
    ]  # fmt: skip


def test_triplets_and_compound_beats_have_three_parts() -> None:
    assert parts("| 6:0/8t 6:0 6:0 6:0/8 6:0 6:0/2 |")[:5] == [(0, 3), (1, 3), (2, 3), (0, 2), (1, 2)]
    assert parts("| 6:0/8 6:0 6:0 6:0/4 6:0/8 |", meter="6/8") == [(0, 3), (1, 3), (2, 3), (0, 3), (2, 3)]


def test_beats_follow_the_metre() -> None:
    assert Meter(7, 8).beat == F(1, 2)
    assert Meter(2, 2).beat == 2
    assert not Meter(3, 8).compound
    assert Meter(9, 8).compound


def test_the_metre_may_change_from_bar_to_bar() -> None:
    made = riff("[A] | 6:0/4 6:0 6:0 6:0 | {7/8} | 6:0/8 6:1 6:0 6:1 6:0 6:1 6:3 | x2 [B] | {6/8} 6:0/4. 6:2 |")
    moments = timeline(made)
    assert [(one.bar, one.beat) for one in moments[-2:]] == [(5, F(1)), (5, F(5, 2))]
    assert moments[4].onset == F(4)
    assert moments[11].bar == 3
    assert str(moments[11].meter) == "4/4"
    assert moments[11].onset == F(15, 2)
    places = grid_places(moments)
    assert [(place.part, place.parts) for place in places[-2:]] == [(0, 1), (0, 1)]
    assert total_quarters(made) == F(18)


def test_a_slower_bar_takes_more_of_the_riffs_own_time() -> None:
    made = riff("| 6:0/4 6:1 6:2 6:3 | {tempo 60} | 6:0/4 6:1 6:2 6:3 | {tempo 240} | 6:0/2 6:1 |", tempo=120)
    assert [moment.played for moment in timeline(made)] == [0, 1, 2, 3, 4, 6, 8, 10, 12, 13]
    assert [moment.onset for moment in timeline(made)] == [0, 1, 2, 3, 4, 5, 6, 7, 8, 10]
    assert total_quarters(made) == F(12)
    assert total_played(made) == F(14)
    swung = riff("{tempo 60} | 6:0/8 6:1 r/2. |", tempo=120, swing="2:1")
    assert timeline(swung)[1].played == F(4, 3)


def test_tempi_inside_a_riff_go_with_its_own() -> None:
    made = riff("| 6:0/1 | {tempo 60} | 6:0/1 |", tempo=120)
    slower = made.at_tempo(90)
    assert (slower.tempo, slower.phrases[0].bars[1].tempo) == (90, 45)
    assert slower.plays_like(made)
    assert slower.at_tempo(120) == made
    assert [moment.played for moment in timeline(slower)] == [moment.played for moment in timeline(made)]


@pytest.mark.parametrize("words", ["{tempo}", "{tempo 5}", "{tempo 9000}", "{tempo fast}"])
def test_tempi_that_are_none(words: str) -> None:
    with pytest.raises(RiffError, match="expected a tempo from 10 to 500 in braces"):
        read_riff_text(f"| 6:0/1 | {words} | 6:0/1 |")


def test_a_tempo_needs_a_bar_after_it() -> None:
    with pytest.raises(RiffError, match=r"no bar follows the change to 90"):
        read_riff_text("| 6:0/1 | {tempo 90}")
