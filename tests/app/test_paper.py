"""The practice sheet, pictures and the print preview."""

from __future__ import annotations

import csv
import io
import itertools
from pathlib import Path

import pytest
from PyQt6.QtCore import QSize, QSizeF, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtPrintSupport import QPrinter, QPrintPreviewWidget
from PyQt6.QtSvg import QSvgRenderer
from pytestqt.qtbot import QtBot

from dromic.app.chart.frame import View
from dromic.app.paper.preview import SheetPreview
from dromic.app.paper.printing import print_pages, recorded_pages, save_paper, sheet_for
from dromic.app.paper.sheet import SYSTEM_GAP, SYSTEM_HEIGHTS, ChartLine, Text, block_height, lay_out_sheet
from dromic.app.theme import LIGHT
from dromic.app.window import MainWindow
from dromic.errors import RiffError
from dromic.formats.events_csv import COLUMNS, write_events_csv
from dromic.planner.plan import Plan
from dromic.practice.session.advice import MOST_SPOTS, spots_to_practise
from tests.app.conftest import plan_now
from tests.helpers import not_none, plan, riff

A4 = QSizeF(210.0, 297.0)
LONG = "[verse] " + "| 6:5/16 6:7 5:5 5:7 4:5 4:7 3:5 3:7 2:5 2:8 1:5 1:8 2:8 2:5 3:7 3:5 " * 6 + "|"


@pytest.fixture(scope="module")
def planned() -> Plan:
    return plan(riff(LONG, title="Long one", tempo=120), "economy")


def words(document: QPdfDocument) -> str:
    return "\n".join(document.getAllText(page).text() for page in range(document.pageCount()))


def opened(path: Path) -> QPdfDocument:
    document = QPdfDocument(None)
    document.load(str(path))
    return document


def test_the_sheet_says_what_and_how(window: MainWindow, tmp_path: Path) -> None:
    file = tmp_path / "a.pdf"
    assert window.files.export_to(file)
    document = opened(file)
    text = words(document)
    for one in (
        "Kiln Stairs",
        "Target 100",
        "ceiling of this plan",
        "Hot spots",
        "clean rounds at",
        "stop at pain",
    ):
        assert one in " ".join(text.split())
    assert f"page 1 of {document.pageCount()}" in text
    image = document.render(0, QSize(620, 877)).convertToFormat(QImage.Format.Format_Grayscale8)
    assert image.width() == 620


def test_pages_break_between_systems_and_systems_at_bars(planned: Plan) -> None:
    sheet = sheet_for(planned, A4)
    assert len(sheet.pages) >= 3
    for page in sheet.pages:
        ends = [at + block_height(block) for at, block in page.blocks]
        # The gap below a system may hang over the edge.
        hangs = SYSTEM_GAP if isinstance(page.blocks[-1][1], ChartLine) else 0.0
        assert max(ends) - hangs <= sheet.height + 1
        starts = [at for at, _ in page.blocks]
        assert starts == sorted(starts)
        assert all(end <= start + 1e-6 for end, start in zip(ends, starts[1:], strict=False))
    systems = [block for page in sheet.pages for _, block in page.blocks if isinstance(block, ChartLine)]
    bars = {round(tick.x, 2) for tick in sheet.layout.ticks(0.0, sheet.layout.width) if tick.bar}
    assert all(round(system.left, 2) in bars for system in systems)
    assert systems[0].left == min(system.left for system in systems)
    for before, after in itertools.pairwise(systems):
        assert before.right == pytest.approx(after.left)


def test_a_bar_longer_than_a_line_is_cut_at_beats(planned: Plan) -> None:
    sheet = lay_out_sheet(planned, 330.0, 3 * SYSTEM_HEIGHTS[0])
    systems = [block for page in sheet.pages for _, block in page.blocks if isinstance(block, ChartLine)]
    beats = {round(tick.x, 2) for tick in sheet.layout.ticks(0.0, sheet.layout.width)}
    assert len(systems) > 6
    assert all(round(system.left, 2) in beats for system in systems)


def test_rounds_that_are_alike_are_drawn_once(qapp: object) -> None:
    made = plan(riff("[A] | 5:5/8 5:7 4:5 4:7 5:5 5:7 4:5 4:7 | x4"), "strict-alternate", identical_repeats=True)
    sheet = sheet_for(made, A4)
    texts = [block.words for page in sheet.pages for _, block in page.blocks if isinstance(block, Text)]
    assert "A: rounds 2, 3, 4 like the first." in texts
    systems = [block for page in sheet.pages for _, block in page.blocks if isinstance(block, ChartLine)]
    assert len(systems) == 1


def test_spots_are_the_hardest_passages_each_once(planned: Plan) -> None:
    spots = spots_to_practise(planned)
    assert 1 <= len(spots) <= MOST_SPOTS
    assert [spot.number for spot in spots] == list(range(1, len(spots) + 1))
    largest = max(planned.event_of_step(step).loads.largest for step in range(len(planned.states)))
    assert max(spot.load for spot in spots) == largest
    assert all(spot.load >= 0.7 * largest for spot in spots)
    moves = [(planned.states[s.step - 1].notes, planned.states[s.step].notes) for s in spots]
    assert len(set(moves)) == len(moves)
    assert all(spot.how and spot.ladder.goal > spot.ladder.start for spot in spots)
    assert spots_to_practise(plan(riff("| 5:5/1 |"))) == ()


