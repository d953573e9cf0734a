"""A chain that remembers on which strings a figure is played, so that the best plan with figures is exact.

Inside a figure every joint state stands in several *layers*: the first for any way to play the take, each other for
one choice of strings. Within a take nothing changes its layer. From take to take a path that stays in its layer is
free, one that carries the pattern to other strings pays a little, and every other pays for the change.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from dromic.arrays import Floats, Ints
from dromic.memory import Stages
from dromic.planner.costs.layers import Passage, StepLayers
from dromic.planner.costs.model import Model
from dromic.planner.costs.nodes import Node
from dromic.planner.kernel import JoinedMoves
from dromic.planner.kernel.inputs import Layering, Layers
from dromic.planner.search.chains import ByStep, Chain
from dromic.planner.search.moves import Moves
from dromic.planner.task.figures import Figure, Pattern


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
    stages : Stages or None
        What was made of this riff before.

    Attributes
    ----------
    link_keys : list
        By link what sets its layers apart from those of others; None where there is one only at both ends.
    """

    def __init__(
        self, figures: Sequence[Figure], nodes: Sequence[Node], model: Model, stages: Stages | None = None
    ) -> None:
        self._model, self._comfort = model, model.hands.comfort
        self._figure_at = {step: figure for figure in figures for step in figure.steps}
        strings: list[tuple[tuple[int, ...], ...] | None] = [None] * len(nodes)
        for figure in figures:
            for offset in range(figure.length):
                own = tuple(placing[offset] for placing in figure.placings)
                for step in figure.steps[offset :: figure.length]:
                    strings[step] = own
        self._layers = (stages or Stages()).map(layers_of, nodes, strings, common=(model,))
        self.link_keys: list[Layering | None] = [None] * max(len(nodes) - 1, 0)
        ends = (range(max(figure.first - 1, 0), min(figure.steps.stop, len(nodes) - 1)) for figure in figures)
        for link in (link for some in ends for link in some):
            self.link_keys[link] = self._layering(link)

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

    def _layering(self, link: int) -> Layering | None:
        """How layers lead to layers over a link; None where there is one only at both ends."""
        before, after = self._layers[link], self._layers[link + 1]
        if before.count == after.count == 1:
            return None
        passage, figure = self._passage(link), self._figure_at.get(link)
        placings: tuple[Pattern, ...] = ()
        run, costs = False, (0.0, 0.0)
        if passage is Passage.NEXT_TAKE and figure is not None:
            placings, run = figure.placings, figure.run
            costs = self._change_cost(figure), self._comfort.figure_strings
        return self._model.layering(before, after, passage, placings, run, costs, self._margins(link))

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
        layering = self.link_keys[link]
        if layering is None:
            return joined
        assert isinstance(joined, JoinedMoves)
        return self._model.layered_moves(joined, self._layers[link], self._layers[link + 1], layering)


def layers_of(node: Node, strings: tuple[tuple[int, ...], ...] | None, model: Model) -> StepLayers:
    """See `step_layers`."""
    return model.layers(node, strings)
