"""Where fingers and pick are at any time of a plan. Pure arithmetic, without Qt.

Fingers stay while their note sounds and move late, as the chart draws the hand; a stroke passes its strings at the
onset, and the pick travels from where it ended to where the next begins: above the strings where the lean takes it
there, else between them, with a hop over each string that it has to clear.
"""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from dromic.hands.fingers import FINGERS, THUMB
from dromic.hands.picking import PICK
from dromic.hands.posture import spread_on
from dromic.music.riff import Stroke
from dromic.planner.plan import Plan, StrokeKind
from dromic.planner.task.state import State

# Of the time between two notes: when fingers set out and arrive, and when those that are done lift.
SETS_OUT, ARRIVES, LIFTS = 0.45, 0.97, 0.6
STROKE_S, OF_GAP = 0.045, 0.25
REACH, REST_REACH = 0.45, 0.85


@dataclass(frozen=True)
class FingerPose:
    """A finger: where along the neck in mm, on which string from the thickest (0), how far down, if it moves."""

    finger: int
    mm: float
    string: float
    down: float
    moves: bool


@dataclass(frozen=True)
class PickPose:
    """The pick: across the strings from the thickest (0), how high above them (1 is clear), and its stroke."""

    string: float
    height: float
    stroke: Stroke
    strikes: bool


@dataclass(frozen=True)
class Pose:
    """Both hands at one moment."""

    step: int
    fingers: tuple[FingerPose, ...]
    home_mm: float
    pick: PickPose | None
    plucks: Stroke | None


