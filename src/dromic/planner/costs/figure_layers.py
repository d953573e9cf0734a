"""A chain that remembers on which strings a figure is played, so that the best plan with figures is exact.

Inside a figure every joint state stands in several *layers*: the first for any way to play the take, each other for
one choice of strings. Within a take nothing changes its layer. From take to take a path that stays in its layer is
free, one that carries the pattern to other strings pays a little, and every other pays for the change.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

from dromic.arrays import Floats, Ints
from dromic.memory import Stages, memo
from dromic.planner.costs.layers import FigureLink, StepLayers
from dromic.planner.costs.model import Model
from dromic.planner.costs.nodes import Node
from dromic.planner.kernel import JoinedMoves
from dromic.planner.kernel.inputs import Layering, Layers
from dromic.planner.search.chains import ByStep, Chain
from dromic.planner.search.moves import Moves
from dromic.planner.task.figures import Figure, FigureKind, Pattern


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


class Place(NamedTuple):
    """Where a step stands in a figure: how many steps after the start of its take, and in which take."""

    figure: Figure
    offset: int
    first: bool
    last: bool


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
        self._model = model
        places: list[Place | None] = [None] * len(nodes)
        for figure in figures:
            places[figure.first : figure.steps.stop] = memo(places_in, figure)
        stages = stages or Stages()
        self._layers = stages.map(layers_of, nodes, places, common=(model,))
        self._any = bool(figures)
        self.link_keys: list[Layering | None] = (
            stages.map(layering_over, self._layers[:-1], self._layers[1:], places[:-1], places[1:], common=(model,))
            if figures
            else [None] * max(len(nodes) - 1, 0)
        )

    def __bool__(self) -> bool:
        return self._any

    def key(self, step: int) -> object:
        """Equal for steps with the same layers."""
        return self._layers[step].key

    @property
    def keys(self) -> list[object]:
        """`key` of all steps."""
        return [layer.key for layer in self._layers]

    def plain(self, step: int, joint: Any) -> Any:
        """Joint states of the chain with layers as those of the chain without; one number or an array."""
        return self._layers[step].plain[joint]

    def plain_of(self, step: int) -> Ints:
        """Of each joint state of a step with layers the one without; shape (joint states,)."""
        return self._layers[step].plain

    def of_step(self, step: int) -> Layers:
        """The layers of a step's joint states."""
        return self._layers[step].layers

    def states(self, step: int) -> int:
        """How many joint states a step has, those of all layers counted."""
        return len(self._layers[step].plain)

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


def places_in(figure: Figure) -> list[Place]:
    """Where each step of a figure stands in it."""
    last = figure.takes - 1
    return [
        Place(figure, offset, take == 0, take == last)
        for take in range(figure.takes)
        for offset in range(figure.length)
    ]


def layers_of(node: Node, place: Place | None, model: Model) -> StepLayers:
    """See `step_layers`."""
    strings = None if place is None else tuple(placing[place.offset] for placing in place.figure.placings)
    return model.layers(node, strings)


def layering_over(
    before: StepLayers, after: StepLayers, leaving: Place | None, entering: Place | None, model: Model
) -> Layering | None:
    """How layers lead to layers over a link; None where there is one only at both ends.

    Parameters
    ----------
    before, after : StepLayers
    leaving, entering : Place or None
        Where the steps before and after the link stand in a figure.
    model : Model
    """
    if before.count == after.count == 1:
        return None

    def change_cost(figure: Figure) -> float:
        return float(getattr(comfort, figure.kind))

    comfort = model.hands.comfort
    passage, kind, costs = FigureLink.OTHER, FigureKind.MOVED, (0.0, 0.0)
    placings: tuple[Pattern, ...] = ()
    if leaving is not None and entering is not None and leaving.figure is entering.figure:
        passage = FigureLink.INSIDE if entering.offset else FigureLink.NEXT_TAKE
        if passage is FigureLink.NEXT_TAKE:
            placings, kind = leaving.figure.placings, leaving.figure.kind
            costs = change_cost(leaving.figure), comfort.figure_strings
    # In the last take nothing comes that its strings could save, in the first there was nothing.
    margins = (
        0.0 if entering is None or entering.last else change_cost(entering.figure),
        0.0 if leaving is None or leaving.first else change_cost(leaving.figure),
    )
    return model.layering(before, after, passage, placings, kind, costs, margins)
