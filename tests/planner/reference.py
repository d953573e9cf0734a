"""The movement model once more, written from docs/model.md in plain Python, with none of the planner's code.

It covers everything that docs/model.md describes: single notes and chords, rakes, plucking fingers, slurs under
sparse picking, notes held on, loops, repeats that are identical, swing, ties, grace notes, locks and all schools,
those of single phrases too. Only the dating of events (`dromic.music.timeline`) is not written a second time.

`best_cost` searches through every joint choice; it leaves a branch only when its cost so far, with the least that
each remaining step must cost by itself, is already as large as a bound, which is sound because no cost is negative.

Strings count from the thinnest, 1.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import lru_cache
from importlib.resources import files
from itertools import groupby, pairwise, product
from math import hypot, inf, log2, sqrt

from dromic.hands.profile import Hands
from dromic.instrument.instrument import Instrument
from dromic.music.chords import QUALITIES
from dromic.music.pitch import Pitch
from dromic.music.riff import Event, Gain, Locks, Mark, Note, Place, Riff
from dromic.music.timeline import TimedEvent, timeline, total_played
from dromic.planner.task.sounding import sound_of
from dromic.planner.task.step import UsualWay
from dromic.schools.registry import school_named

DOWN, UP = 1, -1
DIRECTIONS = {"down": DOWN, "up": UP}
PICK, BASS = ("down", "up"), ("i", "m")
HYBRID = ("down", "up", "m", "a", "c")
TOGETHER = "together"
ABOVE = {"m": 1, "a": 2, "c": 3}
CYCLES = (("down", "down", "up"), ("down", "down", "down", "up", "up", "up"), ("down", "up"))
LEGATO = (Mark.HAMMER, Mark.PULL, Mark.SLIDE, Mark.RELEASE, Mark.TAP)
BENDS = {Mark.BEND_QUARTER, Mark.BEND_HALF, Mark.BEND_WHOLE}
TRILLS = {Mark.TRILL_HALF, Mark.TRILL_WHOLE}
HYBRID_FINGERS = {"m": 0.01, "a": 0.015, "c": 0.05}
HYBRID_FORMS = ("finger a string", "leaps", "fingers for chords", "each its own strings")
OWN_STRINGS = {1: "c", 2: "a", 3: "m"}
FINGER_ORDER = {"i": 0, "m": 0, "a": 1, "c": 2}
OFFSETS = {1: (-1, 0), 2: (-1, 0, 1), 3: (-1, 0, 1), 4: (-1, 0, 1, 2)}
MOST_FLIGHT = 3

Fretted = tuple[int, int, int]
Pattern = tuple[tuple[int, ...], ...]


@dataclass(frozen=True)
class Grip:
    """String, fret and finger (0 open) of each note struck, thickest first, and of those held; the position.

    `flight` counts the notes on end for which no finger has been down, this one included. `ready` is the rest of
    the chord shape that the hand holds, `shape` which of its span's shapes that is.
    """

    notes: tuple[Fretted, ...]
    position: int
    held: tuple[Fretted, ...] = ()
    flight: int = 0
    ready: tuple[Fretted, ...] = ()
    shape: int = 0

    @property
    def single(self) -> bool:
        return len(self.notes) + len(self.held) == 1 and not self.shape

    @property
    def all(self) -> tuple[Fretted, ...]:
        return tuple(sorted((*self.notes, *self.held, *self.ready), reverse=True))

    @property
    def opens(self) -> list[int]:
        """Strings struck open."""
        return [string for string, fret, _ in self.notes if not fret]

    @property
    def low(self) -> int:
        """Thickest string struck."""
        return self.notes[0][0]

    @property
    def high(self) -> int:
        """Thinnest string struck."""
        return self.notes[-1][0]

    def fingers(self) -> dict[int, tuple[int, int, int]]:
        """Of each finger down: its thickest and its thinnest string, and its fret."""
        found: dict[int, list[Fretted]] = {}
        for one in self.all:
            if one[2]:
                found.setdefault(one[2], []).append(one)
        return {finger: (some[0][0], some[-1][0], some[0][1]) for finger, some in sorted(found.items())}


@dataclass(frozen=True)
class Choice:
    """A grip, the last stroke or pluck, the direction that escapes (0: fingers), whether it sounds the note."""

    grip: Grip
    stroke: str
    escape: int
    picked: bool


@dataclass(frozen=True)
class Held:
    """An earlier bend that is held."""

    step: int
    note: Note


@dataclass(frozen=True)
class Step:
    """What is played at one moment; `marks` are those of its first note, the event's included."""

    moment: TimedEvent
    notes: tuple[Note, ...]
    marks: frozenset[Mark]
    locks: Locks
    legato: Mark | None
    picked: bool
    part: int
    parts: int
    count: int = 0
    opening: bool = False
    may_slur: bool = False
    held: tuple[Held, ...] = ()
    pedal: bool = False
    again: bool = False
    span: int | None = None
    over_drone: bool = False

    @property
    def rings(self) -> bool:
        return Mark.LET_RING in self.marks

    @property
    def chord(self) -> bool:
        return len(self.notes) > 1

    @property
    def bent(self) -> bool:
        return self._has(BENDS)

    @property
    def trill(self) -> bool:
        return self._has(TRILLS)

    @property
    def tapped(self) -> bool:
        return self.legato is Mark.TAP

    @property
    def fretted_only(self) -> bool:
        return self._has(BENDS | {Mark.VIBRATO, Mark.SLIDE_IN, Mark.HARMONIC})

    def _has(self, marks: set[Mark]) -> bool:
        return any(note.marks & marks for note in self.notes)

    @property
    def raked(self) -> bool:
        return Mark.RAKE in self.marks


@dataclass(frozen=True)
class Link:
    """The way from one step to the next, in milliseconds; `earlier` are the links before it, the last first."""

    gap: float
    pick_gap: float
    earlier: tuple[float, ...]
    silent: bool
    plants_on: frozenset[int]
    subdivides: bool
    palm: bool
    seam: bool
    slurred: bool = False
    resumes: bool = False
    rested: bool = False
    let_ring: bool = False
    within_span: bool = False
    next_take: bool = False
    mirrored: bool = False

    def hand_gap(self, flight: int) -> float:
        """Time that the fretting hand has had when no finger was down for so many notes."""
        return self.gap + sum(self.earlier[:flight])


@dataclass(frozen=True)
class Asked:
    """How the riff is played: schools by phrase, a loop, identical repeats, first stroke, exempt locks.

    `swapped`: every second round of the loop has the other strokes. `exempt_seam`: no school rules the seam.
    `usual`: of each step how it is played in other bars like its own, as the planner found it.
    """

    by_phrase: dict[str, str] = field(default_factory=dict)
    loop: bool = False
    identical_repeats: bool = False
    first_stroke: str | None = None
    exempt: frozenset[int] = frozenset()
    swapped: bool = False
    exempt_seam: bool = False
    usual: tuple[UsualWay | None, ...] = ()


# -- steps --------------------------------------------------------------------------------------------------------


def grid(moments: tuple[TimedEvent, ...]) -> list[tuple[int, int]]:
    """Part of its beat, and parts that the beat has, of every moment."""
    inside = [divmod((one.beat - 1) / one.meter.beat, 1) for one in moments]
    needs: dict[tuple[int, int], set[Fraction]] = {}
    for number, one in enumerate(moments):
        after_grace = number > 0 and moments[number - 1].event.grace
        if not one.event.grace and not after_grace:
            beat, share = inside[number]
            needs.setdefault((one.bar, int(beat)), set()).add(share)
    parts = {
        beat: next(count for count in range(1, 10_000) if all((one * count).denominator == 1 for one in shares))
        for beat, shares in needs.items()
    }
    binary = (1, 2, 4, 8, 16, 32, 64)
    finest: dict[int, int] = {}
    for (bar, _), count in parts.items():
        if count in binary:
            finest[bar] = max(finest.get(bar, 1), count)
    found = []
    for one, (beat, share) in zip(moments, inside, strict=True):
        count = parts.get((one.bar, int(beat)), 1)
        if count in binary and not one.meter.compound:
            count = finest.get(one.bar, 1)
        found.append((int(share * count), count))
    return found


def _locks(event: Event, note: Note) -> Locks:
    return Locks(
        event.locks.stroke or note.locks.stroke,
        event.locks.finger or note.locks.finger,
        event.locks.position or note.locks.position,
    )


def steps_of(moments: tuple[TimedEvent, ...], asked: Asked) -> list[Step]:
    """Steps of a riff, held notes included."""
    found: list[Step] = []
    for one, (part, parts) in zip(moments, grid(moments), strict=True):
        event = one.event
        if event.rest or Mark.TIE in event.marks:
            continue
        first = event.notes[0]
        marks = event.marks | first.marks
        locks = _locks(event, first)
        legato = next((mark for mark in LEGATO if mark in marks), None)
        shifted = legato in (Mark.SLIDE, Mark.RELEASE) and locks.stroke is not None
        chord = len(event.notes) > 1
        notes = tuple(
            Note(note.target, note.marks | event.marks, Locks(finger=note.locks.finger or event.locks.finger))
            if chord
            else Note(note.target, marks)
            for note in event.notes
        )
        found.append(Step(one, notes, marks, locks, legato, legato is None or shifted, part, parts))
    for number, step in enumerate(found):
        if step.legato is Mark.SLIDE and _slides_from_nowhere(found[number - 1] if number else None, step, moments):
            found[number] = replace(step, legato=None, picked=True)
    bar, count = None, 0
    opened = False
    struck = {Mark.DEAD, Mark.PALM_MUTE, Mark.ACCENT, Mark.RAKE, Mark.LET_RING}
    struck |= {Mark.SLIDE_IN, Mark.HARMONIC, Mark.PINCH}
    for number, step in enumerate(found):
        if step.moment.bar != bar:
            bar, count = step.moment.bar, 0
        opening = step.picked and not opened
        opened = opened or step.picked
        free = step.picked and not step.chord and step.locks.stroke is None and not step.marks & struck
        may_slur = free and number > 0 and not found[number - 1].chord
        locks = step.locks
        if opening and asked.first_stroke is not None:
            locks = replace(locks, stroke=asked.first_stroke)  # type: ignore[arg-type]
        found[number] = replace(step, count=count, opening=opening, may_slur=may_slur, locks=locks)
        count += step.picked
    return found


def _slides_from_nowhere(before: Step | None, step: Step, moments: tuple[TimedEvent, ...]) -> bool:
    """Whether a slide cannot come from the note before, as far as it is written."""
    if before is None or before.marks & {Mark.STACCATO, Mark.SLIDE_OFF}:
        return True
    if any(moment.event.rest for moment in moments[before.moment.index : step.moment.index]):
        return True
    one, two = before.notes[0].target, step.notes[0].target
    if before.chord or step.chord or isinstance(one, Pitch) or isinstance(two, Pitch):
        return False
    return one.string != two.string or not one.fret or one.fret == two.fret


def with_held(steps: list[Step], guitar: Instrument) -> list[Step]:
    """Tell every step which bends are held."""
    found = list(steps)
    for number, step in enumerate(steps):
        if step.legato is not Mark.RELEASE:
            continue
        bend = next(
            at
            for at in range(number - 1, -1, -1)
            if steps[at].bent
            and (
                at == number - 1
                or guitar.pitch_of(step.notes[0].target) == guitar.pitch_of(steps[at].notes[0].target)
            )
        )
        for between in range(bend + 1, number):
            if found[between].tapped:
                continue
            held = Held(bend, steps[bend].notes[0])
            found[between] = replace(found[between], held=(*found[between].held, held))
    return found


def _sign(value: int) -> int:
    return (value > 0) - (value < 0)


def _strings(choices: list[Choice]) -> Pattern:
    """The strings that some notes are struck on."""
    return tuple(tuple(note[0] for note in one.grip.notes) for one in choices)


def _home(fret: int, finger: int) -> int:
    """Where the first finger is at home when a finger is on its own fret; the thumb is where the first is."""
    return fret if finger == 5 else fret - finger + 1


def _from_first(placing: Pattern) -> Pattern:
    """Strings counted from the first note's."""
    start = placing[0][0]
    return tuple(tuple(string - start for string in some) for some in placing)


@lru_cache(maxsize=1)
def known_shapes() -> list[frozenset[Fretted]]:
    """String, fret and finger of the notes of every shape of the table."""
    text = files("dromic.hands").joinpath("chord_shapes.txt").read_text(encoding="utf-8")
    rows = [line.split() for line in text.splitlines() if not line.startswith("#")]
    return [frozenset((6 - at, int(row[at]), int(row[6][at])) for at in range(6) if row[at] != "x") for row in rows]


def _that_have(shapes: list[frozenset[Fretted]], places: set[tuple[int, int]]) -> list[frozenset[Fretted]]:
    """Known shapes that have some places: those with no other where there are any, else all."""
    some = [shape for shape in shapes if places <= {note[:2] for note in shape}]
    return [shape for shape in some if len(shape) == len(places)] or some


