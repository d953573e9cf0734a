"""Write riffs as every kind of file and read them again: what comes back, and why it is not always the same.

    .venv/bin/python -m tests.checks.run_round_trips

The riffs are the demo riffs and all cases of what players choose (`tests/checks/players`). *Sounds the same*:
every note and chord begins at its time, has its pitches, and lasts as long. *All of it*: the riff says the same
of marks, strokes and fingers too. Where a riff does not sound the same, the cause is looked for by taking one
thing out of the riff after the other, until it does. Writes docs/round_trips.md.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from dromic.demo.library import demo_riffs
from dromic.errors import DromicError
from dromic.formats.reading.losses import losses
from dromic.formats.registry import WRITABLE, open_data, written
from dromic.hands.profile import hands_named
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for, instrument_named
from dromic.music.rhythm import Swing
from dromic.music.riff import Event, Mark, Note, Riff, harmonic_rise
from dromic.music.timeline import timeline
from dromic.planner.locking import decided_riff
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.checks.player_cases import cases_of

PAGE = Path(__file__).parents[2] / "docs" / "round_trips.md"
KINDS = (".riff", ".musicxml", ".tab", ".abc", ".mid")
Row = tuple[Fraction, tuple[int, ...], Fraction]


def sounding(riff: Riff) -> list[Row]:
    """Onset, pitches and length of every note and chord, repeats played out, ties joined."""
    instrument = instrument_for(riff)
    found: list[Row] = []
    for moment in timeline(riff):
        event = moment.event
        if event.rest:
            continue
        pitches = tuple(sorted(_height(instrument, note, event.marks) for note in event.notes))
        if moment.tied and found and found[-1][1] == pitches:
            onset, _, length = found[-1]
            found[-1] = (onset, pitches, length + moment.duration)
        else:
            found.append((moment.onset, pitches, moment.duration))
    return found


def _height(instrument: Instrument, note: Note, marks: frozenset[Mark]) -> int:
    """What is heard: a dead note has no pitch."""
    if Mark.DEAD in note.marks | marks:
        return -1
    return instrument.pitch_of(note.target) + harmonic_rise(note, marks)


def _events(change: Callable[[Event], Event]) -> Callable[[Riff], Riff]:
    def changed(riff: Riff) -> Riff:
        phrases = tuple(
            replace(
                phrase,
                bars=tuple(replace(bar, events=tuple(map(change, bar.events))) for bar in phrase.bars),
            )
            for phrase in riff.phrases
        )
        return replace(riff, phrases=phrases)

    return changed


def _without(mark: Mark) -> Callable[[Riff], Riff]:
    return _events(lambda event: replace(event, marks=event.marks - {mark}))


def _without_doubles(event: Event) -> Event:
    """A chord with one note of each target and place."""
    heights: dict[int, Note] = {}
    guitar = instrument_named("guitar-6")
    for note in event.notes:
        heights.setdefault(guitar.pitch_of(note.target), note)
    return replace(event, notes=tuple(heights.values()))


def _without_grace(riff: Riff) -> Riff:
    phrases = tuple(
        replace(
            phrase,
            bars=tuple(
                replace(bar, events=tuple(event for event in bar.events if not event.grace)) for bar in phrase.bars
            ),
        )
        for phrase in riff.phrases
    )
    return replace(riff, phrases=phrases)


CAUSES: dict[str, Callable[[Riff], Riff]] = {
    "dead notes, which have a pitch there": _without(Mark.DEAD),
    "two notes of one pitch struck together, which are one there": _events(_without_doubles),
    "swing, which is read as triplets or dotted notes": lambda riff: replace(riff, swing=Swing()),
    "grace notes, which are notes like others there": _without_grace,
    "staccato, which is written as short notes": _without(Mark.STACCATO),
    "a natural harmonic, which is written as the pitch that sounds": _without(Mark.HARMONIC),
}


def read_again(riff: Riff, ending: str) -> Riff:
    """The riff after it was written as a kind and read."""
    data, _ = written(ending, riff)
    source = open_data(f"riff{ending}", data).source
    return source.read(source.likely).riff


def same(riff: Riff, ending: str) -> bool:
    """Whether it sounds the same afterwards, from the first note on."""
    try:
        one, other = sounding(riff), sounding(read_again(riff, ending))
    except DromicError:
        return False
    return _from_first(one) == _from_first(other)


def _from_first(rows: list[Row]) -> list[Row]:
    return [(onset - rows[0][0], pitches, length) for onset, pitches, length in rows]


def cause(riff: Riff, ending: str) -> str:
    """What has to be taken out of a riff before it comes back as it was."""
    left = riff
    told = []
    for words, change in CAUSES.items():
        changed = change(left)
        if changed == left:
            continue
        left = changed
        told.append(words)
        if same(left, ending):
            return told[-1] if same(change(riff), ending) else "; ".join(told)
    return "not explained"


def riffs() -> list[Riff]:
    """Every riff, as planned, so that all of them have places, strokes and fingers."""
    found = [demo.riff for demo in demo_riffs()]
    found += [case.riff for name in ("open", "own") for case in cases_of(name)]
    made = []
    for riff in found:
        try:
            plan = plan_riff(riff, Request(hands_named("medium"), school_named("least-motion")))
        except DromicError:
            continue
        made.append(decided_riff(plan))
    return made


def main() -> None:
    """Write them all, read them all."""
    every = riffs()
    lines = [
        "# Round trips",
        "",
        "Made by `.venv/bin/python -m tests.checks.run_round_trips`: riffs of our own, as planned, written as",
        "every kind of file and read again. *Sounds the same*: pitches, beginnings and lengths of all notes. *All",
        "of it*: marks, strokes, fingers and the head, too; what a kind has no place for is said each time.",
        "",
        "| kind | riffs | sounds the same | all of it |",
        "|---|---|---|---|",
    ]
    told: list[str] = []
    for ending in KINDS:
        alike = [same(riff, ending) for riff in every]
        whole = sum(
            good and not losses(riff, read_again(riff, ending)) for riff, good in zip(every, alike, strict=True)
        )
        lines.append(f"| {WRITABLE[ending].words or ending} | {len(every)} | {sum(alike)} | {whole} |")
        print(lines[-1], flush=True)
        causes = Counter(cause(riff, ending) for riff, good in zip(every, alike, strict=True) if not good)
        told += [f"- {ending}, {count} riffs: {words}" for words, count in causes.most_common()]
    if told:
        lines += ["", "Where they do not sound the same:", "", *told]
    PAGE.write_text("\n".join(lines) + "\n", encoding="utf-8")
    print("\n".join(told))


if __name__ == "__main__":
    main()
