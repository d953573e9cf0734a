"""Chords as every player learns them. Common practice, no source."""

from __future__ import annotations

import pytest

from tests.helpers import plan, riff

# Name, places from the thickest string, and the fingers that chord books give; some have two.
OPEN_CHORDS = [
    ("E major", "6:0 5:2 4:2 3:1 2:0 1:0", ["023100"]),
    ("A major", "5:0 4:2 3:2 2:2 1:0", ["01230", "02340", "01110"]),
    ("D major", "4:0 3:2 2:3 1:2", ["0132"]),
    ("C major", "5:3 4:2 3:0 2:1 1:0", ["32010"]),
    ("G major", "6:3 5:2 4:0 3:0 2:0 1:3", ["210003", "320004"]),
    ("A minor", "5:0 4:2 3:2 2:1 1:0", ["02310"]),
    ("E minor", "6:0 5:2 4:2 3:0 2:0 1:0", ["023000", "012000"]),
    ("D minor", "4:0 3:2 2:3 1:1", ["0231"]),
    ("B seven", "5:2 4:1 3:2 2:0 1:2", ["21304"]),
    ("F barre", "6:1 5:3 4:3 3:2 2:1 1:1", ["134211"]),
    ("B minor barre", "5:2 4:4 3:4 2:3 1:2", ["13421"]),
]


@pytest.mark.parametrize(
    ("places", "fingers"), [one[1:] for one in OPEN_CHORDS], ids=[one[0] for one in OPEN_CHORDS]
)
def test_chords_of_the_book(places: str, fingers: list[str]) -> None:
    notes = plan(riff(f"| ({places})/1 |")).events[0].notes
    assert "".join(str(note.finger) for note in notes) in fingers


@pytest.mark.parametrize("fret", [3, 5, 8, 10])
def test_power_chords_are_one_three_four(fret: int) -> None:
    notes = plan(riff(f"| (6:{fret} 5:{fret + 2} 4:{fret + 2})/1 |")).events[0].notes
    assert [note.finger for note in notes] in ([1, 3, 4], [1, 3, 3])
    two = plan(riff(f"| (6:{fret} 5:{fret + 2})/1 |")).events[0].notes
    assert [note.finger for note in two] in ([1, 3], [1, 4])


@pytest.mark.parametrize("fret", [2, 5, 8])
def test_a_barre_chord_moves_up_the_neck_unchanged(fret: int) -> None:
    shape = f"6:{fret} 5:{fret + 2} 4:{fret + 2} 3:{fret + 1} 2:{fret} 1:{fret}"
    notes = plan(riff(f"| ({shape})/1 |")).events[0].notes
    assert [note.finger for note in notes] == [1, 3, 4, 2, 1, 1]


def test_a_chord_of_pitches_is_found_where_beginners_play_it() -> None:
    notes = plan(riff("| (C3 E3 G3 C4 E4)/1 |")).events[0].notes
    assert [(note.string, note.fret) for note in notes] == [(5, 3), (4, 2), (3, 0), (2, 1), (1, 0)]


def test_dropped_tuning_makes_power_chords_a_barre() -> None:
    notes = plan(riff("| (6:5 5:5 4:5)/1 |", tuning="drop")).events[0].notes
    assert len({note.finger for note in notes}) == 1
