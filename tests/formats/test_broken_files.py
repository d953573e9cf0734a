"""Files that once broke a reader, found by `tests/checks/run_fuzz.py`; and bad files that everybody meets."""

from __future__ import annotations

import io
import os
import zipfile
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import RiffError
from dromic.formats.abc.reader import abc_source
from dromic.formats.midi.reader import midi_source
from dromic.formats.musicxml.tree import pack
from dromic.formats.musicxml.writer import write_musicxml
from dromic.formats.registry import SUFFIXES, WRITABLE, open_file, open_text, read_part, write_file
from dromic.formats.tab.reader import tab_source
from dromic.music.riff import Mark
from tests.checks.run_fuzz import READERS, read, seeds
from tests.helpers import riff

ALL = [suffix for suffixes in SUFFIXES.values() for suffix in suffixes]
PACKED = pack(write_musicxml(riff("| 5:5/4 5:7 5:5 5:7 |")))


def test_a_packed_file_whose_directory_points_before_its_start() -> None:
    at = PACKED.rindex(b"PK\x05\x06")
    wrong = bytearray(PACKED)
    wrong[at + 16 : at + 20] = (2**31).to_bytes(4, "little")
    with pytest.raises(RiffError, match="packed file is broken"):
        READERS["musicxml"](bytes(wrong))


def test_an_ending_for_a_round_far_off_does_not_fill_the_memory() -> None:
    source = abc_source("X:1\nT:t\nM:4/4\nL:1/4\nK:C\n|:CDEF|1 GABc:|88 cBAG|]\n")
    brought = source.read(0)
    assert sum(len(phrase.bars) for phrase in brought.riff.phrases) <= 2 * 12
    assert any("12 rounds at most" in one for one in brought.remarks)


def test_grace_notes_that_lead_to_no_note() -> None:
    with pytest.raises(RiffError, match="there are no notes in it"):
        abc_source("X:1\nT:t\nK:C\n|: {g} z {ag} |\n").read(0)


def test_a_wait_longer_than_midi_can_say() -> None:
    track = b"\x00\x90\x3c\x40" + b"\xff" * 300 + b"\x7f\x80\x3c\x00" + b"\x00\xff\x2f\x00"
    data = b"MThd" + (6).to_bytes(4, "big") + b"\x00\x00\x00\x01\x01\xe0"
    data += b"MTrk" + len(track).to_bytes(4, "big") + track
    with pytest.raises(RiffError, match="track 1 of the MIDI file waits longer than MIDI can say"):
        midi_source(data)


def test_a_page_of_one_very_long_line_is_read_whole() -> None:
    rows = ["   " + "1 & 2 & 3 & 4 &  " * 900, "   " + "PM------         " * 900]
    strings = [f"{label}|" + ("-5-5-5-5-5-5-5-5|" if label == "A" else "-" * 16 + "|") * 900 for label in "GDAE"]
    for row in rows:
        events = tab_source("\n".join([row, *strings])).read(0).riff.written_events()
        assert len(events) == 900 * 8
        assert sum(Mark.PALM_MUTE in event.marks for event in events) == (900 * 4 if "PM" in row else 0)


def test_a_row_of_ones_above_a_system_is_read_to_its_end() -> None:
    page = "1" * 400 + "\n" + "".join(f"{label}|-5-5-5-5-|\n" for label in "GDAE")
    assert len(tab_source(page).read(0).riff.written_events()) == 4


@pytest.mark.parametrize("name", list(READERS))
def test_good_files_are_read_and_cut_ones_refused_in_words(name: str) -> None:
    for seed in seeds(name):
        READERS[name](seed)
        for share in (0.0, 0.3, 0.7, 0.95):
            read(name, seed[: int(share * len(seed))])


@pytest.mark.parametrize("name", list(READERS))
@given(data=st.data())
@settings(max_examples=20)
def test_files_changed_at_random_break_nothing(name: str, data: st.DataObject) -> None:
    seed = bytearray(data.draw(st.sampled_from(seeds(name))))
    for _ in range(data.draw(st.integers(1, 12))):
        at = data.draw(st.integers(0, len(seed) - 1))
        piece = data.draw(
            st.one_of(st.binary(max_size=4), st.sampled_from([b"|", b"[", b"(", b"\n", b"9", b"<", b">"]))
        )
        seed[at : at + data.draw(st.integers(0, 8))] = piece
        if not seed:
            break
    read(name, bytes(seed))


@pytest.mark.parametrize("suffix", ALL)
def test_an_empty_file_a_folder_and_one_that_is_gone(tmp_path: Path, suffix: str) -> None:
    empty, folder = tmp_path / f"empty{suffix}", tmp_path / f"folder{suffix}"
    empty.write_bytes(b"")
    folder.mkdir()
    for path, words in (
        (empty, "empty"),
        (folder, "this is a folder"),
        (tmp_path / f"gone{suffix}", "no such file"),
    ):
        with pytest.raises(RiffError, match=words if path is not empty else f"empty{suffix}") as caught:
            open_file(path)
        assert str(path) in str(caught.value)


@pytest.mark.parametrize("suffix", ALL)
def test_a_file_that_is_too_large_is_not_read_whole(tmp_path: Path, suffix: str) -> None:
    path = tmp_path / f"large{suffix}"
    with path.open("wb") as file:
        file.truncate(17 * 2**20)
    with pytest.raises(RiffError, match="larger than"):
        open_file(path)


