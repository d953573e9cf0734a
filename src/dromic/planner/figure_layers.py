"""A chain that remembers on which strings a figure is played, so that the best plan with figures is exact.

Inside a figure every joint state stands in several *layers*: the first for any way to play the take, each other for
one choice of strings. Within a take nothing changes its layer. From take to take a path that stays in its layer is
free, one that carries the pattern to other strings pays a little, and every other pays for the change.
"""

from __future__ import annotations

from collections.abc import Sequence
from enum import Enum, auto
from itertools import count
from typing import Any, cast

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.figures import Figure, Pattern
from dromic.planner.kernel import JoinedMoves
from dromic.planner.kernel.inputs import Bound, Layering, Layers, Least
from dromic.planner.model import Model, Node
from dromic.planner.moves import Moves
from dromic.planner.search import ByStep, Chain
from dromic.planner.workings import Workings

OWN_BYTES = 8_000


class Passage(Enum):
    """What a link is to a figure."""

    INSIDE = auto()
    NEXT_TAKE = auto()
    OTHER = auto()


class StepLayers:
    """The layers of a step.

    Parameters
    ----------
    key : object
        Equal for steps with the same layers.
    copies : int
        How often each grip stands in a layer: once for each block and pick state.
    layers : Layers
    """

    def __init__(self, key: object, copies: int, layers: Layers) -> None:
        self.key, self.layers = key, layers
        self.size = copies * layers.of
        self.plain = layers.states(copies)
        # Of each state its layer.
        self.layer_of: Ints = np.repeat(np.arange(layers.count), np.diff(layers.starts) * copies)

    @property
    def count(self) -> int:
        """How many layers there are."""
        return self.layers.count


class LayeredMoves:
    """Moves between states in layers.

    Parameters
    ----------
    joined : JoinedMoves
        Those of the chain without layers.
    before, after : StepLayers
    layering : Layering
    """

    def __init__(self, joined: JoinedMoves, before: StepLayers, after: StepLayers, layering: Layering) -> None:
        self.joined, self.before, self.after = joined, before, after
        self.layering, self._changing = layering, layering.into.changing

    def least(self, here: Floats, *, back: bool = False, bound: Bound = np.inf) -> Least:
        """See `Moves`."""
        return self.joined.least(here, self.layering, back=back, bound=bound)

    def source(self, here: Floats, state: int, *, bound: float = np.inf) -> int:
        """See `Moves`."""
        return self.joined.source(here, state, self.layering, bound=bound)

    def costs(self, bound: float = np.inf) -> Floats:
        """See `Moves`."""
        entered = self._changing[self.before.layer_of[:, None], self.after.layer_of]
        found: Floats = self.joined.costs(bound)[self.before.plain[:, None], self.after.plain] + entered
        return found

    def loads(self) -> Floats:
        """See `Moves`."""
        return self.joined.loads()[self.before.plain[:, None], self.after.plain]

    def pair_loads(self, one: Ints, two: Ints) -> Floats:
        """See `Moves`."""
        return self.joined.pair_loads(self.before.plain[one], self.after.plain[two])

    def smallest_largest(self, here: Floats, *, back: bool = False) -> Floats:
        """See `Moves`; loads do not know layers."""
        raise NotImplementedError("the chain of loads has no layers")


_NUMBERS: dict[tuple[Pattern, ...], int] = {}
_NEXT_NUMBER = count()
MOST_NUMBERED = 20_000


def _number_of(placings: tuple[Pattern, ...]) -> int:
    """A number for some placings, the same for equal ones, so that they are compared once for each figure."""
    found = _NUMBERS.get(placings)
    if found is None:
        if len(_NUMBERS) >= MOST_NUMBERED:
            _NUMBERS.clear()
        found = _NUMBERS.setdefault(placings, next(_NEXT_NUMBER))
    return found


class _LayeredCosts(ByStep):
    """Costs of the states of steps with layers, made when they are asked for."""

    def __init__(self, plain: Sequence[Floats], layers: Sequence[StepLayers]) -> None:
        self._plain, self._layers = plain, layers

    def __len__(self) -> int:
        return len(self._plain)

    def of_step(self, step: int) -> Floats:
        """Costs of a step: a state in a layer costs what it costs without."""
        own, layers = self._plain[step], self._layers[step]
        return own if layers.count == 1 else own[layers.plain]


