"""The document: the riff as typed, how it is to be planned, and the plan. It announces, widgets listen.

Plain Python without Qt, so that it can be tested without a window. While the text cannot be read, the last
good riff and its plan stay.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from enum import Enum, auto
from pathlib import Path

from dromic.errors import DromicError, RiffError
from dromic.formats.files import read_text, write_text
from dromic.formats.rifftext_reader import Reading, read_riff_text
from dromic.hands.profile import hands_named
from dromic.planner.plan import Plan
from dromic.planner.planning import Request
from dromic.schools.registry import DEFAULT_SCHOOL, school_named

PRICED_ALTERNATIVES = 12

STARTER = """title: First riff
instrument: guitar-6
tempo: 120
meter: 4/4

| 6:0/8 6:0 5:2 5:3 4:2 5:3 5:2 6:3 |
| E2/8 G2 A2 C3 B2/2 |
"""


class Change(Enum):
    """What has changed."""

    TEXT = auto()
    RIFF = auto()
    WISHES = auto()
    PLAN = auto()
    CHOICE = auto()
    FILE = auto()


Listener = Callable[[Change], None]


@dataclass(frozen=True)
class Wishes:
    """How the riff is to be planned; `tempo` is None for the riff's own."""

    school: str = DEFAULT_SCHOOL
    objective: str = "effort"
    hands: str = "medium"
    tempo: float | None = None

    def request(self) -> Request:
        """Return what the planner is asked."""
        return Request(
            hands_named(self.hands),
            school_named(self.school),
            objective=self.objective,
            tempo=self.tempo,
            alternatives=PRICED_ALTERNATIVES,
        )


@dataclass
class Document:
    """One riff, its wishes and its plan.

    `reading` is the last text that could be read; `error` says why the present text cannot be, or why there
    is no plan. `chosen` is the step that reasons are shown for.
    """

    text: str = ""
    path: Path | None = None
    reading: Reading | None = None
    error: DromicError | None = None
    wishes: Wishes = field(default_factory=Wishes)
    plan: Plan | None = None
    chosen: int | None = None
    _saved: str = ""
    _listeners: list[Listener] = field(default_factory=list)

    def listen(self, listener: Listener) -> None:
        """Call `listener` after every change."""
        self._listeners.append(listener)

    def _tell(self, change: Change) -> None:
        for listener in list(self._listeners):
            listener(change)

    @property
    def changed(self) -> bool:
        """Whether there is something to save."""
        return self.text != self._saved

    @property
    def tempo(self) -> float:
        """Tempo to plan at, in quarter notes a minute."""
        if self.wishes.tempo is not None:
            return self.wishes.tempo
        return self.reading.riff.tempo if self.reading is not None else 120.0

    def set_text(self, text: str) -> None:
        """Take new text; a riff that can be read replaces the last one."""
        if text == self.text:
            return
        self.text = text
        old = self.reading.riff if self.reading is not None else None
        try:
            self.reading = read_riff_text(text)
            self.error = None
        except RiffError as error:
            self.error = error
        self._tell(Change.TEXT)
        if self.error is None and self.reading is not None and self.reading.riff != old:
            self._tell(Change.RIFF)

    def start(self, text: str, *, path: Path | None = None, wishes: Wishes | None = None) -> None:
        """Begin with another riff, forgetting the last one and its plan."""
        self.path, self._saved = path, text
        self.text, self.reading, self.error, self.plan, self.chosen = "", None, None, None, None
        self.wishes = wishes or Wishes(self.wishes.school, self.wishes.objective, self.wishes.hands)
        self._tell(Change.WISHES)
        self._tell(Change.PLAN)
        self.set_text(text)
        self._tell(Change.FILE)

    def open(self, path: Path) -> None:
        """Open a file.

        Raises
        ------
        RiffError
            When it cannot be read as text or holds no riff; the document is then as it was.
        """
        text = read_text(path)
        try:
            read_riff_text(text)
        except RiffError as error:
            raise error.in_file(path.name) from None
        self.start(text, path=path)

    def save(self, path: Path) -> None:
        """Write the text as it stands, even when it cannot be read yet.

        Raises
        ------
        RiffError
            When the file cannot be written.
        """
        write_text(self.text, path)
        self.path, self._saved = path, self.text
        self._tell(Change.FILE)

    def wish(self, wishes: Wishes) -> None:
        """Plan another way."""
        if wishes != self.wishes:
            self.wishes = wishes
            self._tell(Change.WISHES)

    def planned(self, plan: Plan) -> None:
        """Take the planner's answer; the chosen note stays chosen while the riff has it."""
        self.plan = plan
        if not isinstance(self.error, RiffError):
            self.error = None
        if self.chosen is None or self.chosen >= len(plan.task.steps):
            self.chosen = _hardest(plan)
        self._tell(Change.PLAN)

    def failed(self, error: DromicError) -> None:
        """Take the planner's refusal; the last plan stays on the chart."""
        self.error = error
        self._tell(Change.TEXT)

    def choose(self, step: int | None) -> None:
        """Choose a note."""
        if step != self.chosen:
            self.chosen = step
            self._tell(Change.CHOICE)


def _hardest(plan: Plan) -> int:
    """Return the step where the plan is held back most, which is what a player asks about first."""
    if not plan.limits:
        return 0
    event = plan.events[plan.limits[0].end]
    return event.step if event.step is not None else 0
