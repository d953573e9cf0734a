"""Playing the plan: rendered off the interface thread, sent to a sound device, or played in silence without one.

The silent stand-in keeps time as a device would, so that the cursor on the chart moves all the same.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QByteArray, QElapsedTimer, QIODevice, QObject, QTimer, pyqtSignal

from dromic.app.jobs import Jobs, single
from dromic.arrays import Floats
from dromic.errors import DromicError
from dromic.listening.sound.extent import Extent
from dromic.listening.sound.metronome import count_in_seconds
from dromic.listening.sound.rendering import pcm, render
from dromic.listening.sound.voice import RATE
from dromic.planner.plan import Plan

TICK_MS = 25
BYTES_A_SAMPLE = 2


@dataclass(frozen=True)
class Wanted:
    """What is to be played.

    Parameters
    ----------
    plan : Plan
    extent : Extent
    loop : bool
        Whether it goes round, without the count-in.
    sound : callable or None
        Makes what is heard, as samples at `RATE`; None for the plan's own sound. It lasts as long as the extent.
    """

    plan: Plan
    extent: Extent
    loop: bool
    sound: Callable[[], Floats] | None = None


@dataclass(frozen=True)
class Rendered:
    """Sound to play: what comes once, and what comes again and again (the same when it does not loop)."""

    lead: bytes
    body: bytes


def _rendered(wanted: Wanted) -> Rendered:
    sound = pcm(render(wanted.plan, wanted.extent) if wanted.sound is None else wanted.sound())
    lead = round(count_in_seconds(wanted.plan, wanted.extent) * RATE) * BYTES_A_SAMPLE
    return Rendered(sound[:lead], sound[lead:])


class _Source(QIODevice):
    """Gives a device its samples: the lead once, the body once or again and again."""

    def __init__(self, rendered: Rendered, loop: bool, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._rendered, self._loop, self._at = rendered, loop, 0
        self.open(QIODevice.OpenModeFlag.ReadOnly)

    def readData(self, most: int) -> bytes:
        """Return the next samples."""
        lead, body = self._rendered.lead, self._rendered.body
        found = bytearray()
        while len(found) < most:
            if self._at < len(lead):
                piece = lead[self._at : self._at + most - len(found)]
            else:
                place = self._at - len(lead)
                if self._loop and body:
                    place %= len(body)
                piece = body[place : place + most - len(found)]
            if not piece:
                break
            found += piece
            self._at += len(piece)
        return bytes(found)

    def writeData(self, _data: QByteArray | bytes) -> int:  # type: ignore[override]
        """Nothing is written here."""
        return -1

    def isSequential(self) -> bool:
        """Samples come one after the other."""
        return True

    def bytesAvailable(self) -> int:
        """How much there is still to come."""
        whole = len(self._rendered.lead) + len(self._rendered.body)
        return 2**20 if self._loop else max(whole - self._at, 0) + super().bytesAvailable()


def _device() -> Any | None:
    """The default sound device with its format, or None where there is none or Qt's sound does not load."""
    try:
        from PyQt6.QtMultimedia import QAudioFormat, QMediaDevices
    except ImportError:
        return None
    return with_format(QMediaDevices.defaultAudioOutput(), QAudioFormat)


def with_format(device: Any, make_format: Any) -> Any | None:
    """A sound device with the one format that is used here, one channel of 16 bits; None where it has not that.

    Parameters
    ----------
    device : QAudioDevice
    make_format : type
        Qt's class of formats, which is loaded late.
    """
    wanted = make_format()
    wanted.setSampleRate(RATE)
    wanted.setChannelCount(1)
    wanted.setSampleFormat(make_format.SampleFormat.Int16)
    if device.isNull() or not device.isFormatSupported(wanted):
        return None
    return device, wanted


