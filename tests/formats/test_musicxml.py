"""MusicXML in and out: round trips, the official schema, and independent readers."""

from __future__ import annotations

import io
import warnings
import zipfile
from dataclasses import replace
from functools import cache
from importlib.util import find_spec
from pathlib import Path

import pytest
import xmlschema
from hypothesis import assume, given, settings
from lxml import etree

from dromic.errors import RiffError
from dromic.formats.musicxml.inplace import annotated
from dromic.formats.musicxml.reader import musicxml_source
from dromic.formats.musicxml.tree import open_score, pack
from dromic.formats.musicxml.writer import write_musicxml
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.instrument.presets import instrument_for
from dromic.music.riff import EXCLUSIVE_MARKS, Bar, Event, Locks, Mark, Note, Place, Riff
from dromic.planner.plan import Plan
from tests.helpers import not_none, place_of, plan, riff
from tests.strategies import riffs


@cache
def schema() -> xmlschema.XMLSchema:
    """The official XSD of MusicXML 4.0, as the PyPI package `musicxml` brings it."""
    spec = find_spec("musicxml")
    assert spec is not None
    folder = Path(not_none(spec.origin)).parent / "generate_classes"
    return xmlschema.XMLSchema(str(folder / "musicxml_4_0.xsd"), allow="local")


def read(data: bytes, part: int | None = None) -> Riff:
    source = musicxml_source(open_score(data))
    return source.read(source.likely if part is None else part).riff


def told(data: bytes) -> str:
    source = musicxml_source(open_score(data))
    return " ".join(source.read(source.likely).remarks)


def canonical(made: Riff) -> Riff:
    """The riff as MusicXML can say it: what holds for every note of a chord is said once, at the chord."""

    def event(one: Event) -> Event:
        notes = {str(note.target): note for note in one.notes}
        own = list(notes.values())
        if len(one.notes) < 2:
            return one
        marks = [note.marks | one.marks for note in own]
        common = frozenset.intersection(*marks)
        stroke = one.locks.stroke or own[0].locks.stroke
        position = one.locks.position or own[0].locks.position
        if len(own) == 1:
            locks = Locks(stroke, own[0].locks.finger or one.locks.finger, position)
            return replace(one, notes=(Note(own[0].target),), marks=common, locks=locks)
        kept = tuple(
            Note(note.target, mark - common, Locks(finger=note.locks.finger or one.locks.finger))
            for note, mark in zip(own, marks, strict=True)
        )
        return replace(one, notes=kept, marks=common, locks=Locks(stroke, None, position))

    meter = made.meter
    tempo = made.tempo

    def bar(one: Bar) -> Bar:
        nonlocal meter, tempo
        new = one.meter if one.meter != meter else None
        other = one.tempo if one.tempo != tempo else None
        meter, tempo = one.meter or meter, one.tempo or tempo
        return replace(one, events=tuple(event(each) for each in one.events), meter=new, tempo=other)

    # A score has no place for the school that a phrase is played by.
    phrases = tuple(
        replace(phrase, bars=tuple(bar(one) for one in phrase.bars), school="") for phrase in made.phrases
    )
    return read_riff_text(write_riff_text(replace(made, phrases=phrases))).riff


def mended(made: Riff) -> Riff:
    """Chords that do not say one thing of the whole and another of a note, as files have one place for both."""

    def note(one: Note, marks: frozenset[Mark]) -> Note:
        wrong = {mark for group in EXCLUSIVE_MARKS if marks & group for mark in one.marks & group}
        return replace(one, marks=one.marks - wrong)

    def event(one: Event) -> Event:
        return replace(one, notes=tuple(note(each, one.marks) for each in one.notes))

    phrases = tuple(
        replace(
            phrase,
            bars=tuple(replace(bar, events=tuple(event(one) for one in bar.events)) for bar in phrase.bars),
        )
        for phrase in made.phrases
    )
    return replace(made, phrases=phrases)


@given(riffs())
@settings(max_examples=12)
def test_a_riff_comes_back_as_it_was_written(made: Riff) -> None:
    assume(any(event.notes for event in made.written_events()))
    made = mended(made)
    found, wanted = read(write_musicxml(made)), canonical(made)
    assert write_riff_text(found).splitlines() == write_riff_text(wanted).splitlines()
    assert found == wanted


@given(riffs())
@settings(max_examples=5)
def test_what_is_written_is_valid(made: Riff) -> None:
    schema().validate(io.BytesIO(write_musicxml(made)))


