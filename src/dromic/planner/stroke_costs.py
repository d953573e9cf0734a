"""What it costs to sound a step with each stroke on each string, whatever comes before."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from dromic.hands.picking import PickStates
from dromic.hands.profile import Comfort
from dromic.music.riff import Mark, Stroke
from dromic.planner.steps import Step
from dromic.schools.school import PICK, School

Floats = NDArray[np.float64]


def sounding_means(step: Step, school: School) -> tuple[Stroke, ...]:
    """What may sound a step; one plucking finger does not strike a chord where there is a pick to do it."""
    if not step.more:
        return school.means
    means = PICK if set(PICK) <= set(school.means) else school.means
    return (
        (*means, Stroke.CHORD_PLUCK) if len(step.notes) <= len(school.chord_pluckers) and not step.raked else means
    )


class StrokeCosts:
    """Efforts of strokes at steps, remembered.

    Parameters
    ----------
    states : PickStates
    strings : int
    comfort : Comfort
    """

    def __init__(self, states: PickStates, strings: int, comfort: Comfort) -> None:
        self._states, self._strings, self._comfort = states, strings, comfort
        self._known: dict[tuple[object, ...], Floats] = {}

    def efforts(self, step: Step, school: School) -> Floats:
        """Efforts of each pick state on each string, shape (picks, strings); infinite where forbidden."""
        if not step.picked:
            return np.zeros((len(self._states), self._strings))
        accent = Mark.ACCENT in step.note.marks
        key = (school, step.place, step.count, step.opening, step.locks.stroke, accent, len(step.more), step.raked)
        found = self._known.get(key)
        if found is None:
            found = self._known[key] = self._worked_out(step, school)
        return found

    def _worked_out(self, step: Step, school: School) -> Floats:
        strings = self._strings
        efforts = np.zeros((len(self._states), strings))
        means = sounding_means(step, school)
        for index, stroke in enumerate(self._states.strokes):
            if stroke not in means or step.locks.stroke not in (None, stroke):
                efforts[index] = np.inf
                continue
            comfort = sum(self.parts(step, index).values())
            for string in range(strings):
                if step.raked and not step.more and not self._can_rake(index, string):
                    efforts[index, string] = np.inf
                    continue
                verdict = school.stroke_verdict(step.strike(stroke, strings - string))
                efforts[index, string] = comfort + verdict.effort if verdict.allowed else np.inf
        return efforts

    def _can_rake(self, pick_state: int, string: int) -> bool:
        """Whether a pick has strings to drag across on its way to a string."""
        direction = self._states.direction[pick_state]
        return bool(string > 0 if direction > 0 else direction and string < self._strings - 1)

    def parts(self, step: Step, pick_state: int) -> dict[str, float]:
        """Named comfort efforts of a stroke at a step."""
        comfort = self._comfort
        up, down = (self._states.strokes[pick_state] is one for one in (Stroke.UP, Stroke.DOWN))
        lean = self._states.escape[pick_state] or self._states.escape[0]
        stroke = self._states.strokes[pick_state]
        together, brushed = stroke is Stroke.CHORD_PLUCK, stroke not in (*PICK, Stroke.CHORD_PLUCK)
        return {
            "fingers plucking together": comfort.plucked_together * len(step.more) * together,
            "one finger brushing across": comfort.brushed * len(step.more) * brushed,
            "an up on a beat": comfort.up_on_beat if up and step.place.on_beat else 0.0,
            "a down between beats": comfort.down_between if down and step.place.part % 2 else 0.0,
            "an up on an accent": comfort.up_on_accent if up and Mark.ACCENT in step.note.marks else 0.0,
            "a lean that is not the habitual one": comfort.other_lean
            if lean and lean != self._states.escape[0]
            else 0.0,
        }
