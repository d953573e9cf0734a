"""The practice log: what was played, when, at which tempo, and whether it was clean. A file of SQLite.

Only repetitions are written, one after the other, and never changed: everything that is told of them is worked out.
What a player marked and what a take showed are told apart for ever. A repetition is on the disk when writing it
comes back. Several windows may have the log open: one writes at a time, others wait a little, and then say so.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass, fields, replace
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import Any
from uuid import uuid4

from platformdirs import user_data_dir

from dromic.errors import RiffError
from dromic.storage.writing import make_folder

SCHEMA = 1
NAME = "practice.sqlite"
WAIT_S = 3.0
MOST_KEYS, LONGEST_NOTE = 400, 2_000


class Clean(StrEnum):
    """What became of a repetition; no answer is no answer."""

    CLEAN = "clean"
    NOT = "not"
    UNMARKED = "unmarked"


class Source(StrEnum):
    """Who says so: the player, or a take that was listened to."""

    SELF = "self"
    TAKE = "take"


@dataclass(frozen=True)
class Rep:
    """One repetition.

    Parameters
    ----------
    when : datetime
        With its zone; as the clock said it, which may have been set back.
    movement_keys : tuple of str
        The movements that were played (see `dromic.practice.movement`), each once.
    riff, plan : str
        Hashes of what was played, and how it was planned.
    title : str
    kind : str
        What kind of drill it was.
    tempo : float
        Quarter notes a minute.
    density : int
        How often each string's cell was played before the next.
    seconds : float
    clean : Clean
    source : Source
    felt : int or None
        How tight the hands felt, from 1 to 5.
    note : str
    uid : str
        Tells repetitions apart, whichever file they come from.
    """

    when: datetime
    tempo: float
    movement_keys: tuple[str, ...] = ()
    riff: str = ""
    plan: str = ""
    title: str = ""
    kind: str = "whole"
    density: int = 1
    seconds: float = 0.0
    clean: Clean = Clean.UNMARKED
    source: Source = Source.SELF
    felt: int | None = None
    note: str = ""
    uid: str = ""


def log_file() -> Path:
    """Where the log is kept."""
    return Path(user_data_dir("dromic", appauthor=False)) / NAME


class Logbook:
    """An open log.

    Parameters
    ----------
    path : Path or None
        None for the usual place.
    wait_s : float or None
        How long to wait for another program that writes; None for as long as a command may.

    Raises
    ------
    RiffError
        When it cannot be made or read, or comes from a newer version. A log that is corrupt is set aside whole, a
        new one is begun, and `set_aside` says where the old one is.
    """

    def __init__(self, path: Path | None = None, wait_s: float | None = None) -> None:
        self.path = path or log_file()
        self.set_aside: Path | None = None
        self._wait_s = WAIT_S if wait_s is None else wait_s
        make_folder(self.path.parent)
        try:
            self._base = self._opened()
        except sqlite3.DatabaseError as error:
            if _is_busy(error) or isinstance(error, sqlite3.OperationalError):
                raise self._told(error) from None
            self.set_aside = self._put_aside()
            self._base = self._opened()

    def close(self) -> None:
        """Let the file go."""
        self._base.close()

    # -- writing ------------------------------------------------------------------------------------------------

    def write(self, rep: Rep) -> Rep:
        """Write down a repetition; it is on the disk when this comes back.

        Returns
        -------
        Rep
            With its `uid`.

        Raises
        ------
        RiffError
            When it cannot be written, or says what no repetition can.
        """
        made = rep if rep.uid else replace(rep, uid=uuid4().hex)
        self._add([_checked(made)])
        return made

    def add(self, reps: Iterable[Rep]) -> int:
        """Write down repetitions that another file holds, all or none; those that are here already are left.

        Returns
        -------
        int
            How many were new.

        Raises
        ------
        RiffError
        """
        return self._add([_checked(rep if rep.uid else replace(rep, uid=uuid4().hex)) for rep in reps])

    def _add(self, reps: Sequence[Rep]) -> int:
        with self._writing() as base:
            before = base.total_changes
            base.executemany(
                f"INSERT OR IGNORE INTO reps ({', '.join(COLUMNS)}) VALUES ({', '.join('?' * len(COLUMNS))})",
                [_row(rep) for rep in reps],
            )
            return base.total_changes - before

    @contextmanager
    def _writing(self) -> Iterator[sqlite3.Connection]:
        try:
            self._base.execute("BEGIN IMMEDIATE")
            try:
                yield self._base
            except BaseException:
                self._base.rollback()
                raise
            self._base.commit()
        except sqlite3.Error as error:
            with suppress(sqlite3.Error):
                self._base.rollback()
            raise self._told(error) from None

    # -- reading ------------------------------------------------------------------------------------------------

    def reps(self, *, riff: str | None = None, since: datetime | None = None, last: int | None = None) -> list[Rep]:
        """Repetitions in the order in which they were written.

        Parameters
        ----------
        riff : str or None
            Of this riff only.
        since : datetime or None
        last : int or None
            Only so many, the last ones.
        """
        where, values = ["1"], list[object]()
        if riff is not None:
            where.append("riff = ?")
            values.append(riff)
        if since is not None:
            where.append("at >= ?")
            values.append(said_time(since))
        order = "DESC LIMIT ?" if last is not None else ""
        values += [last] if last is not None else []
        rows = self._read(
            f"SELECT {', '.join(COLUMNS)} FROM reps WHERE {' AND '.join(where)} ORDER BY number {order}", values
        )
        found = [_rep(row) for row in rows]
        return found[::-1] if last is not None else found

    def count(self) -> int:
        """How many repetitions there are."""
        return int(self._read("SELECT COUNT(*) FROM reps", [])[0][0])

    def minutes(self) -> dict[str, float]:
        """Minutes played, by kind of drill."""
        rows = self._read("SELECT kind, SUM(seconds) / 60 FROM reps GROUP BY kind ORDER BY kind", [])
        return {str(kind): float(minutes) for kind, minutes in rows}

    def _read(self, words: str, values: Sequence[Any]) -> list[tuple[Any, ...]]:
        try:
            return self._base.execute(words, values).fetchall()
        except sqlite3.Error as error:
            raise self._told(error) from None

    # -- the file -----------------------------------------------------------------------------------------------

    def _opened(self) -> sqlite3.Connection:
        base = sqlite3.connect(self.path, timeout=self._wait_s, isolation_level=None, check_same_thread=False)
        try:
            (version,) = base.execute("PRAGMA user_version").fetchone()
            if version > SCHEMA:
                raise RiffError(
                    f"this log was written by a newer version of Dromic (schema {version}); it is left as it is: "
                    "update Dromic, or move the file away",
                    file=str(self.path),
                )
            base.execute("PRAGMA journal_mode = WAL")
            base.execute("PRAGMA synchronous = FULL")
            if not version:
                base.execute("BEGIN IMMEDIATE")
                base.execute(_TABLE)
                base.execute("CREATE INDEX IF NOT EXISTS of_riff ON reps (riff, clean, tempo)")
                base.execute(f"PRAGMA user_version = {SCHEMA}")
                base.commit()
            base.execute("SELECT * FROM reps ORDER BY number DESC LIMIT 1").fetchall()
        except BaseException:
            base.close()
            raise
        return base

    def _put_aside(self) -> Path:
        """Move a log that cannot be read out of the way, whole, with what belongs to it."""
        stamp = datetime.now().strftime("%Y-%m-%d-%H%M%S")
        aside = self.path.with_name(f"{self.path.stem}-unreadable-{stamp}{self.path.suffix}")
        number = 1
        while aside.exists():
            number += 1
            aside = self.path.with_name(f"{self.path.stem}-unreadable-{stamp}-{number}{self.path.suffix}")
        try:
            self.path.replace(aside)
            for ending in ("-wal", "-shm"):
                with suppress(FileNotFoundError):
                    Path(f"{self.path}{ending}").replace(f"{aside}{ending}")
        except OSError as error:
            raise RiffError(
                f"the log cannot be read, nor moved out of the way: {error.strerror}", file=str(self.path)
            ) from None
        return aside

    def _told(self, error: sqlite3.Error) -> RiffError:
        if _is_busy(error):
            words = "the log is being written by another program; try again in a moment"
        elif "full" in str(error):
            words = "the disk is full; make room, what was written before is kept"
        elif "readonly" in str(error) or "unable to open" in str(error):
            words = "the log cannot be written: no permission; change the rights of its folder"
        else:
            words = f"the log cannot be used: {error}"
        return RiffError(words, file=str(self.path))


def _is_busy(error: sqlite3.Error) -> bool:
    return "locked" in str(error) or "busy" in str(error)


COLUMNS = tuple("at" if entry.name == "when" else entry.name for entry in fields(Rep))
_TABLE = """
CREATE TABLE IF NOT EXISTS reps (
    number INTEGER PRIMARY KEY AUTOINCREMENT,
    at TEXT NOT NULL,
    tempo REAL NOT NULL,
    movement_keys TEXT NOT NULL,
    riff TEXT NOT NULL,
    plan TEXT NOT NULL,
    title TEXT NOT NULL,
    kind TEXT NOT NULL,
    density INTEGER NOT NULL,
    seconds REAL NOT NULL,
    clean TEXT NOT NULL CHECK (clean IN ('clean', 'not', 'unmarked')),
    source TEXT NOT NULL CHECK (source IN ('self', 'take')),
    felt INTEGER CHECK (felt BETWEEN 1 AND 5),
    note TEXT NOT NULL,
    uid TEXT NOT NULL UNIQUE
)
"""


def said_time(when: datetime) -> str:
    """A time as the log says it: in UTC, to the millisecond."""
    return when.astimezone(UTC).isoformat(timespec="milliseconds")


def _row(rep: Rep) -> tuple[object, ...]:
    values = asdict(rep)
    values["at"] = said_time(values.pop("when"))
    values["movement_keys"] = json.dumps(rep.movement_keys)
    return tuple(values[name] for name in COLUMNS)


def _rep(row: Sequence[Any]) -> Rep:
    values = dict(zip(COLUMNS, row, strict=True))
    try:
        values["when"] = datetime.fromisoformat(values.pop("at"))
        values["movement_keys"] = tuple(json.loads(values["movement_keys"]))
        return Rep(**{**values, "clean": Clean(values["clean"]), "source": Source(values["source"])})
    except (TypeError, ValueError) as error:
        raise RiffError(f"a repetition of the log cannot be read: {str(error)[:80]}") from None


def rep_of(values: dict[str, object]) -> Rep:
    """A repetition from plain values.

    Raises
    ------
    RiffError
        Naming what is missing or wrong.
    """
    try:
        when = datetime.fromisoformat(str(values["at"]))
        felt = values.get("felt")
        keys = values.get("movement_keys", ())
        if isinstance(keys, str):
            keys = keys.split()
        return _checked(
            Rep(
                when if when.tzinfo is not None else when.astimezone(),
                float(str(values["tempo"])),
                tuple(str(key) for key in keys),  # type: ignore[attr-defined]
                riff=str(values.get("riff", "")),
                plan=str(values.get("plan", "")),
                title=str(values.get("title", "")),
                kind=str(values.get("kind", "whole")),
                density=int(str(values.get("density", 1))),
                seconds=float(str(values.get("seconds", 0.0))),
                clean=Clean(str(values.get("clean", "unmarked"))),
                source=Source(str(values.get("source", "self"))),
                felt=None if felt in (None, "") else int(str(felt)),
                note=str(values.get("note", "")),
                uid=str(values.get("uid", "")),
            )
        )
    except (KeyError, TypeError, ValueError, OverflowError) as error:
        raise RiffError(f"this is no repetition of a practice log: {str(error)[:80]}") from None


def _checked(rep: Rep) -> Rep:
    """Refuse what no repetition can say.

    Raises
    ------
    RiffError
    """
    if not 1.0 <= rep.tempo <= 1_000.0:
        raise RiffError(f"found a repetition at {rep.tempo:g} quarter notes a minute, expected 1 to 1000")
    if not 0.0 <= rep.seconds <= 86_400.0 or not 1 <= rep.density <= 64:
        raise RiffError("a repetition lasts at most a day, and its density is from 1 to 64")
    if rep.felt is not None and not 1 <= rep.felt <= 5:
        raise RiffError(f"found {rep.felt} for how tight the hands felt, expected 1 to 5")
    if len(rep.movement_keys) > MOST_KEYS or len(rep.note) > LONGEST_NOTE:
        raise RiffError(f"a repetition has at most {MOST_KEYS} movements, and a note of {LONGEST_NOTE} letters")
    return rep