EVERYTHING = (
    "title: All\ninstrument: guitar-7\ntuning: drop\ntempo: 132.5\nmeter: 6/8\nswing: 3:2\npickup: 1/8\ncapo: 2\n"
    "gain: high\nkey: Bb\nsection: solo\n# first\n[in]\n| 6:3/8 |\n"
    "| 6:5.m>!d@2^3/8t 6:7.h 6:5.p 5:5.b2/8 5:5.r 4:3.v | x3\n"
    "[out]\n| 4:5.s/8 |\n# ^before\n| (3:5@1 2:5.x@2)!d/4 r/8 2:7.l/4 2:9.g 2:10/8 |  # ^after\n"
    "| 1:3.z/4 1:3.t/2 |\n# end\n"
)


def test_everything_at_once() -> None:
    made = read_riff_text(EVERYTHING).riff
    data = write_musicxml(made)
    schema().validate(io.BytesIO(data))
    assert read(data) == canonical(made)
    assert read(pack(data)) == canonical(made)


def test_another_reader_finds_the_same_music() -> None:
    """music21 reads pitches, lengths, strings, frets and fingers of single notes as we wrote them."""
    made = read_riff_text(EVERYTHING.replace("(3:5@1 2:5.x@2)!d/4", "3:5@1/4")).riff
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import music21

        score = music21.converter.parseData(write_musicxml(made).decode(), format="musicxml")
        found = [note for note in score.parts[0].flatten().notesAndRests if not note.duration.isGrace]
    events = [event for event in made.written_events() if not event.grace]
    assert [float(event.quarters) for event in events] == pytest.approx([float(one.quarterLength) for one in found])
    instrument = instrument_for(made)
    for event, one in zip(events, found, strict=True):
        if event.notes:
            place = event.notes[0].target
            assert isinstance(place, Place)
            assert one.pitch.midi == instrument.pitch(place)
            strings = [a.number for a in one.articulations if type(a) is music21.articulations.StringIndication]
            frets = [a.number for a in one.articulations if type(a) is music21.articulations.FretIndication]
            assert (strings, frets) == ([place.string], [place.fret])
    bows = [type(a).__name__ for one in found for a in one.articulations if "Bow" in type(a).__name__]
    assert bows == ["DownBow"]
    repeats = list(score.recurse().getElementsByClass(music21.bar.Repeat))
    assert [(bar.direction, bar.times) for bar in repeats] == [("start", None), ("end", 3)]


SMALL = """<?xml version="1.0"?>
<score-partwise version="4.0"><part-list><score-part id="P1"><part-name>Low Bass</part-name></score-part>
</part-list>
<part id="P1">%s</part></score-partwise>"""
ATTRIBUTES = (
    "<attributes><divisions>2</divisions><time><beats>2</beats><beat-type>4</beat-type></time></attributes>"
)


def xml_note(pitch: str, duration: int = 2, extra: str = "", voice: str = "1") -> str:
    step, octave = pitch[0], pitch[1]
    return (
        f"<note><pitch><step>{step}</step><octave>{octave}</octave></pitch><duration>{duration}</duration>"
        f"<voice>{voice}</voice>{extra}</note>"
    )


def small(*measures: str) -> bytes:
    whole = "".join(
        f'<measure number="{number}">{ATTRIBUTES if number == 1 else ""}{one}</measure>'
        for number, one in enumerate(measures, start=1)
    )
    return (SMALL % whole).encode()


def text(data: bytes, part: int | None = None) -> str:
    lines = [line for line in write_riff_text(read(data, part)).splitlines() if line.startswith(("|", "[", "{"))]
    return " ".join(lines).replace("| |", "|")


def test_endings_and_repeats_of_other_files() -> None:
    def bar(kind: str, extra: str, location: str = "right") -> str:
        return f'<barline location="{location}">{extra.replace("KIND", kind)}</barline>'

    ending = '<ending number="%s" type="KIND"/>'
    data = small(
        '<barline location="left"><repeat direction="forward"/></barline>' + xml_note("C3", 4),
        bar("start", ending % "1", "left")
        + xml_note("D3", 4)
        + bar("stop", ending % "1" + '<repeat direction="backward"/>'),
        bar("start", ending % "2", "left") + xml_note("E3", 4) + bar("discontinue", ending % "2"),
        xml_note("F3", 4),
    )
    assert text(data) == "[A] | C3/2 | D3 | [A 2] | C3 | E3 | [B] | F3 |".replace("[A] ", "[A] ")


