"""Two plans played in turn, so that the ear can tell them apart: one, the other, and again, until it is stopped."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from dromic.app.sound import Player, Wanted
from dromic.listening.sound.extent import whole
from dromic.planner.plan import Plan


class InTurn(QObject):
    """Plays two plans one after the other.

    Signals
    -------
    changed : no argument
        Another plan sounds, or none.
    message : str
    """

    changed = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.player = Player(self)
        self.player.stopped.connect(self._over)
        self.player.message.connect(self.message)
        self._plans: tuple[Plan, Plan] | None = None
        self._at = 0

    @property
    def sounding(self) -> Plan | None:
        """The plan that sounds, or is about to."""
        return None if self._plans is None else self._plans[self._at]

    def play(self, one: Plan, other: Plan) -> None:
        """Begin with the one."""
        self.stop()
        self._plans, self._at = (one, other), 0
        self._sound()

    def stop(self) -> None:
        """Play no more."""
        self._plans = None
        self.player.stop()
        self.changed.emit()

    def close(self) -> None:
        """Stop, and wait until no thread is left."""
        self._plans = None
        self.player.close()

    def _sound(self) -> None:
        plan = self.sounding
        if plan is not None:
            self.changed.emit()
            self.player.play(Wanted(plan, whole(plan, plan.tempo), loop=False))

    def _over(self) -> None:
        """One has come to its end: the other's turn."""
        if self._plans is not None:
            self._at = 1 - self._at
            self._sound()
