"""The command line. Every failure is one line on standard error and exit status 1, never a traceback."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from dromic.cli_options import count, in_style, parser, request_of
from dromic.cli_practice import SOUND, drills_command, listen_command, play_command, vary_command
from dromic.cli_reading import asked, part_of, placed
from dromic.console import (
    INTERRUPTED,
    OutputError,
    ends_tidily,
    forget_output,
    one_line,
    progress,
    say,
    settle_streams,
    tell,
)
from dromic.demo.library import demo_riffs
from dromic.desktop.places import install, remove, share_folder
from dromic.errors import DromicError, NoPlanError, RiffError
from dromic.formats.plan_json import write_families_json, write_plan_json, write_plans_json
from dromic.formats.reading.raw import counted
from dromic.formats.registry import (
    MUSICXML,
    PAPER,
    RIFF,
    SUFFIXES,
    of_a_plan,
    open_file,
    read_part,
    write_file,
)
from dromic.formats.rifftext.reading import Reading
from dromic.hands.profile import hands_named
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_named
from dromic.listening.sound.extent import whole
from dromic.listening.sound.rendering import render, write_wav
from dromic.planner.compare import compare_schools
from dromic.planner.families import MOST_FAMILIES, families
from dromic.planner.plan import Plan
from dromic.planner.planning import best_plans_of, plan_riff
from dromic.planner.request import Request
from dromic.planner.same_again import played_otherwise
from dromic.practice.log.exchange import export_log, import_log
from dromic.practice.log.logbook import Logbook
from dromic.reports.comparison import write_comparison_json, write_comparison_text
from dromic.reports.log_text import write_log_text
from dromic.reports.plan_text import write_families_text, write_plan_text, write_same_again_text
from dromic.schools.registry import school_named
from dromic.storage.writing import check_kind, same_file

MOST_PLANS = 50
PICTURE = "dromic-demo.png"


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line.

    Parameters
    ----------
    arguments : sequence of str or None
        None for those of the process.

    Returns
    -------
    int
        Exit status: 0, or 1 after one line on standard error.
    """
    settle_streams()
    try:
        return _run(list(sys.argv[1:] if arguments is None else arguments))
    except DromicError as error:
        tell(one_line(error))
        if isinstance(error, OutputError):
            forget_output()
        return 1
    except KeyboardInterrupt:
        tell("interrupted")
        return INTERRUPTED
    except BrokenPipeError:
        # The reader of our output went away; there is nobody left to tell.
        forget_output()
        return 1


def _run(given: list[str]) -> int:
    if given and given[0] not in _COMMANDS and not given[0].startswith("-"):
        return _window(_existing(given))
    options = parser().parse_args(given)
    commands = {
        "plan": _plan,
        "compare": _compare,
        "render": _render,
        "convert": _convert,
        "drills": drills_command,
        "play": play_command,
        "listen": listen_command,
        "vary": vary_command,
        "log": _log,
        "desktop": _desktop,
    }
    if options.command in commands:
        with ends_tidily():
            commands[options.command](options)
        return 0
    if options.command == "demo":
        return _demo(options.picture)
    return _window()


_COMMANDS = ("plan", "compare", "render", "convert", "drills", "log", "play", "listen", "vary", "desktop", "demo")


def _existing(names: Sequence[str]) -> tuple[Path, ...]:
    """Files to open in the window.

    Raises
    ------
    RiffError
        For one that is not there, which may be a command that is misspelt.
    """
    for name in names:
        if not Path(name).exists():
            raise RiffError(
                f"there is no file and no command '{name}'; the commands are {', '.join(_COMMANDS)}, "
                "see 'dromic --help'"
            )
    return tuple(Path(name) for name in names)


def _plan(options: argparse.Namespace) -> None:
    request, reading, instrument = asked(options)
    most = count("--plans", options.plans, 1, MOST_PLANS)
    if options.again and options.json:
        raise RiffError("--again is told in words; leave out --json, or ask for each by itself")
    if options.families is not None:
        _families(options, request, reading, instrument)
        return
    try:
        if most == 1:
            with progress("planning") as watch:
                plans: tuple[Plan, ...] = (plan_riff(reading.riff, request, instrument, watch),)
        else:
            plans = best_plans_of(reading.riff, request, most, instrument)
    except NoPlanError as error:
        raise placed(error, reading, options.file) from None
    if options.json:
        say(write_plan_json(plans[0]) if most == 1 else write_plans_json(plans), end="")
    else:
        say("\n".join(write_plan_text(plan) for plan in plans), end="")
    if options.again:
        with progress("comparing what comes again") as watch:
            again = tuple(played_otherwise(plans[0], request, watch))
        say("\n" + write_same_again_text(again), end="")


def _families(
    options: argparse.Namespace, request: Request, reading: Reading, instrument: Instrument | None
) -> None:
    most = count("--families", options.families, 1, MOST_FAMILIES)
    try:
        with progress("planning") as watch:
            found = families(reading.riff, request, most, instrument, watch)
    except NoPlanError as error:
        raise placed(error, reading, options.file) from None
    say(write_families_json(found) if options.json else write_families_text(found), end="")


def _compare(options: argparse.Namespace) -> None:
    request, reading, instrument = asked(options)
    with progress("comparing schools") as watch:
        comparison = compare_schools(reading.riff, request, instrument, watch)
    if not comparison.plans:
        raise RiffError(next(iter(comparison.refusals.values())), file=options.file)
    say(write_comparison_json(comparison) if options.json else write_comparison_text(comparison), end="")


