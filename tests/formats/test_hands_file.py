from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import RiffError
from dromic.formats.hands_file import read_hands, write_hands
from dromic.hands.constants import Lean, PickingHand
from dromic.hands.profile import PROFILES, Hands, hands_named
from tests.helpers import line, plan


@pytest.mark.parametrize("hands", PROFILES.values(), ids=PROFILES)
def test_profiles_survive_the_disk(hands: Hands, tmp_path: Path) -> None:
    path = tmp_path / "hands.json"
    write_hands(hands, path)
    assert read_hands(path) == hands


def test_numbers_that_the_model_had_once_are_passed_over(tmp_path: Path) -> None:
    path = tmp_path / "mine.json"
    path.write_text('{"schema": 1, "name": "mine", "base": "small", "comfort": {"take_up": 0.1, "roll": 0.2}}')
    assert read_hands(path).comfort == replace(hands_named("small").comfort, roll=0.2)


def test_only_what_differs_has_to_be_said(tmp_path: Path) -> None:
    path = tmp_path / "mine.json"
    path.write_text('{"schema": 1, "name": "mine", "picking": {"clear_ms": 60, "lean": "down", "turns": false}}')
    hands = read_hands(path)
    wanted = PickingHand(clear_ms=60.0, lean=Lean.DOWN_ESCAPES, turns=False)
    assert hands == replace(Hands(), name="mine", picking=wanted)
    riff = line("5:5 4:5 5:7 4:7", tempo=150)
    assert plan(riff, "strict-alternate", hands=hands).cost > plan(riff, "strict-alternate").cost


BAD = [
    ("{", r"mine\.json:1:2: this is not JSON; for example"),
    ("[]", r"found the schema 'list', expected 1"),
    ('{"schema": 2}', "found the schema 2, expected 1"),
    ('{"schema": 1, "feet": {}}', "found 'feet', expected some of base, comfort"),
    ('{"schema": 1, "base": "paws"}', "hands: found 'paws', expected one of medium"),
    ('{"schema": 1, "name": 3}', "the name and the base of hands are words"),
    (r'{"schema": 1, "name": "\ud800"}', "the name of hands holds signs that cannot be shown"),
    (r'{"schema": 1, "name": "two\nlines"}', "the name of hands holds signs that cannot be shown"),
    ('{"schema": 1, "name": "  "}', "the name of hands holds signs that cannot be shown"),
    ('{"schema": 1, "picking": 3}', "picking: found int, expected names and values in braces"),
    ('{"schema": 1, "picking": {"speed": 3}}', "picking: found 'speed', expected one of half_stroke_mm"),
    (
        '{"schema": 1, "picking": {"clear_ms": -1}}',
        r"picking\.clear_ms: found -1, expected a number from 0 to 1000",
    ),
    ('{"schema": 1, "picking": {"clear_ms": true}}', r"picking\.clear_ms: found True, expected a number"),
    ('{"schema": 1, "picking": {"target_mm": 0}}', r"picking\.target_mm: found 0, expected a size in millimetres"),
    ('{"schema": 1, "picking": {"turns": 1}}', r"picking\.turns: found 1, expected true or false"),
    ('{"schema": 1, "picking": {"lean": "left"}}', r"picking\.lean: found 'left', expected up or down"),
    ('{"schema": 1, "fretting": {"spread_mm": [1]}}', r"fretting\.spread_mm: found \[1\], expected 4 numbers"),
]


@pytest.mark.parametrize(("text", "message"), BAD, ids=[text for text, _ in BAD])
def test_bad_hands_are_refused_in_words(text: str, message: str, tmp_path: Path) -> None:
    path = tmp_path / "mine.json"
    path.write_text(text)
    with pytest.raises(RiffError, match=message):
        read_hands(path)


JSON = st.recursive(
    st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=5),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from(["picking", "schema", "x"]), inner),
    max_leaves=8,
)


@given(JSON)
@settings(max_examples=100)
def test_any_json_is_read_or_refused_in_words(tmp_path_factory: pytest.TempPathFactory, data: object) -> None:
    path = tmp_path_factory.mktemp("hands") / "any.json"
    path.write_text(json.dumps(data))
    try:
        hands = read_hands(path)
    except RiffError as error:
        _is_in_words(error)
    else:
        assert hands.name


def _is_in_words(error: RiffError) -> None:
    assert error.file is not None
    assert len(error.message) > 15
