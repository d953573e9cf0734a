"""What trips hands up, and what would ring: found and named."""

from __future__ import annotations

import pytest

from dromic.hands.finger_moves import finger_travels
from dromic.hands.fretting_tables import FrettingTables
from dromic.hands.grips import Grip
from dromic.hands.profile import Hands
from dromic.hands.terms import spot_words
from dromic.instrument.presets import instrument_named
from dromic.planner.told.muting import Attack, mutes_at
from dromic.planner.told.reasons import model_of, reason_for
from tests.helpers import line, plan, riff

NINE_KINDS = [
    ("| 4:5@1!d/8 3:12@1 r/2. |", "least-motion", 1, "string change with a shift"),
    ("| 4:5@1!d/8 3:5@1 r/2. |", "least-motion", 1, "string change with a roll"),
    ("| 4:5@1^5!d/8 2:5@1^5 r/2. |", "least-motion", 1, "string change with the same finger jumping"),
    ("| 6:5!u/16 6:7 6:8 5:5!d r/2. |", "strict-alternate", 3, "a string begun against the beat"),
    ("| 2:5!d/16 1:5!d 1:8.h 2:5!u r/2. |", "least-motion", 3, "turning round after legato"),
    ("| 2:5/16 2:7.h 1:5 1:8 r/2. |", "least-motion", 2, "picking resumed after legato"),
    ("| 6:5.>!u/4 6:5!d r/2 |", "least-motion", 0, "an up on an accent"),
    ("| (6:0 5:2)/4 (5:2 4:2 3:1)/2. |", "least-motion", 1, "other fingers landing at the same time"),
    ("| 2:7@3/8 2:8 2:5.p r/8 r/2 |", "least-motion", 1, "a lower finger planted for the pull-off"),
    ("| 6:5/8 6:5 6:5/8t 6:5 6:5 r/2 |", "least-motion", 2, "another subdivision begins"),
]


@pytest.mark.parametrize(("bars", "school", "at", "name"), NINE_KINDS, ids=[name for *_, name in NINE_KINDS])
def test_each_kind_is_named_and_weighed(bars: str, school: str, at: int, name: str) -> None:
    planned = plan(riff(bars, tempo=100), school)
    assert name in spot_words(planned.events[at].spots)
    assert planned.totals["sync_spots"] >= 1


def test_the_seam_is_named() -> None:
    looped = plan(line("6:5 6:7 6:5 6:7", "8"), loop=True)
    assert "seam_ms" in looped.events[0].spots
    assert "seam_ms" not in plan(line("6:5 6:7 6:5 6:7", "8")).events[0].spots


def grip(*notes: tuple[int, int, int], held: tuple[tuple[int, int, int], ...] = ()) -> Grip:
    return Grip(notes, 5, held)


def test_what_silences_each_string() -> None:
    by = {mute.string: mute.by for mute in mutes_at(grip((4, 5, 1)), 6)}
    assert by == {
        6: "palm",
        5: "fingertip",
        3: "underside of the finger",
        2: "underside of the finger",
        1: "underside of the finger",
    }
    opened = {mute.string: mute.by for mute in mutes_at(grip((4, 0, 0)), 6)}
    assert opened[5] == opened[6] == "palm"
    assert opened[1] == "free fingers laid flat"


def test_without_a_pick_the_thumb_floats_and_an_accent_lifts_the_palm() -> None:
    floating = mutes_at(grip((2, 5, 1)), 4, attack=Attack(with_pick=False))
    assert (floating[0].string, floating[0].by) == (4, "floating thumb")
    accented = mutes_at(grip((3, 5, 1)), 6, attack=Attack(accented=True))
    assert [mute.by for mute in accented[:3]] == [
        "side of the fretting thumb",
        "free fingers laid flat",
        "fingertip",
    ]