@pytest.mark.parametrize("suffix", [".svg", ".png"])
def test_pictures_of_the_chart(window: MainWindow, tmp_path: Path, suffix: str) -> None:
    file = tmp_path / f"a{suffix}"
    assert window.files.export_to(file)
    if suffix == ".svg":
        renderer = QSvgRenderer(str(file))
        assert renderer.isValid()
        assert renderer.defaultSize().width() > 2000
    else:
        image = QImage(str(file))
        assert image.width() > 4000
        assert (
            len({image.pixel(x, y) for x in range(0, image.width(), 7) for y in range(0, image.height(), 7)}) > 20
        )


def test_events_as_csv_with_their_loads(planned: Plan) -> None:
    rows = list(csv.DictReader(io.StringIO(write_events_csv(planned))))
    assert tuple(rows[0]) == COLUMNS
    assert len(rows) == len(planned.events)
    for row, event in zip(rows, planned.events, strict=True):
        assert float(row["onset"]) == pytest.approx(float(event.moment.onset), abs=1e-4)
        assert float(row["load_pick"]) == pytest.approx(event.loads.pick, abs=1e-4)
        if not event.rest:
            assert row["strings"] == " ".join(str(note.string) for note in event.notes)
            assert row["stroke"] == str(event.stroke)


def test_the_preview_shows_the_sheet(window: MainWindow, qtbot: QtBot) -> None:
    qtbot.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    dialog = window.files.sheet_preview.dialog
    shown = dialog.findChild(QPrintPreviewWidget)
    qtbot.waitUntil(lambda: shown.pageCount() > 1, timeout=20_000)
    assert shown.pageCount() == len(window.files.sheet_preview.pages)
    dialog.reject()


def test_large_print_and_a_whole_reel_on_one_page(window: MainWindow, qtbot: QtBot) -> None:
    window.open_demo(window.riffs[1])
    plan_now(window, qtbot)
    assert not_none(window.document.plan).riff.title == "Millrace Reel"
    window.files.preview()
    preview = window.files.sheet_preview
    shown = preview.dialog.findChild(QPrintPreviewWidget)
    plain = len(preview.pages)
    preview.size.setCurrentIndex(1)
    qtbot.waitUntil(lambda: shown.pageCount() > plain, timeout=20_000)
    preview.size.setCurrentIndex(2)
    qtbot.waitUntil(lambda: shown.pageCount() == 1, timeout=20_000)
    preview.dialog.reject()


def test_hot_spots_stand_by_movement_each_with_its_drill(planned: Plan) -> None:
    sheet = sheet_for(planned, A4)
    words = [block.words for page in sheet.pages for _, block in page.blocks if isinstance(block, Text)]
    told = " ".join(words)
    for what in {spot.what for spot in sheet.spots}:
        assert told.count(f"{what[:1].upper()}{what[1:]} (") == 1
    assert told.count("Drill: ") == len({spot.what for spot in sheet.spots})


def test_another_paper_in_the_preview_lays_the_sheet_out_anew(
    planned: Plan, window: MainWindow, qtbot: QtBot
) -> None:
    preview = SheetPreview(planned, False, window)
    preview.open()
    shown = preview.dialog.findChild(QPrintPreviewWidget)
    qtbot.waitUntil(lambda: shown.pageCount() > 1, timeout=20_000)
    tall = preview.pages
    shown.setLandscapeOrientation()
    qtbot.waitUntil(lambda: preview.pages is not tall, timeout=20_000)
    assert len(preview.pages) > len(tall)
    assert shown.pageCount() == len(preview.pages)
    shown.zoomIn()
    wide = preview.pages
    shown.updatePreview()
    assert preview.pages is wide
    preview.dialog.reject()


def test_a_printer_of_another_size(planned: Plan, tmp_path: Path) -> None:
    from PyQt6.QtGui import QPageSize

    printer = QPrinter()
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "letter.pdf"))
    printer.setPageSize(QPageSize(QPageSize.PageSizeId.Letter))
    pages = recorded_pages(planned, printer.pageLayout())
    print_pages(pages, printer)
    assert opened(tmp_path / "letter.pdf").pageCount() == len(pages)


def test_pictures_that_cannot_be(planned: Plan, tmp_path: Path) -> None:
    (tmp_path / "old.png").write_text("old")
    long = plan(riff("| " + "6:5/32 6:7 " * 16 + "| " * 1 + ("6:5/32 6:7 " * 16 + "| ") * 30))
    with pytest.raises(RiffError, match="save it as SVG or PDF"):
        save_paper(long, tmp_path / "old.png", LIGHT, View())
    assert (tmp_path / "old.png").read_text() == "old"
    with pytest.raises(RiffError, match="this is a folder"):
        save_paper(planned, tmp_path, LIGHT, View())
    with pytest.raises(RiffError, match="cannot be written: there is no such file or folder"):
        save_paper(planned, tmp_path / "none" / "a.pdf", LIGHT, View())
