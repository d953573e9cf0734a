"""The Listen stage as a player uses it: by keys alone from plan to report to drill, and when things go wrong."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QMessageBox
from pytestqt.qtbot import QtBot

from dromic.app import sound
from dromic.app.listen import listen_page
from dromic.app.listen import takes as takes_module
from dromic.app.listen.inputs import GONE, SimulatedInput
from dromic.app.listen.takes import BEGUN, TakeFolder
from dromic.app.stages import TITLES
from dromic.app.window import MainWindow
from dromic.errors import RiffError
from dromic.listening.sound.player_errors import LEVELS, Errors
from dromic.listening.sound.rendering import write_wav
from dromic.listening.sound.simulated import performance, take_of
from dromic.practice.log.logbook import Source
from tests.app.conftest import planned
from tests.helpers import not_none

CTRL = Qt.KeyboardModifier.ControlModifier
Heard = Callable[[], None]


@pytest.fixture(autouse=True)
def _alone(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """No sound device, no input, and a data folder of its own."""
    monkeypatch.setattr(sound, "_device", lambda: None)
    monkeypatch.setattr(listen_page, "default_input", lambda _parent=None: None)
    monkeypatch.setattr(listen_page, "EXAMPLE_SPEED", 400.0)
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


@pytest.fixture
def heard(window: MainWindow, qtbot: QtBot) -> Heard:
    """Wait until a take has been listened to."""
    page = window.listen_page

    def wait() -> None:
        qtbot.waitUntil(
            lambda: not (page.recorder.recording or page.recorder.writing or page.hearing.working), timeout=30_000
        )

    return wait


def press(qtbot: QtBot, key: Qt.Key) -> None:
    qtbot.keyClick(not_none(QApplication.focusWidget()), key)


def take_file(window: MainWindow, folder: Path, errors: Errors = LEVELS["light"], rounds: int = 2) -> Path:
    path = folder / "my take.wav"
    write_wav(take_of(performance(not_none(window.document.plan), 3, errors, rounds=rounds)).sound, path)
    return path


def test_from_plan_to_report_to_drill_by_keys_alone(window: MainWindow, qtbot: QtBot, heard: Heard) -> None:
    page = window.listen_page
    qtbot.keyClick(window, Qt.Key.Key_5, CTRL)
    assert TITLES[window.stage] == "Listen"
    assert page.top.text().startswith("Record yourself playing the riff")
    press(qtbot, Qt.Key.Key_E)
    heard()
    assert page.state.text() == "Example, played by the simulated player"
    assert page.spot.text().startswith("Spot 1 of ")
    assert page.chart.view_settings.take
    first = page.chart.choice
    press(qtbot, Qt.Key.Key_N)
    assert page.spot.text().startswith("Spot 2 of ")
    assert page.chart.choice != first
    press(qtbot, Qt.Key.Key_P)
    assert page.chart.choice == first
    press(qtbot, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: page.player.seconds_played > 0.05, timeout=10_000)
    wanted = not_none(page.player.wanted)
    assert wanted.extent.rounds == 3
    press(qtbot, Qt.Key.Key_Space)
    assert not page.player.playing
    press(qtbot, Qt.Key.Key_D)
    assert TITLES[window.stage] == "Practice"
    qtbot.waitUntil(lambda: window.practice_page.guiding, timeout=20_000)


def test_an_opened_take_goes_into_the_log_once_and_apart(
    window: MainWindow, qtbot: QtBot, heard: Heard, tmp_path: Path
) -> None:
    page = window.listen_page
    window.show_stage(TITLES.index("Listen"))
    page.listen_to(take_file(window, tmp_path))
    heard()
    assert "notes played in 2 rounds" in page.figures.text()
    assert page.throw.isHidden()
    told: list[str] = []
    page.message.connect(told.append)
    for _ in range(2):
        press(qtbot, Qt.Key.Key_L)
        qtbot.waitUntil(lambda: not page.writing.working and not page.history.working, timeout=20_000)
    assert told == ["2 rounds put into the log", "This take stands in the log already"]
    takes = [rep for rep in window.log.reps() if rep.source is Source.TAKE]
    assert len(takes) == 2
    assert {day.source for day in page.plot._days} == {Source.SELF, Source.TAKE}


def test_an_example_is_never_put_into_the_log(window: MainWindow, qtbot: QtBot, heard: Heard) -> None:
    before = len(window.log.reps())
    window.show_stage(TITLES.index("Listen"))
    press(qtbot, Qt.Key.Key_E)
    heard()
    assert not window.listen_page.to_log.isEnabled()
    press(qtbot, Qt.Key.Key_L)
    assert len(window.log.reps()) == before


def test_a_wrong_file_is_said_and_the_window_stays(
    window: MainWindow, qtbot: QtBot, heard: Heard, tmp_path: Path
) -> None:
    page = window.listen_page
    window.show_stage(TITLES.index("Listen"))
    (tmp_path / "words.wav").write_text("no sound at all")
    page.listen_to(tmp_path / "words.wav")
    heard()
    assert "this is no sound file that can be read" in page.top.text()
    page.listen_to(take_file(window, tmp_path))
    heard()
    assert page.chart.view_settings.take
    window.open_demo(window.riffs[3])
    planned(window, qtbot)
    heard()
    assert "does not sound like 'Lamplighter'" in page.top.text()
    assert not page.chart.view_settings.take


def test_no_input_is_said_with_what_can_be_done(window: MainWindow, qtbot: QtBot) -> None:
    window.show_stage(TITLES.index("Listen"))
    press(qtbot, Qt.Key.Key_R)
    assert "There is no sound input here." in window.listen_page.state.text()
    assert "open a take that was recorded elsewhere" in window.listen_page.state.text()


def test_a_ramp_test_finds_the_hiccup_and_lays_a_ladder_round_it(
    window: MainWindow, qtbot: QtBot, heard: Heard
) -> None:
    page, plan = window.listen_page, not_none(window.document.plan)
    window.show_stage(TITLES.index("Listen"))
    press(qtbot, Qt.Key.Key_T)
    assert "There is no sound input here." in page.state.text()
    errors = Errors(clock_ms=3, hand_ms=3, drift=0.75, hiccup=(88.0, 20.0))
    page.ramp_test(SimulatedInput(plan, 3, errors, 5, 400.0, tempo=65.0, parent=page))
    wanted = not_none(page.player.wanted)
    assert wanted.extent.tempo == 65.0
    assert wanted.extent.end_tempo == pytest.approx(115.0)
    assert wanted.extent.mix.voice == 0
    heard()
    assert not page.player.playing
    hiccup = not_none(not_none(page._heard).review.hiccup)
    assert hiccup.tempo == pytest.approx(88.0, abs=5.0)
    assert "it becomes uneven" in page.top.text()
    press(qtbot, Qt.Key.Key_D)
    qtbot.waitUntil(lambda: window.practice_page.guiding, timeout=20_000)
    block = not_none(window.practice_page.session.today).session.blocks[0]
    assert 0.8 * hiccup.tempo < block.tempo_from < hiccup.tempo
    assert "you stumble at about" in block.reason


class Pulled(SimulatedInput):
    """An input that goes away in the middle."""

    def start(self, take: Callable[[bytes], None], end: Callable[[str], None]) -> None:
        def some(data: bytes) -> None:
            take(data)
            self.got = getattr(self, "got", 0) + len(data)
            if self.got > 500_000:
                end(GONE)

        super().start(some, end)


def test_a_device_that_is_pulled_out_leaves_the_take(window: MainWindow, qtbot: QtBot, heard: Heard) -> None:
    page = window.listen_page
    window.show_stage(TITLES.index("Listen"))
    told: list[str] = []
    page.message.connect(told.append)
    page.record_from(Pulled(not_none(window.document.plan), 3, LEVELS["light"], 2, 400.0, parent=page))
    assert page.recorder.recording
    heard()
    assert told[0] == GONE
    assert len(page.folder.takes()) == 1
    assert page.chart.view_settings.take


def test_a_take_is_thrown_away_only_when_the_player_says_so(
    window: MainWindow, qtbot: QtBot, heard: Heard, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = window.listen_page
    window.show_stage(TITLES.index("Listen"))
    press(qtbot, Qt.Key.Key_E)
    heard()
    assert len(page.folder.takes()) == 1
    answers = iter([QMessageBox.StandardButton.No, QMessageBox.StandardButton.Yes])
    monkeypatch.setattr(QMessageBox, "question", lambda *_: next(answers))
    page.throw.click()
    assert len(page.folder.takes()) == 1
    page.throw.click()
    assert not page.folder.takes()
    assert page.top.text() == "The take is thrown away."


def test_a_take_that_cannot_be_written_is_kept_until_it_can(
    window: MainWindow, qtbot: QtBot, heard: Heard, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = window.listen_page
    window.show_stage(TITLES.index("Listen"))

    def full(_data: bytes, path: Path) -> str:
        raise RiffError("cannot be written: the disk is full", file=str(path))

    with monkeypatch.context() as patched:
        patched.setattr(takes_module, "write_bytes", full)
        press(qtbot, Qt.Key.Key_E)
        qtbot.waitUntil(lambda: page.recorder.unwritten, timeout=20_000)
        assert "the disk is full" in page.state.text()
        assert page.record.text() == "Write the take"
    press(qtbot, Qt.Key.Key_R)
    heard()
    assert len(page.folder.takes()) == 1
    assert page.chart.view_settings.take


def test_a_take_that_was_cut_off_is_found_at_the_next_start(tmp_path: Path) -> None:
    now = [datetime(2026, 5, 1, 12, tzinfo=UTC)]
    folder = TakeFolder(tmp_path / "takes", now=lambda: now[0])
    begun = folder.begin("Kiln: Stairs/2", 44_100)
    begun.add(b"\x01\x00" * 44_100)
    begun.leave()
    assert "Kiln Stairs2" in begun.name
    assert not folder.takes()
    now[0] = datetime.now(UTC) + timedelta(hours=1)
    later = TakeFolder(tmp_path / "takes", now=lambda: now[0])
    assert len(later.rescue()) == 1
    assert not later.rescue()
    assert [path.suffix for path in later.takes()] == [".flac"]
    assert not list((tmp_path / "takes").glob(f"*{BEGUN}"))


def test_another_plan_of_the_riff_hears_the_same_take_again(
    window: MainWindow, qtbot: QtBot, heard: Heard, tmp_path: Path
) -> None:
    page = window.listen_page
    window.show_stage(TITLES.index("Listen"))
    page.listen_to(take_file(window, tmp_path))
    heard()
    old = not_none(page._heard).review.plan
    window.document.set_tempo(90) if hasattr(window.document, "set_tempo") else window.planner.ask()
    planned(window, qtbot)
    heard()
    assert not_none(page._heard).review.plan is not old


def test_the_window_starts_without_what_only_listening_needs() -> None:
    """Its filters take most of a second to load."""
    code = "import sys, dromic.app.window; sys.exit('scipy.signal' in sys.modules or 'scipy.stats' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], timeout=60, check=False).returncode == 0
