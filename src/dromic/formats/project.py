"""Project files: a riff with everything that belongs to it, as JSON with a schema version (docs/formats.md).

Saving goes beside and is moved over the old file, which stays as a backup; older versions are brought up to date
when they are read, newer ones are refused.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass, field
from importlib.resources import files
from math import isfinite
from pathlib import Path
from typing import Any

from dromic import __version__
from dromic.errors import RiffError
from dromic.formats.hands_file import hands_as_data, hands_from_data
from dromic.formats.rifftext.header import FASTEST, SLOWEST
from dromic.hands.profile import PROFILES
from dromic.music.riff import Stroke, Style
from dromic.planner.limits import ANY, HIGHEST_FRET, Limits
from dromic.planner.plan import Objective
from dromic.planner.plan_settings import OWN_HANDS, PlanSettings
from dromic.schools.registry import SCHOOLS
from dromic.storage.reading import read_bytes
from dromic.storage.writing import BACKUP, UNREADABLE, Wanted, always, write_text

PROJECT_SUFFIX = ".dromic"
SCHEMA = 2
MOST_KEPT, MOST_NOTES, LONGEST_NAME = 200, 200_000, 80


@dataclass(frozen=True)
class KeptPlan:
    """A plan that the player wants to come back to.

    Parameters
    ----------
    name : str
    text : str
        Riff text with everything decided as it was planned.
    plan_settings : PlanSettings
    cost : float
    ceiling : float or None
    """

    name: str
    text: str
    plan_settings: PlanSettings
    cost: float
    ceiling: float | None


@dataclass(frozen=True)
class Project:
    """What a project file holds.

    Parameters
    ----------
    text : str
        Riff text; instrument and locks are in it.
    plan_settings : PlanSettings
        School, hands and the rest.
    kept : tuple of KeptPlan
    notes : str
    """

    text: str
    plan_settings: PlanSettings = field(default_factory=PlanSettings)
    kept: tuple[KeptPlan, ...] = ()
    notes: str = ""


def json_schema() -> dict[str, Any]:
    """The JSON Schema of project files."""
    json_schema: dict[str, Any] = json.loads(
        (files("dromic.formats") / "project.schema.json").read_text(encoding="utf-8")
    )
    return json_schema


def read_project(path: Path | str) -> Project:
    """Read a project.

    Raises
    ------
    RiffError
        With the file, what is wrong, and the backup where there is one.
    """
    data = read_bytes(path)
    try:
        return project_from_bytes(data)
    except RiffError as error:
        backup = Path(str(path) + BACKUP)
        there = f"; the last good one is kept as {backup.name}" if backup.is_file() else ""
        raise RiffError(error.message + there, line=error.line, column=error.column, file=str(path)) from None


def project_from_bytes(data: bytes) -> Project:
    """Read a project from the bytes of its file.

    Raises
    ------
    RiffError
    """
    try:
        found = json.loads(data.decode("utf-8"), parse_constant=_no_constant)
    except UnicodeDecodeError:
        raise RiffError("this is not UTF-8 text, as project files are; is it the right file?") from None
    except json.JSONDecodeError as error:
        raise RiffError(
            f"this is not JSON ({error.msg}); is it the right file?", line=error.lineno, column=error.colno
        ) from None
    except (RecursionError, ValueError):
        raise RiffError("this JSON is no project; is it the right file?") from None
    return project_from_data(_without_halves(found))


def _without_halves(data: object) -> object:
    """The same data, with a question mark for every half of a character, which no file could be written with."""
    text = json.dumps(data, ensure_ascii=False)
    try:
        text.encode()
    except UnicodeEncodeError:
        return json.loads(text.encode(errors="replace"))
    return data


def _no_constant(name: str) -> float:
    raise ValueError(name)


def project_from_data(data: Any) -> Project:
    """Return a project from plain data of any version up to the present one.

    Raises
    ------
    RiffError
    """
    if not isinstance(data, dict):
        raise RiffError("this JSON is no project; is it the right file?")
    version = data.get("schema")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise RiffError("this JSON has no schema version, as project files have; is it the right file?")
    if version > SCHEMA:
        raise RiffError(
            f"this project was saved by a newer Dromic (its version is {version}, this one knows {SCHEMA}); "
            "open it there, or get the newer program"
        )
    while version < SCHEMA:
        data = _MIGRATIONS[version](data)
        version += 1
    return _project(data)


def _from_first(data: dict[str, Any]) -> dict[str, Any]:
    """Version 1 held only the riff's text, and at most a school."""
    return {
        "schema": 2,
        "riff": data.get("text"),
        "wishes": {"school": data["school"]} if "school" in data else {},
        "kept": [],
        "notes": "",
    }


_MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _from_first}


def _project(data: dict[str, Any]) -> Project:
    text = _text(data, "riff", 4 * 2**20)
    kept = data.get("kept", [])
    if not isinstance(kept, list) or len(kept) > MOST_KEPT:
        raise RiffError(f"kept: expected a list of at most {MOST_KEPT} plans")
    return Project(
        text,
        _wishes(data.get("wishes", {})),
        tuple(_kept(number, one) for number, one in enumerate(kept, start=1)),
        _text(data, "notes", MOST_NOTES, ""),
    )


def _text(data: dict[str, Any], name: str, longest: int, default: str | None = None) -> str:
    text = data.get(name, default)
    if not isinstance(text, str) or len(text) > longest:
        raise RiffError(f"{name}: expected text, found {_short(text)}")
    return text


def _short(value: Any) -> str:
    return f"'{str(value)[:30]}'" if isinstance(value, str | int | float | bool) else type(value).__name__


