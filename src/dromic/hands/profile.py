"""Hand profiles: a player's two hands, and the ones that come with the program."""

from __future__ import annotations

from dataclasses import dataclass, field, fields, replace
from functools import cached_property
from typing import Any

from dromic.errors import RiffError
from dromic.hands.comfort import Comfort
from dromic.hands.constants import FrettingHand, PickingHand, SyncCosts
from dromic.music.riff import Style

GROUPS = ("picking", "fretting", "sync", "comfort")
OWN = "own"


@dataclass(frozen=True)
class Hands:
    """A player's two hands, and the style that they play where riff and player say nothing else."""

    name: str = "medium"
    style: Style | None = None
    picking: PickingHand = field(default_factory=PickingHand)
    fretting: FrettingHand = field(default_factory=FrettingHand)
    sync: SyncCosts = field(default_factory=SyncCosts)
    comfort: Comfort = field(default_factory=Comfort)

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.name, self.style, self.picking, self.fretting, self.sync, self.comfort))


def _scaled(part: Any, unit: str, factor: float) -> Any:
    """Scale every constant of a unit."""
    changes: dict[str, Any] = {}
    for entry in fields(part):
        if entry.metadata["unit"].split(" ")[0] == unit:
            value = getattr(part, entry.name)
            changes[entry.name] = _four(value, factor) if isinstance(value, tuple) else value * factor
    return replace(part, **changes)


def _four(values: tuple[float, float, float, float], factor: float) -> tuple[float, float, float, float]:
    one, two, three, four = values
    return one * factor, two * factor, three * factor, four * factor


def with_speed(hands: Hands, name: str, factor: float) -> Hands:
    """Return hands whose every movement takes `factor` times as long.

    Parameters
    ----------
    hands : Hands
    name : str
    factor : float
    """
    return replace(
        hands,
        name=name,
        picking=_scaled(hands.picking, "ms", factor),
        fretting=_scaled(hands.fretting, "ms", factor),
        sync=_scaled(hands.sync, "ms", factor),
    )


def with_span(hands: Hands, name: str, factor: float) -> Hands:
    """Return hands whose spread and stretch are `factor` times as wide.

    Parameters
    ----------
    hands : Hands
    name : str
    factor : float
    """
    fretting = hands.fretting
    return replace(
        hands,
        name=name,
        fretting=replace(
            fretting,
            spread_mm=_four(fretting.spread_mm, factor),
            across_mm=fretting.across_mm * factor,
            stretch_mm=fretting.stretch_mm * factor,
        ),
    )


_MEDIUM = Hands()
PROFILES: dict[str, Hands] = {
    hands.name: hands
    for hands in (
        _MEDIUM,
        with_span(_MEDIUM, "small", 0.88),
        with_span(_MEDIUM, "large", 1.12),
        with_speed(_MEDIUM, "beginner", 1.8),
        with_speed(_MEDIUM, "fast", 0.8),
    )
}


def hands_named(name: str) -> Hands:
    """Return a profile.

    Raises
    ------
    RiffError
        For an unknown name.

    Examples
    --------
    >>> hands_named("fast").picking.base_ms < hands_named("medium").picking.base_ms
    True
    """
    if name not in PROFILES:
        raise RiffError(f"hands: found '{name}', expected one of {', '.join(PROFILES)}")
    return PROFILES[name]


@dataclass(frozen=True)
class Measures:
    """Sizes and speeds of hands against the medium ones: span, and the time each hand takes."""

    span: float = 1.0
    picking: float = 1.0
    fretting: float = 1.0


def measures(hands: Hands) -> Measures:
    """Sizes and speeds of hands, read off typical constants.

    Examples
    --------
    >>> measures(hands_named("large")).span, measures(hands_named("fast")).picking
    (1.12, 0.8)
    """
    medium = PROFILES["medium"]
    return Measures(
        round(hands.fretting.spread_mm[-1] / medium.fretting.spread_mm[-1], 3),
        round(hands.picking.reversal_ms / medium.picking.reversal_ms, 3),
        round(hands.fretting.place_ms / medium.fretting.place_ms, 3),
    )


def with_measures(hands: Hands, wanted: Measures) -> Hands:
    """Return hands of other sizes and speeds; what the two hands need to meet goes with the slower one.

    Parameters
    ----------
    hands : Hands
    wanted : Measures

    Raises
    ------
    RiffError
        For sizes and times that are not above zero.
    """
    if min(wanted.span, wanted.picking, wanted.fretting) <= 0:
        raise RiffError(f"found {wanted}, expected lengths and times above zero")
    old = measures(hands)
    fretting = _scaled(hands.fretting, "ms", wanted.fretting / old.fretting)
    sync_factor = max(wanted.picking, wanted.fretting) / max(old.picking, old.fretting)
    factor = wanted.span / old.span
    return replace(
        hands,
        name=OWN,
        picking=_scaled(hands.picking, "ms", wanted.picking / old.picking),
        fretting=replace(
            fretting,
            spread_mm=_four(fretting.spread_mm, factor),
            across_mm=fretting.across_mm * factor,
            stretch_mm=fretting.stretch_mm * factor,
        ),
        sync=_scaled(hands.sync, "ms", sync_factor),
    )
