"""Six factors of a player's speed: how much longer each kind of movement takes than the model's constants say.

The constants of the model cannot be told apart from what a player is clean at: too many of them always come
together. Six groups of them can. Every time constant belongs to one group; a factor scales the whole of it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields, replace
from enum import StrEnum
from types import MappingProxyType
from typing import Any

from dromic.hands.constants import FrettingHand, PickingHand, SyncCosts
from dromic.hands.profile import OWN, Hands


class Factor(StrEnum):
    """A group of movements whose speed belongs together."""

    ONE_STRING = "picking on one string"
    STRING_CHANGE = "changing strings"
    SKIP = "skipping strings"
    PLACEMENT = "putting fingers down"
    SHIFT = "shifting position"
    TOGETHER = "legato and both hands together"


_NAMES = {
    Factor.ONE_STRING: (
        "base reversal palm accent pinch attack anchored pluck pluck_again pluck_little from_neck to_neck resume"
    ),
    Factor.STRING_CHANGE: "fitts inside sweep drop turn through sweep_turn drag odd glide rake pluck_next",
    Factor.SKIP: "skip clear",
    Factor.PLACEMENT: (
        "place landing lift fourth weak_34 weak_24 jump jump_fitts roll roll_gain cross plant extra_fingers barre "
        "hold nowhere release"
    ),
    Factor.SHIFT: "shift shift_fitts slide first_finger_return change_shift",
    Factor.TOGETHER: "hammer tap pull change_roll change_jump subdivision seam",
}
FACTOR_OF: Mapping[str, Factor] = MappingProxyType(
    {f"{name}_ms": factor for factor, names in _NAMES.items() for name in names.split()}
)
"""The factor of every constant that is a time, by the constant's name."""

FACTORS = tuple(Factor)


def time_constants() -> tuple[str, ...]:
    """Names of all constants that are times."""
    return tuple(
        entry.name
        for part in (PickingHand, FrettingHand, SyncCosts)
        for entry in fields(part)
        if entry.metadata["unit"].startswith("ms")
    )


def with_factors(hands: Hands, wanted: Mapping[Factor, float]) -> Hands:
    """Hands whose movements take so many times as long, group by group.

    Parameters
    ----------
    hands : Hands
    wanted : mapping of Factor to float
        Groups that are left out stay as they are.

    Examples
    --------
    >>> faster = with_factors(Hands(), {Factor.SHIFT: 0.5})
    >>> faster.fretting.shift_ms / Hands().fretting.shift_ms, faster.fretting.place_ms / Hands().fretting.place_ms
    (0.5, 1.0)
    """

    def scaled(part: Any) -> Any:
        changes = {
            entry.name: getattr(part, entry.name) * wanted.get(FACTOR_OF[entry.name], 1.0)
            for entry in fields(part)
            if entry.name in FACTOR_OF
        }
        return replace(part, **changes)

    return replace(
        hands,
        name=OWN,
        picking=scaled(hands.picking),
        fretting=scaled(hands.fretting),
        sync=scaled(hands.sync),
    )
