"""Every way of taking a passage apart that suits it, made from the plan: one hand, one pair of strings, a chain."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from dromic.errors import RiffError
from dromic.hands.terms import LoadKind
from dromic.music.riff import Event, Mark, Riff
from dromic.planner.plan import Plan
from dromic.practice.passages.density import DENSITIES, with_density
from dromic.practice.passages.drill import Drill, Focus, drill_of, range_words
from dromic.practice.passages.excerpt import excerpt
from dromic.practice.passages.finger_drills import chord_changes, damper_words, finger_pairs
from dromic.practice.passages.pieces import chain, in_turn, seam, string_pair
from dromic.practice.passages.splits import changed, counts_by_string, fretting_alone, joins, picking_alone
from dromic.practice.passages.string_areas import string_areas
from dromic.practice.tempo.ladder import Range

MOST_PAIRS, MOST_CHORDS = 12, 3
LONGEST_CHAIN = 16


@dataclass(frozen=True)
class Parts:
    """What a passage comes apart into.

    Parameters
    ----------
    drills : tuple of Drill
        In the order in which a teacher would take them.
    refused : tuple of (str, str)
        Ways that do not suit the passage, each with the reason.
    """

    drills: tuple[Drill, ...]
    refused: tuple[tuple[str, str], ...]


def take_apart(plan: Plan, chosen: Range, other: Plan | None = None) -> Parts:
    """Every drill of a passage.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    other : Plan or None
        Another plan of the riff, to play in turn with this one.
    """
    makers: list[tuple[str, Callable[[Plan, Range], Iterator[Drill]]]] = [
        ("Both hands", _together),
        ("Picking hand alone", _picking),
        ("Fretting hand alone", _fretting),
        ("One string pair", _pair),
        ("Chain, a note more each time", _chains),
        ("Fewer string changes", _densities),
        ("Low, middle and high strings", _areas),
        ("Palm down and up", _palm),
        ("Joins", _joins),
        ("The seam", _seam),
        ("Chords in silence", _chords),
        ("Finger pairs", _fingers),
    ]
    if other is not None:
        makers.append(("Two plans in turn", lambda one, range_: _turns(one, range_, other)))
    drills: list[Drill] = []
    refused: list[tuple[str, str]] = []
    for name, make in makers:
        try:
            drills += make(plan, chosen)
        except RiffError as error:
            refused.append((name, error.message))
    return Parts(tuple(drills), tuple(refused))


def hardest_step(plan: Plan, chosen: Range) -> int:
    """The step in a passage with the largest load; the first has its way from outside."""
    inside = range(min(chosen.first + 1, chosen.last), chosen.last + 1)
    return max(inside, key=lambda step: (plan.event_of_step(step).loads.largest, -step))


def picking_drill(plan: Plan, chosen: Range, *, open_strings: bool = False, why: str = "") -> Drill:
    """The picking hand by itself, with the counts a string.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    open_strings : bool
    why : str
        One sentence.

    Raises
    ------
    RiffError
        Where nothing is picked.
    """
    split = picking_alone(plan, chosen, open_strings=open_strings)
    counts = " · ".join(str(count) for _, count in counts_by_string(split.riff))
    on = "open" if open_strings else "damped"
    return drill_of(
        plan,
        chosen,
        split.riff,
        why or f"{range_words(plan, chosen)}: the strokes by themselves show whether the way is small and even.",
        kind="picking",
        name=f"Picking alone, {on} strings",
        focus=Focus.PICKING,
        remarks=(f"Strokes a string: {counts}.",),
    )


def fretting_drill(plan: Plan, chosen: Range, why: str = "") -> Drill:
    """The fretting hand by itself, with what is left out and where a damper lies.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    why : str
        One sentence.

    Raises
    ------
    RiffError
        Where nothing can be sounded so.
    """
    split = fretting_alone(plan, chosen)
    if sum(bool(event.notes) for event in split.riff.written_events()) < 2:
        raise RiffError("only one note of this passage can be sounded without a stroke")
    left_out = tuple(f"{words[:1].upper()}{words[1:]}." for words in split.left_out)
    return drill_of(
        plan,
        chosen,
        split.riff,
        why or f"{range_words(plan, chosen)}: without the pick every finger has to come down firmly and in time.",
        kind="fretting",
        name="Fretting alone",
        focus=Focus.FRETTING,
        remarks=(damper_words(plan, chosen), *left_out),
    )


def pair_drill(plan: Plan, step: int, why: str = "") -> Drill:
    """A change of strings with the notes round it that stay on its two strings.

    Parameters
    ----------
    plan : Plan
    step : int
    why : str
        One sentence.

    Raises
    ------
    RiffError
        Where nothing changes strings there.
    """
    pair = string_pair(plan, step)
    one, two = sorted({plan.states[step - 1].string, plan.states[step].string}, reverse=True)
    return drill_of(
        plan,
        pair,
        excerpt(plan, pair),
        why or f"The change at {plan.task.steps[step].moment.place_words}, with the notes on its two strings.",
        kind="pair",
        name=f"Strings {one} and {two}",
    )


def chain_drill(plan: Plan, chosen: Range, why: str = "", *, backward: bool = True) -> Drill:
    """A chain up to a passage's full length, at most `LONGEST_CHAIN` notes from the end that it begins at.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    why : str
        One sentence.
    backward : bool

    Raises
    ------
    RiffError
        For a single note.
    """
    if backward:
        kept = Range(max(chosen.first, chosen.last - LONGEST_CHAIN + 1), chosen.last)
    else:
        kept = Range(chosen.first, min(chosen.last, chosen.first + LONGEST_CHAIN - 1))
    words = "from its end backward" if backward else "from its start forward"
    return drill_of(
        plan,
        kept,
        chain(plan, kept, backward=backward),
        why or f"{range_words(plan, kept)}, {words}: two notes that are clean first, then one more each time.",
        kind="chain",
        name=f"Chain {'backward' if backward else 'forward'}",
    )


def sparse_drill(plan: Plan, chosen: Range, density: int, why: str = "") -> Drill:
    """A passage with each string's cell several times.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    density : int
    why : str
        One sentence.

    Raises
    ------
    RiffError
        Where it stays on one string.
    """
    return drill_of(
        plan,
        chosen,
        with_density(excerpt(plan, chosen), density),
        why or f"{range_words(plan, chosen)}: fewer string changes in a bar at the same tempo.",
        name=f"Each string {density} times",
        density=density,
    )


def _together(plan: Plan, chosen: Range) -> Iterator[Drill]:
    hardest = plan.event_of_step(hardest_step(plan, chosen))
    kinds = {
        LoadKind.PICK: "the picking hand",
        LoadKind.FRET: "the fretting hand",
        LoadKind.SYNC: "both hands meeting",
    }
    why = f"Hardest at {hardest.moment.place_words}, for {kinds[hardest.loads.kind]}."
    yield drill_of(plan, chosen, excerpt(plan, chosen), why)


def _picking(plan: Plan, chosen: Range) -> Iterator[Drill]:
    yield picking_drill(plan, chosen)
    yield picking_drill(plan, chosen, open_strings=True)


def _fretting(plan: Plan, chosen: Range) -> Iterator[Drill]:
    yield fretting_drill(plan, chosen)


def _pair(plan: Plan, chosen: Range) -> Iterator[Drill]:
    inside = range(chosen.first + 1, chosen.last + 1)
    changes = [step for step in inside if plan.states[step].string != plan.states[step - 1].string]
    if not changes:
        raise RiffError("this passage stays on one string")
    yield pair_drill(plan, max(changes, key=lambda step: plan.event_of_step(step).loads.largest))


def _chains(plan: Plan, chosen: Range) -> Iterator[Drill]:
    yield chain_drill(plan, chosen, backward=False)
    yield chain_drill(plan, Range(chosen.first, hardest_step(plan, chosen)), backward=True)


def _densities(plan: Plan, chosen: Range) -> Iterator[Drill]:
    for density in DENSITIES:
        if density > 1:
            yield sparse_drill(plan, chosen, density)


def _areas(plan: Plan, chosen: Range) -> Iterator[Drill]:
    for area, riff in string_areas(plan, chosen):
        why = f"The same figure on the {area}: the arm has another angle there."
        yield drill_of(plan, chosen, riff, why, name=f"On the {area}")


def _palm(plan: Plan, chosen: Range) -> Iterator[Drill]:
    for down in (True, False):
        riff = _with_palm(excerpt(plan, chosen), down=down)
        where = "down" if down else "up"
        why = f"Every note with the palm {where}: the stroke is the same whether the strings are muted or not."
        yield drill_of(plan, chosen, riff, why, kind="picking", name=f"Palm {where}")


def _with_palm(riff: Riff, *, down: bool) -> Riff:
    """Every note that the palm can mute muted, or none."""

    def muted(event: Event) -> Event:
        marks = event.marks - {Mark.PALM_MUTE}
        if down and event.notes and event.locks.stroke is not None and Mark.HARMONIC not in marks:
            marks = (marks - {Mark.LET_RING}) | {Mark.PALM_MUTE}
        notes = tuple(replace(note, marks=note.marks - {Mark.PALM_MUTE}) for note in event.notes)
        return replace(event, notes=notes, marks=marks)

    made = changed(riff, muted)
    return replace(made, title=f"{riff.title}, palm {'down' if down else 'up'}")


def _joins(plan: Plan, chosen: Range) -> Iterator[Drill]:
    found = [one for one in joins(plan) if one.last >= chosen.first and one.first <= chosen.last]
    if not found:
        raise RiffError("no phrase ends or begins here")
    for one in found:
        why = f"{range_words(plan, one)}: one phrase goes over into the next without a gap."
        yield drill_of(plan, one, excerpt(plan, one), why, kind="join", name="The join", focus=Focus.JOIN)


def _seam(plan: Plan, chosen: Range) -> Iterator[Drill]:
    if chosen.first and chosen.last < len(plan.states) - 1:
        raise RiffError("the riff neither ends nor begins here")
    ends, riff, key = seam(plan)
    why = "From the last notes back to the first at the same tempo, as when the riff goes round."
    made = drill_of(plan, ends, riff, why, kind="join", name="The seam", focus=Focus.JOIN)
    yield replace(made, keys=(*made.keys, key))


def _chords(plan: Plan, chosen: Range) -> Iterator[Drill]:
    found = [
        one for one in chord_changes(plan) if one.chosen.last >= chosen.first and one.chosen.first <= chosen.last
    ]
    if not found:
        raise RiffError("no chord changes into another here")
    for change in found[:MOST_CHORDS]:
        why = f"{range_words(plan, change.chosen)}: the fingers find the next shape without a sound."
        yield drill_of(
            plan,
            change.chosen,
            change.riff,
            why,
            kind="fretting",
            name="Chords in silence",
            focus=Focus.FRETTING,
            remarks=(f"On the way, {change.words}.",),
        )


def _fingers(plan: Plan, chosen: Range) -> Iterator[Drill]:
    for pair in finger_pairs(plan)[:MOST_PAIRS]:
        often = f"the riff hands over so {pair.count} times" if pair.count else "the riff does not need this pair"
        made = drill_of(
            plan,
            chosen,
            pair.riff,
            f"Finger {pair.lead} leads, finger {pair.other} follows; {often}.",
            kind="fretting",
            name=f"Fingers {pair.lead} and {pair.other}",
        )
        yield replace(made, keys=())


def _turns(plan: Plan, chosen: Range, other: Plan) -> Iterator[Drill]:
    why = f"{range_words(plan, chosen)} by two plans in turn: the hands decide."
    yield drill_of(plan, chosen, in_turn(plan, other, chosen), why, name="Two plans in turn")
