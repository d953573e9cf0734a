"""The practice sheet drawn, printed and saved; the chart as a picture."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QLocale, QMarginsF, QPointF, QRectF, QSize, QSizeF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QImage, QPageLayout, QPageSize, QPainter, QPdfWriter, QPicture
from PyQt6.QtPrintSupport import QPrinter
from PyQt6.QtSvg import QSvgGenerator

from dromic.app.chart.frame import View
from dromic.app.chart.lanes import chart_layout, paint_all_lanes, paint_gutter
from dromic.app.chart.lanes.ruler import paint_phrases
from dromic.app.chart.layout import ChartLayout, default_zoom
from dromic.app.chart.painting import GUTTER, Scene, pen
from dromic.app.paper.sheet import (
    LABELS,
    TAB_LINE,
    UNIT_MM,
    ChartLine,
    PracticeSheet,
    Text,
    block_height,
    lay_out_sheet,
)
from dromic.app.theme import TEXT_FONT, UI_FONT, Theme
from dromic.errors import RiffError
from dromic.music.pitch import pitch_name
from dromic.planner.plan import Plan
from dromic.storage.writing import Wanted, always, write_bytes

PRINT = Theme(
    name="print",
    paper="#ffffff",
    sheet="#ffffff",
    ink="#000000",
    quiet="#3c3c3c",
    faint="#c4c4c4",
    rail="#ffffff",
    rail_ink="#000000",
    rail_on="#ffffff",
    accent="#000000",
    calm="#555555",
    warm="#222222",
    hot="#000000",
    ribbon="#e4e4e4",
    chosen="#e4e4e4",
    string="#808080",
    error_sheet="#ffffff",
)
MARGIN_MM = 14.0
FOOT = 26.0
PICTURE_HEIGHT = 520.0
MOST_PIXELS, FINE = 24_000, 2.0
_SIZES = {"title": 26, "heading": 17, "plain": 14, "strong": 14, "quiet": 14, "mono": 13}


# As large as one page holds, tried from large to the smallest that can still be read.
ONE_PAGE = 0.0
SMALLER = (1.0, 0.9, 0.8, 0.72, 0.65, 0.58, 0.52, 0.46)


def usual_paper() -> QPageSize:
    """Letter where people measure in inches, A4 elsewhere."""
    inches = QLocale.system().measurementSystem() is QLocale.MeasurementSystem.ImperialUSSystem
    return QPageSize(QPageSize.PageSizeId.Letter if inches else QPageSize.PageSizeId.A4)


def sheet_for(plan: Plan, size_mm: QSizeF, *, thick_on_top: bool = True, scale: float = 1.0) -> PracticeSheet:
    """Lay a plan out for a size of paper, so many times as large as usual, or as one page holds (`ONE_PAGE`).

    Parameters
    ----------
    plan : Plan
    size_mm : QSizeF
    thick_on_top : bool
    scale : float
    """
    if scale == ONE_PAGE:
        sheets = (sheet_for(plan, size_mm, thick_on_top=thick_on_top, scale=one) for one in SMALLER)
        return next((sheet for sheet in sheets if len(sheet.pages) == 1), sheet_for(plan, size_mm, scale=1.0))
    width = (size_mm.width() - 2 * MARGIN_MM) / UNIT_MM / scale
    height = (size_mm.height() - 2 * MARGIN_MM) / UNIT_MM / scale - FOOT
    fonts = {style: QFontMetricsF(_font(style)) for style in _SIZES}
    sheet = lay_out_sheet(
        plan,
        width,
        height,
        thick_on_top=thick_on_top,
        measure=lambda words, style: fonts[style].horizontalAdvance(words),
    )
    return replace(sheet, scale=scale)


def recorded_pages(
    plan: Plan, page: QPageLayout, *, thick_on_top: bool = True, scale: float = 1.0
) -> tuple[QPicture, ...]:
    """Draw a practice sheet page by page, to be played on a printer or its preview; may run in any thread.

    Parameters
    ----------
    plan : Plan
    page : QPageLayout
    thick_on_top : bool
    scale : float
    """
    size = page.pageSize().size(QPageSize.Unit.Millimeter)
    if page.orientation() is QPageLayout.Orientation.Landscape:
        size = size.transposed()
    sheet = sheet_for(plan, size, thick_on_top=thick_on_top, scale=scale)
    recorded_pages = []
    for number in range(len(sheet.pages)):
        picture = QPicture()
        painter = QPainter(picture)
        try:
            _paint_page(painter, sheet, number)
        finally:
            painter.end()
        recorded_pages.append(picture)
    return tuple(recorded_pages)


def print_pages(pages: Sequence[QPicture], printer: QPrinter) -> None:
    """Play pages on a printer."""
    printer.setFullPage(True)
    painter = QPainter(printer)
    try:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scale = printer.resolution() / 25.4 * UNIT_MM
        for number, page in enumerate(pages):
            if number:
                printer.newPage()
            painter.save()
            # A picture grows by itself with the resolution of what it is played on.
            painter.scale(
                scale * page.logicalDpiX() / printer.logicalDpiX(),
                scale * page.logicalDpiY() / printer.logicalDpiY(),
            )
            painter.drawPicture(0, 0, page)
            painter.restore()
    finally:
        painter.end()


def save_pdf(plan: Plan, path: Path, *, thick_on_top: bool = True, wanted: Wanted = always) -> int:
    """Save a practice sheet as PDF, on the paper that is usual here; returns the number of pages.

    Parameters
    ----------
    plan : Plan
    path : Path
    thick_on_top : bool
    wanted : Wanted

    Raises
    ------
    RiffError
        When it cannot be written; what stood there before is kept.
    """
    found = 0

    def draw(onto: QIODevice) -> bool:
        nonlocal found
        writer = QPdfWriter(onto)
        paper = usual_paper()
        writer.setPageSize(paper)
        writer.setPageMargins(QMarginsF(0, 0, 0, 0))
        writer.setResolution(300)
        writer.setTitle(plan.riff.title or "Practice sheet")
        writer.setCreator("Dromic")
        sheet = sheet_for(plan, paper.size(QPageSize.Unit.Millimeter), thick_on_top=thick_on_top)
        painter = QPainter()
        if not painter.begin(writer):
            return False
        try:
            for number in range(len(sheet.pages)):
                if number:
                    writer.newPage()
                painter.save()
                painter.scale(300 / 25.4 * UNIT_MM, 300 / 25.4 * UNIT_MM)
                _paint_page(painter, sheet, number)
                painter.restore()
        finally:
            painter.end()
        found = len(sheet.pages)
        return True

    _save_whole(path, draw, wanted)
    return found


def save_svg(plan: Plan, path: Path, theme: Theme, view: View, wanted: Wanted = always) -> None:
    """Save the whole chart as SVG.

    Parameters
    ----------
    plan : Plan
    path : Path
    theme : Theme
    view : View
    wanted : Wanted

    Raises
    ------
    RiffError
        When it cannot be written.
    """
    layout = chart_layout(plan, default_zoom(plan), PICTURE_HEIGHT, view)
    width = layout.width + GUTTER

    def draw(onto: QIODevice) -> bool:
        made = QSvgGenerator()
        made.setOutputDevice(onto)
        made.setSize(QSize(round(width), round(PICTURE_HEIGHT)))
        made.setViewBox(QRectF(0, 0, width, PICTURE_HEIGHT))
        made.setTitle(plan.riff.title or "Movement chart")
        painter = QPainter()
        if not painter.begin(made):
            return False
        try:
            _paint_chart(painter, layout, theme, width)
        finally:
            painter.end()
        return True

    _save_whole(path, draw, wanted)


def save_png(plan: Plan, path: Path, theme: Theme, view: View, wanted: Wanted = always) -> None:
    """Save the whole chart as PNG, twice as fine as on the screen where it is not too long for that.

    Parameters
    ----------
    plan : Plan
    path : Path
    theme : Theme
    view : View
    wanted : Wanted

    Raises
    ------
    RiffError
        When it cannot be written, or is too long for a picture.
    """
    layout = chart_layout(plan, default_zoom(plan), PICTURE_HEIGHT, view)
    width = layout.width + GUTTER
    if width > MOST_PIXELS:
        raise RiffError(
            f"the chart is {width:.0f} pixels long, and a picture at most {MOST_PIXELS}; save it as SVG or PDF",
            file=str(path),
        )
    ratio = min(FINE, MOST_PIXELS / width)

    def draw(onto: QIODevice) -> bool:
        image = QImage(round(width * ratio), round(PICTURE_HEIGHT * ratio), QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(ratio)
        image.fill(theme.color("sheet"))
        painter = QPainter(image)
        try:
            _paint_chart(painter, layout, theme, width)
        finally:
            painter.end()
        return image.save(onto, "PNG")

    _save_whole(path, draw, wanted)


def _save_whole(path: Path, draw: Callable[[QIODevice], bool], wanted: Wanted) -> None:
    drawn = QBuffer()
    drawn.open(QIODevice.OpenModeFlag.WriteOnly)
    if not draw(drawn) or not drawn.size():
        raise RiffError("it could not be drawn; try another kind: .pdf, .svg or .png", file=str(path))
    write_bytes(bytes(drawn.data().data()), path, wanted)


def _paint_chart(painter: QPainter, layout: ChartLayout, theme: Theme, width: float) -> None:
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(QRectF(0, 0, width, PICTURE_HEIGHT), theme.color("sheet"))
    scene = Scene(painter, theme, layout, 0.0, layout.width, None)
    painter.save()
    painter.translate(GUTTER, 0)
    paint_all_lanes(painter, theme, layout, 0.0, layout.width)
    paint_phrases(scene)
    painter.restore()
    paint_gutter(scene, PICTURE_HEIGHT)


# -- pages ----------------------------------------------------------------------------------------------------


def _paint_page(painter: QPainter, sheet: PracticeSheet, number: int) -> None:
    """Paint a page in the sheet's own units."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(MARGIN_MM / UNIT_MM, MARGIN_MM / UNIT_MM)
    painter.scale(sheet.scale, sheet.scale)
    for at, block in sheet.pages[number].blocks:
        if isinstance(block, ChartLine):
            _paint_system(painter, sheet, block, at)
        else:
            _paint_text(painter, block, at, sheet.width)
    foot = f"{sheet.plan.riff.title or 'Practice sheet'}, page {number + 1} of {len(sheet.pages)}"
    _paint_text(painter, Text(foot, "quiet"), sheet.height + FOOT - 16, sheet.width, right=True)


