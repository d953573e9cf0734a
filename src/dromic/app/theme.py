"""Colours and type of the window: warm paper and ink, by day and by night.

Load is calm, warm or hot, never by string; the three differ in lightness as well as in hue, and every place
that shows them shows the load in another way too (height, outline, words).
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from PyQt6.QtGui import QColor, QPalette

from dromic.app.heat import heat

UI_FONT = "Cabin"
TEXT_FONT = "Inconsolata"
HEATS = "calm", "warm", "hot"


@dataclass(frozen=True)
class Theme:
    """Colours by what they are for, as hexadecimal text."""

    name: str
    paper: str
    sheet: str
    ink: str
    quiet: str
    faint: str
    rail: str
    rail_ink: str
    rail_on: str
    accent: str
    calm: str
    warm: str
    hot: str
    ribbon: str
    chosen: str
    string: str
    error_sheet: str

    def color(self, name: str, alpha: int = 255) -> QColor:
        """Return a colour by its field name; it is shared, so copy it before changing it."""
        return _color(getattr(self, name), alpha)

    def load(self, load: float) -> QColor:
        """Colour of a load: calm, warm near the limit, hot beyond it."""
        return self.color(HEATS[heat(load)])


@lru_cache(maxsize=256)
def _color(name: str, alpha: int) -> QColor:
    color = QColor(name)
    color.setAlpha(alpha)
    return color


LIGHT = Theme(
    name="light",
    paper="#f4efe4",
    sheet="#fffdf7",
    ink="#26241f",
    quiet="#6b665b",
    faint="#ddd5c4",
    rail="#3a342b",
    rail_ink="#d8cfbe",
    rail_on="#544a3b",
    accent="#9a5b13",
    calm="#33616b",
    warm="#b8780a",
    hot="#a92c22",
    ribbon="#d9e3df",
    chosen="#f3e3c3",
    string="#8a8272",
    error_sheet="#fbe9e2",
)

DARK = Theme(
    name="dark",
    paper="#1f1d1a",
    sheet="#282622",
    ink="#ece6da",
    quiet="#aaa294",
    faint="#423e37",
    rail="#161412",
    rail_ink="#b9b0a0",
    rail_on="#37322a",
    accent="#e0a24a",
    calm="#7fb4bd",
    warm="#e3b04b",
    hot="#f0806f",
    ribbon="#34403f",
    chosen="#453b29",
    string="#8d8576",
    error_sheet="#4a2d28",
)

THEMES = {theme.name: theme for theme in (LIGHT, DARK)}


def style_sheet(theme: Theme, text_size: float = 1.0) -> str:
    """Return the window's style sheet, its text so many times as large as usual."""

    def scaled(found: re.Match[str]) -> str:
        return f"font-size: {round(int(found[1]) * text_size)}px"

    return re.sub(r"font-size: (\d+)px", scaled, _plain_sheet(theme))


