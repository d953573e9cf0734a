"""Facts of the trade: small riffs, and what players do with them.

Common practice, no source, unless a test says otherwise. Each fact is tried at several places and tempi.
"""

from __future__ import annotations

from itertools import pairwise

import pytest

from dromic.instrument.presets import instrument_named
from dromic.music.pitch import pitch_name
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from tests.helpers import fingers, line, not_none, plan, riff, strokes


def gap_ms(planned: Plan, step: int) -> float:
    return planned.task.links[step].gap_ms


@pytest.mark.parametrize(("tempo", "a_second", "gap"), [(140, 9.33, 107), (120, 8.0, 125), (180, 12.0, 83)])
def test_sixteenths_at_a_tempo(tempo: int, a_second: float, gap: float) -> None:
    """Sixteenths at T beats a minute are 4T/60 notes a second; 140 gives 9.33, gaps of 107 ms."""
    planned = plan(line("6:0 6:0 6:0", tempo=tempo))
    assert gap_ms(planned, 0) == pytest.approx(gap, abs=0.5)
    assert 1000 / gap_ms(planned, 0) == pytest.approx(a_second, abs=0.01)


GALLOP = "{0}/8 {0}/16 {0} {0}/8 {0}/16 {0} {0}/8 {0}/16 {0} {0}/8 {0}/16 {0}"


@pytest.mark.parametrize("note", ["6:0.m", "5:0.m", "6:5.m"])
@pytest.mark.parametrize("tempo", [100, 140])
def test_a_gallop_is_down_down_up(note: str, tempo: int) -> None:
    made = riff(f"| {GALLOP.format(note)} |", tempo=tempo)
    assert strokes(plan(made, "pulse-alternate")) == "ddu" * 4


def sweep(root_fret: int, tempo: int, instrument: str = "guitar-6") -> Riff:
    """The five-string major arpeggio from the fifth string, as bare pitches with a pull-off at the top."""
    tuning = instrument_named(instrument).tuning
    frets = [(5, 0), (4, -1), (3, -3), (2, -2), (1, -3), (1, 0)]
    up = [pitch_name(tuning[len(tuning) - string] + root_fret + step) for string, step in frets]
    down = up[-2::-1]
    return line(" ".join([*up, f"{down[0]}.p", *down[1:]]), tempo=tempo, instrument=instrument)


@pytest.mark.parametrize(("tempo", "lowest"), [(120, 9), (160, 8)])
def test_the_five_string_sweep(tempo: int, lowest: int) -> None:
    """Frets r r-1 r-3 r-2 r-3 r; downs up to the first string, one up, a pull-off, then ups.

    Fingers 3 2 1 2 1 3, or one finger a fret, 4 3 1 2 1 4; both are taught.
    """
    for root in range(lowest, 17):
        planned = plan(sweep(root, tempo))
        expected = [(5, 0), (4, -1), (3, -3), (2, -2), (1, -3), (1, 0)]
        found = [(event.notes[0].string, event.notes[0].fret - root) for event in planned.events]
        assert found == [*expected, *expected[-2::-1]]
        assert fingers(planned) in ("3 2 1 2 1 3 1 2 1 2 3", "4 3 1 2 1 4 1 2 1 3 4")
        assert strokes(planned) == "dddddu-uuuu"


@pytest.mark.parametrize("fret", [3, 5, 7, 10])
@pytest.mark.parametrize("tempo", [100, 140, 180])
def test_economy_takes_three_notes_a_string_down_up_down(fret: int, tempo: int) -> None:
    notes = " ".join(f"{string}:{fret + step}" for string in (6, 5, 4, 3) for step in (0, 2, 4))
    planned = plan(line(notes + " 2:5", count=13, tempo=tempo), "economy")
    assert strokes(planned)[:12] == "dud" * 4


@pytest.mark.parametrize("fret", [2, 5, 9])
@pytest.mark.parametrize("tempo", [90, 130])
def test_two_notes_a_string_flow_because_every_change_follows_an_up(fret: int, tempo: int) -> None:
    notes = " ".join(f"{string}:{fret + step}" for string in (6, 5, 4, 3, 2) for step in (0, 3))
    planned = plan(line(notes, count=10, tempo=tempo), "strict-alternate")
    assert strokes(planned) == "du" * 5
    changes = [link for link in range(9) if planned.states[link].string != planned.states[link + 1].string]
    assert len(changes) == 4
    for link in changes:
        assert strokes(planned)[link] == "u"
        assert planned.states[link].escape == planned.states[link].stroke


