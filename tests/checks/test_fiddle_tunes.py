"""Fiddle tunes of an open collection (see `tests.checks.fiddle`), planned on a guitar in standard tuning.

A sample: every 60th tune in the order of names; `tests/checks/run_fiddle.py` runs the whole collection.
"""

from __future__ import annotations

from functools import cache

import pytest

from dromic.music.riff import Riff, Style
from tests.checks.fiddle import at_the_places_of, paths, tune
from tests.helpers import plan


@cache
def sample() -> tuple[Riff, ...]:
    found = [tune(path) for path in paths()[::60]]
    return tuple(one.riff for one in found if one.riff is not None)


def of_meter(*names: str) -> list[Riff]:
    return [riff for riff in sample() if str(riff.meter) in names]


def test_the_sample_is_worth_its_name() -> None:
    assert len(paths()) > 1000
    assert len(sample()) >= 16
    assert len(of_meter("2/2", "4/4")) >= 4
    assert len(of_meter("6/8")) >= 3


def test_every_beat_of_a_reel_is_a_down_under_pulse_alternate() -> None:
    """Common practice, no source."""
    for riff in of_meter("2/2", "4/4", "2/4"):
        for event in plan(riff, "pulse-alternate").events:
            if event.step is not None and (event.moment.beat - 1) % riff.meter.beat == 0:
                assert str(event.stroke) == "down", (riff.title, event.moment.place_words)


def test_every_beat_of_a_jig_starts_with_a_down_and_threes_are_down_up_down() -> None:
    """Common practice, no source."""
    for riff in of_meter("6/8", "9/8"):
        planned = plan(riff, "jig")
        for event, step in ((planned.event_of_step(at), step) for at, step in enumerate(planned.task.steps)):
            if step.place.on_beat:
                assert str(event.stroke) == "down", (riff.title, event.moment.place_words)
            if step.place.parts == 3:
                assert str(event.stroke) == ("up" if step.place.part == 1 else "down")


def test_economy_clears_no_more_strings_than_strict_alternate_at_the_same_places() -> None:
    """What the school is for. Common practice, no source."""
    for riff in sample()[::2]:
        economy = plan(riff, "economy")
        strict = plan(at_the_places_of(economy), "strict-alternate")
        assert economy.totals["strings_cleared"] <= strict.totals["strings_cleared"], riff.title


def test_least_effort_costs_no_more_than_any_school() -> None:
    for riff in sample()[::5]:
        least = plan(riff, "least-motion", style=Style.BLUEGRASS).cost
        for school in ("pulse-alternate", "jig", "economy", "strict-alternate", "new-string-down"):
            assert least <= plan(riff, school, style=Style.BLUEGRASS).cost * (1 + 1e-12), (riff.title, school)


def test_metre_accents_agree_with_the_library() -> None:
    """Source: music21's beat strengths: a downbeat is strongest, and beats are stronger than what lies between."""
    import music21

    for riff in sample():
        signature = music21.meter.TimeSignature(str(riff.meter))
        planned = plan(riff, "pulse-alternate")
        for step in planned.task.steps:
            offset = float(step.moment.beat - 1)
            strength = signature.getAccentWeight(offset)
            if step.moment.beat == 1:
                assert strength == pytest.approx(1.0)
            if step.place.on_beat:
                eighth_later = signature.getAccentWeight(offset + 0.5)
                assert strength > eighth_later, (riff.title, step.moment.place_words)
