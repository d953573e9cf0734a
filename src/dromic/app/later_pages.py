"""The stages that are made when they first show, each joined to the window it stands in."""

from __future__ import annotations

from typing import TYPE_CHECKING

from dromic.app.shell.later import Later
from dromic.app.shell.menus import STAGES
from dromic.app.theme import Theme

if TYPE_CHECKING:
    from dromic.app.compare.compare_page import ComparePage
    from dromic.app.hands.hands_page import HandsPage
    from dromic.app.listen.listen_page import ListenPage
    from dromic.app.log.log_page import LogPage
    from dromic.app.practice.practice_page import PracticePage
    from dromic.app.window import MainWindow


class LaterPages:
    """Compare, Practice, Listen, Log and Hands.

    Parameters
    ----------
    window : MainWindow
        With its document, log and settings.
    """

    def __init__(self, window: MainWindow) -> None:
        self._window, theme = window, window.theme
        self.compare = Later(self._compare, theme)
        self.practice = Later(self._practice, theme, scrolls=True)
        self.listen = Later(self._listen, theme, scrolls=True)
        self.log = Later(self._log, theme, scrolls=True)
        self.hands = Later(self._hands, theme)

    def _compare(self, theme: Theme) -> ComparePage:
        from dromic.app.compare.compare_page import ComparePage

        window = self._window
        page = ComparePage(window.document, theme)
        page.message.connect(window.say)
        page.adopted.connect(lambda: window.show_stage(STAGES.index("Plan")))
        return page

    def _practice(self, theme: Theme) -> PracticePage:
        from dromic.app.practice.practice_page import PracticePage

        window = self._window
        page = PracticePage(window.document, theme, window.log, window.riffs)
        page.message.connect(window.say)
        page.riff_wanted.connect(window.open_drill)
        page.preferred.connect(lambda changes: window.remember(**changes))
        page.take(window.store.settings)
        window.preferences.turn(*page.charts)
        return page

    def _listen(self, theme: Theme) -> ListenPage:
        from dromic.app.listen.listen_page import ListenPage

        window = self._window
        page = ListenPage(window.document, theme, window.log)
        page.message.connect(window.say)
        page.drill_wanted.connect(window.drill)
        window.preferences.turn(page.chart)
        return page

    def _log(self, theme: Theme) -> LogPage:
        from dromic.app.log.log_page import LogPage

        window = self._window
        page = LogPage(window.document, theme, window.log)
        page.message.connect(window.say)
        page.hands_wanted.connect(window.take_hands)
        window.preferences.turn(page.chart)
        return page

    def _hands(self, theme: Theme) -> HandsPage:
        from dromic.app.hands.hands_page import HandsPage

        page = HandsPage(self._window.document)
        page.message.connect(self._window.say)
        return page

    def left(self) -> None:
        """Another stage shows: what is played pauses."""
        if self.compare.made is not None:
            self.compare.made.in_turn.stop()
        for page in (self.practice.made, self.listen.made):
            if page is not None:
                page.left()

    def cancel(self) -> None:
        """Stop whatever is being worked out."""
        if self.compare.made is not None:
            self.compare.made.comparer.cancel()
        if self.hands.made is not None:
            self.hands.made.effects_jobs.cancel()
        for page in (self.practice.made, self.listen.made):
            if page is not None:
                page.cancel()

    def stop(self) -> None:
        """Stop, and wait until no thread is left."""
        for page in (self.compare.made, self.hands.made, self.practice.made, self.listen.made, self.log.made):
            if page is not None:
                page.stop()