@pytest.mark.parametrize("tempo", [160, 200, 240])
def test_all_four_beats_of_a_reel_are_downs(tempo: int) -> None:
    made = riff("| G3/8 A3 B3 D4 E4 D4 B3 D4 | G4/4 E4/8 D4 B3 D4 r G4 |", tempo=tempo)
    for event in plan(made, "pulse-alternate").events:
        if not event.rest:
            on_beat = event.moment.beat.denominator == 1
            assert str(event.stroke) == ("down" if on_beat else "up")


CLOSED_SCALE = "2 4 1 2 4 1 3 4 3 1 4 2 1 4 2"


@pytest.mark.parametrize("fret", range(3, 12))
@pytest.mark.parametrize("string", [4, 3])
def test_the_closed_bass_scale(fret: int, string: int) -> None:
    """A closed one-octave major scale: 2-4, 1-2-4, 1-3-4, up and back with the same fingers."""
    up = [(string, 0), (string, 2), (string - 1, -1), (string - 1, 0), (string - 1, 2)]
    up += [(string - 2, -1), (string - 2, 1), (string - 2, 2)]
    notes = " ".join(f"{one}:{fret + step}" for one, step in [*up, *up[-2::-1]])
    planned = plan(line(notes, "8", tempo=120, instrument="bass-4"))
    assert fingers(planned) == CLOSED_SCALE


@pytest.mark.parametrize("fret", [2, 4, 6])
@pytest.mark.parametrize("tempo", [100, 140])
def test_one_finger_per_fret(fret: int, tempo: int) -> None:
    notes = " ".join(f"{string}:{fret + step}" for string in (4, 3) for step in range(4))
    assert fingers(plan(line(notes, tempo=tempo))) == "1 2 3 4 1 2 3 4"


def test_open_strings_buy_time_for_a_shift() -> None:
    """The ceiling of a far shift is higher when an open string sounds on the way."""
    closed = plan(line("1:3 1:5 1:12 1:14", tempo=120), objective="tempo")
    opened = plan(line("1:3 1:5 1:0 1:12 1:14", tempo=120), objective="tempo")
    assert not_none(opened.ceiling) > not_none(closed.ceiling)


@pytest.mark.parametrize("fret", [5, 9])
def test_economy_never_clears_more_strings_than_strict_alternate(fret: int) -> None:
    notes = " ".join(f"{string}:{fret + step}" for string in (5, 4, 3, 2, 1) for step in (0, 2, 3))
    made = line(notes, count=15, tempo=120)
    economy, strict = plan(made, "economy").totals, plan(made, "strict-alternate").totals
    assert economy["strings_cleared"] < strict["strings_cleared"]
    assert economy["pick_travel_mm"] < strict["pick_travel_mm"]


@pytest.mark.parametrize("school", ["strict-alternate", "economy", "least-motion"])
@pytest.mark.parametrize("tempo", [80, 200])
def test_one_string_is_picked_down_and_up(school: str, tempo: int) -> None:
    found = strokes(plan(line("6:0 6:0 6:0 6:0 6:0 6:0", tempo=tempo), school))
    assert all(one != two for one, two in pairwise(found))


def test_odd_counts_start_the_next_string_on_the_other_stroke() -> None:
    """Under strict alternate, three notes a string start down, up, down, up."""
    notes = " ".join(f"{string}:{fret}" for string in (6, 5, 4, 3) for fret in (5, 7, 9))
    found = strokes(plan(line(notes, count=12, tempo=110), "strict-alternate"))
    assert len({found[0], found[3]}) == len({found[3], found[6]}) == len({found[6], found[9]}) == 2


def test_the_same_finger_bends_as_players_do() -> None:
    """A whole-step bend is taken by the third finger, with two fingers behind it."""
    for fret in (7, 9, 12):
        assert fingers(plan(line(f"2:{fret}.b2 2:{fret}.r", "4"))) == "3 3"
