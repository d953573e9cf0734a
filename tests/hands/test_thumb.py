"""The thumb over the neck: for the bass of chords, where the player wants it."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic.errors import NoPlanError, RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.hands.constants import ThumbOver
from dromic.hands.fingers import THUMB
from dromic.hands.grips import Fretted
from dromic.hands.profile import Hands
from dromic.planner.locking import decided_riff
from dromic.planner.plan import Plan
from dromic.planner.told.reasons import model_of, reason_for
from dromic.reports.plan_text import write_plan_text
from tests.helpers import plan, riff

OVER = replace(Hands(), fretting=replace(Hands().fretting, thumb=ThumbOver.FOR_BASS))
F_MAJOR = "| (F2 C3 F3 A3 C4 F4)/1 |"


def held(made: Plan) -> tuple[Fretted, ...]:
    return made.states[0].grip.sounding


def efforts(made: Plan) -> dict[str, float]:
    return {one.words: one.amount for one in reason_for(made, 0).efforts}


def test_f_major_is_held_by_the_thumb_and_a_small_barre() -> None:
    # Common practice, no source: T 3 4 2 1 1.
    assert [finger for _, _, finger in held(plan(riff(F_MAJOR), hands=OVER))] == [THUMB, 3, 4, 2, 1, 1]


def test_d_over_f_sharp_keeps_the_fingers_of_d() -> None:
    # Common practice, no source: the thumb takes the bass, D stays as it is.
    broken = riff("| F#2.l/8 D3.l A3.l D4.l F#4.l D4.l A3.l D3.l |")
    assert {string: finger for string, _, finger in held(plan(broken, hands=OVER))} == {
        6: THUMB, 4: 0, 3: 1, 2: 3, 1: 2,
    }  # fmt: skip


def test_who_does_not_want_it_gets_no_thumb() -> None:
    assert THUMB not in {finger for _, _, finger in held(plan(riff(F_MAJOR)))}


@pytest.mark.parametrize("instrument", ["guitar-7", "bass-4"])
def test_it_does_not_come_over_wide_and_long_necks(instrument: str) -> None:
    bar = "| (7:1 6:3 5:3 4:2)/1 |" if instrument == "guitar-7" else "| (4:1 3:3 2:3)/1 |"
    made = plan(riff(bar, instrument=instrument), hands=OVER, school="downstroke-first")
    assert THUMB not in {finger for _, _, finger in held(made)}


def test_a_single_note_is_not_for_the_thumb() -> None:
    made = plan(riff("| 6:3/4 6:5 6:7 6:3 |"), hands=OVER)
    assert THUMB not in {state.finger for state in made.states}


def test_it_is_told_and_priced() -> None:
    made = plan(riff(F_MAJOR), hands=OVER)
    reason = reason_for(made, 0)
    assert "string 6 fret 1 the thumb" in reason.what
    assert efforts(made)["the thumb over the neck"] == pytest.approx(OVER.comfort.thumb_over)
    assert model_of(made).hands is OVER
    assert "T34211" in write_plan_text(made)


def test_a_lock_to_the_thumb_is_written_and_read() -> None:
    made = plan(riff(F_MAJOR), hands=OVER)
    text = write_riff_text(decided_riff(made))
    assert "6:1@T" in text
    again = plan(read_riff_text(text).riff, hands=OVER)
    assert held(again) == held(made)
    assert again.cost == pytest.approx(made.cost)


def test_a_lock_to_a_thumb_that_stays_behind_the_neck_says_what_to_do() -> None:
    with pytest.raises(NoPlanError, match="locked to the thumb, which does not come over this neck; say in Hands"):
        plan(riff("| (6:1@T 5:3 4:3)/1 |"))


def test_a_lock_to_the_thumb_elsewhere_than_on_the_bass() -> None:
    with pytest.raises(NoPlanError, match="takes only the bass of a chord, on string 6"):
        plan(riff("| (6:1 5:3@T 4:3)/1 |"), hands=OVER)


def test_an_unknown_finger_is_refused() -> None:
    with pytest.raises(RiffError, match="expected a fretting finger @1 to @4, or @T for the thumb"):
        riff("| 6:1@5 |")


def test_hands_that_are_smaller_reach_less_far_across() -> None:
    # The same shape over all strings: it opens small hands farther than large ones.
    bar = riff("| (6:3@2 5:2@1 1:3@3)/1 |")

    def effort(factor: float) -> float:
        fretting = replace(Hands().fretting, across_mm=Hands().fretting.across_mm * factor)
        hands = replace(Hands(), fretting=fretting, comfort=replace(Hands().comfort, apart=0.02))
        return efforts(plan(bar, hands=hands)).get("fingers stretched apart", 0.0)

    assert effort(0.88) > effort(1.0) > effort(1.12)
