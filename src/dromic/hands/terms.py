"""The registry of terms: every part of a cost, by key, with its unit, its words and where its weight comes from.

A term is one summand of a time (milliseconds) or of an effort. Most are weighed by one constant, and bear its
name; those that stand here by themselves are made of the loads and of what the school says. The search sums arrays
of terms; reasons, hand-sync spots, CSV and JSON look the same arrays up by key.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields
from enum import StrEnum

from dromic.hands.profile import GROUPS, Hands

Facts = Mapping[str, object]


class LoadKind(StrEnum):
    """Which of the hands a load is that of; `SYNC` is both together."""

    PICK = "pick"
    FRET = "fret"
    SYNC = "sync"


class Unit(StrEnum):
    """What a term is counted in."""

    MS = "ms"
    EFFORT = "effort"


@dataclass(frozen=True)
class Term:
    """One part of a cost.

    Parameters
    ----------
    key : str
        The name of its constant.
    unit : Unit
    words : str
        What players read; facts of the movement stand in braces.
    source : str
        Where its weight comes from.
    default : float or None
        Its weight for medium hands; None where it has none of its own.
    spot : bool
        Whether it marks a hand-sync spot wherever it counts.
    part_of : str
        Key of the term that it is told together with; its own key where it is told alone.
    """

    key: str
    unit: Unit
    words: str
    source: str = ""
    default: float | None = None
    spot: bool = False
    part_of: str = ""

    def told(self, facts: Facts) -> str:
        """The words with the facts filled in."""
        return self.words.format_map(facts)


PICK_EFFORT, FRET_EFFORT, SYNC_EFFORT = "pick_effort", "fret_effort", "sync_effort"
SCHOOL_STROKE, SCHOOL_PAIR, SCHOOL_PICKED = "school_stroke", "school_pair", "school_picked"
_OF_LOADS_AND_SCHOOLS = {
    PICK_EFFORT: "hurry for the picking hand",
    FRET_EFFORT: "hurry for the fretting hand",
    SYNC_EFFORT: "both hands meeting in a hurry",
    SCHOOL_STROKE: "what the school likes less",
    SCHOOL_PAIR: "going against the school",
    SCHOOL_PICKED: "a picked note, to the school",
}


def _registered() -> dict[str, Term]:
    registered = {key: Term(key, Unit.EFFORT, words, part_of=key) for key, words in _OF_LOADS_AND_SCHOOLS.items()}
    hands = Hands()
    for group in GROUPS:
        for entry in fields(getattr(hands, group)):
            meta = entry.metadata
            if not meta.get("term"):
                continue
            unit = Unit.EFFORT if meta["unit"] == "effort" else Unit.MS
            value = float(getattr(getattr(hands, group), entry.name))
            part_of = meta["part_of"] or entry.name
            registered[entry.name] = Term(
                entry.name, unit, meta["term"], meta["source"], value, meta["spot"], part_of
            )
    return registered


TERMS: Mapping[str, Term] = _registered()


def spot_keys(some: Mapping[str, float]) -> tuple[str, ...]:
    """Keys of those terms that count and mark a hand-sync spot.

    Examples
    --------
    >>> spot_keys({"up_on_beat": 0.02, "up_on_accent": 0.0, "fourth": 0.01})
    ('up_on_beat',)
    """
    return tuple(key for key, amount in some.items() if amount > 0 and TERMS[key].spot)


def spot_words(keys: tuple[str, ...]) -> tuple[str, ...]:
    """Hand-sync spots in words."""
    return tuple(TERMS[key].words for key in keys)


def told_together(some: Mapping[str, float], facts: Facts) -> dict[str, float]:
    """Amounts by words, those of one movement added up; what does not count is left out.

    Examples
    --------
    >>> told_together({"roll_ms": 48.0, "roll_gain_ms": 15.0}, {"mover": "finger 1"})
    {'finger 1 rolled over': 63.0}
    """
    sums: dict[str, float] = {}
    for key, amount in some.items():
        if amount > 0:
            main = TERMS[key].part_of
            sums[main] = sums.get(main, 0.0) + amount
    told_together: dict[str, float] = {}
    for key, amount in sums.items():
        words = TERMS[key].told(facts)
        told_together[words] = told_together.get(words, 0.0) + amount
    return told_together
