"""The print preview of the practice sheet: its pages are drawn off the interface thread."""

from __future__ import annotations

from contextlib import suppress

from PyQt6.QtGui import QPageLayout, QPicture
from PyQt6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PyQt6.QtWidgets import QWidget

from dromic.app.jobs import CancelledError, wait_for
from dromic.app.paper.printing import print_pages, recorded_pages, usual_paper
from dromic.planner.plan import Plan


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

    def open(self) -> None:
        """Draw the sheet and show it.

        Raises
        ------
        CancelledError
            When the player does not want to wait.
        """
        self._draw(self._printer, self._parent)
        self.dialog.open()

    def _draw(self, printer: QPrinter, parent: QWidget) -> None:
        page = printer.pageLayout()
        if page != self._drawn_for:
            self.pages = wait_for(
                parent,
                "Laying out the practice sheet…",
                lambda: recorded_pages(self._plan, page, thick_on_top=self._thick_on_top),
            )
            self._drawn_for = page

    def _paint(self, printer: QPrinter | None) -> None:
        if printer is None:
            return
        # When another paper is given up, the sheet stays as it was.
        with suppress(CancelledError):
            self._draw(printer, self.dialog)
        print_pages(self.pages, printer)