def test_voices_and_chords_and_gaps() -> None:
    data = small(
        xml_note("C3")
        + "<note><chord/><pitch><step>E</step><octave>3</octave></pitch><duration>2</duration></note>"
        "<backup><duration>2</duration></backup><forward><duration>2</duration></forward>"
        + xml_note("G3", 2, voice="2"),
    )
    source = musicxml_source(open_score(data))
    assert [(part.name, part.words) for part in source.parts] == [
        ("Low Bass, voice 1", "2 notes"),
        ("Low Bass, voice 2", "1 note"),
    ]
    assert text(data, 0) == "| (C3 E3) r |"
    assert text(data, 1) == "| r G3 |"
    assert read(data).instrument == "bass-4"


def test_a_chord_belongs_to_the_voice_of_its_first_note() -> None:
    chord = "<note><chord/><pitch><step>%s</step><octave>3</octave></pitch><duration>2</duration>%s</note>"
    data = small(xml_note("C3", voice="3") + chord % ("E", "") + chord % ("G", "<voice>1</voice>") + xml_note("D3"))
    assert [part.words for part in musicxml_source(open_score(data)).parts] == ["1 note", "3 notes"]
    assert text(data, 1) == "| (C3 E3 G3) r |"


def test_a_voice_that_goes_from_staff_to_staff_is_one() -> None:
    staves = ("<staff>1</staff>", "<staff>2</staff>")
    crossing = small(xml_note("C3", 2, staves[0]) + xml_note("D3", 2, staves[1]))
    assert [part.words for part in musicxml_source(open_score(crossing)).parts] == ["2 notes"]
    assert text(crossing) == "| C3 D3 |"
    # The same number on two staves at once: the file counts its voices anew on each.
    back = "<backup><duration>4</duration></backup>"
    both = small(xml_note("C3", 4, staves[0]) + back + xml_note("D3", 4, staves[1]))
    assert [text(both, number) for number in (0, 1)] == ["| C3/2 |", "| D3/2 |"]


def test_a_string_given_twice_at_once_keeps_both_pitches() -> None:
    def place(fret: int) -> str:
        return f"<notations><technical><string>1</string><fret>{fret}</fret></technical></notations>"

    low = xml_note("G2", 4, place(0))
    data = small(low + low.replace("<note>", "<note><chord/>").replace("G</step>", "A</step>").replace("0<", "2<"))
    assert text(data) == "| (1:0 A2)/2 |"
    assert "string" in told(data)


def metronome(unit: str, per_minute: str, sound: str = "") -> str:
    return (
        f"<direction><direction-type><metronome>{unit}<per-minute>{per_minute}</per-minute></metronome>"
        f"</direction-type>{sound}</direction>"
    )


def test_tempi_are_kept_bar_by_bar() -> None:
    notes = xml_note("C3") * 2
    quick = '<sound tempo="150"/>'
    data = small('<sound tempo="70"/>' + notes, quick + notes, notes, '<sound tempo="60"/>' + notes)
    made = read(data)
    assert (made.tempo, [bar.tempo for bar in made.phrases[0].bars]) == (70, [None, 150, None, 60])


@pytest.mark.parametrize(
    ("mark", "tempo"),
    [
        (metronome("<beat-unit>quarter</beat-unit>", "96"), 96),
        (metronome("<beat-unit>quarter</beat-unit><beat-unit-dot/>", "80"), 120),
        (metronome("<beat-unit>half</beat-unit>", "70"), 140),
        (metronome("<beat-unit>quarter</beat-unit>", "96", '<sound tempo="100"/>'), 100),
        (metronome("<beat-unit>quarter</beat-unit>", "c. 96"), 120),
        (metronome("<beat-unit>quarter</beat-unit>", "nan"), 120),
    ],
)
def test_metronome_marks(mark: str, tempo: float) -> None:
    data = small(mark + xml_note("C3", 4))
    assert read(data).tempo == tempo
    assert ("no tempo" in told(data)) == (tempo == 120 and "80" not in mark)


def test_a_tempo_written_in_another_part_holds_too() -> None:
    data = small('<sound tempo="150"/>' + xml_note("C3", 4)).decode()
    other = f'<part id="P2"><measure number="1">{ATTRIBUTES}{xml_note("E3", 4)}</measure></part>'
    data = data.replace("</part-list>", '<score-part id="P2"><part-name>Two</part-name></score-part></part-list>')
    assert read(data.replace("</score-partwise>", other + "</score-partwise>").encode(), 1).tempo == 150