def _font(style: str) -> QFont:
    font = QFont(TEXT_FONT if style == "mono" else UI_FONT)
    font.setPixelSize(_SIZES[style])
    if style in ("title", "heading", "strong"):
        font.setWeight(QFont.Weight.DemiBold)
    if style == "mono":
        font.setStyleHint(QFont.StyleHint.Monospace)
    return font


def _paint_text(painter: QPainter, text: Text, at: float, width: float, *, right: bool = False) -> None:
    painter.setFont(_font(text.style))
    painter.setPen(QColor(PRINT.quiet if text.style == "quiet" else PRINT.ink))
    height = block_height(text)
    if text.style == "mono":
        for number, line in enumerate(text.words.split("\n"), start=1):
            painter.drawText(QPointF(0, at + number * TAB_LINE), line)
        return
    side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
    painter.drawText(QRectF(0, at, width, height), side | Qt.AlignmentFlag.AlignBottom, text.words)


def _paint_system(painter: QPainter, sheet: PracticeSheet, system: ChartLine, at: float) -> None:
    layout = sheet.layout
    left, right = system.left - 2, system.right + 2
    painter.save()
    painter.translate(0, at)
    _paint_labels(painter, layout)
    painter.translate(LABELS - system.left, 0)
    painter.save()
    painter.setClipRect(QRectF(system.left - 8, -2, system.right - system.left + 10, layout.load.bottom + 6))
    paint_all_lanes(painter, PRINT, layout, left, right)
    paint_phrases(Scene(painter, PRINT, layout, left, system.right - 12, None))
    painter.restore()
    for spot in sheet.spots:
        column = layout.columns[spot.step]
        if system.left - 1 <= column.x < system.right - 1:
            _paint_mark(painter, column.plate_x, layout.strokes.top - 2, str(spot.number))
    painter.restore()


