"""Short ways to plan a line of riff text and to read the plan."""

from __future__ import annotations

from typing import Any, TypeVar

from dromic.formats.rifftext.reader import read_riff_text
from dromic.hands.profile import Hands, hands_named
from dromic.music.pitch import Pitch
from dromic.music.riff import Note, Place, Riff, Stroke
from dromic.planner.plan import Objective, Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named

T = TypeVar("T")
LETTERS = {Stroke.DOWN: "d", Stroke.UP: "u", Stroke.NONE: "-"}


def riff(bars: str, **header: object) -> Riff:
    """Read bars with a header."""
    lines = "".join(f"{key}: {value}\n" for key, value in header.items())
    return read_riff_text(f"{lines}\n{bars}\n").riff


def line(notes: str, value: str = "16", *, count: int | None = None, **header: object) -> Riff:
    """One bar that is just as long as its notes, all of one duration."""
    words = notes.split()
    words[0] += f"/{value}"
    header.setdefault("meter", f"{count or len(words)}/{value}")
    return riff(f"| {' '.join(words)} |", **header)


def plan(what: Riff, school: str = "least-motion", *, hands: str | Hands = "medium", **plan_settings: Any) -> Plan:
    """Plan a riff."""
    player = hands_named(hands) if isinstance(hands, str) else hands
    if "objective" in plan_settings:
        plan_settings["objective"] = Objective(plan_settings["objective"])
    return plan_riff(what, Request(player, school_named(school), **plan_settings))


def strokes(planned: Plan) -> str:
    """Strokes of all notes: d, u, or - for one that is not picked."""
    return "".join(LETTERS[event.stroke] for event in planned.events if event.step is not None)


def fingers(planned: Plan) -> str:
    """Fingers of all notes, with blanks between."""
    return " ".join(str(event.notes[0].finger) for event in planned.events if event.step is not None)


def places(planned: Plan) -> str:
    """Places of all notes as string:fret."""
    return " ".join(
        f"{event.notes[0].string}:{event.notes[0].fret}" for event in planned.events if event.step is not None
    )


def place_of(note: Note) -> Place:
    """Where a note is written to be played."""
    assert isinstance(note.target, Place)
    return note.target


def pitch_of(note: Note) -> Pitch:
    """The pitch a note is written as."""
    assert isinstance(note.target, Pitch)
    return note.target


def not_none(found: T | None) -> T:
    """What has to be there."""
    assert found is not None
    return found
