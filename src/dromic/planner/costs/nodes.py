"""The joint states of a step."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.grips import Grips


@dataclass(frozen=True, eq=False)
class Node:
    """The joint states of a step: its grips, and whether the note is sounded in each of its blocks.

    Equal ones are one object, for each model.
    """

    grips: Grips
    blocks: tuple[bool, ...]
