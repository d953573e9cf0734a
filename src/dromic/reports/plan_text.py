"""A plan as text: strokes over a small tablature with fingers below, then ceiling, limits and totals.

The tablature has the thin string on top, as tablature is read on a page. Strokes are written as the riff's own
locks are: ``d`` down, ``u`` up; ``h``, ``p`` and ``s`` stand where a note is not picked.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import groupby

from dromic.hands.fingers import finger_sign
from dromic.music.pitch import pitch_name
from dromic.music.riff import Mark, Stroke
from dromic.planner.families import Family
from dromic.planner.plan import Objective, Plan, PlannedEvent
from dromic.planner.same_again import Otherwise
from dromic.planner.told.totals import TOTALS

WIDTH = 100
_MOST_DASHES = 9
_STROKE_LETTERS = {Stroke.DOWN: "d", Stroke.UP: "u"}


def write_plan_text(plan: Plan) -> str:
    """Write a plan for a terminal or a text file."""
    lines = [*_headline(plan), "", *_systems(plan), *_limits(plan), "", _totals(plan)]
    lines += [f"note: {warning}" for warning in plan.warnings]
    others = _alternatives(plan)
    return "\n".join([*lines, *(["", *others] if others else [])]) + "\n"


def write_families_text(families: Sequence[Family]) -> str:
    """Write ways across the neck, each with its effort, its ceilings and its tablature."""
    lines = [*_headline(families[0].plan)]
    for number, one in enumerate(families, start=1):
        ceiling = "–" if one.ceilings.both is None else f"{one.ceilings.both:.0f}"
        lines += [
            "",
            f"{number}. {one.words}: effort {one.effort:.2f}, ceiling {ceiling} ({hand_ceilings_words(one.plan)})",
        ]
        lines += _systems(one.plan)
    return "\n".join(lines) + "\n"


def write_same_again_text(again: Sequence[Otherwise]) -> str:
    """Write what comes again and is not played as before."""
    if not again:
        return "all that comes again is played the same\n"
    lines = ["played otherwise when it comes again:"]
    for one in again:
        lines += [f"  {one.words}", f"    {one.cost_words}"]
    return "\n".join(lines) + "\n"


def _headline(plan: Plan) -> list[str]:
    strings = " ".join(pitch_name(midi) for midi in plan.instrument.tuning)
    capo = f", capo {plan.instrument.capo}" if plan.instrument.capo else ""
    aim = "highest tempo" if plan.objective is Objective.TEMPO else "least effort"
    return [
        plan.riff.title or "Untitled",
        f"{plan.instrument.name}, {strings}{capo}; hands: {plan.hands.name}",
        f"{plan.school.title}, {aim}, {number_words(plan.tempo)} quarter notes a minute"
        + (", as a loop" if plan.loop else ""),
        f"style: {plan.sound.style}" + ("" if plan.style_said else ", detected from the riff"),
    ]


def number_words(value: float) -> str:
    """A tempo without needless digits.

    Examples
    --------
    >>> number_words(120.0), number_words(92.5)
    ('120', '92.5')
    """
    return str(int(value)) if value == int(value) else f"{value:g}"


def hand_ceilings_words(plan: Plan) -> str:
    """The ceilings of each hand alone."""
    hands = (("picking", plan.ceilings.pick), ("fretting", plan.ceilings.fret))
    return ", ".join(f"{name} alone {'–' if one is None else f'{one:.0f}'}" for name, one in hands)


def _limits(plan: Plan) -> list[str]:
    if plan.ceiling is None:
        return ["ceiling: none, for nothing here has to move"]
    lines = [f"ceiling {plan.ceiling:.0f} ({hand_ceilings_words(plan)}), held back by"]
    lines += [f"  {limit.text}" for limit in plan.bottlenecks[:5]]
    if len(plan.bottlenecks) > 5:
        lines.append(f"  and {len(plan.bottlenecks) - 5} more like them")
    if plan.ceiling < plan.tempo:
        lines.append(
            f"The target is beyond these hands; practise below {plan.ceiling:.0f} and stop if anything hurts."
        )
    return lines


def _totals(plan: Plan) -> str:
    told = [total.told(plan.totals[key]) for key, total in TOTALS.items()]
    return f"{', '.join(told)}; effort {plan.cost:.2f}"


def _alternatives(plan: Plan) -> list[str]:
    lines = []
    for event in plan.events:
        if event.alternatives:
            others = ", ".join(
                f"{alternative.words} +{alternative.price:.2f}" for alternative in event.alternatives
            )
            lines.append(f"{event.moment.place_words}: {others}")
    return ["alternatives, and the effort they would add:", *lines] if lines else []


class _Block:
    """One bar as columns of text: a stroke row, the strings, a finger row."""

    def __init__(self, plan: Plan, bar: int, events: Sequence[PlannedEvent]) -> None:
        strings = plan.instrument.strings
        shortest = min((one.moment.duration for one in events), default=Fraction(1))
        strokes, fingers = " ", " "
        rows = ["-"] * strings
        for event in events:
            cells = [_cell(event, string) for string in range(1, strings + 1)]
            width = max(*(len(cell) for cell in cells), len(_finger(event)))
            room = width + 1 + min(int(event.moment.duration / shortest) - 1, _MOST_DASHES)
            strokes += _stroke(event).ljust(room)
            fingers += _finger(event).ljust(room)
            rows = [row + cell.ljust(room, "-") for row, cell in zip(rows, cells, strict=True)]
        label = str(bar)
        width = max(len(strokes), len(label) + 1)
        self.rows = [
            label.ljust(width + 1),
            strokes.ljust(width + 1),
            *(row.ljust(width, "-") + "|" for row in rows),
            fingers.ljust(width + 1),
        ]

    @property
    def width(self) -> int:
        return len(self.rows[0])


def _cell(event: PlannedEvent, string: int) -> str:
    for note in event.notes:
        if note.string == string:
            marks = event.moment.event.marks
            if Mark.TIE in marks:
                return f"({note.fret})"
            return "x" if Mark.DEAD in marks else f"<{note.fret}>" if Mark.HARMONIC in marks else str(note.fret)
    return "-"


def _stroke(event: PlannedEvent) -> str:
    if event.legato is not None and event.stroke is Stroke.NONE:
        return str(event.legato)
    if event.stroke is Stroke.NONE:
        return ""
    return "".join(_STROKE_LETTERS.get(stroke, str(stroke)) for stroke in dict.fromkeys(event.strokes))


def _finger(event: PlannedEvent) -> str:
    if event.step is None or event.legato is Mark.TAP:
        return ""
    return "".join(finger_sign(note.finger) for note in event.notes)


def _systems(plan: Plan) -> list[str]:
    names = [pitch_name(midi).rstrip("-0123456789") for midi in reversed(plan.instrument.tuning)]
    labels = ["bar", "stroke", *(f"{name:>6}" for name in names), "finger"]
    margin = max(len(label) for label in labels) + 1
    blocks = [
        _Block(plan, bar, list(events)) for bar, events in groupby(plan.events, key=lambda one: one.moment.bar)
    ]
    lines: list[str] = []
    while blocks:
        taken, used = 1, margin + 1 + blocks[0].width
        while taken < len(blocks) and used + blocks[taken].width <= WIDTH:
            used += blocks[taken].width
            taken += 1
        system, blocks = blocks[:taken], blocks[taken:]
        for number, label in enumerate(labels):
            edge = "|" if 2 <= number < len(labels) - 1 else " "
            row = "".join(block.rows[number] for block in system)
            lines.append(f"{label.ljust(margin)}{edge}{row}".rstrip())
        lines.append("")
    return lines
