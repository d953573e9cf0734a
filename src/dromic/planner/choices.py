"""Every other choice that a player could make for one note, and which joint states make it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Bools, Ints
from dromic.hands.grips import Fretted, Grip
from dromic.music.riff import Place, Stroke
from dromic.planner.plan import State
from dromic.planner.problem import Problem
from dromic.planner.ways import OtherFinger, OtherPlace, OtherPosition, OtherShape, OtherStroke, OtherWay


@dataclass(frozen=True)
class Choice:
    """Another way and the joint states that play it: `keep` has the shape (rows, fretting states)."""

    way: OtherWay
    keep: Bools


@dataclass(frozen=True)
class Choices:
    """All other choices for a step; `keep` holds those of each, shape (choices, joint states)."""

    named: tuple[Choice, ...]
    keep: Bools


class ChoiceFinder:
    """Finds the choices of a problem's steps; those of equal steps are found once.

    Parameters
    ----------
    problem : Problem
    """

    def __init__(self, problem: Problem) -> None:
        self._problem = problem
        self._known: dict[tuple[object, ...], Choices] = {}

    def plain_of(self, step: int) -> Ints:
        """Of each joint state of a step, in layers or not, the one without layers."""
        return self._problem.layers.plain_of(step)

    def at(self, step: int, chosen: State) -> Choices:
        """Return the choices for a step other than the chosen one."""
        problem = self._problem
        own = problem.steps[step]
        key = (problem.nodes[step], own.picked, bool(own.more), chosen)
        found = self._known.get(key)
        if found is None:
            named = tuple(_choices(problem, step, chosen))
            keep = np.array([one.keep.ravel() for one in named], dtype=bool)
            joint = len(problem.chain.node_costs[step])
            found = self._known[key] = Choices(named, keep.reshape(len(named), joint))
        return found


def _choices(problem: Problem, step: int, chosen: State) -> Iterator[Choice]:
    node, strokes, own = problem.nodes[step], problem.model.picking.strokes, problem.steps[step]
    rows = [(stroke, sounded) for sounded in node.blocks for stroke in strokes]
    everywhere = np.ones((len(rows), len(node.grips)), dtype=bool)
    if own.picked:
        if False in node.blocks and chosen.sounded:
            slurred = np.array([not sounded for _, sounded in rows])
            yield Choice(OtherStroke(Stroke.NONE), everywhere & slurred[:, None])
        for stroke in dict.fromkeys(strokes):
            if stroke is not chosen.stroke or not chosen.sounded:
                struck = np.array([one is stroke and sounded for one, sounded in rows])
                yield Choice(OtherStroke(stroke), everywhere & struck[:, None])
    if own.more:
        yield from _chord_choices(node.grips.rows, everywhere, chosen)
        return
    notes = np.array([(*grip.notes[0], grip.position) for grip in node.grips.rows]).T
    strings, frets, fingers, positions = notes
    for string in np.unique(strings):
        at = strings == string
        if string != chosen.string:
            yield Choice(OtherPlace(Place(int(string), int(frets[at][0]))), everywhere & at)
    here = strings == chosen.string
    place = Place(chosen.string, chosen.fret)
    for finger in np.unique(fingers[here]):
        if finger != chosen.finger:
            yield Choice(OtherFinger(place, int(finger)), everywhere & (here & (fingers == finger)))
    by_finger = here & (fingers == chosen.finger)
    for position in np.unique(positions[by_finger]):
        if position != chosen.position:
            keep = by_finger & (positions == position)
            yield Choice(OtherPosition(((place, chosen.finger),), int(position)), everywhere & keep)


def _chord_choices(grips: Sequence[Grip], everywhere: Bools, chosen: State) -> Iterator[Choice]:
    """Every other way to hold a chord."""
    held = [grip.sounding for grip in grips]
    whole = chosen.grip.sounding
    for notes in dict.fromkeys(held):
        if notes != whole:
            keep = np.array([one == notes for one in held])
            moved = [note[:2] for note in notes] != [note[:2] for note in whole]
            yield Choice(OtherShape(_placed(notes), moved), everywhere & keep)
    same = np.array([one == whole for one in held])
    positions = np.array([grip.position for grip in grips])
    for position in np.unique(positions[same]):
        if position != chosen.position:
            keep = same & (positions == position)
            yield Choice(OtherPosition(_placed(whole), int(position)), everywhere & keep)


def _placed(notes: tuple[Fretted, ...]) -> tuple[tuple[Place, int], ...]:
    return tuple((Place(string, fret), finger) for string, fret, finger in notes)
