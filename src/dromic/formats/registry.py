"""One door for every format: what a file holds is found by its name and its first bytes, and read in parts.

The window, the command line and the tests all come through here. A format is an entry in `SUFFIXES` and `_READERS`
or in `WRITABLE`; dialogs and command line follow. What reads and writes a kind is loaded when it is asked for.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from dromic.errors import RiffError
from dromic.formats.events_csv import write_events_csv
from dromic.formats.files import RIFF_SUFFIX
from dromic.formats.plan_json import write_plan_json
from dromic.formats.project import PROJECT_SUFFIX, project_from_bytes
from dromic.formats.reading.losses import losses, with_losses
from dromic.formats.reading.raw import Imported, Part, Source, counted
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.formats.tab.reader import looks_like_tab, tab_source
from dromic.music.riff import Riff
from dromic.planner.locking import decided_riff
from dromic.planner.plan import Plan
from dromic.storage.reading import LARGEST_BYTES, decoded, read_bytes
from dromic.storage.writing import Wanted, always, write_bytes

LARGEST_PACKED = 16 * 2**20
RIFF, MUSICXML, MIDI, ABC, TAB = "riff text", "MusicXML", "MIDI", "ABC", "text tablature"
SUFFIXES = {
    RIFF: (RIFF_SUFFIX,),
    MUSICXML: (".musicxml", ".xml", ".mxl"),
    MIDI: (".mid", ".midi"),
    ABC: (".abc",),
    TAB: (".tab", ".txt"),
}
PROJECT = "project"
_BY_SUFFIX = {suffix: kind for kind, suffixes in SUFFIXES.items() for suffix in suffixes}
_BY_SUFFIX[PROJECT_SUFFIX] = PROJECT


@dataclass(frozen=True)
class OpenedFile:
    """A file that has been opened.

    Parameters
    ----------
    kind : str
        A key of `SUFFIXES`, or `PROJECT`.
    source : Source
    data : bytes
        The whole file.
    """

    kind: str
    source: Source
    data: bytes


def _riff_source(text: str) -> Source:
    riff = read_riff_text(text).riff
    notes = sum(not event.rest for event in riff.written_events())
    return Source((Part(riff.title, counted(notes, "note")),), lambda _part: Imported(riff))


def _project_source(data: bytes) -> Source:
    """The riff of a project; school, hands and the rest are for the window."""
    project = project_from_bytes(data)
    riff = read_riff_text(project.text).riff
    kept = counted(len(project.kept), "saved plan")
    told = f"only the riff of the project is taken; its school and hands, {kept} and its notes stay in it"
    return Source((Part(riff.title, "project"),), lambda _part: Imported(riff, (told,)))


def _musicxml_source(data: bytes) -> Source:
    from dromic.formats.musicxml.reader import musicxml_source
    from dromic.formats.musicxml.tree import open_score

    return musicxml_source(open_score(data))


def _midi_source(data: bytes) -> Source:
    from dromic.formats.midi.reader import midi_source

    return midi_source(data)


def _abc_source(data: bytes) -> Source:
    from dromic.formats.abc.reader import abc_source

    return abc_source(decoded(data, lenient=True))


_READERS: dict[str, Callable[[bytes], Source]] = {
    PROJECT: _project_source,
    RIFF: lambda data: _riff_source(decoded(data)),
    MUSICXML: _musicxml_source,
    MIDI: _midi_source,
    ABC: _abc_source,
    TAB: lambda data: tab_source(decoded(data, lenient=True)),
}


def kind_of(name: str, data: bytes) -> str:
    """What kind of file it is, by its name and else by how it begins.

    Raises
    ------
    RiffError
        For a kind that cannot be read.

    Examples
    --------
    >>> kind_of("lick.mid", b"")
    'MIDI'
    """
    suffix = Path(name).suffix.lower()
    if suffix in _BY_SUFFIX and suffix != ".txt":
        return _BY_SUFFIX[suffix]
    start = data[:400].lstrip(b"\xef\xbb\xbf \t\r\n")
    if data.startswith(b"MThd"):
        return MIDI
    if start.startswith(b"<?xml") or data.startswith(b"PK\x03\x04"):
        return MUSICXML
    if start.startswith((b"X:", b"%abc")):
        return ABC
    if b"\0" not in data[:4000] and (suffix == ".txt" or b"|" in data[:4000]):
        return _kind_of_text(data)
    readable = ", ".join(_BY_SUFFIX)
    raise RiffError(f"'{suffix or name}' is no kind of file that can be read; these can: {readable}")


def _kind_of_text(data: bytes) -> str:
    text = decoded(data[:40_000], lenient=True)
    if looks_like_tab(text):
        return TAB
    if re.search(r"^X:\s*\d", text, re.MULTILINE) and re.search(r"^K:", text, re.MULTILINE):
        return ABC
    return RIFF if re.search(r"\d:\d|[A-G][#b]?\d", text) and "|" in text else TAB


def open_text(text: str) -> OpenedFile:
    """Open text that was pasted: tablature, ABC or riff text.

    Raises
    ------
    RiffError
        When there is nothing of the kind in it.

    Examples
    --------
    >>> open_text("| 6:0/1 |").kind
    'riff text'
    """
    data = text.encode("utf-8", "replace")
    if len(data) > LARGEST_BYTES:
        raise RiffError(f"the text is larger than {LARGEST_BYTES // 2**20} MB, which no riff is")
    if not text.strip():
        raise RiffError("there is no text to paste; copy some tablature, ABC or riff text first")
    kind = _kind_of_text(data)
    return OpenedFile(kind, _READERS[kind](data), data)


def open_file(path: Path | str) -> OpenedFile:
    """Open a file of any kind that can be read.

    Raises
    ------
    RiffError
        With the file's name, and line and column where there are any.
    """
    name = str(path)
    packed = Path(name).suffix.lower() in (".mxl", ".xml", ".musicxml", ".mid", ".midi")
    data = read_bytes(path, LARGEST_PACKED if packed else LARGEST_BYTES)
    try:
        return open_data(name, data)
    except RiffError as error:
        raise error.in_file(name) from None


def open_data(name: str, data: bytes) -> OpenedFile:
    """Open what stands in a file of a name.

    Raises
    ------
    RiffError
    """
    kind = kind_of(name, data)
    return OpenedFile(kind, _READERS[kind](data), data)


def read_part(opened: OpenedFile, part: int | None = None, *, name: str = "") -> Imported:
    """Read a part of an opened file; None for the one that is most likely wanted.

    Parameters
    ----------
    opened : OpenedFile
    part : int or None
    name : str

    Raises
    ------
    RiffError
    """
    parts = opened.source.parts
    number = opened.source.likely if part is None else part
    if not 0 <= number < len(parts):
        raise RiffError(f"there is no part {number + 1} in it; it has {len(parts)}", file=name or None)
    try:
        return opened.source.read(number)
    except RiffError as error:
        raise (error.in_file(name) if name and not error.file else error) from None


Writer = Callable[[Riff], tuple[bytes, tuple[str, ...]]]


def _abc(riff: Riff) -> tuple[bytes, tuple[str, ...]]:
    from dromic.formats.abc.writer import write_abc

    text, remarks = write_abc(riff)
    return text.encode(), remarks


def _musicxml(riff: Riff) -> tuple[bytes, tuple[str, ...]]:
    from dromic.formats.musicxml.writer import write_musicxml

    return write_musicxml(riff), ()


def _packed(riff: Riff) -> tuple[bytes, tuple[str, ...]]:
    from dromic.formats.musicxml.tree import pack

    return pack(_musicxml(riff)[0]), ()


def _midi(riff: Riff) -> tuple[bytes, tuple[str, ...]]:
    from dromic.formats.midi.writer import write_midi

    return write_midi(riff), _MIDI_REMARKS


def _tab(riff: Riff) -> tuple[bytes, tuple[str, ...]]:
    from dromic.formats.tab.writer import write_tab

    text, remarks = write_tab(riff)
    return text.encode(), remarks


@dataclass(frozen=True)
class WritableKind:
    """A kind of file that can be written.

    Parameters
    ----------
    words : str
        What it is, for the dialog that exports; empty where another ending of the same kind stands for it.
    write : callable or None
        Writes a riff.
    write_plan : callable or None
        Writes a plan, for kinds that hold nothing else.
    """

    words: str
    write: Writer | None = None
    write_plan: Callable[[Plan], str] | None = None


_MIDI_REMARKS = ("MIDI holds pitches and times; the rest is there as text only",)
WRITABLE: dict[str, WritableKind] = {
    ".musicxml": WritableKind("MusicXML", _musicxml),
    ".xml": WritableKind("", _musicxml),
    ".mxl": WritableKind("MusicXML, packed", _packed),
    ".txt": WritableKind("Text tablature", _tab),
    ".tab": WritableKind("", _tab),
    ".mid": WritableKind("MIDI", _midi),
    ".abc": WritableKind("ABC", _abc),
    RIFF_SUFFIX: WritableKind("Riff text, everything decided", lambda riff: (write_riff_text(riff).encode(), ())),
    ".csv": WritableKind("Every event with its loads", write_plan=write_events_csv),
    ".json": WritableKind("The plan for other programs", write_plan=write_plan_json),
}
# Drawn by `dromic.app.paper`, which needs Qt.
PAPER = {
    ".pdf": "Practice sheet",
    ".svg": "Picture of the chart, any size",
    ".png": "Picture of the chart",
}


def of_a_plan(suffix: str) -> bool:
    """Whether a kind of file can only be written of a plan."""
    kind = WRITABLE.get(suffix.lower())
    return suffix.lower() in PAPER or (kind is not None and kind.write_plan is not None)


def written(suffix: str, riff: Riff, plan: Plan | None = None) -> tuple[bytes, tuple[str, ...]]:
    """Write a riff as a kind of file.

    Parameters
    ----------
    suffix : str
        One of `WRITABLE`.
    riff : Riff
    plan : Plan or None
        With it, strokes, places and fingers are written as they are planned.

    Returns
    -------
    bytes
    tuple of str
        What the format cannot say.

    Raises
    ------
    RiffError
        For a kind that cannot be written, or a riff that it cannot say.

    Examples
    --------
    >>> riff = open_text("| 6:0/1 |").source.read(0).riff
    >>> data, remarks = written(".riff", riff)
    >>> data.decode().splitlines()[-1], remarks
    ('| 6:0/1 |', ())
    """
    kind = WRITABLE.get(suffix.lower())
    if kind is None:
        kinds = ", ".join((*WRITABLE, *PAPER))
        raise RiffError(f"'{suffix}' is no kind of file that can be written; these can: {kinds}")
    if kind.write is None:
        if plan is None or kind.write_plan is None:
            raise RiffError(f"a {suffix} file is written of a plan; plan the riff first")
        return kind.write_plan(plan).encode(), ()
    wanted = riff if plan is None else replace(decided_riff(plan).at_tempo(riff.tempo), title=riff.title)
    data, remarks = kind.write(wanted)
    if suffix.lower() == RIFF_SUFFIX:
        return data, remarks
    if any(phrase.school for phrase in riff.phrases):
        remarks = (*remarks, "schools of single phrases are held by riff text and projects only")
    return data, with_losses(remarks, _lost(suffix, data, wanted))


def _lost(suffix: str, data: bytes, wanted: Riff) -> tuple[str, ...]:
    """What is not there any more when the file is read again."""
    try:
        opened = open_data(f"written{suffix}", data)
        return losses(wanted, read_part(opened, opened.source.likely, name="").riff)
    except RiffError:
        # What a reader refuses, such as a riff too long for it, has been written all the same.
        return ()


def write_file(
    path: Path | str,
    riff: Riff,
    plan: Plan | None = None,
    origin: tuple[bytes, int] | None = None,
    wanted: Wanted = always,
) -> tuple[str, ...]:
    """Write a riff or a plan to a file, whole or not at all.

    Parameters
    ----------
    path : Path or str
    riff : Riff
    plan : Plan or None
    origin : tuple of (bytes, int) or None
        A MusicXML file and the number of the part that the plan is of: strokes and fingers go into that score.
    wanted : callable
        Asked before the file appears: without its consent nothing does.

    Returns
    -------
    tuple of str
        What the format cannot say.

    Raises
    ------
    RiffError
        When it cannot be written; what stood there before is kept.
    """
    suffix = Path(path).suffix
    if origin is not None and plan is not None and suffix.lower() in SUFFIXES[MUSICXML]:
        from dromic.formats.musicxml.inplace import annotated

        data = annotated(origin[0], origin[1], plan)
        remarks: tuple[str, ...] = ()
        packed = data.startswith(b"PK")
        if packed != (suffix.lower() == ".mxl"):
            raise RiffError(
                "a packed score stays packed and a plain one plain; choose the ending it came with", file=str(path)
            )
    else:
        data, remarks = written(suffix, riff, plan)
    write_bytes(data, path, wanted)
    return remarks
