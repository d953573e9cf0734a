"""The stages, from top to bottom of the rail. Adding one is a page of its own, and an entry in this list.

A page is made when its stage first shows, and asks of the window only what `Shell` names.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

from dromic.app.chart.view import ChartView
from dromic.app.document import Document
from dromic.app.log.keeper import LogKeeper
from dromic.app.settings import Settings
from dromic.app.shell.later import Page
from dromic.app.theme import Theme
from dromic.demo.library import DemoRiff
from dromic.hands.profile import Hands
from dromic.music.riff import Riff
from dromic.practice.tempo.ladder import Range

Keys = tuple[tuple[str, str], ...]


class Shell(Protocol):
    """What a page may ask of the window that it stands in."""

    document: Document
    log: LogKeeper

    @property
    def riffs(self) -> Sequence[DemoRiff]:
        """The demo riffs."""

    @property
    def settings(self) -> Settings:
        """The settings in force."""

    def say(self, words: str) -> None:
        """Say something at the foot of the window."""

    def show_titled(self, title: str) -> None:
        """Show another stage."""

    def turn(self, *charts: ChartView) -> None:
        """Have charts follow how the player wants charts."""

    def remember(self, **changes: object) -> None:
        """Change the settings."""

    def open_drill(self, riff: Riff) -> None:
        """Open a riff that goes round."""

    def drill(self, chosen: Range, stumbles_at: float | None = None) -> None:
        """Practise a range of the plan at once."""

    def take_hands(self, hands: Hands) -> None:
        """Plan with other hands."""


@dataclass(frozen=True)
class Stage:
    """A stage of the window.

    Parameters
    ----------
    title : str
    hint : str
        What can be done there, in one line; empty for none.
    where : str
        Where its keys are, in the list of all keys.
    keys : tuple of (str, str)
        What they are, and what each does.
    make : callable or None
        Makes its page; None for those that the window has from the start.
    scrolls : bool
        Whether the page scrolls where there is little room.
    apart : bool
        Whether it is no step of the work, and stands apart.
    """

    title: str
    hint: str = ""
    where: str = ""
    keys: Keys = ()
    make: Callable[[Shell, Theme], Page] | None = None
    scrolls: bool = False
    apart: bool = False


def _compare(shell: Shell, theme: Theme) -> Page:
    from dromic.app.compare.compare_page import ComparePage

    page = ComparePage(shell.document, theme)
    page.message.connect(shell.say)
    page.adopted.connect(lambda: shell.show_titled("Plan"))
    return page


def _practice(shell: Shell, theme: Theme) -> Page:
    from dromic.app.practice.practice_page import PracticePage

    page = PracticePage(shell.document, theme, shell.log, shell.riffs)
    page.message.connect(shell.say)
    page.riff_wanted.connect(shell.open_drill)
    page.preferred.connect(lambda changes: shell.remember(**changes))
    page.take(shell.settings)
    shell.turn(*page.charts)
    return page


def _listen(shell: Shell, theme: Theme) -> Page:
    from dromic.app.listen.listen_page import ListenPage

    page = ListenPage(shell.document, theme, shell.log)
    page.message.connect(shell.say)
    page.drill_wanted.connect(shell.drill)
    shell.turn(page.chart)
    return page


def _log(shell: Shell, theme: Theme) -> Page:
    from dromic.app.log.log_page import LogPage

    page = LogPage(shell.document, theme, shell.log)
    page.message.connect(shell.say)
    page.hands_wanted.connect(shell.take_hands)
    shell.turn(page.chart)
    return page


def _hands(shell: Shell, _theme: Theme) -> Page:
    from dromic.app.hands.hands_page import HandsPage

    page = HandsPage(shell.document)
    page.message.connect(shell.say)
    return page


STAGES = (
    # It has its first steps in the place of a hint, and the keys of its board (`dromic.app.riff.board`).
    Stage("Riff"),
    Stage(
        "Plan",
        "Click a note to read why it is played so. 1 to 9 locks another way, Backspace lifts it, Space plays.",
        "on the chart",
        (
            ("Left, Right, Home, End", "walk from note to note"),
            ("Shift+arrows, Shift+click", "select a range"),
            ("1 to 9", "lock the first to the ninth alternative of the note"),
            ("K, Backspace", "lock the note as planned, unlock it"),
            ("Space", "play or stop"),
            ("D", "drill the range, or around the note"),
            ("+, −", "zoom in, zoom out"),
            ("Ctrl+wheel", "zoom around the pointer"),
        ),
    ),
    Stage(
        "Compare",
        "Click a row to read what a school asks of you. Space plays both plans in turn, Enter adopts one.",
        "on the Compare stage",
        (
            ("Space", "play the plan now and the selected one in turn, or stop"),
            ("Enter", "adopt the selected plan"),
        ),
        _compare,
    ),
    Stage(
        "Practice",
        "Press Start. Up says that a round was clean, Down that it was not; the next tempo follows.",
        "in a practice session",
        (
            ("Enter, S, W", "start the session; leave a block out; practise it in another way"),
            ("Up or C, Down or N", "the last repetition was clean, was not"),
            ("Space, S, W", "pause; go to the next block; practise it in another way"),
            ("1 to 5", "how tight the hands feel"),
            ("P, Esc", "something hurts, so end the session; end it"),
        ),
        _practice,
        scrolls=True,
    ),
    Stage(
        "Listen",
        "Example take shows what is heard in a recording, before you record your own.",
        "while listening to a take",
        (
            ("R, O, T, E", "record a take, or stop; open one; a ramp test; an example take"),
            ("N, P", "the next worst spot, the one before"),
            ("Space", "the passage at half speed: the plan, you, the plan; or stop"),
            ("D", "drill the passage"),
            ("L", "put the take into the practice log"),
        ),
        _listen,
        scrolls=True,
    ),
    Stage(
        "Log",
        "Every round that you judge in Practice is counted here, and every take that you put into the log.",
        make=_log,
        scrolls=True,
    ),
    Stage(
        "Hands",
        "Beside each answer stands what the others would change in the riff that is open.",
        make=_hands,
        apart=True,
    ),
)
TITLES = tuple(stage.title for stage in STAGES)
