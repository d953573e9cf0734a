"""Figures of the window: a frame of the chart while it scrolls, and the start."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

import pytest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from benchmarks.riffs import wandering_lick
from dromic.app.chart.view import ChartView
from dromic.app.start import application
from dromic.app.theme import LIGHT
from dromic.hands.profile import hands_named
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named

FRAME_S = 0.016


def test_a_frame_while_scrolling(capsys: pytest.CaptureFixture[str]) -> None:
    """2,000 notes at 1,150 by 640 pixels, 60 pixels a frame, one every 16 ms or later; wanted: 8 ms."""
    app = application()
    planned = plan_riff(wandering_lick(2000), Request(hands_named("medium"), school_named("least-motion")))
    chart = ChartView(LIGHT)
    chart.resize(1150, 640)
    chart.set_plan(planned)
    chart.show()
    app.processEvents()
    bar = chart.horizontalScrollBar()
    assert bar is not None
    times = []
    for place in range(0, 6000, 60):
        bar.setValue(place)
        start = time.perf_counter()
        chart.viewport().repaint()
        times.append(time.perf_counter() - start)
        # Until the next frame is due, the window does what it has put off, as it would on a screen.
        while time.perf_counter() - start < FRAME_S:
            app.processEvents()
    with capsys.disabled():
        times.sort()
        print(
            f"\na frame, 2,000 notes: median {1000 * times[len(times) // 2]:.1f} ms, slowest {1000 * times[-1]:.1f}"
        )
    chart.close()


def test_the_window_is_up_with_the_demo_planned(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """A process of its own, from nothing to a drawn plan; wanted: 1.5 s on a warm start."""
    times = []
    for _ in range(3):
        start = time.perf_counter()
        code = (
            "from dromic.app.start import save_picture; from pathlib import Path; save_picture(Path(sys.argv[1]))"
        )
        subprocess.run(
            [sys.executable, "-c", f"import sys; {code}", os.devnull + ".png"], capture_output=True, check=False
        )
        times.append(time.perf_counter() - start)
    with capsys.disabled():
        print(f"\nwindow up with the demo planned and drawn: {sorted(times)[1]:.2f} s")