def test_quarter_tones_are_told() -> None:
    data = small(xml_note("C3", 4).replace("</step>", "</step><alter>0.5</alter>"))
    assert "quarter tones are rounded" in told(data)


def test_lengths_that_no_note_value_says_are_rounded() -> None:
    data = small(xml_note("C3", 5)).replace(b"<divisions>2<", b"<divisions>44<")
    assert "rounded: bar 1" in told(data)
    assert text(data) == "| r/32 r/16 r/8 r/4 C3/32 |"
    assert sum(event.quarters for event in read(data).written_events()) == 2


def test_timewise_and_transposing_scores() -> None:
    data = small(xml_note("C4", 4)).replace(
        b"</time>", b"</time><transpose><chromatic>0</chromatic><octave-change>-1</octave-change></transpose>"
    )
    assert text(data) == "| C3/2 |"
    timewise = (
        data.replace(b"score-partwise", b"score-timewise")
        .replace(b'<part id="P1">', b"")
        .replace(b"</part></score", b"</score")
    )
    timewise = timewise.replace(b'<measure number="1">', b'<measure number="1"><part id="P1">')
    timewise = timewise.replace(b"</measure>", b"</part></measure>")
    assert text(timewise) == "| C3/2 |"


def test_frets_that_contradict_the_pitch_are_told() -> None:
    wrong = "<notations><technical><string>1</string><fret>3</fret></technical></notations>"
    data = small(xml_note("C3", 4, wrong))
    assert text(data) == "| C3/2 |"
    assert "do not give the written pitch" in told(data)


def bomb(size: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("score.xml", b" " * size)
    return out.getvalue()


def packed(name: str, container: str | None = None) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        if container is not None:
            archive.writestr("META-INF/container.xml", container)
        archive.writestr(name, b"<a/>")
    return out.getvalue()


LAUGHS = b"""<?xml version="1.0"?><!DOCTYPE l [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;">
<!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;&b;&b;">]>
<score-partwise><part id="P1"><measure><note>&c;</note></measure></part>
</score-partwise>"""
FETCH = b"""<?xml version="1.0"?><!DOCTYPE l [<!ENTITY x SYSTEM "file:///etc/hostname">]>
<score-partwise><work><work-title>&x;</work-title></work><part id="P1"/></score-partwise>"""


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "not well-formed XML"),
        (b"<score-partwise>", "1:.*not well-formed XML"),
        (b"<html/>", "no MusicXML score: found <html>"),
        (b"<score-partwise/>", "no notes in this score"),
        (LAUGHS, "no notes in this score"),
        (FETCH, "no notes in this score"),
        (b"PK\x03\x04broken", "packed file is broken"),
        (bomb(33 * 2**20), "unpacks to more than 32 MB"),
        (packed("a.txt"), "holds no score"),
        (packed("a.xml", '<c><rootfile full-path="../../etc/passwd"/></c>'), "points outside itself"),
        (packed("a.xml", '<c><rootfile full-path="b.xml"/></c>'), "has no entry 'b.xml'"),
        (packed("a.xml"), "no MusicXML score"),
    ],
)
def test_bad_scores(data: bytes, words: str) -> None:
    with pytest.raises(RiffError, match=words):
        read(data)


def test_a_riff_without_title_or_fields() -> None:
    made = riff("| C4/4 D4 E4 F4 |")
    assert read(write_musicxml(made)) == made


FOREIGN = Path(__file__).parent / "foreign.musicxml"


def foreign() -> bytes:
    """A score as other programs write one: two parts, lyrics, slurs, layout, a DTD, no strings or frets."""
    return FOREIGN.read_bytes()


def annotate(data: bytes, part: int) -> tuple[bytes, Plan]:
    brought = musicxml_source(open_score(data)).read(part)
    planned = plan(brought.riff, "pulse-alternate")
    return annotated(data, part, planned), planned


def test_a_score_from_elsewhere_is_given_strokes_and_fingers_in_place() -> None:
    data = foreign()
    made, planned = annotate(data, 0)
    schema().validate(io.BytesIO(made))
    again = read(made, 0)
    places = [
        (place_of(note).string, place_of(note).fret) for event in again.written_events() for note in event.notes
    ]
    wanted = [(string, fret) for state in planned.states for string, fret, _ in sorted(state.notes, reverse=True)]
    assert sorted(places) == sorted(wanted)
    strokes = [
        event.locks.stroke for event in again.written_events() if event.notes and Mark.TIE not in event.marks
    ]
    assert strokes == [state.stroke for state in planned.states]
    # Taking ours out again gives the old score back, word for word.
    assert plain(made) == plain(data)


