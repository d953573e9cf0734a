"""From what a file holds to a riff: lengths become written values, bars are made to fill their metre.

Files break bars where riff text may not: a second part with another pickup, a last bar left short, a bar that is
simply wrong. What can be kept as it is stays; otherwise repeats are written out, broken bars are joined, short ones
filled with rests, and long ones get a metre of their own, and each of these is told.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from dromic.errors import RiffError
from dromic.formats.reading.bounds import NoteBound
from dromic.formats.reading.note_lengths import sounding
from dromic.formats.reading.raw import Imported, RawBar, RawPhrase, Remarks, counted
from dromic.formats.rifftext.header import FASTEST, SLOWEST
from dromic.formats.rifftext.reader import MOST_TIMES, read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.instrument.presets import instrument_for
from dromic.music.laying import filled_up
from dromic.music.pitch import Pitch, pitch_name
from dromic.music.rhythm import NOTE_BASES, Meter
from dromic.music.riff import Bar, Event, Mark, Note, Phrase, Riff


def assembled(head: Riff, phrases: Sequence[RawPhrase], remarks: Remarks) -> Imported:
    """Make a riff of a file's bars.

    Parameters
    ----------
    head : Riff
        Title, instrument, tempo and so on; its metre, pickup and phrases are set here.
    phrases : sequence of RawPhrase
    remarks : Remarks
        Takes what had to be changed.

    Raises
    ------
    RiffError
        When there is nothing to play, or too much.
    """
    kept = [RawPhrase([bar for bar in one.bars if bar.events], one.name, one.times) for one in phrases]
    kept = [phrase for phrase in kept if phrase.bars]
    _without_loose_ends(kept)
    if not any(event.notes for phrase in kept for bar in phrase.bars for event in bar.events):
        raise RiffError("there are no notes in it; choose another part or another file")
    for phrase in kept:
        if phrase.times > MOST_TIMES:
            remarks.add(f"repeats are played {MOST_TIMES} times at most")
            phrase.times = MOST_TIMES
    _count(kept)
    head = _reached(head, kept, remarks)
    _thin_out(kept, instrument_for(head).strings, remarks)
    if not _joins(kept):
        kept = _written_out(kept, remarks)
        _count(kept)
    _fill(kept, remarks)
    _without_loose_ends(kept)
    _count(kept)
    riff = _riff(head, kept)
    tags = tuple(getattr(event, "tag", -1) for event in riff.written_events())
    return Imported(_normal(riff), remarks.told(), tags)


def _count(phrases: Sequence[RawPhrase]) -> None:
    """See that there are not more notes than a riff holds, repeats and rests that fill bars included."""
    NoteBound().add(sum(phrase.times * sum(len(bar.events) for bar in phrase.bars) for phrase in phrases))


# What is tried, in this order, when an instrument does not reach all notes.
_LARGER = {
    "guitar-6": (("guitar-6", "drop"), ("guitar-7", ""), ("guitar-8", "")),
    "guitar-7": (("guitar-7", "drop"), ("guitar-8", "")),
    "bass-4": (("bass-4", "drop"), ("bass-5", ""), ("bass-6", "")),
    "bass-5": (("bass-6", ""),),
}


def _reached(head: Riff, phrases: Sequence[RawPhrase], remarks: Remarks) -> Riff:
    """An instrument that reaches all pitches; where there is none, they are moved by octaves."""
    pitches = [
        note.target.midi
        for phrase in phrases
        for bar in phrase.bars
        for event in bar.events
        for note in event.notes
        if isinstance(note.target, Pitch)
    ]
    if not pitches:
        return head
    low, high = min(pitches), max(pitches)
    for name, tuning in ((head.instrument, head.tuning), *_LARGER.get(head.instrument, ())):
        instrument = instrument_for(replace(head, instrument=name, tuning=tuning))
        if instrument.lowest <= low and high <= instrument.highest:
            if (name, tuning) != (head.instrument, head.tuning):
                remarks.add(f"it goes down to {pitch_name(low)}, so it is read for {name} {tuning}".rstrip())
            return replace(head, instrument=name, tuning=tuning)
    instrument = instrument_for(head)
    for octaves in (1, -1, 2, -2, 3, -3):
        if instrument.lowest <= low + 12 * octaves and high + 12 * octaves <= instrument.highest:
            _move(phrases, octaves)
            remarks.add(
                f"all notes are moved by {counted(abs(octaves), 'octave')} {'up' if octaves > 0 else 'down'}"
            )
            return head
    raise RiffError(
        f"its notes go from {pitch_name(low)} to {pitch_name(high)}, which {head.instrument} does not reach; "
        "choose another part"
    )


def _thin_out(phrases: Sequence[RawPhrase], strings: int, remarks: Remarks) -> None:
    """Leave out inner notes of chords that have more notes than there are strings."""
    bars = [bar for phrase in phrases for bar in phrase.bars]
    for number, bar in enumerate(bars, start=1):
        if all(len(event.notes) <= strings for event in bar.events):
            continue
        remarks.add(f"chords of more than {strings} notes lose inner ones", f"bar {number}")
        for at, event in enumerate(bar.events):
            spare = len(event.notes) - strings
            free = sorted((n for n in event.notes if isinstance(n.target, Pitch)), key=lambda n: _height(n))
            if spare > 0:
                dropped = free[1 : 1 + spare]
                bar.events[at] = replace(event, notes=tuple(n for n in event.notes if n not in dropped))


def _height(note: Note) -> int:
    return note.target.midi if isinstance(note.target, Pitch) else 0


def _move(phrases: Sequence[RawPhrase], octaves: int) -> None:
    def moved(note: Note) -> Note:
        what = note.target
        return (
            replace(note, target=replace(what, octave=what.octave + octaves)) if isinstance(what, Pitch) else note
        )

    for phrase in phrases:
        for bar in phrase.bars:
            bar.events = [replace(event, notes=tuple(moved(note) for note in event.notes)) for event in bar.events]


def _without_loose_ends(phrases: list[RawPhrase]) -> None:
    """Drop grace notes that lead to no note, and ties that no note comes before."""
    before: Event | None = None
    # Grace notes that still wait for the note that they lead to, with their bars' events.
    waiting: list[tuple[list[Event], Event]] = []
    for phrase in phrases:
        for bar in phrase.bars:
            own: list[Event] = []
            for event in bar.events:
                if Mark.TIE in event.marks and not (before is not None and _same(before, event)):
                    event = replace(event, marks=event.marks - {Mark.TIE})
                if event.rest:
                    _drop(waiting)
                elif not event.grace:
                    waiting.clear()
                own.append(event)
                if event.grace:
                    waiting.append((own, event))
                before = event
            bar.events = own
    _drop(waiting)
    for phrase in phrases:
        for bar in list(phrase.bars):
            if bar.events and not bar.quarters:
                _give_to_next(phrases, bar)
        phrase.bars = [bar for bar in phrase.bars if bar.events]
    phrases[:] = [phrase for phrase in phrases if phrase.bars]


def _drop(waiting: list[tuple[list[Event], Event]]) -> None:
    for events, grace in waiting:
        events[:] = [event for event in events if event is not grace]
    waiting.clear()


def _give_to_next(phrases: list[RawPhrase], bar: RawBar) -> None:
    """Grace notes that stand before a bar line belong to the bar after it."""
    flat = [one for phrase in phrases for one in phrase.bars]
    at = next(number for number, one in enumerate(flat) if one is bar)
    if at + 1 < len(flat) and flat[at + 1].events and not flat[at + 1].events[0].rest:
        flat[at + 1].events[:0] = bar.events
    bar.events = []


def _same(before: Event, event: Event) -> bool:
    return [str(note.target) for note in before.notes] == [str(note.target) for note in event.notes]


def _pickup(phrases: Sequence[RawPhrase]) -> Fraction:
    """Length of the pickup; nothing where there is none, or one that cannot be said as a part of a whole note."""
    first = phrases[0].bars[0]
    alone = len(phrases) == 1 and len(phrases[0].bars) == 1 and not first.leads
    sayable = (first.quarters / 4).denominator in NOTE_BASES
    return first.quarters if first.quarters < first.meter.bar and sayable and not alone else Fraction(0)


def _joins(phrases: Sequence[RawPhrase]) -> bool:
    """Whether all bars are as riff text wants them, with one length of pickup."""
    pickup = _pickup(phrases)
    at_pickup = bool(pickup)
    meter = phrases[0].bars[0].meter
    for phrase in phrases:
        began = at_pickup
        for bar in phrase.bars:
            if at_pickup and bar.meter != meter:
                return False
            meter = bar.meter
            if pickup and not pickup < meter.bar:
                return False
            if bar.quarters == (pickup if at_pickup else meter.bar):
                at_pickup = False
            elif pickup and not at_pickup and bar.quarters == meter.bar - pickup:
                at_pickup = True
            else:
                return False
        if phrase.times > 1 and at_pickup != began:
            return False
    return True


def _written_out(phrases: Sequence[RawPhrase], remarks: Remarks) -> list[RawPhrase]:
    """Repeats played out, and neighbouring parts of one bar put together."""
    if any(phrase.times > 1 for phrase in phrases):
        remarks.add("repeats are written out, because the bars around them are broken")
    written_out: list[RawPhrase] = []
    before: RawBar | None = None
    for phrase in phrases:
        for take in range(phrase.times):
            own = RawPhrase(name=phrase.name if not take else None)
            for bar in phrase.bars:
                bar = bar.copied()
                if (
                    before is not None
                    and before.meter == bar.meter
                    and before.quarters + bar.quarters == bar.meter.bar
                    and not _is_first(written_out, own, before)
                ):
                    before.events += bar.events
                    continue
                own.bars.append(bar)
                before = bar
            if own.bars:
                written_out.append(own)
    return written_out


def _is_first(found: Sequence[RawPhrase], own: RawPhrase, bar: RawBar) -> bool:
    """Whether a bar is the very first one, which stays a pickup."""
    first = found[0].bars[0] if found else own.bars[0]
    return first is bar


def _fill(phrases: list[RawPhrase], remarks: Remarks) -> None:
    """Make every bar fill its metre: with rests where it is short, by a metre of its own where it is long."""
    if _joins(phrases):
        return
    number = 0
    pickup = _pickup(phrases)
    for phrase in phrases:
        for bar in phrase.bars:
            number += 1
            if number == 1 and pickup:
                continue
            if bar.quarters > bar.meter.bar:
                bar.meter = _own_meter(bar.quarters, bar.meter)
                remarks.add("bars longer than their metre have one of their own", f"bar {number}")
            missing = bar.meter.bar - bar.quarters
            if missing > 0:
                try:
                    rests = filled_up(bar.events, missing)
                except RiffError:
                    bar.events = _rounded(bar.events)
                    remarks.add("lengths that note values cannot say are rounded", f"bar {number}")
                    rests = filled_up(bar.events, bar.meter.bar - bar.quarters)
                # A short bar at the start of a phrase leads into it; any other has come to its end early.
                bar.events = [*rests, *bar.events] if bar is phrase.bars[0] else [*bar.events, *rests]
                remarks.add("bars that were too short are filled with rests", f"bar {number}")
    first = phrases[0].bars[0]
    if pickup and not _joins(phrases):
        # A metre that changes right after the pickup, or another conflict: the pickup becomes a whole bar.
        first.events[:0] = filled_up((), first.meter.bar - first.quarters)
        remarks.add("the pickup is a whole bar, with rests before it")


def _rounded(events: Sequence[Event]) -> list[Event]:
    """Events that begin on 64ths of a whole note, each at the nearest one that is still free."""
    rounded: list[Event] = []
    at = begun = Fraction(0)
    for event in events:
        at += event.quarters
        end = max(Fraction(round(at * 16), 16), begun + Fraction(1, 16))
        rounded += [event] if event.grace else sounding(event, end - begun)
        begun = begun if event.grace else end
    return rounded


def _own_meter(quarters: Fraction, meter: Meter) -> Meter:
    """A metre that is as long as a bar, or a little longer where none is."""
    for unit in (meter.unit, 4, 8, 16, 32):
        count = quarters * unit / 4
        if count.denominator == 1 and 1 <= count <= 32:
            return Meter(int(count), unit)
    whole = int(-(-quarters * meter.unit // 4))
    if whole > 32:
        raise RiffError(f"a bar of {quarters} quarter notes is too long for any metre; split it with bar lines")
    return Meter(whole, meter.unit)


def _riff(head: Riff, phrases: Sequence[RawPhrase]) -> Riff:
    meter = first = phrases[0].bars[0].meter
    opening = phrases[0].bars[0].tempo
    if opening is not None and SLOWEST <= opening <= FASTEST:
        head = replace(head, tempo=opening)
    tempo = head.tempo
    made: list[Phrase] = []
    for number, phrase in enumerate(phrases):
        bars = []
        for bar in phrase.bars:
            new = bar.meter if bar.meter != meter else None
            faster = _new_tempo(bar.tempo, tempo)
            bars.append(Bar(tuple(bar.events), comment=bar.comment, meter=new, tempo=faster))
            meter, tempo = bar.meter, faster or tempo
        name = phrase.name
        if name is None and number and made[-1].times == 1:
            # Without a name of its own it goes on with the phrase before.
            if phrase.times == 1:
                made[-1] = replace(made[-1], bars=(*made[-1].bars, *bars))
                continue
            name = f"part {number + 1}"
        made.append(Phrase(tuple(bars), name, phrase.times))
    return replace(head, phrases=tuple(made), meter=first, pickup=_pickup(phrases))


def _new_tempo(bar: float | None, current: float) -> float | None:
    """The tempo that begins with a bar, where it is another."""
    if bar is None or abs(bar - current) < 0.005 or not SLOWEST <= bar <= FASTEST:
        return None
    return bar


def _normal(riff: Riff) -> Riff:
    """The riff as its own text gives it back; whatever the text would refuse is refused here."""
    return read_riff_text(write_riff_text(riff)).riff
