"""Draws the pictures of docs/screenshots/ anew: ``.venv/bin/python docs/take_screenshots.py``."""

from __future__ import annotations

import os
import tempfile
import time
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp()

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtPdf import QPdfDocument

from dromic.app.jobs import Jobs
from dromic.app.shell.hints import HINTS
from dromic.app.stages import TITLES
from dromic.app.start import application, draw_window, open_window
from dromic.app.theme import DARK, LIGHT, Theme
from dromic.app.window import MainWindow

SHOTS = Path(__file__).parent / "screenshots"
# File name, demo riff, stage, theme, step to choose (None for the hardest).
PICTURES: tuple[tuple[str, int, int, Theme, int | None], ...] = (
    ("plan.png", 0, 1, LIGHT, None),
    ("plan-sweep.png", 2, 1, LIGHT, 5),
    ("plan-dark.png", 1, 1, DARK, None),
    ("plan-chords.png", 5, 1, LIGHT, 18),
    ("compare.png", 3, 2, LIGHT, None),
    ("compare-dark.png", 0, 2, DARK, None),
    ("practice.png", 0, TITLES.index("Practice"), LIGHT, None),
    ("listen.png", 0, TITLES.index("Listen"), LIGHT, None),
    ("log.png", 0, TITLES.index("Log"), LIGHT, None),
    ("log-dark.png", 3, TITLES.index("Log"), DARK, None),
    ("hands.png", 3, TITLES.index("Hands"), LIGHT, None),
)


def settle(window: MainWindow) -> None:
    """Wait until everything that is worked out is there."""
    app = application()
    for _ in range(5):
        app.processEvents()
    page = window.practice_page
    jobs = (
        window.planner,
        window.compare_page.comparer,
        window.hands_page.effects_jobs,
        page.layouts,
        page.previews,
        page.readying,
        window.log_page.drawing,
    )
    while any(one.working for one in jobs):
        app.processEvents()
        time.sleep(0.01)
    for _ in range(20):
        app.processEvents()
        time.sleep(0.02)


def _guided(window: MainWindow) -> None:
    """A session while it is played: a few repetitions into the first drill."""
    window.open_demo(window.riffs[0])
    settle(window)
    window.show_stage(TITLES.index("Practice"))
    settle(window)
    page = window.practice_page
    page.start()
    settle(window)
    page.guided.skip()
    settle(window)
    page.guided.skip()
    for clean in (True, True):
        settle(window)
        _wait(3.0)
        page.guided.answer(clean)
    settle(window)
    _wait(4.2)
    draw_window(window, SHOTS / "guided.png")
    page.guided.end()
    settle(window)
    window.show_stage(1)


def _listened(window: MainWindow) -> None:
    """A take of the simulated player, heard."""
    page = window.listen_page
    if window.stage == TITLES.index("Listen"):
        page.hear_example()
        while page.recorder.recording or page.recorder.writing or page.hearing.working or page.history.working:
            application().processEvents()
            time.sleep(0.01)


def _studies(window: MainWindow) -> None:
    """Variations, coverage against the log, and material for an aim."""
    studies, practice = window.studies, TITLES.index("Practice")
    window.open_demo(window.riffs[3])
    settle(window)
    window.show_view(0, 1)
    _until_idle(studies.vary.jobs)
    draw_window(window, SHOTS / "vary.png")
    window.show_view(0, 0)
    window.riff_page.side.setCurrentIndex(1)
    settle(window)
    draw_window(window, SHOTS / "riff.png")
    window.open_demo(window.riffs[4])
    settle(window)
    window.show_view(practice, 2)
    _until_idle(studies.coverage.measuring)
    studies.coverage.source.setCurrentIndex(1)
    studies.coverage.make_one()
    _until_idle(studies.coverage.making, studies.coverage.preview.jobs)
    draw_window(window, SHOTS / "coverage.png")
    window.set_theme(DARK)
    window.open_demo(window.riffs[3])
    settle(window)
    window.show_view(practice, 1)
    studies.material.aim.setCurrentIndex(studies.material.aim.findData("inside"))
    _until_idle(studies.material.jobs, studies.material.preview.jobs)
    draw_window(window, SHOTS / "material.png")
    window.set_theme(LIGHT)
    window.show_view(practice, 0)
    settle(window)


def _until_idle(*jobs: Jobs) -> None:
    _wait(0.1)
    while any(one.working for one in jobs):
        application().processEvents()
        time.sleep(0.01)
    _wait(0.2)


def _wait(seconds: float) -> None:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        application().processEvents()
        time.sleep(0.01)


PASTED = """Ferry Riff
Tuning: standard, 4/4, 140 bpm

[Intro] x2
   PM----------|
   d u d u d u d u
e|-----------------|-----------------|
B|-----------------|-----------------|
G|-----------------|-5h7p5---5-------|
D|-----------------|-------7---7b9r7-|
A|-3-3-5-5-3-3-2-2-|-----------------|
E|-----------------|-----------------|
"""


def _pictures_of_files(window: MainWindow) -> None:
    """The paste dialog, and the first page of the practice sheet."""
    window.files.paste(PASTED)
    dialog = window.files.dialog
    assert dialog is not None
    settle(window)
    dialog.grab().save(str(SHOTS / "paste.png"))
    dialog.reject()
    window.open_demo(window.riffs[1])
    settle(window)
    sheet_of(window, QSize(827, 1169)).save(str(SHOTS / "sheet.png"))


def sheet_of(window: MainWindow, size: QSize) -> QImage:
    """The first page of the practice sheet."""
    with tempfile.TemporaryDirectory() as folder:
        sheet = Path(folder) / "sheet.pdf"
        window.files.export_to(sheet)
        document = QPdfDocument(None)
        document.load(str(sheet))
        page = document.render(0, size)
    paper = QImage(page.size(), QImage.Format.Format_RGB32)
    paper.fill(0xFFFFFFFF)
    painter = QPainter(paper)
    painter.drawImage(0, 0, page)
    painter.end()
    return paper


def main() -> None:
    """Draw them all."""
    app = application()
    window = open_window(demo=True)
    window.resize(1280, 800)
    window.show()
    window.preferences.prefer(welcomed=True, hints_read=tuple(HINTS))
    for name, riff, stage, theme, step in PICTURES:
        window.show_stage(1)
        window.open_demo(window.riffs[riff])
        window.set_theme(theme)
        window.planner.ask()
        settle(window)
        window.show_stage(stage)
        settle(window)
        if step is not None:
            window.document.choose(step)
        _listened(window)
        draw_window(window, SHOTS / name)
    window.show_stage(1)
    window.open_demo(window.riffs[3])
    window.set_theme(LIGHT)
    settle(window)
    window.preferences.prefer(mutes=True)
    window.document.choose(2)
    window.plan_page.reasons.wanted.emit(window.plan_page.reasons.offers()[0])
    settle(window)
    window.document.choose(2)
    draw_window(window, SHOTS / "plan-locked.png")
    window.preferences.prefer(mutes=False)
    _guided(window)
    _studies(window)
    _pictures_of_files(window)
    # Nothing may be left unsaved, or closing would ask.
    window.open_demo(window.riffs[3])
    window.close()
    app.processEvents()


if __name__ == "__main__":
    main()
