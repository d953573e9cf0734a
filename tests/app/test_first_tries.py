"""The first tries of a new user, driven through the real window, keys and clicks counted.

Seconds are those of a slow hand: half a second a key, a second and a half for each look and each click, and what
the program itself takes.
"""

from __future__ import annotations

import time

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from dromic.app.window import MainWindow
from tests.helpers import not_none

KEY_S, CLICK_S = 0.5, 1.5
TAB = """E|---------------------|
B|---------------------|
G|---------2-4-5-------|
D|---2-4-5-------5-4-2-|
A|-5-------------------|
E|---------------------|
"""


class Hand:
    """Presses keys and clicks as a user does, and counts."""

    def __init__(self, qtbot: QtBot) -> None:
        self._qtbot, self._begun = qtbot, time.monotonic()
        self.keys = self.clicks = 0

    def key(
        self, widget: QWidget, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
    ) -> None:
        self.keys += 1 + (modifier is not Qt.KeyboardModifier.NoModifier)
        self._qtbot.keyClick(widget, key, modifier)

    def types(self, widget: QWidget, text: str) -> None:
        for letter in text:
            self.keys += 1
            self._qtbot.keyClick(widget, letter)
            # Digits that follow at once would make one fret of two.
            self._qtbot.wait(1)

    def click(self, widget: QWidget, place: QPoint | None = None) -> None:
        self.clicks += 1
        self._qtbot.mouseClick(widget, Qt.MouseButton.LeftButton, pos=place or widget.rect().center())

    @property
    def seconds(self) -> float:
        return time.monotonic() - self._begun + self.keys * KEY_S + self.clicks * CLICK_S


def test_a_riff_of_ones_own_is_planned_in_less_than_a_minute(window: MainWindow, qtbot: QtBot) -> None:
    hand = Hand(qtbot)
    hand.key(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    board = window.riff_page.board
    for fret, turn in (("0", 0), ("3", 0), ("5", 0), ("3", -1), ("5", 0), ("7", 0), ("5", 0), ("3", 0)):
        if turn:
            hand.key(board, Qt.Key.Key_Up if turn > 0 else Qt.Key.Key_Down)
        hand.types(board, fret)
        hand.key(board, Qt.Key.Key_Right)
    hand.key(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: not window.planner.working, timeout=20_000)
    assert [state.fret for state in not_none(window.document.plan).states] == [0, 3, 5, 3, 5, 7, 5, 3]
    assert window.plan_page.chart.isVisible()
    assert hand.seconds < 60, hand.seconds


def test_a_tab_from_a_forum_is_a_printed_sheet_in_less_than_half_a_minute(window: MainWindow, qtbot: QtBot) -> None:
    not_none(QApplication.clipboard()).setText(TAB)
    hand = Hand(qtbot)
    hand.key(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    dialog = not_none(window.files.dialog)
    qtbot.waitUntil(lambda: not dialog.reading, timeout=20_000)
    hand.click(dialog.open_button)
    qtbot.waitUntil(lambda: not window.planner.working, timeout=20_000)
    assert len(not_none(window.document.plan).states) == 10
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    hand.key(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: hasattr(window.files, "sheet_preview"), timeout=20_000)
    hand.click(window)
    assert hand.seconds < 30, hand.seconds


def test_the_worst_spot_is_played_another_way_in_less_than_ten_seconds(window: MainWindow, qtbot: QtBot) -> None:
    window.show_stage(1)
    plan = not_none(window.document.plan)
    worst = plan.bottlenecks[0].end
    strip = window.plan_page.overview
    window.document.choose(0)
    hand = Hand(qtbot)
    step = next(at for at, one in enumerate(plan.task.steps) if one.moment.index == worst)
    hand.click(strip, QPoint(round(strip.place_of(float(plan.task.steps[step].moment.played))), 40))
    assert window.document.chosen == step
    chart = window.plan_page.chart
    qtbot.waitUntil(lambda: len(window.plan_page.reasons.offers()) > 0, timeout=20_000)
    hand.key(chart, Qt.Key.Key_1)
    qtbot.waitUntil(lambda: window.document.plan is not plan and not window.planner.working, timeout=20_000)
    assert not_none(window.document.plan).states[step] != plan.states[step]
    assert hand.seconds < 10, hand.seconds