def _plain_sheet(theme: Theme) -> str:
    return f"""
    QWidget {{ color: {theme.ink}; font-family: "{UI_FONT}"; font-size: 14px; }}
    QMainWindow, QDialog, QMessageBox {{ background: {theme.paper}; }}
    QWidget#page {{ background: {theme.paper}; }}
    QWidget#rail, QScrollArea#railroom {{ background: {theme.rail}; border: none; }}
    QWidget#rail QLabel {{ color: {theme.rail_ink}; }}
    QLabel#name {{ color: {theme.rail_ink}; font-size: 19px; font-weight: 600; padding: 14px 0 10px 0; }}
    QToolButton#stage {{
        color: {theme.rail_ink}; background: transparent; border: none; border-radius: 0;
        border-left: 4px solid transparent; padding: 14px 6px; font-size: 15px; text-align: center;
    }}
    QToolButton#stage:hover {{ background: {theme.rail_on}; }}
    QToolButton#stage:checked {{
        background: {theme.rail_on}; border-left: 4px solid {theme.accent}; color: #fffaf0; font-weight: 600;
    }}
    QToolButton#stage:focus {{ border: 1px dotted {theme.rail_ink}; border-left: 4px solid {theme.accent}; }}
    QLabel#title {{ font-size: 23px; font-weight: 600; }}
    QLabel#quiet, QLabel#section {{ color: {theme.quiet}; font-size: 13px; }}
    QLabel#section {{ padding-top: 10px; }}
    QLabel#figure {{ font-size: 23px; font-weight: 600; }}
    QLabel#figure[over="true"] {{ color: {theme.hot}; }}
    QLabel#limit {{ font-size: 14px; }}
    QLabel#huge {{ font-size: 128px; font-weight: 600; }}
    QPushButton#start {{
        background: {theme.accent}; color: {theme.sheet}; border: none; border-radius: 6px; padding: 9px 34px;
        font-size: 18px; font-weight: 600;
    }}
    QPushButton#start:disabled {{ background: {theme.faint}; color: {theme.quiet}; }}
    QPushButton#start:focus {{ border: 3px solid {theme.ink}; padding: 6px 31px; }}
    QPushButton#answer {{ font-size: 17px; font-weight: 600; padding: 9px 18px; }}
    QFrame#card {{ background: {theme.sheet}; border: 1px solid {theme.faint}; border-radius: 6px; }}
    QFrame#card QLabel {{ background: transparent; }}
    QLabel#finding {{ font-size: 17px; font-weight: 600; }}
    QLabel#heading {{ font-size: 19px; font-weight: 600; }}
    QLabel#caution {{ background: {theme.chosen}; border-radius: 5px; padding: 7px; }}
    QLabel#message {{ background: {theme.error_sheet}; border-left: 4px solid {theme.hot}; padding: 8px; }}
    QLabel#message[good="true"] {{
        background: transparent; border-left: 4px solid {theme.calm}; color: {theme.quiet};
    }}
    QFrame#drill {{ background: {theme.chosen}; border-radius: 6px; }}
    QLabel#strong {{ font-size: 15px; font-weight: 600; }}
    QLabel#locked {{ color: {theme.accent}; font-size: 14px; font-weight: 600; }}
    QLabel#sign {{ font-family: "{TEXT_FONT}"; font-size: 14px; }}
    QLabel#key {{
        color: {theme.quiet}; border: 1px solid {theme.faint}; border-radius: 3px; font-size: 12px;
    }}
    QPushButton#offer {{
        background: transparent; border: 1px solid transparent; border-radius: 5px; text-align: left;
    }}
    QPushButton#offer:hover {{ background: {theme.chosen}; }}
    QPushButton#offer:focus {{ border: 1px solid {theme.accent}; background: {theme.chosen}; }}
    QToolButton#fold {{ border: none; border-radius: 4px; background: transparent; color: {theme.quiet};
        font-size: 16px; padding: 0; }}
    QToolButton#fold:hover, QToolButton#fold:focus {{ background: {theme.chosen}; color: {theme.ink}; }}
    QToolButton#view {{
        background: transparent; border: none; border-bottom: 3px solid transparent; padding: 2px 12px 4px 12px;
        font-size: 15px; color: {theme.quiet};
    }}
    QToolButton#view:hover {{ color: {theme.ink}; }}
    QToolButton#view:checked {{ color: {theme.ink}; font-weight: 600; border-bottom: 3px solid {theme.accent}; }}
    QToolButton#view:focus {{ border: 1px dotted {theme.quiet}; border-bottom: 3px solid {theme.accent}; }}
    QTabWidget#side::pane {{ border: none; }}
    QTabWidget#side QTabBar::tab {{
        background: transparent; padding: 4px 12px; color: {theme.quiet}; border: none;
        border-bottom: 3px solid transparent; font-size: 15px;
    }}
    QTabWidget#side QTabBar::tab:selected {{ color: {theme.ink}; border-bottom: 3px solid {theme.accent}; }}
    QTabWidget#side QTabBar::tab:focus {{ border: 1px dotted {theme.quiet}; }}
    QListWidget#cards {{ background: transparent; border: none; }}
    QListWidget#cards::item {{ padding: 0; }}
    QFrame#line {{ background: {theme.faint}; max-height: 1px; border: none; }}
    QAbstractScrollArea {{ background: {theme.sheet}; border: 1px solid {theme.faint}; border-radius: 6px; }}
    QScrollArea#bare, QScrollArea#bare > QWidget > QWidget, QScrollArea#sliding,
    QScrollArea#sliding > QWidget#qt_scrollarea_viewport, QScrollArea#sliding > QWidget > QWidget#row {{
        background: transparent; border: none;
    }}
    QPlainTextEdit {{
        font-family: "{TEXT_FONT}"; font-size: 16px; selection-background-color: {theme.calm};
        selection-color: {theme.sheet}; padding: 6px;
    }}
    QPlainTextEdit:focus, QListWidget:focus, QTableView:focus {{ border: 1px solid {theme.accent}; }}
    QAbstractScrollArea#chart:focus, QAbstractScrollArea#board:focus {{ border: 1px solid {theme.accent}; }}
    QPushButton:disabled {{ color: {theme.string}; }}
    QListWidget {{ outline: none; }}
    QListWidget::item {{ padding: 7px 8px; }}
    QListWidget::item:selected {{ background: {theme.chosen}; color: {theme.ink}; }}
    QSlider::groove:horizontal {{ height: 4px; background: {theme.faint}; border-radius: 2px; }}
    QSlider::handle:horizontal {{
        width: 16px; height: 16px; margin: -6px 0; border-radius: 8px; background: {theme.accent};
    }}
    QSlider::handle:horizontal:focus {{ border: 2px solid {theme.ink}; }}
    QMenuBar, QMenu, QStatusBar {{ background: {theme.paper}; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {theme.chosen}; color: {theme.ink}; }}
    QMenu::item:disabled {{ color: {theme.quiet}; }}
    QToolTip {{ background: {theme.sheet}; color: {theme.ink}; border: 1px solid {theme.faint}; padding: 4px; }}
    QScrollBar:horizontal {{ height: 12px; background: transparent; }}
    QScrollBar:vertical {{ width: 12px; background: transparent; }}
    QScrollBar::handle {{
        background: {theme.faint}; border-radius: 5px; min-width: 30px; min-height: 30px; margin: 2px;
    }}
    QScrollBar::handle:hover {{ background: {theme.string}; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QProgressBar {{ border: none; background: {theme.faint}; max-height: 6px; border-radius: 3px; }}
    QProgressBar::chunk {{ background: {theme.accent}; border-radius: 3px; }}
    """


def palette(theme: Theme) -> QPalette:
    """Return the colours of everything that the style sheet leaves to the style."""
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, name in {
        roles.Window: "paper",
        roles.WindowText: "ink",
        roles.Base: "sheet",
        roles.AlternateBase: "paper",
        roles.Text: "ink",
        roles.Button: "paper",
        roles.ButtonText: "ink",
        roles.ToolTipBase: "sheet",
        roles.ToolTipText: "ink",
        roles.PlaceholderText: "quiet",
        roles.Highlight: "chosen",
        roles.HighlightedText: "ink",
        roles.Link: "accent",
    }.items():
        palette.setColor(role, theme.color(name))
    for role in (roles.WindowText, roles.Text, roles.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, theme.color("string"))
    return palette
