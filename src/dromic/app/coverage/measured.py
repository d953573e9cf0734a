"""What the Coverage view shows, worked out in a thread. No Qt."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from dromic.app.log.keeper import LogKeeper
from dromic.errors import RiffError
from dromic.music.chords import chord_on
from dromic.music.keys import Key
from dromic.music.riff import Riff
from dromic.music.tones import Tone
from dromic.planner.plan import Plan
from dromic.planner.request import Request
from dromic.planner.told.plan_harmony import key_of
from dromic.practice.coverage.cells import Cell
from dromic.practice.coverage.compound import Compound, compound_drill
from dromic.practice.coverage.coverage import Coverage, coverage_of, coverage_of_reps, needs_of
from dromic.practice.log.history import History
from dromic.practice.material.drills_for import DrillsFor, candidates_for, drills_for
from dromic.practice.material.pieces import Asked
from dromic.practice.passages.excerpt import request_like

WEEK_DAYS = 7.0
Watch = Callable[[float], None]


@dataclass(frozen=True)
class Measured:
    """What a riff and a log cover.

    Parameters
    ----------
    plan : Plan
    riff, week, log : Coverage
    needs : mapping of Cell to float
    trouble : str
        Why the log cannot be read, if it cannot.
    """

    plan: Plan
    riff: Coverage
    week: Coverage
    log: Coverage
    needs: Mapping[Cell, float]
    trouble: str = ""


def measure(plan: Plan, log: LogKeeper) -> Measured:
    """Measure a plan and the log."""
    trouble = ""
    try:
        history = log.history()
    except RiffError as error:
        history, trouble = History(), error.message
    week = [rep for rep in history.reps if history.days_ago(rep) <= WEEK_DAYS]
    return Measured(
        plan,
        coverage_of(plan),
        coverage_of_reps(week),
        coverage_of_reps(history.reps),
        needs_of(plan, history),
        trouble,
    )


def one_drill(wanted: frozenset[Cell], plan: Plan) -> Compound:
    """One drill for some cells, where the plan's hand mostly is."""
    positions = sorted(state.position for state in plan.states)
    usual = positions[len(positions) // 2]
    position = min(max(usual, 1), plan.instrument.top_fret - 3)
    return compound_drill(wanted, plan.instrument, plan.riff, position)


def pieces_for(measured: Measured, minutes: float, watch: Watch) -> DrillsFor:
    """The pieces of material that cover what the riff needs.

    Parameters
    ----------
    measured : Measured
    minutes : float
    watch : callable
        Called with the share of the work that is done; what it raises ends it.
    """
    plan = measured.plan
    asked = asked_like(plan.riff)
    request: Request = request_like(plan)
    return drills_for(measured.needs, candidates_for(asked, request, watch), minutes)


def asked_like(riff: Riff) -> Asked:
    """Material in a riff's key and on its instrument."""
    key = key_of(riff).key or Key(Tone("A"), "minor")
    chord = chord_on(key.scale.tones, 0, 4)
    assert chord is not None
    return Asked(riff, key, key.scale.formula, chord)
