"""The print preview of the practice sheet: its pages are drawn off the interface thread."""

from __future__ import annotations

from contextlib import suppress

from PyQt6.QtGui import QPageLayout, QPicture
from PyQt6.QtPrintSupport import QPrinter, QPrintPreviewDialog, QPrintPreviewWidget
from PyQt6.QtWidgets import QComboBox, QToolBar, QWidget

from dromic.app.jobs import CancelledError, wait_for
from dromic.app.paper.printing import ONE_PAGE, print_pages, recorded_pages, usual_paper
from dromic.planner.plan import Plan

SIZES = (("Plain", 1.0), ("Large print", 1.5), ("On one page", ONE_PAGE))


class SheetPreview:
    """Shows a plan's practice sheet as it will be printed; another paper lays it out anew.

    Parameters
    ----------
    plan : Plan
    thick_on_top : bool
    parent : QWidget
    """

    def __init__(self, plan: Plan, thick_on_top: bool, parent: QWidget) -> None:
        self._plan, self._thick_on_top, self._parent = plan, thick_on_top, parent
        self.size = QComboBox()
        for words, scale in SIZES:
            self.size.addItem(words, scale)
        self.size.setAccessibleName("Size of the print")
        self._drawn_for: QPageLayout | None = None
        self.pages: tuple[QPicture, ...] = ()
        # The dialog does not keep its printer alive.
        self._printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        self._printer.setPageSize(usual_paper())
        self._printer.setDocName(plan.riff.title or "Practice sheet")
        self.dialog = QPrintPreviewDialog(self._printer, parent)
        self.dialog.setWindowTitle("Practice sheet")
        self.dialog.resize(980, 760)
        self.dialog.paintRequested.connect(self._paint)
        bar = self.dialog.findChild(QToolBar)
        if bar is not None:
            bar.addSeparator()
            bar.addWidget(self.size)
        self.size.currentIndexChanged.connect(self._again)

    def open(self) -> None:
        """Draw the sheet and show it.

        Raises
        ------
        CancelledError
            When the player does not want to wait.
        """
        self._draw(self._printer, self._parent)
        self.dialog.open()

    def _again(self) -> None:
        """Lay the sheet out anew, in another size."""
        self._drawn_for = None
        shown = self.dialog.findChild(QPrintPreviewWidget)
        if shown is not None:
            shown.updatePreview()

    def _draw(self, printer: QPrinter, parent: QWidget) -> None:
        page = printer.pageLayout()
        scale = float(self.size.currentData())
        if page != self._drawn_for:
            self.pages = wait_for(
                parent,
                "Laying out the practice sheet…",
                lambda: recorded_pages(self._plan, page, thick_on_top=self._thick_on_top, scale=scale),
            )
            self._drawn_for = page

    def _paint(self, printer: QPrinter | None) -> None:
        if printer is None:
            return
        # When another paper is given up, the sheet stays as it was.
        with suppress(CancelledError):
            self._draw(printer, self.dialog)
        print_pages(self.pages, printer)
