"""How hard a load is, as every picture tells it."""

from __future__ import annotations

WARM_FROM, HOT_FROM = 0.8, 1.0


def heat(load: float) -> int:
    """Whether a load is calm, 0, warm near the limit, 1, or hot beyond it, 2."""
    return 2 if load > HOT_FROM else 1 if load >= WARM_FROM else 0
