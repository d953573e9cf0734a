"""Records a take: samples from an input into a file, with their level on the way."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs, single
from dromic.app.listen.inputs import Input
from dromic.app.listen.takes import TakeFolder, TakeInProgress
from dromic.errors import DromicError
from dromic.listening.hearing.recording import CLIPPED_AT, LONGEST_TAKE_S

FULL = 32_768.0
BYTES_A_SAMPLE = 2


class Recorder(QObject):
    """Records one take at a time.

    Signals
    -------
    level : float, bool
        Peak of the last moment from 0 to 1, and whether anything has clipped in this take.
    finished : Path
        The take is written.
    message : str
    changed : no argument
        It has begun to record, or has stopped.
    """

    level = pyqtSignal(float, bool)
    finished = pyqtSignal(object)
    message = pyqtSignal(str)
    changed = pyqtSignal()

    def __init__(self, folder: TakeFolder, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._folder = folder
        self._input: Input | None = None
        self._take: TakeInProgress | None = None
        self._clipped, self._told = False, False
        self._jobs = Jobs(self)
        self._jobs.found.connect(self._written)
        self._jobs.finished.connect(self._not_written)

    @property
    def writing(self) -> bool:
        """Whether a take that is over is being written."""
        return self._jobs.working

    @property
    def recording(self) -> bool:
        """Whether a take is being recorded."""
        return self._input is not None

    @property
    def unwritten(self) -> bool:
        """Whether a take is over and could not be written yet."""
        return self._input is None and self._take is not None and not self.writing

    @property
    def seconds(self) -> float:
        """How long the take is so far."""
        return len(self._take.samples) / BYTES_A_SAMPLE / self._take.rate if self._take is not None else 0.0

    def start(self, source: Input, title: str) -> None:
        """Record from an input."""
        if self.recording:
            return
        self._clipped, self._told = False, False
        self._input = source
        self._take = self._folder.begin(title, source.rate)
        self.changed.emit()
        source.start(self._got, self._ended)

    def stop(self) -> None:
        """The take is over: write it."""
        source, self._input = self._input, None
        if source is not None:
            source.stop()
            self.changed.emit()
        self.write()

    def write(self) -> None:
        """Write the take that is over; where that fails it stays here, to be written another time."""
        take = self._take
        if take is None or self.recording or self.writing:
            return
        if not take.samples:
            self._take = None
            return
        self._jobs.ask(single(take.finish))

    def close(self) -> None:
        """End the take and wait until it is written; where that fails its raw samples are still on the disk."""
        if self.recording:
            self.stop()
        self._jobs.stop()

    def _written(self, path: Path) -> None:
        self._take = None
        self.finished.emit(path)

    def _not_written(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.message.emit(
                f"The take could not be written and is kept in memory; press R to try again: {error_words(trouble)}"
            )
        self.changed.emit()

    def _got(self, data: bytes) -> None:
        take = self._take
        if take is None or not self.recording:
            return
        take.add(data)
        if take.trouble and not self._told:
            self._told = True
            self.message.emit(take.trouble)
        samples = np.abs(np.frombuffer(data[: len(data) // 2 * 2], "<i2").astype(float)) / FULL
        peak = float(samples.max()) if len(samples) else 0.0
        self._clipped = self._clipped or peak >= CLIPPED_AT
        self.level.emit(peak, self._clipped)
        if self.seconds >= LONGEST_TAKE_S:
            self.message.emit("Half an hour is the longest take; it has been ended here")
            self.stop()

    def _ended(self, why: str) -> None:
        if why:
            self.message.emit(why)
        self.stop()