def _render(options: argparse.Namespace) -> None:
    check_kind(options.out, SOUND, "sound")
    if same_file(options.file, options.out):
        raise RiffError("the riff itself would be overwritten with sound; choose another name", file=options.out)
    request, reading, instrument = asked(options)
    try:
        with progress("planning") as watch:
            plan = plan_riff(reading.riff, request, instrument, watch)
    except NoPlanError as error:
        raise placed(error, reading, options.file) from None
    extent = replace(whole(plan), click=options.click)
    write_wav(render(plan, extent), options.out)
    say(f"{extent.seconds:.1f} s of sound at {plan.tempo:.0f} quarter notes a minute written to {options.out}")


def _convert(options: argparse.Namespace) -> None:
    opened = open_file(options.file)
    if options.list:
        for number, part in enumerate(opened.source.parts, start=1):
            mark = " (taken if none is asked for)" if number - 1 == opened.source.likely else ""
            say(f"{number}: {part.name or 'untitled'}, {part.words}{mark}")
        return
    if options.out is None:
        raise RiffError(f"say what to write, for example 'dromic convert {options.file} out.musicxml'")
    asked_part = part_of(options, len(opened.source.parts))
    number = opened.source.likely if asked_part is None else asked_part
    brought = read_part(opened, number, name=options.file)
    plan, origin = None, None
    suffix = Path(options.out).suffix.lower()
    keeps_all = opened.kind == RIFF or (opened.kind == MUSICXML and options.plan)
    if same_file(options.file, options.out) and not (keeps_all and suffix in SUFFIXES[opened.kind]):
        raise RiffError(
            "the file would be written over itself, and what Dromic does not know of it would be lost; "
            "choose another name",
            file=options.out,
        )
    if options.plan or of_a_plan(suffix):
        request = in_style(request_of(options), options, brought.riff)
        asked = instrument_named(options.instrument) if options.instrument else None
        try:
            with progress("planning") as watch:
                plan = plan_riff(brought.riff, request, asked, watch)
        except NoPlanError as error:
            raise RiffError(error.message, file=options.file) from None
        origin = (opened.data, number) if opened.kind == MUSICXML else None
    if suffix in PAPER and plan is not None:
        _draw_paper(plan, Path(options.out))
        remarks: tuple[str, ...] = ()
    else:
        remarks = write_file(options.out, brought.riff, plan, origin)
    for remark in (*brought.remarks, *remarks):
        say(f"note: {remark}")
    say(f"{options.file} ({opened.kind}) written as {options.out}")


def _log(options: argparse.Namespace) -> None:
    if options.action is not None and options.file is None:
        raise RiffError(f"say which file, for example 'dromic log {options.action} practice.csv'")
    log = Logbook()
    if log.set_aside is not None:
        tell(f"note: the log could not be read; it is kept whole as {log.set_aside}, and a new one is begun")
    if options.action == "export":
        say(f"{counted(export_log(log, options.file), 'repetition')} written to {options.file}")
    elif options.action == "import":
        new = import_log(log, options.file)
        say(f"{counted(new, 'new repetition')} from {options.file}; {log.count()} in the log")
    else:
        say(write_log_text(log), end="")


def _draw_paper(plan: Plan, path: Path) -> None:
    """Draw the practice sheet or a picture of the chart, with no window."""
    if not has_display():
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    with _qt():
        from dromic.app.chart.frame import View
        from dromic.app.paper.printing import save_paper
        from dromic.app.start import application
        from dromic.app.theme import LIGHT
    # Kept until everything is drawn: fonts need it.
    running = application()
    save_paper(plan, path, LIGHT, View())
    running.processEvents()


def has_display() -> bool:
    """Whether a window can be shown to somebody."""
    if os.environ.get("QT_QPA_PLATFORM") in ("offscreen", "minimal"):
        return False
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def _desktop(options: argparse.Namespace) -> None:
    share = Path(options.share) if options.share else share_folder()
    if options.action == "install":
        for path in install(share):
            say(str(path))
        say("Dromic is in the menu now; 'dromic desktop remove' takes it out again.")
        return
    removed = remove(share)
    say(f"{len(removed)} files taken away" if removed else f"nothing of Dromic is in {share}")


def _window(files: Sequence[Path] = ()) -> int:
    if not has_display():
        raise RiffError(
            "there is no display to open a window on; set DISPLAY or WAYLAND_DISPLAY, or use 'dromic plan FILE'"
        )
    with _qt():
        from dromic.app.single_instance import handed_over
    if handed_over(files):
        return 0
    with _qt():
        from dromic.app.start import run
    return run(demo=False, files=files)


def _demo(picture: str | None) -> int:
    if has_display():
        with _qt():
            from dromic.app.start import run
        return run(demo=True, picture=Path(picture) if picture else None)
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    with _qt():
        from dromic.app.start import save_picture
    riffs = demo_riffs()
    for demo in riffs:
        request = Request(hands_named("medium"), school_named(demo.school))
        say(write_plan_text(plan_riff(demo.riff, request)))
    path = Path(picture or PICTURE)
    save_picture(path)
    say(f"There is no display here: {len(riffs)} demo riffs were planned, and the window is drawn in {path}.")
    return 0


@contextmanager
def _qt() -> Iterator[None]:
    """Around imports of the window, which are late because Qt takes time and may be missing."""
    try:
        yield
    except ImportError as error:
        raise RiffError(
            f"the window cannot start, because Qt does not load ({error}); './run demo' installs what it needs"
        ) from None
