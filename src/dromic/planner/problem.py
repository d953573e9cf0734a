"""One riff made ready for the search: model, candidates and chain, for one form of the school."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dromic.errors import NoPlanError
from dromic.hands.fretting import FretStates
from dromic.hands.profile import Hands
from dromic.hands.shapes import ShapeStates, single_shape
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Stroke
from dromic.planner.candidates import SharedStates, candidate_states
from dromic.planner.loops import least_largest_value_loop, least_sum_loop
from dromic.planner.model import Floats, Ints, Model
from dromic.planner.moves import Moves
from dromic.planner.phrase_takes import RepeatedPhrase, repeated_phrases
from dromic.planner.plan import State
from dromic.planner.search import (
    Chain,
    DeadEndError,
    Path,
    backward_sums,
    check_reached,
    forward_sums,
    least_largest_value,
    least_sum,
    path_from,
    path_to,
    traced,
)
from dromic.planner.steps import Link, Step, Task
from dromic.schools.school import School

LOAD_TOLERANCE = 1e-9
LINKS_AT_ONCE = 64
Watch = Callable[[float], None]


@dataclass(frozen=True)
class Setting:
    """What a riff is planned for and under, all but the task itself."""

    instrument: Instrument
    hands: Hands
    rules: School
    by_phrase: tuple[tuple[int, School], ...]
    tempo: float
    high_gain: bool

    def model(self, *, chords: bool = False) -> Model:
        """Return the movement model of this setting; `chords` tells whether notes are struck together."""
        return Model(
            self.instrument,
            self.hands,
            self.rules,
            self.tempo,
            high_gain=self.high_gain,
            by_phrase=dict(self.by_phrase),
            chords=chords,
        )


class Problem:
    """A task in a setting.

    Parameters
    ----------
    setting : Setting
    task : Task
    steps : sequence of Step or None
        Steps to use in place of the task's own (some locks taken out, or only the first few).
    like : Problem or None
        One that was solved before; what the two have in common is not worked out again.
    """

    def __init__(
        self,
        setting: Setting,
        task: Task,
        steps: Sequence[Step] | None = None,
        like: Problem | None = None,
    ) -> None:
        self.setting, self.task = setting, task
        self.steps = tuple(task.steps if steps is None else steps)
        chords = any(step.more for step in task.steps)
        if like is not None and (like.setting, like.chords) != (setting, chords):
            like = None
        self._like: Problem | None = like
        self.chords: bool = chords
        self.model: Model = setting.model(chords=chords) if like is None else like.model
        self._shared: SharedStates = {} if like is None else like._shared
        # Equal links are one object, in problems that share a model too.
        self._link_objects: dict[Link, Link] = {} if like is None else like._link_objects
        self.links = [self._link_objects.setdefault(link, link) for link in task.links]
        alike = [run.places(offset) for run in self._runs for offset in range(run.length)]
        self.states: list[FretStates] = candidate_states(
            self.steps, setting.instrument, setting.hands.fretting, alike, self._shared
        )
        efforts = [
            self.model.step_efforts(step, states) for step, states in zip(self.steps, self.states, strict=True)
        ]
        self.chain = Chain(efforts, self.costs, self.moves)
        self.found: Path | None = None
        self._ahead: list[Floats] = [] if like is None else like._ahead[: self._same_ahead]
        self._behind: list[Floats] = [] if like is None else like._behind[-self._same_behind or len(like.steps) :]
        self._next_to_prepare = 0

    @property
    def _runs(self) -> tuple[RepeatedPhrase, ...]:
        """Phrases whose takes are to be played alike; none for a part of the steps."""
        return repeated_phrases(self.steps) if self.task.alike and len(self.steps) == len(self.task.steps) else ()

    def _prepare(self) -> None:
        """Let the model work out the next links together."""
        start = self._next_to_prepare
        end = min(start + LINKS_AT_ONCE, len(self.steps) - 1)
        self.model.prepare((self.states[at], self.states[at + 1], self.links[at]) for at in range(start, end))
        self._next_to_prepare = end

    def _link(self, index: int) -> tuple[FretStates, FretStates, School]:
        return self.states[index], self.states[index + 1], self.model.school_of(self.steps[index + 1])

    def moves(self, index: int) -> Moves:
        """Moves over the link after step `index`."""
        before, after, school = self._link(index)
        if index == self._next_to_prepare:
            self._prepare()
        return self.model.moves(before, after, self.links[index], school)

    def costs(self, index: int) -> Floats:
        """Costs of the link after step `index`, as one table."""
        return self.moves(index).dense()

    def loads(self, index: int) -> Floats:
        """Loads of the link after step `index`."""
        before, after, school = self._link(index)
        return self.model.loads(before, after, self.links[index], school)

    def pair_loads(self, index: int, one: Ints, two: Ints) -> Floats:
        """Loads between pairs of joint states over the link after step `index`."""
        before, after, school = self._link(index)
        return self.model.pair_loads(before, after, self.links[index], school, one, two)

    def watched(self, watch: Watch, passes: int) -> None:
        """Call `watch` with the share of the work done whenever the chain is asked for a link."""
        everything = max(passes * (len(self.steps) - 1), 1)
        asked = 0

        def moves(index: int) -> Moves:
            nonlocal asked
            asked += 1
            watch(min(asked / everything, 1.0))
            return self.moves(index)

        self.chain = Chain(self.chain.efforts, lambda index: moves(index).dense(), moves)

    @cached_property
    def seam(self) -> tuple[Floats, Floats] | None:
        """Costs and loads of the link from the last step back to the first."""
        if self.task.seam is None:
            return None
        before, after, school = self.states[-1], self.states[0], self.model.school_of(self.steps[0])
        return (
            self.model.costs(before, after, self.task.seam, school),
            self.model.loads(before, after, self.task.seam, school),
        )

    def bounded(self, bound: float) -> Chain:
        """The chain with every move taken out whose load is above a bound."""
        if not np.isfinite(bound):
            return self.chain
        chain = self.chain
        return Chain(chain.efforts, lambda index: np.where(self.loads(index) <= bound, chain.link(index), np.inf))

    def load_bound(self, objective: str) -> float:
        """Smallest largest load of any plan, with a little tolerance; infinite for least effort."""
        if objective != "tempo":
            return np.inf
        if self.seam is None:
            value = least_largest_value(self.chain, self.loads)
        else:
            value = least_largest_value_loop(self.chain, self.loads, *self.seam)
        return value * (1 + LOAD_TOLERANCE)

    def solve(self, bound: float, *, joined: bool = False) -> Path:
        """Find the best plan whose loads stay within a bound.

        Parameters
        ----------
        bound : float
        joined : bool
            Search only from where this problem begins to differ from the one before to where it ends to. That is
            faster, and of several equally good plans it may find another.

        Raises
        ------
        DeadEndError
        """
        chain = self.bounded(bound)
        if self.seam is not None:
            cost, load = self.seam
            self.found = least_sum_loop(chain, np.where(load <= bound, cost, np.inf))
        elif chain is self.chain:
            self.found = (self._joined() if joined else None) or traced(chain, self.ahead)
        else:
            self.found = least_sum(chain)
        # Or every problem would keep all those before it.
        self._like = None
        return self.found

    @property
    def ahead(self) -> list[Floats]:
        """Least sums up to every state, for least effort.

        Raises
        ------
        DeadEndError
        """
        return self._ahead_to(len(self.steps) - 1)

    @property
    def behind(self) -> list[Floats]:
        """Least sums on from every state, for least effort."""
        return self._behind_to(0)

    def _ahead_to(self, step: int) -> list[Floats]:
        """Least sums up to the states of the first steps, worked out as far as they are wanted."""
        if len(self._ahead) <= step:
            self._next_to_prepare = max(len(self._ahead) - 1, 0)
            chain = Chain(self.chain.efforts[: step + 1], self.chain.link, self.chain.parts)
            self._ahead = forward_sums(chain, known=self._ahead)
            for number, sums in enumerate(self._ahead):
                check_reached(sums, number)
        return self._ahead

    def _behind_to(self, step: int) -> list[Floats]:
        """Least sums on from the states of the last steps; those before a step may be missing."""
        if len(self._behind) < len(self.steps) - step:
            chain = Chain(
                self.chain.efforts[step:],
                lambda link: self.chain.link(link + step),
                lambda link: self.chain.moves(link + step),
            )
            self._behind = backward_sums(chain, known=self._behind)
        return self._behind

    # -- what a problem solved before knows already ---------------------------------------------------------

    @cached_property
    def _same_ahead(self) -> int:
        """How many steps at the start are as in the problem before, the links between them too."""
        like, count = self._like, 0
        if like is None:
            return 0
        most = min(len(self.steps), len(like.steps))
        while count < most and self._same(like, count, count):
            if count and self.links[count - 1] is not like.links[count - 1]:
                break
            count += 1
        return count

    @cached_property
    def _same_behind(self) -> int:
        """How many steps at the end are as in the problem before, the links between them too."""
        like, count = self._like, 0
        if like is None:
            return 0
        while count < min(len(self.steps), len(like.steps)):
            mine, its = len(self.steps) - 1 - count, len(like.steps) - 1 - count
            if not self._same(like, mine, its) or (count and self.links[mine] is not like.links[its]):
                break
            count += 1
        return count

    def _joined(self) -> Path | None:
        """The best path, sought only from where this problem begins to differ to where it ends to.

        None where there is no problem before it.
        """
        like = self._like
        if like is None or like.found is None or self.task.seam is not None:
            return None
        count, moved = len(self.steps), len(self.steps) - len(like.steps)
        join = min(count - self._same_behind, count - 1)
        ahead, behind = self._ahead_to(join), self._behind_to(join)
        whole = ahead[join] + behind[join - count]
        state = int(whole.argmin())
        if not np.isfinite(whole[state]):
            return None
        onward = [np.zeros(0)] * (count - len(behind)) + behind
        later = [-1] * count
        later[join:] = like.found.path[join - moved :] if self._same_behind else [-1] * (count - join)
        before = path_to(self.chain, ahead, join, state, like.found.path[: self._same_ahead])
        after = path_from(self.chain, onward, join, state, later)
        return Path((*before, state, *after), float(whole[state]))

    def _same(self, like: Problem, mine: int, its: int) -> bool:
        """Whether a step has the same states and efforts as one of another problem."""
        return self.states[mine] is like.states[its] and np.array_equal(
            self.chain.efforts[mine], like.chain.efforts[its]
        )

    def state(self, step: int, joint: int) -> State:
        """A joint state in words of the trade."""
        states = self.states[step]
        row, fret = divmod(joint, len(states))
        slurred, pick = divmod(row, self.model.pick_count)
        signs = {1: Stroke.DOWN, -1: Stroke.UP}
        strings = self.model.instrument.strings
        shape = states.shapes[fret] if isinstance(states, ShapeStates) else single_shape(states, fret)

        def places(notes: Sequence[tuple[int, int, int]]) -> tuple[tuple[int, int, int], ...]:
            return tuple((strings - string, one, finger) for string, one, finger in notes)

        return State(
            places(shape.struck),
            shape.position,
            self.model.strokes[pick],
            signs.get(int(self.model.states.escape[pick]), Stroke.NONE),
            self.steps[step].picked and not slurred,
            places([note for note in shape.notes if note not in shape.struck]),
        )

    def works(self, steps: Sequence[Step]) -> bool:
        """Whether some steps have a plan in the same setting, the seam left out."""
        try:
            least_sum(Problem(self.setting, self.task, steps).chain)
        except (NoPlanError, DeadEndError):
            return False
        return True
