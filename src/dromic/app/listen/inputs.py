"""Where a take comes from while it is recorded: an input device, or the simulated player in its place."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

from PyQt6.QtCore import QIODevice, QObject, QTimer

from dromic.app.jobs import Jobs, single
from dromic.app.sound import with_format
from dromic.listening.sound.player_errors import Errors
from dromic.listening.sound.rendering import pcm
from dromic.listening.sound.simulated import performance, take_of
from dromic.listening.sound.voice import RATE
from dromic.planner.plan import Plan

TICK_MS = 50
BYTES_A_SAMPLE = 2
NO_INPUT = (
    "There is no sound input here. Plug one in and try again, open a take that was recorded elsewhere, or listen "
    "to an example take"
)
GONE = "The sound input is gone. What was recorded until then is kept"


class Input(Protocol):
    """Something that gives samples: 16 bits each, one channel."""

    rate: int

    def start(self, take: Callable[[bytes], None], end: Callable[[str], None]) -> None:
        """Begin to give samples.

        Parameters
        ----------
        take : callable
            Given the samples as they come.
        end : callable
            Told why there are no more; nothing where it is simply over.
        """

    def stop(self) -> None:
        """Give no more."""


class DeviceInput(QObject):
    """The computer's sound input."""

    def __init__(self, device: Any, wanted: Any, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._device, self._wanted = device, wanted
        self.rate = int(wanted.sampleRate())
        self._source: Any | None = None
        self._stream: QIODevice | None = None

    def start(self, take: Callable[[bytes], None], end: Callable[[str], None]) -> None:
        """Open the device."""
        from PyQt6.QtMultimedia import QAudio, QAudioSource

        self._source = QAudioSource(self._device, self._wanted, self)
        self._stream = self._source.start()
        if self._stream is None:
            end(NO_INPUT)
            return
        stream = self._stream

        def read() -> None:
            take(stream.readAll().data())

        def changed() -> None:
            if self._source is not None and self._source.error() != QAudio.Error.NoError:
                end(GONE)

        stream.readyRead.connect(read)
        self._source.stateChanged.connect(changed)

    def stop(self) -> None:
        """Close the device."""
        source, self._source, self._stream = self._source, None, None
        if source is not None:
            source.stop()
            source.deleteLater()


def default_input(parent: QObject | None = None) -> DeviceInput | None:
    """The default sound input; None where there is none, or Qt's sound does not load."""
    try:
        from PyQt6.QtMultimedia import QAudioFormat, QMediaDevices
    except ImportError:
        return None
    found = with_format(QMediaDevices.defaultAudioInput(), QAudioFormat)
    if found is None:
        return None
    device, wanted = found
    return DeviceInput(device, wanted, parent)


class SimulatedInput(QObject):
    """The simulated player in place of instrument and device: plays a plan in real time, or faster.

    Parameters
    ----------
    plan : Plan
    seed : int
    errors : Errors
    rounds : int
    speed : float
        How much faster than a clock it plays.
    tempo : float or None
        At its start; None for the plan's own.
    """

    def __init__(
        self,
        plan: Plan,
        seed: int,
        errors: Errors,
        rounds: int = 2,
        speed: float = 1.0,
        tempo: float | None = None,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.rate = RATE
        self._plan, self._seed, self._errors, self._rounds, self._speed = plan, seed, errors, rounds, speed
        self._tempo = tempo
        self._data, self._at = b"", 0
        self._jobs = Jobs(self)
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)

    def start(self, take: Callable[[bytes], None], end: Callable[[str], None]) -> None:
        """Begin to play."""
        plan, seed, errors, rounds, tempo = self._plan, self._seed, self._errors, self._rounds, self._tempo

        def sounded() -> bytes:
            return pcm(take_of(performance(plan, seed, errors, rounds=rounds, tempo=tempo)).sound)

        self._jobs.found.connect(self._begin)
        self._jobs.finished.connect(lambda trouble: end(str(trouble)) if trouble is not None else None)
        self._jobs.ask(single(sounded))
        piece = round(TICK_MS / 1000 * RATE * self._speed) * BYTES_A_SAMPLE

        def tick() -> None:
            chunk = self._data[self._at : self._at + piece]
            self._at += len(chunk)
            if chunk:
                take(chunk)
            else:
                self._timer.stop()
                end("")

        self._timer.timeout.connect(tick)

    def _begin(self, data: bytes) -> None:
        self._data, self._at = data, 0
        self._timer.start()

    def stop(self) -> None:
        """Stop playing."""
        self._timer.stop()
        self._jobs.stop()
        self._data = b""
