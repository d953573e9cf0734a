"""Keys, focus, contrast and large text: measured on pictures of the real window."""

from __future__ import annotations

from collections import Counter

import pytest
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QPushButton, QSlider, QWidget
from pytestqt.qtbot import QtBot

from dromic.app.settings import TEXT_SIZES
from dromic.app.stages import TITLES
from dromic.app.theme import DARK, LIGHT, Theme
from dromic.app.window import MainWindow

LEAST_CONTRAST = 4.5


def luminance(color: QColor) -> float:
    """Relative luminance (W3C, WCAG 2.1)."""
    parts = [one / 12.92 if one <= 0.03928 else ((one + 0.055) / 1.055) ** 2.4 for one in color.getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(one: QColor, two: QColor) -> float:
    """Contrast ratio (W3C, WCAG 2.1), of which text needs 4.5."""
    light, dark = sorted((luminance(one), luminance(two)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def of_picture(picture: QImage, inside: QWidget, window: QWidget) -> float:
    """The contrast between the ground of a widget and what stands out most from it."""
    corner = inside.mapTo(window, QPoint(0, 0))
    ratio = picture.devicePixelRatio()
    wide, high = min(inside.width(), 260), min(inside.height(), 60)
    # Of what is larger than its words, the middle; its words are there or on the left.
    corner += QPoint(0, (inside.height() - high) // 2)
    seen = Counter(
        picture.pixel(round((corner.x() + x) * ratio), round((corner.y() + y) * ratio))
        for x in range(1, wide - 1)
        for y in range(1, high - 1)
        if picture.valid(round((corner.x() + x) * ratio), round((corner.y() + y) * ratio))
    )
    if not seen:
        return 21.0
    ground = QColor(seen.most_common(1)[0][0])
    return max(contrast(ground, QColor(color)) for color in seen)


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=["light", "dark"])
@pytest.mark.parametrize("stage", range(len(TITLES)), ids=TITLES)
def test_all_text_stands_out(window: MainWindow, qtbot: QtBot, theme: Theme, stage: int) -> None:
    window.set_theme(theme)
    window.show_stage(stage)
    qtbot.wait(80)
    picture = window.grab().toImage()
    shown = window.rect()
    weak = []
    for widget in window.findChildren(QWidget):
        text = widget.text() if isinstance(widget, (QLabel, QAbstractButton)) else ""
        middle = widget.mapTo(window, widget.rect().center())
        if not text.strip() or not widget.isVisible() or not widget.isEnabled() or not shown.contains(middle):
            continue
        if widget.visibleRegion().isEmpty() or widget.height() < 8:
            continue
        found = of_picture(picture, widget, window)
        # Smoothed letters lose a little of the colour that they are drawn in.
        if found < LEAST_CONTRAST * 0.93:
            weak.append((text[:30], round(found, 2)))
    assert not weak


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=["light", "dark"])
def test_colours_of_text_and_of_meaning_stand_out_on_every_ground(theme: Theme) -> None:
    for ground in ("paper", "sheet"):
        for text in ("ink", "quiet", "accent", "hot", "calm"):
            assert contrast(theme.color(text), theme.color(ground)) >= LEAST_CONTRAST, (text, ground)
    assert contrast(theme.color("rail_ink"), theme.color("rail")) >= LEAST_CONTRAST


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=["light", "dark"])
@pytest.mark.parametrize("stage", [0, 1, 2, 3, 6])
def test_what_has_the_keys_is_seen(window: MainWindow, qtbot: QtBot, theme: Theme, stage: int) -> None:
    window.set_theme(theme)
    window.show_stage(stage)
    window.activateWindow()
    qtbot.wait(80)
    kinds = (QPushButton, QComboBox, QLineEdit, QSlider)
    unseen = []
    for widget in window.findChildren(QWidget):
        takes = isinstance(widget, kinds) and widget.focusPolicy() & Qt.FocusPolicy.TabFocus
        if not takes or not widget.isVisible() or not widget.isEnabled() or widget.visibleRegion().isEmpty():
            continue
        around = QRect(widget.mapTo(window, QPoint(0, 0)), widget.size()).adjusted(-4, -4, 4, 4)
        widget.clearFocus()
        before = window.grab(around).toImage()
        widget.setFocus(Qt.FocusReason.TabFocusReason)
        if not widget.hasFocus():
            continue
        if window.grab(around).toImage() == before:
            unseen.append((type(widget).__name__, widget.accessibleName() or widget.objectName()))
    assert not unseen


@pytest.mark.parametrize("size", TEXT_SIZES)
def test_text_may_be_twice_as_large(window: MainWindow, qtbot: QtBot, size: float) -> None:
    window.preferences.prefer(text_size=size)
    for stage in range(len(TITLES)):
        window.show_stage(stage)
        qtbot.wait(10)
        assert window.width() <= 1280
    assert window.header.title.fontInfo().pixelSize() == round(23 * size)
    assert window.store.settings.text_size == size
    rail = window.rail
    for button in rail.findChildren(QAbstractButton):
        assert button.fontMetrics().horizontalAdvance(button.text()) <= button.width()


def test_the_ring_goes_when_what_it_was_around_is_gone(window: MainWindow, qtbot: QtBot) -> None:
    window.show_stage(1)
    window.activateWindow()
    qtbot.waitUntil(lambda: bool(window.plan_page.reasons.offers()), timeout=20_000)
    offers = [one for one in window.plan_page.reasons.findChildren(QPushButton) if one.objectName() == "offer"]
    offers[0].setFocus()
    qtbot.waitUntil(window.ring.isVisible)
    window.document.choose(3)
    window.document.choose(0)
    qtbot.wait(20)
    window.plan_page.plan_settings.school.setFocus()
    qtbot.waitUntil(window.ring.isVisible)
    window.plan_page.chart.setFocus()
    qtbot.waitUntil(lambda: not window.ring.isVisible())
