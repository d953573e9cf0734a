"""Write the manual page and the shell completions from the parser: ``python docs/write_desktop.py``."""

from __future__ import annotations

import re
from pathlib import Path

import shtab
from build_manpages.manpage import Manpage

from dromic import __version__
from dromic.cli_options import parser

FOLDER = Path(__file__).resolve().parent.parent / "src" / "dromic" / "desktop"
RELEASED = "2026-11-27"
NOTES = """.SH FILES
.TP
.I $XDG_CONFIG_HOME/dromic/settings.json
What is remembered between starts.
.TP
.I $XDG_DATA_HOME/dromic
The practice log, takes, and riffs that were left unsaved.
.SH CAUTION
Tempo ceilings are a comparison between plans, not a promise.
Stop at pain; numbness or tingling: see a doctor or a hand therapist.
"""


def manual() -> str:
    """The manual page."""
    page = Manpage(parser(), format="single-commands-section")
    # The date of the release, and not of the day on which the page is written.
    page.date, page.source, page.manual = RELEASED, f"dromic {__version__}", "Dromic"
    # A line of text that begins with a suffix would be read as a macro.
    lines = (re.sub(r"^\.(?=[a-z]+,)", r"\\&.", line.rstrip()) for line in str(page).splitlines())
    return "\n".join(lines) + "\n" + NOTES


def completions() -> dict[str, str]:
    """Completions by file name."""
    return {"dromic.bash": shtab.complete(parser(), "bash"), "_dromic": shtab.complete(parser(), "zsh")}


def main() -> None:
    """Write all of them."""
    (FOLDER / "dromic.1").write_text(manual())
    for name, text in completions().items():
        (FOLDER / name).write_text(text)


if __name__ == "__main__":
    main()
