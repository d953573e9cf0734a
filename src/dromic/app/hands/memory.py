"""Which hands are the player's own, to be remembered from start to start.

A file may bring hands of somebody else; they hold for it, and the player's own stay remembered. Hands that the
player changes are remembered at once, and forgotten again when the change is undone.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from dromic.app.document import Document
from dromic.app.document_changes import Cause, Change
from dromic.hands.profile import Hands


class HandsMemory:
    """Keeps what is remembered in step with the document.

    Parameters
    ----------
    document : Document
    remembered : Hands or None
        From an earlier start; the document takes them.
    remember : callable
        Writes down what is to be remembered.
    """

    def __init__(self, document: Document, remembered: Hands | None, remember: Callable[[Hands | None], None]):
        self._document, self._remember = document, remember
        self.remembered = remembered
        # What was remembered while the document had these hands.
        self._beside: dict[Hands | None, Hands | None] = {}
        if remembered is not None:
            document.plan_settings = replace(document.plan_settings, own=remembered)
        self._shown = document.plan_settings.own
        document.listen(self._heard)

    def _heard(self, change: Change) -> None:
        own = self._document.plan_settings.own
        if change is not Change.PLAN_SETTINGS or own == self._shown:
            return
        if self._document.cause is Cause.PLAYER:
            self._beside[self._shown] = self.remembered
            self._beside[own] = own
            self._take(own)
        elif self._document.cause is Cause.UNDO and own in self._beside:
            self._take(self._beside[own])
        self._shown = own

    def _take(self, hands: Hands | None) -> None:
        if hands != self.remembered:
            self.remembered = hands
            self._remember(hands)
