"""One riff made ready for the search: model, grips and chain, for one form of the school."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, partial

import numpy as np

from dromic.arrays import Bools
from dromic.errors import NoPlanError
from dromic.hands.grips import Grips
from dromic.hands.profile import Hands
from dromic.hands.style import Sound
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Stroke
from dromic.planner.candidates import GripFinder
from dromic.planner.figure_layers import FigureLayers
from dromic.planner.limits import ANY, Limits
from dromic.planner.model import Model, Node, means_of
from dromic.planner.moves import Moves
from dromic.planner.phrase_takes import RepeatedPhrase, repeated_phrases
from dromic.planner.plan import State
from dromic.planner.search import Chain, DeadEndError, least_sum
from dromic.planner.solving import Solver
from dromic.planner.step import Step
from dromic.planner.steps import Link, Task
from dromic.schools.school import School

LINKS_AT_ONCE = 64
Watch = Callable[[float], None]


@dataclass(frozen=True)
class Setting:
    """What a riff is planned for and under, all but the task itself."""

    instrument: Instrument
    hands: Hands
    rules: School
    by_phrase: tuple[tuple[int, School], ...]
    sound: Sound
    limits: Limits = ANY

    def school_of(self, step: Step) -> School:
        """School that rules a step."""
        return dict(self.by_phrase).get(step.moment.phrase, self.rules)

    def model(self, steps: Sequence[Step]) -> Model:
        """Return the movement model of this setting for some steps."""
        return Model(
            self.instrument,
            self.hands,
            self.rules,
            sound=self.sound,
            by_phrase=dict(self.by_phrase),
            steps=steps,
        )


class Problem:
    """A task in a setting.

    Parameters
    ----------
    setting : Setting
    task : Task
    steps : sequence of Step or None
        Steps to use in place of the task's own (some locks taken out, or only the first few).
    previous : Problem or None
        One that was solved before; what the two have in common is not worked out again.
    watch : callable or None
        Called with the share of the work done whenever a link is asked for.
    passes : int
        How often the chain will be gone through, for the share of the work.
    """

    def __init__(
        self,
        setting: Setting,
        task: Task,
        steps: Sequence[Step] | None = None,
        previous: Problem | None = None,
        watch: Watch | None = None,
        passes: int = 1,
    ) -> None:
        self.setting, self.task = setting, task
        self.steps = tuple(task.steps if steps is None else steps)
        self.means = means_of(task.steps, setting.school_of)
        if previous is not None and (previous.setting, previous.means) != (setting, self.means):
            previous = None
        self.model: Model = setting.model(task.steps) if previous is None else previous.model
        self.finder: GripFinder = (
            GripFinder(setting.instrument, setting.hands.fretting) if previous is None else previous.finder
        )
        # Equal links are one object, in problems that share a model too.
        self._link_objects: dict[Link, Link] = {} if previous is None else previous._link_objects
        tied = [phrase.places(offset) for phrase in self._phrases for offset in range(phrase.length)]
        grips = self.finder.all(self.steps, tied)
        self.nodes: list[Node] = [self.model.node(*pair) for pair in zip(self.steps, grips, strict=True)]
        self.links = [self._shared(link, node) for link, node in zip(task.links, self.nodes, strict=False)]
        costs = [self.model.node_costs(*pair) for pair in zip(self.steps, self.nodes, strict=True)]
        self._allowed: dict[tuple[Grips, Limits], Bools] = {}
        if setting.limits:
            allowed = (self.allowed(step, setting.limits) for step in range(len(self.steps)))
            costs = [np.where(some, own, np.inf) for some, own in zip(allowed, costs, strict=True)]
        self._watch, self._to_ask, self._asked = watch, max(passes * (len(self.steps) - 1), 1), 0
        self.chain = Chain(costs, self.moves)
        self.edge_keys: list[object] = [
            (link, self.model.school_of(step)) for link, step in zip(self.links, self.steps[1:], strict=False)
        ]
        whole = len(self.steps) == len(task.steps)
        self.layers = FigureLayers(
            task.figures if whole else (), self.nodes, self.model.picks, setting.hands.comfort
        )
        self._previous_solver = None if previous is None else previous.solver
        self._prepared = 0

    @cached_property
    def solver(self) -> Solver:
        """What searches the chain."""
        layers, keys = self.layers, self.edge_keys
        nodes: list[object] = list(self.nodes)
        if layers:
            nodes = [layers.key(step) for step in range(len(nodes))]
            keys = [(key, layers.link_key(link)) for link, key in enumerate(keys)]
        widened = partial(layers.chain, keys=self.edge_keys) if layers else None
        solver = Solver(self.chain, self.seam, nodes, keys, self._previous_solver, widened)
        # Or every problem would keep all those before it.
        self._previous_solver = None
        return solver

    def allowed(self, step: int, limits: Limits) -> Bools:
        """Which joint states of a step keep within limits, shape (joint states,)."""
        node = self.nodes[step]
        key = node.grips, limits
        found = self._allowed.get(key)
        if found is None:
            found = self._allowed[key] = limits.allow(node.grips)
        return np.tile(found, len(node.blocks) * self.model.picks)

    def _shared(self, link: Link, before: Node) -> Link:
        """The link as one object with all that are equal to it; how long the hand was free only where it can be."""
        if not before.grips.flies and len(before.blocks) == 1:
            link = replace(link, flights_ms=())
        return self._link_objects.setdefault(link, link)

    @property
    def _phrases(self) -> tuple[RepeatedPhrase, ...]:
        """Phrases whose repeats are to be identical; none for a part of the steps."""
        whole = self.task.identical_repeats and len(self.steps) == len(self.task.steps)
        return repeated_phrases(self.steps) if whole else ()

    def _ends(self, index: int) -> tuple[Node, Node, Link, School]:
        return (
            self.nodes[index],
            self.nodes[index + 1],
            self.links[index],
            self.model.school_of(self.steps[index + 1]),
        )

    def moves(self, index: int) -> Moves:
        """Moves over the link after step `index`."""
        if self._watch is not None:
            self._asked += 1
            self._watch(min(self._asked / self._to_ask, 1.0))
        if index % LINKS_AT_ONCE == 0 or index > self._prepared:
            end = min(index + LINKS_AT_ONCE, len(self.steps) - 1)
            some = range(index, end)
            self.model.prepare((self.nodes[at], self.nodes[at + 1], self.links[at]) for at in some)
            self._prepared = end
        return self.model.moves(*self._ends(index))

    @cached_property
    def seam(self) -> Moves | None:
        """The moves from the last step back to the first."""
        if self.task.seam is None:
            return None
        return self.model.moves(self.nodes[-1], self.nodes[0], self.task.seam, self.model.school_of(self.steps[0]))

    def state(self, step: int, joint: int) -> State:
        """A joint state, which may be in a layer, in words of the trade."""
        joint = int(self.layers.plain(step, joint))
        node, states = self.nodes[step], self.model.picking.states
        row, grip = divmod(joint, len(node.grips))
        block, pick = divmod(row, self.model.picks)
        escape = {1: Stroke.DOWN, -1: Stroke.UP}.get(int(states.escape[pick]), Stroke.NONE)
        return State(node.grips.rows[grip], states.strokes[pick], escape, node.blocks[block])

    def works(self, steps: Sequence[Step]) -> bool:
        """Whether some steps have a plan in the same setting, the seam left out."""
        try:
            least_sum(Problem(self.setting, self.task, steps).chain)
        except (NoPlanError, DeadEndError):
            return False
        return True
