"""A figure on low, middle and high strings: frets, fingers and strokes stay, only the arm is elsewhere."""

from __future__ import annotations

from dataclasses import replace

from dromic.errors import RiffError
from dromic.music.riff import Event, Note, Riff
from dromic.planner.plan import Plan
from dromic.practice.passages.excerpt import excerpt
from dromic.practice.passages.splits import changed, place_of
from dromic.practice.tempo.ladder import Range


def string_areas(plan: Plan, chosen: Range) -> tuple[tuple[str, Riff], ...]:
    """A passage where it lies, and on the other strings where it fits: from the thickest to the thinnest.

    Parameters
    ----------
    plan : Plan
    chosen : Range

    Returns
    -------
    tuple of (str, Riff)
        At most three, each with its area in words. The notes are others, the movement is the same.

    Raises
    ------
    RiffError
        Where it covers so many strings that it fits nowhere else.
    """
    riff = excerpt(plan, chosen)
    strings = [place_of(note).string for event in riff.written_events() for note in event.notes]
    low, high = plan.instrument.strings - max(strings), 1 - min(strings)
    if low == high:
        raise RiffError("this passage needs all strings; choose a smaller one")
    middle = round((low + high) / 2)
    found: dict[int, str] = {low: "low strings", high: "high strings"}
    if middle not in found:
        found[middle] = "middle strings"
    return tuple(
        (found[by], replace(_moved(riff, by), title=f"{riff.title}, {found[by]}"))
        for by in sorted(found, reverse=True)
    )


def _moved(riff: Riff, by: int) -> Riff:
    def moved(event: Event) -> Event:
        notes = tuple(_on(note, by) for note in event.notes)
        return replace(event, notes=notes)

    return changed(riff, moved)


def _on(note: Note, by: int) -> Note:
    place = place_of(note)
    return replace(note, target=replace(place, string=place.string + by))