def test_a_pipe_is_no_file(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "a.abc")
    with pytest.raises(RiffError, match="no ordinary file"):
        open_file(tmp_path / "a.abc")


@pytest.mark.skipif(os.geteuid() == 0, reason="root may read everything")
def test_no_permission(tmp_path: Path) -> None:
    path = tmp_path / "a.abc"
    path.write_text("X:1")
    path.chmod(0)
    with pytest.raises(RiffError, match="no permission"):
        open_file(path)


def test_kinds_that_are_not_known(tmp_path: Path) -> None:
    path = tmp_path / "a.xyz"
    path.write_bytes(b"\0\1\2")
    with pytest.raises(RiffError, match=r"'.xyz' is no kind of file that can be read; these can: .riff"):
        open_file(path)
    with pytest.raises(RiffError, match=r"'.xyz' is no kind of file that can be written"):
        write_file(path, riff("| 5:5/1 |"))
    with pytest.raises(RiffError, match="written of a plan"):
        write_file(tmp_path / "a.csv", riff("| 5:5/1 |"))


def test_kinds_are_told_by_what_is_inside(tmp_path: Path) -> None:
    for name, data, kind in (
        ("a", b"X:1\nT:t\nK:C\nCDEF|\n", "ABC"),
        ("b.txt", b"X:1\nT:t\nK:C\nCDEF|\n", "ABC"),
        ("c", PACKED, "MusicXML"),
        ("d.txt", "\n".join(f"{label}|-5--5-|" for label in "eBGDAE").encode(), "text tablature"),
        ("e", b"| 5:5/1 |\n", "riff text"),
    ):
        path = tmp_path / name
        path.write_bytes(data)
        opened = open_file(path)
        assert opened.kind == kind
        assert read_part(opened).riff.written_events()


def test_parts_that_are_not_there(tmp_path: Path) -> None:
    opened = open_text("| 5:5/1 |\n")
    with pytest.raises(RiffError, match="there is no part 3 in it; it has 1"):
        read_part(opened, 2)
    with pytest.raises(RiffError, match="no text to paste"):
        open_text("  \n")


@pytest.mark.parametrize("suffix", WRITABLE)
def test_writing_where_one_cannot(tmp_path: Path, suffix: str) -> None:
    from tests.helpers import plan

    planned = plan(riff("| 5:5/4 5:7 5:5 5:7 |"))
    with pytest.raises(RiffError, match="cannot be written: there is no such file or folder"):
        write_file(tmp_path / "none" / f"a{suffix}", planned.riff, planned)
    write_file(tmp_path / f"a{suffix}", planned.riff, planned)
    assert (tmp_path / f"a{suffix}").stat().st_size > 20


NOTE = "<note><pitch><step>E</step><octave>3</octave></pitch><duration>1</duration></note>"
LONG = {
    "abc": "X:1\nT:t\nM:4/4\nL:1/4\nK:C\n" + "GABc|" * 6_000 + "\n",
    "abc rests": "X:1\nT:t\nM:4/4\nL:1/4\nK:C\n" + "c|Z64|" * 400 + "\n",
    "tab": "\n\n".join(
        ["\n".join(f"{label}|" + ("-5-5-7-7-|" if label == "A" else "---------|") * 60 for label in "GDAE")] * 100
    ),
    "musicxml": (
        '<?xml version="1.0"?><score-partwise version="4.0"><part-list><score-part id="P1"><part-name>g</part-name>'
        "</score-part></part-list>"
        '<part id="P1"><measure number="1"><attributes><divisions>1</divisions></attributes>'
        f"{NOTE * 20_500}</measure></part></score-partwise>"
    ),
}


@pytest.mark.parametrize("kind", LONG)
def test_too_many_notes_are_refused_while_they_are_counted(kind: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """Nothing is put together before it is known to be a riff's worth."""

    def too_late(*_: object) -> None:
        raise AssertionError("put together before it was counted")

    for kind in ("abc", "tab", "musicxml"):
        monkeypatch.setattr(f"dromic.formats.{kind}.reader.assembled", too_late)
    with pytest.raises(
        RiffError, match="it has more than 20000 notes with its repeats; split it into several files"
    ):
        READERS["musicxml"](LONG[kind].encode()) if kind == "musicxml" else open_text(LONG[kind]).source.read(0)


def test_a_million_messages_are_refused_unread(monkeypatch: pytest.MonkeyPatch) -> None:
    def too_late(*_: object, **__: object) -> None:
        raise AssertionError("read before it was counted")

    monkeypatch.setattr("mido.MidiFile", too_late)
    # Running status: each note is three bytes.
    track = b"\x00\x90\x28\x40" + b"\x01\x28\x40" * 400_000
    data = b"MThd" + (6).to_bytes(4, "big") + b"\x00\x00\x00\x01\x00\x60"
    data += b"MTrk" + len(track).to_bytes(4, "big") + track
    with pytest.raises(RiffError, match="the file has more than 400000 messages; split it"):
        midi_source(data)


def test_a_score_packed_otherwise_than_scores_are() -> None:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_LZMA) as archive:
        archive.writestr("score.xml", write_musicxml(riff("| 5:5/4 5:7 5:5 5:7 |")))
    with pytest.raises(RiffError, match="packed as no packed score is"):
        READERS["musicxml"](packed.getvalue())
