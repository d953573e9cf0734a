"""Chords by their signs: what a sign such as ``Am7b5/Eb`` means, and how it is written.

A sign is a root, what kind of third, fifth and seventh it stacks up, what is altered, added or left out, and a
bass. Several ways of writing are read; one is written.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

from dromic.music.tones import Degree, Tone, parse_degrees, parse_tone

_ROOT = re.compile(r"([A-G](?:##|#|bb|b)?)(.*)", re.DOTALL)
_BASS = re.compile(r"(.*)/([A-G](?:##|#|bb|b)?)", re.DOTALL)
_NO_CHORD = ("N.C.", "NC", "N.C")


@dataclass(frozen=True)
class Quality:
    """A kind of chord.

    Parameters
    ----------
    sign : str
        As it is written behind the root.
    degrees : tuple of Degree
        Its tones above the root.
    others : tuple of str
        Other ways of writing it.
    kind : str
        Its name in MusicXML.
    words : str
    """

    sign: str
    degrees: tuple[Degree, ...]
    others: tuple[str, ...]
    kind: str
    words: str


# Sign, tones, other signs, kind in MusicXML 4.0 (type kind-value), words. Stacks of thirds are common practice.
_TABLE = (
    ("", "1 3 5", "maj M major", "major", "major"),
    ("m", "1 b3 5", "min - mi minor", "minor", "minor"),
    ("5", "1 5", "power", "power", "power chord"),
    ("dim", "1 b3 b5", "° o mb5 -b5", "diminished", "diminished"),
    ("aug", "1 3 #5", "+ maj#5", "augmented", "augmented"),
    ("sus2", "1 2 5", "2", "suspended-second", "suspended second"),
    ("sus4", "1 4 5", "sus 4", "suspended-fourth", "suspended fourth"),
    ("6", "1 3 5 6", "maj6 M6", "major-sixth", "sixth"),
    ("m6", "1 b3 5 6", "min6 -6", "minor-sixth", "minor sixth"),
    ("7", "1 3 5 b7", "dom7 dom", "dominant", "seventh"),
    ("maj7", "1 3 5 7", "M7 ma7 Δ Δ7 major7 j7", "major-seventh", "major seventh"),
    ("m7", "1 b3 5 b7", "min7 -7 mi7", "minor-seventh", "minor seventh"),
    ("m(maj7)", "1 b3 5 7", "mmaj7 mM7 minmaj7 m(M7) -maj7 -Δ7 mΔ", "major-minor", "minor with a major seventh"),
    ("dim7", "1 b3 b5 bb7", "°7 o7", "diminished-seventh", "diminished seventh"),
    ("m7b5", "1 b3 b5 b7", "ø ø7 min7b5 -7b5 m7(b5)", "half-diminished", "half-diminished"),
    ("aug7", "1 3 #5 b7", "7#5 +7 7+ 7(#5)", "augmented-seventh", "augmented seventh"),
    ("9", "1 3 5 b7 9", "dom9", "dominant-ninth", "ninth"),
    ("maj9", "1 3 5 7 9", "M9 Δ9", "major-ninth", "major ninth"),
    ("m9", "1 b3 5 b7 9", "min9 -9", "minor-ninth", "minor ninth"),
    ("11", "1 3 5 b7 9 11", "", "dominant-11th", "eleventh"),
    ("maj11", "1 3 5 7 9 11", "M11", "major-11th", "major eleventh"),
    ("m11", "1 b3 5 b7 9 11", "min11 -11", "minor-11th", "minor eleventh"),
    ("13", "1 3 5 b7 9 11 13", "", "dominant-13th", "thirteenth"),
    ("maj13", "1 3 5 7 9 11 13", "M13", "major-13th", "major thirteenth"),
    ("m13", "1 b3 5 b7 9 11 13", "min13 -13", "minor-13th", "minor thirteenth"),
    # Those below are written in MusicXML as one of the above with degrees added or changed.
    ("6/9", "1 3 5 6 9", "69 6add9 6(9)", "", "sixth and ninth"),
    ("m6/9", "1 b3 5 6 9", "m69 -69", "", "minor sixth and ninth"),
    ("7sus4", "1 4 5 b7", "7sus", "", "seventh with a suspended fourth"),
    ("7alt", "1 3 b5 #5 b7 b9 #9", "alt 7(alt)", "", "altered seventh"),
)
QUALITIES = {
    sign: Quality(sign, parse_degrees(degrees), tuple(others.split()), kind, words)
    for sign, degrees, others, kind, words in _TABLE
}
_BY_SIGN = {sign: quality for quality in QUALITIES.values() for sign in (quality.sign, *quality.others)}
_LONGEST_FIRST = sorted(_BY_SIGN, key=len, reverse=True)
_CHANGE = re.compile(r"(add|no|omit|sus|b|#|\+|-)(\d{1,2})|(sus)")


@dataclass(frozen=True)
class Chord:
    """A chord.

    Parameters
    ----------
    root : Tone
    quality : Quality
    changes : tuple of str
        What is altered, added or left out, such as ``b9``, ``add11`` and ``no3``, in the order of writing.
    bass : Tone or None
        Where another tone than the root is lowest.

    Examples
    --------
    >>> chord = parse_chord("Bb7(#9)/D")
    >>> str(chord), " ".join(map(str, chord.tones)), [str(degree) for degree in chord.degrees]
    ('Bb7#9/D', 'Bb D F Ab C#', ['1', '3', '5', 'b7', '#9'])
    """

    root: Tone
    quality: Quality
    changes: tuple[str, ...] = ()
    bass: Tone | None = None

    @cached_property
    def degrees(self) -> tuple[Degree, ...]:
        """Its tones as degrees above the root, from low to high."""
        found = list(self.quality.degrees)
        for change in self.changes:
            found = _changed(found, change)
        return tuple(sorted(set(found), key=lambda degree: (degree.number, degree.alter)))

    @cached_property
    def tones(self) -> tuple[Tone, ...]:
        """Its tones, spelled."""
        return tuple(self.root.above(degree) for degree in self.degrees)

    @cached_property
    def _by_pitch_class(self) -> dict[int, Degree]:
        root = self.root.pitch_class
        return {(root + degree.semitones) % 12: degree for degree in reversed(self.degrees)}

    def degree_of(self, midi: int) -> Degree | None:
        """Which of its tones a note is; None where it is none of them."""
        return self._by_pitch_class.get(midi % 12)

    @property
    def signs(self) -> str:
        """What is written behind the root."""
        changes = "".join(self.changes)
        # An altered fifth or ninth directly behind a bare root would be read as part of the root's name.
        bare = not self.quality.sign and changes[:1] in ("b", "#")
        return f"({changes})" if bare else f"{self.quality.sign}{changes}"

    @property
    def words(self) -> str:
        """The chord in words.

        Examples
        --------
        >>> parse_chord("F#m7").words, parse_chord("C/E").words
        ('F# minor seventh', 'C major over E')
        """
        over = f" over {self.bass}" if self.bass is not None else ""
        changes = f" {' '.join(self.changes)}" if self.changes else ""
        return f"{self.root} {self.quality.words}{changes}{over}"

    def up(self, semitones: int, root: Tone) -> Chord:
        """The same chord on another root; its bass goes along."""
        bass = None
        if self.bass is not None:
            letter_steps = ("CDEFGAB".index(self.bass.letter) - "CDEFGAB".index(self.root.letter)) % 7
            plain = Degree(letter_steps + 1)
            rise = (self.bass.pitch_class - self.root.pitch_class) % 12
            alter = (rise - plain.semitones + 6) % 12 - 6
            bass = root.above(Degree(letter_steps + 1, alter))
        return replace(self, root=root, bass=bass)

    def __str__(self) -> str:
        bass = f"/{self.bass}" if self.bass is not None else ""
        return f"{self.root}{self.signs}{bass}"


@dataclass(frozen=True)
class NoChord:
    """No chord from here on."""

    def __str__(self) -> str:
        return _NO_CHORD[0]


Sign = Chord | NoChord


def parse_sign(text: str) -> Sign | None:
    """Read a chord sign, or the one for no chord; None when it means nothing.

    Examples
    --------
    >>> str(parse_sign("N.C.")), str(parse_sign("Em7"))
    ('N.C.', 'Em7')
    """
    return NoChord() if text.strip() in _NO_CHORD else parse_chord(text)


def _changed(degrees: list[Degree], change: str) -> list[Degree]:
    if change.startswith("no"):
        return [degree for degree in degrees if degree.number != int(change[2:])]
    if change.startswith("add"):
        return [*degrees, Degree(int(change[3:]))]
    if change in ("sus4", "sus2"):
        return [*(degree for degree in degrees if degree.number != 3), Degree(int(change[3:]))]
    number, alter = int(change[1:]), 1 if change[0] == "#" else -1
    plain = Degree(number)
    if number in (9, 11, 13):
        # Two altered ninths stand side by side; the plain one gives way.
        kept = [degree for degree in degrees if degree != plain]
    else:
        kept = [degree for degree in degrees if degree.number != number or degree.alter == -alter != 0]
    return [*kept, Degree(number, alter)]


def parse_chord(text: str) -> Chord | None:
    """Read a chord sign; None when it means nothing.

    Examples
    --------
    >>> [str(parse_chord(sign)) for sign in ("Cmaj7", "F#-7", "Bo7", "G7(b9,b13)", "Asus", "E+")]
    ['Cmaj7', 'F#m7', 'Bdim7', 'G7b9b13', 'Asus4', 'Eaug']
    >>> parse_chord("Hm"), parse_chord("Cfoo")
    (None, None)
    """
    match = _ROOT.fullmatch(text.strip().replace("♯", "#").replace("♭", "b"))
    root = parse_tone(match[1]) if match is not None else None
    if match is None or root is None:
        return None
    rest, bass = match[2].strip(), None
    over = _BASS.fullmatch(rest)
    if over is not None:
        rest, bass = over[1], parse_tone(over[2])
    if bass == root:
        bass = None
    # The same letters may be a quality as a whole or one with changes: 7b5 or 7 with a b5. Longest first.
    for sign in _LONGEST_FIRST:
        if not rest.startswith(sign):
            continue
        changes = _read_changes(rest[len(sign) :])
        if changes is not None:
            return _canonical(Chord(root, _BY_SIGN[sign], changes, bass))
    return None


def _read_changes(text: str) -> tuple[str, ...] | None:
    left = re.sub(r"[(),\s]", "", text)
    found: list[str] = []
    while left:
        match = _CHANGE.match(left)
        if match is None:
            return None
        sign, number = match[1], match[2]
        if match[3]:
            sign, number = "sus", "4"
        word = f"{ {'+': '#', '-': 'b', 'omit': 'no'}.get(sign, sign) }{number}"
        allowed = {"add": (2, 4, 6, 9, 11, 13), "no": (1, 3, 5, 7), "sus": (2, 4)}
        key = re.sub(r"\d", "", word)
        if int(number) not in allowed.get(key, (5, 9, 11, 13, 6)):
            return None
        found.append(word)
        left = left[match.end() :]
    return tuple(dict.fromkeys(found))


def _canonical(chord: Chord) -> Chord:
    """A chord whose changes are a kind of its own, written as that kind."""
    for quality in QUALITIES.values():
        if (
            chord.changes
            and set(quality.degrees) == set(chord.degrees)
            and not chord.quality.sign.startswith("sus")
        ):
            return Chord(chord.root, quality, (), chord.bass)
    return chord


def chord_of(root: Tone, degrees: Iterable[Degree], bass: Tone | None = None) -> Chord | None:
    """The chord of these tones above a root; None where no sign says just that.

    Parameters
    ----------
    root : Tone
    degrees : iterable of Degree
    bass : Tone or None

    Examples
    --------
    >>> from dromic.music.tones import parse_degrees
    >>> str(chord_of(Tone("A"), parse_degrees("1 b3 5 b7"))), str(chord_of(Tone("G"), parse_degrees("1 3 5 9")))
    ('Am7', 'Gadd9')
    """
    wanted = set(degrees)
    for quality in QUALITIES.values():
        if set(quality.degrees) == wanted:
            return Chord(root, quality, (), bass)
    for quality in QUALITIES.values():
        more = sorted(wanted - set(quality.degrees), key=lambda degree: degree.number)
        if set(quality.degrees) < wanted and all(degree.number > 7 for degree in more):
            added = tuple(f"add{degree.number}" if not degree.alter else str(degree) for degree in more)
            chord = Chord(root, quality, added, bass)
            if set(chord.degrees) == wanted and parse_chord(str(chord)) is not None:
                return chord
    return None


def chord_on(scale_tones: tuple[Tone, ...], degree: int, count: int = 3) -> Chord | None:
    """The chord of thirds on a degree of a scale of seven tones.

    Parameters
    ----------
    scale_tones : tuple of Tone
        Of seven.
    degree : int
        From 0.
    count : int
        3 for triads, 4 for sevenths.

    Examples
    --------
    >>> tones = tuple(map(Tone, "CDEFGAB"))
    >>> [str(chord_on(tones, degree, 4)) for degree in range(7)]
    ['Cmaj7', 'Dm7', 'Em7', 'Fmaj7', 'G7', 'Am7', 'Bm7b5']
    """
    root = scale_tones[degree]
    degrees = []
    for third in range(count):
        tone = scale_tones[(degree + 2 * third) % len(scale_tones)]
        plain = Degree(1 + 2 * third)
        rise = (tone.pitch_class - root.pitch_class) % 12
        degrees.append(Degree(plain.number, (rise - plain.semitones + 6) % 12 - 6))
    return chord_of(root, degrees)
