"""Geometry of the chart, without Qt."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.app.chart.frame import MARGIN, View
from dromic.app.chart.lanes import chart_layout
from dromic.app.chart.layout import ChartLayout, default_zoom
from dromic.app.chart.part import MOST_ROOM, Part
from dromic.app.chart.path import picked_columns, stroke_mark, way_between
from dromic.demo.library import DemoRiff, demo_riffs
from dromic.errors import NoPlanError
from dromic.hands.constants import PickingHand
from dromic.hands.profile import Hands
from dromic.music.riff import Riff, Stroke
from dromic.planner.plan import Plan
from tests.helpers import line, plan, riff
from tests.strategies import short_lines

ONE_LEAN = Hands(picking=PickingHand(turns=False))


def layout(made: Riff, school: str = "least-motion", **plan_settings: Any) -> ChartLayout:
    planned = plan(made, school, hands=ONE_LEAN)
    return chart_layout(planned, plan_settings.pop("zoom", 100.0), 600.0, **plan_settings)


VIEWS = st.builds(View, st.booleans(), st.booleans(), st.booleans(), st.floats(0.3, 3))


@given(short_lines(most=8), st.floats(20, 500), st.floats(200, 1200), VIEWS)
@settings(max_examples=40)
def test_everything_lies_in_its_band(made: Riff, zoom: float, height: float, view: View) -> None:
    try:
        planned = plan(made)
    except NoPlanError:
        return
    chart = chart_layout(planned, zoom, height, view)
    assert chart.ruler.bottom <= chart.strokes.top
    assert chart.strokes.bottom <= chart.field.top < chart.field.bottom
    # In a low window the lanes that others tell of too give way.
    if height >= 250:
        assert chart.field.bottom < chart.hand.top < chart.hand.bottom < chart.load.top < chart.load.bottom
    xs = [column.x for column in chart.columns]
    assert xs == sorted(xs)
    assert xs[0] >= MARGIN
    assert xs[-1] < chart.width
    for index, column in enumerate(chart.columns):
        note = column.event.notes[0]
        assert chart.field.top <= chart.string_y(note.string) <= chart.field.bottom
        if note.fret and height >= 250:
            y = chart.neck_y(float(planned.instrument.spots[note.fret]))
            assert chart.hand.top <= y <= chart.hand.bottom
        assert chart.load.top <= chart.load_y(column.loads.largest) <= chart.load.bottom
        assert column.loads.pick == pytest.approx(column.event.loads.pick * view.tempo_ratio)
        if view.mutes:
            assert chart.field.bottom < chart.mute_y(note.string) <= chart.mutes.bottom
        assert chart.nearest(column.plate_x) == index or xs.count(column.x) > 1


def whole(chart: ChartLayout) -> Part:
    return chart.part(0.0, chart.width)


def test_a_down_stroke_goes_down_the_page_when_the_thick_string_is_on_top() -> None:
    made = line("5:5!d 5:5!u")
    chart, page = layout(made), layout(made, view=View(thick_on_top=False))
    assert chart.string_y(6) < chart.string_y(1)
    assert page.string_y(6) > page.string_y(1)
    assert stroke_mark(whole(chart), 0).start < stroke_mark(whole(chart), 0).end
    assert stroke_mark(whole(page), 0).start > stroke_mark(whole(page), 0).end
    assert stroke_mark(whole(chart), 1).start > stroke_mark(whole(chart), 1).end


def test_strings_lie_at_their_true_relative_spacing() -> None:
    chart = layout(line("5:5 1:5"))
    across = chart.plan.instrument.pick_y
    drawn = [chart.string_y(string) - chart.string_y(6) for string in range(6, 0, -1)]
    assert drawn == pytest.approx([float(y / across[-1] * drawn[-1]) for y in across])


def test_frets_lie_at_true_millimetres() -> None:
    chart = layout(line("5:3 5:15"))
    spots = chart.plan.instrument.spots

    def gap(fret: int) -> float:
        return chart.neck_y(float(spots[fret])) - chart.neck_y(float(spots[fret + 1]))

    assert gap(3) / gap(14) == pytest.approx((spots[4] - spots[3]) / (spots[15] - spots[14]))


@pytest.mark.parametrize(
    ("notes", "bridges", "lifted"),
    [
        ("5:5!d 5:5!u", 0, False),
        ("5:5!d 4:5!d", 0, False),
        ("5:5!d 4:5!u", 1, True),
        ("4:5!u 5:5!d", 1, False),
        ("5:5!d 5:5!d", 1, True),
        ("6:5!d 3:5!d", 2, True),
        ("1:5!u 6:5!d", 5, False),
    ],
)
def test_the_path_bridges_the_strings_it_clears(notes: str, bridges: int, lifted: bool) -> None:
    chart = layout(line(notes, tempo=60))
    way = way_between(whole(chart), 0, 1)
    assert len(way.bridges) == bridges
    assert way.lifted is lifted
    assert way.start == (stroke_mark(whole(chart), 0).x, stroke_mark(whole(chart), 0).end)
    assert way.end == (stroke_mark(whole(chart), 1).x, stroke_mark(whole(chart), 1).start)


def test_a_sweep_rests_on_the_next_string_until_its_turn() -> None:
    chart = layout(line("5:12!d 4:11!d 3:9!d", tempo=60))
    first, second = stroke_mark(whole(chart), 0), stroke_mark(whole(chart), 1)
    assert first.rests
    assert abs(first.end - chart.string_y(4)) < 5
    assert second.start == pytest.approx(first.end)


def test_legato_carries_no_stroke_and_the_path_goes_by() -> None:
    chart = layout(line("5:5 5:7.h 5:5.p 4:5", tempo=60))
    assert picked_columns(whole(chart), chart.columns) == [0, 3]
    assert picked_columns(whole(chart), chart.columns[1:2]) == [0, 3]
    assert [column.event.stroke for column in chart.columns[1:3]] == [Stroke.NONE] * 2


def test_the_ruler_knows_bars_beats_and_pickups() -> None:
    chart = layout(riff("| 1:0/8 | 1:0/4 1:1 1:3 1:0/8 r |", pickup="1/8"))
    bars = [tick for tick in chart.ticks(0, chart.width) if tick.bar]
    assert [tick.label for tick in bars] == ["1", ""]
    assert bars[0].x == pytest.approx(chart.x(0.5))
    beats = [tick.label for tick in chart.ticks(0, chart.width) if not tick.bar]
    assert beats == ["2", "3", "4"]


def test_phrases_say_which_time_round() -> None:
    chart = layout(riff("[A] | 1:0/1 | x2 [B] | 1:1/1 | 1:2/1 | x1 | 1:3/1 | x2"))
    assert [name for _, name in chart.phrases] == ["A 1 of 2", "A 2 of 2", "B", "repeat 1 of 2", "repeat 2 of 2"]


def test_only_what_shows_is_taken() -> None:
    chart = layout(riff("| " + "6:0/16 6:1 6:2 6:3 " * 4 + "| x20"), zoom=150)
    some = chart.columns_between(5000, 5600)
    assert 8 < len(some) < 40
    assert len(chart.columns) == 320


@pytest.mark.parametrize("demo", demo_riffs(), ids=lambda demo: demo.name)
def test_notes_have_room_at_the_first_zoom(demo: DemoRiff) -> None:
    planned = plan(demo.riff, demo.school)
    chart = chart_layout(planned, default_zoom(planned), 600.0)
    gaps = [two.x - one.x for one, two in zip(chart.columns, chart.columns[1:], strict=False)]
    assert sorted(gaps)[len(gaps) // 10] >= 30


@pytest.mark.parametrize(
    ("pixels_a_bar", "every"), [(60.0, 1), (14.0, 2), (6.0, 5), (2.6, 10), (1.3, 20), (0.5, 50)]
)
def test_bars_are_numbered_by_ones_twos_fives_and_tens(pixels_a_bar: float, every: int) -> None:
    made = plan_of_bars(120)
    chart = chart_layout(made, pixels_a_bar / 4, 400.0)
    labels = [int(tick.label) for tick in chart.ticks(0.0, chart.width) if tick.bar and tick.label]
    assert labels == [1, *(number for number in range(every, 121, every) if number > 1)]


def plan_of_bars(count: int) -> Plan:
    return plan(riff(" ".join(["| 1:3/1"] * count) + " |"))


def test_a_note_sounds_from_its_onset_until_the_next_one_begins() -> None:
    chart = layout(line("5:5 5:7 5:8"))
    onsets = [float(onset) for onset in chart.measures.onsets]
    assert [chart.sounding(onset) for onset in onsets] == [0, 1, 2]
    assert [chart.sounding(onset + 0.1) for onset in onsets] == [0, 1, 2]
    assert [chart.sounding(onset - 0.01) for onset in onsets[1:]] == [0, 1]
    assert chart.sounding(-1.0) == 0


def test_a_part_has_the_notes_that_show_and_those_that_lines_come_from_and_lead_to() -> None:
    chart = layout(line("5:5 5:7.h 5:8.h 4:5 4:7 4:8 3:5.h 3:7.h 2:5 2:8 1:5 1:8"))
    for left, right in ((0.0, 60.0), (80.0, 120.0), (150.0, chart.width)):
        part, near = chart.part(left, right), chart.columns_between(left, right)
        assert [column.step for column in part.showing] == [column.step for column in near]
        assert [column.x for column in part.showing] == [column.x for column in near]
        picked = picked_columns(part, part.showing)
        assert picked[0] <= near[0].step
        assert picked[-1] >= near[-1].step
        assert all(chart.columns[step].event.stroke is not Stroke.NONE for step in picked)
        assert [part.room(column) for column in part.columns] == [
            min(chart.rooms[column.step], MOST_ROOM) for column in part.columns
        ]
