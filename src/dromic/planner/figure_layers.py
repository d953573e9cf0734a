"""A chain that remembers in which pattern a figure is played, so that the best plan with figures is exact.

Inside a figure every joint state stands in several *layers*: the first for any way to play the take, each other for
one pattern. Within a take nothing changes its layer, and only moves that keep to the pattern are made in it; from
take to take a path that stays in its pattern pays nothing, and every other pays for the change. Joint states are
numbered ``layer * states + state``, the state as in the chain without layers.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum, auto
from functools import cached_property
from typing import Any

import numpy as np

from dromic.arrays import Bools, Floats, Ints
from dromic.planner.caching import TableCache
from dromic.planner.figures import Figure, Pattern
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
    count : int
        How many there are.
    strings : ndarray of int, shape (states,)
        The thickest string that each state strikes.
    fits : sequence of ndarray of bool, one a layer
        Which states are in it.
    """

    key: object
    count: int
    strings: Ints
    fits: Sequence[Bools]


@dataclass(frozen=True, eq=False)
class Layered:
    """Moves between states in layers.

    Parameters
    ----------
    plain : Moves
        Those of the chain without layers.
    passage : Passage
    before, after : StepLayers
    steps : tuple of int
        Inside a take: by how many strings each layer moves on; nothing holds for the first.
    change : float
        What another pattern costs from take to take.
    """

    plain: Moves
    passage: Passage
    before: StepLayers
    after: StepLayers
    steps: tuple[int, ...]
    change: float

    @cached_property
    def _by_step(self) -> tuple[tuple[Ints, tuple[tuple[Ints, Ints, Floats], ...]], ...]:
        """Layers that move on alike, with the moves from each string: states before, states after, their table."""
        whole = self.plain.dense()
        found = []
        for step in dict.fromkeys(self.steps[1:]):
            layers = np.array([at for at, one in enumerate(self.steps) if at and one == step], dtype=np.int64)
            blocks = []
            for string in np.unique(self.before.strings):
                one = np.flatnonzero(self.before.strings == string)
                two = np.flatnonzero(self.after.strings == string + step)
                if len(two):
                    blocks.append((one, two, np.ascontiguousarray(whole[np.ix_(one, two)])))
            found.append((layers, tuple(blocks)))
        return tuple(found)

    def relax_forward(self, ahead: Floats) -> Floats:
        """See `Moves`."""
        here = ahead.reshape(self.before.count, -1)
        if self.passage is Passage.OTHER:
            return np.tile(self.plain.relax_forward(here.min(axis=0)), self.after.count)
        if self.passage is Passage.NEXT_TAKE:
            changed = here.min(axis=0) + self.change
            reached = np.tile(self.plain.relax_forward(changed), (self.after.count, 1))
            for layer in range(1, self.after.count):
                cheaper = here[layer] < changed
                if cheaper.any():
                    kept = self.plain.relax_forward(np.where(cheaper, here[layer], np.inf))
                    reached[layer] = np.minimum(reached[layer], kept)
            return reached.ravel()
        found = np.full((self.after.count, len(self.after.strings)), np.inf)
        found[0] = self.plain.relax_forward(here[0])
        for layers, blocks in self._by_step:
            for one, two, table in blocks:
                some = here[layers[:, None], one]
                found[layers[:, None], two] = (some[:, :, None] + table).min(axis=1)
        return found.ravel()

    def relax_backward(self, behind: Floats) -> Floats:
        """See `Moves`."""
        there = behind.reshape(self.after.count, -1)
        if self.passage is Passage.OTHER:
            return np.tile(self.plain.relax_backward(there.min(axis=0)), self.before.count)
        if self.passage is Passage.NEXT_TAKE:
            changed = there.min(axis=0) + self.change
            left = np.tile(self.plain.relax_backward(changed), (self.before.count, 1))
            for layer in range(1, self.before.count):
                cheaper = there[layer] < changed
                if cheaper.any():
                    kept = self.plain.relax_backward(np.where(cheaper, there[layer], np.inf))
                    left[layer] = np.minimum(left[layer], kept)
            return left.ravel()
        found = np.full((self.before.count, len(self.before.strings)), np.inf)
        found[0] = self.plain.relax_backward(there[0])
        for layers, blocks in self._by_step:
            for one, two, table in blocks:
                some = there[layers[:, None], two]
                found[layers[:, None], one] = (some[:, None, :] + table).min(axis=2)
        return found.ravel()

    def _extra(self, one: Ints, two: Ints, strings: Ints, onward: Ints) -> Floats:
        """What the layers add to the moves between some states, infinite where a move is in none."""
        if self.passage is Passage.OTHER:
            return np.zeros(np.broadcast_shapes(one.shape, two.shape))
        same = one == two
        if self.passage is Passage.NEXT_TAKE:
            return np.where(same & (two > 0), 0.0, self.change)
        steps = np.array(self.steps)
        keeps = (two == 0) | (onward - strings == steps[two])
        return np.where(same & keeps, 0.0, np.inf)

    def rows(self, before: Ints) -> Floats:
        """See `Moves`."""
        layer, state = np.divmod(before, len(self.before.strings))
        plain = self.plain.rows(state)
        extra = self._extra(
            layer[:, None, None],
            np.arange(self.after.count)[None, :, None],
            self.before.strings[state][:, None, None],
            self.after.strings,
        )
        whole: Floats = plain[:, None, :] + extra
        return whole.reshape(len(before), -1)

    def columns(self, after: Ints) -> Floats:
        """See `Moves`."""
        layer, state = np.divmod(after, len(self.after.strings))
        plain = self.plain.columns(state)
        extra = self._extra(
            np.arange(self.before.count)[:, None, None],
            layer,
            self.before.strings[None, :, None],
            self.after.strings[state],
        )
        whole: Floats = plain[None] + extra
        return whole.reshape(-1, len(after))

    def dense(self) -> Floats:
        """See `Moves`."""
        return self.rows(np.arange(self.before.count * len(self.before.strings)))

    @property
    def nbytes(self) -> int:
        """See `Moves`."""
        if self.passage is not Passage.INSIDE:
            return OWN_BYTES
        return OWN_BYTES + sum(table.nbytes for _, blocks in self._by_step for _, _, table in blocks)


