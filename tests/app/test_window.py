"""The real window, driven by clicks and keys."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage
from PyQt6.QtWidgets import QApplication, QFileDialog, QLabel, QMessageBox, QToolButton
from pytestqt.qtbot import QtBot

from dromic.app.chart.painting import GUTTER
from dromic.app.shell import message_boxes
from dromic.app.stages import TITLES
from dromic.app.start import guard
from dromic.app.theme import DARK, LIGHT, Theme
from dromic.app.window import MainWindow
from tests.app.conftest import plan_now
from tests.helpers import not_none

LEFT = Qt.MouseButton.LeftButton
Wait = Callable[[], None]


def words(window: MainWindow) -> str:
    """Everything the reasons panel says; it is filled when all else has been painted."""
    QApplication.processEvents()
    return "\n".join(label.text() for label in window.plan_page.reasons.findChildren(QLabel))


def click_step(window: MainWindow, qtbot: QtBot, step: int) -> None:
    chart = window.plan_page.chart
    chart.set_choice(step)
    layout = chart.chart_layout
    assert layout is not None
    x = layout.columns[step].plate_x - chart._scrolled + GUTTER
    qtbot.mouseClick(chart.viewport(), LEFT, pos=QPoint(round(x), round(layout.string_y(3))))


def colors(image: QImage) -> set[int]:
    return {image.pixel(x, y) for x in range(0, image.width(), 3) for y in range(0, image.height(), 3)}


def test_it_opens_with_the_first_demo_riff_planned(window: MainWindow) -> None:
    assert window.stage == 1
    assert window.header.title.text() == "Kiln Stairs"
    assert window.header.target.value.text() == "100"
    assert int(window.header.ceiling.value.text()) > 100
    assert window.header.limit.text().startswith("bar 5 beat 1: outside change with a skip")
    assert window.plan_page.plan_settings.school.currentText() == "Pulse alternate"
    assert "best possible plan (by this model)" in not_none(window.statusBar()).currentMessage()


def test_the_rail_and_the_keys_change_the_stage(window: MainWindow, qtbot: QtBot) -> None:
    buttons = {button.text(): button for button in window.findChildren(QToolButton, "stage")}
    assert tuple(buttons) == ("Riff", "Plan", "Compare", "Practice", "Listen", "Log", "Hands")
    riff_button, plan_button = buttons["Riff"], buttons["Plan"]
    qtbot.mouseClick(riff_button, LEFT)
    assert window.stage == 0
    assert riff_button.isChecked()
    qtbot.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    assert window.stage == 1
    assert plan_button.isChecked()
    qtbot.keyClick(window, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    assert window.stage == 0
    for stage, title in enumerate(buttons):
        qtbot.mouseClick(buttons[title], LEFT)
        assert window.stage == stage


def test_a_click_on_a_note_says_why(window: MainWindow, qtbot: QtBot) -> None:
    click_step(window, qtbot, 8)
    assert window.document.chosen == 8
    plan = window.document.plan
    text = words(window)
    assert not_none(plan).task.steps[8].moment.place_words in text.lower()
    assert "Picking hand" in text
    assert "Fretting hand" in text
    assert " of 150 ms" in text or " of 300 ms" in text
    assert "What it adds to the plan's effort" in text
    assert "Alternatives" in text
    assert "What must stay silent" in text
    assert "Pulse alternate" in text


def test_keys_walk_from_note_to_note(window: MainWindow, qtbot: QtBot) -> None:
    chart = window.plan_page.chart
    qtbot.keyClick(chart, Qt.Key.Key_Home)
    assert window.document.chosen == 0
    assert "both hands start from rest" in words(window)
    for _ in range(3):
        qtbot.keyClick(chart, Qt.Key.Key_Right)
    assert window.document.chosen == 3
    qtbot.keyClick(chart, Qt.Key.Key_Left)
    assert window.document.chosen == 2
    qtbot.keyClick(chart, Qt.Key.Key_End)
    assert window.document.chosen == len(not_none(window.document.plan).states) - 1
    assert chart._scrolled > 0
    assert "string 6" in chart.accessibleDescription()


def test_another_school_and_tempo_are_planned_at_once(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    plan_settings = window.plan_page.plan_settings
    before = window.document.plan
    plan_settings.school.setFocus()
    plan_settings.school.setCurrentIndex(plan_settings.school.findData("strict-alternate"))
    wait()
    strict = window.document.plan
    assert not_none(strict).school.name == "strict-alternate"
    assert not_none(strict).cost != not_none(before).cost
    plan_settings.tempo.setValue(200)
    wait()
    assert not_none(window.document.plan).tempo == 200
    assert plan_settings.slider.value() == 200
    assert window.header.target.value.text() == "200"
    assert window.header.ceiling.value.property("over") == "true"
    plan_settings.slider.setValue(90)
    wait()
    assert not_none(window.document.plan).tempo == 90
    assert window.header.ceiling.value.property("over") == "false"
    qtbot.mouseClick(plan_settings.own, LEFT)
    wait()
    assert not_none(window.document.plan).tempo == 100
    plan_settings.aim.setCurrentIndex(plan_settings.aim.findData("tempo"))
    plan_settings.hands.setCurrentIndex(plan_settings.hands.findData("beginner"))
    wait()
    assert (not_none(window.document.plan).objective, not_none(window.document.plan).hands.name) == (
        "tempo",
        "beginner",
    )


def test_typing_a_riff_plans_it(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    window.show_stage(0)
    editor = window.riff_page.editor
    qtbot.keyClick(editor, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    for text in ("title: Typed", "tempo: 90", "| 5:5/8 5:7 4:5 4:7 E4/2 |"):
        qtbot.keyClicks(editor, text)
        qtbot.keyClick(editor, Qt.Key.Key_Return)
    wait()
    assert window.header.title.text() == "Typed"
    assert len(not_none(window.document.plan).states) == 5
    assert "1 bar, 5 notes written" in window.riff_page.message.text()
    assert window.isWindowModified()


def test_an_error_is_marked_where_it_is_and_the_last_plan_stays(
    window: MainWindow, qtbot: QtBot, wait: Wait
) -> None:
    before = window.document.plan
    window.show_stage(0)
    editor = window.riff_page.editor
    text = editor.toPlainText()
    editor.setPlainText(text.replace("5:1.>/8", "5:99.>/8"))
    assert "Line 12, column 52: found fret 99, but guitar-6 has 24 frets" in window.riff_page.message.text()
    marked = editor.extraSelections()[-1].cursor
    assert marked.selectedText().startswith("99")
    window.show_stage(1)
    qtbot.keyClick(window, Qt.Key.Key_F8)
    assert window.stage == 0
    assert editor.textCursor().blockNumber() == 11
    wait()
    assert window.document.plan is before
    assert "What you see is the last plan that worked" in window.plan_page.notice.text()
    editor.setPlainText(text)
    wait()
    assert window.plan_page.notice.isHidden()


def test_what_cannot_be_planned_is_explained(window: MainWindow, wait: Wait) -> None:
    window.riff_page.editor.setPlainText("| 6:0.b2/1 |")
    wait()
    assert "an open string cannot be bent" in window.plan_page.notice.text()
    assert not window.plan_page.notice.isHidden()
    assert window.document.plan is not None


def test_another_demo_riff_by_a_click_in_the_list(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    window.show_stage(0)
    riffs = window.riff_page.list
    box = riffs.visualItemRect(riffs.item(2))
    qtbot.mouseClick(riffs.viewport(), LEFT, pos=box.center())
    wait()
    assert window.header.title.text() == "Glass Ladder"
    assert window.plan_page.plan_settings.school.currentText() == "Least motion"
    assert window.plan_page.notice.isHidden()


def test_unsaved_changes_are_asked_about(
    window: MainWindow, qtbot: QtBot, wait: Wait, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.riff_page.editor.setPlainText("title: Mine\n| 6:0/1 |")
    wait()
    answers = [QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Discard]
    monkeypatch.setattr(window, "ask_to_save", lambda: answers.pop(0))
    window.riff_page.list.setCurrentRow(1)
    assert window.header.title.text() == "Mine"
    assert window.riff_page.list.currentRow() == -1
    window.riff_page.list.setCurrentRow(1)
    assert window.header.title.text() == "Millrace Reel"


def test_saving_and_opening(
    window: MainWindow, qtbot: QtBot, wait: Wait, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    window.riff_page.editor.setPlainText("title: Mine\n| 6:0/2 6:3 |")
    path = tmp_path / "mine"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_words: (str(path), ""))
    assert window.files.save()
    saved = path.with_suffix(".riff")
    assert saved.read_text() == "title: Mine\n| 6:0/2 6:3 |"
    assert not window.isWindowModified()
    assert window.windowTitle() == "mine.riff[*] – Dromic"
    window.riff_page.editor.setPlainText("title: Mine\n| 6:0/2 6:4 |")
    assert window.files.save()
    assert "6:4" in saved.read_text()
    window.new()
    assert window.header.title.text() == "Untitled"
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_words: (str(saved), ""))
    window.files.ask_open()
    wait()
    assert window.header.title.text() == "Mine"
    assert window.document.path == saved


def test_a_wrong_file_is_refused_and_nothing_is_lost(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    wrong = tmp_path / "wrong.riff"
    wrong.write_bytes(b"\x89PNG\r\n\xff\xff")
    before = window.document.text
    window.open_file(wrong)
    box = window.findChild(QMessageBox)
    assert "wrong.riff, line 1, column 1: this is not UTF-8 text" in box.text()
    assert box.informativeText() == "What you had open is still here."
    box.accept()
    assert window.document.text == before
    assert window.isVisible()


def test_a_place_that_cannot_be_written_is_told(window: MainWindow, tmp_path: Path) -> None:
    window.document.path = tmp_path / "gone" / "a.riff"
    assert not window.files.save()
    box = window.findChild(QMessageBox)
    assert "there is no such file or folder" in box.text()
    box.accept()


def test_dropping_a_file_opens_it(window: MainWindow, qtbot: QtBot, wait: Wait, tmp_path: Path) -> None:
    path = tmp_path / "dropped.riff"
    path.write_text("title: Dropped\n| 6:0/2 6:3 |")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    event = QDropEvent(QPointF(100, 100), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier)
    window.dropEvent(event)
    wait()
    assert window.header.title.text() == "Dropped"


def test_both_themes_and_both_views_are_drawn(window: MainWindow, qtbot: QtBot) -> None:
    chart = window.plan_page.chart
    light = chart.grab().toImage()
    assert len(colors(light)) > 20
    assert window.theme is LIGHT
    qtbot.keyClick(window, Qt.Key.Key_F7)
    assert window.theme is DARK
    dark = chart.grab().toImage()
    assert dark.pixelColor(4, 300).lightness() < 80 < light.pixelColor(4, 300).lightness()
    qtbot.keyClick(window, Qt.Key.Key_F6)
    assert not chart.thick_on_top
    assert chart.grab().toImage() != dark
    qtbot.keyClick(window, Qt.Key.Key_F7)
    qtbot.keyClick(window, Qt.Key.Key_F6)
    assert chart.grab().toImage() == light


def test_zooming_keeps_the_place_and_fits_the_riff(window: MainWindow, qtbot: QtBot) -> None:
    chart = window.plan_page.chart
    wide = not_none(chart.chart_layout).width
    qtbot.keyClick(chart, Qt.Key.Key_Plus)
    assert not_none(chart.chart_layout).width == pytest.approx(wide * 1.25, rel=0.03)
    qtbot.keyClick(chart, Qt.Key.Key_Minus)
    assert not_none(chart.chart_layout).width == pytest.approx(wide)
    chart.fit()
    assert not_none(chart.chart_layout).width <= chart.viewport_width - GUTTER + 1
    assert not_none(chart.horizontalScrollBar()).maximum() == 0


@pytest.mark.parametrize("size", [(820, 560), (1280, 800), (2200, 1300)])
def test_sizes(window: MainWindow, qtbot: QtBot, size: tuple[int, int]) -> None:
    window.resize(*size)
    for stage in (0, 1):
        window.show_stage(stage)
        qtbot.wait(10)
        image = window.grab().toImage()
        assert len(colors(image)) > 20
    bottom = not_none(window.plan_page.chart.chart_layout).load.bottom
    assert bottom <= not_none(window.plan_page.chart.viewport()).height()


def test_long_planning_shows_progress_and_can_be_stopped(window: MainWindow, qtbot: QtBot) -> None:
    before = window.document.plan
    notes = " ".join(f"{name}/16" for name in ["E3", "G3", "A3", "C4"] * 4)
    window.document.set_text(f"| {notes} | x90")
    with qtbot.waitSignal(window.planner.progressed, timeout=20_000):
        window.planner.ask()
    assert window.planning.progress.isVisible()
    assert window.plan_page.chart.planning
    qtbot.mouseClick(window.planning.cancel, LEFT)
    assert not window.plan_page.chart.planning
    assert not window.planner.working
    assert not window.planning.progress.isVisible()
    assert window.document.plan is before
    window.planner.stop()
    window.document.set_text("| 6:0/1 |")
    plan_now(window, qtbot)
    assert len(window.document.plan.states) == 1


def test_only_the_last_request_is_answered(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    for fret in range(6):
        window.document.set_text(f"| 6:{fret}/2 6:{fret + 1} |")
        window.planner.ask()
    wait()
    assert not_none(window.document.plan).states[0].fret == 5


def test_about_cares_for_hands(window: MainWindow) -> None:
    window.show_about()
    assert any("Stop at pain" in box.text() for box in window.findChildren(QMessageBox))


@pytest.mark.parametrize("compiled", [True, False])
def test_about_says_when_there_was_no_compiler(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch, compiled: bool
) -> None:
    monkeypatch.setattr(message_boxes, "COMPILED", compiled)
    message_boxes.about(window)
    box = not_none(window.findChild(QMessageBox))
    assert ("no C compiler" in box.text()) is not compiled
    box.close()


def test_a_defect_is_told_once_and_the_window_stays(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    guard(window)
    for _ in range(2):
        sys.excepthook(ValueError, ValueError("too odd"), None)
    boxes = window.findChildren(QMessageBox)
    assert [box.text() for box in boxes] == ["Something failed: ValueError: too odd."]
    assert "Your riff is still here" in boxes[0].informativeText()
    assert window.isVisible()


def test_dragging_the_tempo_moves_the_loads_at_once(window: MainWindow, wait: Wait) -> None:
    chart = window.plan_page.chart
    before = not_none(chart.chart_layout).largest_load
    window.plan_page.plan_settings.tempo.setValue(200)
    assert not_none(chart.chart_layout).largest_load == pytest.approx(2 * before)
    wait()
    assert chart.view_settings.tempo_ratio == 1.0
    assert not_none(window.document.plan).tempo == 200


def test_a_range_is_selected_by_keys_and_clicks(window: MainWindow, qtbot: QtBot) -> None:
    chart = window.plan_page.chart
    click_step(window, qtbot, 3)
    qtbot.keyClick(chart, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(chart, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert chart.selection == (3, 5)
    layout = chart.chart_layout
    x = round(not_none(layout).columns[1].plate_x - chart._scrolled + GUTTER)
    place = QPoint(x, round(not_none(layout).string_y(3)))
    qtbot.mouseClick(chart.viewport(), LEFT, Qt.KeyboardModifier.ShiftModifier, place)
    assert chart.selection == (1, 3)
    qtbot.keyClick(chart, Qt.Key.Key_Right)
    assert chart.selection is None


@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_muting_lane_and_neck_turned_over(window: MainWindow, qtbot: QtBot, theme: Theme) -> None:
    window.set_theme(theme)
    chart = window.plan_page.chart
    plain = chart.grab().toImage()
    qtbot.keyClick(window, Qt.Key.Key_F9)
    assert chart.view_settings.mutes
    qtbot.keyClick(window, Qt.Key.Key_F6, Qt.KeyboardModifier.ShiftModifier)
    assert not chart.view_settings.nut_below
    assert chart.grab().toImage() != plain
    spots = not_none(window.document.plan).instrument.spots
    assert not_none(chart.chart_layout).neck_y(float(spots[1])) < not_none(chart.chart_layout).neck_y(
        float(spots[5])
    )


@pytest.mark.parametrize("size", [(800, 500), (1000, 640), (1280, 800), (1920, 1200)])
@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_every_stage_fits_small_and_large_windows(window: MainWindow, size: tuple[int, int], theme: Theme) -> None:
    window.set_theme(theme)
    window.resize(*size)
    for stage in range(len(TITLES)):
        window.show_stage(stage)
        image = window.grab().toImage()
        assert (image.width(), image.height()) == size
        assert len(colors(image)) > 10


def test_controls_that_a_narrow_window_has_no_room_for_slide_in_with_the_focus(
    window: MainWindow, wait: Wait, qtbot: QtBot
) -> None:
    window.resize(800, 500)
    window.activateWindow()
    last = window.plan_page.plan_settings.tempo
    assert last.visibleRegion().isEmpty()
    last.setFocus()
    qtbot.waitUntil(lambda: not last.visibleRegion().isEmpty())
    window.resize(1400, 800)
    wait()
    assert not window.plan_page.plan_settings.visibleRegion().isEmpty()


def test_the_seam_of_a_loop_is_drawn(window: MainWindow, wait: Wait) -> None:
    chart = window.plan_page.chart
    window.document.start("| 6:5/4 6:7 5:5 5:7 |\n")
    wait()
    plain = chart.grab().toImage()
    window.plan_page.plan_settings.loop.click()
    wait()
    assert not_none(window.document.plan).loop
    assert chart.grab().toImage() != plain
    assert not_none(window.document.plan).events[0].loads.largest > 0


def test_escape_gives_up_comparing(window: MainWindow, qtbot: QtBot) -> None:
    window.show_stage(2)
    assert window.compare_page.comparer.working
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert not window.compare_page.comparer.working
    assert window.compare_page.progress.isHidden()


def test_in_a_low_window_the_rail_scrolls_to_the_stage_that_shows(window: MainWindow, qtbot: QtBot) -> None:
    window.resize(900, 340)
    port = not_none(window.rail.viewport())
    for stage in range(len(TITLES)):
        qtbot.keyClick(window, Qt.Key(Qt.Key.Key_1 + stage), Qt.KeyboardModifier.ControlModifier)
        button = window.rail.findChildren(QToolButton, "stage")[stage]
        top = button.mapTo(port, QPoint(0, 0)).y()
        assert top >= 0
        assert top + button.height() <= port.height()
