"""A plan as JSON, schema 1: what other programs read.

Strings count from 1, the thinnest; finger 0 is an open string, 5 the thumb over the neck; beats, onsets and
durations are exact fractions of a quarter note, written as text. `strokes` has one entry a note, where fingers
pluck a chord together; `held` are notes from before that sound on; `spots` are hand-sync spots in words, and
`spot_keys` the terms that mark them. A plan that was asked for alternatives has them under each event.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from dromic.hands.terms import spot_words
from dromic.planner.plan import Bottleneck, Plan, PlannedEvent, PlannedSpan

if TYPE_CHECKING:
    from dromic.planner.families import Family

SCHEMA = 1


def plan_as_dict(plan: Plan) -> dict[str, Any]:
    """Return a plan as plain data."""
    return {
        "schema": SCHEMA,
        "title": plan.riff.title,
        "instrument": plan.instrument.name,
        "tuning": list(plan.instrument.tuning),
        "capo": plan.instrument.capo,
        "tempo": plan.tempo,
        "school": plan.school.name,
        "style": str(plan.sound.style),
        "objective": str(plan.objective),
        "hands": plan.hands.name,
        "loop": plan.loop,
        "cost": plan.cost,
        "ceiling_bpm": plan.ceiling,
        "ceilings": asdict(plan.ceilings),
        "limits": [_bottleneck(bottleneck) for bottleneck in plan.bottlenecks],
        "totals": dict(plan.totals),
        "spans": [_span(span) for span in plan.spans],
        "events": [_event(event, plan.spans) for event in plan.events],
        "warnings": list(plan.warnings),
    }


def write_plan_json(plan: Plan) -> str:
    """Write a plan as JSON text."""
    return json.dumps(plan_as_dict(plan), indent=1, ensure_ascii=False) + "\n"


def write_plans_json(plans: Sequence[Plan]) -> str:
    """Write ranked plans as JSON text, cheapest first."""
    data = {"schema": SCHEMA, "plans": [plan_as_dict(plan) for plan in plans]}
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"


def write_families_json(families: Sequence[Family]) -> str:
    """Write ways across the neck as JSON text: the best plan, and all of them with their events."""
    data = plan_as_dict(families[0].plan)
    data["families"] = [
        {
            "region": list(family.region),
            "words": family.words,
            "effort": family.effort,
            "ceilings": asdict(family.ceilings),
            "events": [_event(event, family.plan.spans) for event in family.plan.events],
        }
        for family in families
    ]
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"


def _bottleneck(one: Bottleneck) -> dict[str, Any]:
    return {
        "from": one.start,
        "to": one.end,
        "kind": str(one.kind),
        "load": one.load,
        "text": one.text,
    }


def _span(span: PlannedSpan) -> dict[str, Any]:
    shape = [[note.string, note.fret, note.finger] for note in span.notes]
    return {"from": span.first, "to": span.last, "chord": span.chord, "shape": shape}


def _event(event: PlannedEvent, spans: Sequence[PlannedSpan]) -> dict[str, Any]:
    moment = event.moment
    found: dict[str, Any] = {
        "index": moment.index,
        "bar": moment.bar,
        "beat": str(moment.beat),
        "onset": str(moment.onset),
        "duration": str(moment.duration),
        "rest": event.rest,
        "notes": [
            {"pitch": note.pitch, "string": note.string, "fret": note.fret, "finger": note.finger}
            for note in event.notes
        ],
        "position": event.position,
        "stroke": str(event.strokes[0] if event.strokes else event.stroke),
        "strokes": [str(stroke) for stroke in event.strokes],
        "held": [{"string": note.string, "fret": note.fret, "finger": note.finger} for note in event.held],
        "ready": [{"string": note.string, "fret": note.fret, "finger": note.finger} for note in event.ready],
        "span": None if event.span is None else spans.index(event.span),
        "stroke_kind": event.stroke_kind,
        "legato": str(event.legato) if event.legato is not None else None,
        "loads": {"pick": event.loads.pick, "fret": event.loads.fret, "sync": event.loads.sync},
        "mutes": [
            {"string": mute.string, "by": mute.by, "rang": mute.rang, "doubtful": mute.doubtful}
            for mute in event.mutes
        ],
        "spots": list(spot_words(event.spots)),
        "spot_keys": list(event.spots),
    }
    if event.alternatives:
        found["alternatives"] = [
            {"kind": str(other.kind), "text": other.words, "price": other.price, "ceiling_bpm": other.ceiling}
            for other in event.alternatives
        ]
    return found
