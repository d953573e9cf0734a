"""One program for all windows: a second start hands its files to the first and is done.

The socket is the user's own; what comes through it is a list of paths, nothing else. Where no socket can be made
every start is a program of its own, as before.
"""

from __future__ import annotations

import getpass
import json
import os
from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtNetwork import QLocalServer, QLocalSocket

WAIT_MS, MOST_BYTES, MOST_FILES = 1000, 65_536, 50
ALONE = "DROMIC_ALONE"
DONE = b"taken"


def server_name() -> str:
    """Name of the user's socket; one for each display and folder of settings."""
    place = "-".join(os.environ.get(name, "") for name in ("WAYLAND_DISPLAY", "DISPLAY", "XDG_CONFIG_HOME"))
    safe = "".join(letter if letter.isalnum() else "_" for letter in f"{getpass.getuser()}-{place}")
    return f"dromic-{safe}"[:90]


def handed_over(files: Sequence[Path]) -> bool:
    """Ask a program that is running to open some files, or a new window; whether it does."""
    if os.environ.get(ALONE):
        return False
    socket = QLocalSocket()
    socket.connectToServer(server_name())
    if not socket.waitForConnected(WAIT_MS):
        return False
    socket.write(json.dumps([str(path.resolve()) for path in files]).encode() + b"\n")
    if not socket.waitForBytesWritten(WAIT_MS):
        return False
    answered = socket.waitForReadyRead(WAIT_MS) and bytes(socket.readAll().data()).strip() == DONE
    socket.disconnectFromServer()
    return answered


class Listener(QObject):
    """Takes what later starts hand over.

    Parameters
    ----------
    opened : callable
        Told the files to open; none for a new window.
    """

    def __init__(self, opened: Callable[[tuple[Path, ...]], object], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._opened = opened
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._take)
        if not os.environ.get(ALONE) and not self._server.listen(server_name()):
            # A program that was killed leaves its socket; nobody answers there, or it would have been handed over.
            QLocalServer.removeServer(server_name())
            self._server.listen(server_name())

    @property
    def listening(self) -> bool:
        """Whether later starts come here."""
        return self._server.isListening()

    def close(self) -> None:
        """Listen no more."""
        self._server.close()

    def _take(self) -> None:
        socket = self._server.nextPendingConnection()
        if socket is None:
            return
        socket.readyRead.connect(lambda: self._read(socket))
        socket.disconnected.connect(socket.deleteLater)
        if socket.bytesAvailable():
            self._read(socket)

    def _read(self, socket: QLocalSocket) -> None:
        if socket.bytesAvailable() > MOST_BYTES:
            socket.abort()
            return
        if not socket.canReadLine():
            return
        files = _files(bytes(socket.readLine().data()))
        if files is None:
            socket.abort()
            return
        socket.write(DONE + b"\n")
        socket.flush()
        self._opened(files)


def _files(line: bytes) -> tuple[Path, ...] | None:
    """The files that a line asks for; None where it is not one of ours."""
    try:
        names = json.loads(line)
    except (ValueError, RecursionError):
        return None
    if not isinstance(names, list) or len(names) > MOST_FILES or not all(isinstance(one, str) for one in names):
        return None
    return tuple(Path(name) for name in names)
