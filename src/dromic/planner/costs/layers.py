"""The layers of a step inside a figure, and how layers lead to layers; see `dromic.planner.costs.figure_layers`."""

from __future__ import annotations

from enum import Enum, auto

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.costs.nodes import Node
from dromic.planner.kernel import JoinedMoves
from dromic.planner.kernel.inputs import Bound, Layering, Layers, Least
from dromic.planner.task.figures import FigureKind, Pattern, change_of


class FigureLink(Enum):
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


def step_layers(node: Node, strings: tuple[tuple[int, ...], ...] | None, picks: int) -> StepLayers:
    """Layers of a step.

    Parameters
    ----------
    node : Node
    strings : tuple of tuple of int, or None
        The strings that its notes have in each placing of the figure it belongs to; None for none.
    picks : int
        Number of pick states.
    """
    only = [[True] * len(node.grips)]
    if strings is not None:
        struck = [tuple(note[0] for note in grip.notes) for grip in node.grips.rows]
        only += [[one == own for one in struck] for own in strings]
    return StepLayers((node, strings), len(node.blocks) * picks, Layers.of_masks(np.array(only)))


def layering_of(
    before: StepLayers,
    after: StepLayers,
    passage: FigureLink,
    placings: tuple[Pattern, ...],
    kind: FigureKind,
    costs: tuple[float, float],
    margins: tuple[float, float],
) -> Layering:
    """How layers lead to layers.

    Parameters
    ----------
    before, after : StepLayers
    passage : FigureLink
    placings : tuple of Pattern
        Of the figure, where its next take begins; its layers are these behind the first.
    kind : FigureKind
    costs : (float, float)
        Of another pattern, and of the same on other strings.
    margins : (float, float)
        What strings can still save behind the link, and have saved before it.
    """
    shape = before.count, after.count
    if passage is FigureLink.OTHER:
        changing = np.zeros(shape)
    elif passage is FigureLink.INSIDE:
        changing = np.where(np.eye(*shape, dtype=bool), 0.0, np.inf)
    else:
        changing = np.full(shape, costs[0])
        for one, first in enumerate(placings, start=1):
            for two, second in enumerate(placings, start=1):
                key = change_of(placings, first, second, kind)
                changing[one, two] = {"": 0.0, "figure_strings": costs[1]}.get(key, costs[0])
    return Layering(before.layers, after.layers, changing, margins)


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
        costs: Floats = self.joined.costs(bound)[self.before.plain[:, None], self.after.plain] + entered
        return costs

    def loads(self) -> Floats:
        """See `Moves`."""
        return self.joined.loads()[self.before.plain[:, None], self.after.plain]

    def pair_loads(self, one: Ints, two: Ints) -> Floats:
        """See `Moves`."""
        return self.joined.pair_loads(self.before.plain[one], self.after.plain[two])

    def smallest_largest(self, here: Floats, *, back: bool = False) -> Floats:
        """See `Moves`; loads do not know layers."""
        raise NotImplementedError("the chain of loads has no layers")
