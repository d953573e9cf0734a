"""Both hands in motion: at every note they are where the plan has them, and between the notes on their way."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from dromic.app.motion.dialog import MotionDialog
from dromic.app.motion.poses import Motion
from dromic.app.window import MainWindow
from dromic.errors import NoPlanError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.hands.picking import PICK
from dromic.music.riff import Riff
from tests.helpers import not_none, plan
from tests.strategies import short_lines

MIXED = "| 6:3/8 5:5 4:5.h 3:7 (6:3 5:2 4:0)/4 r/8 1:7 |"


@given(short_lines(most=6), st.sampled_from(["least-motion", "economy", "strict-alternate", "hybrid"]))
@settings(max_examples=30)
def test_at_every_onset_both_hands_are_where_the_plan_has_them(riff: Riff, school: str) -> None:
    try:
        planned = plan(riff, school)
    except NoPlanError:
        return
    motion, index = Motion(planned), planned.instrument.index
    for step, state in enumerate(planned.states):
        pose = motion.pose(motion.onsets_s[step])
        if motion.onsets_s.count(motion.onsets_s[step]) > 1:
            continue
        assert pose.step == step
        down = {one.finger: one for one in pose.fingers if one.down > 0.99}
        assert set(down) == {one.finger for one in state.grip.fingers}
        for one in state.grip.fingers:
            assert down[one.finger].mm == pytest.approx(float(planned.instrument.spots[one.fret]))
            assert index(one.thickest) <= down[one.finger].string <= index(one.thinnest)
        if state.sounded and state.stroke in PICK:
            pick = not_none(pose.pick)
            assert pick.strikes
            assert pick.stroke is state.stroke
            assert index(state.string) - 0.5 <= pick.string <= index(state.thinnest) + 0.5


@given(st.floats(0, 1))
@settings(max_examples=40)
def test_nothing_jumps(share: float) -> None:
    motion = Motion(plan(read_riff_text(MIXED).riff, "economy"))
    at = share * motion.seconds
    one, two = motion.pose(at), motion.pose(min(at + 1e-4, motion.seconds))
    assert abs(one.home_mm - two.home_mm) < 3
    for before, after in zip(one.fingers, two.fingers, strict=True):
        assert abs(before.mm - after.mm) < 3
        assert abs(before.string - after.string) < 0.1
        assert 0 <= before.down <= 1
    pick, later = not_none(one.pick), not_none(two.pick)
    assert abs(pick.string - later.string) < 0.1
    assert 0 <= pick.height <= 1


def opened(window: MainWindow) -> MotionDialog:
    window.show_motion()
    return window.motion_dialog


def test_arrows_step_and_the_window_goes_along(window: MainWindow, qtbot: QtBot) -> None:
    window.document.choose(0)
    dialog = opened(window)
    motion = not_none(dialog._motion)
    before = dialog.view.grab().toImage()
    for step in (1, 2, 3):
        qtbot.keyClick(dialog.view, Qt.Key.Key_Right)
        assert dialog.at_s == motion.onsets_s[step]
        assert window.document.chosen == step
    assert "string" in dialog.view.accessibleDescription()
    qtbot.keyClick(dialog.view, Qt.Key.Key_Left)
    assert window.document.chosen == 2
    window.document.choose(9)
    assert dialog.at_s == motion.onsets_s[9]
    assert dialog.view.grab().toImage() != before


def test_it_plays_at_the_wanted_slowness_and_stops_at_the_end(window: MainWindow, qtbot: QtBot) -> None:
    window.document.set_text("tempo: 240\n| 5:5/16 5:7 4:5 4:7 r/2. |\n")
    qtbot.waitUntil(lambda: not window.planner.working and len(not_none(window.document.plan).states) == 4)
    dialog = opened(window)
    dialog.speed.setValue(100)
    assert dialog.figure.text() == "100 %, 240 a minute"
    qtbot.keyClick(dialog.view, Qt.Key.Key_Space)
    assert dialog.playing
    qtbot.waitUntil(lambda: not dialog.playing, timeout=10_000)
    assert dialog.at_s == pytest.approx(not_none(dialog._motion).seconds)
    qtbot.keyClick(dialog.view, Qt.Key.Key_Space)
    assert dialog.playing
    qtbot.mouseClick(dialog.button, Qt.MouseButton.LeftButton)
    assert not dialog.playing
    for _ in range(30):
        qtbot.keyClick(dialog.view, Qt.Key.Key_Minus)
    assert dialog.speed.value() == dialog.speed.minimum()


def test_a_teacher_sees_it_from_the_other_side(window: MainWindow, qtbot: QtBot) -> None:
    dialog = opened(window)
    mine = dialog.view.grab().toImage()
    dialog.eyes.setCurrentIndex(1)
    theirs = dialog.view.grab().toImage()
    assert theirs != mine
    dialog.close()
    window.preferences.prefer(left_handed=True)
    left = opened(window)
    assert left.view.grab().toImage() == theirs


def test_another_plan_is_taken_over(window: MainWindow, qtbot: QtBot) -> None:
    dialog = opened(window)
    before = not_none(dialog._motion).plan
    window.document.set_text(MIXED)
    qtbot.waitUntil(lambda: not_none(dialog._motion).plan is not before, timeout=20_000)
    assert dialog.where.text().startswith("Bar 1")
