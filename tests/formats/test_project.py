"""Project files: round trips, the schema, backups, versions and broken files."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import RiffError
from dromic.formats.project import (
    KeptPlan,
    Project,
    json_schema,
    project_as_data,
    project_from_bytes,
    project_from_data,
    read_project,
    write_project,
)
from dromic.hands.profile import Measures, hands_named, with_measures
from dromic.music.riff import Stroke
from dromic.planner.plan_settings import OWN_HANDS, PlanSettings
from dromic.schools.registry import SCHOOLS
from dromic.storage.writing import BACKUP

OWN = with_measures(hands_named("medium"), Measures(0.9, 1.2, 1.1))
PLAN_SETTINGS = st.builds(
    PlanSettings,
    school=st.sampled_from(list(SCHOOLS)),
    objective=st.sampled_from(["effort", "tempo"]),
    hands=st.sampled_from(["small", "medium", "large", OWN_HANDS]),
    tempo=st.one_of(st.none(), st.floats(10, 500)),
    own=st.sampled_from([None, OWN]),
    loop=st.booleans(),
    identical_repeats=st.booleans(),
    first=st.sampled_from([None, Stroke.DOWN, Stroke.UP]),
)
TEXTS = st.text(st.characters(exclude_categories=["Cs"]), max_size=40)
KEPT = st.builds(KeptPlan, TEXTS, TEXTS, PLAN_SETTINGS, st.floats(0, 1e6), st.one_of(st.none(), st.floats(1, 1e4)))
PROJECTS = st.builds(Project, TEXTS, PLAN_SETTINGS, st.lists(KEPT, max_size=3).map(tuple), TEXTS)


@given(PROJECTS)
@settings(max_examples=60)
def test_a_project_comes_back_as_it_was_written(project: Project) -> None:
    data = project_as_data(project)
    jsonschema.validate(data, json_schema(), cls=jsonschema.Draft202012Validator)
    assert project_from_bytes(json.dumps(data).encode()) == project


def test_the_schema_itself_is_one() -> None:
    jsonschema.Draft202012Validator.check_schema(json_schema())
    with pytest.raises(jsonschema.ValidationError, match="'riff' is a required property"):
        jsonschema.validate({"schema": 2}, json_schema())


def test_saving_keeps_the_last_good_one(tmp_path: Path) -> None:
    file, backup = tmp_path / "a.dromic", tmp_path / f"a.dromic{BACKUP}"
    write_project(Project("first"), file)
    assert not backup.exists()
    write_project(Project("second"), file)
    assert read_project(backup).text == "first"
    file.write_text("{ broken")
    with pytest.raises(RiffError, match=r"not JSON.*the last good one is kept as a.dromic.bak"):
        read_project(file)
    write_project(Project("third"), file)
    # What was broken does not push the good one out.
    assert read_project(backup).text == "first"
    assert read_project(file).text == "third"
    assert sorted(path.name for path in tmp_path.iterdir()) == ["a.dromic", "a.dromic.bak", "a.dromic.unreadable"]


def test_a_full_disk_costs_nothing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    file = tmp_path / "a.dromic"
    write_project(Project("first"), file)

    def full(_handle: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.fsync", full)
    with pytest.raises(RiffError, match="no space left on device; what stood there before is kept"):
        write_project(Project("second"), file)
    assert read_project(file).text == "first"


def test_the_first_version_is_brought_up_to_date() -> None:
    old = {"schema": 1, "text": "| 6:0/1 |", "path": None}
    assert project_from_data(old) == Project("| 6:0/1 |")
    assert project_from_data({**old, "school": "economy"}).plan_settings.school == "economy"


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "not JSON"),
        (b"\xff\xfe", "not UTF-8"),
        (b"[]", "no project"),
        (b"{}", "no schema version"),
        (b'{"schema": true}', "no schema version"),
        (b'{"schema": 3, "riff": ""}', "saved by a newer Dromic .its version is 3"),
        (b'{"schema": 2}', "riff: expected text"),
        (b'{"schema": 1}', "riff: expected text"),
        (b'{"schema": 2, "riff": "", "wishes": {"school": "louder"}}', "school: found 'louder', expected one of"),
        (b'{"schema": 2, "riff": "", "wishes": {"tempo": 5}}', "tempo: found '5', expected 10 to 500"),
        (b'{"schema": 2, "riff": "", "wishes": {"loop": 1}}', "loop: found '1', expected true or false"),
        (b'{"schema": 2, "riff": "", "wishes": {"first": "i"}}', "first: found 'i'"),
        (b'{"schema": 2, "riff": "", "wishes": []}', "wishes: expected names"),
        (b'{"schema": 2, "riff": "", "wishes": {"own_hands": {"schema": 9}}}', "found the schema 9"),
        (b'{"schema": 2, "riff": "", "kept": {}}', "expected a list"),
        (b'{"schema": 2, "riff": "", "kept": [1]}', "plan 1: expected names"),
        (b'{"schema": 2, "riff": "", "kept": [{"name": "a", "riff": "", "cost": "x"}]}', "cost and ceiling"),
        (b'{"schema": 2, "riff": "", "kept": [{"riff": ""}]}', "name: expected text"),
        (b'{"schema": 2, "riff": "", "notes": 7}', "notes: expected text"),
        (b'{"schema": NaN, "riff": ""}', "no project"),
        (b"[" * 100_000, "not JSON|no project"),
    ],
)
def test_broken_projects(data: bytes, words: str) -> None:
    with pytest.raises(RiffError, match=words):
        project_from_bytes(data)
