"""What the file dialogs offer: all that can be read, saved and exported."""

from __future__ import annotations

from dromic.formats.files import RIFF_SUFFIX
from dromic.formats.project import PROJECT_SUFFIX
from dromic.formats.registry import PAPER, SUFFIXES, WRITABLE

_ALL = f"*{PROJECT_SUFFIX} " + " ".join(f"*{suffix}" for suffixes in SUFFIXES.values() for suffix in suffixes)
PROJECTS = f"Project: riff, school, hands, saved plans, notes (*{PROJECT_SUFFIX})"
OPEN_FILTER = ";;".join(
    [f"All that can be read ({_ALL})"]
    + [PROJECTS]
    + [f"{kind} ({' '.join(f'*{one}' for one in suffixes)})" for kind, suffixes in SUFFIXES.items()]
    + ["All files (*)"]
)
SAVE_FILTER = f"{PROJECTS};;Riff text alone (*{RIFF_SUFFIX});;All files (*)"
_OUT = {suffix: kind.words for suffix, kind in WRITABLE.items() if kind.words}
EXPORTS = {f"{words} (*{suffix})": suffix for suffix, words in (_OUT | PAPER).items()}
