from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.errors import RiffError
from dromic.instrument.presets import PRESETS, instrument_for, instrument_named, read_tuning
from dromic.music.riff import Place, Riff
from tests.helpers import plan, riff


@given(st.sampled_from(list(PRESETS)), st.integers(0, 12), st.data())
def test_every_place_sounds_its_pitch(name: str, capo: int, data: st.DataObject) -> None:
    instrument = replace(instrument_named(name), capo=capo)
    midi = data.draw(st.integers(instrument.lowest, instrument.highest))
    places = instrument.places(midi)
    assert places
    assert all(instrument.pitch(place) == midi for place in places)
    assert all(0 <= place.fret <= instrument.top_fret for place in places)


def test_tunings() -> None:
    guitar = instrument_named("guitar-6")
    assert instrument_for(Riff((), tuning="drop")).tuning == (38, 45, 50, 55, 59, 64)
    assert instrument_for(Riff((), tuning="half-step-down")).tuning == tuple(midi - 1 for midi in guitar.tuning)
    assert instrument_for(Riff((), tuning="D2 A2 D3 G3 A3 D4")).tuning == (38, 45, 50, 55, 57, 62)


def test_a_capo_moves_the_count_of_frets() -> None:
    capo = instrument_for(Riff((), capo=3))
    plain = instrument_named("guitar-6")
    assert capo.pitch(Place(1, 2)) == plain.pitch(Place(1, 5))
    assert capo.spots[2] == plain.spots[5]
    assert capo.top_fret == 21


def test_strings_lie_in_order_and_the_finger_behind_its_fret() -> None:
    for preset in PRESETS.values():
        one = preset.instrument
        assert np.all(np.diff(one.pick_y) > 5)
        lines = one.scale_mm * (1 - 2 ** (-np.arange(one.frets + 1) / 12))
        assert np.all(one.spots[1:] < lines[1:])
        assert np.all(one.spots[1:] > lines[:-1])


def test_bad_instruments() -> None:
    with pytest.raises(RiffError, match="found 'lute', expected one of guitar-6"):
        instrument_named("lute")
    with pytest.raises(RiffError, match="found 5 pitches, but guitar-6 has 6 strings"):
        read_tuning("A2 D3 G3 B3 E4", instrument_named("guitar-6"))
    with pytest.raises(RiffError, match="capo: found 15"):
        instrument_for(Riff((), capo=15))


def test_an_instrument_of_ones_own() -> None:
    made = riff("| 5:12/1 |", scale="628 mm", nut="34.5", bridge="51")
    instrument = instrument_for(made)
    assert (instrument.scale_mm, instrument.nut_mm, instrument.bridge_mm) == (628.0, 34.5, 51.0)
    assert float(instrument.spots[12]) < 314.0
    wide = plan(riff("| 6:0/8 1:0 6:0 1:0 r/2 |", bridge=70)).totals["pick_travel_mm"]
    assert wide > plan(riff("| 6:0/8 1:0 6:0 1:0 r/2 |")).totals["pick_travel_mm"]
