"""The search's arithmetic over one link, compiled where a compiler was there when the program was set up.

`JoinedMoves`, `min_plus` and `max_min` are those of `compiled`, or else of `plain`, which give the same numbers.
`DROMIC_KERNEL=plain` in the environment takes the latter.
"""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

from dromic.planner.kernel.plain import TIE, first_least

COMPILED = False

if TYPE_CHECKING or os.environ.get("DROMIC_KERNEL") == "plain":
    from dromic.planner.kernel.plain import JoinedMoves, max_min, min_plus
else:
    try:
        from dromic.planner.kernel.compiled import JoinedMoves, max_min, min_plus

        COMPILED = True
    except ImportError:
        from dromic.planner.kernel.plain import JoinedMoves, max_min, min_plus

__all__ = ["COMPILED", "TIE", "JoinedMoves", "first_least", "max_min", "min_plus"]
