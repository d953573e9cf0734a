"""A problem of the planner's handed to a general-purpose solver: OR-Tools CP-SAT, with one variable a note.

Every link is a table of the pairs that can be played, with their cost and load in millionths; the seam of a loop
is a table like the others. The solver knows nothing of chains or of dynamic programming.
"""

from __future__ import annotations

import numpy as np
from ortools.sat.python import cp_model

from dromic.arrays import Floats
from dromic.planner.search.moves import Moves
from dromic.planner.solving.problem import Problem

SCALE = 1_000_000


def tables(moves: Moves) -> tuple[Floats, Floats]:
    """Costs and loads of moves."""
    return moves.costs(), moves.loads()


def best_by_solver(problem: Problem, objective: str = "effort", seconds: float = 180.0) -> float | None:
    """Return the least cost, or None when nothing can be played.

    Parameters
    ----------
    problem : Problem
    objective : str
        ``effort``, or ``tempo`` for the smallest largest load first.
    seconds : float
        Time after which the solver gives up, which fails.
    """
    model = cp_model.CpModel()
    efforts = problem.chain.node_costs
    notes = [model.new_int_var(0, len(effort) - 1, f"note {index}") for index, effort in enumerate(efforts)]
    links = [(at, at + 1, *tables(problem.moves(at))) for at in range(len(efforts) - 1)]
    if problem.seam is not None:
        links.append((len(efforts) - 1, 0, *tables(problem.seam)))
    costs, loads = [], []
    for index, effort in enumerate(efforts):
        cost = model.new_int_var(0, 10**12, f"effort {index}")
        playable = np.flatnonzero(np.isfinite(effort))
        own = [(int(state), round(float(effort[state]) * SCALE)) for state in playable]
        if not own:
            return None
        model.add_allowed_assignments([notes[index], cost], own)
        costs.append(cost)
    for number, (one, two, cost_table, load_table) in enumerate(links):
        cost = model.new_int_var(0, 10**12, f"cost {number}")
        load = model.new_int_var(0, 10**12, f"load {number}")
        table: list[tuple[int, ...]] = [
            (int(a), int(b), round(float(cost_table[a, b]) * SCALE), round(float(load_table[a, b]) * SCALE))
            for a, b in np.argwhere(np.isfinite(cost_table))
            if one != two or a == b
        ]
        if not table:
            return None
        variables = [notes[one], notes[two], cost, load]
        if one == two:
            table, variables = [row[1:] for row in table], variables[1:]
        model.add_allowed_assignments(variables, table)
        costs.append(cost)
        loads.append(load)
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = 1
    if objective == "tempo" and loads:
        largest = model.new_int_var(0, 10**12, "largest load")
        model.add_max_equality(largest, loads)
        model.minimize(largest)
        if _solved(solver, model) is None:
            return None
        model.add(largest <= round(solver.objective_value) + 1)
    model.minimize(sum(costs))
    found = _solved(solver, model)
    return None if found is None else found / SCALE


def _solved(solver: cp_model.CpSolver, model: cp_model.CpModel) -> float | None:
    status = solver.solve(model)
    if status == cp_model.INFEASIBLE:
        return None
    assert status == cp_model.OPTIMAL, solver.status_name(status)
    return float(solver.objective_value)
