"""The document: the riff as typed, how it is to be planned, and the plan. It announces, widgets listen.

Plain Python without Qt, so that it can be tested without a window. While the text cannot be read, the last
good riff and its plan stay.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path

from dromic.app.document_changes import Cause, Change, Listener, PriceState
from dromic.app.document_file import Snapshot, contents, write_contents
from dromic.app.history import History
from dromic.app.selection import hardest_step, step_at
from dromic.errors import DromicError, NoPlanError, RiffError
from dromic.formats.project import PROJECT_SUFFIX, KeptPlan, Project
from dromic.formats.rifftext.edit import edited_text
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.reading import Reading
from dromic.formats.rifftext.writer import write_riff_text
from dromic.music import editing
from dromic.music.riff import Riff, with_bars_of
from dromic.planner.locking import decided, decided_in_full, with_alternative
from dromic.planner.plan import Plan
from dromic.planner.plan_settings import PlanSettings
from dromic.planner.ways import Alternative
from dromic.storage.reading import fingerprint
from dromic.storage.writing import same_file

STARTER = """title: First riff
instrument: guitar-6
tempo: 120
meter: 4/4

| 6:0/8 6:0 5:2 5:3 4:2 5:3 5:2 6:3 |
| E2/8 G2 A2 C3 B2/2 |
"""


@dataclass
class Document:
    """One riff, its settings and its plan.

    `reading` is the last text that could be read, `text_error` why the present text cannot be. `refusal` says why
    the riff as it is now has no plan. `revision` counts what the planner is asked for: a plan or a refusal of an
    earlier one is not taken. `cursor` is the event in reading order that is selected, one beyond the last to
    append, and `chosen` the step of the plan that stands for it, which reasons are shown for; `prices` tells what
    has become of the prices of the other ways. While it is being written, the cursor stays where the player has
    it, and does not go to the hardest note of a new plan. `on_disk` is the fingerprint of what is known to stand in
    the file.
    `kept` are plans the player wants to come back to, `notes` words of the player's own. `cause` tells, while
    listeners are told, why it happened.
    """

    text: str = ""
    path: Path | None = None
    reading: Reading | None = None
    text_error: RiffError | None = None
    refusal: DromicError | None = None
    revision: int = 0
    plan_settings: PlanSettings = field(default_factory=PlanSettings)
    kept: tuple[KeptPlan, ...] = ()
    notes: str = ""
    plan: Plan | None = None
    cursor: int = 0
    chosen: int | None = None
    prices: PriceState = PriceState.KNOWN
    writing: bool = False
    cause: Cause = Cause.OPENED
    history: History[Snapshot] = field(default_factory=History)
    on_disk: str | None = None
    _saved: Snapshot = field(default_factory=lambda: Snapshot("", PlanSettings()))
    _listeners: list[Listener] = field(default_factory=list)

    def listen(self, listener: Listener) -> None:
        """Call `listener` after every change."""
        self._listeners.append(listener)

    def forget(self, listener: Listener) -> None:
        """Call `listener` no more."""
        if listener in self._listeners:
            self._listeners.remove(listener)

    def _tell(self, change: Change, cause: Cause = Cause.PLAYER) -> None:
        before, self.cause = self.cause, cause
        try:
            for listener in list(self._listeners):
                listener(change)
        finally:
            self.cause = before

    @property
    def error(self) -> DromicError | None:
        """What is to be told: why the text cannot be read, else why the riff has no plan."""
        return self.text_error or self.refusal

    def _asks_anew(self) -> None:
        """What is asked of the planner has changed."""
        self.revision += 1
        self.refusal = None

    @property
    def changed(self) -> bool:
        """Whether there is something to save."""
        if self.path is not None and self.path.suffix == PROJECT_SUFFIX:
            return self.snapshot != self._saved
        now, saved = self.snapshot, self._saved
        return (now.text, now.kept, now.notes) != (saved.text, saved.kept, saved.notes)

    @property
    def snapshot(self) -> Snapshot:
        """Everything that undo brings back, as it is now."""
        return Snapshot(self.text, self.plan_settings, self.kept, self.notes)

    @property
    def tempo(self) -> float:
        """Tempo to plan at, in quarter notes a minute."""
        if self.plan_settings.tempo is not None:
            return self.plan_settings.tempo
        return self.reading.riff.tempo if self.reading is not None else 120.0

    def set_text(self, text: str, words: str = "typing") -> None:
        """Take new text; a riff that can be read replaces the last one."""
        if text != self.text:
            self.history.record(self.snapshot, words, merge=words == "typing")
            self._take(text, Cause.PLAYER)

    def edit(self, riff: Riff, words: str) -> None:
        """Take a changed riff; its text changes only there. `words` say what undo would take back."""
        if self.reading is not None and self.text_error is None:
            text, reading = edited_text(self.text, self.reading, riff)
        else:
            text, reading = write_riff_text(riff), None
        if text != self.text:
            self.history.record(self.snapshot, words, merge=False)
            self._take(text, Cause.PLAYER, reading)

    def _take(self, text: str, cause: Cause, reading: Reading | None = None) -> None:
        """Take a text; `reading` is what it reads as, where that is known."""
        self.text = text
        old = self.reading.riff if self.reading is not None else None
        try:
            read = reading or read_riff_text(text)
            self.reading = read if old is None or reading else replace(read, riff=with_bars_of(read.riff, old))
            self.text_error = None
        except RiffError as error:
            self.text_error = error
        changed = self.text_error is None and self.reading is not None and self.reading.riff != old
        if changed:
            self._asks_anew()
        self._tell(Change.TEXT, cause)
        if changed:
            self._tell(Change.RIFF, cause)

    def undo(self) -> None:
        """Go back one change."""
        self._restore(self.history.undo(self.snapshot))

    def redo(self) -> None:
        """Make the change again that was undone last."""
        self._restore(self.history.redo(self.snapshot))

    def _restore(self, snapshot: Snapshot | None) -> None:
        if snapshot is None:
            return
        if snapshot.plan_settings != self.plan_settings:
            self.plan_settings = snapshot.plan_settings
            self._asks_anew()
            self._tell(Change.PLAN_SETTINGS, Cause.UNDO)
        self.kept, self.notes = snapshot.kept, snapshot.notes
        if snapshot.text != self.text:
            self._take(snapshot.text, Cause.UNDO)
        self._tell(Change.FILE, Cause.UNDO)

    # -- the player's decisions ----------------------------------------------------------------------------

    def decide(self, step: int, other: Alternative) -> None:
        """Lock another way of playing a note; the plan follows.

        Raises
        ------
        DromicError
            When it cannot be written down, or the text cannot be read just now.
        """
        self.edit(with_alternative(self._current_plan(), step, other), f"locking {other.words}")

    def keep(self, step: int) -> None:
        """Lock a note as the plan has it: stroke, finger and hand."""
        plan = self._current_plan()
        written = plan.task.steps[step].moment.event_index
        self.edit(editing.change(plan.riff, written, lambda _: decided(plan, step)), "locking a note")

    def unlock(self, step: int) -> None:
        """Unlock a note."""
        plan = self._current_plan()
        written = plan.task.steps[step].moment.event_index
        self.edit(editing.without_locks_at(plan.riff, written), "unlocking a note")

    def clear_locks(self) -> None:
        """Clear all locks."""
        if self.reading is not None and self.text_error is None:
            self.edit(editing.without_locks(self.reading.riff), "clearing all locks")

    @property
    def current_riff(self) -> Riff:
        """The riff as it is written now.

        Raises
        ------
        RiffError
            While the text cannot be read.
        """
        if self.reading is None or self.text_error is not None:
            raise RiffError("the riff's text cannot be read just now; correct it first (F8 goes there)")
        return self.reading.riff

    def _current_plan(self) -> Plan:
        plan, reading = self.plan, self.reading
        if plan is None or reading is None or self.text_error is not None:
            raise RiffError("the riff's text cannot be read just now; correct it first (F8 goes there)")
        if not plan.riff.plays_like(reading.riff):
            raise NoPlanError("the plan is not up to date yet; wait a moment, or correct what keeps it from coming")
        return replace(plan, riff=reading.riff)

    def start(self, text: str, *, path: Path | None = None, plan_settings: PlanSettings | None = None) -> None:
        """Begin with another riff, forgetting the last one and its plan.

        Parameters
        ----------
        text : str
        path : Path or None
            None where it is not saved anywhere.
        plan_settings : PlanSettings or None
        """
        old = self.plan_settings
        self._begin(
            Snapshot(text, plan_settings or PlanSettings(old.school, old.objective, old.hands, own=old.own)), path
        )

    def _begin(self, new: Snapshot, path: Path | None) -> None:
        self.path, self.on_disk = path, None
        self.text, self.reading, self.text_error, self.plan, self.chosen = "", None, None, None, None
        self.cursor = 0
        self._asks_anew()
        self.prices = PriceState.KNOWN
        self.plan_settings, self.kept, self.notes = new.plan_settings, new.kept, new.notes
        self._saved = new
        self._tell(Change.PLAN_SETTINGS, Cause.OPENED)
        self._tell(Change.PLAN, Cause.OPENED)
        self._take(new.text, Cause.OPENED)
        self.history.clear()
        self._tell(Change.FILE, Cause.OPENED)

    def open(self, path: Path) -> None:
        """Open a riff or a project.

        Raises
        ------
        RiffError
            When it cannot be read or holds no riff; the document is then as it was.
        """
        old = self.plan_settings
        found = contents(path, PlanSettings(old.school, old.objective, old.hands, own=old.own))
        self._begin(found.snapshot, path)
        self.on_disk = found.fingerprint

    @property
    def changed_on_disk(self) -> bool:
        """Whether another program has written to the file since."""
        known = self.on_disk
        return self.path is not None and known is not None and fingerprint(self.path) not in (known, None)

    def keep_mine(self) -> None:
        """Know what another program has written to the file, and go on; saving writes over it."""
        if self.path is not None:
            self.on_disk = fingerprint(self.path)

    def take_theirs(self) -> None:
        """Take what another program has written to the file; one step to undo.

        Raises
        ------
        RiffError
            When it cannot be read.
        """
        if self.path is None:
            return
        found = contents(self.path, self.plan_settings)
        self.history.record(self.snapshot, "reloading the file", merge=False)
        new = found.snapshot
        self.plan_settings, self.kept, self.notes = new.plan_settings, new.kept, new.notes
        self._asks_anew()
        self._tell(Change.PLAN_SETTINGS)
        self._take(new.text, Cause.PLAYER)
        self.on_disk, self._saved = found.fingerprint, self.snapshot
        self._tell(Change.FILE)

    def save(self, path: Path) -> None:
        """Write the text as it stands, even when it cannot be read yet; as a project, with all that belongs to it.

        Raises
        ------
        ChangedOnDiskError
            When another program has written to the file since.
        RiffError
            When the file cannot be written.
        """
        known = self.on_disk if self.path is not None and same_file(path, self.path) else None
        self.on_disk = write_contents(self.project, path, known)
        self.path, self._saved = path, self.snapshot
        self._tell(Change.FILE)

    @property
    def project(self) -> Project:
        """Everything that a project file holds."""
        return Project(self.text, self.plan_settings, self.kept, self.notes)

    def recover(self, project: Project, path: Path | None, known: str | None = None) -> None:
        """Take up what an earlier start left unsaved; it still is not saved.

        Parameters
        ----------
        project : Project
        path : Path or None
            None where it is not saved anywhere.
        known : str or None
        """
        self.start("", path=path)
        self.on_disk = known
        self.history.record(self.snapshot, "recovering", merge=False)
        self.plan_settings, self.kept, self.notes = project.plan_settings, project.kept, project.notes
        self._asks_anew()
        self._tell(Change.PLAN_SETTINGS, Cause.OPENED)
        self._take(project.text, Cause.OPENED)
        self._tell(Change.KEPT, Cause.OPENED)

    def note(self, notes: str) -> None:
        """Take words of the player's own."""
        if notes != self.notes:
            self.history.record(self.snapshot, "writing notes", merge=True)
            self.notes = notes
            self._tell(Change.KEPT)

    def keep_plan(self, name: str) -> None:
        """Keep the present plan under a name, to come back to; one of the same name gives way.

        Raises
        ------
        DromicError
            When there is no plan of the present text.
        """
        plan = self._current_plan()
        text = write_riff_text(decided_in_full(plan))
        one = KeptPlan(name, text, self.plan_settings, plan.cost, plan.ceiling)
        self._keep_all((*(other for other in self.kept if other.name != name), one), "saving a plan")

    def drop_plan(self, name: str) -> None:
        """Forget a saved plan."""
        self._keep_all(tuple(one for one in self.kept if one.name != name), "deleting a saved plan")

    def _keep_all(self, kept: tuple[KeptPlan, ...], words: str) -> None:
        self.history.record(self.snapshot, words, merge=False)
        self.kept = kept
        self._tell(Change.KEPT)

    def take_up(self, name: str) -> None:
        """Go back to a saved plan: its riff with everything decided, and its settings."""
        one = next(one for one in self.kept if one.name == name)
        self.history.record(self.snapshot, "going back to a saved plan", merge=False)
        self.plan_settings = (
            one.plan_settings
            if one.plan_settings.own is not None
            else replace(one.plan_settings, own=self.plan_settings.own)
        )
        self._asks_anew()
        self._tell(Change.PLAN_SETTINGS, Cause.OPENED)
        self._take(one.text, Cause.PLAYER)

    def set_plan_settings(self, plan_settings: PlanSettings) -> None:
        """Plan another way."""
        if plan_settings != self.plan_settings:
            only_tempo = replace(plan_settings, tempo=self.plan_settings.tempo) == self.plan_settings
            words = "changing the tempo" if only_tempo else "changing the plan settings"
            self.history.record(self.snapshot, words, merge=only_tempo)
            self.plan_settings = plan_settings
            self._asks_anew()
            self._tell(Change.PLAN_SETTINGS, Cause.PLAYER)

    def planned(self, plan: Plan, revision: int, prices: PriceState = PriceState.KNOWN) -> None:
        """Take the planner's answer; the chosen note stays chosen while the riff has it.

        Parameters
        ----------
        plan : Plan
        revision : int
            What it is the answer to; one that is overtaken is not taken.
        prices : PriceState
        """
        if revision != self.revision:
            return
        self.plan, self.prices, self.refusal = plan, prices, None
        if self.chosen is None and self.history.undo_words is None and not self.writing:
            self.chosen = hardest_step(plan)
            self.cursor = plan.task.steps[self.chosen].moment.event_index
        else:
            self.chosen = step_at(plan, self.cursor, self.chosen)
        self._tell(Change.PLAN, Cause.PLANNED)

    def failed(self, error: DromicError, revision: int) -> None:
        """Take the planner's refusal; the last plan stays on the chart."""
        if revision != self.revision:
            return
        self.refusal = error
        if self.prices is PriceState.COMING:
            # The prices of the last plan were cancelled for a riff that has none.
            self.prices = PriceState.CANCELLED
            self._tell(Change.PLAN, Cause.PLANNED)
        self._tell(Change.TEXT, Cause.PLANNED)

    def choose(self, step: int) -> None:
        """Select a note of the plan."""
        plan = self.plan
        if step != self.chosen and plan is not None:
            self.chosen = step
            self.cursor = plan.task.steps[step].moment.event_index
            self._tell(Change.CHOICE, Cause.PLAYER)

    def select(self, event_index: int) -> None:
        """Select an event of the riff as written; of a phrase that repeats, in the pass that is chosen."""
        if event_index != self.cursor:
            self.cursor = event_index
            if self.plan is not None:
                self.chosen = step_at(self.plan, event_index, self.chosen)
            self._tell(Change.CHOICE, Cause.PLAYER)
