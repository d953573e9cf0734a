"""A comparison of schools as a table of text, or as JSON."""

from __future__ import annotations

import json
from typing import Any

from dromic.formats.plan_json import plan_as_dict
from dromic.planner.compare import Comparison
from dromic.planner.plan import Plan
from dromic.planner.told.totals import TOTALS

_TOTALS = tuple(total for total in TOTALS.values() if total.column)
_COLUMNS = (
    ("school", 18),
    ("ceiling", 8),
    ("picking", 8),
    ("fretting", 9),
    ("effort", 8),
    *((total.column, max(len(total.column) + 1, 7)) for total in _TOTALS),
)


def write_comparison_text(comparison: Comparison) -> str:
    """Write one line a school, highest ceiling first."""
    first = comparison.plans[0]
    lines = [first.riff.title or "Untitled", "".join(name.ljust(width) for name, width in _COLUMNS).rstrip()]
    lines += [_row(plan) for plan in comparison.plans]
    lines += [f"{name}: no plan; {why}" for name, why in comparison.refusals.items()]
    return "\n".join(lines) + "\n"


def _tempo(ceiling: float | None) -> str:
    return "–" if ceiling is None else f"{ceiling:.0f}"


def _row(plan: Plan) -> str:
    cells = (
        plan.school.name,
        *(_tempo(one) for one in (plan.ceiling, plan.ceilings.pick, plan.ceilings.fret)),
        f"{plan.cost:.2f}",
        *(f"{plan.totals[total.key]:.0f}" for total in _TOTALS),
    )
    return "".join(cell.ljust(width) for cell, (_, width) in zip(cells, _COLUMNS, strict=True)).rstrip()


def write_comparison_json(comparison: Comparison) -> str:
    """Write the plans' figures without their events."""
    plans: list[dict[str, Any]] = []
    for plan in comparison.plans:
        whole = plan_as_dict(plan)
        plans.append({key: value for key, value in whole.items() if key != "events"})
    data = {
        "schema": 1,
        "title": comparison.plans[0].riff.title,
        "plans": plans,
        "refused": [{"school": name, "text": why} for name, why in comparison.refusals.items()],
    }
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"
