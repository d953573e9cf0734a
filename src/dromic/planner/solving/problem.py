"""One riff made ready for the search: model, grips and chain, for one form of the school."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, partial

import numpy as np

from dromic.arrays import Bools, Floats
from dromic.errors import NoPlanError
from dromic.hands.grips import Grips
from dromic.hands.profile import Hands
from dromic.hands.style import Sound
from dromic.instrument.instrument import Instrument
from dromic.memory import Stages, cache, memo
from dromic.music.riff import Stroke
from dromic.planner.costs.candidates import finder_of
from dromic.planner.costs.figure_layers import FigureLayers
from dromic.planner.costs.model import Model, means_of
from dromic.planner.costs.nodes import Node
from dromic.planner.costs.swapped_rounds import SwappedRounds, opposite_picks, opposite_states, swapped_step
from dromic.planner.kernel import JoinedMoves
from dromic.planner.kernel.inputs import Layers
from dromic.planner.limits import ANY, Limits
from dromic.planner.search.chains import Chain, DeadEndError, least_sum
from dromic.planner.search.moves import Moves
from dromic.planner.search.solver import Solver
from dromic.planner.task.phrase_takes import RepeatedPhrase, repeated_phrases
from dromic.planner.task.state import State
from dromic.planner.task.step import Step
from dromic.planner.task.task import Link, Task
from dromic.schools.registry import FORMS
from dromic.schools.school import School

LINKS_AT_ONCE = 64
MOST_HELD_BYTES = 64 * 2**20
MORE_MODELS = 4
"""Models that are kept beside one for every form of a school: of other means, or of phrases' schools."""
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
        return dict(self.by_phrase).get(step.moment.phrase, self.rules) if self.by_phrase else self.rules

    def model(self, steps: Sequence[Step]) -> Model:
        """Return the movement model of this setting for some steps, with all that was worked out for it so far."""
        return self.model_with(means_of(steps, self.school_of))

    def model_with(self, means: tuple[Stroke, ...]) -> Model:
        """Return the movement model of this setting for steps that some means sound."""
        return _model_of(self.instrument, self.hands, self.rules, self.by_phrase, self.sound, means)


@cache(FORMS + MORE_MODELS)
def _model_of(
    instrument: Instrument,
    hands: Hands,
    rules: School,
    by_phrase: tuple[tuple[int, School], ...],
    sound: Sound,
    means: tuple[Stroke, ...],
) -> Model:
    return Model(instrument, hands, rules, sound=sound, by_phrase=dict(by_phrase), means=means)


def node_of(step: Step, grips: Grips, model: Model) -> tuple[Node, Floats]:
    """The joint states of a step, and what each costs.

    Parameters
    ----------
    step : Step
    grips : Grips
    model : Model
    """
    node = model.node(step, grips)
    return node, model.node_costs(step, node)


def edge_of(link: Link, before: Node, after: Step, model: Model) -> tuple[Link, School]:
    """A link as one object with all that are equal to it, and the school that rules what it leads to.

    How long the hand was free is left out where it was not, and where the pick need not know it.

    Parameters
    ----------
    link : Link
    before : Node
    after : Step
    model : Model
    """
    after_slur = False in before.blocks and link.picked and not link.sync.resumes
    if link.flights_ms and not before.grips.flies and not after_slur:
        link = memo(_not_free, link)
    return model.shared_link(link), model.school_of(after)


