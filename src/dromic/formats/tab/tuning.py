"""Text tablature, the strings: instrument and tuning of a page, and which strings the lines of a system are.

Players often write only the strings that a riff needs. Letters tell which those are; lines without letters are
taken as the upper strings.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from dromic.formats.reading.raw import Remarks
from dromic.formats.tab.page import LEAST_STRINGS, System
from dromic.instrument.presets import PRESETS, instrument_named, named_tuning
from dromic.music.pitch import parse_pitch, pitch_name

_PRESET_OF = {4: ("bass-4",), 5: ("bass-5",), 6: ("guitar-6", "bass-6"), 7: ("guitar-7",), 8: ("guitar-8",)}
# What fewer lines than strings may be a part of.
_WHOLE = ("guitar-6", "guitar-7")


@dataclass(frozen=True)
class Strings:
    """How the lines of a page are to be read.

    Parameters
    ----------
    instrument : str
        Name of the preset.
    tuning : str
        As riff text has it; empty for the usual one.
    flipped : bool
        Whether the thick string is on top.
    letters : tuple of str
        Of all strings, the thin one first.
    """

    instrument: str
    tuning: str
    flipped: bool
    letters: tuple[str, ...]

    def first(self, system: System) -> int | None:
        """Number of the string that the thinnest line of a system is; None when the lines are other strings."""
        spare = len(self.letters) - len(system.lines)
        if spare < 0:
            return None
        if not all(system.labels):
            return 1
        labels = _plain(system.labels[::-1] if self.flipped else system.labels)
        wanted = _classes(labels)
        places = [at for at in range(spare + 1) if _classes(self.letters[at : at + len(labels)]) == wanted]
        # A capital E by itself is the thick string.
        thick = len(labels) == 1 and system.labels[0][0].isupper()
        if places:
            return places[-1 if thick else 0] + 1
        return None if spare else 1


def strings_of(systems: Sequence[System], words: str, remarks: Remarks) -> Strings:
    """Find instrument and tuning from the letters before the lines, else from the words around.

    Parameters
    ----------
    systems : sequence of System
    words : str
    remarks : Remarks
    """
    wide = [len(system.lines) for system in systems if len(system.lines) >= LEAST_STRINGS]
    if not wide:
        remarks.add("only some strings are written; a guitar in its usual tuning is assumed")
        return _strings(_WHOLE[0], "", flipped=False)
    usual = Counter(wide).most_common(1)[0][0]
    # A system that is wider than most is believed when all its lines have letters.
    count = max([usual, *(len(system.lines) for system in systems if all(system.labels))])
    letters = next((_plain(one.labels) for one in systems if len(one.lines) == count and all(one.labels)), [])
    if not letters:
        match = re.search(r"tun(?:ing|ed)?[^\n:]*:?\s*((?:[A-G][#b]?\d?[\s,-]*){4,8})", words)
        found = re.findall(r"[A-G][#b]?", match[1]) if match is not None else []
        letters = found[::-1] if len(found) == count else []
    if not letters:
        name = _PRESET_OF[count][0]
        remarks.add(f"no tuning is written; the usual one of {name} is assumed")
        drop = re.search(r"drop\s*-?\s*d\b", words, re.IGNORECASE)
        return _strings(name, "drop" if drop and name == "guitar-6" else _shifted(words), flipped=False)
    far, found_strings = _nearest(_PRESET_OF[count], letters)
    part = _part_of_a_guitar(letters) if far else None
    found_strings = part or found_strings
    # Letters of the usual tuning are often left as they are where the words say that it is lower.
    return found_strings if found_strings.tuning else replace(found_strings, tuning=_shifted(words))


def _shifted(words: str) -> str:
    """The tuning that words such as `tune down 1/2 step` say; empty for the usual one."""
    match = re.search(
        r"(?:\b(half|whole|full|one)|(1/2)|\b(1))[\s-]*(?:a\s+)?(?:steps?|tones?)\b", words, re.IGNORECASE
    )
    if match is None or not re.search(r"\b(?:down|lower|flat)", words, re.IGNORECASE):
        return ""
    half = (match[1] or "").lower() == "half" or match[2]
    return "half-step-down" if half else "whole-step-down"


def _nearest(names: Sequence[str], letters: Sequence[str]) -> tuple[int, Strings]:
    """The preset and the way up whose usual tuning the letters are nearest to."""
    best: tuple[int, str, tuple[int, ...], bool] | None = None
    for name in names:
        usual = PRESETS[name].instrument.tuning
        for flipped in (False, True):
            order = letters if flipped else letters[::-1]
            pitches = tuple(_near(letter, midi) for letter, midi in zip(order, usual, strict=True))
            far = sum(abs(pitch - midi) for pitch, midi in zip(pitches, usual, strict=True))
            if best is None or far < best[0]:
                best = (far, name, pitches, flipped)
    assert best is not None
    far, name, pitches, flipped = best
    if pitches == instrument_named(name).tuning:
        return far, _strings(name, "", flipped=flipped)
    if pitches == named_tuning("drop", PRESETS[name].instrument):
        return far, _strings(name, "drop", flipped=flipped)
    flats = any("b" in letter for letter in letters)
    return far, _strings(name, " ".join(pitch_name(pitch, flats=flats) for pitch in pitches), flipped=flipped)


def _part_of_a_guitar(letters: Sequence[str]) -> Strings | None:
    """A guitar in its usual tuning, of which these are neighbouring strings."""
    for name in _WHOLE:
        for flipped in (False, True):
            strings = _strings(name, "", flipped=flipped)
            wanted = _classes(letters[::-1] if flipped else letters)
            if any(
                _classes(strings.letters[at : at + len(wanted)]) == wanted
                for at in range(len(strings.letters) - len(wanted) + 1)
            ):
                return strings
    return None


def _strings(name: str, tuning: str, *, flipped: bool) -> Strings:
    named = named_tuning(tuning or "standard", instrument_named(name))
    pitches = tuning.split() if named is None else [pitch_name(midi) for midi in named]
    return Strings(name, tuning, flipped, tuple(re.sub(r"-?\d+$", "", pitch) for pitch in pitches[::-1]))


def _plain(labels: Sequence[str]) -> list[str]:
    return [label[:1].upper() + label[1:].replace("♯", "#").replace("♭", "b") for label in labels]


def _classes(letters: Sequence[str]) -> list[int]:
    return [_near(letter, 60) % 12 for letter in letters]


def _near(letter: str, midi: int) -> int:
    """The pitch of a letter that is nearest to another."""
    pitch = parse_pitch(f"{letter}4")
    wanted = pitch.midi % 12 if pitch is not None else midi % 12
    return midi + (wanted - midi + 6) % 12 - 6
