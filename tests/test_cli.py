"""The command line as a process."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from itertools import combinations
from pathlib import Path

import pytest

from dromic import cli
from dromic.formats.files import write_riff
from dromic.formats.rifftext.reader import read_riff_text
from dromic.schools.registry import DEFAULT_SCHOOL
from tests.command_line import run_command
from tests.helpers import riff

GOOD = "title: Two\ntempo: 100\n| 5:5/8 5:7 4:5 r 5:5@1!u/2 |\n"


def run(*words: str, display: bool = False, folder: Path | None = None) -> subprocess.CompletedProcess[str]:
    env = {key: value for key, value in os.environ.items() if key not in ("DISPLAY", "WAYLAND_DISPLAY")}
    if display:
        env["DISPLAY"] = ":77"
    return run_command(*words, env=env, folder=folder)


def refused(done: subprocess.CompletedProcess[str]) -> str:
    assert done.returncode == 1
    assert done.stdout == ""
    assert done.stderr.count("\n") == 1
    assert "Traceback" not in done.stderr
    return done.stderr


@pytest.fixture
def good(tmp_path: Path) -> Path:
    path = tmp_path / "two.riff"
    path.write_text(GOOD)
    return path


def test_plan_as_text(good: Path) -> None:
    done = run("plan", str(good), "--school", "economy")
    assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout.startswith("Two\nguitar-6, E2 A2 D3 G3 B3 E4; hands: medium\nEconomy, least effort, 100")
    assert "ceiling" in done.stdout
    assert "|-5-7---" in done.stdout


def test_plan_as_json_with_every_option(good: Path) -> None:
    done = run(
        "plan", str(good), "--school", "strict-alternate", "--objective", "tempo", "--tempo", "80",
        "--instrument", "guitar-7", "--hands", "large", "--free", "strings,fingers", "--alternatives", "2",
        "--json",
    )  # fmt: skip
    assert (done.returncode, done.stderr) == (0, "")
    data = json.loads(done.stdout)
    assert data["schema"] == 1
    assert (data["school"], data["objective"], data["tempo"]) == ("strict-alternate", "tempo", 80)
    assert (data["instrument"], data["hands"]) == ("guitar-7", "large")
    assert [note["pitch"] for event in data["events"] for note in event["notes"]] == [50, 52, 55, 50]
    assert all(len(event["alternatives"]) == 2 for event in data["events"] if not event["rest"])


def test_compare_all_schools(good: Path) -> None:
    done = run("compare", str(good))
    assert (done.returncode, done.stderr) == (0, "")
    rows = done.stdout.splitlines()
    assert rows[1].split()[:5] == ["school", "ceiling", "picking", "fretting", "effort"]
    assert any(row.startswith("strict-alternate") for row in rows)
    data = json.loads(run("compare", str(good), "--json").stdout)
    assert len(data["plans"]) + len(data["refused"]) >= 12
    assert all("events" not in one for one in data["plans"])


@pytest.fixture
def scale(tmp_path: Path) -> Path:
    path = tmp_path / "scale.riff"
    path.write_text("tempo: 120\nstyle: jazz\n| G3/8 A3 B3 C4 D4 E4 F#4 G4 |\n")
    return path


def test_ways_across_the_neck(scale: Path) -> None:
    data = json.loads(run("plan", str(scale), "--families", "5", "--json").stdout)
    assert (data["style"], data["school"]) == ("jazz", "economy")
    ceilings = data["ceilings"]
    assert ceilings["both"] == data["ceiling_bpm"] <= min(ceilings["pick"], ceilings["fret"])
    found = data["families"]
    assert len(found) == 5
    assert [one["effort"] for one in found] == sorted(one["effort"] for one in found)
    assert found[0]["events"] == data["events"]
    for one in found:
        frets = [note["fret"] for event in one["events"] for note in event["notes"] if note["fret"]]
        assert one["region"] == [min(frets), max(frets)]
        assert set(one["ceilings"]) == {"pick", "fret", "both"}
    places = [
        [(note["string"], note["fret"]) for event in one["events"] for note in event["notes"]] for one in found
    ]
    assert all(sum(a != b for a, b in zip(p, q, strict=True)) >= 2 for p, q in combinations(places, 2))
    text = run("plan", str(scale), "--families", "3").stdout
    assert "1. frets " in text
    assert "3. frets " in text
    assert "picking alone" in text


def test_what_comes_again_and_is_not_played_as_before(tmp_path: Path) -> None:
    path = tmp_path / "odd.riff"
    path.write_text("tempo: 120\nmeter: 5/8\n| 5:5/8 5:7 4:5 4:7 3:5 | 5:5/8 5:7 4:5 4:7 3:5 |\n")
    told = run("plan", str(path), "--school", "strict-alternate", "--again").stdout
    assert "played otherwise when it comes again:\n  Bar 2 is bar 1 again" in told
    assert "Played as before it would cost" in told
    assert "all that comes again is played the same" in run("plan", str(path), "--again").stdout
    assert "leave out --json" in refused(run("plan", str(path), "--again", "--json"))


def test_limits_that_are_kept(scale: Path) -> None:
    asked = ("--between", "5", "9", "--no-open", "--on", "2-4", "--span", "5")
    data = json.loads(run("plan", str(scale), *asked, "--json").stdout)
    notes = [(event["position"], note) for event in data["events"] for note in event["notes"]]
    assert all(5 <= note["fret"] <= 9 and 2 <= note["string"] <= 4 for _, note in notes)
    assert all(0 <= note["fret"] - position < 5 for position, note in notes)
    data = json.loads(run("plan", str(scale), "--no-open", "--finger-per-fret", "--json").stdout)
    for event in data["events"]:
        for note in event["notes"]:
            assert note["fret"] - event["position"] == note["finger"] - 1


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        (
            ("--between", "7", "9"),
            "scale.riff:3:14: C4 at bar 1 beat 2 &: the riff cannot be played between frets 7 and 9",
        ),
        (("--on", "6"), "because of this note; on strings 5 and 6 it can be"),
        (("--between", "9", "5"), "expected a lower fret and a higher one"),
        (("--on", "0-3"), "--on: found '0', expected a number from 1 to 12"),
        (("--span", "0"), "--span: found '0'"),
        (("--style", "polka"), "style: found 'polka', expected one of rock, metal"),
    ],
)
def test_limits_that_leave_nothing_are_refused(scale: Path, asked: tuple[str, ...], says: str) -> None:
    done = run("plan", str(scale), *asked)
    assert done.returncode == 1
    assert says in done.stderr
    assert done.stderr.count("\n") == 1


def test_the_best_plans_ranked(good: Path) -> None:
    ranked = json.loads(run("plan", str(good), "--plans", "3", "--json").stdout)
    costs = [one["cost"] for one in ranked["plans"]]
    assert len(costs) == 3
    assert costs == sorted(costs)
    assert run("plan", str(good), "--plans", "2").stdout.count("ceiling ") == 2


def test_wishes_for_phrases_repeats_and_the_first_stroke(tmp_path: Path) -> None:
    file = tmp_path / "two.riff"
    file.write_text("[A] | 6:5/8 6:7 5:5 5:7 r/2 | x2 [B] | 5:5/8 5:5 5:5 5:5 r/2 |\n")
    done = run("plan", str(file), "--alike", "--first", "up", "--phrase-school", "B=downstroke-first", "--json")
    events = [event for event in json.loads(done.stdout)["events"] if not event["rest"]]
    assert events[0]["stroke"] == "up"
    assert [event["stroke"] for event in events[:4]] == [event["stroke"] for event in events[4:8]]
    assert [event["stroke"] for event in events[-4:]] == ["down"] * 4
    assert "there is no phrase 'C'" in refused(run("plan", str(file), "--phrase-school", "C=economy"))
    assert "expected a phrase and a school" in refused(run("plan", str(file), "--phrase-school", "economy"))


def test_a_plan_as_sound(good: Path, tmp_path: Path) -> None:
    out = tmp_path / "two.wav"
    done = run("render", str(good), str(out), "--tempo", "200", "--click")
    assert "1.2 s of sound at 200 quarter notes a minute" in done.stdout
    assert out.read_bytes()[:4] == b"RIFF"
    assert "cannot be written" in refused(run("render", str(good), str(tmp_path / "no" / "out.wav")))


def test_hands_of_ones_own(good: Path, tmp_path: Path) -> None:
    mine = tmp_path / "mine.json"
    mine.write_text('{"schema": 1, "name": "slow", "base": "beginner"}')
    data = json.loads(run("plan", str(good), "--hands", str(mine), "--json").stdout)
    assert data["hands"] == "slow"
    mine.write_text("{")
    assert "mine.json:1:2: this is not JSON" in refused(run("plan", str(good), "--hands", str(mine)))


def test_plan_a_loop(good: Path) -> None:
    done = run("plan", str(good), "--loop", "--json")
    assert json.loads(done.stdout)["loop"] is True


def test_a_broken_file_is_named_with_line_and_column(tmp_path: Path) -> None:
    path = tmp_path / "bad.riff"
    path.write_text("tempo: 100\n| 5:5/8 5:77 |\n")
    assert refused(run("plan", str(path))).startswith(f"{path}:2:11: found fret 77, but guitar-6 has 24 frets")


def test_no_plan_is_named_with_line_and_column(tmp_path: Path) -> None:
    path = tmp_path / "chord.riff"
    path.write_text("| r/2 6:0.b2 |\n")
    assert refused(run("plan", str(path))).startswith(
        f"{path}:1:7: 6:0 at bar 1 beat 3: an open string cannot be bent"
    )


def test_a_note_that_another_instrument_lacks(tmp_path: Path) -> None:
    path = tmp_path / "high.riff"
    path.write_text("| 1:20/1 |\n")
    message = refused(run("plan", str(path), "--instrument", "bass-4", "--free", "strings"))
    assert "C6 cannot be played on bass-4 in this tuning" in message


@pytest.mark.parametrize(
    ("words", "message"),
    [
        (["plan"], "the following arguments are required: FILE"),
        (["plan", "no.riff"], "no.riff: cannot be read: there is no such file"),
        (["plan", "."], "this is a folder"),
        (
            ["plan", "{}", "--school", "rake"],
            "option --school: school: found 'rake', expected one of bass-two-finger",
        ),
        (["plan", "{}", "--tempo", "fast"], "option --tempo: tempo: found 'fast'"),
        (["plan", "{}", "--hands", "paws"], "option --hands: hands: found 'paws'"),
        (["plan", "{}", "--instrument", "lute"], "instrument: found 'lute'"),
        (["plan", "{}", "--objective", "fun"], "--objective: found 'fun', expected effort or tempo"),
        (["plan", "{}", "--free", "time"], "--free: found 'time', expected some of strings"),
        (["plan", "{}", "--alternatives", "-3"], "--alternatives: found '-3', expected a number"),
        (["plan", "{}", "--alternatives", "many"], "--alternatives: found 'many', expected a number"),
        (["plan", "{}", "--plans", "0"], "--plans: found '0', expected a number from 1 to 50"),
        (["plan", "{}", "--first", "sideways"], "--first: found 'sideways', expected down or up"),
        (["plan", "{}", "--plans", "2", "--alike"], "plans are not ranked with identical repeats"),
        (["sing"], "there is no file and no command 'sing'"),
        ([], "there is no display to open a window on"),
    ],
    ids=lambda one: " ".join(one) if isinstance(one, list) else "",
)
def test_every_refusal_is_one_line(
    good: Path, words: list[str], message: str, capfd: pytest.CaptureFixture[str]
) -> None:
    assert cli.main([word.format(good) for word in words]) == 1
    out, err = capfd.readouterr()
    assert out == ""
    assert message in err
    assert err.count("\n") == 1


def test_help_and_version() -> None:
    assert "plan a riff and print the plan" in run("--help").stdout
    assert run("--version").stdout.startswith("dromic 0.")


def test_a_reader_that_goes_away_is_no_failure(tmp_path: Path) -> None:
    path = tmp_path / "long.riff"
    write_riff(riff("| " + "6:0/16 6:1 6:2 6:3 " * 4 + "| x40"), path)
    done = subprocess.run(
        f"{sys.executable} -m dromic plan {path} --json | head -n 1",
        shell=True,
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )
    assert (done.stdout, done.stderr) == ("{\n", "")


def test_demo_without_a_display_plans_prints_and_draws(tmp_path: Path) -> None:
    done = run("demo", folder=tmp_path)
    assert done.returncode == 0
    assert "Traceback" not in done.stderr
    for title in ("Kiln Stairs", "Millrace Reel", "Glass Ladder", "Lamplighter", "Low Tide", "Slow Ford"):
        assert title in done.stdout
    assert done.stdout.count("ceiling ") == 6
    assert "6 demo riffs were planned" in done.stdout
    picture = tmp_path / "dromic-demo.png"
    assert picture.read_bytes().startswith(b"\x89PNG")
    assert picture.stat().st_size > 30_000


def test_a_picture_that_cannot_be_written(tmp_path: Path) -> None:
    done = run("demo", "--picture", str(tmp_path / "no" / "p.png"))
    assert done.returncode == 1
    assert "no/p.png: cannot be written: there is no such file or folder; check the name" in done.stderr


BOOK = "".join(f"X:{n}\nT:{name}\nM:4/4\nL:1/4\nQ:120\nK:G\nGABc|\n" for n, name in enumerate(("Gate", "Ferry"), 1))


def test_convert_lists_parts_and_writes_one(tmp_path: Path) -> None:
    (tmp_path / "book.abc").write_text(BOOK)
    listed = run("convert", "--list", "book.abc", folder=tmp_path)
    assert listed.stdout.splitlines() == [
        "1: Gate, line 1 (taken if none is asked for)",
        "2: Ferry, line 8",
    ]
    done = run("convert", "book.abc", "out.musicxml", "--part", "2", "--plan", folder=tmp_path)
    assert done.returncode == 0
    assert done.stdout == "book.abc (ABC) written as out.musicxml\n"
    text = (tmp_path / "out.musicxml").read_text()
    assert "<work-title>Ferry</work-title>" in text
    assert text.count("-bow/>") == 4
    back = run("convert", "out.musicxml", "back.abc", folder=tmp_path)
    assert "note: strings and frets are left out" in back.stdout
    assert "T:Ferry" in (tmp_path / "back.abc").read_text()


@pytest.mark.parametrize("out", ["a.riff", "a.txt", "a.mid", "a.mxl", "a.pdf", "a.svg", "a.png", "a.csv", "a.json"])
def test_convert_to_every_kind_without_a_display(tmp_path: Path, out: str) -> None:
    (tmp_path / "two.riff").write_text(GOOD)
    done = run("convert", "two.riff", out, "--plan", folder=tmp_path)
    assert done.returncode == 0, done.stderr
    assert (tmp_path / out).stat().st_size > 60


def test_other_commands_read_every_kind_too(tmp_path: Path) -> None:
    (tmp_path / "book.abc").write_text(BOOK)
    assert run("plan", "book.abc", "--part", "2", folder=tmp_path).stdout.startswith("Ferry")


@pytest.mark.parametrize(
    ("words", "message"),
    [
        (["convert", "book.abc"], "say what to write, for example 'dromic convert book.abc out.musicxml'"),
        (["convert", "book.abc", "a.xyz"], "'.xyz' is no kind of file that can be written"),
        (["convert", "book.abc", "a.riff", "--part", "3"], "--part: found '3', expected a number from 1 to 2"),
        (["convert", "none.abc", "a.riff"], "none.abc: cannot be read: there is no such file"),
        (["convert", "book.abc", "none/a.pdf"], "none/a.pdf: cannot be written: there is no such file or folder"),
        (["convert", "wrong.mid", "a.riff"], "wrong.mid: this is no MIDI file"),
    ],
)
def test_convert_refuses_in_one_line(tmp_path: Path, words: list[str], message: str) -> None:
    (tmp_path / "book.abc").write_text(BOOK)
    (tmp_path / "wrong.mid").write_text("no")
    assert message in refused(run(*words, folder=tmp_path))


def test_a_file_that_is_neither_there_nor_a_command() -> None:
    words = refused(run("pln", "x.riff"))
    assert "there is no file and no command 'pln'" in words
    assert "plan, compare, render, convert, drills, log, play, listen, vary, desktop, demo" in words


def test_files_alone_want_the_window(good: Path) -> None:
    """There is no display here, which is what the window says, and not that the file is no command."""
    assert "there is no display to open a window on" in refused(run(str(good), str(good)))


def test_a_conversion_says_all_that_is_lost(tmp_path: Path) -> None:
    path = tmp_path / "all.riff"
    path.write_text("# a word\ntitle: All\nkey: Em\ngain: high\n[stairs]\n| 6:0!d/2 5:2^2 | # inside\n")
    for kind, lost in {
        "mid": "comments, the key, names of phrases, strokes, hand positions, strings and frets",
        "txt": "comments, the key, the gain, hand positions",
    }.items():
        done = run("convert", str(path), str(tmp_path / f"all.{kind}"))
        assert (done.returncode, done.stderr) == (0, "")
        assert f"note: left out: {lost}\n" in done.stdout
    done = run("convert", str(path), str(tmp_path / "all.musicxml"))
    assert "left out" not in done.stdout


def test_a_file_that_would_not_be_kept_whole_is_not_written_over_itself(tmp_path: Path) -> None:
    path = tmp_path / "book.abc"
    path.write_text(BOOK)
    link = tmp_path / "link.abc"
    link.symlink_to(path)
    for out in (path, link):
        done = run("convert", str(path), str(out))
        assert "would be written over itself, and what Dromic does not know of it would be lost" in refused(done)
        assert path.read_text() == BOOK
    riff_text = tmp_path / "two.riff"
    riff_text.write_text("# mine\n" + GOOD)
    assert run("convert", str(riff_text), str(riff_text)).returncode == 0
    assert "# mine" in riff_text.read_text()


def test_the_practice_log_goes_out_and_in(tmp_path: Path) -> None:
    def run_with(home: str, *arguments: str) -> subprocess.CompletedProcess[str]:
        environment = {**os.environ, "XDG_DATA_HOME": str(tmp_path / home)}
        return run_command("log", *arguments, env=environment, folder=tmp_path)

    assert run_with("one").stdout.startswith("0 repetitions in ")
    (tmp_path / "old.csv").write_text(
        "at,tempo,clean,seconds,kind,title\n2026-05-01T10:00:00+00:00,96,clean,40,spot,Kiln Stairs\n"
        "2026-05-01T10:01:00+00:00,100,not,40,spot,Kiln Stairs\n"
    )
    assert run_with("one", "import", "old.csv").stdout == "2 new repetitions from old.csv; 2 in the log\n"
    told = run_with("one").stdout
    assert "spot           1.3 minutes" in told
    assert "   96  clean      spot  Kiln Stairs" in told
    assert run_with("one", "export", "out.json").stdout == "2 repetitions written to out.json\n"
    assert run_with("two", "import", "out.json").stdout == "2 new repetitions from out.json; 2 in the log\n"
    assert run_with("two", "import", "out.json").stdout == "0 new repetitions from out.json; 2 in the log\n"
    for arguments, words in (
        (("export",), "say which file"),
        (("export", "out.txt"), "a log is written as .csv or .json"),
        (("import", "none.csv"), "no such file"),
        (("sing",), "invalid choice"),
    ):
        done = run_with("two", *arguments)
        assert (done.returncode, done.stdout) == (1, "")
        assert words in done.stderr
        assert done.stderr.count("\n") == 1
    (tmp_path / "two" / "dromic" / "practice.sqlite").write_bytes(b"broken" * 500)
    done = run_with("two")
    assert "it is kept whole as" in done.stderr
    assert done.stdout.startswith("0 repetitions in ")


def test_drills_are_a_session_for_the_minutes_there_are(tmp_path: Path) -> None:
    path, other = tmp_path / "a.riff", tmp_path / "b.riff"
    path.write_text("title: One\n| 6:5/16 5:7 6:5 5:7 6:5 5:7 6:5 5:7 1:5 1:8 1:5 1:8 1:5 1:8 1:5 1:8 |\n")
    other.write_text("title: Two\n| 3:5/16 3:7 2:5 2:7 3:5 3:7 2:5 2:7 r/2 |\n")
    environment = {**os.environ, "XDG_DATA_HOME": str(tmp_path)}

    def drills(*arguments: str) -> subprocess.CompletedProcess[str]:
        return run_command("drills", str(path), *arguments, env=environment)

    data = json.loads(drills("--minutes", "20", "--json").stdout)
    assert sum(block["minutes"] for block in data["blocks"]) == data["minutes"] == 20
    assert "warm-up" in drills().stdout
    # Looking at a session begins no log.
    assert not (tmp_path / "dromic").exists()
    for minutes in ("0", "600", "ten"):
        done = drills("--minutes", minutes)
        assert (done.returncode, done.stdout) == (1, "")
        assert "expected a number from 5 to 180" in done.stderr
    both = json.loads(drills("--minutes", "40", "--also", str(other), "--felt", "4", "--json").stdout)
    assert both["minutes"] == 24
    assert {block["title"].partition(":")[0] for block in both["blocks"] if block["riff"]} == {"One", "Two"}
    assert any(block["remarks"] for block in both["blocks"])
    assert "expected a number from 1 to 5" in drills("--felt", "9").stderr
    assert "there is no such file" in drills("--also", str(tmp_path / "none.riff")).stderr
    path.write_text("| r/1 |\n")
    assert drills().returncode == 1


# -- variations ------------------------------------------------------------------------------------------------


def test_vary_prints_five_that_are_compared(good: Path) -> None:
    done = run("vary", str(good), "--by", "order")
    assert done.returncode == 0
    assert done.stdout.startswith("The lick: ")
    assert " 1  " in done.stdout
    assert "new movement" in done.stdout


def test_vary_json_has_the_fixed_form(tmp_path: Path) -> None:
    (tmp_path / "a.riff").write_text("key: Am\n| 5:5/8 5:7 4:5 4:7 3:5 3:7 2:5 2:8 |\n")
    found = json.loads(run("vary", "a.riff", "--by", "degrees", "--all", "--json", folder=tmp_path).stdout)
    assert found["schema"] == 1
    assert len(found["variants"]) >= 4
    for one in found["variants"]:
        assert one["by"] == "degrees"
        assert set(one["ceilings"]) == {"pick", "fret", "both"}
        assert all(isinstance(one[name], int) for name in ("changed_fingers", "changed_strokes", "new_movements"))
        assert one["new_movements"] == len(one["new_movement_keys"])
        again = read_riff_text(one["riff"]).riff
        assert again.title.startswith("Lick: ")
    first = found["variants"][0]
    (tmp_path / "b.riff").write_text(first["riff"])
    planned = json.loads(run("plan", "b.riff", "--school", DEFAULT_SCHOOL, "--json", folder=tmp_path).stdout)
    assert planned["cost"] == pytest.approx(first["effort"])


@pytest.mark.parametrize(
    ("bars", "more", "message"),
    [
        ("| 5:5/4 5:7 5:5 5:7 |", ["--by", "magic"], "--by: found 'magic', expected one of keys, degrees"),
        ("| 5:5/1 |", ["--by", "keys"], "a.riff: There are too few notes to tell a key from"),
        ("| {Zm} 5:5/1 |", [], "a.riff:1:3: found '{Zm}', expected a metre, a tempo or a chord in braces"),
    ],
)
def test_vary_refuses_in_one_line(tmp_path: Path, bars: str, more: list[str], message: str) -> None:
    (tmp_path / "a.riff").write_text(bars + "\n")
    assert message in refused(run("vary", "a.riff", *more, folder=tmp_path))
