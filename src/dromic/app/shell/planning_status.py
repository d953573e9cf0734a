"""Planning at the foot of the window: how far it is, and a button that cancels it."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QProgressBar, QPushButton, QStatusBar

from dromic.app.plan.worker import PlanWorker

NOT_WORTH_SHOWING_MS = 200


class PlanningStatus:
    """A progress bar and a button, shown while planning is under way that lasts.

    Parameters
    ----------
    bar : QStatusBar
    planner : PlanWorker
    """

    def __init__(self, bar: QStatusBar, planner: PlanWorker) -> None:
        self.progress = QProgressBar()
        self.progress.setFixedWidth(160)
        self.progress.setTextVisible(False)
        self.progress.setAccessibleName("Planning")
        self.cancel = QPushButton("Cancel planning")
        self.cancel.clicked.connect(planner.cancel)
        bar.addPermanentWidget(self.progress)
        bar.addPermanentWidget(self.cancel)
        self._wait = QTimer(bar)
        self._wait.setSingleShot(True)
        self._wait.setInterval(NOT_WORTH_SHOWING_MS)
        self._wait.timeout.connect(lambda: self._show(working=True))
        planner.busy.connect(self._busy)
        planner.progressed.connect(lambda share: self.progress.setValue(round(100 * share)))
        self._show(working=False)

    def _busy(self, working: bool) -> None:
        self.progress.setValue(0)
        if working:
            self._wait.start()
        else:
            self._wait.stop()
            if not self.progress.isHidden():
                self._show(working=False)

    def _show(self, *, working: bool) -> None:
        self.progress.setVisible(working)
        self.cancel.setVisible(working)
