"""How the player wants the window: kept from start to start, and brought to every part that follows it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QSignalBlocker

from dromic.app.settings import Settings
from dromic.app.theme import LIGHT, THEMES

if TYPE_CHECKING:
    from dromic.app.window import MainWindow


class Preferences:
    """The settings of a window in force.

    Parameters
    ----------
    window : MainWindow
        Its parts must be there already.
    """

    def __init__(self, window: MainWindow) -> None:
        self._window = window
        transport = window.plan_page.transport
        for name, box in (("click", transport.click), ("count_in", transport.count_in), ("around", transport.loop)):
            box.toggled.connect(lambda on, name=name: self.prefer(**{name: on}))
        self.apply()

    @property
    def settings(self) -> Settings:
        """What is in force."""
        return self._window.store.settings

    def prefer(self, **changes: object) -> None:
        """Change settings: kept, and seen at once."""
        self._window.remember(**changes)
        if "theme" in changes:
            self._window.set_theme(THEMES.get(self.settings.theme, LIGHT))
        self.apply()

    def toggle(self, name: str) -> None:
        """Turn a setting on or off."""
        self.prefer(**{name: not getattr(self.settings, name)})

    def apply(self) -> None:
        """Bring the settings to all parts."""
        window, settings = self._window, self.settings
        page = window.plan_page
        page.chart.set_view(
            settings.chart_size,
            thick_on_top=settings.thick_on_top,
            nut_below=not settings.left_handed,
            mutes=settings.mutes,
        )
        page.neck.set_view(
            thick_on_top=settings.thick_on_top, left_handed=settings.left_handed, size=settings.chart_size
        )
        page.want_neck(settings.neck)
        window.riff_page.welcome.setVisible(not settings.welcomed)
        transport = page.transport
        for on, box in (
            (settings.click, transport.click),
            (settings.count_in, transport.count_in),
            (settings.around, transport.loop),
        ):
            blocker = QSignalBlocker(box)
            box.setChecked(on)
            del blocker
