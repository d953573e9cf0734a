"""Promises about the whole: the core without Qt, the documents in step with the code, the demo in order."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

import pytest

from dromic.demo.library import DemoRiff, demo_riffs
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.hands.profile import Hands
from dromic.hands.style_options import constant_rows, rows_of
from dromic.music.riff import Gain, Mark
from dromic.schools.registry import SCHOOLS, school_named
from tests.helpers import plan

ROOT = Path(__file__).parent.parent
SOURCE = ROOT / "src" / "dromic"


def test_everything_but_the_window_runs_where_qt_cannot_be_imported(tmp_path: Path) -> None:
    script = tmp_path / "core.py"
    script.write_text(
        "import sys, pkgutil, importlib\n"
        "class Wall:\n"
        "    def find_spec(self, name, path=None, target=None):\n"
        "        if name.split('.')[0] in ('PyQt6', 'PySide6'):\n"
        "            raise ImportError('no Qt here')\n"
        "sys.meta_path.insert(0, Wall())\n"
        "import dromic\n"
        "names = [one.name for one in pkgutil.walk_packages(dromic.__path__, 'dromic.')\n"
        "         if not one.name.startswith('dromic.app') and one.name != 'dromic.__main__']\n"
        "for name in names: importlib.import_module(name)\n"
        "from dromic.cli import main\n"
        "assert main(['plan', sys.argv[1]]) == 0\n"
        "print(len(names))\n"
    )
    done = subprocess.run(
        [sys.executable, script, SOURCE / "demo" / "riffs" / "low-tide.riff"],
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )
    assert done.stderr == ""
    assert int(done.stdout.splitlines()[-1]) > 40


def test_the_model_page_has_every_constant_as_it_is() -> None:
    page = (ROOT / "docs" / "model.md").read_text()
    for row in constant_rows(Hands()):
        line = f"| `{row.name}` | {row.value} | {row.unit or '–'} | {row.words} | {row.source} |"
        assert line in page, f"docs/model.md wants the line {line}"
    for name, school in SCHOOLS.items():
        assert f"`{name}`" in page
        for row in rows_of(name, school.efforts) if school.efforts else ():
            line = f"| `{name}: {row.name}` | {row.value} | {row.unit} | {row.words} | {row.source} |"
            assert line in page, f"docs/model.md wants the line {line}"


def test_pictures_of_the_readme_are_there_and_all_are_shown() -> None:
    readme = (ROOT / "README.md").read_text()
    shown = set(re.findall(r"docs/screenshots/([\w-]+\.png)", readme))
    there = {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
    assert shown == there
    assert 1 <= len(there) < 20


def test_fonts_are_shipped_with_their_licences() -> None:
    fonts = {path.name for path in (SOURCE / "app" / "fonts").iterdir()}
    assert {"Cabin-Regular.otf", "Inconsolata.otf", "OFL-Cabin.txt", "OFL-Inconsolata.txt"} <= fonts


@pytest.mark.parametrize("demo", demo_riffs(), ids=lambda demo: demo.name)
def test_demo_riffs_are_well_written_and_playable(demo: DemoRiff) -> None:
    assert school_named(demo.school)
    reading = read_riff_text(demo.text)
    assert read_riff_text(write_riff_text(reading.riff)).riff == reading.riff
    planned = plan(demo.riff, demo.school)
    assert planned.ceiling is not None
    assert planned.ceiling > planned.tempo


def test_the_demo_covers_its_scenario() -> None:
    made = {demo.name: demo.riff for demo in demo_riffs()}
    assert len(made) == 6
    assert made["kiln-stairs"].tuning == "drop"
    assert any(Mark.PALM_MUTE in event.marks for event in made["kiln-stairs"].written_events())
    assert made["lamplighter"].swing.share > 0.5
    assert made["low-tide"].instrument.startswith("bass")
    ladder = plan(made["glass-ladder"])
    assert {event.notes[0].string for event in ladder.events} >= {1, 2, 3, 4, 5}
    assert len(plan(made["slow-ford"], school="hybrid").spans) == 7
    assert {one.gain for one in made.values()} <= set(Gain)
