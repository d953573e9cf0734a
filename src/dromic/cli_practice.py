"""The commands of practice: drills, a simulated take, listening to one, and variations of a lick."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path

from dromic.cli_options import count
from dromic.cli_reading import asked, placed
from dromic.console import (
    progress,
    say,
)
from dromic.errors import NoPlanError, RiffError
from dromic.listening.sound.player_errors import LEVELS
from dromic.listening.sound.rendering import write_wav
from dromic.listening.sound.simulated import performance, take_of
from dromic.listening.sound.voice import RATE
from dromic.listening.take import State
from dromic.planner.planning import plan_riff
from dromic.practice.log.history import History, history_of
from dromic.practice.log.logbook import Logbook, log_file
from dromic.practice.log.rates import fitted_rates
from dromic.practice.session.session import session_for
from dromic.practice.tempo.schedule import LONGEST, SHORTEST
from dromic.practice.vary.lick import WAYS
from dromic.practice.vary.variants import vary
from dromic.reports.session_text import write_session_json, write_session_text
from dromic.reports.take_json import write_take_json
from dromic.reports.variants_text import write_variants_json, write_variants_text
from dromic.storage.writing import check_kind, same_file, write_text

MOST_SEED, MOST_ROUNDS = 2**31 - 1, 100
SOUND = (".wav",)


def drills_command(options: argparse.Namespace) -> None:
    """Lay a practice session out."""
    minutes = count("--minutes", options.minutes, SHORTEST, LONGEST)
    felt = None if options.felt is None else count("--felt", options.felt, 1, 5)
    plans = []
    for file in (options.file, *options.also):
        own = argparse.Namespace(**{**vars(options), "file": file})
        request, reading, instrument = asked(own)
        try:
            with progress("planning") as watch:
                plans.append(plan_riff(reading.riff, request, instrument, watch))
        except NoPlanError as error:
            raise placed(error, reading, file) from None
    known = _history()
    try:
        session = session_for(plans, minutes, known, rates=fitted_rates(known.reps), felt=felt)
    except RiffError as error:
        raise error.in_file(options.file) from None
    say(write_session_json(session) if options.json else write_session_text(session), end="")


def play_command(options: argparse.Namespace) -> None:
    """The simulated player's take, with what is really in it beside it."""
    check_kind(options.out, SOUND, "sound")
    truth = Path(options.out).with_suffix(".json")
    for out in (Path(options.out), truth):
        if same_file(options.file, str(out)):
            raise RiffError("the riff itself would be overwritten; choose another name", file=str(out))
    if options.errors not in LEVELS:
        raise RiffError(f"--errors: found '{options.errors}', expected one of {', '.join(LEVELS)}")
    seed = count("--seed", options.seed, 0, MOST_SEED)
    rounds = count("--rounds", options.rounds, 1, MOST_ROUNDS)
    request, reading, instrument = asked(options)
    try:
        with progress("planning") as watch:
            plan = plan_riff(reading.riff, request, instrument, watch)
    except NoPlanError as error:
        raise placed(error, reading, options.file) from None
    take = take_of(performance(plan, seed, LEVELS[options.errors], rounds=rounds))
    write_wav(take.sound, options.out)
    write_text(write_take_json(take.truth), truth)
    missed = sum(note.state is State.MISSED for note in take.truth.notes)
    say(
        f"{len(take.sound) / RATE:.1f} s of a simulated player written to {options.out} (errors: {options.errors}, "
        f"{missed} of {len(take.truth.notes)} notes missed), what is in it to {truth}"
    )


def listen_command(options: argparse.Namespace) -> None:
    """What is heard of a take."""
    # They load SciPy, which the other commands do not need.
    from dromic.formats.take_audio import read_take
    from dromic.listening.hearing.review import review_of
    from dromic.reports.take_text import write_review_text

    request, reading, instrument = asked(options)
    recording = read_take(options.take)
    try:
        with progress("planning") as watch:
            plan = plan_riff(reading.riff, request, instrument, watch)
    except NoPlanError as error:
        raise placed(error, reading, options.file) from None
    try:
        with progress("listening") as watch:
            review = review_of(plan, recording, watch)
    except RiffError as error:
        raise error.in_file(options.take) from None
    if options.json:
        say(write_take_json(review.report, review.heard.remarks), end="")
    else:
        say(write_review_text(review), end="")


def vary_command(options: argparse.Namespace) -> None:
    """The lick moved on, each variation planned and compared with it."""
    if options.by is not None and options.by not in WAYS:
        raise RiffError(f"--by: found '{options.by}', expected one of {', '.join(WAYS)}")
    request, reading, instrument = asked(options)
    riff = reading.riff if instrument is None else replace(reading.riff, instrument=instrument.name)
    ways = WAYS if options.by is None else (options.by,)
    try:
        with progress("planning") as watch:
            plan = plan_riff(riff, request, watch=watch)
        with progress("varying") as watch:
            varied = vary(plan, ways, watch)
    except NoPlanError as error:
        raise placed(error, reading, options.file) from None
    except RiffError as error:
        raise error.in_file(options.file) from None
    chosen = varied.chosen(options.by, everything=options.all)
    if not chosen and varied.refusals and not options.all:
        raise RiffError(varied.refusals[0].words, file=options.file)
    say(write_variants_json(varied, chosen) if options.json else write_variants_text(varied, chosen), end="")


def _history() -> History:
    """What the practice log says; nothing where there is no log."""
    return history_of(Logbook()) if log_file().exists() else History()
