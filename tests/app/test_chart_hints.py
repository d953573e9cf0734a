"""What the chart tells where the pointer rests, and the neck under it."""

from __future__ import annotations

import itertools

import pytest
from PyQt6.QtCore import QPointF, Qt
from pytestqt.qtbot import QtBot

from dromic.app.chart.frame import View
from dromic.app.chart.lanes import LANES, chart_layout, hint, label_hint, lane_at
from dromic.app.chart.neck import NeckLayout
from dromic.app.chart.painting import GUTTER
from dromic.app.window import MainWindow
from dromic.listening.take import End, State, TakeNote
from dromic.planner.plan import Plan
from dromic.planner.told.reasons import model_of
from tests.helpers import not_none, plan, riff

LOADS = next(lane for lane in LANES if lane.name == "load")

LICK = "[in] | 6:5/8 6:7.h 5:5 5:7 4:5!d 4:7 1:12 1:12 | x2"


@pytest.fixture(scope="module")
def planned() -> Plan:
    return plan(riff(LICK, tempo=150), "economy")


def told(planned: Plan, step: int, lane: str, view: View | None = None) -> str:
    layout = chart_layout(planned, 140.0, 620.0, view or View(mutes=True))
    heights = {
        "ruler": layout.ruler.bottom - 4,
        "strokes": layout.strokes.top + 10,
        "strings": layout.string_y(planned.states[step].string),
        "mutes": layout.mutes.top + 8,
        "hand": layout.hand.bottom - 5,
        "load": layout.load.bottom - 5,
    }
    assert lane_at(layout, heights[lane]).name == lane
    return hint(layout, model_of(planned), layout.columns[step].plate_x, heights[lane])


def test_every_lane_tells_its_own_story(planned: Plan) -> None:
    assert told(planned, 0, "ruler") == "bar 1 beat 1\nmetre 4/4\nphrase in, time 1 of 2"
    assert told(planned, 9, "ruler").endswith("phrase in, time 2 of 2")
    assert "stroke" in told(planned, 0, "strokes")
    assert told(planned, 1, "strokes") == "bar 1 beat 1 &\nhammer-on: not picked"
    assert told(planned, 4, "strokes").endswith("locked by you")
    assert "string 6, fret 5" in told(planned, 0, "strings")
    assert "hammer-on" in told(planned, 1, "strings")
    assert "string 6:" in told(planned, 3, "mutes")
    hand = told(planned, 6, "hand")
    assert f"hand at fret {planned.states[6].position}" in hand
    assert " ms" in hand
    assert told(planned, 0, "load") == "bar 1 beat 1\nthe first note: both hands start from rest"


def test_loads_are_told_at_the_tempo_of_the_slider(planned: Plan) -> None:
    step = max(range(1, len(planned.states)), key=lambda one: planned.event_of_step(one).loads.pick)
    load = planned.event_of_step(step).loads.pick
    assert f"{load:.2f}" in told(planned, step, "load")
    hurried = told(planned, step, "load", View(mutes=True, tempo_ratio=1.5))
    assert f"{1.5 * load:.2f}" in hurried
    assert ("no time for it" in hurried) == (1.5 * planned.event_of_step(step).loads.largest > 1)


def test_between_plates_the_way_of_the_pick_is_told(planned: Plan) -> None:
    layout = chart_layout(planned, 140.0, 620.0)
    x = layout.columns[6].x - 20
    words = hint(layout, model_of(planned), x, layout.string_y(3))
    assert words.startswith("on the way to bar 1 beat 4\n")
    assert "skip" in words
    rests = hint(layout, model_of(planned), layout.columns[1].x - 8, layout.string_y(3))
    assert "the pick rests" in rests


def test_labels_explain_their_lane(planned: Plan) -> None:
    layout = chart_layout(planned, 140.0, 620.0, View(mutes=True, harmony=True))
    assert label_hint(layout, layout.load.top + 5) == LOADS.words
    shown = [lane.words for lane in LANES if layout.bands[lane.name].height]
    assert {label_hint(layout, y) for y in range(0, 620, 4)} == set(shown)


