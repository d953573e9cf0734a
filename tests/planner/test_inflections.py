"""What a mark asks of both hands: slides in, trills, taps, harmonics, bends of a quarter tone."""

from __future__ import annotations

import pytest

from dromic.errors import NoPlanError, RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.hands.profile import hands_named
from dromic.instrument.presets import instrument_for
from dromic.music.riff import harmonic_rise
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.helpers import fingers, not_none, plan, riff, strokes


def test_a_tap_takes_no_finger_of_the_fretting_hand_and_no_stroke() -> None:
    made = plan(riff("| 1:12.T/8 1:8.p 1:5.p 1:8.h 1:12.T 1:8.p 1:5.p 1:8.h |"))
    assert strokes(made) == "-" * 8
    assert fingers(made) == "0 4 1 4 0 4 1 4"
    assert len({event.position for event in made.events}) == 1


def test_a_hand_needs_time_to_the_neck_and_back() -> None:
    tapped = plan(riff("| 1:5/8 1:12.T 1:5 1:12.T 1:5 1:12.T 1:5 1:12.T |"))
    stayed = plan(riff("| 1:5/8 1:12.T 1:8.p 1:12.T 1:8.p 1:12.T 1:8.p 1:12.T |"))
    assert not_none(tapped.ceiling) < 0.9 * not_none(stayed.ceiling)


def test_only_one_note_is_tapped_at_a_time() -> None:
    with pytest.raises(NoPlanError, match="notes are tapped one at a time"):
        plan(riff("| 1:5/4 (1:12 2:12).T r/2 |"))
    with pytest.raises(NoPlanError, match="takes no finger of the other"):
        plan(riff("| 1:5/4 1:12.T@2 r/2 |"))


def test_a_trill_leaves_a_finger_to_trill_with() -> None:
    for text in ("| 2:8.w1/1 |", "| 2:8.w2/1 |", "| 2:8.w1^5/2 2:5 |"):
        assert fingers(plan(riff(text)))[0] in "123"
    with pytest.raises(NoPlanError, match="cannot be played with finger 4"):
        plan(riff("| 2:8.w1@4/1 |"))


@pytest.mark.parametrize("mark", ["i", "bq", "v"])
def test_open_strings_cannot_be_slid_into_or_bent(mark: str) -> None:
    with pytest.raises(NoPlanError, match="an open string cannot"):
        plan(riff(f"| 3:0.{mark}/1 |"))


def test_a_slide_in_is_struck_and_may_follow_anything() -> None:
    made = plan(riff("| 6:0/4 3:7.i 3:7.i 3:9.o |"))
    assert "-" not in strokes(made)


def test_a_natural_harmonic_sounds_a_part_of_the_open_string() -> None:
    music = riff("| 6:12.n/4 5:7.n 4:5.n 1:4.n |")
    guitar = instrument_for(music)
    heights = [
        guitar.pitch_of(event.notes[0].target) + harmonic_rise(event.notes[0], event.marks)
        for event in music.written_events()
    ]
    # An octave, a twelfth, two octaves, two octaves and a third above E2, A2, D3, E4.
    assert heights == [52, 64, 74, 92]
    with pytest.raises(RiffError, match=r"one of 3, 4, 5, 7, 9, 12.*found '1:6'"):
        read_riff_text("| 1:6.n/1 |")
    with pytest.raises(RiffError, match="is written as its string and the fret"):
        read_riff_text("| E5.n/1 |")


def test_a_pinch_harmonic_wants_a_pick_and_likes_a_down() -> None:
    made = plan(riff("| 5:7/8 5:5.a 5:7 5:5.a r/2 |"), "least-motion")
    assert strokes(made)[1] + strokes(made)[3] == "dd"
    hybrid = plan_riff(
        riff("| 6:5/8 1:5.a 6:5 1:5.a r/2 |"), Request(hands_named("medium"), school_named("hybrid"))
    )
    assert {strokes(hybrid)[1], strokes(hybrid)[3]} <= {"d", "u"}


def test_marks_that_contradict_each_other() -> None:
    for marks, words in (("iT", "contradict"), ("w1b1", "contradict"), ("na", "contradict"), ("xT", "contradict")):
        with pytest.raises(RiffError, match=words):
            read_riff_text(f"| 1:5/4 1:7.{marks} r/2 |")


def test_a_loop_in_which_nothing_is_picked() -> None:
    made = plan(riff("| 1:12.h/4 1:15.h 1:12.p 1:15.h |"), loop=True)
    assert strokes(made) == "-" * 4
    assert plan(riff("| 1:12.T/4 1:15.T 1:12.T 1:15.T |"), loop=True).ceiling is not None
