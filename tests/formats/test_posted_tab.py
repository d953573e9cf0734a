"""Tablature as players post it: pages of our own, with the habits and slips of typed ones."""

from __future__ import annotations

import pytest

from dromic.formats.registry import open_text
from dromic.formats.rifftext.writer import write_riff_text


def strings(**lines: str) -> str:
    """A system of six lines; those that are not given hold nothing."""
    width = max(map(len, lines.values()))
    given = [lines.get(name, "-" * width) for name in ("e", "B", "G", "D", "A", "E")]
    return "\n".join(f"{name}|{line}|" for name, line in zip("eBGDAE", given, strict=True)) + "\n"


def read(page: str) -> tuple[list[str], str]:
    """The bars of a page as riff text, and what was said of it."""
    brought = open_text(page).source.read(0)
    lines = write_riff_text(brought.riff).splitlines()
    return [line.split("  #")[0] for line in lines if line.startswith("|")], " ".join(brought.remarks)


def test_repeats_between_stars_with_their_number() -> None:
    page = """\
||-----------------|----------------||
||-----------------|----------------||
||*----------------|---------------*||
||*----------------|---------------*||
||-2-2---2-2---2-2-|-5-5---4-4---2-2||  x4
||-0-0---0-0---0-0-|-3-3---2-2---0-0||
"""
    bars, _ = read(page)
    assert bars[0] == "| (6:0 5:2)/8 (6:0 5:2)/4 (6:0 5:2)/8 (6:0 5:2)/4 (6:0 5:2)/8 (6:0 5:2) |"
    assert bars[1] == "| (6:3 5:5) (6:3 5:5)/4 (6:2 5:4)/8 (6:2 5:4)/4 (6:0 5:2)/8 (6:0 5:2) | x4"


def test_lines_without_bar_lines_are_eighths() -> None:
    page = """\
e-----------------------------
B-----------------------------
G-----------------------------
D-2-2-4-2-5-2-4-2-------------
A-----------------2-4-5---2---
E---------------------------0-
"""
    bars, said = read(page)
    assert bars == ["| 4:2/8 4:2 4:4 4:2 4:5 4:2 4:4 4:2 |", "| 5:2 5:4 5:5/4 5:2/8 6:0 r/4 |"]
    assert "without bar lines are cut into bars" in said


@pytest.mark.parametrize("notes", [200, 1024, 1025, 3000])
def test_however_many_notes_a_line_has(notes: int) -> None:
    bars, _ = read(strings(e="-0" * notes))
    assert len(bars) == -(-notes // 8)


def test_frets_right_after_the_letter() -> None:
    bars, _ = read("e0-0-0-0-\nB---------\nG---------\nD---------\nA---------\nE---------\n")
    assert bars == ["| 1:0 1:0 1:0 1:0 |"]


@pytest.mark.parametrize(
    ("line", "bar"),
    [
        ("-/12-----10-----", "3:12.i/2 3:10"),
        ("-7\\------5-------", "3:7.o/2 3:5"),
        ("-7/9-----5-------", "3:7/8 3:9.s/4. 3:5/2"),
        ("-7-------5/-----", "3:7/2 3:5.o"),
        ("-7tr9----5tr6----", "3:7.w2/2 3:5.w1"),
        ("-<12>----<7>-----", "3:12.n/2 3:7.n"),
        ("-6*------8*------", "3:6.a/2 3:8.a"),
        ("-t12p5---t15-----", "3:12.T/4. 3:5.p/8 3:15.T/2"),
        ("-7b1/4---7b1/2---", "3:7.bq/2 3:7.b1"),
        ("-7bf-----7b9r7---", "3:7.b2/2 3:7.b2/4. 3:7.r/8"),
    ],
)
def test_signs_on_a_string(line: str, bar: str) -> None:
    bars, _ = read(strings(G=line))
    # How the columns are spaced is no part of this: only notes and marks are compared.
    found = [word.split("/")[0] for word in bars[0].strip("| ").split() if not word.startswith("r")]
    wanted = [word.split("/")[0] for word in bar.split()]
    assert [word for word in found if not word.endswith(".t")] == wanted


def test_signs_over_the_strings() -> None:
    page = "   >   .   PH  ~\n" + strings(G="-5---5---6---7--")
    bars, _ = read(page)
    assert [word.split("/")[0] for word in bars[0].strip("| ").split()] == ["3:5.>", "3:5.z", "3:6.a", "3:7.v"]
    bars, said = read("   NH    T      PH\n" + strings(G="-12----15---------"))
    assert [word.split("/")[0] for word in bars[0].strip("| ").split()] == ["3:12.n", "3:15.T"]
    assert "signs over no note are left out" in said


def test_chord_names_are_no_heading() -> None:
    page = "[Verse]\n   Am      F/C   Gsus4 Bm7b5 N.C.\n" + strings(B="-1-1-1-1-1-1-1-1-")
    riff = open_text(page).source.read(0).riff
    assert [phrase.name for phrase in riff.phrases] == ["Verse"]
    assert "chord names over the strings are left out" in read(page)[1]


@pytest.mark.parametrize(
    "page",
    [
        "[tab]\n[ch]Em[/ch]\n{}[/tab]\n",
        "<pre>\n<b>Lick</b>\n{}</pre>\n",
        "&nbsp;\n{}",
    ],
)
def test_markup(page: str) -> None:
    plain = strings(D="-2-2-4-2-5-2-4-2-")
    assert read(page.format(plain))[0] == read(plain)[0]
    # A line's end may be marked too.
    assert read(page.format(plain.replace("|\n", "|<br>\n")))[0] == read(plain)[0]


def test_a_part_named_like_a_tag() -> None:
    page = "[A] x2\n" + strings(D="-2-2-4-2-5-2-4-2-") + "\n[B]\n" + strings(D="-2-2-4-2-5-2-4-2-")
    riff = open_text(page).source.read(0).riff
    assert [(phrase.name, phrase.times) for phrase in riff.phrases] == [("A", 2), ("B", 1)]
    assert open_text(f"[b]Lick[/b]\n{page}").source.read(0).riff.title == "Lick"


def test_blanks_and_tabs_before_the_dashes_are_no_time() -> None:
    plain = strings(D="-2-2-4-2-5-2-4-2-")
    assert read(plain.replace("|-", "|\t-"))[0] == read(plain)[0]


def test_a_note_one_column_beside_its_chord() -> None:
    bars, said = read(strings(G="-9----7----5---", D="-9---7-----5---", A="-7---5-----3---"))
    assert [word for word in bars[0].split() if "3:7" in word]
    assert "(5:5 4:7 3:7)" in bars[0]
    assert "one column beside a chord" in said


def test_a_run_down_a_diagonal_is_no_chord() -> None:
    bars, _ = read(strings(e="-----12--------", B="----13---------", G="---14----------", D="--14-----------"))
    assert "(" not in bars[0]


def test_signs_that_mean_nothing_are_told() -> None:
    _, said = read(strings(G="-5---?---7---w--"))
    assert "signs that have no meaning here are left out: '?', 'w'" in said
