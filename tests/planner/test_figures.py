"""Which notes are a figure that comes back: the limits that docs/model.md names, on both sides of each."""

from __future__ import annotations

import pytest

from tests.helpers import plan, riff

TWICE = [(0, 4, 2)]


@pytest.mark.parametrize(
    ("bar", "figures"),
    [
        ("E2/8 B2 D3 B2 E2 E3 G3 E3", TWICE),
        ("E2/8 B2 D3 B2 E2 F3 G#3 F3", []),
        ("A2/8 E3 C4 E3 B2 F#3 E4 F#3", TWICE),
        ("A2/8 E3 C4 E3 B2 F#3 F4 F#3", []),
        ("A2/8 C3 E3 C3 B2 C#3 F#3 C#3", TWICE),
        ("A2/8 C3 D#3 C3 B2 D3 F3 D3", []),
        ("C3/8 D3 F3 E3 C3 D3 F3 E3", TWICE),
        ("A2/8 E3 C4 E3 B2 F#3 D3 F#3", []),
        ("A2/8 E3 C4 E3 B2 F#3/16 D4 F#3/4", []),
        ("C3/8 D3 E3 F3 G3 A3 B3 C4", []),
        ("E2/8 G3 E2 G3 E2 G3 r/4", [(0, 2, 3)]),
        ("E2/8 G3 E2 G3 r/2", []),
        ("E2/8 G3 E2 C4 E2 G3 r/4", [(0, 2, 3)]),
        ("E2/8 (G3 B3) E2 (A3 C4) E2 (B3 D4) r/4", []),
    ],
    ids=[
        "five semitones over a pedal",
        "six over a pedal",
        "two semitones off",
        "three off",
        "seven wide",
        "six wide",
        "the same again",
        "another way",
        "another rhythm",
        "one way only",
        "three pairs",
        "two pairs",
        "pairs over a pedal",
        "chords over a bass",
    ],
)
def test_what_is_a_figure_that_comes_back(bar: str, figures: list[tuple[int, int, int]]) -> None:
    found = plan(riff(f"| {bar} |")).task.figures
    assert [(figure.first, figure.length, figure.takes) for figure in found] == figures