class Motion:
    """The movement of both hands through a plan.

    Parameters
    ----------
    plan : Plan
    """

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self._spread = [float(one) for one in spread_on(plan.instrument, plan.hands.fretting)]

    @cached_property
    def onsets_s(self) -> list[float]:
        """When each note begins, in seconds at the plan's tempo."""
        per_quarter = 60.0 / self.plan.tempo
        return [float(step.moment.played) * per_quarter for step in self.plan.task.steps]

    @cached_property
    def seconds(self) -> float:
        """How long it lasts."""
        return float(self.plan.events[-1].moment.ends) * 60.0 / self.plan.tempo

    def step_at(self, at_s: float) -> int:
        """The note that sounds at a time."""
        return max(bisect_right(self.onsets_s, at_s + 1e-9) - 1, 0)

    def pose(self, at_s: float) -> Pose:
        """Where everything is at a time."""
        step = self.step_at(at_s)
        last = step + 1 >= len(self.onsets_s)
        end = self.seconds if last else self.onsets_s[step + 1]
        gap = max(end - self.onsets_s[step], 1e-9)
        share = min(max((at_s - self.onsets_s[step]) / gap, 0.0), 1.0)
        here = self.plan.states[step]
        after = here if last else self.plan.states[step + 1]
        moved = _eased((share - SETS_OUT) / (ARRIVES - SETS_OUT))
        home = self._home(here) + moved * (self._home(after) - self._home(here))
        plucks = here.stroke if here.sounded and here.stroke not in PICK and share < OF_GAP else None
        return Pose(step, self._fingers(here, after, share, moved), home, self._pick(at_s, step), plucks)

    def _home(self, state: State) -> float:
        return float(self.plan.instrument.spots[max(state.position, 0)])

    def _down(self, state: State) -> dict[int, tuple[float, float]]:
        spots, index = self.plan.instrument.spots, self.plan.instrument.index
        return {
            finger.finger: (float(spots[finger.fret]), (index(finger.thickest) + index(finger.thinnest)) / 2)
            for finger in state.grip.fingers
        }

    def _hovers(self, state: State, finger: int) -> tuple[float, float]:
        """Where a finger is that is not down: at ease over its fret, at the strings that are played."""
        index = self.plan.instrument.index
        return self._home(state) + self._spread[finger], float(index(state.string))

    def _fingers(self, here: State, after: State, share: float, moved: float) -> tuple[FingerPose, ...]:
        down, coming = self._down(here), self._down(after)
        fingers = []
        for finger in (*FINGERS, *({THUMB} & (down.keys() | coming.keys()))):
            start = down.get(finger) or self._hovers(here, finger)
            end = coming.get(finger) or self._hovers(after, finger)
            stays = finger in down and finger in coming and start == end
            mm, string = (one + moved * (two - one) for one, two in zip(start, end, strict=True))
            pressed = 1.0 if stays else 0.0
            if finger in down and not stays:
                pressed = 1.0 - _eased((share - SETS_OUT) / (LIFTS - SETS_OUT))
            if finger in coming and not stays and here is not after:
                pressed = max(pressed, _eased((share - 0.8) / (ARRIVES - 0.8)))
            moves = not stays and start != end and 0.0 < moved < 1.0
            fingers.append(FingerPose(finger, mm, string, pressed, moves))
        return tuple(fingers)

    # -- the pick -------------------------------------------------------------------------------------------------

    @cached_property
    def _strokes(self) -> list[int]:
        """Steps that the pick sounds."""
        return [at for at, state in enumerate(self.plan.states) if state.sounded and state.stroke in PICK]

    def _ends(self, step: int) -> tuple[float, float]:
        """Where a stroke begins and ends, across the strings."""
        state, index = self.plan.states[step], self.plan.instrument.index
        way = 1.0 if state.stroke is Stroke.DOWN else -1.0
        rests = self.plan.event_of_step(step).stroke_kind is StrokeKind.REST
        return index(state.begins) - way * REACH, index(state.ends) + way * (REST_REACH if rests else REACH)

    def _half_s(self, number: int) -> float:
        """Half the time that a stroke takes."""
        onsets = [self.onsets_s[step] for step in self._strokes[max(number - 1, 0) : number + 2]]
        gaps = [two - one for one, two in pairwise(onsets) if two > one]
        return min([STROKE_S, *(gap * OF_GAP for gap in gaps)])

    def _pick(self, at_s: float, step: int) -> PickPose | None:
        strokes = self._strokes
        if not strokes:
            return None
        number = max(bisect_right([self.onsets_s[stroke] for stroke in strokes], at_s + 1e-9) - 1, 0)
        for near in (number, min(number + 1, len(strokes) - 1)):
            half, onset = self._half_s(near), self.onsets_s[strokes[near]]
            if abs(at_s - onset) <= half:
                start, end = self._ends(strokes[near])
                share = (at_s - onset + half) / (2 * half)
                return PickPose(
                    start + share * (end - start), 0.0, self.plan.states[strokes[near]].stroke, strikes=True
                )
        here, following = strokes[number], strokes[min(number + 1, len(strokes) - 1)]
        state = self.plan.states[here]
        onset = self.onsets_s[here]
        if at_s < onset:
            return PickPose(self._ends(here)[0], 0.0, state.stroke, strikes=False)
        _, left = self._ends(here)
        if following == here:
            return PickPose(left, 1.0 if state.escape is state.stroke else 0.0, state.stroke, strikes=False)
        goal, _ = self._ends(following)
        start_s, end_s = onset + self._half_s(number), self.onsets_s[following] - self._half_s(number + 1)
        share = _eased((at_s - start_s) / max(end_s - start_s, 1e-9))
        above = state.escape is state.stroke
        return PickPose(
            left + share * (goal - left), self._height(left, goal, share, above=above), state.stroke, False
        )

    def _height(self, start: float, goal: float, share: float, *, above: bool) -> float:
        """How high the pick is on its way: in the air where its lean takes it, else a hop over what it clears."""
        bump = 4 * share * (1 - share)
        low, high = sorted((start, goal))
        clears = any(low < string < high for string in range(self.plan.instrument.strings))
        if above:
            return min(share * 6, 1.0) * (1.0 - share**4)
        return bump if clears else 0.0


def _eased(share: float) -> float:
    """From 0 to 1, slow at both ends."""
    inside = min(max(share, 0.0), 1.0)
    return inside * inside * (3 - 2 * inside)
