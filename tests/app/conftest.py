from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from dromic.app.start import load_fonts, open_window
from dromic.app.window import MainWindow


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[MainWindow]:
    """The real window with the demo, planned and shown; its settings are its own."""
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    load_fonts()
    made = open_window(demo=True)
    qtbot.addWidget(made, before_close_func=settle)
    made.show()
    plan_now(made, qtbot)
    yield made
    made.planner.stop()


def settle(made: MainWindow) -> None:
    """Let a window close without asking about changes."""
    made.document._saved = made.document.snapshot
    made.planner.stop()


def plan_now(made: MainWindow, qtbot: QtBot) -> None:
    """Plan without waiting for the pause after typing."""
    made.planner.ask()
    planned(made, qtbot)


def planned(made: MainWindow, qtbot: QtBot) -> None:
    """Wait for what is under way: a plan, or a riff that is read in the dialog."""

    def ready() -> bool:
        dialog = made.files.dialog
        return not made.planner.working and not (dialog is not None and dialog.reading)

    qtbot.waitUntil(ready, timeout=30_000)


@pytest.fixture
def wait(window: MainWindow, qtbot: QtBot) -> Callable[[], None]:
    return lambda: planned(window, qtbot)
