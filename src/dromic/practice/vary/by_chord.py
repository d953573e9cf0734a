"""A lick over other chords: minor for major and back, suspended thirds, altered fifths, other sevenths."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from dromic.errors import RiffError
from dromic.music.chords import QUALITIES, Chord, chord_of, chord_on, parse_chord
from dromic.music.keys import Key
from dromic.music.scales import FORMULAS, Scale
from dromic.music.tones import Degree
from dromic.practice.vary.by_degrees import spellings
from dromic.practice.vary.lick import Draft, Drafts, Lick, Moved, Refusal, moved_notes, with_signs_changed


@dataclass(frozen=True)
class Change:
    """A chord tone made another.

    Parameters
    ----------
    words : str
    number : int
        Which tone: 3, 5 or 7.
    to : Degree
        What it becomes.
    """

    words: str
    number: int
    to: Degree


_CHANGES = (
    Change("thirds suspended to fourths", 3, Degree(4)),
    Change("thirds suspended to seconds", 3, Degree(2)),
    Change("fifths raised", 5, Degree(5, 1)),
    Change("fifths lowered", 5, Degree(5, -1)),
    Change("sevenths made major", 7, Degree(7)),
    Change("sevenths lowered", 7, Degree(7, -1)),
    Change("sixths for sevenths", 7, Degree(6)),
)


def drafts(lick: Lick) -> Drafts:
    """The lick with other chord tones."""
    yield _other_third(lick)
    chords = over(lick)
    if all(chord is None for chord in lick.chords):
        yield Refusal(
            "chord",
            f"No chords are written, so all of it is taken over {chords[0]}; write some before the notes where "
            "they begin, for example {Am7}.",
        )
    for change in _CHANGES:
        found = _changed(lick, chords, change)
        if found is not None:
            yield found


def over(lick: Lick) -> tuple[Chord, ...]:
    """The chord over each struck note; where none is written, that on the tonic."""
    key = lick.key
    tonic = chord_on(key.scale.tones, 0, 4)
    assert tonic is not None
    return tuple(chord or tonic for chord in lick.chords)


def _other_third(lick: Lick) -> Draft | Refusal:
    key = lick.key
    other = Key(key.tonic, "major" if key.minor else "minor")
    words = f"in {other} for {key}"
    moved = in_mode(lick, other)
    if isinstance(moved, Refusal):
        return moved
    return Draft(words + moved.words, "chord", moved.riff, lick.all_origins())


def in_mode(lick: Lick, other: Key) -> Moved | Refusal:
    """The lick in another mode on its tonic: each degree becomes the other scale's own.

    Parameters
    ----------
    lick : Lick
    other : Key
    """
    scale, new, spelled = lick.key.scale, other.scale, spellings(lick)
    # Over the dominant a minor key keeps its leading tone.
    leading = Scale(other.tonic, FORMULAS["harmonic minor"]) if other.mode == "minor" else new
    words = f"in {other}"

    def moved(at: int, midi: int) -> int:
        chord = lick.chords[at]
        over = leading if chord is not None and _is_dominant(chord, other) else new
        return over.midi(scale.step(midi, spelled.get(midi)))

    try:
        made = moved_notes(lick, moved, words)
    except RiffError as error:
        return Refusal("chord", error.message)

    def sign(chord: Chord) -> Chord | None:
        pitch_classes = [tone.pitch_class for tone in scale.tones]
        if chord.root.pitch_class not in pitch_classes:
            return None
        if _is_dominant(chord, other):
            return chord
        return chord_on(new.tones, pitch_classes.index(chord.root.pitch_class), 4 if len(chord.degrees) > 3 else 3)

    riff = replace(with_signs_changed(made.riff, sign), key=str(other), title=lick.title(words))
    return replace(made, riff=riff)


def _is_dominant(chord: Chord, key: Key) -> bool:
    """Whether a chord is a major one on the fifth degree."""
    fifth = (key.tonic.pitch_class + 7) % 12
    return chord.root.pitch_class == fifth and Degree(3) in chord.degrees


def _changed(lick: Lick, chords: tuple[Chord, ...], change: Change) -> Draft | Refusal | None:
    """The lick with one kind of chord tone made another; None where it has none of it."""
    if not any(_concerns(chord, change) for chord in chords):
        return None
    moves = _moves(chords, change)
    changed = False

    def moved(at: int, midi: int) -> int:
        nonlocal changed
        by = moves(at, midi)
        changed |= by != 0
        return midi + by

    try:
        made = moved_notes(lick, moved, f"with {change.words}")
    except RiffError as error:
        return Refusal("chord", error.message)
    if not changed:
        return None
    riff = with_signs_changed(made.riff, lambda chord: _sign(chord, change))
    riff = replace(riff, title=lick.title(change.words))
    return Draft(change.words + made.words, "chord", riff, lick.all_origins())


def _concerns(chord: Chord, change: Change) -> bool:
    return any(
        degree.number == change.number and degree.semitones != change.to.semitones for degree in chord.degrees
    )


def _moves(chords: tuple[Chord, ...], change: Change) -> Callable[[int, int], int]:
    def by(at: int, midi: int) -> int:
        chord = chords[at]
        tone = chord.degree_of(midi)
        return change.to.semitones - tone.semitones if tone is not None and tone.number == change.number else 0

    return by


def _sign(chord: Chord, change: Change) -> Chord | None:
    if not _concerns(chord, change):
        return chord
    degrees = [change.to if degree.number == change.number else degree for degree in chord.degrees]
    sign = chord_of(chord.root, degrees, chord.bass)
    if sign is not None:
        return sign
    over = f"/{chord.bass}" if chord.bass is not None else ""
    if change.number == 3:
        # A suspended chord is neither minor nor major: only its seventh or sixth is said.
        more = next((one for one in ("7", "maj7", "6", "") if _has(chord, one)), "")
        return parse_chord(f"{chord.root}{more}sus{change.to.number}{over}")
    return parse_chord(f"{chord.root}{chord.signs}{change.to}{over}")


def _has(chord: Chord, sign: str) -> bool:
    """Whether a chord has what stands above the fifth in another."""
    wanted = QUALITIES[sign].degrees[3:]
    return all(one in chord.degrees for one in wanted)
