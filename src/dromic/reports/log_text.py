"""The practice log in words, for a terminal."""

from __future__ import annotations

from dromic.formats.reading.raw import counted
from dromic.practice.log.logbook import Clean, Logbook, Rep

LAST = 12


def write_log_text(log: Logbook) -> str:
    """What a log holds: minutes by kind, and the last repetitions."""
    count = log.count()
    lines = [f"{counted(count, 'repetition')} in {log.path}"]
    if not count:
        return lines[0] + "\n"
    for kind, minutes in log.minutes().items():
        lines.append(f"{kind:<10} {minutes:7.1f} minutes")
    lines += ["", "the last ones:"]
    lines += [_line(rep) for rep in log.reps(last=LAST)]
    return "\n".join(lines) + "\n"


def _line(rep: Rep) -> str:
    clean = {Clean.CLEAN: "clean", Clean.NOT: "not clean", Clean.UNMARKED: "not marked"}[rep.clean]
    when = rep.when.astimezone().strftime("%Y-%m-%d %H:%M")
    dense = f", each string {rep.density} times" if rep.density > 1 else ""
    felt = f", hands {rep.felt} of 5" if rep.felt is not None else ""
    return f"{when}  {rep.tempo:5.0f}  {clean:<10} {rep.kind}{dense}{felt}  {rep.title}".rstrip()
