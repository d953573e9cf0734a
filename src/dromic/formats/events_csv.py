"""A plan as CSV: one row for every event, with its loads."""

from __future__ import annotations

import csv
import io

from dromic.hands.terms import spot_words
from dromic.planner.plan import Plan

COLUMNS = (
    "index",
    "bar",
    "beat",
    "onset",
    "duration",
    "rest",
    "pitches",
    "strings",
    "frets",
    "fingers",
    "position",
    "stroke",
    "stroke_kind",
    "legato",
    "load_pick",
    "load_fret",
    "load_both",
    "spots",
    "spot_keys",
    "mute_with_care",
)


def write_events_csv(plan: Plan) -> str:
    """Write every event of a plan, rests too.

    Parameters
    ----------
    plan : Plan

    Returns
    -------
    str
        Comma-separated, with a header line (RFC 4180). Times are quarter notes as decimal numbers; several notes of
        a chord stand in one cell with blanks between them.
    """
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for event in plan.events:
        moment = event.moment
        care = [str(mute.string) for mute in event.mutes if mute.doubtful]
        writer.writerow(
            [
                moment.index,
                moment.bar,
                f"{float(moment.beat):.6g}",
                f"{float(moment.onset):.6g}",
                f"{float(moment.duration):.6g}",
                int(event.rest),
                _cell(note.pitch for note in event.notes),
                _cell(note.string for note in event.notes),
                _cell(note.fret for note in event.notes),
                _cell(note.finger for note in event.notes),
                event.position if event.position is not None else "",
                "" if event.rest else event.stroke,
                event.stroke_kind or "",
                event.legato or "",
                f"{event.loads.pick:.4f}",
                f"{event.loads.fret:.4f}",
                f"{event.loads.sync:.4f}",
                "; ".join(spot_words(event.spots)),
                " ".join(event.spots),
                " ".join(care),
            ]
        )
    return out.getvalue()


def _cell(values: object) -> str:
    return " ".join(str(value) for value in values)  # type: ignore[attr-defined]
