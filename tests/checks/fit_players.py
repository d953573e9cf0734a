"""Fit the comforts of the model to what players choose: expected objections, made small.

    .venv/bin/python -m tests.checks.fit_players OUT.json [--of open own] [--rounds N] [--fold K] [--start IN.json]

Every round plans all cases under the present values and under a few values strewn about them, adds the players'
ways and the worst violators, and counts the objections to each plan. Then the values are moved so that, were a plan
taken with a chance that falls with its cost, the objections expected are the fewest; they are held to where they
began and, at first, to where they are. ``--fold K`` leaves every fourth case out, so that plans can be judged that
no value has seen. The values are written; `src/dromic/hands/comfort.py` is changed by hand. A round takes minutes.

References
----------
Minimum-risk training (Och 2003; Smith and Eisner 2006) on growing lists of candidates.
"""

from __future__ import annotations

import argparse
import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from multiprocessing import Pool
from multiprocessing.pool import Pool as PoolType
from pathlib import Path
from types import MappingProxyType

import numpy as np
from scipy.optimize import minimize

from dromic.arrays import Bools, Floats
from dromic.errors import DromicError
from dromic.hands.learning import weights
from dromic.hands.profile import Hands, hands_named
from dromic.music.riff import Stroke
from dromic.planner.costs.efforts import efforts_between
from dromic.planner.planning import planned, reports_of
from dromic.planner.request import Request
from dromic.planner.search.chains import Chain, DeadEndError, least_sum
from dromic.planner.search.chains import Path as BestPath
from dromic.planner.solving.problem import Problem
from dromic.planner.solving.solution import Solution, solve
from dromic.planner.task.state import State
from dromic.schools.registry import school_named
from tests.checks.player_cases import LETTERS, Case, Wanted, cases_of, judged, played

NOTHING_GIVEN: Mapping[str, float] = MappingProxyType({})
MARGIN = 0.03
STREWN = 0.35
NOTE_SHARE = 0.15
MOST_WAYS = 10
LOADS = ("at_ease", "strain", "overload")
NAMES = (*weights(), *LOADS)
HELD_BY_TRADE = frozenset(
    [
        "up_on_beat",
        "down_between",
        "again",
        "inside",
        "outside",
        "skip",
        "high",
        "barre",
        "barre_other",
        "barre_alone",
        "laid",
        "laid_over",
        "laid_by_open",
        "idle_open",
        "bunched",
        "fourth_too",
        "weak_24",
        "jump_along",
        "jump_across",
        "first_away",
        "frame",
        "opens_up",
        "opens_up_either",
        "plucked_together",
        "brushed",
        "vibrato_1",
        "vibrato_4",
        "bend_1",
        "bend_2",
        "bend_4",
        "other_lean",
        "against",
        "up_on_accent",
        "strain",
        "overload",
    ]
)
"""Values that facts of the trade hold where they are."""


@dataclass(frozen=True)
class Candidate:
    """A plan of a case: its efforts over their weights, the rest of its effort, and the objections to it."""

    features: Floats
    rest: float
    objections: float


@dataclass(frozen=True)
class Asked:
    """One case to be planned under some values."""

    case: Case
    values: tuple[float, ...]
    strewn: int
    seed: int


def hands_with(values: Floats) -> Hands:
    """Medium hands with other comforts."""
    hands = hands_named("medium")
    return replace(hands, comfort=replace(hands.comfort, **dict(zip(NAMES, values.tolist(), strict=True))))


def features_of(solution: Solution, states: Sequence[State]) -> tuple[Floats, float]:
    """Efforts over their weights, those of loads by their parts, and the rest."""
    problem = solution.problem
    comfort = problem.setting.hands.comfort
    efforts = efforts_between(problem.task, states, 0, len(states) - 1, problem.model)
    found = dict.fromkeys(NAMES, 0.0)
    rest = 0.0
    for key, amount in efforts.items():
        if key in found:
            found[key] += amount / getattr(comfort, key)
        elif not key.endswith("_effort"):
            rest += amount
    for load in _loads(solution, states):
        found["at_ease"] += load**2
        found["strain"] += max(load - comfort.calm, 0.0) ** 2
        found["overload"] += max(load - 1.0, 0.0) ** 2
    return np.array([found[name] for name in NAMES]), rest