def _as_in(shapes: list[frozenset[Fretted]], notes: tuple[Fretted, ...], up: int) -> bool:
    """Whether notes, moved along the neck, are held as in a known shape."""
    moved = {(string, fret + up, finger) for string, fret, finger in notes}
    return any(moved <= shape for shape in _that_have(shapes, {note[:2] for note in moved}))


class Reference:
    """Costs of choices for one riff, player, school and instrument."""

    def __init__(
        self,
        riff: Riff,
        hands: Hands,
        school: str,
        instrument: Instrument,
        asked: Asked | None = None,
        cycle: tuple[str, ...] = CYCLES[-1],
        hybrid: str = HYBRID_FORMS[-1],
    ) -> None:
        self.hands, self.instrument = hands, instrument
        self.asked = asked or Asked()
        self.school, self.cycle, self.hybrid = school, cycle, hybrid
        self.sound = sound_of(riff, school_named(school), instrument)
        camps = hands.fretting
        self.damps = riff.gain == "high" if camps.damping == "by-gain" else camps.damping == "always"
        self.loud = self.damps and camps.open_strings != "welcome"
        self.closed = self.sound.closed if camps.open_strings == "by-style" else camps.open_strings == "avoided"
        wide = max(instrument.scale_mm / 660.0, 1.0) ** hands.fretting.opens_on_long_necks
        self.spread = tuple(mm * wide for mm in (*hands.fretting.spread_mm, hands.fretting.thumb_mm))
        narrow = instrument.strings <= 6 and instrument.scale_mm <= 750
        self.thumbs = instrument.strings if hands.fretting.thumb == "for-bass" and narrow else 0
        self.ms = 60_000.0 / riff.tempo
        self.riff, self.moments = riff, timeline(riff)
        self.steps = steps_of(self.moments, self.asked)
        self.names = [phrase.name for phrase in riff.phrases]
        self.schools = [self.school_of(step) for step in self.steps]
        self.slurs = "sparse" in {school, *self.asked.by_phrase.values()}
        self.links = self._links()
        self.steps = self._with_pedals(with_held(self.steps, instrument))
        self._known_shapes: dict[tuple[int, ...], list[tuple[tuple[Fretted, ...], tuple[Fretted, ...], int]]] = {}
        self.drones = self._drone_lines()
        over = {first + at for first, length, takes in self.drones for at in range(length * takes)}
        self.steps = [replace(step, over_drone=at in over) for at, step in enumerate(self.steps)]
        self.spans = self._spans()
        for number, span in enumerate(self.spans):
            for at in span:
                self.steps[at] = replace(self.steps[at], span=number)
        self.run_starts: set[int] = set()
        self.tune_starts: set[int] = set()
        self.figures = [] if self.asked.identical_repeats else self._figures()
        self._tell_links()
        self.tied = self._tied()
        self.fret = lru_cache(maxsize=None)(self._fret)
        self.pick_ms = lru_cache(maxsize=None)(self._pick_ms)
        self.options = self._settled()
        both = self.asked.swapped
        self.link = lru_cache(maxsize=None)(self._link_of_both if both else self._link)
        self.step = lru_cache(maxsize=None)(self._step_of_both if both else self._step_in_one)

    # -- harmony spans --------------------------------------------------------------------------------------

    def _spans(self) -> list[list[int]]:
        """Steps of every harmony span."""
        count = len(self.steps)
        told = self.riff.gain is not Gain.HIGH and self.instrument.scale_mm < 750
        runs: list[list[int]] = []
        for at in range(count):
            if at and self._goes_on(at):
                runs[-1].append(at)
            else:
                runs.append([at])
        found = []
        runs = [self._trimmed(run) for run in runs]
        rows = [[self._pitches(self.steps[at]) for at in run] for run in runs]
        lines = [self._is_chordal(row, most=True) for row in rows if len(row) > 2 and min(map(len, row)) == 1]
        most = sum(lines) > 1 and sum(lines) >= 2 / 3 * len(lines) - 1e-9
        for run in map(self._without_bass_run, runs):
            over_drones = any(
                first <= at < first + length * takes for first, length, takes in self.drones for at in run
            )
            if len(run) > 1 and (self.steps[run[0]].rings or told) and not over_drones:
                found += self._spans_of(run, most)
        return found

    def _without_bass_run(self, run: list[int]) -> list[int]:
        """A run of strums without single notes at its end that go by steps to what follows."""
        rows = [self._pitches(step) for step in self.steps]
        if not run or self.steps[run[0]].rings:
            return run
        left = list(run)
        while left and len(rows[left[-1]]) == 1 and left[-1] + 1 < len(rows):
            if abs(rows[left[-1] + 1][0] - rows[left[-1]][0]) not in (1, 2):
                break
            left.pop()
        return left if any(len(rows[at]) > 1 for at in left) else run

    def _alone(self, at: int) -> bool:
        alone = {Mark.TAP, Mark.SLIDE, Mark.RELEASE, Mark.SLIDE_IN, Mark.SLIDE_OFF, Mark.HARMONIC}
        alone |= {Mark.PINCH, Mark.RAKE} | TRILLS
        return bool(self.steps[at].held) or any(note.marks & alone for note in self.steps[at].notes)

    def _goes_on(self, at: int) -> bool:
        """Whether a step is of one run with the one before."""
        before, step = self.steps[at - 1], self.steps[at]
        one, two = before.moment, step.moment
        same_bar = (one.phrase, one.pass_number, one.bar) == (two.phrase, two.pass_number, two.bar)
        if not same_bar or two.event.chord is not None or self._alone(at - 1) or self._alone(at):
            return False
        return before.rings == step.rings and not (step.rings and self.links[at - 1].silent)

    def _trimmed(self, run: list[int]) -> list[int]:
        """A run without what is slurred from or to a note outside it."""
        steps = self.steps
        while run and (self._alone(run[0]) or steps[run[0]].legato):
            run = run[1:]
        while run and run[-1] + 1 < len(steps) and steps[run[-1] + 1].legato:
            run = run[:-1]
        return run

    def _tones(self, run: list[int]) -> tuple[int, ...]:
        """Pitches of a run: those struck most first, of these the first to be struck."""
        guitar = self.instrument
        struck = [guitar.pitch_of(note.target) for at in run for note in self.steps[at].notes]
        return tuple(sorted(dict.fromkeys(struck), key=lambda tone: (-struck.count(tone), struck.index(tone))))

    def _spans_of(self, run: list[int], most: bool) -> list[list[int]]:
        rows = [self._pitches(self.steps[at]) for at in run]
        tones = self._tones(run)
        if self.steps[run[0]].rings:
            steps = [
                any(abs(a - b) in (1, 2) for row in rows[max(at - 2, 0) : at] for a in row for b in rows[at])
                for at in range(len(rows))
            ]
            chordal = len(tones) > 1 and 2 * sum(steps) < len(run)
        else:
            bent = any(self.steps[at].bent for at in run)
            chordal = not bent and self._is_chordal(rows, most)
        if not chordal:
            return []
        first, last = self.steps[run[0]].moment, self.steps[run[-1]].moment
        middle = (first.onset + last.onset + last.duration) / 2
        late = [at for at in run[1:] if self.steps[at].moment.onset >= middle]
        halves = [[at for at in run if not late or at < late[0]], [at for at in run if late and at >= late[0]]]
        foreign = self._foreign(run)
        plainer = all(len(self._tones(half)) > 2 and not self._foreign(half) for half in halves)
        if foreign < 2 and not (foreign and plainer) and self._shapes_of(tones):
            return [run]
        smaller = [half for half in map(self._trimmed, halves) if 1 < len(half) < len(run)]
        return [span for half in smaller for span in self._spans_of(half, most)]

    def _is_chordal(self, rows: list[list[int]], most: bool) -> bool:
        """Whether a run is strummed or broken; more counts where most of the riff is."""
        leaps = all(abs(a - b) > 2 for one, two in pairwise(rows) for a in one for b in two)
        struck = [pitch for row in rows for pitch in row]
        tones = sorted(set(struck))
        again = len(rows) > 5 and len(tones) > 2 and all(struck.count(tone) > 1 for tone in tones[2:-1])
        return self._strummed(rows, 0 if most else 1) or (leaps and (self._goes_round(rows) or (most and again)))

    @staticmethod
    def _strummed(rows: list[list[int]], more_than: int) -> bool:
        chords, basses = [row for row in rows if len(row) > 1], [row[0] for row in rows if len(row) == 1]
        if not chords or not basses or min(basses) > min(row[0] for row in chords):
            return False
        pairs = all(row[-1] - row[0] not in (7, 12) for row in chords)
        return any(len(row) > 2 for row in chords) or (pairs and len(chords) > more_than)

    @staticmethod
    def _goes_round(rows: list[list[int]]) -> bool:
        different = {tuple(row) for row in rows}
        return any(
            len(rows) >= 2 * size
            and rows[:size] == rows[size : 2 * size]
            and len({tuple(row) for row in rows[:size]}) == size == len(different)
            for size in (3, 4)
        )

    def _foreign(self, run: list[int]) -> int:
        """Tones that are not of the chord that has most of them."""
        classes = {tone % 12 for tone in self._tones(run)}
        kinds = [{degree.semitones for degree in kind.degrees} for kind in QUALITIES.values()]
        return min(
            len(classes - {(root + tone) % 12 for tone in kind})
            for kind in kinds
            if len(kind) <= 4
            for root in range(12)
        )

    def _shapes_of(self, tones: tuple[int, ...]) -> list[tuple[tuple[Fretted, ...], tuple[Fretted, ...], int]]:
        """Shapes that are weighed: notes at rest, notes added, position (0: no finger at rest)."""
        if tones not in self._known_shapes:
            self._known_shapes[tones] = list(self._find_shapes(tones))
        return self._known_shapes[tones]

    def _find_shapes(
        self, tones: tuple[int, ...]
    ) -> Iterator[tuple[tuple[Fretted, ...], tuple[Fretted, ...], int]]:
        if not 2 <= len(tones) <= 7:
            return
        widest = self.spread[3] + self.hands.fretting.stretch_mm
        by_placing = []
        for placing in product(*(self._places_of(tone) for tone in tones)):
            spots = [self._spot(place.fret) for place in placing if place.fret]
            strings: dict[int, list[int]] = {}
            for tone, place in zip(tones, placing, strict=True):
                strings.setdefault(place.string, []).append(tone)
            steps = [b - a for voice in strings.values() for a, b in pairwise(sorted(voice))]
            wide = any(max(voice) - min(voice) > 4 for voice in strings.values())
            if len(tones) - len(strings) > 2 or wide or any(step > 2 for step in steps):
                continue
            if spots and max(spots) - min(spots) > widest:
                continue
            best: dict[object, tuple[float, tuple[Fretted, ...], tuple[Fretted, ...], int]] = {}
            for notes, more, position in self._placed(tones, placing):
                effort = self._shape(Grip(notes, max(position, 1))) + self.hands.comfort.added * len(more)
                rank = (round(effort, 9), notes, more, position)
                best[notes, more] = min(best.get((notes, more), rank), rank)
            if best:
                by_placing.append(sorted(best.values())[:6])
        for some in sorted(by_placing)[:16]:
            yield from (one[1:] for one in some)

    def _placed(
        self, tones: tuple[int, ...], placing: tuple[Place, ...]
    ) -> Iterator[tuple[tuple[Fretted, ...], tuple[Fretted, ...], int]]:
        """Every way to hold tones at some places."""
        rest: dict[int, Place] = {}
        for place in [place for place in placing if place.fret] + [place for place in placing if not place.fret]:
            rest.setdefault(place.string, place)
        added = [place for place in placing if place not in rest.values()]
        low = [place for tone, place in zip(tones, placing, strict=True) if tone in sorted(tones)[:2]]
        low = [place for place in low if place not in added]
        ways: list[tuple[list[Place], Place | None, Place | None]] = [(added, None, None)]
        beside = len(low) == 2 and abs(low[0].string - low[1].string) == 1 and low[0].fret == low[1].fret > 0
        if beside and len(added) < 2:
            ways += [([*added, one], one, other) for one, other in (low, low[::-1])]
        for more, left, over in ways:
            places = tuple(sorted((one for one in rest.values() if one != left), key=lambda one: -one.string))
            if len(places) < 2:
                continue
            for fingers in self._fingerings(places):
                notes = tuple((one.string, one.fret, finger) for one, finger in zip(places, fingers, strict=True))
                down = [note for note in notes if note[2]]
                for position in range(1, self.instrument.top_fret + 1) if down else (0,):
                    fits = (
                        abs(_home(fret, finger) - position) <= 2 and self._reaches(fret, finger, position)
                        for _, fret, finger in down
                    )
                    chosen = [self._added(one, notes, position, over if one == left else None) for one in more]
                    if all(fits) and None not in chosen:
                        found = (note for note in chosen if note is not None)
                        yield notes, tuple(sorted(found, reverse=True)), position

    def _added(self, place: Place, notes: tuple[Fretted, ...], position: int, over: Place | None) -> Fretted | None:
        """A note added to a shape, by a free finger rather than by one that leaves its note, the nearest."""
        if not place.fret:
            return (place.string, 0, 0)
        found = []
        for finger in (1, 2, 3, 4):
            same = [note for note in notes if note[2] == finger]
            ordered = all(
                (fret - place.fret) * (own - finger) >= 0 for _, fret, own in notes if own not in (0, 5, finger)
            )
            goes_over = over is None or any(note[:2] == (over.string, over.fret) for note in same)
            home = position or max(place.fret - finger + 1, 1)
            on_string = any(note[0] == place.string for note in same)
            if ordered and goes_over and not on_string and self._reaches(place.fret, finger, home):
                reach = self._spot(place.fret) - self._spot(home) - self.spread[finger - 1]
                found.append((bool(same), round(abs(reach), 6), finger))
        return (place.string, place.fret, min(found)[2]) if found else None

    def _on_shapes(self, number: int, homes: set[tuple[int, int]]) -> list[Grip]:
        """Ways to play a step on the shapes of its span."""
        step, found = self.steps[number], []
        assert step.span is not None
        shapes = self._shapes_of(self._tones(self.spans[step.span]))
        wanted = [note.locks.finger for note in step.notes] if step.chord else [step.locks.finger]
        for shape, (notes, added, position) in enumerate(shapes, 1):
            struck: list[Fretted] = []
            for note, lock in zip(step.notes, wanted, strict=True):
                places = {(one.string, one.fret) for one in self._places(note.target)}
                struck += [one for one in (*notes, *added) if one[:2] in places and lock in (None, one[2])][:1]
            unfretted = step.fretted_only or step.legato is Mark.HAMMER
            if len(struck) < len(step.notes) or (unfretted and not all(finger for _, _, finger in struck)):
                continue
            by_finger = [{fret for _, fret, own in struck if own == finger} for finger in (1, 2, 3, 4)]
            if len({one[0] for one in struck}) < len(struck) or any(len(frets) > 1 for frets in by_finger):
                continue
            busy = {one[2] for one in struck if one not in notes and one[2]}
            strings = {one[0] for one in struck}
            ready = tuple(one for one in notes if one[0] not in strings and one[2] not in busy)
            down = [one for one in (*struck, *ready) if one[2]]
            home = position or max((fret - finger + 1 for _, fret, finger in down), default=0)
            for at, flight in [(max(home, 1), 0)] if down else sorted(homes):
                if step.locks.position in (None, at):
                    whole = tuple(sorted(struck, reverse=True))
                    found.append(Grip(whole, at, flight=flight, ready=ready, shape=shape))
        return found

    def _held_spans(self, on_shapes: dict[int, list[Grip]]) -> set[int]:
        """Spans that have a shape for all their steps."""
        found = set()
        for number, span in enumerate(self.spans):
            shapes = set.intersection(*({grip.shape for grip in on_shapes[at]} for at in span))
            for one, two in pairwise(span):
                legato = self.steps[two].legato
                shapes &= {
                    b.shape
                    for a, b in product(on_shapes[one], on_shapes[two])
                    if a.shape == b.shape and self._legato(a, b, legato, False)
                }
            if shapes:
                found.add(number)
        return found

    def _known(self, notes: tuple[Fretted, ...]) -> bool | None:
        """Whether a shape is taught, or is one that the little finger adds a note to; the thumb left out."""
        notes = tuple(note for note in notes if note[2] != 5)
        known = self._taught(notes)
        if known is not False:
            return known
        table = (64, 59, 55, 50, 45, 40)
        tuned = [self.instrument.tuning[-string] - table[string - 1] for string, _, _ in notes]
        usual = max(tuned, key=tuned.count)
        alike = [note for note, own in zip(notes, tuned, strict=True) if own == usual]
        rest = tuple(note for note in alike if note[2] != 4)
        down = [finger for _, _, finger in rest if finger]
        embellished = len(alike) - len(rest) == 1 and len(rest) > 2 and 1 in down and len({*down}) == len(down)
        return embellished and self._taught(rest) is True

    def _taught(self, notes: tuple[Fretted, ...]) -> bool | None:
        """Whether a shape is in the table of known ones, whole or in part; None where the table cannot say."""
        guitar = self.instrument
        table = (64, 59, 55, 50, 45, 40)
        if len(notes) < 3 or guitar.scale_mm >= 750 or max(string for string, _, _ in notes) > 6:
            return None
        tuned = [guitar.tuning[guitar.strings - string] - table[string - 1] for string, _, _ in notes]
        usual = max(tuned, key=tuned.count)
        if any(fret and own != usual for (_, fret, _), own in zip(notes, tuned, strict=True)):
            return None
        alike = tuple(note for note, own in zip(notes, tuned, strict=True) if own == usual)
        fretted = tuple(note for note in alike if note[1])
        places = {(string, fret) for string, fret, _ in alike}
        opened = [shape for shape in known_shapes() if not all(fret for _, fret, _ in shape)]
        found = _as_in(opened, alike, 0)
        if len(fretted) == len(alike) or (len(fretted) > 2 and not _that_have(opened, places)):
            # A shape of the table lies four frets from its first at most.
            lowest = min(fret for _, fret, _ in fretted)
            closed = [shape for shape in known_shapes() if all(fret for _, fret, _ in shape)]
            found = found or any(_as_in(closed, fretted, above - lowest) for above in range(1, 6))
        return found

    # -- pedals and figures ---------------------------------------------------------------------------------

    def _pitches(self, step: Step) -> list[int]:
        guitar = self.instrument
        return sorted(
            note.target.midi
            if isinstance(note.target, Pitch)
            else guitar.tuning[guitar.strings - note.target.string] + guitar.capo + note.target.fret
            for note in step.notes
        )

    def _with_pedals(self, steps: list[Step]) -> list[Step]:
        lowest = [self._pitches(step)[0] for step in steps]
        near = [
            {lowest[at + by] for by in range(-4, 5) if by and 0 <= at + by < len(steps)} for at in range(len(steps))
        ]
        pitches = [self._pitches(step) for step in steps]
        again = [at > 0 and pitches[at] == pitches[at - 1] and not step.legato for at, step in enumerate(steps)]
        return [replace(step, pedal=lowest[at] in near[at], again=again[at]) for at, step in enumerate(steps)]

    def _drone_lines(self) -> list[tuple[int, int, int]]:
        """First note, length and takes of every tune over drones."""
        steps = self.steps
        opened = {pitch + self.instrument.capo for pitch in self.instrument.tuning}
        rows = [None if step.legato or len(step.notes) > 1 else self._pitches(step)[0] for step in steps]
        found = []
        for length, first in product((2, 3, 4), range(len(steps))):
            takes = 1
            while True:
                at = first + (takes - 1) * length
                one, two = rows[at : at + length], rows[at + length : at + 2 * length]
                onsets = [
                    [step.moment.onset - steps[begin].moment.onset for step in steps[begin : begin + length]]
                    for begin in (at, at + length)
                    if begin < len(steps)
                ]
                if len(two) < length or onsets[0] != onsets[1] or one[1:] != two[1:] or not {*one[1:]} <= opened:
                    break
                if one[0] is None or two[0] is None or abs(one[0] - two[0]) > 9:
                    break
                takes += 1
            if takes >= 5 and len({rows[first + take * length] for take in range(takes)}) > 2:
                found.append((-length * takes, first, length, takes))
        lines: list[tuple[int, int, int]] = []
        taken: set[int] = set()
        for _, first, length, takes in sorted(found):
            some = set(range(first, first + length * takes))
            if not some & taken:
                taken |= some
                lines.append((first, length, takes))
        return lines

    def _same_figure(self, at: int, length: int) -> bool:
        """Whether the notes from `at` and those behind them are two takes of one figure."""
        steps = self.steps
        if at + 2 * length > len(steps):
            return False
        rows = [self._pitches(step) for step in steps[at : at + 2 * length]]
        one, two = rows[:length], rows[length:]
        if [len(row) for row in one] != [len(row) for row in two]:
            return False
        pedal = any(a == b for a, b in zip(one, two, strict=True))
        if length == 2 and one != two and {len(row) > 1 for row in one} == {True, False}:
            pedal = False
        for offset in range(length):
            a, b = steps[at + offset], steps[at + length + offset]
            if offset and a.legato != b.legato:
                return False
            for p, q in zip(one[offset], two[offset], strict=True):
                if abs((p - one[0][0]) - (q - two[0][0])) > (5 if pedal else 2):
                    return False
            if not offset:
                continue
            times = [step.moment.onset for step in (a, b, steps[at + offset - 1], steps[at + length + offset - 1])]
            if times[0] - times[2] != times[1] - times[3]:
                return False
            if _sign(one[offset][0] - one[offset - 1][0]) != _sign(two[offset][0] - two[offset - 1][0]):
                return False
        ways = {_sign(b[0] - a[0]) for a, b in pairwise(rows[: length + 1])}
        if not {1, -1} <= ways:
            return False
        first, second = ({p for row in take for p in row} for take in (one, two))
        leaps = all(abs(b[0] - a[0]) not in (1, 2) for take in (one, two) for a, b in pairwise(take))
        return pedal or (max(first) - min(first) >= 7 and (leaps or 2 * len(first & second) <= len(first)))

    def _figures(self) -> list[tuple[int, int, int, tuple[Pattern, ...]]]:
        """First note, length, takes and patterns of every figure."""
        count = len(self.steps)
        runs = []
        for length in range(2, 9):
            for first in range(count):
                if first >= length and self._same_figure(first - length, length):
                    continue
                takes = 1
                while self._same_figure(first + (takes - 1) * length, length):
                    takes += 1
                if takes >= (3 if length == 2 else 2):
                    runs.append((-length * takes, self.steps[first].part != 0, length, first, takes))
        taken = {0, count - 1} if self.asked.loop else set()
        taken |= {at for span in self.spans for at in span}
        found = []
        drones = [(-inf, False, length, first, takes) for first, length, takes in self.drones]
        for rank, _, length, first, takes in [*sorted(drones, key=lambda one: one[3]), *sorted(runs)]:
            free = [
                not taken & set(range(first + take * length, first + (take + 1) * length)) for take in range(takes)
            ]
            spans = [(a, b) for a in range(takes) for b in range(a + 1, takes + 1) if all(free[a:b])]
            if not spans:
                continue
            a, b = max(spans, key=lambda span: (span[1] - span[0], -span[0]))
            if b - a < 2:
                continue
            start = first + a * length
            taken |= set(range(start, start + (b - a) * length))
            if rank == -inf:
                self.tune_starts.add(start)
            found.append((start, length, b - a, self._patterns(start, length, b - a)))
        threes = self._runs(taken) if self.riff.gain is Gain.HIGH else []
        self.run_starts = {first for first, *_ in threes}
        return found + threes

    def _runs(self, taken: set[int]) -> list[tuple[int, int, int, tuple[Pattern, ...]]]:
        """Scales of even single notes, three notes to a take, in what no figure takes."""
        found: list[tuple[int, int, int, tuple[Pattern, ...]]] = []
        first, rows = 0, [self._pitches(step) for step in self.steps]

        def goes_on(at: int) -> bool:
            if {first, at} & taken or len(rows[at - 1]) + len(rows[at]) > 2:
                return False
            whens = [self.steps[one].moment.onset for one in (first, first + 1, at - 1, at)]
            way, rise = rows[first + 1][0] - rows[first][0], rows[at][0] - rows[at - 1][0]
            return 1 <= abs(rise) <= 4 and rise * way > 0 and whens[1] - whens[0] == whens[3] - whens[2]

        while first < len(rows):
            last = first
            while last + 1 < len(rows) and goes_on(last + 1):
                last += 1
            threes = [rows[at : at + 3] for at in range(first, last - 1, 3)]
            guitar = self.instrument
            opens = {string: guitar.tuning[-string] + guitar.capo for string in range(1, guitar.strings + 1)}
            strings = {
                string
                for three in threes
                for string, pitch in opens.items()
                if all(0 <= row[0] - pitch <= guitar.top_fret for row in three)
            }
            if len(threes) > 1 and strings and all(abs(a[0] - c[0]) <= 4 for a, _, c in threes):
                some = tuple(((string,),) * 3 for string in sorted(strings))
                found.append((first, 3, len(threes), some))
            first = max(last, first + 1)
        return found

    def _tell_links(self) -> None:
        """Say of links whether they are inside a broken chord, and whether another take of a figure begins."""
        takes = {first + take * length for first, length, count, _ in self.figures for take in range(1, count)}
        mirrored = self._mirrored()
        steps = self.steps
        for at, link in enumerate(self.links):
            if link.seam:
                continue
            both_ring = steps[at].rings and steps[at + 1].rings and not link.silent
            both_ring |= any(first <= at < first + length * takes - 1 for first, length, takes in self.drones)
            inside = steps[at].span is not None and steps[at].span == steps[at + 1].span
            self.links[at] = replace(
                link,
                let_ring=both_ring,
                within_span=inside,
                next_take=at + 1 in takes,
                mirrored=at in mirrored,
            )

    def _mirrored(self) -> set[int]:
        """Links of arpeggios of five notes or more that go back the way they came."""
        pitches = [self._pitches(step)[0] if len(step.notes) == 1 else None for step in self.steps]
        found = set()
        for first, last in product(range(len(pitches)), repeat=2):
            some = [pitch for pitch in pitches[first : last + 1] if pitch is not None]
            half, odd = divmod(last - first, 2)
            if half < 4 or odd or len(some) < last - first + 1 or some != some[::-1]:
                continue
            leaps = [two - one for one, two in pairwise(some[: half + 1])]
            if min(leaps) > 2 or max(leaps) < -2:
                found |= set(range(first, last))
        return found

    def _patterns(self, first: int, length: int, takes: int) -> tuple[Pattern, ...]:
        by_take: list[set[Pattern]] = []
        for take in range(takes):
            rows = [self._pitches(step) for step in self.steps[first + take * length : first + (take + 1) * length]]
            by_take.append(self._take_patterns(rows))
        shapes = [{_from_first(placing) for placing in some} for some in by_take]
        counted = Counter(pattern for one, two in pairwise(shapes) for pattern in one & two)

        def width(pattern: Pattern) -> int:
            strings = [string for some in pattern for string in some]
            return max(strings) - min(strings)

        kept = set(sorted(counted, key=lambda one: (-counted[one], width(one), one))[:8])
        return tuple(sorted({one for some in by_take for one in some if _from_first(one) in kept}))

    def _take_patterns(self, rows: list[list[int]]) -> set[Pattern]:
        """Strings on which a take can be played within six frets; no limit is needed for short lines."""
        guitar = self.instrument
        found = set()

        def ways(row: list[int]) -> Iterator[list[tuple[int, int]]]:
            options = [
                [
                    (string, pitch - guitar.tuning[guitar.strings - string] - guitar.capo)
                    for string in range(1, guitar.strings + 1)
                    if 0 <= pitch - guitar.tuning[guitar.strings - string] - guitar.capo <= guitar.top_fret
                ]
                for pitch in row
            ]
            for some in product(*options):
                if len({string for string, _ in some}) == len(some):
                    yield list(some)

        for whole in product(*(list(ways(row)) for row in rows)):
            frets = [fret for some in whole for _, fret in some if fret]
            if frets and max(frets) - min(frets) > 5:
                continue
            strings = [tuple(sorted((string for string, _ in some), reverse=True)) for some in whole]
            found.add(tuple(strings))
        return found

    def _figure_cost(self, chosen: list[Choice], last: int) -> float:
        """What the takes cost that end with note `last` and are not played as the take before."""
        cost = 0.0
        for first, length, takes, placings in self.figures:
            for take in range(1, takes):
                at = first + take * length
                if at + length - 1 == last:
                    before, now = (_strings(chosen[begin : begin + length]) for begin in (at - length, at))
                    comfort = self.hands.comfort
                    run, tune = first in self.run_starts, first in self.tune_starts
                    if before not in placings or now not in placings or _from_first(before) != _from_first(now):
                        cost += comfort.run if run else comfort.tune if tune else comfort.figure
                    elif before != now and not run and not tune:
                        cost += comfort.figure_strings
        return cost

    def school_of(self, step: Step) -> str:
        return self.asked.by_phrase.get(self.names[step.moment.phrase] or "", self.school)

    # -- links ----------------------------------------------------------------------------------------------

    def _links(self) -> list[Link]:
        """The link behind every step, that of the last being the seam."""
        steps, moments = self.steps, self.moments
        found: list[Link] = []
        earlier: list[float] = []
        for number, before in enumerate(steps):
            seam = number + 1 == len(steps)
            after = steps[0] if seam else steps[number + 1]
            until = after.moment.played + (total_played(self.riff) if seam else 0)
            gap = until - before.moment.played
            used = [one for one in steps[: number + 1] if one.picked or one.tapped]
            last = used[-1] if used else before if seam else steps[0]
            between = moments[before.moment.index + 1 :] + moments[: after.moment.index]
            if not seam:
                between = moments[before.moment.index + 1 : after.moment.index]
            rested = any(one.event.rest for one in between)
            silent = Mark.STACCATO in before.marks or rested
            following = 1 if seam else number + 2
            plants_on: frozenset[int] = frozenset()
            if following < len(steps) and steps[following].legato is Mark.PULL and after.legato is not Mark.PULL:
                goals = set(self._pitches(steps[following]))
                strings = range(1, self.instrument.strings + 1)
                plants_on = frozenset(one for one in strings if self.instrument.pitch(Place(one, 0)) not in goals)
            one, two = before.moment.event, after.moment.event
            subdivides = not (one.grace or two.grace) and one.value.tuplet != two.value.tuplet
            palm_down = Mark.PALM_MUTE in before.marks and Mark.ACCENT not in before.marks
            found.append(
                Link(
                    float(gap) * self.ms,
                    float(until - last.moment.played) * self.ms,
                    () if seam else tuple(reversed(earlier[-MOST_FLIGHT:])),
                    silent,
                    plants_on,
                    subdivides,
                    palm_down != (Mark.PALM_MUTE in after.marks),
                    seam,
                    rested=rested,
                )
            )
            earlier.append(float(gap) * self.ms)
        return found

    def _played(self, number: int, one: Choice, two: Choice) -> Link | None:
        """The link as two choices play it; None where a slur cannot be."""
        link = self.links[number]
        after = self.steps[0] if link.seam else self.steps[number + 1]
        if two.picked:
            if one.picked:
                return link
            longer = max(link.pick_gap, link.hand_gap(1)) if self.slurs else link.pick_gap
            return replace(link, pick_gap=longer, resumes=True)
        if not after.picked:
            return link
        if link.silent or link.seam:
            return None
        return replace(link, slurred=True, plants_on=frozenset(), let_ring=False, within_span=False)

    # -- choices --------------------------------------------------------------------------------------------

    def _spot(self, fret: int) -> float:
        scale = self.instrument.scale_mm
        real = fret + self.instrument.capo
        if real == 0:
            return 0.0
        here, behind = (scale * (1 - 2 ** (-one / 12)) for one in (real, real - 1))
        return here - min(6.0, 0.3 * (here - behind))

    def _places(self, what: Place | Pitch) -> tuple[Place, ...]:
        return (what,) if isinstance(what, Place) else self._places_of(what.midi)

    def _places_of(self, midi: int) -> tuple[Place, ...]:
        guitar = self.instrument
        count = len(guitar.tuning)
        frets = [midi - guitar.capo - guitar.tuning[count - string] for string in range(1, count + 1)]
        top = guitar.frets - guitar.capo
        return tuple(Place(string, fret) for string, fret in enumerate(frets, 1) if 0 <= fret <= top)

    def _reaches(self, fret: int, finger: int, position: int) -> bool:
        hand = self.hands.fretting
        reach: float = self._spot(fret) - self._spot(position) - self.spread[finger - 1]
        return -hand.crowd_mm <= reach <= hand.stretch_mm

    def _fretted(self, step: Step) -> list[Grip]:
        """Grips of a step that have a finger down."""
        top, locked = self.instrument.top_fret, step.locks.position
        if step.tapped:
            return []
        if not step.chord and not step.held:
            found = []
            for place, finger in product(self._places(step.notes[0].target), (1, 2, 3, 4)):
                if not place.fret or step.locks.finger not in (None, finger) or (step.trill and finger == 4):
                    continue
                for offset in OFFSETS[finger]:
                    position = place.fret - finger + 1 - offset
                    fits = 1 <= position <= top and locked in (None, position)
                    if fits and self._reaches(place.fret, finger, position):
                        found.append(Grip(((place.string, place.fret, finger),), position))
            return found
        found = []
        for notes, held in self._shapes(step):
            down = [(fret, finger) for _, fret, finger in (*notes, *held) if finger]
            for position in range(1, top + 1):
                own_fret = all(abs(_home(fret, finger) - position) <= 2 for fret, finger in down)
                if not down or not own_fret or locked not in (None, position):
                    continue
                if all(self._reaches(fret, finger, position) for fret, finger in down):
                    found.append(Grip(notes, position, held))
        return found

    def _shapes(self, step: Step) -> Iterator[tuple[tuple[Fretted, ...], tuple[Fretted, ...]]]:
        """Fingerings of the notes struck and held, whatever the position."""
        hand = self.hands.fretting
        held = [one.note for one in step.held]
        wanted = [note.locks.finger for note in step.notes] if step.chord else [step.locks.finger]
        wanted += [note.locks.finger for note in held]
        for places in product(*(self._places(note.target) for note in (*step.notes, *held))):
            if len({place.string for place in places}) < len(places):
                continue
            spots = [self._spot(place.fret) for place in places if place.fret]
            if spots and max(spots) - min(spots) > self.spread[3] + hand.stretch_mm:
                continue
            for fingers in self._fingerings(places):
                if any(lock and lock != finger for lock, finger in zip(wanted, fingers, strict=True)):
                    continue
                whole = [(one.string, one.fret, finger) for one, finger in zip(places, fingers, strict=True)]
                struck, on = whole[: len(step.notes)], whole[len(step.notes) :]
                if step.fretted_only and not all(finger for _, _, finger in struck):
                    continue
                if step.trill and any(finger == 4 for _, _, finger in struck):
                    continue
                yield tuple(sorted(struck, reverse=True)), tuple(sorted(on, reverse=True))

    def _fingerings(self, places: tuple[Place, ...]) -> Iterator[tuple[int, ...]]:
        """Every way to put fingers on places: tried one by one, and kept where the rules of shapes hold."""
        for fingers in product(*(self._may_take(place) for place in places)):
            down = [(place, finger) for place, finger in zip(places, fingers, strict=True) if finger not in (0, 5)]
            good = True
            for (one, a), (two, b) in product(down, down):
                if one.fret < two.fret and a >= b:
                    good = False
                if one.fret == two.fret and one.string > two.string and a > b:
                    good = False
            for finger in {finger for _, finger in down}:
                own = [place for place, which in down if which == finger]
                low, high = max(one.string for one in own), min(one.string for one in own)
                under = [one for one in places if high <= one.string <= low and one.fret < own[0].fret]
                good = good and not (len(own) > 1 and under) and not (len(own) > 2 and 5 in fingers)
            if good:
                yield fingers

    def _may_take(self, place: Place) -> tuple[int, ...]:
        """Fingers for a place; the thumb comes over the neck for the thickest string alone."""
        return ((1, 2, 3, 4, 5) if place.string == self.thumbs else (1, 2, 3, 4)) if place.fret else (0,)

    def _open_pitches(self) -> set[int]:
        return {self.instrument.pitch(Place(string, 0)) for string in range(1, self.instrument.strings + 1)}

    def _may_open(self, step: Step) -> bool:
        return step.tapped or self._open_pitches().issuperset(self._pitches(step))

    def _near(self, step: Step) -> set[int]:
        """Positions from which a finger reaches a note of a step, on any string, alone or in a chord."""
        if step.tapped:
            return set()
        guitar, together = self.instrument, step.chord or bool(step.held) or step.span is not None
        frets = {pitch - one for pitch in self._pitches(step) for one in self._open_pitches()}
        found = set()
        for fret, finger in product(frets, (1, 2, 3, 4)):
            for offset in (-2, -1, 0, 1, 2) if together else OFFSETS[finger]:
                position = fret - finger + 1 - offset
                there = 0 < fret <= guitar.top_fret and 1 <= position <= guitar.top_fret
                if there and self._reaches(fret, finger, position):
                    found.add(position)
        return found

    def _grips(self) -> list[list[Grip]]:
        """Grips of every step; those with no finger down are wherever the hand of the notes before may be."""
        fretted = [self._fretted(step) for step in self.steps]
        own = [self._near(step) for step in self.steps]
        homes: list[set[tuple[int, int]]] = []
        may_open = [self._may_open(step) for step in self.steps]
        ahead = own if all(may_open) else own[: may_open.index(False) + 1]
        free = {(home, 1) for home in set().union(*ahead) or {1}} | ({(1, 1)} if all(may_open) else set())
        for number, step in enumerate(self.steps):
            homes.append(free)
            stays = {(home, min(flight + 1, MOST_FLIGHT)) for home, flight in free} if may_open[number] else set()
            locked = step.locks.position
            new = {locked} if locked and locked not in own[number] | {home for home, _ in free} else set()
            free = {(home, 1) for home in own[number] | new} | stays
        for number, step in enumerate(self.steps):
            locked = step.locks.position
            if locked is not None:
                any_flight = {(locked, flight) for flight in range(1, MOST_FLIGHT + 1)}
                homes[number] = {home for home in homes[number] if home[0] == locked} or any_flight
        for some in self._takes():
            together = set().union(*(homes[one] for one in some))
            for one in some:
                homes[one] = together
        found = []
        on_shapes = {at: self._on_shapes(at, homes[at]) for span in self.spans for at in span}
        held_spans = self._held_spans(on_shapes)
        for number, step in enumerate(self.steps):
            grips = list(fretted[number])
            if step.span in held_spans:
                grips = on_shapes[number]
            elif step.chord or step.held:
                for notes, held in self._shapes(step):
                    if not any(finger for _, _, finger in (*notes, *held)):
                        grips += [Grip(notes, at, held, flight) for at, flight in sorted(homes[number])]
            elif step.locks.finger is None and step.legato not in (Mark.SLIDE, Mark.HAMMER):
                places = self._places(step.notes[0].target)
                opens = [place for place in places if bool(place.fret) is step.tapped]
                if step.fretted_only and not step.tapped:
                    opens = []
                for at, flight in sorted(homes[number]):
                    grips += [Grip(((place.string, place.fret, 0),), at, flight=flight) for place in opens]
            found.append(grips)
        return found

    def _exempt(self, step: Step) -> bool:
        """Whether a stroke is played because the player locked it, although the school forbids it."""
        return any(self.steps[number] is step for number in self.asked.exempt)

    def _means(self, step: Step, school: str) -> tuple[str, ...]:
        """What may sound a step."""
        if self._exempt(step) and Mark.PINCH not in step.marks:
            return (str(step.locks.stroke),)
        means = BASS if school == "bass-two-finger" else HYBRID if school == "hybrid" else PICK
        if Mark.PINCH in step.marks and school != "bass-two-finger":
            return PICK
        if not step.chord or Mark.PINCH in step.marks:
            return means
        most = {"hybrid": 4, "bass-two-finger": 2}.get(school, 0)
        means = PICK if school == "hybrid" else means
        return (*means, TOGETHER) if len(step.notes) <= most and not step.raked else means

    def _strokes(self, step: Step, school: str, grip: Grip) -> Iterator[tuple[str, int]]:
        """Strokes and leans that may sound a step held so."""
        for stroke in self._means(step, school):
            if step.locks.stroke not in (None, stroke):
                continue
            if step.raked and not step.chord:
                edge = self.instrument.strings if stroke == "down" else 1
                if stroke not in PICK or grip.low == edge:
                    continue
            leans = self._leans() if stroke in PICK else (0,)
            for lean in leans:
                yield stroke, lean

    def _leans(self) -> tuple[int, ...]:
        hand = self.hands.picking
        habitual = UP if hand.lean.value == "up" else DOWN
        return (habitual, -habitual) if hand.turns else (habitual,)

    def _options(self, number: int, grips: list[Grip], carried: Iterable[tuple[str, int]]) -> list[Choice]:
        step, school = self.steps[number], self.schools[number]
        found = []
        for grip in grips:
            if step.picked:
                found += [Choice(grip, *one, picked=True) for one in self._strokes(step, school, grip)]
            if not step.picked or (school == "sparse" and step.may_slur and grip.single):
                found += [Choice(grip, *one, picked=False) for one in carried]
        return found

    def _settled(self) -> list[list[Choice]]:
        """Choices of every step."""
        grips = self._grips()
        if not all(grips):
            return [[] for _ in self.steps]
        carried = {
            one
            for number, step in enumerate(self.steps)
            if step.picked
            for grip in grips[number]
            for one in self._strokes(step, self.schools[number], grip)
        }
        # Where nothing is picked, the pick stays wherever it is.
        return [self._options(number, some, carried or {("", 0)}) for number, some in enumerate(grips)]

    def _takes(self) -> list[list[int]]:
        """Steps that are one and the same note of a phrase played again, where repeats are identical."""
        if not self.asked.identical_repeats:
            return []
        takes: dict[tuple[int, int], list[int]] = {}
        for phrase, whole in groupby(range(len(self.steps)), key=lambda at: self.steps[at].moment.phrase):
            for _, some in groupby(whole, key=lambda at: self.steps[at].moment.pass_number):
                for offset, at in enumerate(some):
                    takes.setdefault((phrase, offset), []).append(at)
        return [some for some in takes.values() if len(some) > 1]

    def _tied(self) -> list[int]:
        """For each step the earlier step whose choice it has to share, or itself."""
        found = list(range(len(self.steps)))
        for some in self._takes():
            for at in some:
                found[at] = some[0]
        return found

    # -- costs ----------------------------------------------------------------------------------------------

    def _usual(self, number: int, one: Choice) -> float:
        """What it costs to play a note of a bar that comes back otherwise than mostly."""
        usual = self.asked.usual[number] if self.asked.usual else None
        if usual is None:
            return 0.0
        other_stroke = one.picked and one.stroke != str(usual.stroke)
        comfort = self.hands.comfort
        return comfort.otherwise * (one.grip.notes != usual.notes) + comfort.other_stroke * other_stroke

    def _step_in_one(self, number: int, one: Choice) -> float:
        """What a step costs in the first round."""
        return self._step(number, one) + self._usual(number, one)

    def _step(self, number: int, one: Choice) -> float:
        """Posture, stroke comfort and the school's rule on single strokes."""
        step, school = self.steps[number], self.schools[number]
        cost = self._posture(number, one.grip)
        if not one.picked:
            return cost
        comfort = self.hands.comfort
        free = school in ("hybrid", "downstroke-first")
        if one.stroke == "up":
            cost += comfort.up_on_beat if step.part == 0 and not free else 0.0
            cost += comfort.pinched_up if Mark.PINCH in step.marks else 0.0
            cost += comfort.up_on_accent if Mark.ACCENT in step.marks else 0.0
            either = school in ("economy", "sweep", "least-motion")
            opens = comfort.opens_up_either if either else comfort.opens_up
            cost += opens if step.opening and step.part == 0 else 0.0
        cost += comfort.down_between if one.stroke == "down" and step.part % 2 and not free else 0.0
        if one.stroke in PICK and one.escape != self._leans()[0]:
            cost += comfort.other_lean
        further = len(step.notes) - 1
        if one.stroke == TOGETHER:
            return cost + comfort.plucked_together * further
        cost += comfort.brushed * further * (one.stroke not in PICK)
        cost += 0.3 * (school == "sparse")
        if school == "hybrid" and 0 < further < 4 and one.stroke in PICK and not step.raked:
            cost += 0.15
        return cost + self._stroke_rule(step, school, one.stroke, one.grip.low)

    def _stroke_rule(self, step: Step, school: str, stroke: str, string: int) -> float:
        rule = self._own_rule(step, school, stroke, string)
        return 0.0 if rule == inf and self._exempt(step) else rule

    def _own_rule(self, step: Step, school: str, stroke: str, string: int) -> float:
        """What the school says of a stroke; infinite where it forbids it."""
        wanted: str | None = None
        pulse = "down" if step.part % 2 == 0 else "up"
        if school == "pulse-alternate":
            wanted = pulse
        elif school == "jig":
            wanted = ("down", "up", "down")[step.part] if step.parts == 3 else pulse
        elif school == "downstroke-first" and not step.opening:
            quick = step.parts % 4 == 0 and step.part % 2
            return 0.4 * (stroke == "down") if quick else 2.0 * (stroke == "up")
        elif school == "bass-two-finger":
            return 0.02 * (step.opening and stroke == "m")
        elif school in ("downstroke-first", "new-string-down"):
            wanted = "down" if step.opening else None
        elif school == "cross-picking":
            wanted = self.cycle[step.count % len(self.cycle)]
        elif school == "hybrid":
            if stroke in PICK:
                cost = {2: 0.02, 1: 0.04}.get(string, 0.0) + 0.01 * (stroke == "up")
            else:
                cost = HYBRID_FINGERS[stroke] + 0.01 * max(string - 3, 0)
            if self.hybrid == HYBRID_FORMS[3]:
                own = OWN_STRINGS.get(string, "down")
                cost += 0.15 * (own not in (("down" if stroke == "up" else stroke),)) + 0.06 * (stroke == "up")
            return cost
        return 0.0 if wanted in (None, stroke) else inf

    def _fingers_on(self, step: Step, marks: set[Mark], struck: Iterable[Fretted]) -> set[int]:
        """Fingers that hold a note struck with one of some marks."""
        guitar = self.instrument
        pitches = {
            note.target.midi
            if isinstance(note.target, Pitch)
            else guitar.tuning[guitar.strings - note.target.string] + guitar.capo + note.target.fret
            for note in step.notes
            if note.marks & marks
        }
        return {
            finger
            for string, fret, finger in struck
            if guitar.tuning[guitar.strings - string] + guitar.capo + fret in pitches
        }

    def _marked(self, step: Step, fingers: Iterable[tuple[int, int]], struck: Iterable[Fretted]) -> float:
        """Bends, vibrato and camps, by fret and finger."""
        comfort, fingers = self.hands.comfort, list(fingers)
        cost = 0.0
        for _, finger in fingers:
            for share, bends in ((1.0, BENDS - {Mark.BEND_QUARTER}), (comfort.slight_bend, {Mark.BEND_QUARTER})):
                if finger in self._fingers_on(step, bends, struck):
                    cost += share * {1: comfort.bend_1, 2: comfort.bend_2, 4: comfort.bend_4}.get(finger, 0.0)
            for trill in TRILLS:
                if finger in self._fingers_on(step, {trill}, struck):
                    cost += {2: comfort.trill_2, 3: comfort.trill_3}.get(finger, 0.0)
                    cost += comfort.trill_wide * (finger == 3 and trill is Mark.TRILL_WHOLE)
            if finger in self._fingers_on(step, {Mark.SLIDE_IN}, struck):
                cost += {2: comfort.slide_in_2, 4: comfort.slide_in_4}.get(finger, 0.0)
            if finger in self._fingers_on(step, {Mark.VIBRATO}, struck):
                cost += {1: comfort.vibrato_1, 4: comfort.vibrato_4}.get(finger, 0.0)
        return cost + self._camps(fingers)

    def _high(self, fret: int, string: int) -> float:
        comfort = self.hands.comfort
        return comfort.high * max(fret + self.instrument.capo - comfort.high_from, 0.0) * (string - 1)

    def _posture(self, number: int, grip: Grip) -> float:
        again = self.steps[number].again and not grip.shape
        return self._held(number, grip) * (self.hands.comfort.held_again if again else 1.0)

    def _plucked(self, number: int) -> bool:
        """Whether fingers pluck the notes of a step at once."""
        most = {"hybrid": 4, "bass-two-finger": 2}.get(self.schools[number], 0)
        return 1 < len(self.steps[number].notes) <= most and not self.steps[number].raked

    def _held(self, number: int, grip: Grip) -> float:
        step = self.steps[number]
        if not grip.shape:
            cost = self._single_posture(step, grip) if grip.single else self._chord_posture(step, grip)
            cost -= self._damped(grip) if self._plucked(number) and not grip.single else 0.0
            return cost + self.hands.comfort.out_of_shape * (step.span is not None)
        cost = self._marked(step, [(fret, finger) for finger, (_, _, fret) in grip.fingers().items()], grip.notes)
        cost -= self._camps([(fret, finger) for finger, (_, _, fret) in grip.fingers().items()])
        cost += 0.0 if self._plucked(number) else self._damped(grip)
        assert step.span is not None
        if number == self.spans[step.span][0]:
            cost += self._shape(Grip(grip.all, grip.position, flight=grip.flight))
        return cost

    def _shape(self, grip: Grip) -> float:
        """What the shape of a span costs once."""
        opened = bool(grip.opens) and grip.position <= self.hands.comfort.open_near
        shut = self.hands.comfort.shut * (not self.closed and not opened)
        return self._chord_posture(None, grip) + shut

    def _damped(self, grip: Grip) -> float:
        """Strings between those struck."""
        each = self.hands.comfort.damped + self.hands.comfort.damped_gain * self.damps
        return each * (grip.low - grip.high + 1 - len(grip.notes))

    def _camps(self, fingers: Iterable[tuple[int, int]]) -> float:
        """Fingers that the player does not use there."""
        hand, against = self.hands.fretting, self.hands.comfort.against
        low = [hand.low_frets == "1-2-4" and at == 3 and fret + self.instrument.capo <= 5 for fret, at in fingers]
        fourth = [hand.little_finger == "avoided" and at == 4 for _, at in fingers]
        return against * sum(one or two for one, two in zip(low, fourth, strict=True))

    def _single_posture(self, step: Step, grip: Grip) -> float:
        comfort = self.hands.comfort
        string, fret, finger = grip.notes[0]
        if step.tapped:
            return 0.0
        if not finger:
            return self._open_strings(grip, pedal=step.pedal, rings=step.rings or step.over_drone)
        touched = finger in self._fingers_on(step, {Mark.HARMONIC}, grip.notes)
        reach = self._spot(fret) - self._spot(grip.position) - self.spread[finger - 1]
        cost = self._reach(reach, comfort.reach) + self._region(fret, grip.position, single=True, touched=touched)
        tuning = self.instrument.tuning
        sounds = tuning[self.instrument.strings - string] + fret
        cost += comfort.past_open * (self.sound.by_the_nut and fret <= 5 and sounds in tuning)
        if fret - grip.position != finger - 1:
            cost += comfort.frame + (comfort.first_away if finger == 1 else 0.0)
        cost += comfort.fourth if finger == 4 else 0.0
        return cost + self._marked(step, [(fret, finger)], grip.notes) + self._high(fret, string)

    def _chord_posture(self, step: Step | None, grip: Grip) -> float:
        """A chord that is struck at a step, or, where that is None, one that is held."""
        comfort = self.hands.comfort
        fingers = grip.fingers()
        spot = self._spot
        by_fret = [(fret, finger) for finger, (_, _, fret) in fingers.items()]
        cost, made = self._camps(by_fret) if step is None else self._marked(step, by_fret, grip.notes), 0.0
        barred = 0.0
        for finger, (low, high, fret) in fingers.items():
            made += self._reach(spot(fret) - spot(grip.position) - self.spread[finger - 1], comfort.reach)
            own = fret if finger == 5 else grip.position + finger - 1
            cost += comfort.thumb_over * (finger == 5)
            made += comfort.opened if fret > own else comfort.frame_too if fret < own else 0.0
            made += comfort.first_away if finger == 1 and fret != own else 0.0
            made += comfort.fourth_too if finger == 4 else 0.0
            cost += self._high(fret, low)
            if low != high:
                made += self._laid(grip, finger, low, high)
                if len(grip.all) < 4 and finger > 1:
                    each = self._barre(grip, finger) * (low - high)
                    made, barred = made - each, barred + each
        without_thumb = {finger: down for finger, down in fingers.items() if finger != 5}
        for (a, (low, high, one)), (b, (next_low, next_high, two)) in pairwise(without_thumb.items()):
            along = spot(two) - spot(one) - (self.spread[b - 1] - self.spread[a - 1])
            gap = self._across(min(low, next_low)) - self._across(max(high, next_high))
            across = max(gap - self.hands.fretting.across_mm * (b - a), 0.0)
            made += self._reach((-1 if along < 0 else 1) * hypot(along, across), comfort.apart)
        if len({fret for _, _, fret in without_thumb.values()}) == 1:
            made += comfort.bunched * self._bunched(list(without_thumb.values()))
        if fingers:
            first, (_, _, fret) = next(iter(fingers.items()))
            touched = step is not None and first in self._fingers_on(step, {Mark.HARMONIC}, grip.notes)
            cost += self._region(fret, grip.position, single=False, touched=touched)
            lowest = min(fret for _, _, fret in fingers.values())
            highest = max(fret for _, _, fret in fingers.values())
            guide = first == 2 and len(grip.all) == 2 and highest == lowest and grip.low - grip.high > 1
            ring_alone = first == 3 and len(grip.all) == 2 and self._by_one_finger(grip)
            made += comfort.not_first * (
                first > 1 and fret == lowest and (not grip.opens or lowest > 4) and not (guide or ring_alone)
            )
            guitar = self.instrument
            idle = {
                guitar.tuning[-string]
                for string in range(1, guitar.strings + 1)
                if all(string != one[0] for one in grip.all)
            }
            passed = [
                finger and fret <= 5 and guitar.tuning[-string] + fret in idle for string, fret, finger in grip.all
            ]
            made_open = any(not fret for _, fret, _ in grip.all)
            cost += comfort.idle_open * sum(map(bool, passed)) * made_open
            cost += comfort.open_in_chord * len(grip.opens) * (self.closed or self.loud)
        known = self._known(grip.all)
        opened = any(not note[1] for note in grip.all)
        practised = comfort.practised_open if opened else comfort.practised
        cost += made * (practised if known else 1.0) + barred + comfort.unknown_shape * (known is False)
        cost += self._open_strings(grip, rings=step is None or step.rings or step.over_drone)
        if step is None:
            return cost
        return cost + self._damped(grip)

    @staticmethod
    def _bunched(fingers: list[tuple[int, int, int]]) -> int:
        """Fingers beside one another, those beside one that is laid across five times."""
        count = 0
        for (low, high, _), (next_low, next_high, _) in pairwise(fingers):
            if 1 in (abs(next_low - high), abs(low - next_high)):
                count += 5 if low != high or next_low != next_high else 1
        return count

    def _barre(self, grip: Grip, finger: int) -> float:
        """Each further string of a finger laid across."""
        comfort = self.hands.comfort
        alone = finger == 3 and len(grip.fingers()) == 1 and not grip.held
        return comfort.barre if finger == 1 else comfort.barre_alone if alone else comfort.barre_other

    def _laid(self, grip: Grip, finger: int, low: int, high: int) -> float:
        """A finger laid across strings `low` to `high`."""
        comfort = self.hands.comfort
        sounding = sum(high <= string <= low for string, _, _ in grip.all)
        cost = (
            comfort.laid
            + self._barre(grip, finger) * (low - high)
            + comfort.laid_over * (low - high + 1 - sounding)
        )
        return cost + comfort.laid_by_open * any((high - 1, 0) == note[:2] for note in grip.notes)

    def _region(self, fret: int, position: int, *, single: bool, touched: bool) -> float:
        """Pressing a string, and where on the neck: by the lowest finger."""
        comfort, nut_fret = self.hands.comfort, fret + self.instrument.capo
        off = single and 1 < position < 5 and nut_fret < 5
        is_long = self.instrument.scale_mm > 750
        long = comfort.off_nut_long * is_long
        pressing = 0.0 if touched else comfort.pressing
        if self.sound.by_the_nut:
            up, leaving = (comfort.up_long_neck, long) if is_long else (comfort.up_the_neck, comfort.off_nut)
            return pressing + up * nut_fret + leaving * off
        low = comfort.down_closed * max(5 - nut_fret, 0) * self.sound.mid_neck
        return pressing + comfort.up_closed * nut_fret + low + long * off

    def _open_strings(self, grip: Grip, *, pedal: bool = True, rings: bool = False) -> float:
        """Open strings struck: far from the hand, foreign to the style, loud with high gain unless a low pedal."""
        comfort = self.hands.comfort
        count, high = len(grip.opens), sum(string < 5 for string in grip.opens)
        ringing = high if pedal else count
        foreign = count if self.sound.by_the_nut or self.closed else high
        avoided = comfort.against * count * (self.hands.fretting.open_strings == "avoided")
        away = min(max(grip.position - comfort.open_near, 0.0), comfort.open_range)
        cost = avoided + comfort.open_far * foreign * away * (comfort.open_rings if rings else 1.0)
        return cost + comfort.open_closed * count * self.closed + comfort.open_gain * ringing * self.loud

    def _reach(self, mm: float, weight: float) -> float:
        comfort = self.hands.comfort
        beyond = max(abs(mm) - comfort.reach_ease_mm, 0.0) / 20.0
        return weight * beyond**2 * (comfort.crowding if mm < 0 else 1.0)

    def _effort(self, load: float) -> float:
        comfort = self.hands.comfort
        above, beyond = max(load - comfort.calm, 0.0), max(load - 1.0, 0.0)
        return comfort.at_ease * load**2 + comfort.strain * above**2 + comfort.overload * beyond**2

    def _other(self, one: Choice) -> Choice:
        """A choice with the other stroke: of the pick, or of two fingers where there is no pick."""
        pairs = [("down", "up")] if self.school != "bass-two-finger" else [("i", "m"), ("down", "up")]
        swaps = {a: b for pair in pairs for a, b in (pair, pair[::-1])}
        return replace(one, stroke=swaps.get(one.stroke, one.stroke))

    def _step_of_both(self, number: int, one: Choice) -> float:
        """Mean cost of a step in two rounds."""
        both = self._step(number, one) + self._step(number, self._other(one))
        return both / 2 + self._usual(number, one)

    def _link_of_both(self, number: int, one: Choice, two: Choice) -> tuple[float, float]:
        """Mean cost and larger load of a link in two rounds; the seam leads to the other stroke."""
        other = self._other
        seam = self.links[number].seam
        first, second = (one, other(two)) if seam else (one, two), (other(one), two if seam else other(two))
        costs, loads = zip(self._link(number, *first), self._link(number, *second), strict=True)
        return sum(costs) / 2, max(loads)

    def _link(self, number: int, one: Choice, two: Choice) -> tuple[float, float]:
        """Cost and load from step `number` to the next, or round the loop from the last to the first."""
        link = self._played(number, one, two)
        if link is None:
            return inf, inf
        following = 0 if link.seam else number + 1
        after, school = self.steps[following], self.schools[following]
        before = self.steps[number]
        legato = None if link.seam and not after.tapped else after.legato
        fret = self.fret(one.grip, two.grip, legato, link.silent, link.plants_on, link.slurred)
        if fret is not None and after.tapped:
            left = self.hands.fretting
            fret = (fret[0] + left.tap_ms + left.to_neck_ms * before.picked, *fret[1:])
        shifts = one.grip.position != two.grip.position
        if fret is None or two.grip.flight > (1 if shifts else min(one.grip.flight + 1, MOST_FLIGHT)):
            return inf, inf
        if link.within_span and one.grip.shape != two.grip.shape:
            return inf, inf
        fret_ms, discomfort, kinds = fret
        discomfort += self._within(one.grip, two.grip, link, legato)
        hand_gap = link.hand_gap(one.grip.flight)
        fret_load = fret_ms / hand_gap
        cost = (
            self._effort(fret_load)
            + discomfort
            + self._hand_effort(one.grip, two.grip, hand_gap, link, slides=legato is Mark.SLIDE)
        )
        if not two.picked:
            same = (one.stroke, one.escape) == (two.stroke, two.escape)
            return (cost, fret_load) if same else (inf, inf)
        rule = self._change_rule(school, one, two, link)
        if rule == inf and (self._exempt(after) or (link.seam and self.asked.exempt_seam)):
            rule = 0.3
        if rule == inf:
            return inf, inf
        off_beat = after.part % 2 == 1
        strokes = one.stroke, one.escape, two.stroke, two.escape
        ends, begins = self._ends(one), self._begins(after, two)
        pick_ms = self.pick_ms(*strokes, ends, begins, off_beat, link.resumes)
        hand = self.hands.picking
        pick_ms += hand.palm_ms * link.palm + hand.accent_ms * (Mark.ACCENT in after.marks)
        pick_ms += hand.pinch_ms * (Mark.PINCH in after.marks) + hand.from_neck_ms * before.tapped
        further = abs(self._ends(two) - begins) if two.stroke in PICK else two.grip.low - two.grip.high
        pick_ms += (hand.drag_ms if after.raked else hand.through_ms) * further
        pick_load = pick_ms / link.pick_gap
        cost += self._effort(pick_load) + rule
        comfort = self.hands.comfort
        cost += comfort.skip * max(abs(ends - begins) - 1, 0)
        with_pick = one.stroke in PICK and two.stroke in PICK
        inside = with_pick and one.stroke != two.stroke and (one.stroke == "down") == (begins > ends)
        cost += comfort.inside * (inside and begins != ends)
        outside = with_pick and one.stroke != two.stroke and (one.stroke == "down") == (begins < ends)
        cost += comfort.outside * (outside and begins != ends)
        toward = "down" if begins < ends else "up" if begins > ends else ""
        cost += comfort.again * (one.stroke in PICK and one.stroke == two.stroke != toward)
        load = max(pick_load, fret_load)
        extra = self._extra_ms(link, one.grip, two.grip, kinds)
        if extra:
            load += extra / link.gap
            cost += self._effort(load)
        return cost, load

    def _extra_ms(self, link: Link, one: Grip, two: Grip, kinds: frozenset[str]) -> float:
        """Time that meeting in one gap takes both hands."""
        both = self.hands.sync
        extra = both.resume_ms * link.resumes + both.subdivision_ms * link.subdivides + both.seam_ms * link.seam
        if (one.low, one.high) != (two.low, two.high):
            extra += both.change_shift_ms * ("shift" in kinds and bool(one.fingers())) + both.change_roll_ms * (
                "roll" in kinds
            )
            extra += both.change_jump_ms * ("jump" in kinds and "shift" not in kinds)
        return extra

    def _change_rule(self, school: str, one: Choice, two: Choice, link: Link) -> float:
        """Effort of a school's rule on one stroke after another; infinite where it forbids."""
        before, after = one.stroke, two.stroke
        means = BASS if school == "bass-two-finger" else HYBRID if school == "hybrid" else PICK
        if TOGETHER in (before, after):
            if school != "hybrid":
                return 0.0
            if self.hybrid in HYBRID_FORMS[2:]:
                return 0.01 * (before == after)
            return 0.03 * (before in PICK)
        if before not in means or after not in means:
            return 0.0
        # Toward the floor, from the thinnest string before to the thickest after; none where chords share strings.
        onward, backward = one.grip.high - two.grip.low, one.grip.low - two.grip.high
        travel = onward if onward > 0 else backward if backward < 0 else 0
        leads = "down" if travel > 0 else "up"
        allowed, effort = True, 0.0
        if school == "strict-alternate":
            allowed = before != after
        elif school in ("economy", "sweep") and link.rested:
            pass
        elif school == "economy":
            allowed = bool(travel) or before != after
            if travel and after == leads:
                effort = 0.05 * (before != leads)
            elif travel:
                effort = 0.05 if link.resumes or abs(travel) > 1 else 0.3
        elif school == "new-string-down":
            allowed = after == "down" if travel else before != after
        elif school == "downstroke-first":
            allowed = before != after or (after == "down" and link.pick_gap >= self._again_ms())
        elif school == "hybrid":
            effort = self._hybrid_rule(before, after, travel, link.resumes)
        elif school == "sweep":
            if travel == 0:
                allowed, effort = before != after, 0.08
            elif abs(travel) == 1:
                allowed = after == leads or before == leads
                effort = 0.15 if after != leads else 0.0 if before == leads else 0.08
            else:
                effort = 0.15
        elif school == "bass-two-finger":
            if travel == -1:
                effort = 0.0 if before == after else 0.03
            else:
                allowed = before != after
        return effort if allowed else inf

    def _hybrid_rule(self, before: str, after: str, travel: int, resumes: bool) -> float:
        """What the form of hybrid picking in force says: a finger for each string, or a finger for leaps."""
        if self.hybrid == HYBRID_FORMS[3]:
            onward = before in PICK and after in PICK and travel > 0
            return 0.05 * (onward or (before == after and travel == 0))
        each_string = self.hybrid != HYBRID_FORMS[1]
        if each_string and resumes:
            return 0.06 * (after == "up") + 0.03 * (after not in PICK)
        if before in PICK and after in PICK:
            if each_string:
                return 0.15 * (travel > 0) + 0.06 * (after == "up")
            return 0.05 * (before == after) + 0.15 * (travel > 1) + 0.03 * (travel != 0)
        if before in PICK:
            order = FINGER_ORDER[after] + 1
            if each_string:
                return 0.15 if travel <= 0 else 0.02 * (order != min(travel, 2))
            return 0.15 * (travel <= 1)
        if after in PICK:
            up = 0.06 * (each_string and after == "up")
            return up + 0.15 * (-travel <= (FINGER_ORDER[before] if each_string else 0) or travel >= 0)
        if not each_string:
            return 0.075
        order = FINGER_ORDER[after] - FINGER_ORDER[before]
        crossed = order * travel < 0 or abs(order) > abs(travel)
        if crossed or (order == 0) != (travel == 0) or abs(travel) > abs(order) + 1:
            return 0.15
        return 0.05 * (before == after)

    def _again_ms(self) -> float:
        """Least time of the same stroke again on one string."""
        leans = self._leans()
        return min(
            self.pick_ms(stroke, one, stroke, two, string, string, stroke == "up", False)
            for stroke in PICK
            for one, two in product(leans, leans)
            for string in range(1, self.instrument.strings + 1)
        )

    @staticmethod
    def _ends(one: Choice) -> int:
        return one.grip.high if one.stroke == "down" else one.grip.low

    def _begins(self, step: Step, one: Choice) -> int:
        """String that a stroke meets first; the rake of a single note begins on strings before it, two at most."""
        grip = one.grip
        first = grip.high if one.stroke == "up" else grip.low
        if step.raked and grip.low == grip.high and one.stroke in PICK:
            if one.stroke == "down":
                return min(first + 2, self.instrument.strings)
            return max(first - 2, 1)
        return first

    def _pick_ms(
        self,
        before: str,
        lean: int,
        after: str,
        new_lean: int,
        ends: int,
        begins: int,
        off_beat: bool,
        resumes: bool,
    ) -> float:
        """Time of a stroke or pluck from string `ends` to string `begins`."""
        hand, guitar = self.hands.picking, self.instrument
        width = guitar.nut_mm + 0.85 * (guitar.bridge_mm - guitar.nut_mm)
        apart = width / (guitar.strings - 1)
        y = {string: apart * (guitar.strings - string) for string in range(1, guitar.strings + 1)}
        one, two = DIRECTIONS.get(before, 0), DIRECTIONS.get(after, 0)
        with_pick = {"down", "up"} & {
            stroke
            for step, school in zip(self.steps, self.schools, strict=True)
            for stroke in self._means(step, school)
        }

        def log_term(way: float) -> float:
            far = hand.glide_ms + hand.anchored_ms * (hand.hand_rest == "anchored")
            return hand.fitts_ms * log2(1 + abs(way) / hand.target_mm) + far * (abs(way) > hand.glide_from_mm)

        if not one or not two:
            above = ABOVE if with_pick else {}
            hand_at = y[ends] - apart * above.get(before, 0)
            goal = y[begins] - two * hand.half_stroke_mm if two else y[begins] - apart * above.get(after, 0)
            skips = hand.skip_ms * max(abs(ends - begins) - 1, 0)
            if two:
                return hand.base_ms + log_term(goal - hand_at) + skips
            if before == after and begins == ends + 1 and not with_pick and after != TOGETHER:
                return hand.rake_ms + log_term(goal - hand_at)
            ms = hand.pluck_ms + hand.pluck_again_ms * (before == after) + hand.pluck_little_ms * (after == "c")
            ms += hand.pluck_next_ms * (not one)
            return ms + log_term(goal - hand_at) + skips
        end, begin = y[ends] + one * hand.half_stroke_mm, y[begins] - two * hand.half_stroke_mm
        way = begin - end
        signs = [sign for sign in (one, (way > 1e-9) - (way < -1e-9), two) if sign]
        reversals = sum(a != b for a, b in pairwise(signs))
        escaped = one == lean
        cleared = 0 if escaped else sum(min(end, begin) < at < max(end, begin) for at in y.values())
        toward = (ends > begins) - (ends < begins)
        ms = hand.base_ms + hand.reversal_ms * reversals + hand.clear_ms * cleared + log_term(way)
        ms += hand.skip_ms * max(abs(ends - begins) - 1, 0)
        if toward and one != two and one != toward:
            ms += hand.inside_ms
        sweeps = one == two == toward
        ms += hand.sweep_ms * sweeps
        ms += hand.drop_ms * (sweeps and escaped)
        ms += hand.attack_ms * (sweeps and not escaped and hand.rest_strokes == "never")
        ms += hand.turn_ms * (lean != new_lean)
        ms += hand.odd_ms * (toward != 0 and two == (DOWN if off_beat else UP))
        return ms + hand.sweep_turn_ms * (resumes and toward != 0 and one != two)

    # -- the fretting hand ----------------------------------------------------------------------------------

    def _fret(
        self, one: Grip, two: Grip, legato: Mark | None, silent: bool, plants_on: frozenset[int], slurred: bool
    ) -> tuple[float, float, frozenset[str]] | None:
        """Time, comfort and kinds of the fretting hand's move; None when it cannot be made."""
        move = self._single_move if one.single and two.single else self._chord_move
        return move(one, two, legato, silent, plants_on, slurred)

    def _within(self, one: Grip, two: Grip, link: Link, legato: Mark | None) -> float:
        """What it costs to cut a note short, to play it again elsewhere, and to add fingers to a shape."""
        comfort, guitar = self.hands.comfort, self.instrument
        if not (one.single and two.single):
            was, now = one.fingers(), two.fingers()
            striking = {finger for _, _, finger in two.notes if finger}
            there = {
                finger
                for finger, (low, high, fret) in now.items()
                if finger in was and was[finger][2] == fret and was[finger][0] >= low and was[finger][1] <= high
            }
            return comfort.added * len(striking - there) * link.within_span
        (string, fret, finger), (new_string, new_fret, new_finger) = one.notes[0], two.notes[0]
        stays = (string, fret) == (new_string, new_fret)
        cost = 0.0
        if link.let_ring and not stays and (string == new_string or finger == new_finger > 0):
            cost += comfort.cut_off
        one_pitch, two_pitch = (
            guitar.tuning[guitar.strings - note[0]] + note[1] for note in (one.notes[0], two.notes[0])
        )
        tapped = any(note[1] and not note[2] for note in (one.notes[0], two.notes[0]))
        free = link.let_ring or link.next_take or link.slurred or legato or tapped
        return cost + comfort.moved * (one_pitch == two_pitch and not free and not (stays and finger == new_finger))

    def _hand_effort(self, one: Grip, two: Grip, hand_gap: float, link: Link, *, slides: bool) -> float:
        """What moving the hand costs apart from its time."""
        comfort = self.hands.comfort
        shift = two.position - one.position
        if not shift:
            return 0.0
        was = one.fingers()
        glides = any(
            finger in was and was[finger][:2] == (low, high) and fret - was[finger][2] == shift
            for finger, (low, high, fret) in two.fingers().items()
        )
        mm = abs(self._spot(two.position) - self._spot(one.position))
        formed = one.shape > 0 and two.shape > 0
        far = comfort.shift_take if link.next_take and mm <= comfort.take_mm else comfort.shift_far
        fretted, fretted_now = (sum(finger > 0 for _, _, finger in grip.all) for grip in (one, two))
        if fretted_now > 1 and (fretted != 1 or glides):
            far = comfort.shift_along if glides and fretted > 1 else comfort.shift_guided
        far = comfort.shift_formed if formed else far
        effort = comfort.shift + far * sqrt(mm / 100) + comfort.shift_unguided * (not glides)
        if glides and len(one.all) == len(two.all) == 1 and not slides:
            effort += comfort.glided
        effort += comfort.shift_mirrored * link.mirrored
        camp = {"by-passage": 1.0, "seldom": 2.5, "freely": 0.4}[self.hands.fretting.shifting]
        return camp * effort * min(comfort.shift_time_ms / hand_gap, 1.0)

    def _refingered(self, one: Grip, two: Grip) -> float:
        """What it costs to take notes that stay with other fingers, where one note of a chord changes."""
        if one.single or two.single:
            return 0.0
        there = {(string, fret): finger for string, fret, finger in one.all}
        stay = [note for note in two.all if note[:2] in there]
        if len(stay) < max(len(one.all), len(two.all)) - 1:
            return 0.0
        return self.hands.comfort.refingered * sum(there[note[:2]] != note[2] for note in stay)

    def _between_chords(self, one: Grip, two: Grip) -> float:
        """What another shape costs for a chord of the same build, and carrying the shape to other strings."""
        before, after = one.all, two.all
        if one.held or two.held or one.ready or two.ready or one.single or two.single or len(before) != len(after):
            return 0.0
        guitar = self.instrument

        def pitches(notes: tuple[Fretted, ...]) -> list[int]:
            return [guitar.tuning[guitar.strings - string] + fret for string, fret, _ in notes]

        steps = [b - a for a, b in zip(pitches(before), pitches(after), strict=True)]
        moved = {b[0] - a[0] for a, b in zip(before, after, strict=True)}
        if len(set(steps)) > 1:
            like = all(abs(step - steps[0]) <= 2 for step in steps)
            stays = len(before) == 2 and bool(set(before) & set(after))
            return self.hands.comfort.respaced * (like and moved != {0} and not stays)
        neighbours = all(len(pair) == 2 and pair[0][0] - pair[1][0] == 1 for pair in (before, after))
        open_root = neighbours and (before[0][2] == 0) != (after[0][2] == 0)
        laid = self._by_one_finger(one) and self._by_one_finger(two)
        free = open_root or laid
        if len(moved) > 1 or (not free and any(a[2] != b[2] for a, b in zip(before, after, strict=True))):
            return self.hands.comfort.regrip
        return self.hands.comfort.other_strings * (moved != {0} and not laid)

    @staticmethod
    def _by_one_finger(grip: Grip) -> bool:
        """Whether one finger holds all that is struck, and nothing sounds beside it."""
        return not grip.held and len({finger for _, _, finger in grip.all}) == 1 and not grip.opens

    def _shift_ms(self, one: Grip, two: Grip) -> float:
        hand = self.hands.fretting
        mm = abs(self._spot(two.position) - self._spot(one.position))
        return hand.shift_ms + hand.shift_fitts_ms * log2(1 + mm / hand.shift_target_mm) if mm else 0.0

    def _across(self, string: float) -> float:
        guitar = self.instrument
        width = guitar.nut_mm + 0.3 * (guitar.bridge_mm - guitar.nut_mm)
        return width * (guitar.strings - string) / (guitar.strings - 1)

    def _jump_ms(self, along: float, aside: float) -> float:
        hand = self.hands.fretting
        return hand.jump_ms + hand.jump_fitts_ms * log2(1 + (along**2 + aside**2) ** 0.5 / hand.jump_target_mm)

    def _single_move(
        self, one: Grip, two: Grip, legato: Mark | None, silent: bool, plants_on: frozenset[int], slurred: bool
    ) -> tuple[float, float, frozenset[str]] | None:
        hand, comfort, spot = self.hands.fretting, self.hands.comfort, self._spot
        (string, fret, finger), (new_string, new_fret, new_finger) = one.notes[0], two.notes[0]
        rise, shift = new_fret - fret, two.position - one.position
        same_string, same_finger = string == new_string, finger == new_finger > 0
        put, lift = hand.landing_ms if shift else hand.place_ms, hand.lift_ms
        if slurred:
            on = same_string and rise > 0 and new_finger > finger
            off = same_string and rise < 0 and new_finger < finger and not shift
            nowhere = not same_string and new_finger > 0
            if not (on or off or nowhere):
                return None
            put = hand.pull_ms if off else hand.hammer_ms + hand.nowhere_ms * nowhere
            lift = hand.pull_ms
        elif legato is Mark.HAMMER:
            put = hand.hammer_ms
            nowhere = new_finger > 0 and (silent or not same_string)
            if not (nowhere or (same_string and rise > 0 and new_finger > finger)):
                return None
        elif legato is Mark.TAP:
            lift = 0.0
        elif legato is Mark.PULL:
            put = lift = hand.pull_ms
            below = new_finger < finger or (not finger and fret > 0)
            if not (same_string and rise < 0 and below and not shift):
                return None
        elif legato is Mark.SLIDE:
            if not (same_string and rise and rise == shift and same_finger):
                return None
        elif legato is Mark.RELEASE and not (same_string and rise == 0 and finger == new_finger and not shift):
            return None
        stays = same_finger and same_string and rise == 0
        rolls = same_finger and rise == 0 and abs(string - new_string) == 1
        glides = same_finger and same_string and rise == shift
        jumps = same_finger and not (stays or rolls or glides)
        ms, effort = 0.0, 0.0
        if new_finger and not (stays or rolls or glides):
            ms += put + (hand.fourth_ms if new_finger == 4 else 0.0)
            ms += hand.plant_ms * (new_string in plants_on)
        if finger and not new_finger:
            ms += lift
        ms += (hand.roll_ms + (hand.roll_gain_ms if self.damps else 0.0)) if rolls else 0.0
        if jumps and not shift:
            ms += self._jump_ms(spot(new_fret) - spot(fret), self._across(new_string) - self._across(string))
        ms += self._shift_ms(one, two)
        lifts = hand.letting_go == "lift" and finger and legato is None and not same_string
        ms += hand.release_ms if lifts and not (same_finger and rise == 0) else 0.0
        leaves = shift or (jumps and hand.letting_go == "hold")
        if leaves and finger and not silent and legato is not Mark.SLIDE:
            ms += hand.hold_ms
        ms += hand.slide_ms if legato is Mark.SLIDE and not slurred else 0.0
        if finger and new_finger and finger != new_finger:
            pair = {finger, new_finger}
            ms += hand.weak_34_ms * (pair == {3, 4}) + hand.weak_24_ms * (pair == {2, 4})
            effort += comfort.weak_34 * (pair == {3, 4}) + comfort.weak_24 * (pair == {2, 4})
            effort += comfort.weak_23 * (pair == {2, 3})
            if not shift:
                if (new_finger - finger) * rise < 0:
                    ms += hand.cross_ms
                up = 1 if new_finger > finger else -1
                ease = self.spread[new_finger - 1] - self.spread[finger - 1]
                effort += self._reach(up * (spot(new_fret) - spot(fret) - ease), comfort.apart)
                wider = abs(rise) - abs(new_finger - finger)
                effort += comfort.stretched_pair * max(wider, 0) * 2 ** (-min(fret, new_fret) / 12)
                effort += comfort.closed_pair * max(-wider, 0)
                effort += comfort.cross * ((new_finger - finger) * rise < 0)
            if rise == 0 and not same_string:
                effort += comfort.squeezed + comfort.against * (hand.same_fret == "roll")
            if new_finger == 1 and finger > 1 and not same_string and not shift:
                ms += hand.first_finger_return_ms
        effort += comfort.against * (rolls and hand.same_fret == "separate")
        effort += (comfort.roll + comfort.roll_gain * self.damps) * rolls
        if same_finger and not shift and (rise or abs(string - new_string) > 1):
            effort += comfort.jump_along if same_string else comfort.jump_across
        tuning, count = self.instrument.tuning, self.instrument.strings
        low, high = sorted(
            [(tuning[count - string] + fret, fret), (tuning[count - new_string] + new_fret, new_fret)]
        )
        tapped = any(not grip.notes[0][2] and grip.notes[0][1] for grip in (one, two))
        if high[0] - low[0] == 12 and low[1] > 0 and not tapped:
            effort += comfort.octave * (high[1] == 0 or abs(string - new_string) != 2)
        effort += comfort.slide_weak * (legato is Mark.SLIDE and not slurred and two.notes[0][2] in (2, 4))
        effort += comfort.from_nowhere * (
            (slurred and not same_string) or (legato is Mark.HAMMER and (silent or not same_string))
        )
        kinds = {"shift": shift, "roll": rolls, "jump": jumps}
        return ms, effort, frozenset(name for name, there in kinds.items() if there)

    def _chord_move(
        self, one: Grip, two: Grip, legato: Mark | None, silent: bool, plants_on: frozenset[int], slurred: bool
    ) -> tuple[float, float, frozenset[str]] | None:
        hand, spot, across = self.hands.fretting, self._spot, self._across
        if slurred or not self._holds(one, two) or not self._legato(one, two, legato, silent):
            return None
        shift = two.position - one.position
        was, now = one.fingers(), two.fingers()
        slowest, kind, moving = 0.0, "", 0
        for finger, (low, high, fret) in now.items():
            before = was.get(finger)
            if before is not None:
                covers = before[2] == fret and before[0] >= low and before[1] <= high
                glides = before[:2] == (low, high) and fret - before[2] == shift
                if covers or glides:
                    continue
            moving += 1
            down = hand.landing_ms if shift else hand.place_ms
            put = {Mark.HAMMER: hand.hammer_ms, Mark.PULL: hand.pull_ms}.get(legato or Mark.TIE, down)
            ms = put + hand.fourth_ms * (finger == 4) + hand.barre_ms * (low != high)
            ms += hand.plant_ms * (low in plants_on)
            name = "place"
            if before is not None:
                alone = before[0] == before[1] and low == high
                if alone and before[2] == fret and abs(before[0] - low) == 1:
                    ms, name = hand.roll_ms + (hand.roll_gain_ms if self.damps else 0.0), "roll"
                elif not shift:
                    aside = (across(low) + across(high) - across(before[0]) - across(before[1])) / 2
                    ms, name = ms + self._jump_ms(spot(fret) - spot(before[2]), aside), "jump"
            if ms > slowest:
                slowest, kind = ms, name
        ms = slowest + hand.extra_fingers_ms * max(moving - 1, 0) + self._shift_ms(one, two)
        if was and not now and legato is not Mark.TAP:
            ms += hand.pull_ms if legato is Mark.PULL else hand.lift_ms
        if shift and was and not silent and legato is not Mark.SLIDE:
            ms += hand.hold_ms
        ms += hand.slide_ms if legato is Mark.SLIDE else 0.0
        comfort = self._between_chords(one, two) + self._refingered(one, two)
        return ms, comfort, frozenset({kind, *(["shift"] if shift else [])})

    @staticmethod
    def _holds(one: Grip, two: Grip) -> bool:
        """Whether what sounds on is held by the same finger as before."""
        return all(note in one.all for note in two.held)

    @staticmethod
    def _legato(one: Grip, two: Grip, legato: Mark | None, silent: bool) -> bool:
        """Whether the mark lets the fingers reach every note it sounds from one on its own string."""
        if legato in (None, Mark.TAP):
            return True
        shift = two.position - one.position
        was = {string: (fret, finger) for string, fret, finger in one.all}
        if legato is Mark.HAMMER and silent:
            # Whatever a finger comes down on is hammered on from nowhere.
            rose = [fret - was[string][0] if string in was else -1 for string, fret, _ in two.notes]
            down = [finger > 0 for _, _, finger in two.notes]
            fits = all(one or by >= 0 for one, by in zip(down, rose, strict=True))
            return fits and any(one or by > 0 for one, by in zip(down, rose, strict=True))
        if any(string not in was for string, _, _ in two.notes):
            return legato is Mark.HAMMER and one.single and two.single and two.notes[0][2] > 0
        rises = [fret - was[string][0] for string, fret, _ in two.notes]
        same = all(finger == was[string][1] for string, _, finger in two.notes)
        rules: dict[Mark, Callable[[], bool]] = {
            Mark.HAMMER: lambda: min(rises) >= 0 and max(rises) > 0,
            Mark.PULL: lambda: max(rises) <= 0 and min(rises) < 0 and not shift,
            Mark.SLIDE: lambda: same and shift != 0 and all(rise == shift for rise in rises),
            Mark.RELEASE: lambda: same and not shift and not any(rises),
        }
        return rules[legato]()

    # -- search ---------------------------------------------------------------------------------------------

    def _pairs(self, choices: list[Choice]) -> list[tuple[int, Choice, Choice]]:
        seam = [(choices[-1], choices[0])] if self.asked.loop else []
        return [(number, *pair) for number, pair in enumerate([*pairwise(choices), *seam])]

    def cost_of(self, choices: list[Choice]) -> float:
        """Cost of one whole plan."""
        total = sum(self.step(number, one) for number, one in enumerate(choices))
        total += sum(self._figure_cost(choices, last) for last in range(len(choices)))
        return total + sum(self.link(*pair)[0] for pair in self._pairs(choices))

    def load_of(self, choices: list[Choice]) -> float:
        """Largest load of one whole plan."""
        return max((self.link(*pair)[1] for pair in self._pairs(choices)), default=0.0)

    def _choices(self, chosen: list[Choice]) -> list[Choice]:
        number = len(chosen)
        first = self.tied[number]
        if first != number:
            return [chosen[first]]
        if number and self.links[number - 1].within_span:
            shape = chosen[-1].grip.shape
            return [one for one in self.options[number] if one.grip.shape == shape]
        return self.options[number]

    def best_cost(self, bound: float = inf, most_load: float = inf) -> float:
        """Least cost of all plans below a bound, by exhaustive search; infinite when there is none."""
        least = [min((self.step(at, one) for one in some), default=inf) for at, some in enumerate(self.options)]
        remaining = [sum(least[at + 1 :]) for at in range(len(least))]
        best, found = bound, inf
        last = len(self.steps) - 1

        def within(number: int, one: Choice, two: Choice) -> float:
            cost, load = self.link(number, one, two)
            return cost if load <= most_load else inf

        def descend(chosen: list[Choice], cost: float) -> None:
            nonlocal best, found
            number = len(chosen)
            for choice in self._choices(chosen):
                here = cost + self.step(number, choice) + self._figure_cost([*chosen, choice], number)
                if here + remaining[number] >= best:
                    continue
                if chosen:
                    here += within(number - 1, chosen[-1], choice)
                if number == last and self.asked.loop:
                    here += within(last, choice, (chosen or [choice])[0])
                if here + remaining[number] >= best:
                    continue
                if number == last:
                    best = found = here
                else:
                    descend([*chosen, choice], here)

        if self.steps:
            descend([], 0.0)
        return found

    def best_load(self, bound: float = inf) -> float:
        """Smallest largest load of all plans below a bound, by exhaustive search."""
        best = bound
        last = len(self.steps) - 1

        def within(number: int, one: Choice, two: Choice) -> float:
            cost, load = self.link(number, one, two)
            return load if cost < inf else inf

        def descend(chosen: list[Choice], worst: float) -> None:
            nonlocal best
            number = len(chosen)
            for choice in self._choices(chosen):
                load = worst if self.step(number, choice) < inf else inf
                if chosen:
                    load = max(load, within(number - 1, chosen[-1], choice))
                if number == last and self.asked.loop:
                    load = max(load, within(last, choice, (chosen or [choice])[0]))
                if load >= best:
                    continue
                if number == last:
                    best = load
                else:
                    descend([*chosen, choice], load)

        descend([], 0.0)
        return best
