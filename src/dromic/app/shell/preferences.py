"""How the player wants the window: kept from start to start, and brought to every part that follows it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QSignalBlocker

from dromic.app.chart.view import ChartView
from dromic.app.plan.plan_page import PlanPage
from dromic.app.riff.riff_page import RiffPage
from dromic.app.settings import Settings, Store
from dromic.app.shell.hints import HintBar
from dromic.app.theme import LIGHT, THEMES, Theme

LARGEST = 2.0


class Preferences:
    """The settings of a window in force.

    Parameters
    ----------
    store : Store
        Where they are kept.
    plan_page : PlanPage
    riff_page : RiffPage
        Whose first steps show until they have been read.
    hints : HintBar
        As the first steps.
    remember : callable
        Changes the settings that are kept.
    set_theme : callable
    """

    def __init__(
        self,
        store: Store,
        plan_page: PlanPage,
        riff_page: RiffPage,
        hints: HintBar,
        remember: Callable[..., None],
        set_theme: Callable[[Theme], None],
    ) -> None:
        self._store, self._plan_page, self._riff_page, self._hints = store, plan_page, riff_page, hints
        self._charts: list[ChartView] = []
        self._remember, self._set_theme = remember, set_theme
        transport = plan_page.transport
        for name, box in (("click", transport.click), ("count_in", transport.count_in), ("around", transport.loop)):
            box.toggled.connect(lambda on, name=name: self.prefer(**{name: on}))
        self.apply()

    @property
    def settings(self) -> Settings:
        """What is in force."""
        return self._store.settings

    def prefer(self, **changes: object) -> None:
        """Change settings: kept, and seen at once."""
        self._remember(**changes)
        if "theme" in changes or "text_size" in changes:
            self._set_theme(THEMES.get(self.settings.theme, LIGHT))
        self.apply()

    def toggle(self, name: str) -> None:
        """Turn a setting on or off."""
        self.prefer(**{name: not getattr(self.settings, name)})

    def turn(self, *charts: ChartView) -> None:
        """Turn further charts as the first."""
        self._charts += charts
        for chart in charts:
            chart.set_view(self.settings.text_size, **self._turned)

    @property
    def _turned(self) -> dict[str, bool]:
        return {"thick_on_top": self.settings.thick_on_top, "nut_below": not self.settings.left_handed}

    def apply(self) -> None:
        """Bring the settings to all parts."""
        page, settings, turned = self._plan_page, self.settings, self._turned
        # What is written in a chart grows with all other text.
        size = min(settings.chart_size * settings.text_size, LARGEST)
        page.chart.set_view(size, **turned, mutes=settings.mutes, harmony=settings.harmony)
        for chart in self._charts:
            chart.set_view(settings.text_size, **turned)
        page.neck.set_view(thick_on_top=settings.thick_on_top, left_handed=settings.left_handed, size=size)
        page.want_neck(settings.neck)
        self._riff_page.want_neck(settings.neck)
        self._riff_page.neck.set_view(thick_on_top=settings.thick_on_top, left_handed=settings.left_handed)
        self._riff_page.want_first_steps(not settings.welcomed)
        self._hints.set_read(settings.hints_read)
        transport = page.transport
        for on, box in (
            (settings.click, transport.click),
            (settings.count_in, transport.count_in),
            (settings.around, transport.loop),
        ):
            blocker = QSignalBlocker(box)
            box.setChecked(on)
            del blocker
