"""A panel beside the work that folds away: by itself where the window is narrow, else as the player wants it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QToolButton, QWidget

HANDLE = 16


class FoldingSide(QWidget):
    """Holds a panel at the right of a page, with a handle that folds it.

    Parameters
    ----------
    panel : QWidget
    name : str
        What it is, for the handle's words.
    least, widest : int
        Its width in pixels; between them it takes its share of the page.
    share : float
        Of the page's width.
    room : int
        Width of the page from which on it shows by itself.

    Signals
    -------
    folded : bool
        The player has folded it, or brought it back.
    """

    folded = pyqtSignal(bool)

    def __init__(
        self, panel: QWidget, name: str, *, least: int, widest: int, share: float = 0.3, room: int = 640
    ) -> None:
        super().__init__()
        self.panel, self._name = panel, name
        self._least, self._widest, self._share, self._room = least, widest, share, room
        self._wanted: bool | None = None
        self.handle = QToolButton()
        self.handle.setObjectName("fold")
        self.handle.setCursor(Qt.CursorShape.PointingHandCursor)
        self.handle.setFixedWidth(HANDLE)
        self.handle.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.handle.clicked.connect(self.toggle)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        row.addWidget(self.handle)
        row.addWidget(panel)
        panel.setMinimumWidth(0)
        self._show(shown=True)

    @property
    def shown(self) -> bool:
        """Whether the panel is there."""
        return not self.panel.isHidden()

    def want(self, wanted: bool | None) -> None:
        """Show it or not, whatever room there is; None for as there is room."""
        self._wanted = wanted
        page = self.parentWidget()
        self.fit(self._room if page is None else page.width())

    def toggle(self) -> None:
        """Fold it, or bring it back."""
        self._wanted = not self.shown
        self._show(shown=self._wanted)
        self.folded.emit(not self._wanted)

    def fit(self, room: int) -> None:
        """Take a share of a page that is so wide; in a narrow one the work comes first."""
        self.panel.setFixedWidth(min(max(round(room * self._share), self._least), self._widest))
        self._show(shown=room >= self._room if self._wanted is None else self._wanted)

    def _show(self, *, shown: bool) -> None:
        self.panel.setVisible(shown)
        self.handle.setText("›" if shown else "‹")
        self.updateGeometry()
        words = f"Fold {self._name} away (F4)" if shown else f"Show {self._name} (F4)"
        self.handle.setToolTip(words)
        self.handle.setAccessibleName(words)

    def sizeHint(self) -> QSize:
        """The handle, and the panel where it shows."""
        wide = HANDLE + (2 + self.panel.width() if self.shown else 0)
        return QSize(wide, super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        """The handle: whatever is in the panel, the window may get narrow, and then it folds."""
        return QSize(HANDLE, 0)

    def changeEvent(self, event: QEvent | None) -> None:
        """Keep the handle narrow in any font."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.StyleChange:
            self.handle.setFixedWidth(HANDLE)
