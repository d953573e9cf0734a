"""What is in a take, as JSON: the report of a listener, or the truth beside a simulated take."""

from __future__ import annotations

import json
from dataclasses import asdict

from dromic.listening.take import TakeReport

SCHEMA = 1


def write_take_json(report: TakeReport) -> str:
    """A take as JSON.

    Parameters
    ----------
    report : TakeReport
    """
    data: dict[str, object] = {
        "schema": SCHEMA,
        "tempo": report.tempo,
        "start_s": report.start_s,
        "rounds": report.rounds,
        "notes": [asdict(note) for note in report.notes],
        "extra": [{"onset_s": onset} for onset in report.extra],
        "restarts": [asdict(one) for one in report.restarts],
        "findings": [],
    }
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"
