"""A smaller piece of a drill, for when it cannot be slowed or thinned any further."""

from __future__ import annotations

from dataclasses import replace

from dromic.errors import RiffError
from dromic.planner.plan import Plan
from dromic.practice.passages.take_apart import chain_drill, hardest_step
from dromic.practice.session.session import Block
from dromic.practice.tempo.climb import Climb
from dromic.practice.tempo.ladder import Range

NOTES_BEFORE = 3


def smaller_block(plan: Plan, block: Block) -> Block:
    """A chain of the few notes that lead to the hardest one of a block; of a chain, of the last two only.

    Parameters
    ----------
    plan : Plan
        Of the block's riff.
    block : Block
    """
    drill = block.drill
    if drill is None:
        return block
    hardest = max(hardest_step(plan, drill.chosen), 1)
    before = 1 if drill.kind == "chain" else NOTES_BEFORE
    chosen = Range(max(hardest - before, 0), hardest)
    words = (
        "Three times not clean at the fewest string changes: only the notes that lead to it, one more each time."
    )
    try:
        made = chain_drill(plan, chosen, words)
    except RiffError:
        return block
    low = max(round(0.8 * block.tempo_from), 20)
    climb = Climb(made.ceiling, goal=plan.tempo)
    return replace(
        block,
        kind="chain",
        drill=made,
        reason=words,
        tempo_from=low,
        tempo_to=max(block.tempo_to, low),
        climb=climb,
    )