def test_a_take_has_its_lane_in_place_of_the_loads(planned: Plan) -> None:
    heard = TakeNote(1, 0, 2.0, -14.0, State.SMEARED, 4.0, End.RINGS, ring_db=-9.0, onset_sure_ms=1.5)
    take = tuple((heard,) if step == 1 else () for step in range(len(planned.states)))
    layout = chart_layout(planned, 140.0, 620.0, View(take=take))
    assert layout.load.height == 0
    place = layout.bands["take"]
    assert place.bottom == layout.bottom <= 620
    told = hint(layout, model_of(planned), layout.columns[1].plate_x, place.top + 20)
    assert "round 2: 14 ms early (give or take 1.5), brushed before the stroke" in told
    assert "4 dB louder than its like, rings on under the next, 9 dB down" in told
    assert "not heard in this take" in hint(layout, model_of(planned), layout.columns[2].plate_x, place.top + 20)


@pytest.mark.parametrize("size", [1.0, 1.5])
def test_hovering_finds_the_note_at_every_size(window: MainWindow, size: float) -> None:
    window.resize(1280, 1000)
    window.preferences.prefer(chart_size=size)
    chart = window.plan_page.chart
    chart.set_choice(3)
    layout = chart.chart_layout
    assert chart.step_at(QPointF(10, 100)) is None
    x = (not_none(layout).columns[3].plate_x - chart._scrolled + GUTTER) * size
    assert chart.step_at(QPointF(x, 100)) == 3
    place = not_none(window.document.plan).task.steps[3].moment.place_words
    assert chart.hint_at(QPointF(x, not_none(layout).load.bottom * size - 4)).startswith(f"{place}\npick: ")
    assert chart.hint_at(QPointF(10, not_none(layout).load.bottom * size - 4)) == LOADS.words


@pytest.mark.parametrize("left_handed", [False, True])
@pytest.mark.parametrize("thick_on_top", [False, True])
def test_the_neck_lies_as_the_player_sees_it(planned: Plan, left_handed: bool, thick_on_top: bool) -> None:
    neck = NeckLayout(planned, 800.0, 126.0, thick_on_top, left_handed)
    wires = [neck.wire_x(fret) for fret in range(neck.frets[0], neck.frets[1] + 1)]
    assert wires == sorted(wires, reverse=left_handed)
    gaps = [abs(after - before) for before, after in itertools.pairwise(wires)]
    # Each fret is 2^(-1/12) as wide as the one before it (equal temperament).
    assert all(after / before == pytest.approx(2 ** (-1 / 12)) for before, after in itertools.pairwise(gaps))
    assert (neck.string_y(6) < neck.string_y(1)) == thick_on_top
    assert (neck.pick_x < neck.wire_x(12)) == left_handed
    for event in planned.events:
        for note in event.notes:
            between = sorted((neck.wire_x(note.fret - 1), neck.wire_x(note.fret)))
            assert between[0] < neck.finger_x(note.fret) < between[1]


def test_the_neck_follows_choice_keys_and_small_windows(window: MainWindow, qtbot: QtBot) -> None:
    page = window.plan_page
    assert page.neck.isVisible()
    window.document.choose(1)
    plain = page.neck.grab().toImage()
    window.document.choose(9)
    assert page.neck.grab().toImage() != plain
    assert "string" in page.neck.accessibleDescription()
    before = page.neck.grab().toImage()
    qtbot.keyClick(window, Qt.Key.Key_F6, Qt.KeyboardModifier.ShiftModifier)
    assert page.neck.grab().toImage() != before
    window.resize(1000, 640)
    qtbot.waitUntil(lambda: not page.neck.isVisible())
    window.resize(1280, 900)
    qtbot.waitUntil(page.neck.isVisible)
    qtbot.keyClick(window, Qt.Key.Key_F10)
    assert not page.neck.isVisible()


def test_the_neck_follows_the_sound(window: MainWindow) -> None:
    page = window.plan_page
    page.chart.set_plan(window.document.plan)
    onset = float(not_none(window.document.plan).task.steps[5].moment.played)
    page.transport.player.moved.emit(onset + 0.01)
    assert page.neck._step == 5
    page.transport.player.stopped.emit()
    assert page.neck._step == window.document.chosen
