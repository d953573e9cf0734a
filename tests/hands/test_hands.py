"""Movements of each hand, one at a time."""

from __future__ import annotations

from dataclasses import fields, replace
from typing import Any

import numpy as np
import pytest

from dromic.errors import RiffError
from dromic.hands.constants import Lean, PickingHand
from dromic.hands.fretting import all_moves
from dromic.hands.fretting_tables import FretMoves, FrettingTables, sum_of
from dromic.hands.grips import Grip, GripArrays, Grips
from dromic.hands.picking import PickMoves, pick_moves, pick_states
from dromic.hands.possible_moves import TransitionKind
from dromic.hands.posture import NONE, Inflections, posture, reach_mm, spread_on
from dromic.hands.profile import PROFILES, Hands, hands_named, with_span, with_speed
from dromic.hands.shapes import find_shapes
from dromic.hands.style import Sound
from dromic.hands.style_options import constant_rows
from dromic.instrument.presets import instrument_named
from dromic.music.riff import Mark, Place

HANDS = Hands()
GUITAR = instrument_named("guitar-6")
DOWN, UP = 0, 1
TRAPPED = replace(PickingHand(), turns=False, lean=Lean.UP_ESCAPES)


def moves(hand: PickingHand = TRAPPED) -> PickMoves:
    return pick_moves(GUITAR.pick_y, pick_states(hand), hand)


def one(string: int, fret: int, finger: int, position: int) -> GripArrays:
    return Grips((Grip(((string, fret, finger),), position),), 6).arrays


def move(before: GripArrays, after: GripArrays, **plan_settings: Any) -> FretMoves:
    high_gain = bool(plan_settings.pop("high_gain", False))
    tables = FrettingTables(GUITAR, HANDS.fretting, HANDS.comfort, sound=Sound(high_gain=high_gain))
    return all_moves(tables, before, after, TransitionKind(**plan_settings))


def test_what_kind_a_change_of_string_is() -> None:
    table = moves()
    down_then_up_to_thinner = table.outside[DOWN, 2, UP, 3]
    assert down_then_up_to_thinner
    assert table.inside[DOWN, 3, UP, 2]
    assert table.sweep[DOWN, 2, DOWN, 3]
    assert table.sweep[UP, 3, UP, 2]
    assert not table.sweep[UP, 2, UP, 3]
    assert not (table.inside | table.outside | table.sweep)[DOWN, 2, UP, 2]


def test_strings_to_clear() -> None:
    table = moves()
    assert table.cleared[DOWN, 2, UP, 2] == 0
    assert table.cleared[DOWN, 2, DOWN, 3] == 0
    assert table.cleared[DOWN, 2, UP, 3] == 1
    assert table.cleared[DOWN, 2, DOWN, 2] == 1
    assert table.cleared[DOWN, 3, DOWN, 2] == 2
    assert table.cleared[DOWN, 0, DOWN, 2] == 1
    assert table.cleared[DOWN, 0, UP, 5] == 5


def test_a_lean_that_lets_upstrokes_escape_makes_changes_after_them_free() -> None:
    table = moves()
    assert table.paid[UP, 3, DOWN, 2] == 0
    assert table.paid[DOWN, 2, UP, 3] == 1
    assert table.time_ms[UP, 2, DOWN, 3] < table.time_ms[DOWN, 2, UP, 3]


def test_turning_the_lean_costs_its_time_and_nothing_else() -> None:
    hand = PickingHand()
    table = moves(hand)
    assert table.time_ms[0, 2, 3, 2] - table.time_ms[0, 2, 1, 2] == pytest.approx(hand.turn_ms)
    assert table.times["turn_ms"][0, 2, 1, 2] == 0


