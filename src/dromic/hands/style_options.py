"""Style options: what players answer differently, and every constant as docs/model.md shows it."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import Any

from dromic.hands.profile import GROUPS, OWN, Hands


@dataclass(frozen=True)
class StyleOption:
    """A question that players answer differently.

    Parameters
    ----------
    group, name : str
        Where it stands in `Hands`.
    question, words : str
        The question in short, and what it is about.
    answers : dict
        Words by value.
    """

    group: str
    name: str
    question: str
    words: str
    answers: dict[Any, str]


def style_options() -> tuple[StyleOption, ...]:
    """Every style option of both hands, in the order of their declaration.

    Examples
    --------
    >>> [option.name for option in style_options()][:3]
    ['lean', 'turns', 'rest_strokes']
    """
    style_options = []
    hands = Hands()
    for group in GROUPS:
        part = getattr(hands, group)
        for entry in fields(part):
            meta = entry.metadata
            if "question" in meta:
                own = getattr(part, entry.name)
                values = (True, False) if isinstance(own, bool) else tuple(type(own).__members__.values())
                answers = {value: meta["answers"][value] for value in values}
                style_options.append(StyleOption(group, entry.name, meta["question"], meta["words"], answers))
    return tuple(style_options)


def option_value(hands: Hands, option: StyleOption) -> Any:
    """How a player answers."""
    return getattr(getattr(hands, option.group), option.name)


def with_option(hands: Hands, option: StyleOption, value: Any) -> Hands:
    """Return hands of a player who answers differently.

    Parameters
    ----------
    hands : Hands
    option : StyleOption
    value : Any
    """
    part = replace(getattr(hands, option.group), **{option.name: value})
    return replace(hands, name=OWN, **{option.group: part})


@dataclass(frozen=True)
class ConstantRow:
    """One constant of the model as it stands in docs/model.md."""

    group: str
    name: str
    value: str
    unit: str
    words: str
    source: str


def constant_rows(hands: Hands) -> tuple[ConstantRow, ...]:
    """Every constant of a profile, in order.

    Examples
    --------
    >>> row = constant_rows(Hands())[0]
    >>> row.group, row.name, row.value, row.unit
    ('picking', 'half_stroke_mm', '2.5', 'mm')
    """
    rows: list[ConstantRow] = []
    for group in GROUPS:
        rows += rows_of(group, getattr(hands, group))
    return tuple(rows)


def rows_of(group: str, part: Any) -> list[ConstantRow]:
    """Every constant of a dataclass that declares them, in order."""
    rows = []
    for entry in fields(part):
        value = getattr(part, entry.name)
        text = ", ".join(f"{one:g}" for one in value) if isinstance(value, tuple) else _value_words(value)
        meta = entry.metadata
        rows.append(ConstantRow(group, entry.name, text, meta["unit"], meta["words"], meta["source"]))
    return rows


def _value_words(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)
