# ruff: noqa: E501
"""Riffs to listen to: every way of playing that a take can hold."""

from __future__ import annotations

from functools import cache

from dromic.demo.library import demo_riffs
from dromic.formats.rifftext.reader import read_riff_text
from dromic.planner.plan import Plan
from tests.helpers import plan

BARS = {
    "sixteenths": "tempo: 130\n\n| 6:5/16 6:7 6:8 5:5 5:7 5:8 4:5 4:7 4:9 3:5 3:7 3:9 2:8 2:10 1:7 1:8 |",
    "gallop": "tempo: 150\nstyle: metal\n\n| 6:0.m/8 6:0.m/16 6:0.m 6:0.m/8 6:0.m/16 6:0.m 6:3/8 6:5 6:0.m/8 6:0.m/16 "
    "6:0.m | 6:0.m/8 6:0.m/16 6:0.m 6:0.m/8 6:0.m/16 6:0.m (6:7 5:9)/4 (6:5 5:7)/4 |",
    "legato": "tempo: 110\n\n| 2:5/16 2:7.h 2:8.h 1:5 1:7.h 1:8.h 1:7.p 1:5.p 2:8 2:7.p 2:5.p 3:7 3:5.p 3:7.h 2:5 "
    "2:8.h |",
    "rolls": "tempo: 100\nstyle: bluegrass\n\n| 5:3/8 5:2 5:0 4:0 3:0 3:2 2:0 2:1 | 3:0 2:0 1:0 2:3 2:1 2:0 3:2 3:0 |",
    "chords": "tempo: 100\n\n| (6:3 5:5 4:5)/4 (6:3 5:5 4:5)/8 r (6:5 5:7 4:7)/4 (5:3 4:5 3:5)/8 5:3 | (5:5 4:7 3:7)/4 "
    "4:7/8 3:7 2:8 1:7 1:8 1:10 |",
    "bass": "instrument: bass-4\ntempo: 95\n\n| 4:0/8 4:3 3:0 3:2 4:5 3:5 2:2 2:5 | 4:0/16 4:0 4:3/8 3:2 2:4 2:2/4 "
    "3:5/4 |",
    "skips": "tempo: 120\n\n| 5:7/16 3:7 5:9 3:9 4:7 2:8 4:9 2:10 5:7 3:7 5:9 3:9 6:8 4:9 6:10 4:7 |",
    "bends": "tempo: 72\n\n| 3:7/4 3:9/8 2:8 2:10.b2/2 | 2:8.s/8 2:10 1:8/4 r/8 3:9/8 3:7/4 |",
    "triplets": "tempo: 140\n\n| 1:12/8t 2:13 3:12 1:12 2:13 3:12 1:15 2:13 3:14 1:15 2:13 3:14 | 4:14 3:12 2:13 1:12 "
    "2:13 3:12 4:14/4 r |",
    "shifts": "tempo: 125\n\n| 5:3/16 5:5 5:7 4:3 4:5 4:7 3:10 3:12 2:10 2:12 2:13 1:10 1:12 1:13 1:15 1:17 | 1:15/8 "
    "1:12 2:13 2:10 3:12/4 4:10 |",
    "fast": "tempo: 190\n\n| 4:7/16 4:9 4:10 3:7 3:9 3:10 2:8 2:10 1:7 1:8 1:10 1:8 1:7 2:10 2:8 3:10 |",
    "repeats": "tempo: 160\n\n| 3:5/16 3:5 3:5 3:5 3:7 3:7 3:7 3:7 2:5 2:5 2:5 2:5 2:8 2:8 2:8 2:8 |",
}


@cache
def material() -> dict[str, Plan]:
    """Plans by name: those above, and the demo riffs."""
    plans = {name: plan(read_riff_text(text).riff) for name, text in BARS.items()}
    return plans | {demo.name: plan(demo.riff, demo.school) for demo in demo_riffs()}
