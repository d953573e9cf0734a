"""Ceilings of medium hands against the tempi that practised players reach.

Common practice, no source: quarter notes a minute, on several strings and in several keys. Places are written, so
that the tempo is that of the movement and not of a better way round it.
"""

from __future__ import annotations

import pytest

from tests.helpers import line, not_none, plan, riff


def ceiling(
    notes: str, school: str, value: str = "16", *, count: int | None = None, instrument: str = "guitar-6"
) -> float:
    made = line(notes, value, count=count, tempo=120, instrument=instrument)
    return not_none(plan(made, school, objective="tempo").ceiling)


def up_and_back(notes: str) -> str:
    words = notes.split()
    return " ".join([*words, *words[-2:0:-1]])


@pytest.mark.parametrize("string", [6, 4, 1])
def test_sixteenths_on_one_string(string: int) -> None:
    assert 190 <= ceiling(f"{string}:5 " * 8, "strict-alternate") <= 220


@pytest.mark.parametrize("string", [6, 5])
def test_eighths_all_down(string: int) -> None:
    assert 190 <= ceiling(f"{string}:0!d " * 8, "least-motion", "8") <= 230


@pytest.mark.parametrize("note", ["6:0.m", "5:0.m", "6:5"])
def test_gallops_in_place(note: str) -> None:
    made = riff("| " + " ".join([f"{note}/8 {note}/16 {note}"] * 4) + " |", tempo=120)
    assert 180 <= not_none(plan(made, "downstroke-first", objective="tempo").ceiling) <= 220


@pytest.mark.parametrize("string", [4, 2])
def test_two_fingers_on_the_bass(string: int) -> None:
    assert 130 <= ceiling(f"{string}:5 " * 8, "bass-two-finger", instrument="bass-4") <= 170


POSITIONS = [
    "6:5 6:7 6:8 5:5 5:7 5:8 4:5 4:7 4:9",
    "5:7 5:9 5:10 4:7 4:9 4:10 3:7 3:9 3:11",
    "3:9 3:10 3:12 2:10 2:12 2:13 1:10 1:12 1:14",
]


@pytest.mark.parametrize("notes", POSITIONS)
def test_three_notes_a_string_in_position(notes: str) -> None:
    alternate = ceiling(up_and_back(notes), "strict-alternate")
    assert 150 <= alternate <= 190
    one_way = ceiling(notes, "strict-alternate")
    assert 1.05 <= ceiling(notes, "economy") / one_way <= 1.2


@pytest.mark.parametrize(
    "notes",
    [
        "6:3 6:5 6:7 5:5 5:7 5:9 4:7 4:9 4:10",
        "5:5 5:7 5:8 4:7 4:9 4:10 3:9 3:11 3:12",
        "3:5 3:7 3:9 2:8 2:10 2:12 1:10 1:12 1:14",
    ],
)
def test_three_notes_a_string_with_shifts(notes: str) -> None:
    assert 130 <= ceiling(up_and_back(notes), "strict-alternate") <= 170


@pytest.mark.parametrize("cell", ["4:5 3:5 2:5 3:5", "5:7 4:7 3:7 4:7", "4:7 3:6 2:5 3:6", "3:9 2:8 1:7 2:8"])
def test_one_note_a_string_across_three(cell: str) -> None:
    assert 110 <= ceiling(" ".join([cell] * 3), "strict-alternate") <= 150


@pytest.mark.parametrize("cell", ["4:7 3:6 2:5", "5:3 4:2 3:0"])
def test_cross_picking_rolls(cell: str) -> None:
    assert 110 <= ceiling(" ".join([cell] * 4), "cross-picking") <= 150


@pytest.mark.parametrize(
    "notes",
    [
        "5:12 4:14 3:14 2:13 1:12 1:17.h 1:12.p 2:13 3:14 4:14 5:12",
        "5:7 4:9 3:9 2:8 1:7 1:12.h 1:7.p 2:8 3:9 4:9 5:7",
        "5:10 4:9 3:7 2:8 1:7 1:10.h 1:7.p 2:8 3:7 4:9 5:10",
    ],
)
def test_a_five_string_sweep_and_back_in_sextuplets(notes: str) -> None:
    """A practised sweeper comes to 180."""
    assert 110 <= ceiling(f"{notes} r", "sweep") * 4 / 6 <= 180


@pytest.mark.parametrize("cell", ["4:5 2:5", "5:7 3:6", "3:9 1:10"])
def test_a_skip_each_note(cell: str) -> None:
    assert 110 <= ceiling(" ".join([cell] * 4), "strict-alternate") <= 140


@pytest.mark.parametrize(
    "notes",
    [
        "6:5@1 6:7@3 6:8@4 5:7@1 5:9@3 5:10@4",
        "5:5@1 5:7@3 5:9@4 4:7@1 4:9@3 4:10@4",
        "2:8@1 2:10@3 2:12@4 1:10@1 1:12@3 1:13@4",
    ],
)
def test_a_two_fret_shift_at_a_string_change(notes: str) -> None:
    assert 120 <= ceiling(notes, "strict-alternate") <= 150


@pytest.mark.parametrize("low", [5, 4])
def test_what_is_always_faster_than_what(low: int) -> None:
    """Tremolo, a sweep along neighbours, a run in position, outside, inside, skip, a shift with a skip."""
    high = low - 1
    tempi = [
        ceiling(f"{low}:5 " * 8, "strict-alternate"),
        ceiling(f"{low}:5!d {high}:5!d", "least-motion", count=2),
        ceiling(f"{low}:5@1 {low}:7@3 {low}:8@4 {high}:5@1 {high}:7@3 {high}:9@4", "strict-alternate"),
        ceiling(f"{low}:0!d {high}:0!u " * 4, "least-motion"),
        ceiling(f"{low}:0!u {high}:0!d " * 4, "least-motion"),
        ceiling(f"{low}:0 {low - 2}:0 " * 4, "strict-alternate"),
        ceiling(f"{low}:5@1 {low - 2}:9@3 " * 4, "strict-alternate"),
    ]
    assert tempi == sorted(tempi, reverse=True)
