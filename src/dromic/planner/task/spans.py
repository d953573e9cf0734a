"""Harmony spans: the notes between two changes of chord, for which the hand holds one chord shape.

A span lies within a bar. It is told from the music alone: from what is marked to ring, from strums with bass notes
between them, and from broken chords, which go round in leaps; where most of a riff is chords, in any order in which
the tones come again. A bar with two chords has two spans: where a sign says so, or where its tones are no one chord
or no hand holds them, at its middle.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import cache
from itertools import pairwise

from dromic.hands.constants import FrettingHand
from dromic.hands.posture import LONG_NECK_MM
from dromic.hands.span_shapes import VOICE_STEP, span_shapes
from dromic.instrument.instrument import Instrument
from dromic.music.chords import QUALITIES
from dromic.music.pitch import OCTAVE
from dromic.music.riff import Mark
from dromic.planner.task.figures import LEAST_LEAP_SEMITONES
from dromic.planner.task.step import InSpan, SpanPart, Step
from dromic.planner.task.task import Link

ROUNDS = (3, 4)
"""Notes that a broken chord goes round in."""
STRUM_NOTES, TRIAD = 3, 3
LEAST_AGAIN, LEAST_OF_LINES = 6, 3
FIFTH = 7
ALONE = frozenset(
    (
        Mark.TAP, Mark.SLIDE, Mark.RELEASE, Mark.TRILL_HALF, Mark.TRILL_WHOLE,
        Mark.SLIDE_IN, Mark.SLIDE_OFF, Mark.HARMONIC, Mark.PINCH, Mark.RAKE,
    )
)  # fmt: skip
"""Marks of notes that are played by themselves."""


def with_spans(
    steps: Sequence[Step],
    links: Sequence[Link],
    instrument: Instrument,
    hand: FrettingHand,
    drones: Sequence[range] = (),
    *,
    high_gain: bool,
) -> tuple[tuple[Step, ...], tuple[Link, ...], tuple[range, ...]]:
    """Tell every step its harmony span, and every link whether it is inside one or between notes that ring.

    Parameters
    ----------
    steps : sequence of Step
    links : sequence of Link
        From each step to the next.
    instrument : Instrument
    hand : FrettingHand
        Which says what can be held at all.
    drones : sequence of range
        Steps of tunes over drones, which ring and are no chords.
    high_gain : bool
        With which only what is marked rings.

    Returns
    -------
    tuple of Step, tuple of Link, tuple of range
        The last: the steps of every span.
    """
    pitches = [tuple(instrument.pitch_of(note.target) for note in step.notes) for step in steps]
    marked = [Mark.LET_RING in step.note.marks for step in steps]
    told = not high_gain and instrument.scale_mm < LONG_NECK_MM
    spans: list[range] = []
    runs = list(_runs(steps, links, marked))
    accompanies = _accompanies([pitches[run.start : run.stop] for run in runs])
    for run in runs:
        if len(run) < 2:
            continue
        rings = marked[run.start]
        if not rings:
            run = _without_bass_run(run, pitches)
        if (rings or told) and not any(at in run for line in drones for at in line):
            spans += _spans(run, steps, pitches, instrument, hand, marked=rings, accompanies=accompanies)
    steps, links = list(steps), list(links)
    for at, (one, two) in enumerate(pairwise(marked)):
        if one and two and not links[at].kind.silent_between:
            links[at] = replace(links[at], kind=replace(links[at].kind, let_ring=True))
    for line in drones:
        for at in line:
            steps[at] = steps[at].told(over_drone=True)
        for at in line[:-1]:
            links[at] = replace(links[at], kind=replace(links[at].kind, let_ring=True))
    for span in spans:
        tones = _tones([pitches[at] for at in span])
        for at in span:
            part = SpanPart.FIRST if at == span.start else SpanPart.LATER
            steps[at] = steps[at].told(span=InSpan(tones, part))
        for at in span[:-1]:
            links[at] = replace(links[at], kind=replace(links[at].kind, within_span=True))
    return tuple(steps), tuple(links), tuple(spans)


def _runs(steps: Sequence[Step], links: Sequence[Link], marked: Sequence[bool]) -> Iterator[range]:
    """Steps in a row of one bar and one chord sign that a hand could hold, ringing or not."""
    first = 0
    for at in range(1, len(steps) + 1):
        alike = at < len(steps) and marked[at] == marked[at - 1]
        if alike and not _begins(steps[at - 1], steps[at], links[at - 1]):
            continue
        yield _whole(range(first, at), steps)
        first = at


def _whole(run: range, steps: Sequence[Step]) -> range:
    """A run without notes that are slurred from or to notes outside, or played by themselves."""
    first, stop = run.start, run.stop
    while first < stop and (_alone(steps[first]) or steps[first].legato is not None):
        first += 1
    while first < stop < len(steps) and steps[stop].legato is not None:
        stop -= 1
    return range(first, stop)


def _without_bass_run(run: range, pitches: Sequence[tuple[int, ...]]) -> range:
    """A run of strums without the single notes at its end that lead by steps to what comes behind it."""
    stop = run.stop
    while run.start < stop < len(pitches) and len(pitches[stop - 1]) == 1:
        if not 0 < abs(pitches[stop][0] - pitches[stop - 1][0]) <= VOICE_STEP:
            break
        stop -= 1
    strummed = any(len(pitches[at]) > 1 for at in range(run.start, stop))
    return range(run.start, stop) if strummed else run


def _begins(before: Step, step: Step, link: Link) -> bool:
    """Whether a step is not of one run with the one before."""
    one, two = before.moment, step.moment
    elsewhere = (one.phrase, one.pass_number, one.bar) != (two.phrase, two.pass_number, two.bar)
    rings = Mark.LET_RING in step.note.marks
    return (
        elsewhere
        or two.event.chord is not None
        or _alone(before)
        or _alone(step)
        or (rings and link.kind.silent_between)
    )


def _alone(step: Step) -> bool:
    return bool(step.held) or any(note.marks & ALONE for note in step.notes)


def _spans(
    run: range,
    steps: Sequence[Step],
    pitches: Sequence[tuple[int, ...]],
    instrument: Instrument,
    hand: FrettingHand,
    *,
    marked: bool,
    accompanies: bool,
) -> Iterator[range]:
    """The spans of a run, halved as often as it has to be."""
    own = [pitches[at] for at in run]
    told = (_strummed(own, accompanies=accompanies) or _broken(own, accompanies=accompanies)) and not any(
        steps[at].bend for at in run
    )
    if not (_rings(own) if marked else told):
        return
    halves = _halves(run, steps)
    if not _two_chords(own, halves[0].stop - run.start) and span_shapes(_tones(own), instrument, hand):
        yield run
        return
    for half in (_whole(half, steps) for half in halves):
        if 1 < len(half) < len(run):
            yield from _spans(half, steps, pitches, instrument, hand, marked=marked, accompanies=accompanies)


def _halves(run: range, steps: Sequence[Step]) -> tuple[range, range]:
    """The steps before the middle of the time, and those from it on."""
    end = steps[run[-1]].moment
    middle = (steps[run.start].moment.onset + end.onset + end.duration) / 2
    cut = next((at for at in run[1:] if steps[at].moment.onset >= middle), run.stop)
    return range(run.start, cut), range(cut, run.stop)


def _tones(pitches: Sequence[tuple[int, ...]]) -> tuple[int, ...]:
    """All tones, those that are struck most first, of these the first."""
    return tuple(tone for tone, _ in Counter(tone for some in pitches for tone in some).most_common())


def _rings(pitches: Sequence[tuple[int, ...]]) -> bool:
    """Whether notes marked to ring are those of chords, and no line that rings, alone or over a drone."""
    near = [[tone for some in pitches[max(at - 2, 0) : at] for tone in some] for at in range(len(pitches))]
    steps = sum(
        any(0 < abs(tone - other) <= VOICE_STEP for tone in some for other in before)
        for some, before in zip(pitches, near, strict=True)
    )
    return len(_tones(pitches)) > 1 and 2 * steps < len(pitches)


def _strummed(pitches: Sequence[tuple[int, ...]], *, accompanies: bool) -> bool:
    """Whether a chord is struck above single bass notes, again and again if it has but two notes, and no fifth."""
    chords = [some for some in pitches if len(some) > 1]
    singles = [some[0] for some in pitches if len(some) == 1]
    if not chords or not singles or min(singles) > min(map(min, chords)):
        return False
    pairs = [some for some in chords if max(some) - min(some) not in (FIFTH, OCTAVE)]
    return max(map(len, chords)) >= STRUM_NOTES or len(pairs) == len(chords) > (not accompanies)


def _broken(pitches: Sequence[tuple[int, ...]], *, accompanies: bool) -> bool:
    """Whether notes in leaps go round: the same tones in the same order again, once at least, or in any order."""
    if any(min(abs(a - b) for a in one for b in two) < LEAST_LEAP_SEMITONES for one, two in pairwise(pitches)):
        return False
    return any(_goes_round(pitches, length) for length in ROUNDS) or (accompanies and _comes_again(pitches))


def _accompanies(runs: Sequence[Sequence[tuple[int, ...]]]) -> bool:
    """Whether most of a riff is chords, strummed or broken, and no tune that leaps now and then."""
    lines = [run for run in runs if len(run) >= LEAST_OF_LINES and min(map(len, run)) == 1]
    count = sum(_strummed(run, accompanies=True) or _broken(run, accompanies=True) for run in lines)
    return count > 1 and 3 * count >= 2 * len(lines)


def _comes_again(pitches: Sequence[tuple[int, ...]]) -> bool:
    """Whether all tones come again but for the highest and the two lowest: up and down, or over a moving bass."""
    count = Counter(tone for some in pitches for tone in some)
    if len(pitches) < LEAST_AGAIN or len(count) < TRIAD:
        return False
    lowest, second, *_, highest = sorted(count)
    return all(times > 1 for tone, times in count.items() if tone not in (lowest, second, highest))


def _goes_round(pitches: Sequence[tuple[int, ...]], length: int) -> bool:
    """Whether so many different notes come again in their order, and all others are some of them."""
    first = pitches[:length]
    return (
        len({*first}) == length == len({*pitches})
        and len(pitches) >= 2 * length
        and tuple(pitches[length : 2 * length]) == tuple(first)
    )


def _two_chords(pitches: Sequence[tuple[int, ...]], cut: int) -> bool:
    """Whether the tones are no one chord, or a chord on either side of the middle is plainer."""
    foreign = _foreign(pitches)
    halves = pitches[:cut], pitches[cut:]
    plainer = all(len(_tones(half)) >= TRIAD and not _foreign(half) for half in halves)
    return foreign > 1 or (foreign > 0 and plainer)


def _foreign(pitches: Sequence[tuple[int, ...]]) -> int:
    """How many tones are not those of the chord that has most of them."""
    classes = frozenset(tone % OCTAVE for tone in _tones(pitches))
    return min(len(classes - chord) for chord in _chords())


@cache
def _chords() -> tuple[frozenset[int], ...]:
    """The pitch classes of every kind of chord of four tones or fewer on every root."""
    kinds = [[degree.semitones for degree in one.degrees] for one in QUALITIES.values() if len(one.degrees) <= 4]
    return tuple(frozenset((root + tone) % OCTAVE for tone in kind) for kind in kinds for root in range(OCTAVE))
