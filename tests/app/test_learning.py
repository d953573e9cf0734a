"""Learn from how I play: habits proposed, taken, and given back."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from dromic.app.window import MainWindow
from dromic.formats.rifftext.writer import write_riff_text
from dromic.hands.profile import hands_named
from dromic.planner.play_learning import proposals, with_weights
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.checks.run_learners import PLANTED, corrected, made_up, scattered
from tests.helpers import line

Wait = Callable[[], None]
REQUEST = Request(hands_named("medium"), school_named("strict-alternate"))


@pytest.fixture(scope="module")
def lanes(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    """Riffs as a player corrected them who spares the little finger."""
    chance = random.Random(2)
    player = replace(REQUEST, hands=with_weights(REQUEST.hands, PLANTED["spares the little finger"]))
    found: list[Path] = []
    while len(found) < 4:
        made = corrected(made_up(chance), REQUEST, player)
        if made is not None:
            found.append(tmp_path_factory.mktemp("lanes") / f"lane{len(found)}.riff")
            found[-1].write_text(write_riff_text(made))
    return found


def test_a_habit_is_proposed_taken_and_given_back(
    window: MainWindow, qtbot: QtBot, wait: Wait, lanes: list[Path], tmp_path: Path
) -> None:
    window.document.start(lanes[0].read_text())
    window.document.set_plan_settings(replace(window.document.plan_settings, school="strict-alternate"))
    wait()
    before = window.document.plan_settings
    window.hands_page.learn()
    dialog = window.hands_page.learn_dialog
    broken = tmp_path / "broken.riff"
    broken.write_text("| 9:99 |")
    dialog.add_files([*lanes[1:], broken])
    assert dialog.files.count() == 4
    assert "9:99" in dialog.state.text() or "string 9" in dialog.state.text()
    dialog.look.click()
    qtbot.waitUntil(lambda: not dialog.jobs.working, timeout=60_000)
    assert [one.proposal.words for one in dialog.offers] == [
        "you spare the little finger where the plan would use it"
    ]
    assert window.document.plan_settings == before
    dialog.accept_button.click()
    wait()
    own = window.document.plan_settings.player
    assert own.comfort.fourth > before.player.comfort.fourth
    window.document.undo()
    wait()
    assert window.document.plan_settings == before


def test_nothing_is_proposed_where_nothing_is_decided(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    window.document.start("| E4/8 F#4 G4 A4 B4 A4 G4 E4 |\n")
    wait()
    window.hands_page.learn()
    dialog = window.hands_page.learn_dialog
    dialog.ask()
    qtbot.waitUntil(lambda: not dialog.jobs.working, timeout=60_000)
    assert not dialog.offers
    assert "No habit stands out" in dialog.state.text()
    assert not dialog.accept_button.isEnabled()


def test_notes_decided_at_random_are_no_habit() -> None:
    chance = random.Random(11)
    riffs = [scattered(made_up(chance), REQUEST, chance) for _ in range(3)]
    assert not list(proposals(riffs, REQUEST))


def test_nothing_is_learned_of_plain_riffs() -> None:
    assert not list(proposals([line("E4 F#4 G4 A4")], REQUEST))
