"""Every other choice that a player could make for one note, and which joint states make it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Bools, Ints
from dromic.hands.grips import Fretted, Grip
from dromic.music.riff import Place, Stroke
from dromic.planner.costs.candidates import GripFinder
from dromic.planner.solving.problem import Problem
from dromic.planner.task.state import State
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
        # A slur is decided for every round of its phrase, and has to be possible in each.
        self._struck = {
            step.moment.event_index
            for step, node in zip(problem.steps, problem.nodes, strict=True)
            if False not in node.blocks
        }

    def plain_of(self, step: int) -> Ints:
        """Of each joint state of a step, in layers or not, the one without layers; shape (joint states,)."""
        return self._problem.layers.plain_of(step)

    def at(self, step: int, chosen: Sequence[State]) -> Choices:
        """Return the choices for a step other than what a plan does there.

        Parameters
        ----------
        step : int
        chosen : sequence of State
            What the plan does at all steps.
        """
        problem = self._problem
        own, near = problem.steps[step], _positions_around(problem.finder, step, chosen)
        may_slur = own.moment.event_index not in self._struck
        key = (problem.nodes[step], own.picked, bool(own.more), chosen[step], near, may_slur)
        found = self._known.get(key)
        if found is None:
            named = tuple(_choices(problem, step, chosen[step], near, may_slur))
            keep = np.array([one.keep.ravel() for one in named], dtype=bool)
            joint = len(problem.chain.node_costs[step])
            found = self._known[key] = Choices(named, keep.reshape(len(named), joint))
        return found


def _positions_around(finder: GripFinder, step: int, chosen: Sequence[State]) -> frozenset[int] | None:
    """Where the hand may as well be at a step of open strings: over the frets before or behind; None elsewhere."""
    if chosen[step].grip.fretted:
        return None
    ways = range(step - 1, -1, -1), range(step + 1, len(chosen))
    near = (next((chosen[at] for at in way if chosen[at].grip.fretted), None) for way in ways)
    frets = {fret for state in near if state is not None for _, fret, finger in state.grip.sounding if finger}
    return frozenset(position for fret in frets for position in finder.positions_over(fret, together=False))


def _choices(
    problem: Problem, step: int, chosen: State, near: frozenset[int] | None, may_slur: bool
) -> Iterator[Choice]:
    node, strokes, own = problem.nodes[step], problem.model.picking.strokes, problem.steps[step]
    rows = [(stroke, sounded) for sounded in node.blocks for stroke in strokes]
    everywhere = np.ones((len(rows), len(node.grips)), dtype=bool)
    if own.picked:
        if may_slur and chosen.sounded:
            slurred = np.array([not sounded for _, sounded in rows])
            yield Choice(OtherStroke(Stroke.NONE), everywhere & slurred[:, None])
        for stroke in dict.fromkeys(strokes):
            if stroke is not chosen.stroke or not chosen.sounded:
                struck = np.array([one is stroke and sounded for one, sounded in rows])
                yield Choice(OtherStroke(stroke), everywhere & struck[:, None])
    if own.more:
        yield from _chord_choices(node.grips.rows, everywhere, chosen, near)
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
        if position != chosen.position and (near is None or position in near):
            keep = by_finger & (positions == position)
            yield Choice(OtherPosition(((place, chosen.finger),), int(position)), everywhere & keep)


def _chord_choices(
    grips: Sequence[Grip], everywhere: Bools, chosen: State, near: frozenset[int] | None
) -> Iterator[Choice]:
    """Every other way to hold a chord."""
    # What is held on from before is no choice of this chord's.
    held = [grip.notes for grip in grips]
    whole = chosen.grip.notes
    for notes in dict.fromkeys(held):
        if notes != whole:
            keep = np.array([one == notes for one in held])
            moved = [note[:2] for note in notes] != [note[:2] for note in whole]
            yield Choice(OtherShape(_placed(notes), moved), everywhere & keep)
    same = np.array([one == whole for one in held])
    positions = np.array([grip.position for grip in grips])
    for position in np.unique(positions[same]):
        if position != chosen.position and (near is None or position in near):
            keep = same & (positions == position)
            yield Choice(OtherPosition(_placed(whole), int(position)), everywhere & keep)


def _placed(notes: tuple[Fretted, ...]) -> tuple[tuple[Place, int], ...]:
    return tuple((Place(string, fret), finger) for string, fret, finger in notes)