def _loads(solution: Solution, states: Sequence[State]) -> Iterator[float]:
    in_order = reports_of(solution, states)
    for report in in_order:
        yield from (report.loads.pick, report.loads.fret, report.loads.sync)


def candidate(case: Case, solution: Solution, joints: Sequence[int]) -> Candidate:
    """A plan judged."""
    one = replace(solution, path=BestPath(tuple(joints), 0.0))
    request = Request(solution.problem.setting.hands, school_named(case.school))
    told = judged(case, played(planned(one, request).plan))
    wrong = sum(not right for right in told.bars.values()) + NOTE_SHARE * sum(not all(some) for some in told.right)
    return Candidate(*features_of(solution, one.chosen), wrong)


def allowed(problem: Problem, way: Sequence[Wanted]) -> list[Bools] | None:
    """Which joint states of each step a way lets pass; None where it has other notes."""
    left = iter(way)
    rows_of: list[list[Wanted]] = []
    try:
        for moment in problem.task.moments:
            if not moment.event.rest:
                rows = [next(left) for _ in moment.event.notes]
                if not moment.tied:
                    rows_of.append(rows)
    except StopIteration:
        return None
    strokes = problem.model.picking.strokes
    found = []
    for step, node, rows in zip(problem.steps, problem.nodes, rows_of, strict=True):
        held = np.array(
            [
                all(_holds(note, want) for note, want in zip(grip.notes, rows, strict=True))
                for grip in node.grips.rows
            ]
        )
        school = problem.model.school_of(step)
        passes = np.zeros((len(node.blocks) * len(strokes), len(node.grips)), dtype=np.bool_)
        for block, sounded in enumerate(node.blocks):
            for pick, stroke in enumerate(strokes):
                for at, grip in enumerate(node.grips.rows):
                    if not held[at]:
                        continue
                    told: Sequence[Stroke] = (stroke if sounded else Stroke.NONE,) * len(rows)
                    if sounded and stroke is Stroke.CHORD_PLUCK:
                        told = school.strokes_of_chord(tuple(note[0] for note in grip.notes))
                    letters = [LETTERS.get(one, str(one)) for one in told]
                    passes[block * len(strokes) + pick, at] = len(letters) == len(rows) and all(
                        letter in want.strokes for letter, want in zip(letters, rows, strict=True)
                    )
        found.append(passes.ravel())
    return found


def _holds(note: tuple[int, int, int], want: Wanted) -> bool:
    string, fret, finger = note
    return str(finger) in want.fingers.get(f"{string}:{fret}", "")


def _widened(problem: Problem, costs: Sequence[Floats]) -> Chain:
    plain = Chain(costs, problem.moves)
    return problem.layers.chain(plain) if problem.layers else plain


def good_and_violating(solution: Solution, case: Case) -> Iterator[tuple[int, ...]]:
    """The cheapest of a case's ways, and the plan that most violates it by the margin."""
    problem = solution.problem
    best: tuple[float, BestPath, list[Bools]] | None = None
    for way in case.ways[:MOST_WAYS]:
        masks = allowed(problem, way)
        if masks is None or any(not mask.any() for mask in masks):
            continue
        costs = [np.where(mask, own, np.inf) for mask, own in zip(masks, problem.chain.node_costs, strict=True)]
        try:
            path = least_sum(_widened(problem, costs))
        except DeadEndError:
            continue
        if best is None or path.total < best[0]:
            best = path.total, path, masks
    if best is not None:
        yield best[1].path
        loosened = [own - MARGIN * ~mask for mask, own in zip(best[2], problem.chain.node_costs, strict=True)]
        yield least_sum(_widened(problem, loosened)).path


def candidates(asked: Asked) -> tuple[str, list[Candidate]]:
    """Plans of a case: the planner's own, the players' ways, and those under values strewn about."""
    chance = np.random.default_rng(asked.seed)
    case, found = asked.case, []
    for number in range(1 + asked.strewn):
        values = np.array(asked.values)
        if number:
            values = values * np.exp(chance.normal(0.0, STREWN, len(values)))
        try:
            best = solve(case.riff, Request(hands_with(values), school_named(case.school)))
        except DromicError:
            continue
        for one in (best, *best.other_forms) if not number else (best,):
            found.append(candidate(case, one, one.path.path))
            if not number:
                found += [candidate(case, one, joints) for joints in good_and_violating(one, case)]
    return case.name, found


