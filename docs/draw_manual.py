"""Draws the pictures of the manual anew, in both themes: ``.venv/bin/python docs/draw_manual.py``."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtGui import QImage, QPixmap
from PyQt6.QtWidgets import QWidget

# First of all: it says where settings are kept, and that no display is needed.
from take_screenshots import PASTED, settle, sheet_of

from dromic.app.shell.hints import HINTS
from dromic.app.stages import TITLES
from dromic.app.start import application, open_window, take_down
from dromic.app.theme import DARK, LIGHT
from dromic.app.window import MainWindow

FOLDER = Path(__file__).resolve().parent.parent / "src" / "dromic" / "manual" / "pictures"
WIDE = 540


def _until(done: Callable[[], bool]) -> None:
    while not done():
        application().processEvents()
        time.sleep(0.01)
    for _ in range(10):
        application().processEvents()
        time.sleep(0.01)


def _stage(window: MainWindow, name: str) -> None:
    window.show_stage(TITLES.index(name))
    settle(window)


def _part(widget: QWidget, *, width: int = 740, height: int = 460) -> QPixmap:
    """The upper left part of a widget as it is in its window."""
    box = QRect(0, 0, min(width, widget.width()), min(height, widget.height()))
    window = widget.window()
    assert window is not None
    return window.grab(box.translated(widget.mapTo(window, QPoint())))


def _first_riff(window: MainWindow) -> QPixmap:
    _stage(window, "Riff")
    window.riff_page.board.setFocus()
    return _part(window.riff_page.board, width=560, height=330)


def _pasted(window: MainWindow) -> QPixmap:
    window.files.paste(PASTED)
    dialog = window.files.dialog
    assert dialog is not None
    dialog.resize(780, 470)
    settle(window)
    picture = _part(dialog, width=780)
    dialog.reject()
    return picture


def _chart(window: MainWindow) -> QPixmap:
    _stage(window, "Plan")
    return _part(window.plan_page.chart)


def _reasons(window: MainWindow) -> QPixmap:
    _stage(window, "Plan")
    reasons = window.plan_page.reasons
    bar = reasons.verticalScrollBar()
    assert bar is not None
    bar.setValue(bar.maximum() // 2)
    settle(window)
    return _part(reasons)


def _compared(window: MainWindow) -> QPixmap:
    _stage(window, "Compare")
    return _part(window.compare_page, height=360)


def _session(window: MainWindow) -> QPixmap:
    _stage(window, "Practice")
    return _part(window.practice_page, height=420)


def _take(window: MainWindow) -> QPixmap:
    _stage(window, "Listen")
    page = window.listen_page
    page.hear_example()
    _until(
        lambda: (
            not (page.recorder.recording or page.recorder.writing or page.hearing.working or page.history.working)
        )
    )
    return _part(page)


def _motion(window: MainWindow) -> QPixmap:
    _stage(window, "Plan")
    window.show_motion()
    settle(window)
    picture = _part(window.motion_dialog)
    window.motion_dialog.close()
    return picture


def _hands(window: MainWindow) -> QPixmap:
    _stage(window, "Hands")
    return _part(window.hands_page, height=430)


def _paper(window: MainWindow) -> QPixmap:
    return QPixmap.fromImage(sheet_of(window, QSize(1240, 1754)).copy(80, 80, 940, 560))


PICTURES: dict[str, tuple[int, Callable[[MainWindow], QPixmap]]] = {
    "first-riff": (0, _first_riff),
    "paste-a-tab": (0, _pasted),
    "read-the-chart": (2, _chart),
    "change-the-plan": (1, _reasons),
    "compare-schools": (3, _compared),
    "practise": (0, _session),
    "listen": (0, _take),
    "both-hands": (1, _motion),
    "your-hands": (3, _hands),
    "files": (1, _paper),
}


def main() -> None:
    """Draw them all."""
    application()
    FOLDER.mkdir(exist_ok=True)
    window = open_window(demo=True)
    window.resize(1120, 720)
    window.show()
    window.preferences.prefer(welcomed=True, hints_read=tuple(HINTS))
    for theme, ending in ((LIGHT, ""), (DARK, "-dark")):
        window.set_theme(theme)
        for name, (riff, draw) in PICTURES.items():
            _stage(window, "Plan")
            window.open_demo(window.riffs[riff])
            settle(window)
            image = draw(window).toImage()
            if name == "files" and ending:
                # Paper is white in every theme.
                continue
            if image.width() > WIDE:
                image = image.scaledToWidth(WIDE, Qt.TransformationMode.SmoothTransformation)
            image.convertToFormat(QImage.Format.Format_RGB32).save(str(FOLDER / f"{name}{ending}.png"))
    window.open_demo(window.riffs[0])
    window.close()
    window.stop()
    take_down()


if __name__ == "__main__":
    main()
