"""What the command line asks: its options, and the request that they make."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from dataclasses import replace
from typing import Never, TypeVar

from dromic import __version__
from dromic.errors import RiffError
from dromic.formats.hands_file import read_hands
from dromic.formats.registry import PAPER, SUFFIXES, WRITABLE
from dromic.formats.rifftext.header import read_style, read_tempo
from dromic.hands.profile import PROFILES, Hands, hands_named
from dromic.instrument.presets import PRESETS
from dromic.music.riff import Riff, Stroke, Style
from dromic.planner.limits import HIGHEST_FRET, Limits
from dromic.planner.plan import Objective
from dromic.planner.request import Freedom, Request
from dromic.practice.vary.lick import WAYS
from dromic.schools.registry import DEFAULT_SCHOOL, SCHOOL_OF_STYLE, SCHOOLS, school_named
from dromic.schools.school import School

MOST_ALTERNATIVES = 50
MOST_STRINGS = 12
SCHOOL_HELP = f"{', '.join(SCHOOLS)}; else what the style is picked with, or {DEFAULT_SCHOOL}"
READABLE = tuple(suffix for suffixes in SUFFIXES.values() for suffix in suffixes)

T = TypeVar("T")


class _Parser(argparse.ArgumentParser):
    """Reports wrong options like every other failure."""

    def error(self, message: str) -> Never:
        raise RiffError(f"{message}; see '{self.prog} --help'")


def parser() -> argparse.ArgumentParser:
    """The parser of all commands."""
    parser = _Parser(
        prog="dromic",
        description="Plans pick strokes together with fret positions and fingers. Alone, opens the window.",
    )
    parser.add_argument("--version", action="version", version=f"dromic {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")
    demo = commands.add_parser(
        "demo", help="the window with the demo riffs; without a display, plans and draws them"
    )
    demo.add_argument("--picture", metavar="FILE", help="also save a picture of the window")
    plan = commands.add_parser("plan", help="plan a riff and print the plan")
    plan.add_argument("--school", metavar="NAME", help=SCHOOL_HELP)
    plan.add_argument(
        "--phrase-school",
        action="append",
        default=[],
        metavar="PHRASE=NAME",
        help="another school for one phrase; may stand several times",
    )
    plan.add_argument("--alternatives", default="0", metavar="K", help="price K other choices for every note")
    plan.add_argument(
        "--families", metavar="K", help="K really different ways across the neck, the best of each kind"
    )
    plan.add_argument(
        "--again",
        action="store_true",
        help="also say what comes again and is not played as before, and why",
    )
    plan.add_argument("--plans", default="1", metavar="K", help="print the K best plans that differ")
    compare = commands.add_parser("compare", help="plan a riff under every school and print them side by side")
    compare.set_defaults(school=None, alternatives="0", phrase_school=[])
    render = commands.add_parser("render", help="plan a riff and write it as sound")
    render.set_defaults(school=None, alternatives="0", phrase_school=[])
    render.add_argument("--click", action="store_true", help="click on every beat")
    convert = commands.add_parser("convert", help="turn a file of one kind into another")
    convert.set_defaults(school=None, alternatives="0", phrase_school=[])
    convert.add_argument("--plan", action="store_true", help="plan first, and write strokes and fingers")
    convert.add_argument("--school", metavar="NAME", help=SCHOOL_HELP)
    convert.add_argument("--list", action="store_true", help="list the parts of the file, and write nothing")
    drills = commands.add_parser("drills", help="a practice session for the minutes there are, from the plan")
    drills.set_defaults(alternatives="0", phrase_school=[])
    drills.add_argument("--school", metavar="NAME", help=SCHOOL_HELP)
    drills.add_argument("--minutes", metavar="N", default="30", help="how long it may last; 30 if not said")
    drills.add_argument("--also", metavar="FILE", action="append", default=[], help="another riff in work")
    drills.add_argument("--felt", metavar="N", help="how tight the hands feel, 1 to 5; a tight day is shorter")
    play = commands.add_parser("play", help="a take of the plan by a simulated player, and what is in it as JSON")
    play.set_defaults(alternatives="0", phrase_school=[])
    play.add_argument("--school", metavar="NAME", help=SCHOOL_HELP)
    play.add_argument("--seed", metavar="N", default="0", help="another take for another number")
    play.add_argument("--errors", metavar="LEVEL", default="light", help="none, light (if not said) or heavy")
    play.add_argument("--rounds", metavar="N", default="1", help="how often the riff is played")
    listen = commands.add_parser("listen", help="what is heard of a take: timing, loudness, attacks, ends")
    listen.set_defaults(alternatives="0", phrase_school=[])
    listen.add_argument("--school", metavar="NAME", help=SCHOOL_HELP)
    vary = commands.add_parser("vary", help="a lick in other keys, degrees, strings, rhythms, orders; easier")
    vary.set_defaults(alternatives="0", phrase_school=[])
    vary.add_argument("--school", metavar="NAME", help=SCHOOL_HELP)
    vary.add_argument("--by", metavar="WAY", help=f"one way only: {', '.join(WAYS)}")
    vary.add_argument("--all", action="store_true", help="all variations, and not the five worth most")
    for command in (plan, compare, render, convert, drills, play, listen, vary):
        _planning_options(command)
    convert.add_argument(
        "out", metavar="OUT", nargs="?", help=f"the file to write: {', '.join((*WRITABLE, *PAPER))}"
    )
    listen.add_argument("take", metavar="TAKE", help="a WAV or FLAC file of that riff")
    play.add_argument("out", metavar="OUT.wav", help="the take to write; its truth goes beside it as .json")
    render.add_argument("out", metavar="OUT.wav", help="the sound file to write")
    log = commands.add_parser(
        "log", help="the practice log: what it holds, or its repetitions out of and into a file"
    )
    log.add_argument("action", nargs="?", choices=("export", "import"), help="alone, tells what the log holds")
    log.add_argument("file", metavar="FILE", nargs="?", help="a .csv or .json file")
    desktop = commands.add_parser(
        "desktop", help="put menu entry, icon, kinds of files, manual page and completions where the desktop looks"
    )
    desktop.add_argument("action", choices=("install", "remove"), help="put them in place, or take them away")
    desktop.add_argument("--share", metavar="FOLDER", help="another share folder than the user's own")
    return parser


def _planning_options(command: argparse.ArgumentParser) -> None:
    """Add the options that all planning has."""
    command.add_argument("file", metavar="FILE", help=f"a file: {', '.join(READABLE)}")
    command.add_argument("--part", metavar="N", help="which tune, track or voice of the file; see convert --list")
    command.add_argument("--objective", default="effort", metavar="NAME", help=" or ".join(Objective))
    command.add_argument("--tempo", metavar="BPM", help="quarter notes a minute instead of the riff's own")
    command.add_argument("--instrument", metavar="NAME", help=", ".join(PRESETS))
    command.add_argument("--hands", default="medium", metavar="NAME", help=f"{', '.join(PROFILES)}, or a JSON file")
    command.add_argument("--free", default="", metavar="WHAT", help=f"take decisions back: {', '.join(Freedom)}")
    command.add_argument("--loop", action="store_true", help="the riff goes round: plan the seam too")
    command.add_argument(
        "--identical-repeats", "--alike", action="store_true", help="play every repeat of a phrase like the first"
    )
    command.add_argument("--style", metavar="NAME", help=f"{', '.join(Style)}; else told from the riff")
    command.add_argument("--between", nargs=2, metavar=("LOW", "HIGH"), help="fret between these two frets only")
    command.add_argument("--span", metavar="FRETS", help="frets that the hand may cover in a position")
    command.add_argument("--no-open", action="store_true", help="no open strings")
    command.add_argument("--on", metavar="STRINGS", help="on these strings only, such as 1,2 or 2-4")
    command.add_argument("--finger-per-fret", action="store_true", help="each finger on its own fret")
    command.add_argument("--first", metavar="STROKE", help="the first stroke: down or up")
    command.add_argument("--json", action="store_true", help="print JSON")


def in_style(request: Request, options: argparse.Namespace, riff: Riff) -> Request:
    """The request, picked as the style is that somebody named, where no school is asked for.

    Parameters
    ----------
    request : Request
    options : argparse.Namespace
    riff : Riff
    """
    style = request.style_said(riff)
    if options.school is not None or style is None:
        return request
    return replace(request, school=school_named(SCHOOL_OF_STYLE[style]))


def request_of(options: argparse.Namespace) -> Request:
    """What the options ask of the planner.

    Raises
    ------
    RiffError
        For an option that says nothing known.
    """
    if options.objective not in list(Objective):
        raise RiffError(f"--objective: found '{options.objective}', expected {' or '.join(Objective)}")
    free = frozenset(word for word in options.free.split(",") if word)
    if unknown := sorted(free - set(Freedom)):
        raise RiffError(f"--free: found '{unknown[0]}', expected some of {','.join(Freedom)}")
    strokes = {"down": Stroke.DOWN, "up": Stroke.UP}
    if options.first not in (None, *strokes):
        raise RiffError(f"--first: found '{options.first}', expected down or up")
    return Request(
        hands=_named("--hands", _hands, options.hands),
        school=_named("--school", school_named, options.school or DEFAULT_SCHOOL),
        objective=Objective(options.objective),
        tempo=None if options.tempo is None else _named("--tempo", read_tempo, options.tempo),
        loop=options.loop,
        free=frozenset(Freedom(word) for word in free),
        alternatives=count("--alternatives", options.alternatives, 0, MOST_ALTERNATIVES),
        by_phrase=dict(_phrase_school(one) for one in options.phrase_school),
        first_stroke=strokes.get(options.first),
        identical_repeats=options.identical_repeats,
        limits=_limits(options),
        style=None if options.style is None else _named("--style", read_style, options.style),
    )


def _limits(options: argparse.Namespace) -> Limits:
    low, high = options.between or ("0", str(HIGHEST_FRET))
    return Limits(
        low=count("--between", low, 0, HIGHEST_FRET),
        high=count("--between", high, 0, HIGHEST_FRET),
        span=None if options.span is None else count("--span", options.span, 1, 12),
        open_strings=not options.no_open,
        strings=None if options.on is None else _strings(options.on),
        finger_per_fret=options.finger_per_fret,
    )


def _strings(text: str) -> frozenset[int]:
    strings: set[int] = set()
    for part in text.split(","):
        first, _, last = part.strip().partition("-")
        low, high = (count("--on", one, 1, MOST_STRINGS) for one in (first, last or first))
        strings.update(range(min(low, high), max(low, high) + 1))
    return frozenset(strings)


def count(option: str, text: str, least: int, most: int) -> int:
    """Read a number within bounds.

    Parameters
    ----------
    option, text : str
    least : int
    most : int

    Raises
    ------
    RiffError
    """
    if not text.isascii() or not text.isdigit() or not least <= int(text) <= most:
        raise RiffError(f"{option}: found '{text}', expected a number from {least} to {most}")
    return int(text)


def _phrase_school(text: str) -> tuple[str, School]:
    phrase, sign, name = text.rpartition("=")
    if not sign:
        raise RiffError(f"--phrase-school: found '{text}', expected a phrase and a school, such as 'B=economy'")
    return phrase.strip(), _named("--phrase-school", school_named, name.strip())


def _named(option: str, find: Callable[[str], T], text: str) -> T:
    """Look up an option's value, naming the option where it fails."""
    try:
        return find(text)
    except RiffError as error:
        raise RiffError(f"option {option}: {error}") from None


def _hands(text: str) -> Hands:
    """Return a profile by its name, or a player's own from a JSON file."""
    return read_hands(text) if text.endswith(".json") else hands_named(text)
