"""What a screen reader finds, read over AT-SPI 2 as a screen reader reads it, under Xvfb."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

NEEDED = ("xvfb-run", "dbus-run-session")
LAUNCHERS = ("/usr/libexec/at-spi-bus-launcher", "/usr/lib/at-spi2-core/at-spi-bus-launcher")


@pytest.fixture(scope="module")
def stages(tmp_path_factory: pytest.TempPathFactory) -> dict[str, list[dict[str, Any]]]:
    pytest.importorskip("jeepney")
    if not all(shutil.which(one) for one in NEEDED) or not any(Path(one).exists() for one in LAUNCHERS):
        pytest.skip("needs xvfb, dbus and at-spi2-core")
    place = str(tmp_path_factory.mktemp("home"))
    command = ["xvfb-run", "-a", "-s", "-screen 0 1400x900x24", "dbus-run-session", "--"]
    done = subprocess.run(
        [*command, sys.executable, "-m", "tests.checks.accessible_window"],
        capture_output=True,
        text=True,
        timeout=240,
        check=False,
        cwd=Path(__file__).parent.parent.parent,
        env=os.environ
        | {
            "QT_QPA_PLATFORM": "xcb",
            "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1",
            "XDG_CONFIG_HOME": place,
            "XDG_DATA_HOME": place,
        },
    )
    lines = done.stdout.strip().splitlines()
    if done.returncode != 0 or not lines:
        pytest.fail(f"the window could not be read: {done.stderr[-2000:]}")
    found: dict[str, list[dict[str, Any]]] = json.loads(lines[-1])
    return found


def test_everything_that_takes_the_keys_has_a_name(stages: dict[str, list[dict[str, Any]]]) -> None:
    for stage, things in stages.items():
        assert len(things) > 50, stage
        nameless = [one["role"] for one in things if one["focusable"] and one["showing"] and not one["name"]]
        assert not nameless, f"{stage}: {nameless}"


@pytest.mark.parametrize(
    ("stage", "name", "told"),
    [
        ("Riff", "Riff board", "note"),
        ("Plan", "Movement chart", "bar"),
        ("Plan", "Overview of the riff", "show"),
        ("Plan", "Neck", "string"),
    ],
)
def test_what_is_drawn_says_what_it_shows(
    stages: dict[str, list[dict[str, Any]]], stage: str, name: str, told: str
) -> None:
    drawn = [one for one in stages[stage] if one["name"] == name and one["showing"]]
    assert drawn, f"{stage} shows no '{name}'"
    assert told in drawn[0]["description"]


def test_every_stage_and_menu_can_be_reached(stages: dict[str, list[dict[str, Any]]]) -> None:
    names = {one["name"] for one in stages["Plan"]}
    assert {"Riff", "Plan", "Compare", "Practice", "Listen", "Log", "Hands"} <= names
    assert {"File", "Edit", "View", "Help"} <= names
