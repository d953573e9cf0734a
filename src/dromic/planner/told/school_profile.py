"""What a plan of a school asks of a player, where it holds back, and whether the school is made for such a riff."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.picking import PICK
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Riff
from dromic.planner.plan import Plan, PlannedEvent
from dromic.planner.task.sounding import BASS_SCALE_MM
from dromic.schools.school import School


def made_for_others(school: School, riff: Riff, instrument: Instrument) -> str:
    """Say what a school is made for, where that is not this instrument or metre; empty where it is.

    Parameters
    ----------
    school : School
    riff : Riff
    instrument : Instrument

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> from dromic.instrument.presets import instrument_named
    >>> from dromic.schools.registry import school_named
    >>> riff, guitar = read_riff_text("| E3/4 r/2. |").riff, instrument_named("guitar-6")
    >>> [made_for_others(school_named(name), riff, guitar) for name in ("economy", "jig", "bass-two-finger")]
    ['', 'for beats of three, such as 6/8', 'for the bass']
    """
    if school.for_bass and instrument.scale_mm <= BASS_SCALE_MM:
        return "for the bass"
    meters = {riff.meter, *(bar.meter for phrase in riff.phrases for bar in phrase.bars if bar.meter is not None)}
    if school.for_threes and not any(meter.compound for meter in meters):
        return "for beats of three, such as 6/8"
    return ""


@dataclass(frozen=True)
class WorstSpot:
    """Where a hand, or both together, run out of time first.

    Parameters
    ----------
    who : str
    ceiling : float
    where : str
    """

    who: str
    ceiling: float
    where: str

    @property
    def words(self) -> str:
        """The spot in a few words."""
        return f"{self.who} {self.ceiling:.0f} ({self.where})"


def worst_spots(plan: Plan) -> tuple[WorstSpot, ...]:
    """Return the worst spot of the picking hand, of the fretting hand and of both, as far as they have any."""
    events = [event for event in plan.events if event.step is not None]

    def worst(who: str, ceiling: float | None, load: dict[int, float]) -> list[WorstSpot]:
        if ceiling is None or not load or max(load.values()) <= 0:
            return []
        return [WorstSpot(who, ceiling, _where(plan, events[max(load, key=lambda at: load[at])]))]

    return (
        *worst("picking", plan.ceilings.pick, {at: event.loads.pick for at, event in enumerate(events)}),
        *worst("fretting", plan.ceilings.fret, {at: event.loads.fret for at, event in enumerate(events)}),
        *worst("together", plan.ceilings.both, {at: event.loads.largest for at, event in enumerate(events)}),
    )


def _where(plan: Plan, event: PlannedEvent) -> str:
    return "the seam" if plan.loop and event.step == 0 else event.moment.place_words


def asks(plan: Plan) -> str:
    """What a plan asks of the player, in one sentence.

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> from dromic.hands.profile import hands_named
    >>> from dromic.planner.planning import plan_riff
    >>> from dromic.planner.request import Request
    >>> from dromic.schools.registry import school_named
    >>> riff = read_riff_text("| 5:5/8 5:7 4:5 4:7 r/2 |").riff
    >>> asks(plan_riff(riff, Request(hands_named("medium"), school_named("strict-alternate"))))
    'It asks for 1 inside change; the hand stays where it is.'
    """
    totals = {key: round(amount) for key, amount in plan.totals.items()}
    slurred = sum(
        not state.sounded and step.legato is None for state, step in zip(plan.states, plan.task.steps, strict=True)
    )
    plucked = sum(state.sounded and state.stroke not in PICK for state in plan.states)
    kinds = (
        (totals["sweeps"], "sweep stroke"),
        (totals["outside"], "outside change"),
        (totals["inside"], "inside change"),
        (totals["skips"], "string skip"),
        (plucked, "plucked note"),
        (slurred, "slur that is not written"),
    )
    told = [_counted(count, one) for count, one in kinds if count]
    picking = f"It asks for {_listed(told)}" if told else "It asks nothing of the pick but to stay on its string"
    shifts = totals["shifts"]
    parts = [picking, f"{_counted(shifts, 'shift')} of the hand" if shifts else "the hand stays where it is"]
    if totals["sync_spots"]:
        parts.append(f"{_counted(totals['sync_spots'], 'spot')} where both hands have to meet exactly")
    return "; ".join(parts) + "."


def _counted(count: int, one: str) -> str:
    noun, _, rest = one.partition(" that ")
    many = f"{noun}{'' if count == 1 else 's'}"
    verb = rest if count == 1 else rest.replace("is ", "are ", 1)
    return f"{count} {many}" + (f" that {verb}" if rest else "")


def _listed(some: list[str]) -> str:
    return some[0] if len(some) == 1 else f"{', '.join(some[:-1])} and {some[-1]}"
