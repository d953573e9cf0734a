"""Instruments and tunings by name. Sizes are usual ones (common practice, from memory)."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

from dromic.errors import RiffError
from dromic.instrument.instrument import Instrument
from dromic.music.pitch import parse_pitch
from dromic.music.riff import Riff


@dataclass(frozen=True)
class Preset:
    """An instrument with a sentence that describes it."""

    instrument: Instrument
    words: str


def _midi(names: str) -> tuple[int, ...]:
    pitches = [parse_pitch(name) for name in names.split()]
    return tuple(pitch.midi for pitch in pitches if pitch is not None)


def _preset(
    name: str, words: str, tuning: str, scale: float, frets: int, nut: float, bridge: float
) -> tuple[str, Preset]:
    return name, Preset(Instrument(name, _midi(tuning), scale, frets, nut, bridge), words)


PRESETS: dict[str, Preset] = dict(
    [
        _preset("guitar-6", "guitar, six strings", "E2 A2 D3 G3 B3 E4", 648.0, 24, 35.0, 52.0),
        _preset("guitar-7", "guitar, seven strings", "B1 E2 A2 D3 G3 B3 E4", 660.4, 24, 41.5, 63.0),
        _preset("guitar-8", "guitar, eight strings", "F#1 B1 E2 A2 D3 G3 B3 E4", 685.8, 24, 48.0, 73.5),
        _preset("bass-4", "bass, four strings", "E1 A1 D2 G2", 863.6, 24, 31.0, 57.0),
        _preset("bass-5", "bass, five strings", "B0 E1 A1 D2 G2", 863.6, 24, 38.0, 72.0),
        _preset("bass-6", "bass, six strings", "B0 E1 A1 D2 G2 C3", 863.6, 24, 45.0, 85.0),
    ]
)

_NAMED_SHIFTS = {"standard": 0, "half-step-down": -1, "whole-step-down": -2}


def named_tuning(name: str, preset: Instrument) -> tuple[int, ...] | None:
    """Tuning of an instrument by name, or None when the name is not known.

    Examples
    --------
    >>> named_tuning("drop", PRESETS["guitar-6"].instrument)
    (38, 45, 50, 55, 59, 64)
    """
    if name in _NAMED_SHIFTS:
        return tuple(midi + _NAMED_SHIFTS[name] for midi in preset.tuning)
    if name == "drop":
        return (preset.tuning[0] - 2, *preset.tuning[1:])
    return None


TUNING_NAMES = (*_NAMED_SHIFTS, "drop")
LOWEST_OPEN, HIGHEST_OPEN = 12, 96


def read_tuning(text: str, preset: Instrument) -> tuple[int, ...]:
    """Read a tuning: a name, or one pitch a string from the thickest.

    Raises
    ------
    RiffError
        For an unknown name, a word that is not a pitch, or the wrong number of strings.
    """
    named = named_tuning(text, preset)
    if named is not None:
        return named
    example = "for example 'tuning: D2 A2 D3 G3 B3 E4', thickest string first"
    pitches = []
    for word in text.split():
        pitch = parse_pitch(word)
        if pitch is None:
            names = ", ".join(TUNING_NAMES)
            raise RiffError(f"tuning: found '{word}', expected a pitch such as E2 or a name ({names}); {example}")
        if not LOWEST_OPEN <= pitch.midi <= HIGHEST_OPEN:
            raise RiffError(f"tuning: no string is tuned to {word}; expected C0 to C7, {example}")
        pitches.append(pitch.midi)
    if len(pitches) != preset.strings:
        raise RiffError(
            f"tuning: found {len(pitches)} pitches, but {preset.name} has {preset.strings} strings; {example}"
        )
    return tuple(pitches)


def instrument_named(name: str) -> Instrument:
    """Return a preset's instrument.

    Raises
    ------
    RiffError
        For an unknown name.

    Examples
    --------
    >>> instrument_named("bass-4").strings
    4
    """
    if name not in PRESETS:
        raise RiffError(f"instrument: found '{name}', expected one of {', '.join(PRESETS)}")
    return PRESETS[name].instrument


def instrument_for(riff: Riff) -> Instrument:
    """Build the instrument that a riff's header asks for.

    Raises
    ------
    RiffError
        When instrument, tuning and capo do not fit together.

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> riff = read_riff_text("| 5:5/8 5:7 4:5 4:7 r/2 |").riff
    >>> instrument_for(riff).name
    'guitar-6'
    """
    return _built(riff.instrument, riff.tuning, (riff.scale, riff.nut, riff.bridge), riff.capo)


@lru_cache(maxsize=64)
def _built(name: str, tuning: str, sizes: tuple[float, float, float], capo: int) -> Instrument:
    """The instrument of a header; the same object each time, so that what was worked out for it is found."""
    instrument = instrument_named(name)
    if tuning:
        instrument = replace(instrument, tuning=read_tuning(tuning, instrument))
    scale, nut, bridge = sizes
    instrument = replace(
        instrument,
        scale_mm=scale or instrument.scale_mm,
        nut_mm=nut or instrument.nut_mm,
        bridge_mm=bridge or instrument.bridge_mm,
    )
    if not 0 <= capo <= 12:
        raise RiffError(f"capo: found {capo}, expected a fret from 0 to 12, for example 'capo: 2'")
    return replace(instrument, capo=capo)