def test_what_rang_has_to_be_stopped() -> None:
    lifted = {mute.string: mute for mute in mutes_at(grip((3, 5, 1)), 6, grip((4, 7, 3)))}
    assert (lifted[4].by, lifted[4].rang, lifted[4].doubtful) == ("finger lifting off it", True, False)
    needed = {mute.string: mute for mute in mutes_at(grip((2, 7, 3)), 6, grip((4, 7, 3)))}
    assert needed[4].by == "palm"
    ringing = {mute.string: mute for mute in mutes_at(grip((4, 0, 0)), 6, grip((1, 0, 0)))}
    assert ringing[1].doubtful
    assert not ringing[2].doubtful
    held = mutes_at(grip((2, 7, 3), held=((4, 0, 0),)), 6)
    assert 4 not in {mute.string for mute in held}


def test_an_open_string_after_a_hammer_on_needs_care() -> None:
    planned = plan(line("2:5 2:7.h 1:0 2:5", "8"))
    assert any(mute.doubtful for mute in planned.events[2].mutes)
    assert planned.totals["doubtful_mutes"] >= 1


def test_fingers_travel_from_shape_to_shape() -> None:
    guitar, hands = instrument_named("guitar-6"), Hands()
    tables = FrettingTables(guitar, hands.fretting, hands.comfort)
    e_minor = Grip(((6, 0, 0), (5, 2, 2), (4, 2, 3), (3, 0, 0), (2, 0, 0), (1, 0, 0)), 1)
    e_major = Grip(((6, 0, 0), (5, 2, 2), (4, 2, 3), (3, 1, 1), (2, 0, 0), (1, 0, 0)), 1)
    a_minor = Grip(((5, 0, 0), (4, 2, 2), (3, 2, 3), (2, 1, 1), (1, 0, 0)), 1)
    assert finger_travels(e_minor, e_minor, tables) == {2: 0.0, 3: 0.0}
    added = finger_travels(e_minor, e_major, tables)
    assert (added[2], added[3]) == (0.0, 0.0)
    assert added[1] > 0
    over = finger_travels(e_major, a_minor, tables)
    gap = float(guitar.neck_y[1] - guitar.neck_y[0])
    assert list(over.values()) == pytest.approx([gap, gap, gap])
    changes = plan(riff("| (6:0 5:2@2 4:2@3 3:1@1)/2 (5:0 4:2@2 3:2@3 2:1@1) |")).totals
    assert changes["finger_travel_mm"] == pytest.approx(3 * gap)


@pytest.mark.parametrize(
    ("notes", "words"),
    [
        ("6:5!d 5:5!u", "outside change"),
        ("6:5!d 4:5!u", "outside change with a skip of one string"),
        ("6:5!d 2:5!u", "outside change with a skip of three strings"),
        ("6:5!u 4:5!d", "inside change with a skip of one string"),
        ("6:5!d 5:5!d", "sweep down to the next string"),
        ("6:5!d 4:5!d", "down stroke carried on with a skip of one string"),
        ("4:5!d 6:5!d", "repeated down stroke: the pick has to go back over the string with a skip of one string"),
        ("5:5!d 5:7!u", "alternate strokes on one string"),
        ("5:5!d 5:7!d", "down again on one string"),
    ],
)
def test_the_way_of_the_pick_is_told_in_words(notes: str, words: str) -> None:
    made = plan(riff(f"| {notes.replace(' ', '/2 ', 1)} |", tempo=60), "least-motion")
    hands = reason_for(made, 1, model_of(made)).hands
    assert hands[0].words.startswith(words)


def test_what_holds_a_riff_back_names_the_shift_and_the_change() -> None:
    made = plan(riff("| 6:1/16 5:1 6:7 5:7 6:1 5:1 6:7 5:7 r/2 |", tempo=160))
    one, two = (made.instrument.spots[state.position] for state in made.states[1:3])
    assert made.bottlenecks[0].text == f"bar 1 beat 1 &: shift of {two - one:.0f} mm with an outside change"