def _paint_mark(painter: QPainter, x: float, y: float, words: str) -> None:
    """A hot spot's number, black on white turned round, over its note."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(PRINT.ink))
    painter.drawEllipse(QPointF(x, y), 9, 9)
    painter.setPen(QColor(PRINT.sheet))
    font = _font("plain")
    font.setWeight(QFont.Weight.DemiBold)
    painter.setFont(font)
    painter.drawText(QRectF(x - 9, y - 9.5, 18, 18), Qt.AlignmentFlag.AlignCenter, words)


def _paint_labels(painter: QPainter, layout: ChartLayout) -> None:
    instrument = layout.plan.instrument
    painter.setFont(_font("quiet"))
    painter.setPen(QColor(PRINT.quiet))
    rows = [((layout.hand.top + layout.hand.bottom) / 2, "finger"), (layout.load_y(1.0), "limit")]
    rows.append(((layout.strokes.top + layout.strokes.bottom) / 2, "stroke"))
    for string in range(1, instrument.strings + 1):
        name = pitch_name(instrument.tuning[instrument.index(string)] + instrument.capo)
        rows.append((layout.string_y(string), name))
    for y, words in rows:
        box = QRectF(0, y - 10, LABELS - 9, 20)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
    painter.setPen(pen(PRINT.color("string"), 1.0))


def save_paper(plan: Plan, path: Path, theme: Theme, view: View, wanted: Wanted = always) -> None:
    """Save a plan as what the name ends with: the practice sheet, or a picture of the chart.

    The file appears only where `wanted` still says so at the end.

    Parameters
    ----------
    plan : Plan
    path : Path
    theme : Theme
    view : View
    wanted : Wanted

    Raises
    ------
    RiffError
        When it cannot be written.
    """
    suffix = path.suffix.lower()
    if suffix == ".pdf":
        save_pdf(plan, path, thick_on_top=view.thick_on_top, wanted=wanted)
    elif suffix == ".svg":
        save_svg(plan, path, theme, view, wanted)
    else:
        save_png(plan, path, theme, view, wanted)
