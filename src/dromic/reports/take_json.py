"""What is in a take, as JSON: the report of a listener, or the truth beside a simulated take."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict

from dromic.listening.take import TakeReport

SCHEMA = 1


def write_take_json(report: TakeReport, remarks: Sequence[str] = ()) -> str:
    """A take as JSON.

    Parameters
    ----------
    report : TakeReport
    remarks : sequence of str
        What the player should know of the recording and of how it was played.
    """
    data: dict[str, object] = {
        "schema": SCHEMA,
        "tempo": report.tempo,
        "start_s": report.start_s,
        "rounds": report.rounds,
        "notes": [asdict(note) for note in report.notes],
        "extra": [{"onset_s": onset} for onset in report.extra],
        "restarts": [asdict(restart) for restart in report.restarts],
        "unasked": [asdict(one) for one in report.unasked],
        "findings": [
            {"class": finding.key} | {key: value for key, value in asdict(finding).items() if key != "key"}
            for finding in report.findings
        ],
        "remarks": list(remarks),
    }
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"
