"""Geometry, pitch and the law of aimed movements against what is published."""

from __future__ import annotations

import math

import numpy as np
import pytest

from dromic.hands.constants import PickingHand
from dromic.hands.picking import pick_moves, pick_states
from dromic.instrument.geometry import fret_mm
from dromic.instrument.presets import PRESETS, instrument_named
from dromic.music.pitch import frequency, parse_pitch
from tests.helpers import not_none


def test_frets_follow_the_twelfth_root_of_two() -> None:
    """Source: twelve-tone equal temperament, any acoustics handbook."""
    for fret in range(25):
        assert fret_mm(648.0, fret) == pytest.approx(648.0 - 648.0 / 2 ** (fret / 12))
    assert fret_mm(648.0, 12) == 324.0
    assert fret_mm(648.0, 24) == 486.0


def test_frets_agree_with_the_workshop_constant() -> None:
    """Source: the luthiers' rule of 17.817, common practice: each space is the rest of the string over 17.817."""
    rest, place = 648.0, 0.0
    for fret in range(1, 25):
        place += rest / 17.817
        rest = 648.0 - place
        assert fret_mm(648.0, fret) == pytest.approx(place, abs=0.02)


def test_concert_pitch() -> None:
    """Source: ISO 16:1975, A in the treble stave 440 Hz; octaves double."""
    assert frequency(not_none(parse_pitch("A4")).midi) == 440.0
    assert frequency(not_none(parse_pitch("A3")).midi) == 220.0
    assert frequency(not_none(parse_pitch("A5")).midi) == 880.0


def test_midi_note_numbers() -> None:
    """Source: MIDI 1.0 Detailed Specification, middle C is note 60 (here called C4)."""
    assert not_none(parse_pitch("C4")).midi == 60
    assert not_none(parse_pitch("A4")).midi == 69


def test_standard_tunings() -> None:
    """Common practice, no source: open strings of guitars and basses, as frequencies players tune to."""
    hertz = {
        "guitar-6": [82.41, 110.0, 146.83, 196.0, 246.94, 329.63],
        "bass-4": [41.20, 55.0, 73.42, 98.0],
    }
    for name, wanted in hertz.items():
        found = [frequency(midi) for midi in instrument_named(name).tuning]
        assert found == pytest.approx(wanted, abs=0.01)
    assert instrument_named("guitar-7").tuning[0] == not_none(parse_pitch("B1")).midi
    assert instrument_named("guitar-8").tuning[0] == not_none(parse_pitch("F#1")).midi
    assert instrument_named("bass-5").tuning[0] == not_none(parse_pitch("B0")).midi
    assert instrument_named("bass-6").tuning[-1] == not_none(parse_pitch("C3")).midi


def test_scale_lengths() -> None:
    """From memory: 25.5 inches for guitars, 34 inches for basses."""
    assert PRESETS["guitar-6"].instrument.scale_mm == pytest.approx(25.5 * 25.4, abs=0.5)
    assert PRESETS["bass-4"].instrument.scale_mm == pytest.approx(34 * 25.4)


def test_travel_follows_fitts_law_in_its_shannon_form() -> None:
    """Source: Fitts 1954; MacKenzie 1992: time = a + b log2(D / W + 1)."""
    hand = PickingHand(turns=False)
    y = np.array([0.0, 15.0, 35.0, 75.0])
    table = pick_moves(y, pick_states(hand), hand)
    down = 0
    for string in (1, 2, 3):
        distance = y[string] - 2 * hand.half_stroke_mm
        extra = table.time_ms[down, 0, down, string] - hand.base_ms - hand.clear_ms * (string - 1)
        extra -= hand.sweep_ms + hand.skip_ms * (string - 1)
        extra -= hand.glide_ms * (distance > hand.glide_from_mm)
        assert extra == pytest.approx(hand.fitts_ms * math.log2(distance / hand.target_mm + 1))
    # With W = 5, travels of 5, 15 and 35 mm are 1, 2 and 3 bits.
    bits = [math.log2(d / hand.target_mm + 1) for d in (5.0, 15.0, 35.0)]
    assert bits == [1.0, 2.0, 3.0]