def _kept(number: int, data: Any) -> KeptPlan:
    if not isinstance(data, dict):
        raise RiffError(f"kept, plan {number}: expected names and values in braces")
    cost, ceiling = data.get("cost", 0.0), data.get("ceiling")
    for value in (cost, 0.0 if ceiling is None else ceiling):
        if isinstance(value, bool) or not isinstance(value, int | float) or not isfinite(value):
            raise RiffError(f"kept, plan {number}: cost and ceiling are numbers, found {_short(value)}")
    name = _text(data, "name", LONGEST_NAME)
    return KeptPlan(
        name,
        _text(data, "riff", 4 * 2**20),
        _wishes(data.get("wishes", {})),
        float(cost),
        None if ceiling is None else float(ceiling),
    )


def _wishes(data: Any) -> PlanSettings:
    if not isinstance(data, dict):
        raise RiffError("wishes: expected names and values in braces")
    usual = PlanSettings()
    own = data.get("own_hands")
    first = data.get("first")
    tempo = data.get("tempo")
    if tempo is not None and (
        isinstance(tempo, bool) or not isinstance(tempo, int | float) or not SLOWEST <= tempo <= FASTEST
    ):
        raise RiffError(f"wishes, tempo: found {_short(tempo)}, expected {SLOWEST:g} to {FASTEST:g}, or null")
    return PlanSettings(
        _one_of(data, "school", tuple(SCHOOLS), usual.school),
        Objective(_one_of(data, "objective", tuple(Objective), usual.objective)),
        _one_of(data, "hands", (*PROFILES, OWN_HANDS), usual.hands),
        None if tempo is None else float(tempo),
        None if own is None else hands_from_data(own),
        _flag(data, "loop"),
        _flag(data, "alike"),
        None if first is None else Stroke(_one_of(data, "first", ("down", "up"), "down")),
        None if data.get("style") is None else Style(_one_of(data, "style", tuple(Style), Style.ROCK)),
        _limits(data.get("limits")),
    )


def _limits(data: Any) -> Limits:
    if data is None:
        return ANY
    if not isinstance(data, dict):
        raise RiffError("wishes, limits: expected names and values in braces, or null")
    usual = Limits()
    strings = data.get("strings")
    if strings is not None and not isinstance(strings, list):
        raise RiffError(f"wishes, limits, strings: found {_short(strings)}, expected a list of numbers, or null")
    span = data.get("span")
    return Limits(
        _whole(data, "low", usual.low),
        _whole(data, "high", usual.high),
        None if span is None else _whole(data, "span", 1),
        not _flag(data, "no_open"),
        None if strings is None else frozenset(_whole({"strings": string}, "strings", 1) for string in strings),
        _flag(data, "finger_per_fret"),
    )


def _whole(data: dict[str, Any], name: str, usual: int) -> int:
    whole = data.get(name, usual)
    if isinstance(whole, bool) or not isinstance(whole, int) or not 0 <= whole <= HIGHEST_FRET:
        raise RiffError(f"wishes, limits, {name}: found {_short(whole)}, expected 0 to {HIGHEST_FRET}")
    return whole


def _one_of(data: dict[str, Any], name: str, known: tuple[str, ...], usual: str) -> str:
    found = data.get(name, usual)
    if not isinstance(found, str) or found not in known:
        raise RiffError(f"wishes, {name}: found {_short(found)}, expected one of {', '.join(known)}")
    return found


def _flag(data: dict[str, Any], name: str) -> bool:
    flag = data.get(name, False)
    if not isinstance(flag, bool):
        raise RiffError(f"wishes, {name}: found {_short(flag)}, expected true or false")
    return flag


def project_as_data(project: Project) -> dict[str, Any]:
    """Return a project as plain data."""
    return {
        "schema": SCHEMA,
        "program": f"Dromic {__version__}",
        "riff": project.text,
        "wishes": _wishes_as_data(project.plan_settings),
        "kept": [
            {
                "name": one.name,
                "riff": one.text,
                "wishes": _wishes_as_data(one.plan_settings),
                "cost": one.cost,
                "ceiling": one.ceiling,
            }
            for one in project.kept
        ],
        "notes": project.notes,
    }


def _wishes_as_data(plan_settings: PlanSettings) -> dict[str, Any]:
    return {
        "school": plan_settings.school,
        "objective": plan_settings.objective,
        "hands": plan_settings.hands,
        "own_hands": None if plan_settings.own is None else hands_as_data(plan_settings.own),
        "tempo": plan_settings.tempo,
        "loop": plan_settings.loop,
        "alike": plan_settings.identical_repeats,
        "first": None if plan_settings.first is None else str(plan_settings.first),
        "style": plan_settings.style,
        "limits": _limits_as_data(plan_settings.limits) if plan_settings.limits else None,
    }


def _limits_as_data(limits: Limits) -> dict[str, Any]:
    return {
        "low": limits.low,
        "high": limits.high,
        "span": limits.span,
        "no_open": not limits.open_strings,
        "strings": None if limits.strings is None else sorted(limits.strings),
        "finger_per_fret": limits.finger_per_fret,
    }


def write_project(project: Project, path: Path | str, wanted: Wanted = always) -> str:
    """Write a project whole or not at all; what stood there is kept as a backup.

    Parameters
    ----------
    project : Project
    path : Path or str
    wanted : Wanted

    Returns
    -------
    str
        The fingerprint of what stands there now.

    Raises
    ------
    RiffError
        When it cannot be written; what stood there before is kept.
    """
    path = Path(path)
    text = json.dumps(project_as_data(project), indent=1, ensure_ascii=False) + "\n"
    # A broken file must not push out the last good one.
    return write_text(text, path, wanted, kept_as=BACKUP if _good(path) else UNREADABLE)


def _good(path: Path) -> bool:
    """Whether the file can be read."""
    try:
        project_from_bytes(read_bytes(path))
    except RiffError:
        return False
    return True
