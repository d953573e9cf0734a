"""Simulated players: are planted habits found, and are none found where there are none?

``python -m tests.checks.run_learners [--players N] [--no-page]`` lets every player correct plans of riffs where
they would play otherwise, has the program learn from it, and writes docs/learning.md. Players and riffs are
invented; a player plays what the planner plans under weights of their own. Players without a habit correct notes at
random.
"""

from __future__ import annotations

import argparse
import random
from collections import Counter
from collections.abc import Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

from dromic.errors import NoPlanError
from dromic.hands.profile import hands_named
from dromic.instrument.presets import instrument_for
from dromic.music.pitch import pitch_name
from dromic.music.riff import Riff
from dromic.planner.locking import with_alternative, with_plan
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.play_learning import HABITS, Habit, proposals, with_weights
from dromic.planner.request import Request
from dromic.planner.task.freed_places import as_pitches
from dromic.schools.registry import school_named
from tests.helpers import riff

PAGE = Path(__file__).parents[2] / "docs" / "learning.md"
HEAD = """# Learning from how a player plays

Written by `python -m tests.checks.run_learners`. Simulated players play what the planner plans under weights of
their own, and correct the plans of six made-up riffs; the program sees the corrections alone. Players whose habit
shows in fewer than six notes are left out."""
RIFFS = 6
LEAST_CORRECTED = 6
RANDOM_IN_TURN = 3
PLANTED: Mapping[str, Mapping[str, float]] = {
    "stays in position": {"shift": 4.0, "shift_far": 4.0, "shift_take": 4.0},
    "shifts freely": {"shift": 0.15, "shift_far": 0.15, "shift_take": 0.15},
    "spares the little finger": {"fourth": 5.0},
    "uses the little finger": {"fourth": 0.1, "weak_24": 0.1},
    "stretches": {"reach": 0.15, "frame": 0.15, "stretched_pair": 0.15},
    "keeps the fingers over their frets": {"reach": 4.0, "frame": 4.0, "stretched_pair": 4.0},
    "avoids open strings": {"open_far": 4.0, "open_closed": 6.0, "open_gain": 3.0},
    "plays nearer the nut": {"up_closed": 6.0, "up_the_neck": 6.0},
    "keeps downs on the beat": {"up_on_beat": 6.0, "down_between": 6.0},
}
SCHOOLS = ("least-motion", "economy", "strict-alternate")
SCALES = ((0, 2, 4, 5, 7, 9, 11), (0, 2, 3, 5, 7, 8, 10), (0, 3, 5, 7, 10))


@dataclass(frozen=True)
class Found:
    """What came of one player: the habit planted, how many notes were corrected, and the words proposed."""

    planted: str
    corrected: int
    right: bool
    words: tuple[str, ...]


def made_up(chance: random.Random) -> Riff:
    """A line of two bars in some scale, in steps and a few leaps."""
    scale, tonic = chance.choice(SCALES), chance.randint(40, 52)
    ladder = sorted({tonic + 12 * octave + step for octave in range(3) for step in scale})
    at, notes = chance.randrange(len(ladder) // 3, 2 * len(ladder) // 3), []
    for _ in range(16):
        notes.append(pitch_name(ladder[at]))
        at = min(max(at + chance.choice((-3, -2, -1, -1, 1, 1, 2, 3)), 0), len(ladder) - 1)
    gain = chance.choice(("clean", "high"))
    return riff(
        f"| {notes[0]}/8 {' '.join(notes[1:8])} | {' '.join(notes[8:])} |",
        tempo=chance.choice((100, 140)),
        gain=gain,
    )


def habit_of(planted: str) -> Sequence[Habit]:
    """Habits that the planted weights belong to."""
    names = PLANTED.get(planted, {})
    return [habit for habit in HABITS if set(habit.weights) & set(names)]


def corrected(made: Riff, request: Request, player: Request) -> Riff | None:
    """The riff with locks where a player plays otherwise than the plan; None where they do not."""
    now = plan_riff(made, request)
    wanted = plan_riff(made, player)
    locked = with_plan(now, wanted)
    return None if locked == made else locked


def scattered(made: Riff, request: Request, chance: random.Random) -> Riff:
    """The riff with two or three notes decided otherwise, whatever they are."""
    plan: Plan = plan_riff(made, replace(request, alternatives=6))
    for step in chance.sample(range(len(plan.states)), chance.randint(2, 3)):
        others = plan.event_of_step(step).alternatives
        if not others:
            continue
        try:
            plan = plan_riff(with_alternative(plan, step, chance.choice(others)), replace(request, alternatives=6))
        except NoPlanError:
            continue
    return plan.riff


def one_player(seed: int) -> Found | None:
    """Let one player correct riffs, and learn from it; None where the habit shows in too few notes."""
    chance = random.Random(seed)
    planted = [*PLANTED, *[""] * RANDOM_IN_TURN][seed % (len(PLANTED) + RANDOM_IN_TURN)]
    hands = hands_named("medium")
    request = Request(hands, school_named(chance.choice(SCHOOLS)))
    player = replace(request, hands=with_weights(hands, PLANTED.get(planted, {})))
    riffs: list[Riff] = []
    count = 0
    while len(riffs) < RIFFS and count < 4 * RIFFS:
        count += 1
        made = made_up(chance)
        decided = corrected(made, request, player) if planted else scattered(made, request, chance)
        if decided is not None:
            riffs.append(decided)
    notes = sum(
        before.locks != after.locks or before.notes != after.notes
        for made in riffs
        for before, after in zip(_bare(made).written_events(), made.written_events(), strict=True)
    )
    if planted and notes < LEAST_CORRECTED:
        return None
    found = list(proposals(riffs, request))
    habits = habit_of(planted)
    right = any(one.words in (habit.dearer, habit.cheaper) for one in found for habit in habits)
    return Found(planted, notes, right, tuple(one.words for one in found))


def _bare(made: Riff) -> Riff:
    return as_pitches(made, instrument_for(made))


def main() -> None:
    """Run the players and write the page."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--players", type=int, default=100)
    parser.add_argument("--no-page", action="store_true")
    options = parser.parse_args()
    with ProcessPoolExecutor() as pool:
        results = [one for one in pool.map(one_player, range(options.players)) if one is not None]
    lines = ["| habit | players | found | something else proposed |", "|---|---|---|---|"]
    planted = [one for one in results if one.planted]
    for name in PLANTED:
        some = [one for one in planted if one.planted == name]
        other = sum(bool(one.words) and not one.right for one in some)
        lines.append(f"| {name} | {len(some)} | {sum(one.right for one in some)} | {other} |")
    without = [one for one in results if not one.planted]
    false = sum(bool(one.words) for one in without)
    lines.append(f"| **all with a habit** | {len(planted)} | **{sum(one.right for one in planted)}** | |")
    lines.append(f"| **none, notes decided at random** | {len(without)} | – | **{false}** |")
    print("\n".join(lines))
    print(Counter(words for one in results for words in one.words if not one.right).most_common(10))
    if not options.no_page:
        PAGE.write_text(f"{HEAD}\n\n" + "\n".join(lines) + "\n")


if __name__ == "__main__":
    main()