def test_a_mirrored_instrument_mirrors_the_strokes() -> None:
    up_hand, down_hand = replace(TRAPPED, lean=Lean.UP_ESCAPES), replace(TRAPPED, lean=Lean.DOWN_ESCAPES)
    straight, mirrored = moves(up_hand).time_ms, moves(down_hand).time_ms
    assert np.allclose(straight, mirrored[::-1, ::-1, ::-1, ::-1])


def test_reach_is_nought_where_fingers_lie_at_ease() -> None:
    def reach(fret: int, finger: int, position: int) -> float:
        rows = np.array([fret]), np.array([finger]), np.array([position])
        return float(reach_mm(*rows, GUITAR, HANDS.fretting)[0])

    assert reach(5, 1, 5) == 0
    assert reach(4, 4, 1) > 0 > reach(15, 4, 12)


def test_postures_that_are_dearer() -> None:
    def held(state: GripArrays, bend: bool = False) -> float:
        return float(
            sum_of(
                posture(
                    state,
                    GUITAR,
                    HANDS.fretting,
                    HANDS.comfort,
                    how=Inflections(bend=frozenset(range(128)) if bend else NONE),
                ),
                (1,),
            )[0]
        )

    assert held(one(3, 5, 1, 4)) > held(one(3, 5, 1, 5))
    assert held(one(3, 1, 4, 1)) > held(one(3, 1, 1, 1))
    assert held(one(6, 17, 1, 17)) > held(one(1, 17, 1, 17))
    assert held(one(3, 7, 1, 7), bend=True) > held(one(3, 7, 3, 5), bend=True)
    assert held(one(1, 0, 0, 9)) > held(one(1, 0, 0, 2)) == 0


@pytest.mark.parametrize(
    ("before", "after", "parts"),
    [
        ((3, 5, 1, 5), (3, 7, 3, 5), "place_ms"),
        ((3, 5, 1, 5), (3, 5, 1, 5), ""),
        ((3, 5, 1, 5), (2, 5, 1, 5), "roll_ms"),
        ((3, 5, 1, 5), (1, 0, 0, 5), "lift_ms"),
        ((1, 0, 0, 5), (3, 5, 1, 5), "place_ms"),
        ((3, 7, 3, 5), (3, 8, 4, 5), "place_ms fourth_ms weak_34_ms"),
        ((3, 5, 3, 3), (3, 7, 1, 7), "landing_ms shift_ms shift_fitts_ms hold_ms"),
        ((3, 7, 2, 6), (2, 6, 3, 6), "place_ms cross_ms"),
        ((3, 5, 1, 5), (3, 9, 1, 9), "shift_ms shift_fitts_ms hold_ms"),
    ],
)
def test_times_of_moves_by_name(before: tuple[int, ...], after: tuple[int, ...], parts: str) -> None:
    made = move(one(*before), one(*after))
    found = {key: float(term[0, 0]) for key, term in made.times.items() if term[0, 0]}
    assert set(found) == set(parts.split())
    for name in set(found) - {"shift_fitts_ms"}:
        assert found[name] == pytest.approx(getattr(HANDS.fretting, name))
    assert float(made.time_ms[0, 0]) == pytest.approx(sum(found.values()))


def test_the_same_finger_elsewhere_jumps_by_its_way() -> None:
    near = move(one(3, 7, 3, 5), one(2, 8, 3, 5)).times["jump_fitts_ms"][0, 0]
    far = move(one(6, 7, 3, 5), one(1, 8, 3, 5)).times["jump_fitts_ms"][0, 0]
    assert 0 < near < far
    with_the_hand = move(one(6, 7, 3, 5), one(1, 8, 3, 6))
    assert with_the_hand.times["jump_fitts_ms"][0, 0] == 0
    assert not with_the_hand.jumped[0, 0]
    assert with_the_hand.shifted[0, 0]


def test_high_gain_makes_rolls_dearer() -> None:
    a, b = one(3, 5, 1, 5), one(2, 5, 1, 5)
    assert move(a, b, high_gain=True).time_ms[0, 0] - move(a, b).time_ms[0, 0] == pytest.approx(15)


