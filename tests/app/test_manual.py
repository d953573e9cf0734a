"""The manual and What is this: pages name keys that are there, every part of the chart says what it is."""

from __future__ import annotations

import re

import pytest
from PyQt6.QtCore import QEvent, QPoint, Qt, QUrl
from PyQt6.QtGui import QHelpEvent, QKeySequence, QTextDocument
from PyQt6.QtWidgets import QApplication, QWhatsThis
from pytestqt.qtbot import QtBot

from dromic.app.chart.lanes import LANES
from dromic.app.theme import DARK, LIGHT, Theme
from dromic.app.window import MainWindow
from dromic.manual.pages import Page, matching, pages
from tests.helpers import not_none


@pytest.mark.parametrize("page", pages(), ids=lambda page: page.name)
def test_keys_of_the_manual_are_those_of_the_window(window: MainWindow, page: Page) -> None:
    known = set()
    for menu_action in not_none(window.menuBar()).actions():
        for action in not_none(menu_action.menu()).actions():
            known |= {one.toString(QKeySequence.SequenceFormat.PortableText) for one in action.shortcuts()}
    named = set(re.findall(r"\b(?:Ctrl|Shift)\+(?:Shift\+)?(?:F\d+|[A-Z0-9])\b|\bF\d+\b", page.text))
    named = {key for key in named if not re.search(rf"(?:\w\+){re.escape(key)}", page.text) or "+" in key}
    assert named <= known, named - known


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=lambda theme: theme.name)
def test_every_page_shows_its_picture(window: MainWindow, theme: Theme) -> None:
    window.set_theme(theme)
    window.show_manual()
    dialog = window.manual_dialog
    seen = set()
    for row, page in enumerate(pages()):
        dialog.list.setCurrentRow(row)
        (name,) = re.findall(r"!\[[^\]]+\]\((\S+)\)", page.text)
        shown = not_none(dialog.page.document()).resource(
            QTextDocument.ResourceType.ImageResource.value, QUrl(name)
        )
        assert 280 <= shown.width() <= 560
        seen.add(bytes(not_none(shown.bits()).asarray(shown.sizeInBytes())))
        # It belongs to the window as it looks: paper is white in both.
        light = shown.pixelColor(3, 3).lightness() > 128
        assert light is (theme is LIGHT or "files" in name)
    assert len(seen) == len(pages())


def test_the_manual_is_searched_as_one_types(window: MainWindow, qtbot: QtBot) -> None:
    window.show_manual()
    dialog = window.manual_dialog
    assert dialog.list.count() == len(pages()) >= 10
    qtbot.keyClicks(dialog.search, "teacher")
    assert [dialog.list.item(row).text() for row in range(dialog.list.count())] == ["Both hands in motion"]  # type: ignore[union-attr]
    assert dialog.page.textCursor().selectedText() == "teacher"
    dialog.search.setText("nothing like this")
    assert "No page has" in dialog.page.toPlainText()
    assert matching("WORST") == matching("worst")


def test_every_part_of_the_chart_says_what_it_is(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    told: list[str] = []
    monkeypatch.setattr(QWhatsThis, "showText", lambda _at, words, _widget: told.append(words))
    chart = window.plan_page.chart
    layout = not_none(chart.chart_layout)
    port = not_none(chart.viewport())
    for lane in LANES:
        band = layout.bands[lane.name]
        if not band.height:
            continue
        at = QPoint(300, round((band.top + band.bottom) / 2))
        QApplication.sendEvent(port, QHelpEvent(QEvent.Type.WhatsThis, at, port.mapToGlobal(at)))
        assert told[-1].startswith(lane.words)
    assert len(told) >= 4
    for widget in (window.plan_page.overview, window.riff_page.neck, chart):
        assert widget.whatsThis()
    qtbot.keyClick(window, Qt.Key.Key_F1, Qt.KeyboardModifier.ShiftModifier)
    assert QWhatsThis.inWhatsThisMode()
    QWhatsThis.leaveWhatsThisMode()
