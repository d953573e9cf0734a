"""A tune over drones keeps its string, and the drones ring."""

from __future__ import annotations

import pytest

from dromic.instrument.presets import instrument_for
from dromic.planner.task.drone_lines import DroneLine, drone_lines
from tests import helpers

OVER_G = "| A3/8 G3 B3 G3 C4 G3 B3 G3 | A3 G3 G3 G3 A3 G3 B3 G3 |"


def lines(bars: str, **header: object) -> tuple[DroneLine, ...]:
    riff = helpers.riff(bars, **header)
    return drone_lines(helpers.plan(riff, "pulse-alternate").task.steps, instrument_for(riff))


def test_a_tune_over_an_open_string_keeps_one_string_where_it_meets_the_drones_pitch_too() -> None:
    plan = helpers.plan(helpers.riff(OVER_G, tempo=120, style="rock"), "pulse-alternate")
    places = helpers.places(plan).split()
    assert {place.split(":")[0] for place in places[::2]} == {"4"}
    assert set(places[1::2]) == {"3:0"}


@pytest.mark.parametrize(
    ("bars", "found"),
    [
        (OVER_G, (DroneLine(0, 2, 8),)),
        ("| A3/8 F3 B3 F3 C4 F3 B3 F3 | A3 F3 G3 F3 A3 F3 B3 F3 |", ()),
        ("| A3/8 G3 B3 G3 C4 G3 B3/4 |", ()),
        ("| A3/8 G3 B3 G3 A3 G3 B3 G3 | A3 G3 B3 G3 A3 G3 B3 G3 |", ()),
        ("| A3/8 B3 E4 G3 B3 E4 F3 B3 E4 G3 B3 E4 A3 B3 E4 |", (DroneLine(0, 3, 5),)),
    ],
    ids=["open string", "no open string", "too short", "two tones are a trill", "two drones"],
)
def test_where_a_tune_over_drones_is_told(bars: str, found: tuple[DroneLine, ...]) -> None:
    assert lines(bars, meter="15/8" if "E4 G3 B3" in bars else "4/4") == found
