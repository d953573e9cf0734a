"""Bars that come back, in their phrase or in another, and how they are played usually."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from itertools import groupby

from dromic.instrument.instrument import Instrument
from dromic.memory import Stages
from dromic.music.riff import Stroke
from dromic.planner.task.state import State
from dromic.planner.task.step import Step, UsualWay


def same_bars(steps: Sequence[Step], instrument: Instrument, stages: Stages | None = None) -> list[list[range]]:
    """Bars with the same notes at the same times, each group with the steps of every such bar in order.

    Parameters
    ----------
    steps : sequence of Step
    instrument : Instrument
        Which says what a written place sounds.
    stages : Stages or None
        What was made of this riff before.
    """
    music = (stages or Stages()).map(_music_of, steps, common=(instrument,))
    groups: dict[tuple[object, ...], list[range]] = defaultdict(list)
    for _, numbers in groupby(range(len(steps)), key=lambda at: _bar_of(steps[at])):
        bar = list(numbers)
        groups[tuple(music[bar[0] : bar[-1] + 1])].append(range(bar[0], bar[-1] + 1))
    return [bars for bars in groups.values() if len(bars) > 1]


def _bar_of(step: Step) -> tuple[int, int, int]:
    moment = step.moment
    return moment.phrase, moment.pass_number, moment.bar


def _music_of(step: Step, instrument: Instrument) -> tuple[object, ...]:
    """What is written, but for where and with what it is played."""
    notes = sorted((instrument.pitch_of(note.target), tuple(sorted(note.marks))) for note in step.notes)
    return step.place, step.moment.event.value, step.legato, tuple(notes)


def ways_of(bars: Sequence[range], states: Sequence[State]) -> list[tuple[UsualWay, ...]]:
    """In which ways bars of one group are played in a plan, the commonest first, of equally common ones the first.

    Parameters
    ----------
    bars : sequence of range
    states : sequence of State
        Of all steps.
    """
    ways = Counter(tuple(_way_of(states[at]) for at in bar) for bar in bars)
    return [way for way, _ in ways.most_common()]


def _way_of(state: State) -> UsualWay:
    return UsualWay(state.notes, state.stroke if state.sounded else Stroke.NONE)


def with_usual_ways(steps: Sequence[Step], usual: Mapping[int, UsualWay], stages: Stages) -> tuple[Step, ...]:
    """Steps that say how they are played usually.

    Parameters
    ----------
    steps : sequence of Step
    usual : mapping of int to UsualWay
        By step.
    stages : Stages
        What was made of this riff before.
    """
    return tuple(stages.map(_with_usual, steps, [usual.get(at) for at in range(len(steps))]))


def _with_usual(step: Step, usual: UsualWay | None) -> Step:
    return step.told(usual=usual)
