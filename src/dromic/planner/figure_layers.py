"""A chain that remembers on which strings a figure is played, so that the best plan with figures is exact.

Inside a figure every joint state stands in several *layers*: the first for any way to play the take, each other for
one choice of strings. Within a take nothing changes its layer. From take to take a path that stays in its layer is
free, one that carries the pattern to other strings pays a little, and every other pays for the change. Joint
states are numbered ``layer * states + state``, the state as in the chain without layers.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import Enum, auto
from functools import cached_property
from typing import Any

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.hands.comfort import Comfort
from dromic.planner.caching import TableCache
from dromic.planner.figures import Figure
from dromic.planner.model import Node
from dromic.planner.moves import Moves
from dromic.planner.search import Chain

TABLE_BYTES = 96 * 2**20
OWN_BYTES = 4_000


class Passage(Enum):
    """What a link is to a figure."""

    INSIDE = auto()
    NEXT_TAKE = auto()
    OTHER = auto()


@dataclass(frozen=True, eq=False)
class StepLayers:
    """The layers of a step.

    Parameters
    ----------
    key : object
        Equal for steps with the same layers.
    size : int
        How many joint states the step has without them.
    states : tuple of ndarray of int
        The states of each layer.
    """

    key: object
    size: int
    states: tuple[Ints, ...]

    @property
    def count(self) -> int:
        """How many layers there are."""
        return len(self.states)


@dataclass(frozen=True, eq=False)
class Layered:
    """Moves between states in layers.

    Parameters
    ----------
    plain : Moves
        Those of the chain without layers.
    passage : Passage
    before, after : StepLayers
    changing : ndarray, shape (layers before, layers after)
        What it costs to go from layer to layer, infinite where that cannot be.
    """

    plain: Moves
    passage: Passage
    before: StepLayers
    after: StepLayers
    changing: Floats

    @cached_property
    def _inside(self) -> tuple[Floats, ...]:
        """The moves inside each layer but the first."""
        pairs = zip(self.before.states[1:], self.after.states[1:], strict=True)
        return tuple(self.plain.rows(one)[:, two] for one, two in pairs)

    def relax_forward(self, ahead: Floats) -> Floats:
        """See `Moves`."""
        here = ahead.reshape(self.before.count, -1)
        found = np.full((self.after.count, self.after.size), np.inf)
        if self.passage is Passage.INSIDE:
            found[0] = self.plain.relax_forward(here[0])
            for layer, table in enumerate(self._inside, start=1):
                if table.size:
                    some = here[layer, self.before.states[layer]]
                    found[layer, self.after.states[layer]] = (some[:, None] + table).min(axis=0)
            return found.ravel()
        for layer, same, start in self._entries(here):
            found[layer] = found[same] if same >= 0 else self.plain.relax_forward(start)
        return found.ravel()

    def relax_backward(self, behind: Floats) -> Floats:
        """See `Moves`."""
        there = behind.reshape(self.after.count, -1)
        found = np.full((self.before.count, self.before.size), np.inf)
        if self.passage is Passage.INSIDE:
            found[0] = self.plain.relax_backward(there[0])
            for layer, table in enumerate(self._inside, start=1):
                if table.size:
                    some = there[layer, self.after.states[layer]]
                    found[layer, self.before.states[layer]] = (table + some).min(axis=1)
            return found.ravel()
        for layer, same, start in self._entries(there, back=True):
            found[layer] = found[same] if same >= 0 else self.plain.relax_backward(start)
        return found.ravel()

    def _entries(self, sums: Floats, *, back: bool = False) -> Iterator[tuple[int, int, Floats]]:
        """For each layer that is entered: sums to start from, and an earlier layer that starts from the same."""
        changing = self.changing.T if back else self.changing
        seen: dict[bytes, int] = {}
        for layer in range(changing.shape[1]):
            start = (sums + changing[:, layer, None]).min(axis=0)
            key = start.tobytes()
            yield layer, seen.get(key, -1), start
            seen.setdefault(key, layer)

    def rows(self, before: Ints) -> Floats:
        """See `Moves`."""
        layer, state = np.divmod(before, self.before.size)
        whole: Floats = self.plain.rows(state)[:, None, :] + self.changing[layer][:, :, None]
        return whole.reshape(len(before), -1)

    def columns(self, after: Ints) -> Floats:
        """See `Moves`."""
        layer, state = np.divmod(after, self.after.size)
        whole: Floats = self.plain.columns(state)[None] + self.changing[:, None, layer]
        return whole.reshape(-1, len(after))

    def dense(self) -> Floats:
        """See `Moves`."""
        return self.rows(np.arange(self.before.count * self.before.size))

    @property
    def nbytes(self) -> int:
        """See `Moves`."""
        return OWN_BYTES + (sum(table.nbytes for table in self._inside) if self.passage is Passage.INSIDE else 0)


class FigureLayers:
    """The layers of a riff's steps.

    Parameters
    ----------
    figures : sequence of Figure
    nodes : sequence of Node
        Of all steps.
    picks : int
        How many pick states each block of a node has.
    comfort : Comfort
        Which says what another pattern, or other strings, than those of the take before cost.
    """

    def __init__(self, figures: Sequence[Figure], nodes: Sequence[Node], picks: int, comfort: Comfort) -> None:
        self._nodes, self._picks, self._comfort = nodes, picks, comfort
        self._figure_at = {step: figure for figure in figures for step in figure.steps}
        self._known: dict[object, StepLayers] = {}
        self._layers = [self._layers_at(step) for step in range(len(nodes))]

    def __bool__(self) -> bool:
        return bool(self._figure_at)

    def key(self, step: int) -> object:
        """Equal for steps with the same layers."""
        return self._layers[step].key

    def plain(self, step: int, joint: Any) -> Any:
        """Joint states of the chain with layers as those of the chain without; one number or an array."""
        return joint % self._layers[step].size

    def states(self, step: int) -> int:
        """How many joint states a step has, those of all layers counted."""
        return self._layers[step].count * self._layers[step].size

    def link_key(self, link: int) -> object:
        """What sets the layers of a link apart from those of others."""
        return self._passage(link), self.key(link), self.key(link + 1)

    def _place(self, step: int) -> tuple[Figure, int] | None:
        figure = self._figure_at.get(step)
        return None if figure is None else (figure, (step - figure.first) % figure.length)

    def _layers_at(self, step: int) -> StepLayers:
        place, node = self._place(step), self._nodes[step]
        key = (node, None if place is None else (place[0].placings, place[1]))
        found = self._known.get(key)
        if found is None:
            copies = len(node.blocks) * self._picks
            size = copies * len(node.grips)
            states = [np.arange(size)]
            if place is not None:
                struck = [tuple(note[0] for note in grip.notes) for grip in node.grips.rows]
                for placing in place[0].placings:
                    fits = np.tile([one == placing[place[1]] for one in struck], copies)
                    states.append(np.flatnonzero(fits))
            found = self._known[key] = StepLayers(key, size, tuple(states))
        return found

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
        found = np.full(shape, self._comfort.run if figure.run else self._comfort.figure)
        for one, before in enumerate(figure.placings, start=1):
            for two, after in enumerate(figure.placings, start=1):
                key = figure.change(before, after)
                found[one, two] = getattr(self._comfort, key) if key else 0.0
        return found

    def chain(self, plain: Chain, keys: Sequence[object]) -> Chain:
        """A chain without layers as one with them.

        Parameters
        ----------
        plain : Chain
        keys : sequence of hashable
            Equal for links with the same costs between the same states.
        """
        costs = [
            np.concatenate([_only(own, states) for states in layers.states])
            for layers, own in zip(self._layers, plain.node_costs, strict=True)
        ]
        tables: TableCache[Moves] = TableCache(TABLE_BYTES)

        def edges(link: int) -> Moves:
            moves = plain.edges(link)
            before, after = self._layers[link], self._layers[link + 1]
            if before.count == after.count == 1:
                return moves
            key = (keys[link], self.link_key(link))
            found = tables.get(key)
            if found is None:
                found = Layered(moves, self._passage(link), before, after, self._changing(link))
                tables.put(key, found, found.nbytes)
            return found

        return Chain(costs, lambda link: edges(link).dense(), edges)


def _only(costs: Floats, states: Ints) -> Floats:
    """The costs of some states, infinite for all others."""
    found = np.full(len(costs), np.inf)
    found[states] = costs[states]
    return found
