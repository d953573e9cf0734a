"""A player's hands as a JSON file: a profile to start from, and the constants that differ from it.

Example::

    {"schema": 1, "name": "mine", "base": "medium", "picking": {"clear_ms": 25}, "comfort": {"fourth": 0.05}}
"""

from __future__ import annotations

import json
from dataclasses import fields, replace
from enum import Enum, StrEnum
from pathlib import Path
from typing import Any

from dromic.errors import RiffError
from dromic.formats.rifftext.header import read_style
from dromic.hands.profile import GROUPS, PROFILES, Hands, hands_named
from dromic.storage.reading import read_text
from dromic.storage.writing import write_text

SCHEMA = 1
# Names that files of earlier versions have.
_OLD_GROUPS = {"together": "sync"}
_OLD_NAMES = {"late_ms": "first_finger_return_ms", "also_ms": "extra_fingers_ms"}
# Numbers of earlier versions that the model no longer has.
_GONE = frozenset(("cut_short", "pair_strings", "past_open_too", "take_up"))
LARGEST = 1000.0
_EXAMPLE = 'for example {"schema": 1, "name": "mine", "base": "medium", "picking": {"clear_ms": 25}}'


def read_hands(path: Path | str) -> Hands:
    """Read a player's hands.

    Raises
    ------
    RiffError
        With the file, what was found, what was expected, and an example.
    """
    text = read_text(path)
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        line, column = getattr(error, "lineno", None), getattr(error, "colno", None)
        raise RiffError(f"this is not JSON; {_EXAMPLE}", line=line, column=column, file=str(path)) from None
    try:
        return hands_from_data(data)
    except RiffError as error:
        raise error.in_file(str(path)) from None


def hands_from_data(data: Any) -> Hands:
    """Return hands from plain data.

    Raises
    ------
    RiffError
    """
    if not isinstance(data, dict) or data.get("schema") != SCHEMA:
        found = data.get("schema") if isinstance(data, dict) else type(data).__name__
        raise RiffError(f"found the schema {found!r}, expected {SCHEMA}; {_EXAMPLE}")
    data = {_OLD_GROUPS.get(key, key): value for key, value in data.items()}
    known = {"schema", "name", "base", "style", *GROUPS}
    if unknown := sorted(set(data) - known):
        raise RiffError(f"found '{unknown[0]}', expected some of {', '.join(sorted(known))}; {_EXAMPLE}")
    base, name = data.get("base", "medium"), data.get("name", "own hands")
    if not isinstance(base, str) or not isinstance(name, str) or not 0 < len(name) <= 60:
        raise RiffError(f"the name and the base of hands are words; {_EXAMPLE}")
    if not name.isprintable() or not name.strip():
        raise RiffError(f"the name of hands holds signs that cannot be shown; {_EXAMPLE}")
    style = None if data.get("style") is None else read_style(str(data["style"]))
    hands = hands_named(base)
    changed = {group: _changed(group, getattr(hands, group), data.get(group, {})) for group in GROUPS}
    return replace(hands, name=name, style=style, **changed)


def _changed(group: str, part: Any, values: Any) -> Any:
    if not isinstance(values, dict):
        raise RiffError(f"{group}: found {type(values).__name__}, expected names and values in braces; {_EXAMPLE}")
    names = [entry.name for entry in fields(part)]
    values = {_OLD_NAMES.get(name, name): value for name, value in values.items() if name not in _GONE}
    for name in values:
        if name not in names:
            raise RiffError(f"{group}: found '{name}', expected one of {', '.join(names)}")
    return replace(
        part, **{name: _value(f"{group}.{name}", getattr(part, name), value) for name, value in values.items()}
    )


def _value(name: str, old: Any, new: Any) -> Any:
    """Check a value against what it replaces."""
    if isinstance(old, bool):
        if not isinstance(new, bool):
            raise RiffError(f"{name}: found {new!r}, expected true or false")
        return new
    if isinstance(old, StrEnum):
        answers = type(old)
        if new not in list(answers):
            raise RiffError(f"{name}: found {new!r}, expected {' or '.join(answers)}")
        return answers(new)
    if isinstance(old, tuple):
        if not isinstance(new, list) or len(new) != len(old):
            raise RiffError(f"{name}: found {new!r}, expected {len(old)} numbers, for example {list(old)}")
        return tuple(_number(name, one) for one in new)
    number = _number(name, new)
    if number == 0 and name.endswith("target_mm"):
        raise RiffError(f"{name}: found 0, expected a size in millimetres, for example {old:g}")
    return number


def _number(name: str, value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value <= LARGEST:
        raise RiffError(f"{name}: found {value!r}, expected a number from 0 to {LARGEST:g}")
    return float(value)


def write_hands(hands: Hands, path: Path | str) -> None:
    """Write a player's hands whole.

    Raises
    ------
    RiffError
        When the file cannot be written.
    """
    write_text(json.dumps(hands_as_data(hands), indent=1) + "\n", path)


def hands_as_data(hands: Hands) -> dict[str, Any]:
    """Return a player's hands as plain data."""
    base = hands.name if hands.name in PROFILES else "medium"
    data: dict[str, Any] = {"schema": SCHEMA, "name": hands.name, "base": base}
    if hands.style is not None:
        data["style"] = hands.style.value
    for group in GROUPS:
        part = getattr(hands, group)
        data[group] = {entry.name: _plain(getattr(part, entry.name)) for entry in fields(part)}
    return data


def _plain(value: Any) -> Any:
    if isinstance(value, Enum):
        return value.value
    return list(value) if isinstance(value, tuple) else value
