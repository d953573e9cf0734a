"""The Compare stage tells schools apart: what each asks, what it is made for, and how two plans sound in turn."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from pytestqt.qtbot import QtBot

from dromic.app import sound
from dromic.app.compare.compare_page import ComparePage
from dromic.app.compare.paint import paint_neck
from dromic.app.compare.rows import SCHOOL, WAY
from dromic.app.compare.table import FIRST_FIGURE
from dromic.app.theme import LIGHT
from dromic.app.window import MainWindow
from dromic.formats.rifftext.reader import read_riff_text
from tests.app.conftest import plan_now
from tests.helpers import not_none, plan

SHORT = "tempo: 240\n| 5:3/8 4:5 3:5 2:5 1:5 2:5 3:5 4:5 |"


@pytest.fixture(autouse=True)
def _no_device(monkeypatch: pytest.MonkeyPatch) -> None:
    """The cursor keeps time in silence."""
    monkeypatch.setattr(sound, "_device", lambda: None)


def compared(window: MainWindow, qtbot: QtBot, text: str = SHORT) -> ComparePage:
    window.document.set_text(text)
    plan_now(window, qtbot)
    window.show_stage(2)
    page = window.compare_page
    qtbot.waitUntil(lambda: not page.comparer.working and len(page.table.rows) >= 12, timeout=60_000)
    return page


def order(page: ComparePage) -> list[str]:
    model = not_none(page.view.model())
    return [str(model.index(row, 0).data()) for row in range(model.rowCount())]


def test_what_is_made_for_something_else_comes_last_and_says_so(window: MainWindow, qtbot: QtBot) -> None:
    page = compared(window, qtbot)
    for way in (Qt.SortOrder.DescendingOrder, Qt.SortOrder.AscendingOrder):
        page.view.sortByColumn(FIRST_FIGURE, way)
        assert set(order(page)[-2:]) == {
            "Bass, two fingers (for the bass)",
            "Jig (for beats of three, such as 6/8)",
        }


def test_the_selected_row_says_what_it_asks_and_where_it_holds_back(window: MainWindow, qtbot: QtBot) -> None:
    page = compared(window, qtbot)
    names = order(page)
    page.view.selectRow(names.index("Economy"))
    told = page.detail.text()
    assert "sweep stroke" in told
    assert "picking" in told
    assert "bar 1 beat" in told
    page.view.selectRow(names.index("Jig (for beats of three, such as 6/8)"))
    assert "It is made for beats of three" in page.detail.text()


def test_two_plans_are_played_in_turn_until_stopped(window: MainWindow, qtbot: QtBot) -> None:
    page = compared(window, qtbot)
    page.view.selectRow(0)
    now, other = not_none(window.document.plan), not_none(not_none(page.selected).plan)
    heard = []
    page.in_turn.changed.connect(lambda: heard.append(page.in_turn.sounding))
    page.view.setFocus()
    qtbot.keyClick(page.view, Qt.Key.Key_Space)
    assert page.in_turn.sounding is now
    assert page.turns.text().startswith("Stop")
    qtbot.waitUntil(lambda: heard.count(now) >= 2, timeout=30_000)
    assert heard[:3] == [None, now, other]
    qtbot.mouseClick(page.turns, Qt.MouseButton.LeftButton)
    assert page.in_turn.sounding is None
    assert page.turns.text() == "Play both in turn"
    page.play_in_turn()
    window.show_stage(1)
    assert page.in_turn.sounding is None


def test_where_the_fretting_hand_hides_the_schools_the_picture_compares_the_pick(
    window: MainWindow, qtbot: QtBot
) -> None:
    page = compared(window, qtbot, "tempo: 120\n| 6:1/16 6:13 6:1 6:13 5:1 5:13 4:1 4:13 r/2 |")
    both = [row.plan.ceiling for row in page.table.rows if row.plan is not None and not row.other_use]
    picks = [row.plan.ceilings.pick for row in page.table.rows if row.plan is not None]
    known = [one for one in both if one is not None]
    if (max(known) - min(known)) / max(known) < 0.05:
        assert page.scatter._across == "ceiling of the picking hand"
        assert {point.ceiling for point in page.scatter._points} <= {one or 0.0 for one in picks}


def test_ways_across_the_neck_are_small_necks() -> None:
    low = plan(read_riff_text("| 6:1/8 6:3 5:1 5:3 r/2 |").riff)
    high = plan(read_riff_text("| 6:13/8 6:15 5:13 5:15 r/2 |").riff)
    pictures = []
    for planned in (low, high):
        picture = QImage(112, 42, QImage.Format.Format_RGB32)
        picture.fill(Qt.GlobalColor.white)
        painter = QPainter(picture)
        paint_neck(painter, QRectF(6, 4, 100, 34), planned, LIGHT)
        painter.end()
        pictures.append(picture)
    band = LIGHT.color("ribbon").rgb()

    def middle(picture: QImage) -> float:
        xs = [x for x in range(112) for y in range(42) if picture.pixel(x, y) == band]
        return sum(xs) / len(xs)

    assert middle(pictures[0]) < 40 < 70 < middle(pictures[1])


@pytest.mark.parametrize("kind", [SCHOOL, WAY])
def test_every_row_has_a_picture(window: MainWindow, qtbot: QtBot, kind: str) -> None:
    page = compared(window, qtbot)
    assert any(row.kind == kind and row.plan is not None for row in page.table.rows)
    assert page.view.grab().toImage().width() > 200
