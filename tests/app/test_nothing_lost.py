"""Whatever is done to files, windows and disks in any order: what was acknowledged can be found again.

Two windows work on the same files. A window is killed as a system kills it: its locks go, and nothing else is done.
Acknowledged is what a save or the keeping of an unsaved riff has not refused.
"""

from __future__ import annotations

import errno
import os
import shutil
import tempfile
from contextlib import suppress
from pathlib import Path
from unittest import mock

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule

from dromic.app.document import Document
from dromic.app.document_file import ChangedOnDiskError
from dromic.app.settings import Store
from dromic.errors import RiffError
from dromic.formats.project import read_project

NAMES = ("a.riff", "b.dromic")
windows = st.integers(0, 1)
names = st.sampled_from(NAMES)


class Window:
    """A document with what keeps it, as a window has them."""

    def __init__(self, home: Path) -> None:
        self.document, self.store = Document(), Store(home / "settings.json", home / "unsaved")
        self.kept: str | None = None

    def keep(self) -> None:
        """What the window does some seconds after a change."""
        document = self.document
        if not self.store.keep(document.project, document.path, document.on_disk):
            self.kept = document.text

    def die(self) -> None:
        """Let go what the system lets go of a process that is killed."""
        lock = self.store.recovery._lock
        if lock._handle is not None:
            os.close(lock._handle)
            lock._handle = None


class Work(RuleBasedStateMachine):
    """What players, other programs and the system do."""

    def __init__(self) -> None:
        super().__init__()
        self.home = Path(tempfile.mkdtemp(prefix="dromic-lost-"))
        self.windows = [Window(self.home), Window(self.home)]
        self.count = 0
        # What was acknowledged by files, and what a window or another program has put over it since.
        self.in_file: dict[str, str] = {}
        self.before: dict[str, str] = {}
        self.orphans: set[str] = set()

    def text(self) -> str:
        """A riff like no other."""
        self.count += 1
        return f"title: {self.count}\n| 6:{self.count % 20}/1 |\n"

    def teardown(self) -> None:
        for window in self.windows:
            window.die()
        shutil.rmtree(self.home)

    # -- what is done -------------------------------------------------------------------------------------------

    @rule(which=windows, keeps=st.booleans())
    def edit(self, which: int, keeps: bool) -> None:
        """Type, and perhaps wait until it is kept."""
        self.windows[which].document.set_text(self.text())
        if keeps:
            self.windows[which].keep()

    @rule(which=windows, name=names)
    def open(self, which: int, name: str) -> None:
        """Open a file where nothing would be lost by it, as the window asks first."""
        window = self.windows[which]
        if not window.document.changed and (self.home / name).exists():
            with suppress(RiffError):
                window.document.open(self.home / name)
                window.store.keep(None, None)
                window.kept = None

    @rule(which=windows, name=names, mine=st.booleans())
    def save(self, which: int, name: str, mine: bool) -> None:
        """Save, and where another program was there first, keep mine or take theirs."""
        window, path = self.windows[which], self.home / name
        document = window.document
        if not document.text:
            return
        old = self.in_file.get(name)
        try:
            document.save(path)
        except ChangedOnDiskError:
            if not mine:
                before = document.text
                try:
                    document.take_theirs()
                except RiffError:
                    return
                document.undo()
                assert document.text == before
                return
            document.keep_mine()
            document.save(path)
        if old is not None and old != document.text:
            self.before[name] = old
        self.in_file[name] = document.text
        window.store.keep(None, None)
        window.kept = None

    @rule(name=st.just("a.riff"))
    def another_program(self, name: str) -> None:
        """Another program writes over a file, as it always could."""
        self.before.pop(name, None)
        self.in_file[name] = self.text()
        (self.home / name).write_text(self.in_file[name])

    @rule(which=windows)
    def kill(self, which: int) -> None:
        """End a window without a word."""
        window = self.windows[which]
        window.die()
        if window.kept is not None:
            self.orphans.add(window.kept)
        self.windows[which] = Window(self.home)

    @rule(which=windows, full=st.booleans())
    def recover(self, which: int, full: bool) -> None:
        """Take up what was left, perhaps with a disk that is full."""
        window = self.windows[which]
        left = window.store.recovery.left()
        if not left or window.document.changed:
            return
        one = left[-1]
        with mock.patch("dromic.storage.writing.os.write", side_effect=_full if full else os.write):
            window.document.recover(one.project, one.path, one.known)
            if not window.store.take_up(one):
                self.orphans.discard(one.project.text)
                window.kept = one.project.text

    @rule(which=windows, name=names)
    def save_on_a_full_disk(self, which: int, name: str) -> None:
        """Nothing may change but the message."""
        document = self.windows[which].document
        if not document.text:
            return
        with mock.patch("dromic.storage.writing.os.write", side_effect=_full):
            try:
                document.save(self.home / name)
            except RiffError:
                return
        raise AssertionError("a full disk was written to")

    @rule(which=windows, name=names)
    def save_over_a_read_only_file(self, which: int, name: str) -> None:
        """Read-only is refused, also where the system would let it through."""
        path, document = self.home / name, self.windows[which].document
        if not path.exists() or not document.text:
            return
        path.chmod(0o444)
        try:
            document.save(path)
        except RiffError:
            return
        finally:
            path.chmod(0o644)
        raise AssertionError("a read-only file was written to")

    # -- what must hold -----------------------------------------------------------------------------------------

    @invariant()
    def files_hold_what_they_acknowledged(self) -> None:
        """Each file holds the last thing written to it, and its backup what was there before that."""
        for name, text in self.in_file.items():
            assert _text_in(self.home / name) == text
        for name, text in self.before.items():
            backup = self.home / f"{name}.bak"
            assert _text_in(backup, project=name.endswith(".dromic")) == text

    @invariant()
    def what_was_kept_is_there(self) -> None:
        """What a living or a dead window has kept can be taken up."""
        kept = {window.kept for window in self.windows if window.kept is not None}
        found = [path.read_text() for path in (self.home / "unsaved").glob("*.json")]
        for text in kept | self.orphans:
            title = text.splitlines()[0]
            assert any(f"{title}\\n" in one for one in found), text
        left = {one.project.text for one in Store(self.home / "x", self.home / "unsaved").recovery.left()}
        assert self.orphans <= left

    @invariant()
    def nothing_is_left_lying_about(self) -> None:
        """No temporary files, and nothing set aside as broken."""
        assert not [path for path in self.home.rglob("*") if path.suffix in (".part", ".unreadable")]


def _full(*_: object) -> int:
    raise OSError(errno.ENOSPC, "No space left on device")


def _text_in(path: Path, *, project: bool | None = None) -> str:
    if project if project is not None else path.suffix == ".dromic":
        return read_project(path).text
    return path.read_text()


TestNothingLost = Work.TestCase
TestNothingLost.settings = settings(max_examples=40, stateful_step_count=30, deadline=None)