def _not_free(link: Link) -> Link:
    return replace(link, flights_ms=())


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
    stages : Stages or None
        What was made of this riff, step by step, before.
    """

    def __init__(
        self,
        setting: Setting,
        task: Task,
        steps: Sequence[Step] | None = None,
        previous: Problem | None = None,
        watch: Watch | None = None,
        passes: int = 1,
        stages: Stages | None = None,
    ) -> None:
        self.setting, self.task, self.swapped = setting, task, task.swapped
        self.steps = tuple(task.steps if steps is None else steps)
        self.model: Model = setting.model(task.steps)
        if previous is not None and (previous.model is not self.model or previous.setting.limits != setting.limits):
            previous = None
        self.finder = finder_of(self.model.fretting)
        tied = [phrase.places(offset) for phrase in self._phrases for offset in range(phrase.length)]
        self.stages = stages = stages or Stages()
        grips = self.finder.all(self.steps, tied, stages, setting.limits)
        made = stages.map(node_of, self.steps, grips, common=(self.model,))
        self.nodes: list[Node] = [node for node, _ in made]
        costs = [own for _, own in made]
        count = max(len(self.steps) - 1, 0)
        edges = stages.map(
            edge_of, task.links[:count], self.nodes[:count], self.steps[1 : count + 1], common=(self.model,)
        )
        self.links: list[Link] = [link for link, _ in edges]
        self.edge_keys: list[tuple[Link, School]] = edges
        self._allowed: dict[tuple[Grips, Limits], Bools] = {}
        if setting.limits:
            allowed = (self.allowed(step, setting.limits) for step in range(len(self.steps)))
            costs = [np.where(some, own, np.inf) for some, own in zip(allowed, costs, strict=True)]
        self._watch, self._to_ask, self._asked = watch, max(passes * (len(self.steps) - 1), 1), 0
        whole = len(self.steps) == len(task.steps)
        self.layers = FigureLayers(task.figures if whole else (), self.nodes, self.model, stages)
        self._previous_solver = None if previous is None or self.swapped or previous.swapped else previous.solver
        self._moves: list[JoinedMoves | None] = [None] * max(len(self.steps) - 1, 0)
        self._held = 0
        self._first_round = Chain(costs, self._joined_moves)
        self.chain = self._both_rounds(self._first_round, layered=False) if self.swapped else self._first_round

    @cached_property
    def solver(self) -> Solver:
        """What searches the chain."""
        layers = self.layers
        keys: list[object] = list(self.edge_keys)
        nodes: list[object] = list(self.nodes)
        if layers:
            nodes = [layers.key(step) for step in range(len(nodes))]
            keys = list(zip(keys, layers.link_keys, strict=True))
        widened: Callable[[Chain], Chain] | None = layers.chain if layers else None
        if layers and self.swapped:
            widened = partial(self._both_rounds_of, layers.chain(self._first_round))
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

    def _rounds(self, *, layered: bool) -> SwappedRounds:
        picks = opposite_picks(self.model.picking.states)
        plain = (Layers.of_masks(np.ones((1, len(node.grips)), dtype=bool)) for node in self.nodes)
        layers = (self.layers.of_step(step) for step in range(len(self.nodes))) if layered else plain
        return SwappedRounds(
            [opposite_states(own, len(node.blocks), picks) for own, node in zip(layers, self.nodes, strict=True)]
        )

    def _both_rounds_of(self, layered: Chain, _plain: Chain) -> Chain:
        return self._both_rounds(layered, layered=True)

    def _both_rounds(self, first: Chain, *, layered: bool) -> Chain:
        """A chain of the first round as that of two, the second with the other strokes."""
        second = [
            self.model.node_costs(swapped_step(step, self.model.picking.strokes), node)
            for step, node in zip(self.steps, self.nodes, strict=True)
        ]
        if layered:
            second = [own[self.layers.plain_of(step)] for step, own in enumerate(second)]
        return self._rounds(layered=layered).chain(first, second)

    def moves(self, index: int) -> Moves:
        """Moves over the link after step `index`."""
        return self.chain.moves(index)

    def _joined_moves(self, index: int) -> JoinedMoves:
        """Both hands' moves over the link after step `index`."""
        if self._watch is not None:
            self._asked += 1
            self._watch(min(self._asked / self._to_ask, 1.0))
        joined_moves = self._moves[index]
        if joined_moves is None:
            first = index - index % LINKS_AT_ONCE
            some = range(first, min(first + LINKS_AT_ONCE, len(self._moves)))
            self.model.prepare((self.nodes[at], self.nodes[at + 1], self.links[at]) for at in some)
            for at in some:
                made = self._moves[at] = self.model.moves(*self._ends(at))
                self._held += made.nbytes
            joined_moves = self._moves[index]
            assert joined_moves is not None
            if self._held > MOST_HELD_BYTES:
                # Too many to keep: they are made again when they are asked for.
                self._moves, self._held = [None] * len(self._moves), 0
        return joined_moves

    @cached_property
    def seam(self) -> Moves | None:
        """The moves from the last step back to the first."""
        if self.task.seam is None:
            return None
        seam = self.model.moves(self.nodes[-1], self.nodes[0], self.task.seam, self.model.school_of(self.steps[0]))
        return self._rounds(layered=False).seam(seam) if self.swapped else seam

    def state(self, step: int, joint: int) -> State:
        """A joint state, which may be in a layer, in words of the trade."""
        return self.model.state(self.nodes[step], int(self.layers.plain(step, joint)))

    def works(self, steps: Sequence[Step]) -> bool:
        """Whether some steps have a plan in the same setting, the seam left out."""
        try:
            least_sum(Problem(self.setting, self.task, steps).chain)
        except (NoPlanError, DeadEndError):
            return False
        return True
