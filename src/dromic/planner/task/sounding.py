"""Which style a riff is in, told from school, gain, instrument and music where the player does not say."""

from __future__ import annotations

from collections import Counter

from dromic.hands.constants import FrettingHand
from dromic.hands.style import Sound
from dromic.instrument.instrument import Instrument
from dromic.memory import memo
from dromic.music.riff import Bar, Mark, Riff, Style
from dromic.schools.school import School

BASS_SCALE_MM = 750.0
OPEN_KEYS = frozenset((5, 0, 7, 2, 9, 4))
MAJOR = (0, 2, 4, 5, 7, 9, 11)
IN_KEY = 0.93
PLAIN_CHORDS = tuple(
    frozenset((root + step) % 12 for step in chord)
    for chord in ((0, 4, 7, 10), (0, 3, 7, 10), (0, 5, 7), (0, 2, 7), (0, 4, 7, 9))
    for root in range(12)
)
"""The tones of triads, and of the sevenths and sixths that every style has."""


def sound_of(
    riff: Riff,
    school: School,
    instrument: Instrument,
    style: Style | None = None,
    hand: FrettingHand | None = None,
) -> Sound:
    """What a riff is to sound like.

    Parameters
    ----------
    riff : Riff
    school : School
        What the riff is played with, which tells something of its style.
    instrument : Instrument
    style : Style or None
        What the player wants; None where the riff, or else the rest, says it.
    hand : FrettingHand or None
        Whose player has something to say to open strings and damping.

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> from dromic.instrument.presets import instrument_named
    >>> from dromic.schools.registry import school_named
    >>> reel = read_riff_text("| G3/8 A3 B3 D4 E4 D4 B3 A3 |").riff
    >>> sound_of(reel, school_named("pulse-alternate"), instrument_named("guitar-6")).style
    <Style.BLUEGRASS: 'bluegrass'>
    """
    said = style or riff.style
    hand = hand or FrettingHand()
    style = _told(riff, school, instrument) if said is None else said
    return Sound(style, riff.high_gain, hand.open_strings, hand.damping)


def _told(riff: Riff, school: School, instrument: Instrument) -> Style:
    if instrument.scale_mm > BASS_SCALE_MM:
        return Style.BASS
    if riff.high_gain:
        return Style.METAL if instrument.strings > 6 else school.style_with_gain
    told = school.style or (Style.BLUEGRASS if _in_open_key(riff, instrument) else Style.JAZZ)
    if told in (Style.BLUEGRASS, Style.COUNTRY) and _of_jazz_chords(riff, instrument):
        return Style.JAZZ
    if told is not Style.JAZZ:
        return told
    # Nobody puts a capo on to play without open strings.
    return Style.BLUEGRASS if riff.capo else Style.ROCK if _rings(riff) else told


def _rings(riff: Riff) -> bool:
    """Whether half of the notes or more are marked to ring, as those of jazz lines are not."""
    ringing = notes = 0
    for phrase in riff.phrases:
        for event in (event for bar in phrase.bars for event in bar.events):
            # As often as it is played: see `_in_open_key`.
            notes += phrase.times * len(event.notes)
            ringing += phrase.times * sum(Mark.LET_RING in note.marks | event.marks for note in event.notes)
    return 2 * ringing >= notes > 0


def _of_jazz_chords(riff: Riff, instrument: Instrument) -> bool:
    """Whether most of the chords, two or more, are no triads, nor sevenths and sixths that every style has."""
    bars = (bar for phrase in riff.phrases for bar in phrase.bars)
    chords = frozenset(tones for bar in bars for tones in memo(_chords, bar, instrument))
    plain = [any(tones <= one for one in PLAIN_CHORDS) for tones in chords]
    return 1 < plain.count(False) > plain.count(True)


def _chords(bar: Bar, instrument: Instrument) -> frozenset[frozenset[int]]:
    """The chords of a bar that have three tones or more, each by its twelve tones."""
    struck = (frozenset(instrument.pitch_of(note.target) % 12 for note in event.notes) for event in bar.events)
    return frozenset(tones for tones in struck if len(tones) > 2)


def _in_open_key(riff: Riff, instrument: Instrument) -> bool:
    """Whether the notes lie in a key whose open strings serve: F, C, G, D, A or E major, or its relatives."""
    tones: Counter[int] = Counter()
    for phrase in riff.phrases:
        for bar in phrase.bars:
            own = memo(_tones, bar, instrument)
            # As often as it is played: a phrase that is written out sounds like one that is repeated.
            for tone, count in own.items():
                tones[tone] += count * phrase.times
    if not tones:
        return True

    def share(tonic: int) -> float:
        return sum(tones[(tonic + step) % 12] for step in MAJOR) / tones.total()

    best = max(range(12), key=lambda tonic: (share(tonic), tonic in OPEN_KEYS))
    return best in OPEN_KEYS and share(best) >= IN_KEY


def _tones(bar: Bar, instrument: Instrument) -> Counter[int]:
    """How often each of the twelve tones is struck in a bar."""
    return Counter(instrument.pitch_of(note.target) % 12 for event in bar.events for note in event.notes)
