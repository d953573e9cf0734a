"""What notes are in their key and over their chord."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from dromic.music.chords import Chord
from dromic.music.keys import Key
from dromic.music.pitch import Pitch
from dromic.music.timeline import TimedEvent
from dromic.music.tones import Degree, usual_degree

_NAMES = {
    1: "root",
    2: "second",
    3: "third",
    4: "fourth",
    5: "fifth",
    6: "sixth",
    7: "seventh",
    9: "ninth",
    11: "eleventh",
    13: "thirteenth",
}


@dataclass(frozen=True)
class NoteHarmony:
    """A note in its key and over its chord.

    Parameters
    ----------
    name : str
        Spelled as the key has it, without octave.
    degree : Degree or None
        Of the key; None where no key is known.
    in_key : bool
        Whether the key's scale holds it.
    chord : Chord or None
        The chord of the moment.
    chord_tone : Degree or None
        Which of its tones the note is; None for none.
    """

    name: str
    degree: Degree | None
    in_key: bool
    chord: Chord | None
    chord_tone: Degree | None

    @property
    def words(self) -> str:
        """The note in words.

        Examples
        --------
        >>> from dromic.music.chords import parse_chord
        >>> from dromic.music.keys import parse_key
        >>> note_harmony(63, parse_key("C"), parse_chord("Cm7")).words
        'Eb, b3 of the key, third of Cm7'
        >>> note_harmony(65, parse_key("C"), parse_chord("Cm7")).words
        'F, 4 of the key, not in Cm7'
        """
        told = [self.name]
        if self.degree is not None:
            told.append(f"{self.degree} of the key")
        if self.chord is not None:
            where = (
                f"{_NAMES.get(self.chord_tone.number, str(self.chord_tone))} of" if self.chord_tone else "not in"
            )
            told.append(f"{where} {self.chord}")
        return ", ".join(told)


def note_harmony(midi: int, key: Key | None, chord: Chord | None, spelled: Pitch | None = None) -> NoteHarmony:
    """What a note is in a key and over a chord.

    Parameters
    ----------
    midi : int
    key : Key or None
    chord : Chord or None
    spelled : Pitch or None
        As it is written, where it is written as a pitch.
    """
    tone = chord.degree_of(midi) if chord is not None else None
    if spelled is not None:
        name = str(Pitch(spelled.letter, spelled.alter, 0)).rstrip("0")
    elif chord is not None and tone is not None:
        name = str(chord.root.above(tone))
    elif key is not None:
        name = str(key.scale.spelled(midi)).rstrip("0123456789-")
    else:
        name = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")[midi % 12]
    if key is None:
        return NoteHarmony(name, None, False, chord, tone)
    rise = (midi - key.tonic.pitch_class) % 12
    own = {degree.semitones: degree for degree in key.scale.formula.degrees}
    return NoteHarmony(name, own.get(rise) or usual_degree(rise), rise in own, chord, tone)


def chords_in_time(moments: Iterable[TimedEvent]) -> tuple[Chord | None, ...]:
    """The chord of every moment: a sign holds on until the next.

    Parameters
    ----------
    moments : iterable of TimedEvent
        As `dromic.music.timeline.timeline` gives them.
    """
    chords: list[Chord | None] = []
    chord: Chord | None = None
    for moment in moments:
        sign = moment.event.chord
        if sign is not None:
            chord = sign if isinstance(sign, Chord) else None
        chords.append(chord)
    return tuple(chords)
