"""Starts the application: fonts, window, and the picture that is left where there is no display."""

from __future__ import annotations

import gc
import logging
import sys
import time
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from importlib.resources import as_file, files
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType

from platformdirs import user_log_dir
from PyQt6 import sip
from PyQt6.QtCore import QBuffer, QIODevice
from PyQt6.QtGui import QFont, QFontDatabase, QIcon
from PyQt6.QtWidgets import QApplication

from dromic.app.document import STARTER
from dromic.app.log.keeper import LogKeeper
from dromic.app.settings import Store
from dromic.app.single_instance import Listener
from dromic.app.stages import TITLES
from dromic.app.theme import LIGHT, THEMES, UI_FONT
from dromic.app.window import MainWindow
from dromic.demo.library import demo_riffs
from dromic.desktop.places import NAME, icon_path
from dromic.storage.writing import write_bytes

LONGEST_WAIT_S = 60.0
COLLECTED_AFTER = (20_000, 50, 100)
LEAST_TURN_S = 0.0005
# Kept until Python ends: an application that goes before its windows takes the program down on its way out.
_KEPT: list[QApplication] = []


def application() -> QApplication:
    """Return the application, made once, with its fonts loaded."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        app = existing
    else:
        app = QApplication(sys.argv[:1])
        app.setApplicationName("dromic")
        app.setApplicationDisplayName("Dromic")
        app.setDesktopFileName(NAME)
        app.setWindowIcon(QIcon(str(icon_path())))
        app.setStyle("Fusion")
        _KEPT.append(app)
    load_fonts()
    app.setFont(QFont(UI_FONT, 11))
    # A long riff is a million objects that stay: looking through them for cycles as often as Python would takes a
    # fifth of every wait.
    gc.set_threshold(*COLLECTED_AFTER)
    # A thread that plans lets the window go on after so long, and not only after the usual five milliseconds.
    sys.setswitchinterval(LEAST_TURN_S)
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
    store = Store()
    window = MainWindow(riffs, THEMES.get(store.settings.theme, LIGHT), store, LogKeeper(demo=demo))
    if demo:
        window.open_demo(riffs[0])
        window.show_stage(TITLES.index("Plan"))
    else:
        window.document.start(
            STARTER, plan_settings=replace(window.document.plan_settings, school=store.settings.school)
        )
    return window


def guard(window: MainWindow) -> None:
    """Keep the window up when the program has a defect: log it, say so once, go on.

    Without this, Qt ends the program at the first exception that nobody caught, with whatever was typed.
    """
    told = False

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        nonlocal told
        if issubclass(kind, KeyboardInterrupt):
            QApplication.quit()
            return
        logging.getLogger(__name__).error("a defect", exc_info=(kind, error, trace))
        if not told:
            told = True
            window.tell_defect(f"{kind.__name__}: {error}", log_file())

    sys.excepthook = hook


def log_file() -> Path:
    """Where defects are written down."""
    return Path(user_log_dir("dromic", appauthor=False)) / "dromic.log"


def start_log() -> None:
    """Write defects to the log file, or nowhere when that cannot be."""
    handler: logging.Handler = logging.NullHandler()
    try:
        log_file().parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(log_file(), maxBytes=200_000, backupCount=1, encoding="utf-8")
    except OSError:
        sys.stderr.write("dromic: no log can be written, so defects will not be written down\n")
    logging.basicConfig(level=logging.WARNING, handlers=[handler], format="%(asctime)s %(name)s %(message)s")


def open_windows(files: Sequence[Path]) -> list[MainWindow]:
    """Return a window for every file, the riff of each in it; what cannot be read is told in its window."""
    windows = []
    for path in files:
        window = open_window(demo=False)
        window.show()
        window.open_file(path)
        windows.append(window)
    return windows


def take_down() -> None:
    """Take every window down, as the last thing before Python ends.

    What is left of them then is taken down in no order, which can take the program down with it.
    """
    for widget in QApplication.topLevelWidgets():
        if not sip.isdeleted(widget):
            sip.delete(widget)
    gc.collect()


def run(*, demo: bool, picture: Path | None = None, files: Sequence[Path] = ()) -> int:
    """Open the window, or one for every file, and stay until all are closed.

    Parameters
    ----------
    demo : bool
    picture : Path or None
    files : sequence of Path
    """
    app = application()
    start_log()
    windows = open_windows(files) or [open_window(demo=demo)]
    window = windows[0]
    guard(window)
    window.show()
    window.recover()
    listener = None if demo else Listener(partial(_open_more, windows), app)
    if picture is not None:
        _draw(window, picture)
    try:
        return app.exec()
    finally:
        if listener is not None:
            listener.close()
        for window in windows:
            window.stop()
        take_down()


def _open_more(windows: list[MainWindow], files: tuple[Path, ...]) -> None:
    """Open windows for what another start has handed over, and bring them to the front."""
    more = open_windows(files)
    if not more:
        more = [open_window(demo=False)]
        more[0].show()
    for window in more:
        window.raise_()
        window.activateWindow()
    windows[:] = [window for window in windows if window.isVisible()] + more


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
    window.stop()
    take_down()


def _draw(window: MainWindow, path: Path) -> None:
    window.planner.ask()
    end = time.monotonic() + LONGEST_WAIT_S
    while window.planner.working and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.005)
    draw_window(window, path)


def draw_window(window: MainWindow, path: Path) -> None:
    """Save a picture of a window as it is.

    Raises
    ------
    RiffError
        When it cannot be written.
    """
    QApplication.processEvents()
    picture = QBuffer()
    picture.open(QIODevice.OpenModeFlag.WriteOnly)
    window.grab().save(picture, "PNG")
    write_bytes(bytes(picture.data().data()), path)