class FigureLayers:
    """The layers of a riff's steps.

    Parameters
    ----------
    figures : sequence of Figure
    nodes : sequence of Node
        Of all steps.
    model : Model
        Whose comfort says what another pattern, or other strings, than those of the take before cost.
    workings : Workings or None
        What was worked out of this riff before.

    Attributes
    ----------
    link_keys : list
        By link what sets its layers apart from those of others.
    """

    def __init__(
        self, figures: Sequence[Figure], nodes: Sequence[Node], model: Model, workings: Workings | None = None
    ) -> None:
        self._nodes, self._picks, self._comfort = nodes, model.picks, model.hands.comfort
        self._figure_at = {step: figure for figure in figures for step in figure.steps}
        self._known: dict[object, StepLayers] = cast("dict[object, StepLayers]", model.layers)
        self._layered = model.layered
        self._changes: dict[int, Floats] = {}
        self._placings = {figure.first: _number_of(figure.placings) for figure in figures}
        places: list[tuple[int, int] | None] = [None] * len(nodes)
        for figure in figures:
            number = self._placings[figure.first]
            for step in figure.steps:
                places[step] = number, (step - figure.first) % figure.length
        workings = workings or Workings()

        def layers(step: int) -> StepLayers:
            return self._layers_at(step, places[step])

        self._layers = workings.each("layers", (nodes, places), layers, made_from=(model,))
        owners = [self._figure_at.get(step) for step in range(len(nodes))]

        def link_key(link: int) -> object:
            return self._passage(link), self.key(link), self.key(link + 1)

        ends = owners[:-1], owners[1:], self._layers[:-1], self._layers[1:]
        self.link_keys: list[object] = workings.each("layer links", ends, link_key)

    def __bool__(self) -> bool:
        return bool(self._figure_at)

    def key(self, step: int) -> object:
        """Equal for steps with the same layers."""
        return self._layers[step].key

    @property
    def keys(self) -> list[object]:
        """`key` of all steps."""
        return [one.key for one in self._layers]

    def plain(self, step: int, joint: Any) -> Any:
        """Joint states of the chain with layers as those of the chain without; one number or an array."""
        return self._layers[step].plain[joint]

    def plain_of(self, step: int) -> Ints:
        """Of each joint state of a step with layers the one without."""
        return self._layers[step].plain

    def of_step(self, step: int) -> Layers:
        """The layers of a step's joint states."""
        return self._layers[step].layers

    def states(self, step: int) -> int:
        """How many joint states a step has, those of all layers counted."""
        return len(self._layers[step].plain)

    def _place(self, step: int) -> tuple[Figure, int] | None:
        figure = self._figure_at.get(step)
        return None if figure is None else (figure, (step - figure.first) % figure.length)

    def _layers_at(self, step: int, place: tuple[int, int] | None) -> StepLayers:
        node = self._nodes[step]
        key = (node, place)
        found = self._known.get(key)
        if found is None:
            only = [[True] * len(node.grips)]
            if place is not None:
                struck = [tuple(note[0] for note in grip.notes) for grip in node.grips.rows]
                placings = self._figure_at[step].placings
                only += [[one == placing[place[1]] for one in struck] for placing in placings]
            found = self._known[key] = StepLayers(
                key, len(node.blocks) * self._picks, Layers.of_masks(np.array(only))
            )
        return found

    def _margins(self, link: int) -> tuple[float, float]:
        """What the strings of a take can still save behind a link, and have saved before it.

        In the last take nothing comes that they could save, in the first there was nothing.
        """
        onward, back = self._figure_at.get(link + 1), self._figure_at.get(link)
        last = onward is None or link + 1 >= onward.steps.stop - onward.length
        first = back is None or link < back.first + back.length
        return (
            0.0 if onward is None or last else self._change_cost(onward),
            0.0 if back is None or first else self._change_cost(back),
        )

    def _change_cost(self, figure: Figure) -> float:
        return self._comfort.run if figure.run else self._comfort.figure

    def _passage(self, link: int) -> Passage:
        one, two = self._place(link), self._place(link + 1)
        if one is None or two is None or one[0] is not two[0]:
            return Passage.OTHER
        return Passage.INSIDE if two[1] else Passage.NEXT_TAKE

    def _changing(self, link: int) -> Floats:
        """What it costs over a link to go from layer to layer."""
        shape = self._layers[link].count, self._layers[link + 1].count
        passage = self._passage(link)
        if passage is Passage.OTHER:
            return np.zeros(shape)
        if passage is Passage.INSIDE:
            return np.where(np.eye(*shape, dtype=bool), 0.0, np.inf)
        figure = self._figure_at[link]
        found = self._changes.get(figure.first)
        if found is None:
            found = self._changes[figure.first] = np.full(shape, self._change_cost(figure))
            for one, before in enumerate(figure.placings, start=1):
                for two, after in enumerate(figure.placings, start=1):
                    key = figure.change(before, after)
                    found[one, two] = getattr(self._comfort, key) if key else 0.0
        return found

    def chain(self, plain: Chain) -> Chain:
        """A chain without layers as one with them."""
        costs = _LayeredCosts(plain.node_costs, self._layers)
        found: list[Moves | None] = [None] * (len(costs) - 1)

        def moves(link: int) -> Moves:
            joined = plain.moves(link)
            own = found[link]
            if own is None:
                own = found[link] = self._moves(link, joined)
            return own

        return Chain(costs, moves)

    def _moves(self, link: int, joined: Moves) -> Moves:
        before, after = self._layers[link], self._layers[link + 1]
        if before.count == after.count == 1:
            return joined
        assert isinstance(joined, JoinedMoves)
        figure = self._figure_at.get(link)
        kind = self._passage(link), self._margins(link), figure is not None and figure.run
        layering = cast("Layering | None", self._layered.get((before, after, kind)))
        if layering is None:
            layering = Layering(before.layers, after.layers, self._changing(link), self._margins(link))
            self._layered.put((before, after, kind), layering, OWN_BYTES)
        key = joined, layering
        known = cast("LayeredMoves | None", self._layered.get(key))
        if known is None:
            known = LayeredMoves(joined, before, after, layering)
            self._layered.put(key, known, OWN_BYTES)
        return known
