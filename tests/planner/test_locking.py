"""Taking another plan's choices over as decisions."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic.hands.profile import hands_named
from dromic.planner.locking import differing, with_plan
from tests.helpers import plan, riff

# A player who would rather be anywhere but where the model is at home.
SMALL = hands_named("small")
ELSEWHERE = replace(SMALL, comfort=replace(SMALL.comfort, up_closed=-0.05, up_the_neck=-0.05))


@pytest.mark.parametrize(
    "bars",
    [
        "| A3/8 C4 E4 G4 A4 G4 E4 C4 |",
        "| (A2 E3)/8 A3 (C3 G3) C4 (A2 E3 A3) A3 C4 E4 |",
        "| A3.l/8 C4.l E4.l (A3 C4 E4) A3.l C4.l E4.l (A3 C4 E4) |",
    ],
    ids=["notes", "chords and notes", "chords that ring"],
)
def test_another_plan_can_be_taken_over_note_by_note(bars: str) -> None:
    made = riff(bars)
    current, wanted = plan(made, "economy"), plan(made, "economy", hands=ELSEWHERE)
    assert differing(current, wanted)
    again = plan(with_plan(current, wanted), "economy")
    assert [(state.notes, state.stroke) for state in again.states] == [
        (state.notes, state.stroke) for state in wanted.states
    ]
