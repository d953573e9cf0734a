from __future__ import annotations

import pytest

from dromic.errors import RiffError
from dromic.music.grid import GridPlace
from dromic.music.riff import Stroke
from dromic.schools.registry import DEFAULT_SCHOOL, SCHOOLS, school_named
from dromic.schools.school import Change, Strike
from tests.helpers import line, plan, riff, strokes

D, U = Stroke.DOWN, Stroke.UP


def test_the_schools_of_this_slice_are_found() -> None:
    assert {"strict-alternate", "pulse-alternate", "economy", "least-motion"} <= set(SCHOOLS)
    assert DEFAULT_SCHOOL in SCHOOLS
    for name, school in SCHOOLS.items():
        assert school.name == name
        assert school.words.endswith(".")
    with pytest.raises(RiffError, match="school: found 'none', expected one of economy"):
        school_named("none")


@pytest.mark.parametrize(
    ("before", "after", "travel", "strict", "economy"),
    [
        (D, U, 0, True, True),
        (D, D, 0, False, False),
        (D, D, 1, False, True),
        (D, U, 1, True, False),
        (U, U, -1, False, True),
        (U, D, 2, True, True),
        (D, U, -3, True, True),
    ],
)
def test_what_may_follow(before: Stroke, after: Stroke, travel: int, strict: bool, economy: bool) -> None:
    change = Change(before, after, travel)
    assert school_named("strict-alternate").on_change(change).allowed is strict
    assert school_named("economy").on_change(change).allowed is economy
    assert school_named("least-motion").on_change(change).allowed
    assert school_named("pulse-alternate").on_change(change).allowed


@pytest.mark.parametrize(("part", "wanted"), [(0, D), (1, U), (2, D), (3, U)])
def test_the_pulse(part: int, wanted: Stroke) -> None:
    school = school_named("pulse-alternate")
    assert school.on_stroke(Strike(wanted, GridPlace(part, 4))).allowed
    assert not school.on_stroke(Strike(U if wanted is D else D, GridPlace(part, 4))).allowed
    assert school.on_stroke(Strike(wanted, GridPlace(part, 4))).reason


def test_strict_alternate_flips_over_legato_and_rests() -> None:
    assert strokes(plan(line("6:5!d 6:7.h 6:5 5:5 6:5"), "strict-alternate")) == "d-udu"
    assert strokes(plan(riff("| 6:5!d/4 r 6:5 6:5 |"), "strict-alternate")) == "dud"


def test_the_pulse_swings_on_through_rests_long_notes_and_legato() -> None:
    assert strokes(plan(riff("| 6:0/4 6:0/8 6:0 r 6:0 6:5/16 6:7.h 6:0 6:0 |"), "pulse-alternate")) == "ddddd-du"