def moved(
    known: Mapping[str, Sequence[Candidate]], start: Floats, now: Floats, heat: float, held: float, prior: float
) -> Floats:
    """Values under which the objections expected are the fewest."""
    width = 0.8 * start + 0.008
    data = [
        (
            np.array([one.features for one in some]),
            np.array([one.rest for one in some]),
            np.array([one.objections for one in some]),
        )
        for some in known.values()
    ]

    def risk(point: Floats) -> tuple[float, Floats]:
        value = float(prior * (((point - start) / width) ** 2).sum() + held * (((point - now) / width) ** 2).sum())
        slope = 2 * prior * (point - start) / width**2 + 2 * held * (point - now) / width**2
        for features, rest, objections in data:
            costs = features @ point + rest
            shares = np.exp(-(costs - costs.min()) / heat)
            shares /= shares.sum()
            expected = float(shares @ objections)
            value += expected
            slope = slope - (shares * (objections - expected)) @ features / heat
        return value, slope

    bounds = [
        (value, value) if name in HELD_BY_TRADE else (2e-4, None)
        for name, value in zip(NAMES, start.tolist(), strict=True)
    ]
    found = minimize(risk, now, jac=True, method="L-BFGS-B", bounds=bounds, options={"maxiter": 60})
    values: Floats = found.x
    # The same pattern on other strings is one of all other ways to play a take, and can be no dearer.
    figure, strings = (NAMES.index(name) for name in ("figure", "figure_strings"))
    values[strings] = min(values[strings], values[figure])
    return values


def starting(given: Mapping[str, float] = NOTHING_GIVEN) -> Floats:
    """The values in force, or those given."""
    comfort = hands_named("medium").comfort
    return np.array([given.get(name, getattr(comfort, name)) for name in NAMES])


def all_candidates(
    pool: PoolType, cases: Sequence[Case], values: Floats, number: int = 0
) -> dict[str, list[Candidate]]:
    """Plans of all cases under some values and others strewn about them, in one of several rounds."""
    asked = [Asked(case, tuple(values), 2, number * 1000 + at) for at, case in enumerate(cases)]
    return {name: some for name, some in pool.imap_unordered(candidates, asked) if some}


def rounds_of(
    pool: PoolType, cases: Sequence[Case], start: Floats, rounds: int, prior: float
) -> Iterator[tuple[int, Floats, float]]:
    """Fit by rounds: the number of each, the values after it, and the objections to the plans before it."""
    now = start.copy()
    known: dict[str, list[Candidate]] = {}
    for number in range(rounds):
        objections = 0.0
        for name, some in all_candidates(pool, cases, now, number).items():
            objections += some[0].objections
            known.setdefault(name, []).extend(some)
        heat = max(0.012, 0.03 * 0.85**number)
        now = moved(known, start, now, heat, held=0.85**number, prior=prior)
        yield number, now, objections


def main() -> None:
    """Fit and write."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("out", type=Path)
    parser.add_argument("--of", nargs="+", default=["open", "own"])
    parser.add_argument("--rounds", type=int, default=8)
    parser.add_argument("--fold", type=int)
    parser.add_argument("--start", type=Path)
    parser.add_argument(
        "--prior", type=float, default=0.03, help="how much the values are held to where they began"
    )
    options = parser.parse_args()
    cases = [case for name in options.of for case in cases_of(name)]
    if options.fold is not None:
        cases = [case for number, case in enumerate(cases) if number % 4 != options.fold]
    given = json.loads(options.start.read_text()) if options.start else {}
    with Pool() as pool:
        for number, values, objections in rounds_of(pool, cases, starting(given), options.rounds, options.prior):
            print(f"round {number}: objections {objections:.1f} in {len(cases)} cases", flush=True)
            options.out.write_text(json.dumps(dict(zip(NAMES, values.tolist(), strict=True)), indent=1))


if __name__ == "__main__":
    main()
