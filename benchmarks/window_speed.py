"""Figures of the real window, offscreen: from a key to what it paints, and frames of the chart."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from statistics import median

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from benchmarks.riffs import wandering_lick
from dromic.app.stages import TITLES
from dromic.app.start import application, open_window, take_down
from dromic.app.window import MainWindow
from dromic.formats.rifftext.writer import write_riff_text

LONGEST_S = 60.0


def told(value: float) -> str:
    """A time in words."""
    return f"{value / 1000:.2f} s" if value >= 1000 else f"{value:.0f} ms" if value >= 10 else f"{value:.1f} ms"


def until(done: Callable[[], bool], app: QApplication) -> None:
    """Let the window work until something is so, as it does when nobody touches it."""
    limit = time.perf_counter() + LONGEST_S
    while not done():
        app.processEvents()
        if time.perf_counter() > limit:
            raise TimeoutError("the window does not come to an end")
        time.sleep(0.0005)


def opened(count: int, app: QApplication) -> MainWindow:
    """The window with a riff of so many notes, planned and painted."""
    window = open_window(demo=False)
    window.show()
    app.processEvents()
    window.document.start(write_riff_text(wandering_lick(count)))
    window.planner.ask()
    settled(window, app)
    return window


def settled(window: MainWindow, app: QApplication) -> None:
    """Wait until the plan is there with its prices, and nothing else is under way."""
    until(lambda: not window.planner.working, app)
    for _ in range(20):
        app.processEvents()
        time.sleep(0.01)


class Gaps:
    """The longest time that the event loop does not come round."""

    def __init__(self) -> None:
        self.longest = 0.0
        self._last = time.perf_counter()

    def tick(self) -> None:
        """The event loop is here."""
        now = time.perf_counter()
        self.longest = max(self.longest, 1000 * (now - self._last))
        self._last = now


def window_figures() -> Iterator[tuple[str, str, str, str]]:
    """Every figure: what, before, to reach, now."""
    app = application()
    window = opened(1008, app)
    document = window.document
    window.show_stage(TITLES.index("Plan"))
    settled(window, app)
    chart = window.plan_page.chart
    shown, priced, gaps = [], [], []
    for step in (500, 510, 520, 530, 540):
        document.choose(step)
        settled(window, app)
        plan = document.plan
        assert plan is not None
        other = plan.event_of_step(step).alternatives[0]
        revision, gap = document.plan, Gaps()
        start = time.perf_counter()
        document.decide(step, other)
        gap.tick()
        while document.plan is revision:
            app.processEvents()
            gap.tick()
            time.sleep(0.0005)
        chart.viewport().repaint()
        shown.append(1000 * (time.perf_counter() - start))
        while window.planner.working:
            app.processEvents()
            gap.tick()
            time.sleep(0.0005)
        priced.append(1000 * (time.perf_counter() - start))
        gaps.append(gap.longest)
    yield (
        "lock in 1,000 notes in the window: key to painted plan; all prices; longest gap of the event loop",
        "1.2 s",
        "16 ms; 120 ms; 16 ms",
        f"{told(median(shown))}; {told(median(priced))}; {told(median(gaps))}",
    )
    times, gaps = [], []
    window.plan_page.plan_settings.slider.setValue(130)
    settled(window, app)
    for tempo in (131, 132, 133, 134):
        before, gap = document.plan, Gaps()
        start = time.perf_counter()
        window.plan_page.plan_settings.slider.setValue(tempo)
        app.processEvents()
        gap.tick()
        chart.viewport().repaint()
        gap.tick()
        gaps.append(gap.longest)
        while document.plan is before:
            app.processEvents()
            time.sleep(0.0005)
        times.append(1000 * (time.perf_counter() - start))
        settled(window, app)
    yield (
        "tempo dragged at 1,000 notes: next frame; new plan",
        "1.6 s",
        "next frame; 40 ms",
        f"{told(median(gaps))}; {told(median(times))}",
    )
    window.show_stage(TITLES.index("Riff"))
    settled(window, app)
    board = window.riff_page.board
    board.setFocus()
    document.select(500)
    app.processEvents()
    times = []
    for digit in "3571357":
        settled(window, app)
        document.select(500)
        settled(window, app)
        start = time.perf_counter()
        QTest.keyClick(board, digit)
        board.repaint()
        times.append(1000 * (time.perf_counter() - start))
        QTest.keyClick(board, Qt.Key.Key_Left)
    settled(window, app)
    yield "a digit typed on the board at 1,000 notes, to painted", "130 ms", "8 ms", told(median(times))
    window.planner.stop()
    document._saved = document.snapshot
    window.close()
    window = opened(10_000, app)
    window.show_stage(TITLES.index("Plan"))
    settled(window, app)
    chart = window.plan_page.chart
    bar = chart.horizontalScrollBar()
    assert bar is not None
    cold, warm = [], []
    for share in range(1, 12):
        bar.setValue(bar.maximum() * share // 12)
        start = time.perf_counter()
        chart.viewport().repaint()
        cold.append(1000 * (time.perf_counter() - start))
        start = time.perf_counter()
        chart.viewport().repaint()
        warm.append(1000 * (time.perf_counter() - start))
    yield (
        "a frame of the chart at 10,000 notes: cold jump; the same again",
        "50 ms",
        "8 ms; 2 ms",
        f"{told(median(cold))}; {told(median(warm))}",
    )
    window.planner.stop()
    document = window.document
    document._saved = document.snapshot
    window.close()


def first_picture() -> None:
    """Open the window with the demo, plan it and paint it."""
    app = application()
    window = open_window(demo=True)
    window.show()
    until(lambda: window.document.plan is not None and not window.planner.working, app)
    app.processEvents()
    window.grab()
    window.stop()
    take_down()