def plain(data: bytes) -> bytes:
    tree = open_score(data).tree
    for technical in list(tree.iter("technical")):
        for one in list(technical):
            if one.tag in ("string", "fret", "fingering", "up-bow", "down-bow"):
                technical.remove(one)
        above = technical.getparent()
        if not len(technical):
            not_none(above).remove(technical)
        if not len(not_none(above)):
            not_none(not_none(above).getparent()).remove(not_none(above))
    return bytes(etree.tostring(tree, method="c14n2", strip_text=True))  # type: ignore[call-overload]


def test_packed_scores_keep_their_other_entries() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        container = '<container><rootfiles><rootfile full-path="s.xml"/></rootfiles></container>'
        archive.writestr("META-INF/container.xml", container)
        archive.writestr("s.xml", foreign())
        archive.writestr("picture.png", b"not for us")
    made, _ = annotate(out.getvalue(), 0)
    with zipfile.ZipFile(io.BytesIO(made)) as archive:
        assert archive.read("picture.png") == b"not for us"
        assert archive.namelist() == ["META-INF/container.xml", "s.xml", "picture.png"]
    assert any(event.locks.stroke for event in read(made, 0).written_events())


def test_a_changed_riff_does_not_go_into_the_old_score() -> None:
    planned = plan(riff("| C4/4 D4 E4 F4 |"))
    with pytest.raises(RiffError, match="other notes or lengths"):
        annotated(foreign(), 0, planned)
    with pytest.raises(RiffError, match="no part 9"):
        annotated(foreign(), 8, planned)


HELLO = b"""<?xml version="1.0" encoding="UTF-8" standalone="no"?>
<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN"
 "http://www.musicxml.org/dtds/partwise.dtd">
<score-partwise version="4.0">
  <part-list><score-part id="P1"><part-name>Music</part-name></score-part></part-list>
  <part id="P1"><measure number="1">
    <attributes><divisions>1</divisions><key><fifths>0</fifths></key>
      <time><beats>4</beats><beat-type>4</beat-type></time><clef><sign>G</sign><line>2</line></clef></attributes>
    <note><pitch><step>C</step><octave>4</octave></pitch><duration>4</duration><type>whole</type></note>
  </measure></part>
</score-partwise>"""


def test_the_first_example_of_the_standard() -> None:
    """MusicXML tutorial, "Hello World": one whole note, middle C, in 4/4 (from memory)."""
    assert text(HELLO) == "| C4/1 |"
    assert str(read(HELLO).meter) == "4/4"


def test_tablature_as_the_standard_writes_it() -> None:
    """MusicXML tutorial, tablature: string, fret, hammer-on and pull-off (from memory)."""

    def fretted(step: str, fret: int, sign: str = "") -> str:
        technical = f"<technical><string>5</string><fret>{fret}</fret>{sign}</technical>"
        return xml_note(f"{step}3", 2, f"<notations>{technical}</notations>")

    data = small(
        fretted("C", 3, '<hammer-on number="1" type="start">H</hammer-on>')
        + fretted("D", 5, '<hammer-on number="1" type="stop"/><pull-off number="1" type="start">P</pull-off>'),
        fretted("C", 3, '<pull-off number="1" type="stop"/>') + fretted("E", 7),
    ).replace(b"Low Bass", b"Guitar")
    assert text(data) == "| 5:3 5:5.h | 5:3.p 5:7 |"


def test_another_library_reads_what_is_written(tmp_path: Path) -> None:
    """The package `musicxml` takes the file apart and puts it together again; it cannot take <miscellaneous>."""
    from musicxml.parser.parser import parse_musicxml

    tree = open_score(write_musicxml(read_riff_text(EVERYTHING).riff)).tree
    miscellaneous = tree.find(".//miscellaneous")
    not_none(not_none(miscellaneous).getparent()).remove(not_none(miscellaneous))
    file = tmp_path / "a.musicxml"
    file.write_bytes(etree.tostring(tree))
    again = parse_musicxml(str(file)).to_string()
    assert read(again.encode()) == read(file.read_bytes())