class Player(QObject):
    """Plays parts of plans.

    Signals
    -------
    started : no argument
        The sound is ready and runs.
    moved : float
        Place in quarter notes; below the start while it counts in.
    went_round : int
        It begins again, for the so many-th time, from 1.
    stopped : no argument
    told : str
    """

    started = pyqtSignal()
    moved = pyqtSignal(float)
    went_round = pyqtSignal(int)
    stopped = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._jobs = Jobs(self)
        self._jobs.found.connect(self._take)
        self._jobs.finished.connect(self._failed)
        self._wanted: Wanted | None = None
        self._rendered: Rendered | None = None
        self._sink: Any | None = None
        self._source: _Source | None = None
        self._rounds = 0
        self._told_silent = False
        self._clock = QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self._tick)

    @property
    def playing(self) -> bool:
        """Whether something plays, or is about to."""
        return self._wanted is not None

    @property
    def silent(self) -> bool:
        """Whether there is no sound device, so that only the cursor moves."""
        return self._sink is None

    @property
    def wanted(self) -> Wanted | None:
        """What plays, or is about to."""
        return self._wanted

    @property
    def seconds_played(self) -> float:
        """How long the body has sounded, the count-in left out; below 0 while it counts in."""
        if self._rendered is None:
            return 0.0
        return self._seconds() - len(self._rendered.lead) / BYTES_A_SAMPLE / RATE

    def play(self, wanted: Wanted) -> None:
        """Render and play; what plays now stops."""
        self.stop()
        self._wanted = wanted
        self._jobs.ask(single(lambda: _rendered(wanted)))

    def _take(self, rendered: Rendered) -> None:
        wanted = self._wanted
        if wanted is None:
            return
        self._rendered, self._rounds = rendered, 0
        self._open(rendered, wanted.loop)
        self._clock.start()
        self._timer.start()
        self.started.emit()

    def _failed(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.message.emit(f"The plan could not be sounded: {trouble}")
            self.stop()

    def _open(self, rendered: Rendered, loop: bool) -> None:
        found = _device()
        if found is None:
            if not self._told_silent:
                self._told_silent = True
                self.message.emit("There is no sound device here: the cursor keeps time in silence")
            return
        self._told_silent = False
        from PyQt6.QtMultimedia import QAudioSink

        device, wanted = found
        self._source = _Source(rendered, loop, self)
        self._sink = QAudioSink(device, wanted, self)
        self._sink.start(self._source)

    def _seconds(self) -> float:
        if self._sink is not None:
            return float(self._sink.processedUSecs()) / 1e6
        return self._clock.elapsed() / 1000.0

    def _tick(self) -> None:
        wanted, rendered = self._wanted, self._rendered
        if wanted is None or rendered is None:
            return
        lead = len(rendered.lead) / BYTES_A_SAMPLE / RATE
        body = len(rendered.body) / BYTES_A_SAMPLE / RATE
        since = self._seconds() - lead
        if since >= body and not wanted.loop:
            self.stop()
            return
        passes, since = divmod(since, body) if wanted.loop and since > 0 and body > 0 else (0.0, since)
        rounds = int(passes) * wanted.extent.rounds + (wanted.extent.round_at(since) if since > 0 else 0)
        if rounds > self._rounds:
            self._rounds = rounds
            self.went_round.emit(self._rounds)
            if self._wanted is not wanted:
                # Whoever listens has stopped it, or plays something else.
                return
        self.moved.emit(wanted.extent.place(since))

    def stop(self) -> None:
        """Stop playing, and rendering."""
        self._jobs.cancel()
        self._timer.stop()
        if self._sink is not None:
            self._sink.stop()
            self._sink.deleteLater()
            self._sink = None
        if self._source is not None:
            self._source.close()
            self._source.deleteLater()
            self._source = None
        was = self._wanted is not None
        self._wanted, self._rendered = None, None
        if was:
            self.stopped.emit()

    def close(self) -> None:
        """Stop, and wait until no thread is left."""
        self.stop()
        self._jobs.stop()
