"""The movement model once more, written from docs/model.md in plain Python, with none of the planner's code.

It knows riffs of one bar without swing, grace notes or ties. `best_cost` searches through every joint choice; it
leaves a branch only when its cost so far is already as large as a bound, which is sound because no cost is
negative.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise, product
from math import inf, log2

from dromic.hands.profile import Hands
from dromic.instrument.instrument import Instrument
from dromic.music.pitch import Pitch
from dromic.music.riff import Mark, Place, Riff

DOWN, UP = 1, -1


@dataclass(frozen=True)
class Choice:
    """String from 0 for the thickest; fret, finger, position; last stroke and escaping direction."""

    string: int
    fret: int
    finger: int
    position: int
    stroke: int
    escape: int


@dataclass(frozen=True)
class WrittenNote:
    """A note in time, in quarter notes."""

    places: tuple[Place, ...]
    onset: Fraction
    marks: frozenset[Mark]
    finger_lock: int | None
    silent_before: bool
    tuplet: int
    pull_follows: bool = False
    stroke_lock: int | None = None
    position_lock: int | None = None

    @property
    def legato(self) -> Mark | None:
        for mark in (Mark.HAMMER, Mark.PULL, Mark.SLIDE):
            if mark in self.marks:
                return mark
        return None


def all_places(what: Place | Pitch, instrument: Instrument) -> tuple[Place, ...]:
    """A place itself, or every place of a pitch, string by string."""
    if isinstance(what, Place):
        return (what,)
    count = len(instrument.tuning)
    frets = [what.midi - instrument.capo - instrument.tuning[count - string] for string in range(1, count + 1)]
    return tuple(
        Place(string, fret)
        for string, fret in enumerate(frets, 1)
        if 0 <= fret <= instrument.frets - instrument.capo
    )


def written_notes(riff: Riff, instrument: Instrument) -> list[WrittenNote]:
    """The notes of a one-bar riff."""
    found: list[WrittenNote] = []
    onset, silent = Fraction(0), False
    for event in riff.written_events():
        if event.notes:
            places = all_places(event.notes[0].what, instrument)
            silent = silent or bool(found and Mark.STACCATO in found[-1].marks)
            locks = event.locks
            found.append(
                WrittenNote(
                    places,
                    onset,
                    event.marks,
                    locks.finger,
                    silent,
                    event.value.tuplet,
                    stroke_lock={"down": DOWN, "up": UP}.get(str(locks.stroke)),
                    position_lock=locks.position,
                )
            )
        silent = event.rest
        onset += event.value.quarters
    for number, note in enumerate(found[1:]):
        opens = note.places[0].fret == 0 and len(note.places) == 1
        found[number] = replace(found[number], pull_follows=Mark.PULL in note.marks and not opens)
    return found


class Reference:
    """Costs of choices for one riff, player, school and instrument."""

    def __init__(self, riff: Riff, hands: Hands, school: str, instrument: Instrument) -> None:
        self.hands, self.school, self.instrument = hands, school, instrument
        self.high_gain = riff.gain == "high"
        self.notes = written_notes(riff, instrument)
        self.ms = 60_000.0 / riff.tempo
        self.length = sum((event.value.quarters for event in riff.written_events()), Fraction(0))
        self.ends_in_rest = riff.written_events()[-1].rest or Mark.STACCATO in self.notes[-1].marks
        self.starts_with_rest = riff.written_events()[0].rest
        events, at = [], Fraction(0)
        for event in riff.written_events():
            events.append(at)
            at += event.value.quarters
        onsets = [note.onset for note in self.notes]
        self.parts = _grid_parts(onsets, events, riff.meter.beat, riff.meter.compound)
        self.options = [self._options(number) for number in range(len(self.notes))]
        self.link = lru_cache(maxsize=None)(self._link)

    # -- choices --------------------------------------------------------------------------------------------

    def _spot(self, fret: int) -> float:
        scale = self.instrument.scale_mm
        if fret + self.instrument.capo == 0:
            return 0.0
        real = fret + self.instrument.capo
        here, behind = (scale * (1 - 2 ** (-one / 12)) for one in (real, real - 1))
        return here - min(6.0, 0.3 * (here - behind))

    def _fretted(self, number: int) -> list[tuple[Place, int, int]]:
        """Place, finger and position of every way to fret a note."""
        note, hand = self.notes[number], self.hands.fretting
        found = []
        for place, finger in product([place for place in note.places if place.fret], (1, 2, 3, 4)):
            if note.finger_lock not in (None, finger):
                continue
            for position in range(place.fret - finger - 1, place.fret - finger + 3):
                if not 1 <= position <= self.instrument.top_fret or note.position_lock not in (None, position):
                    continue
                reach = self._spot(place.fret) - self._spot(position) - hand.spread_mm[finger - 1]
                if -hand.crowd_mm <= reach <= hand.stretch_mm:
                    found.append((place, finger, position))
        return found

    def _options(self, number: int) -> list[Choice]:
        note = self.notes[number]
        ways = self._fretted(number)
        if note.legato not in (Mark.SLIDE, Mark.HAMMER) and note.finger_lock is None:
            homes = {position for _, _, position in ways} | self._near(number, -1) | self._near(number, 1)
            homes = homes if note.position_lock is None else {note.position_lock}
            ways += [(place, 0, home) for place in note.places if not place.fret for home in sorted(homes) or [1]]
        hand = self.hands.picking
        habitual = UP if hand.lean.value == "up" else DOWN
        leans = [habitual, -habitual] if hand.turns else [habitual]
        return [
            Choice(self.instrument.strings - place.string, place.fret, finger, position, stroke, lean)
            for place, finger, position in ways
            for lean in leans
            for stroke in (DOWN, UP)
        ]

    def _near(self, number: int, way: int) -> set[int]:
        """Positions of the nearest fretted note before or after."""
        at = number + way
        while 0 <= at < len(self.notes):
            homes = {position for _, _, position in self._fretted(at)}
            lock = self.notes[at].position_lock
            homes |= {lock} if lock is not None else set()
            if homes:
                return homes
            at += way
        return set()

    # -- costs ----------------------------------------------------------------------------------------------

    def picked(self, number: int) -> bool:
        return self.notes[number].legato is None

    def step(self, number: int, one: Choice) -> float:
        """Posture, stroke comfort and the school's rule on single strokes."""
        comfort, hand = self.hands.comfort, self.hands.fretting
        cost = 0.0
        if one.finger:
            reach = self._spot(one.fret) - self._spot(one.position) - hand.spread_mm[one.finger - 1]
            cost += self._reach(reach, comfort.reach)
            if one.fret - one.position != one.finger - 1:
                cost += comfort.frame + (comfort.first_away if one.finger == 1 else 0.0)
            cost += comfort.fourth if one.finger == 4 else 0.0
            thinner = self.instrument.strings - 1 - one.string
            cost += self._marked(self.notes[number], one)
            cost += comfort.high * max(one.fret + self.instrument.capo - comfort.high_from, 0.0) * thinner
        else:
            cost += comfort.open_far * max(one.position - comfort.open_near, 0.0)
        if not self.picked(number):
            return cost
        if self.notes[number].stroke_lock not in (None, one.stroke):
            return inf
        part = self.parts[number]
        if self.school == "pulse-alternate" and one.stroke != (DOWN if part % 2 == 0 else UP):
            return inf
        if one.stroke == UP:
            cost += comfort.up_on_beat if part == 0 else 0.0
            cost += comfort.up_on_accent if Mark.ACCENT in self.notes[number].marks else 0.0
        cost += comfort.down_between if one.stroke == DOWN and part % 2 else 0.0
        habitual = UP if self.hands.picking.lean.value == "up" else DOWN
        return cost + (0.0 if one.escape == habitual else comfort.other_lean)

    def _marked(self, note: WrittenNote, one: Choice) -> float:
        """Vibrato, and fingers that the player's camp does not use."""
        comfort, hand = self.hands.comfort, self.hands.fretting
        cost = {1: comfort.vibrato_1, 4: comfort.vibrato_4}.get(one.finger, 0.0) * (Mark.VIBRATO in note.marks)
        low = hand.low_frets == "1-2-4" and one.finger == 3 and one.fret + self.instrument.capo <= 5
        avoided = hand.little_finger == "avoided" and one.finger == 4
        return cost + comfort.against * (low or avoided)

    def _reach(self, mm: float, weight: float) -> float:
        comfort = self.hands.comfort
        beyond = max(abs(mm) - comfort.reach_ease_mm, 0.0) / 20.0
        return weight * beyond**2 * (comfort.crowding if mm < 0 else 1.0)

    def _effort(self, load: float) -> float:
        return load**2 + self.hands.comfort.overload * max(load - 1.0, 0.0) ** 2

    def _link(self, number: int, one: Choice, two: Choice) -> tuple[float, float]:
        """Cost and load from note `number` to the next, or round the loop from the last to the first."""
        seam = number + 1 == len(self.notes)
        following = 0 if seam else number + 1
        before, after = self.notes[number], self.notes[following]
        onset = after.onset + (self.length if seam else 0)
        gap = float(onset - before.onset) * self.ms
        last = max(at for at in range(number + 1) if self.picked(at))
        pick_gap = float(onset - self.notes[last].onset) * self.ms
        if seam:
            after = replace(after, silent_before=self.ends_in_rest or self.starts_with_rest)
        fret = self._fret(after, one, two)
        if fret is None:
            return inf, inf
        fret_ms, discomfort, kind = fret
        fret_load = fret_ms / gap
        cost = self._effort(fret_load) + discomfort
        if not self.picked(following):
            same = (one.stroke, one.escape) == (two.stroke, two.escape)
            return (cost, fret_load) if same else (inf, inf)
        travel = two.string - one.string
        if not self._school_allows(one.stroke, two.stroke, travel):
            return inf, inf
        pick_ms = self._pick_ms(before, after, one, two)
        part = self.parts[following]
        if travel and two.stroke != (DOWN if part % 2 == 0 else UP):
            pick_ms += self.hands.picking.odd_ms
        if not self.picked(number) and travel and one.stroke != two.stroke:
            pick_ms += self.hands.picking.sweep_turn_ms
        pick_load = pick_ms / pick_gap
        cost += self._effort(pick_load)
        load = max(pick_load, fret_load)
        together = self.hands.together
        extra = together.resume_ms if not self.picked(number) else 0.0
        extra += together.seam_ms if seam else 0.0
        extra += together.subdivision_ms if before.tuplet != after.tuplet else 0.0
        if travel:
            extra += {
                "shift": together.change_shift_ms,
                "roll": together.change_roll_ms,
                "jump": together.change_jump_ms,
                "shift and roll": together.change_shift_ms + together.change_roll_ms,
            }.get(kind, 0.0)
        if extra:
            load += extra / gap
            cost += self._effort(load)
        return cost, load

    def _school_allows(self, before: int, after: int, travel: int) -> bool:
        if self.school == "strict-alternate":
            return before != after
        if self.school == "economy":
            return before != after if travel == 0 else after == (DOWN if travel > 0 else UP)
        return True

    def _pick_ms(self, before: WrittenNote, after: WrittenNote, one: Choice, two: Choice) -> float:
        hand, guitar = self.hands.picking, self.instrument
        width = guitar.nut_mm + 0.85 * (guitar.bridge_mm - guitar.nut_mm)
        y = [width * string / (guitar.strings - 1) for string in range(guitar.strings)]
        end = y[one.string] + one.stroke * hand.half_stroke_mm
        begin = y[two.string] - two.stroke * hand.half_stroke_mm
        way = begin - end
        signs = [one.stroke, (way > 1e-9) - (way < -1e-9), two.stroke]
        signs = [sign for sign in signs if sign]
        reversals = sum(a != b for a, b in pairwise(signs))
        cleared = sum(min(end, begin) < string < max(end, begin) for string in y)
        escaped = one.stroke == one.escape
        paid = 0 if escaped else cleared
        travel = two.string - one.string
        toward = (travel > 0) - (travel < 0)
        ms = hand.base_ms + hand.reversal_ms * reversals + hand.clear_ms * paid
        ms += hand.fitts_ms * log2(1 + abs(way) / hand.target_mm)
        if travel and one.stroke != two.stroke and one.stroke != toward and paid:
            ms += hand.inside_ms
        if travel and one.stroke == two.stroke == toward and escaped:
            ms += hand.drop_ms
        if travel and one.stroke == two.stroke == toward and not escaped and hand.rest_strokes == "never":
            ms += hand.attack_ms
        if abs(way) > hand.glide_from_mm:
            ms += hand.glide_ms + hand.anchored_ms * (hand.hand_rest == "anchored")
        if one.escape != two.escape:
            ms += hand.turn_ms
        palm_is_down = Mark.PALM_MUTE in before.marks and Mark.ACCENT not in before.marks
        if palm_is_down != (Mark.PALM_MUTE in after.marks):
            ms += hand.palm_ms
        return ms + (hand.accent_ms if Mark.ACCENT in after.marks else 0.0)

    def _fret(self, after: WrittenNote, one: Choice, two: Choice) -> tuple[float, float, str] | None:
        """Time, comfort and kind of the fretting hand's move; None when it cannot be made."""
        hand, comfort = self.hands.fretting, self.hands.comfort
        legato, rise = after.legato, two.fret - one.fret
        shift = two.position - one.position
        same_string, same_finger = one.string == two.string, one.finger == two.finger > 0
        if legato is Mark.HAMMER and not (same_string and rise > 0 and two.finger > one.finger):
            return None
        if legato is Mark.PULL and not (same_string and rise < 0 and two.finger < one.finger and not shift):
            return None
        if legato is Mark.SLIDE and not (same_string and rise and rise == shift and same_finger):
            return None
        stays = same_finger and same_string and rise == 0
        rolls = same_finger and rise == 0 and abs(one.string - two.string) == 1
        glides = same_finger and same_string and rise == shift
        jumps = same_finger and not (stays or rolls or glides)
        ms, effort = 0.0, 0.0
        if two.finger and not (stays or rolls or glides):
            ms += {Mark.HAMMER: hand.hammer_ms, Mark.PULL: hand.pull_ms}.get(legato or Mark.TIE, hand.place_ms)
            ms += hand.fourth_ms if two.finger == 4 else 0.0
            ms += hand.plant_ms if after.pull_follows and legato is not Mark.PULL else 0.0
        if one.finger and not two.finger:
            ms += hand.pull_ms if legato is Mark.PULL else hand.lift_ms
        ms += (hand.roll_ms + (hand.roll_gain_ms if self.high_gain else 0.0)) if rolls else 0.0
        spot = self._spot
        if jumps and not shift:
            along = spot(two.fret) - spot(one.fret)
            guitar = self.instrument
            width = guitar.nut_mm + 0.3 * (guitar.bridge_mm - guitar.nut_mm)
            aside = width * (two.string - one.string) / (guitar.strings - 1)
            way = (along**2 + aside**2) ** 0.5
            ms += hand.jump_ms + hand.jump_fitts_ms * log2(1 + way / hand.jump_target_mm)
        if shift:
            mm = abs(spot(two.position) - spot(one.position))
            ms += hand.shift_ms + hand.shift_fitts_ms * log2(1 + mm / hand.shift_target_mm)
        lifts = hand.letting_go == "lift" and one.finger and legato is None and not same_string
        ms += hand.release_ms if lifts and not (same_finger and rise == 0) else 0.0
        leaves = shift or (jumps and hand.letting_go == "hold")
        if leaves and one.finger and not after.silent_before and legato is not Mark.SLIDE:
            ms += hand.hold_ms
        ms += hand.slide_ms if legato is Mark.SLIDE else 0.0
        if one.finger and two.finger and one.finger != two.finger:
            pair = {one.finger, two.finger}
            ms += hand.weak_34_ms * (pair == {3, 4}) + hand.weak_24_ms * (pair == {2, 4})
            effort += comfort.weak_34 * (pair == {3, 4}) + comfort.weak_24 * (pair == {2, 4})
            effort += comfort.weak_23 * (pair == {2, 3})
            if not shift:
                if (two.finger - one.finger) * rise < 0:
                    ms += hand.cross_ms
                up = 1 if two.finger > one.finger else -1
                ease = hand.spread_mm[two.finger - 1] - hand.spread_mm[one.finger - 1]
                effort += self._reach(up * (spot(two.fret) - spot(one.fret) - ease), comfort.apart)
            if rise == 0 and not same_string:
                effort += comfort.squeezed + comfort.against * (hand.same_fret == "roll")
            if two.finger == 1 and one.finger > 1 and not same_string and not shift:
                ms += hand.late_ms
        effort += comfort.against * (rolls and hand.same_fret == "separate")
        kind = (
            "shift and roll"
            if shift and rolls
            else "shift"
            if shift
            else "roll"
            if rolls
            else "jump"
            if jumps
            else ""
        )
        return ms, effort, kind

    # -- search ---------------------------------------------------------------------------------------------

    def cost_of(self, choices: list[Choice], *, loop: bool = False) -> float:
        """Cost of one whole plan."""
        total = sum(self.step(number, one) for number, one in enumerate(choices))
        return total + sum(self.link(number, *pair)[0] for number, pair in enumerate(_pairs(choices, loop)))

    def load_of(self, choices: list[Choice], *, loop: bool = False) -> float:
        """Largest load of one whole plan."""
        return max((self.link(number, *pair)[1] for number, pair in enumerate(_pairs(choices, loop))), default=0.0)

    def best_cost(self, bound: float = inf, most_load: float = inf, *, loop: bool = False) -> float:
        """Least cost of all plans below a bound, by exhaustive search; infinite when there is none."""
        best = bound
        found = inf
        last = len(self.notes) - 1

        def within(number: int, one: Choice, two: Choice) -> float:
            cost, load = self.link(number, one, two)
            return cost if load <= most_load else inf

        def descend(chosen: list[Choice], cost: float) -> None:
            nonlocal best, found
            number = len(chosen)
            for choice in self.options[number]:
                sum_here = cost + self.step(number, choice)
                if chosen:
                    sum_here += within(number - 1, chosen[-1], choice)
                if number == last and loop:
                    sum_here += within(last, choice, (chosen or [choice])[0])
                if sum_here >= best:
                    continue
                if number == last:
                    best = found = sum_here
                else:
                    descend([*chosen, choice], sum_here)

        descend([], 0.0)
        return found

    def best_load(self, bound: float = inf, *, loop: bool = False) -> float:
        """Smallest largest load of all plans below a bound, by exhaustive search."""
        best = bound
        last = len(self.notes) - 1

        def within(number: int, one: Choice, two: Choice) -> float:
            cost, load = self.link(number, one, two)
            return load if cost < inf else inf

        def descend(chosen: list[Choice], worst: float) -> None:
            nonlocal best
            number = len(chosen)
            for choice in self.options[number]:
                load = worst if self.step(number, choice) < inf else inf
                if chosen:
                    load = max(load, within(number - 1, chosen[-1], choice))
                if number == last and loop:
                    load = max(load, within(last, choice, (chosen or [choice])[0]))
                if load >= best:
                    continue
                if number == last:
                    best = load
                else:
                    descend([*chosen, choice], load)

        descend([], 0.0)
        return best


def _pairs(choices: list[Choice], loop: bool) -> list[tuple[Choice, Choice]]:
    return [*pairwise(choices), *([(choices[-1], choices[0])] if loop else [])]


def _grid_parts(onsets: list[Fraction], events: list[Fraction], beat: Fraction, compound: bool) -> list[int]:
    """Which part of its beat each onset is: beats are divided as their onsets, rests included, need."""
    inside: dict[int, list[Fraction]] = {}
    for onset in events:
        inside.setdefault(int(onset // beat), []).append(onset % beat / beat)
    needs = {
        number: next(count for count in range(1, 1000) if all((one * count).denominator == 1 for one in shares))
        for number, shares in inside.items()
    }
    finest = max((parts for parts in needs.values() if parts in (1, 2, 4, 8, 16, 32)), default=1)
    found = []
    for onset in onsets:
        parts = needs[int(onset // beat)]
        if parts in (1, 2, 4, 8, 16, 32) and not compound:
            parts = finest
        found.append(int(onset % beat / beat * parts))
    return found
