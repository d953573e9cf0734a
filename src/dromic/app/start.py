"""Starts the application: fonts, window, and the picture that is left where there is no display."""

from __future__ import annotations

import sys
import time
from importlib.resources import as_file, files
from pathlib import Path

from PyQt6.QtGui import QFont, QFontDatabase
from PyQt6.QtWidgets import QApplication

from dromic.app.document import STARTER
from dromic.app.theme import UI_FONT
from dromic.app.window import STAGES, MainWindow
from dromic.demo.library import demo_riffs
from dromic.errors import RiffError

LONGEST_WAIT_S = 60.0


def application() -> QApplication:
    """Return the application, made once, with its fonts loaded."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        app = existing
    else:
        app = QApplication(sys.argv[:1])
        app.setApplicationName("dromic")
        app.setApplicationDisplayName("Dromic")
        app.setStyle("Fusion")
    load_fonts()
    app.setFont(QFont(UI_FONT, 11))
    return app


def load_fonts() -> None:
    """Load the fonts that are shipped."""
    if UI_FONT in QFontDatabase.families():
        return
    for font in (files("dromic.app") / "fonts").iterdir():
        if font.name.endswith(".otf"):
            with as_file(font) as path:
                QFontDatabase.addApplicationFont(str(path))


def open_window(*, demo: bool) -> MainWindow:
    """Return the window with a riff in it: the first of the demo, or a starter."""
    riffs = demo_riffs()
    window = MainWindow(riffs)
    if demo:
        window.open_demo(riffs[0])
        window.show_stage(STAGES.index("Plan"))
    else:
        window.document.start(STARTER)
    return window


def run(*, demo: bool, picture: Path | None = None) -> int:
    """Open the window and stay until it is closed."""
    app = application()
    window = open_window(demo=demo)
    window.show()
    if picture is not None:
        _draw(window, picture)
    return app.exec()


def save_picture(path: Path) -> None:
    """Draw the window with the first demo riff planned, and save it.

    Raises
    ------
    RiffError
        When the picture cannot be written.
    """
    app = application()
    window = open_window(demo=True)
    window.show()
    _draw(window, path)
    window.close()
    app.processEvents()


def _draw(window: MainWindow, path: Path) -> None:
    window.planner.ask()
    end = time.monotonic() + LONGEST_WAIT_S
    while window.planner.working and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.005)
    if not window.picture(path):
        raise RiffError(
            "the picture cannot be written; choose another place with --picture FILE.png", file=str(path)
        )
