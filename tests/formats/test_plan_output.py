from __future__ import annotations

import json
from fractions import Fraction

from hypothesis import given, settings

from dromic.demo.library import demo_riffs
from dromic.errors import NoPlanError
from dromic.formats.events_csv import write_events_csv
from dromic.formats.plan_json import plan_as_dict, write_plan_json
from dromic.music.riff import Riff
from dromic.reports.plan_text import write_plan_text
from tests.helpers import line, plan, riff
from tests.strategies import short_lines

TOTALS = {
    "pick_travel_mm",
    "strings_cleared",
    "inside",
    "outside",
    "skips",
    "sweeps",
    "shifts",
    "shift_mm",
    "max_stretch_mm",
    "sync_spots",
    "finger_travel_mm",
    "doubtful_mutes",
}


def test_json_has_the_fixed_shape() -> None:
    planned = plan(riff("| r/8 5:5/8 5:7.h 5:7.t 4:5 4:5/4. |", title="A", tempo=90), "economy")
    data = json.loads(write_plan_json(planned))
    assert (data["schema"], data["title"], data["instrument"], data["tempo"]) == (1, "A", "guitar-6", 90)
    assert (data["school"], data["objective"]) == ("economy", "effort")
    assert data["tuning"] == [40, 45, 50, 55, 59, 64]
    assert set(data["totals"]) == TOTALS
    assert data["ceiling_bpm"] > 90
    for limit in data["limits"]:
        assert {"from", "to", "kind", "load", "text"} <= set(limit)
        assert limit["kind"] in ("pick", "fret", "sync")
    rest, first, hammered, tied, *_ = data["events"]
    assert rest["rest"]
    assert (rest["notes"], rest["stroke"], rest["stroke_kind"]) == ([], "none", None)
    assert first["notes"][0].keys() == {"pitch", "string", "fret", "finger"}
    assert (first["bar"], first["beat"], first["onset"], first["duration"]) == (1, "3/2", "1/2", "1/2")
    assert first["stroke"] in ("down", "up")
    assert first["stroke_kind"] in ("rest", "free")
    assert set(first["loads"]) == {"pick", "fret", "sync"}
    assert (hammered["stroke"], hammered["legato"]) == ("none", "h")
    assert (tied["stroke"], tied["rest"], tied["notes"]) == ("none", False, hammered["notes"])
    assert {mute["string"] for mute in first["mutes"]} == {1, 2, 3, 4, 6}


@given(short_lines(most=8))
@settings(max_examples=60)
def test_json_holds_every_event_in_exact_time(made: Riff) -> None:
    try:
        planned = plan(made)
    except NoPlanError:
        return
    events = plan_as_dict(planned)["events"]
    written = made.written_events()
    assert [event["index"] for event in events] == list(range(len(written)))
    onset = Fraction(0)
    for event, one in zip(events, written, strict=True):
        assert Fraction(event["onset"]) == onset
        assert Fraction(event["duration"]) == one.quarters
        onset += one.quarters


def test_a_pickup_is_bar_nought() -> None:
    events = plan_as_dict(plan(riff("| 1:0/8 | 1:1/2 1:3 |", pickup="1/8")))["events"]
    assert [(event["bar"], event["beat"]) for event in events] == [(0, "9/2"), (1, "1"), (1, "3")]


def test_text_of_a_small_plan() -> None:
    text = write_plan_text(plan(line("5:5 5:7 4:5", "8", title="Two strings", tempo=100), "strict-alternate"))
    assert text.splitlines()[:3] == [
        "Two strings",
        "guitar-6, E2 A2 D3 G3 B3 E4; hands: medium",
        "Strict alternate, least effort, 100 quarter notes a minute",
    ]
    rows = {row.split("|")[0].strip(): row for row in text.splitlines() if "|" in row}
    assert rows["A"].endswith("|-5-7---|")
    assert rows["D"].endswith("|-----5-|")
    stroke_row = next(row for row in text.splitlines() if row.startswith("stroke"))
    assert stroke_row.split()[1:] in (["d", "u", "d"], ["u", "d", "u"])
    assert "ceiling " in text
    assert "held back by" in text


def test_text_says_when_the_target_is_too_fast_and_cares_for_the_hands() -> None:
    text = write_plan_text(plan(line("6:1 1:9 6:1 1:9", tempo=300), "strict-alternate"))
    assert "The target is beyond these hands" in text
    assert "stop if anything hurts" in text


def test_text_of_a_single_note() -> None:
    assert "nothing here has to move" in write_plan_text(plan(riff("| 6:0/1 |")))


def test_every_demo_riff_fits_a_page() -> None:
    for demo in demo_riffs():
        text = write_plan_text(plan(demo.riff, demo.school, alternatives=0))
        tablature = [row for row in text.splitlines() if "|" in row]
        assert len(tablature) >= demo.riff.written_events()[0].value.base // 16 + 4
        assert max(map(len, tablature)) <= 120


def test_hand_sync_spots_come_in_words_and_by_key() -> None:
    made = plan(line("4:5@1!d 3:12@1", "8", tempo=100))
    event = plan_as_dict(made)["events"][1]
    assert "change_shift_ms" in event["spot_keys"]
    assert "string change with a shift" in event["spots"]
    assert len(event["spots"]) == len(event["spot_keys"])
    row = write_events_csv(made).splitlines()[2]
    assert "change_shift_ms" in row