def test_a_rest_or_an_open_string_buys_time_for_a_shift() -> None:
    a, b = one(3, 5, 1, 5), one(3, 12, 1, 12)
    assert move(a, b, silent_between=True).time_ms[0, 0] < move(a, b).time_ms[0, 0]
    assert move(one(3, 0, 0, 5), b).times["hold_ms"][0, 0] == 0


LEGATO = [
    (Mark.HAMMER, (3, 5, 1, 5), (3, 7, 3, 5), True),
    (Mark.HAMMER, (3, 5, 3, 3), (3, 7, 1, 7), False),
    (Mark.HAMMER, (3, 7, 3, 5), (3, 5, 1, 5), False),
    (Mark.HAMMER, (3, 5, 1, 5), (2, 7, 3, 5), True),
    (Mark.HAMMER, (3, 5, 1, 5), (2, 0, 0, 5), False),
    (Mark.PULL, (3, 7, 3, 5), (3, 5, 1, 5), True),
    (Mark.PULL, (3, 7, 3, 5), (3, 0, 0, 5), True),
    (Mark.PULL, (3, 7, 1, 7), (3, 5, 1, 5), False),
    (Mark.PULL, (3, 7, 3, 5), (3, 5, 1, 4), False),
    (Mark.SLIDE, (3, 5, 1, 5), (3, 7, 1, 7), True),
    (Mark.SLIDE, (3, 5, 1, 5), (3, 7, 3, 5), False),
    (Mark.SLIDE, (3, 5, 1, 5), (3, 5, 1, 5), False),
    (Mark.RELEASE, (3, 7, 3, 5), (3, 7, 3, 5), True),
    (Mark.RELEASE, (3, 7, 3, 5), (3, 5, 1, 5), False),
]


@pytest.mark.parametrize(("mark", "before", "after", "allowed"), LEGATO)
def test_what_legato_allows(mark: Mark, before: tuple[int, ...], after: tuple[int, ...], allowed: bool) -> None:
    assert bool(move(one(*before), one(*after), legato=mark).allowed[0, 0]) is allowed


def test_profiles() -> None:
    assert set(PROFILES) == {"medium", "small", "large", "beginner", "fast"}
    slow, wide = with_speed(HANDS, "x", 2.0), with_span(HANDS, "y", 1.5)
    assert slow.picking.reversal_ms == 2 * HANDS.picking.reversal_ms
    assert slow.picking.target_mm == HANDS.picking.target_mm
    assert wide.fretting.spread_mm == pytest.approx((0, 36, 70.5, 103.5))
    assert wide.fretting.place_ms == HANDS.fretting.place_ms
    with pytest.raises(RiffError, match="hands: found 'paws', expected one of medium, small"):
        hands_named("paws")


def test_every_constant_says_its_unit_and_source() -> None:
    rows = constant_rows(HANDS)
    parts = (HANDS.picking, HANDS.fretting, HANDS.sync, HANDS.comfort)
    assert len(rows) == sum(len(fields(part)) for part in parts)
    for row in rows:
        assert row.words
        assert row.source
        assert row.unit or not row.value.replace(".", "").replace(", ", "").isdigit()


def test_on_a_long_neck_a_chord_is_held_as_wide_as_single_notes_are() -> None:
    bass = instrument_named("bass-4")
    wide = [Place(4, 1), Place(3, 4)]
    grips = find_shapes([[place] for place in wide], [1, 4], bass, HANDS.fretting)
    assert spread_on(bass, HANDS.fretting)[4] > HANDS.fretting.spread_mm[-1]
    for grip in grips:
        for _, fret, finger in grip.notes:
            rows = np.array([fret]), np.array([finger]), np.array([grip.position])
            assert -HANDS.fretting.crowd_mm <= reach_mm(*rows, bass, HANDS.fretting)[0] <= HANDS.fretting.stretch_mm
    assert grips