class FigureLayers:
    """The layers of a riff's steps.

    Parameters
    ----------
    figures : sequence of Figure
    nodes : sequence of Node
        Of all steps.
    picks : int
        How many pick states each block of a node has.
    change : float
        What another pattern than that of the take before costs.
    """

    def __init__(self, figures: Sequence[Figure], nodes: Sequence[Node], picks: int, change: float) -> None:
        self._nodes, self._picks, self._change = nodes, picks, change
        self._figure_at = {step: figure for figure in figures if figure.patterns for step in figure.steps}
        self._known: dict[object, StepLayers] = {}
        self._layers = [self._layers_at(step) for step in range(len(nodes))]

    def __bool__(self) -> bool:
        return bool(self._figure_at)

    def key(self, step: int) -> object:
        """Equal for steps with the same layers."""
        return self._layers[step].key

    def plain(self, step: int, joint: Any) -> Any:
        """Joint states of the chain with layers as those of the chain without; one number or an array."""
        return joint % len(self._layers[step].strings)

    def states(self, step: int) -> int:
        """How many joint states a step has, those of all layers counted."""
        return self._layers[step].count * len(self._layers[step].strings)

    def link_key(self, link: int) -> object:
        """What sets the layers of a link apart from those of others."""
        return self._passage(link), self.key(link), self.key(link + 1)

    def _place(self, step: int) -> tuple[Figure, int] | None:
        figure = self._figure_at.get(step)
        return None if figure is None else (figure, (step - figure.first) % figure.length)

    def _layers_at(self, step: int) -> StepLayers:
        place, node = self._place(step), self._nodes[step]
        key = (node, None if place is None else (place[0].patterns, place[1]))
        found = self._known.get(key)
        if found is None:
            grips = node.grips
            copies = len(node.blocks) * self._picks
            strings = np.tile(grips.strings - grips.arrays.thickest, copies)
            patterns: Sequence[Pattern] = () if place is None else place[0].patterns
            inner = [tuple(note[0] - grip.notes[0][0] for note in grip.notes) for grip in grips.rows]
            fits = [np.ones(len(strings), dtype=bool)]
            for pattern in patterns:
                assert place is not None
                wanted = pattern[place[1]]
                held = tuple(string - wanted[0] for string in wanted)
                fits.append(np.tile([one == held for one in inner], copies))
            found = self._known[key] = StepLayers(key, len(fits), strings, tuple(fits))
        return found

    def _passage(self, link: int) -> Passage:
        one, two = self._place(link), self._place(link + 1)
        if one is None or two is None or one[0] is not two[0]:
            return Passage.OTHER
        return Passage.INSIDE if two[1] else Passage.NEXT_TAKE

    def _steps(self, link: int) -> tuple[int, ...]:
        one, two = self._place(link), self._place(link + 1)
        if self._passage(link) is not Passage.INSIDE or one is None or two is None:
            return ()
        return (0, *(pattern[two[1]][0] - pattern[one[1]][0] for pattern in one[0].patterns))

    def chain(self, plain: Chain, keys: Sequence[object]) -> Chain:
        """A chain without layers as one with them.

        Parameters
        ----------
        plain : Chain
        keys : sequence of hashable
            Equal for links with the same costs between the same states.
        """
        costs = [
            np.concatenate([np.where(fit, own, np.inf) for fit in layers.fits])
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
                found = Layered(moves, self._passage(link), before, after, self._steps(link), self._change)
                tables.put(key, found, found.nbytes)
            return found

        return Chain(costs, lambda link: edges(link).dense(), edges)
