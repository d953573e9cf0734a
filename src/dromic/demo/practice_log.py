"""The made-up practice log of the demo: six weeks of a simulated player, ending yesterday."""

from __future__ import annotations

import gzip
import json
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from importlib.resources import files

from dromic.practice.log.logbook import Rep, rep_of

LABEL = "Made-up log of a simulated player, shipped with the demo."


def demo_reps(now: datetime | None = None) -> tuple[Rep, ...]:
    """Every repetition, moved by whole days so that the last day is the one before today.

    Parameters
    ----------
    now : datetime or None
        None for the present.
    """
    packed = (files("dromic.demo") / "practice-log.json.gz").read_bytes()
    reps = [rep_of(row) for row in json.loads(gzip.decompress(packed))["reps"]]
    today = (now or datetime.now(UTC)).date()
    by = timedelta(days=(today - reps[-1].when.date()).days - 1)
    return tuple(replace(rep, when=rep.when + by) for rep in reps)
