"""What to practise in a plan, and how: its hardest passages, each with a few sentences and a ladder.

The ways of practising are common practice, no source: take the spot out, slow it down until it is clean, one hand
alone where one hand is the trouble, and bring it back into its place.
"""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.terms import LoadKind
from dromic.planner.plan import Plan
from dromic.planner.task.state import Loads
from dromic.planner.told.reasons import reason_for
from dromic.practice.tempo.ladder import Ladder, Range, around, ladder_for

MOST_SPOTS = 5
WORTH_SHARE = 0.7
WARNING = (
    "Warm up, keep the wrist straight, take a break every ten minutes. Tiredness is normal, pain is not: stop at "
    "pain, and see a doctor or a hand therapist about pain, numbness or tingling."
)
_HOW = {
    LoadKind.PICK: (
        "Mute the strings with the fretting hand and play the strokes alone, until the way is small and even."
    ),
    LoadKind.FRET: "Finger it without the pick first, and land with every finger at once; then add the strokes.",
    LoadKind.SYNC: (
        "Play it so slowly that finger and pick meet exactly; listen for clicks before or after the note."
    ),
}
_SPOTS = {
    "up_on_beat": "Count aloud: the up falls on the beat.",
    "down_between": "Count aloud: the down falls between the beats.",
    "skip": "Practise the skip on open strings, so small that only the string in between is cleared.",
    "shift_far": "Look at the fret that the hand goes to before it leaves, and arrive without the pick first.",
    "up_on_accent": "Exaggerate the accent on the up while it is slow.",
}


@dataclass(frozen=True)
class Spot:
    """A passage to practise.

    Parameters
    ----------
    number : int
        From 1, in order of time.
    step : int
        Where the passage ends.
    where, what : str
        Place, and what makes it hard.
    load : float
    how : tuple of str
        How to practise it.
    ladder : Ladder
    """

    number: int
    step: int
    where: str
    what: str
    load: float
    how: tuple[str, ...]
    ladder: Ladder


def spots_to_practise(plan: Plan, most: int = MOST_SPOTS) -> tuple[Spot, ...]:
    """Find the hardest passages of a plan; one that repeats counts once.

    Parameters
    ----------
    plan : Plan
    most : int

    Returns
    -------
    tuple of Spot
        In order of time.
    """
    loads = [plan.event_of_step(step).loads for step in range(len(plan.states))]
    by_load = sorted(range(len(loads)), key=lambda step: (-loads[step].largest, step))
    largest = loads[by_load[0]].largest if by_load else 0.0
    chosen: list[int] = []
    seen: set[tuple[object, ...]] = set()
    for step in by_load:
        if len(chosen) == most or loads[step].largest < WORTH_SHARE * largest or not loads[step].largest:
            break
        key = _same(plan, step)
        if key not in seen:
            seen.add(key)
            chosen.append(step)
    return tuple(_spot(plan, number, step, loads[step]) for number, step in enumerate(sorted(chosen), start=1))


def _same(plan: Plan, step: int) -> tuple[object, ...]:
    """What makes two passages one: the same movement between the same places."""
    before, here = plan.states[step - 1], plan.states[step]
    return before.notes, before.stroke, here.notes, here.stroke


def _spot(plan: Plan, number: int, step: int, loads: Loads) -> Spot:
    kind = loads.kind
    reason = reason_for(plan, step)
    words = [hand.words for hand in reason.hands if hand.kind is kind]
    spots = plan.event_of_step(step).spots
    how = [_HOW[kind], *(_SPOTS[spot] for spot in spots if spot in _SPOTS)]
    chosen = around(plan, step)
    first = max(min(chosen.first, step - 1), 0)
    ladder = ladder_for(plan, Range(first, chosen.last), plan.tempo)
    return Spot(
        number,
        step,
        plan.task.steps[step].moment.place_words,
        words[0] if words else "both hands",
        loads.largest,
        tuple(how),
        ladder,
    )


def ladder_words(ladder: Ladder) -> str:
    """A ladder in words."""
    beyond = ladder.ceiling is not None and ladder.goal > ladder.ceiling
    limit = f" (the plan's ceiling here is {ladder.ceiling:.0f})" if beyond else ""
    return (
        f"{ladder.rounds} clean rounds at {ladder.start}, then {ladder.step} faster each time, up to "
        f"{ladder.goal}{limit}"
    )
