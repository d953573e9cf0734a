"""Settings, recent files, recovery, and the searchable list of keys."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMessageBox, QPushButton
from pytestqt.qtbot import QtBot

from dromic.app import recovery
from dromic.app.document import Document
from dromic.app.recovery import Recovery
from dromic.app.settings import Settings, Store, load_settings, preferences, save_settings
from dromic.app.shell.recovery_dialog import RecoveryDialog
from dromic.app.start import open_windows
from dromic.app.theme import DARK, LIGHT
from dromic.app.window import MainWindow
from dromic.demo.library import demo_riffs
from dromic.errors import RiffError
from dromic.formats.project import Project
from dromic.hands.profile import Measures, hands_named, with_measures
from dromic.planner.plan_settings import PlanSettings
from tests.app.conftest import settle
from tests.helpers import not_none

Wait = Callable[[], None]


@pytest.fixture
def store(tmp_path: Path) -> Store:
    return Store(tmp_path / "settings.json", tmp_path / "unsaved")


@pytest.fixture
def opened(qtbot: QtBot, store: Store) -> MainWindow:
    made = MainWindow(demo_riffs(), store=store)
    qtbot.addWidget(made, before_close_func=settle)
    made.show()
    return made


def test_settings_are_written_and_read(tmp_path: Path) -> None:
    file = tmp_path / "deep" / "settings.json"
    hands = with_measures(hands_named("medium"), Measures(0.9, 1.2, 1.1))
    settings = Settings("dark", ("/a.riff",), hands, True)
    save_settings(settings, file)
    assert load_settings(file) == settings
    assert load_settings(tmp_path / "none.json") == Settings()


@pytest.mark.parametrize(
    "broken",
    [
        {"hands": 7},
        {"recent": 3},
        {"minutes": 100_000},
        {"school": "none"},
        {"text_size": "large"},
        {"welcomed": 1},
        {"volume_click": -1},
    ],
)
def test_a_broken_setting_costs_that_setting(tmp_path: Path, broken: dict[str, object]) -> None:
    file = tmp_path / "settings.json"
    hands = with_measures(hands_named("medium"), Measures(0.9, 1.2, 1.1))
    settings = Settings("dark", ("/a.riff",), hands, True, left_handed=True)
    save_settings(settings, file)
    data = json.loads(file.read_text())
    file.write_text(json.dumps(data | broken))
    found = load_settings(file)
    (name,) = broken
    assert getattr(found, name) == getattr(Settings(), name)
    assert found == replace(settings, **{name: getattr(found, name)})
    assert json.loads((tmp_path / "settings.unreadable").read_text())[name] == broken[name]
    # Nor do the others go when something is changed.
    store = Store(file, tmp_path / "unsaved")
    assert store.change(neck=False) == ""
    assert load_settings(file) == replace(found, neck=False)


def test_what_is_only_remembered_is_not_reset() -> None:
    assert not {"recent", "hands", "welcomed", "hints_read", "minutes", "volume_voice"} & set(preferences())
    assert {"theme", "school", "text_size", "click"} <= set(preferences())


@pytest.mark.parametrize("text", ["", "[]", "{}", '{"schema": 99}', "\x00"])
def test_a_broken_settings_file_is_set_aside(tmp_path: Path, text: str) -> None:
    file = tmp_path / "settings.json"
    file.write_text(text)
    assert load_settings(file) == Settings()
    assert (tmp_path / "settings.unreadable").read_text() == text


def test_settings_that_cannot_be_written_are_told(tmp_path: Path) -> None:
    blocked = tmp_path / "file"
    blocked.write_text("")
    with pytest.raises(RiffError, match="cannot be written"):
        save_settings(Settings(), blocked / "settings.json")
    store = Store(blocked / "settings.json", blocked / "unsaved")
    assert "will not be remembered" in store.change(theme="dark")
    assert store.settings.theme == "dark"
    assert "save it yourself" in store.keep(Project("| 6:0/1 |"), None)


def test_the_theme_and_recent_files_are_remembered(
    opened: MainWindow, store: Store, tmp_path: Path, qtbot: QtBot
) -> None:
    qtbot.keyClick(opened, Qt.Key.Key_F7)
    assert opened.theme is DARK
    for name in ("one", "two"):
        file = tmp_path / f"{name}.riff"
        file.write_text("| 6:0/1 |\n")
        opened.open_file(file)
    again = Store(tmp_path / "settings.json", tmp_path / "unsaved")
    assert again.settings.theme == "dark"
    assert [Path(name).stem for name in again.settings.recent] == ["two", "one"]
    (tmp_path / "one.riff").unlink()
    opened.menus.fill_recent()
    assert [action.text() for action in opened.menus.recent.actions()] == ["two.riff"]
    opened.menus.recent.actions()[0].trigger()
    assert opened.document.path == tmp_path / "two.riff"


def left_behind(folder: Path, *titles: str) -> None:
    """What windows that are gone left."""
    for title in titles:
        gone = Recovery(folder)
        gone.keep(Project(f"title: {title}\n| 6:3/1 |\n"), None)
        gone._lock.let_go()


def unsaved(window: MainWindow) -> RecoveryDialog:
    return not_none(window.findChild(RecoveryDialog))


def test_what_is_not_saved_comes_back(opened: MainWindow, store: Store, tmp_path: Path, qtbot: QtBot) -> None:
    folder = tmp_path / "unsaved"
    opened.document.start("title: Open\n| 6:0/1 |\n")
    opened.document.set_text("title: Open\n| 6:3/1 |\n")
    opened.keep_unsaved()
    left_behind(folder, "Lost", "Other")
    second = MainWindow(store=Store(tmp_path / "settings.json", folder))
    qtbot.addWidget(second, before_close_func=settle)
    second.show()
    second.recover()
    dialog = unsaved(second)
    names = [not_none(dialog.list.item(row)).text().partition(",")[0] for row in range(dialog.list.count())]
    # The window that is open keeps its own.
    assert sorted(names) == ["Lost", "Other"]
    dialog.list.setCurrentRow(names.index("Lost"))
    assert dialog.text.toPlainText() == "title: Lost\n| 6:3/1 |\n"
    qtbot.mouseClick(dialog.take, Qt.MouseButton.LeftButton)
    assert second.document.text == "title: Lost\n| 6:3/1 |\n"
    assert second.document.changed
    assert [one.name for one in Recovery(folder).left()] == ["Other"]
    second.planner.stop()


def test_taking_up_on_a_full_disk_deletes_nothing(
    opened: MainWindow, tmp_path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "unsaved"
    left_behind(folder, "Lost")
    opened.recover()

    def full(*_: object) -> None:
        raise RiffError("cannot be written: no space left on device")

    with monkeypatch.context() as patched:
        patched.setattr(recovery, "write_text", full)
        qtbot.mouseClick(unsaved(opened).take, Qt.MouseButton.LeftButton)
    assert "title: Lost" in opened.document.text
    assert "no space left on device" in not_none(opened.statusBar()).currentMessage()
    assert [one.name for one in Recovery(folder).left()] == ["Lost"]


def test_what_is_not_wanted_does_not_come_back(opened: MainWindow, tmp_path: Path, qtbot: QtBot) -> None:
    folder = tmp_path / "unsaved"
    folder.mkdir(exist_ok=True)
    (folder / "999998.json").write_text('{"schema": 1, "text": "| 6:9/1 |", "path": null}')
    (folder / "999997.json").write_text("broken")
    (folder / "999996.json").write_text("[" * 100_000)
    before = opened.document.text
    opened.recover()
    dialog = unsaved(opened)
    qtbot.mouseClick(dialog.later, Qt.MouseButton.LeftButton)
    assert len(Recovery(folder).left()) == 1
    next(one for one in opened.findChildren(QAction) if one.text() == "&Unsaved riffs…").trigger()
    dialog = opened.findChildren(RecoveryDialog)[-1]
    qtbot.mouseClick(dialog.throw, Qt.MouseButton.LeftButton)
    box = not_none(dialog.findChild(QMessageBox, "throw-away"))
    qtbot.mouseClick(not_none(box.button(QMessageBox.StandardButton.Yes)), Qt.MouseButton.LeftButton)
    assert opened.document.text == before
    assert Recovery(folder).left() == ()
    assert (folder / "999997.unreadable").exists()
    opened.recover(asked=True)
    assert not_none(opened.statusBar()).currentMessage() == "Nothing was left unsaved"


def test_file_names_of_any_bytes_are_kept(tmp_path: Path) -> None:
    name = Path(os.fsdecode(b"caf\xe9.riff"))
    gone = Recovery(tmp_path)
    gone.keep(Project("| 6:0/1 |"), name)
    gone._lock.let_go()
    assert [one.path for one in Recovery(tmp_path).left()] == [name]


def test_riffs_are_kept_where_the_system_knows_no_locks(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def unknown(_handle: int, _how: int) -> None:
        raise OSError(38, "Function not implemented")

    monkeypatch.setattr("dromic.storage.locks.fcntl.flock", unknown)
    store = Store(tmp_path / "settings.json", tmp_path / "unsaved")
    assert store.keep(Project("title: Kept\n| 6:0/1 |\n"), None) == ""
    assert store.change(theme="dark") == ""
    assert [one.name for one in Recovery(tmp_path / "unsaved").left()] == ["Kept"]


def test_windows_do_not_overwrite_each_others_settings(tmp_path: Path) -> None:
    path = tmp_path / "settings.json"
    one, two = Store(path, tmp_path), Store(path, tmp_path)
    one.change(theme="dark")
    two.change(left_handed=True)
    one.edit(lambda settings: settings.with_recent(tmp_path / "a.riff"))
    two.edit(lambda settings: settings.with_recent(tmp_path / "b.riff"))
    now = Store(path, tmp_path).settings
    assert (now.theme, now.left_handed) == ("dark", True)
    assert [Path(name).name for name in now.recent] == ["b.riff", "a.riff"]


@pytest.mark.parametrize("content", ["[" * 100_000, "9" * 5000, '{"schema": 1, "recent": ' + "[" * 100_000])
def test_settings_that_cannot_be_read_do_not_keep_it_from_starting(tmp_path: Path, content: str) -> None:
    path = tmp_path / "settings.json"
    path.write_text(content)
    assert Store(path, tmp_path).settings == Settings()
    assert path.with_suffix(".unreadable").read_text() == content


def test_settings_that_are_a_pipe_do_not_hang_the_start(tmp_path: Path) -> None:
    path = tmp_path / "settings.json"
    os.mkfifo(path)
    assert Store(path, tmp_path).settings == Settings()


def test_saving_and_closing_leave_nothing_behind(opened: MainWindow, tmp_path: Path) -> None:
    opened.document.set_text("| 6:3/1 |\n")
    opened.keep_unsaved()
    opened.files.save_to(tmp_path / "saved.riff")
    assert not list((tmp_path / "unsaved").glob("*.json"))
    opened.document.set_text("| 6:4/1 |\n")
    opened.keep_unsaved()
    settle(opened)
    opened.close()
    assert not list((tmp_path / "unsaved").glob("*.json"))


def test_settings_are_in_force_at_once_and_kept(opened: MainWindow, tmp_path: Path, qtbot: QtBot) -> None:
    qtbot.keyClick(opened, Qt.Key.Key_Comma, Qt.KeyboardModifier.ControlModifier)
    dialog, page = opened.settings_dialog, opened.plan_page
    dialog.choices["theme"].setCurrentIndex(1)
    assert opened.theme is DARK
    dialog.choices["chart_size"].setCurrentIndex(2)
    dialog.choices["thick_on_top"].setCurrentIndex(1)
    assert not page.chart.thick_on_top
    for name in ("left_handed", "mutes", "click", "count_in", "around"):
        dialog.boxes[name].setChecked(True)
    assert not page.chart.view_settings.nut_below
    assert page.chart.view_settings.mutes
    assert page.transport.click.isChecked()
    assert page.transport.loop.isChecked()
    dialog.choices["school"].setCurrentIndex(dialog.choices["school"].findData("economy"))
    again = Store(tmp_path / "settings.json", tmp_path / "unsaved").settings
    assert again == opened.store.settings
    assert (again.theme, again.chart_size, again.left_handed, again.school) == ("dark", 1.5, True, "economy")
    settle(opened)
    dialog.reject()
    qtbot.keyClick(opened, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    assert opened.document.plan_settings.school == "economy"
    opened.show_settings()
    dialog = opened.settings_dialog
    qtbot.mouseClick(dialog.usual, Qt.MouseButton.LeftButton)
    assert opened.store.settings == replace(Settings(), recent=again.recent, welcomed=again.welcomed)
    assert not dialog.boxes["left_handed"].isChecked()
    assert opened.theme is LIGHT


def test_recent_files_are_forgotten_and_first_steps_come_back(
    opened: MainWindow, tmp_path: Path, qtbot: QtBot
) -> None:
    file = tmp_path / "one.riff"
    file.write_text("| 6:0/1 |\n")
    opened.open_file(file)
    opened.remember(welcomed=True)
    opened.show_settings()
    dialog = opened.settings_dialog
    qtbot.mouseClick(dialog.forget, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(dialog.welcome, Qt.MouseButton.LeftButton)
    assert opened.recent_files() == []
    assert opened.riff_page.welcome.isVisibleTo(opened.riff_page)
    assert not dialog.forget.isEnabled()


def test_the_transport_remembers_how_it_plays(opened: MainWindow, tmp_path: Path) -> None:
    opened.plan_page.transport.count_in.click()
    assert Store(tmp_path / "settings.json", tmp_path / "unsaved").settings.count_in


def test_own_hands_are_remembered(opened: MainWindow, tmp_path: Path, qtbot: QtBot) -> None:
    opened.hands_page.sliders["span"].setValue(110)
    again = MainWindow(store=Store(tmp_path / "settings.json", tmp_path / "unsaved"))
    qtbot.addWidget(again, before_close_func=settle)
    assert not_none(again.document.plan_settings.own).fretting.spread_mm[-1] == pytest.approx(69 * 1.1)
    again.planner.stop()


def test_the_first_steps_show_until_they_are_read(opened: MainWindow, tmp_path: Path, qtbot: QtBot) -> None:
    assert not opened.riff_page.welcome.isHidden()
    button = opened.riff_page.welcome.findChild(QPushButton)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert opened.riff_page.welcome.isHidden()
    assert Store(tmp_path / "settings.json", tmp_path / "unsaved").settings.welcomed


def test_keys_are_found_by_what_they_do(window: MainWindow, qtbot: QtBot) -> None:
    qtbot.keyClick(window, Qt.Key.Key_F1)
    dialog = window.menus.keys_dialog
    everything = dialog.shown
    assert {"Undo", "Muting lane", "play or stop", "a rest"} <= set(everything)
    qtbot.keyClicks(dialog.search, "lock")
    assert 0 < len(dialog.shown) < len(everything)
    assert all("lock" in words.lower() for words in dialog.shown)
    qtbot.keyClicks(dialog.search, "zzz")
    assert dialog.shown == []
    dialog.close()


def test_a_document_starts_without_history() -> None:
    document = Document()
    document.start("| 6:0/1 |\n")
    assert document.history.undo_words is None
    document.undo()
    assert document.text == "| 6:0/1 |\n"


def test_a_window_for_every_file(qtbot: QtBot, tmp_path: Path) -> None:
    names = []
    for number in (1, 2):
        path = tmp_path / f"{number}.riff"
        path.write_text(f"title: Number {number}\n| 6:{number}/1 |\n")
        names.append(path)
    windows = open_windows(names)
    for one in windows:
        qtbot.addWidget(one, before_close_func=settle)
    assert [not_none(one.document.reading).riff.title for one in windows] == ["Number 1", "Number 2"]
    assert [one.document.path for one in windows] == names
    assert windows[0].document is not windows[1].document


def test_a_new_riff_is_empty_and_for_the_instrument_played_last(window: MainWindow, wait: Wait) -> None:
    window.document.start("instrument: bass-5\nmeter: 3/4\ntempo: 88\n| 5:3/2. |\n")
    window.new()
    wait()
    riff = not_none(window.document.reading).riff
    assert (riff.instrument, str(riff.meter), riff.tempo, riff.title) == ("bass-5", "3/4", 88.0, "")
    assert all(event.rest for event in riff.written_events())


def test_a_phrase_gets_a_school_of_its_own(window: MainWindow, qtbot: QtBot, wait: Wait, tmp_path: Path) -> None:
    text = "meter: 4/8\ntempo: 80\n[A] | 6:0/8 6:0 6:0 6:0 |\n[B] | 6:0/8 6:0 6:0 6:0 |\n"
    settings = PlanSettings("strict-alternate")
    window.document.start(text, plan_settings=settings)
    wait()
    window.show_phrase_schools()
    dialog = window.phrase_schools_dialog
    box = dialog.choices[1]
    box.setCurrentIndex(box.findData("downstroke-first"))
    box.activated.emit(box.currentIndex())
    wait()
    assert "[B = downstroke-first]" in window.document.text
    assert [str(event.stroke) for event in not_none(window.document.plan).events[4:]] == ["down"] * 4
    window.document.save(tmp_path / "a.dromic")
    window.document.undo()
    assert "downstroke" not in window.document.text
    window.document.open(tmp_path / "a.dromic")
    assert not_none(window.document.reading).riff.phrases[1].school == "downstroke-first"
    dialog.close()


def test_every_setting_that_is_no_memory_can_be_set_in_the_dialog(window: MainWindow) -> None:
    window.show_settings()
    dialog = window.settings_dialog
    assert {*dialog.boxes, *dialog.choices} == set(preferences())
    dialog.reject()
