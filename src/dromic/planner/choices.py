"""Every other choice that a player could make for one note, and which joint states make it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.hands.shapes import ShapeStates
from dromic.music.riff import Place, Stroke
from dromic.planner.plan import State
from dromic.planner.problem import Problem
from dromic.planner.ways import OtherFinger, OtherPlace, OtherPosition, OtherShape, OtherStroke, OtherWay

Bools = NDArray[np.bool_]


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

    def at(self, step: int, chosen: State) -> Choices:
        """Return the choices for a step other than the chosen one."""
        problem = self._problem
        own = problem.steps[step]
        key = (problem.states[step], own.picked, bool(own.more), chosen)
        found = self._known.get(key)
        if found is None:
            named = tuple(_choices(problem, step, chosen))
            keep = np.array([one.keep.ravel() for one in named], dtype=bool)
            joint = len(problem.chain.efforts[step])
            found = self._known[key] = Choices(named, keep.reshape(len(named), joint))
        return found


def _choices(problem: Problem, step: int, chosen: State) -> Iterator[Choice]:
    states, model = problem.states[step], problem.model
    everywhere = np.ones((len(model.rows), len(states)), dtype=bool)
    if problem.steps[step].picked:
        if model.slurs and chosen.sounded:
            slurred = np.array([not sounded for _, sounded in model.rows])
            yield Choice(OtherStroke(Stroke.NONE), everywhere & slurred[:, None])
        for stroke in dict.fromkeys(model.strokes):
            if stroke is not chosen.stroke or not chosen.sounded:
                rows = np.array([one is stroke and sounded for one, sounded in model.rows])
                yield Choice(OtherStroke(stroke), everywhere & rows[:, None])
    if isinstance(states, ShapeStates):
        if problem.steps[step].more:
            yield from _shape_choices(states, model.instrument.strings, everywhere, chosen)
            return
        states = states.sounded
    strings = model.instrument.strings - states.string
    for string in np.unique(strings):
        at = strings == string
        if string != chosen.string:
            yield Choice(OtherPlace(Place(int(string), int(states.fret[at][0]))), everywhere & at)
    here = strings == chosen.string
    place = Place(chosen.string, chosen.fret)
    for finger in np.unique(states.finger[here]):
        if finger != chosen.finger:
            keep = everywhere & (here & (states.finger == finger))
            yield Choice(OtherFinger(place, int(finger)), keep)
    by_finger = here & (states.finger == chosen.finger)
    for position in np.unique(states.position[by_finger]):
        if position != chosen.position:
            keep = by_finger & (states.position == position)
            yield Choice(OtherPosition(((place, chosen.finger),), int(position)), everywhere & keep)


def _shape_choices(states: ShapeStates, strings: int, everywhere: Bools, chosen: State) -> Iterator[Choice]:
    """Every other way to hold a chord."""
    held = [tuple((strings - one, fret, finger) for one, fret, finger in shape.notes) for shape in states.shapes]
    whole = tuple(sorted((*chosen.notes, *chosen.held), reverse=True))
    for notes in dict.fromkeys(held):
        if notes != whole:
            keep = np.array([one == notes for one in held])
            moved = [note[:2] for note in notes] != [note[:2] for note in whole]
            yield Choice(OtherShape(_placed(notes), moved), everywhere & keep)
    positions = np.array([one == whole for one in held])
    for position in np.unique(states.position[positions]):
        if position != chosen.position:
            keep = positions & (states.position == position)
            yield Choice(OtherPosition(_placed(whole), int(position)), everywhere & keep)


def _placed(notes: tuple[tuple[int, int, int], ...]) -> tuple[tuple[Place, int], ...]:
    return tuple((Place(string, fret), finger) for string, fret, finger in notes)
