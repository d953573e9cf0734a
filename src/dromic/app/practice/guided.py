"""Guided through a session: block after block, repetition after repetition, by a few keys."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from dromic.app.practice.guided_screen import GuidedScreen, Moment
from dromic.app.practice.run import LEAST_RAMP_S, RAMPS, GuidedRun
from dromic.app.sound import Player, Wanted
from dromic.app.theme import Theme
from dromic.listening.sound.metronome import counted_beats
from dromic.practice.log.logbook import Rep
from dromic.practice.session.care import PAIN

TICK_MS, MIX_PAUSE_MS = 200, 400
TIGHT_FROM = 4


class GuidedView(QWidget):
    """Plays a session.

    Signals
    -------
    prepare_wanted : no argument
        The run's block has to be made ready.
    other_wanted, smaller_wanted : no argument
        Something else in the block's place; a smaller piece of it.
    logged : Rep
        A repetition to be written down.
    over : str
        The session has ended, and how.
    message : str
    """

    prepare_wanted = pyqtSignal()
    other_wanted = pyqtSignal()
    smaller_wanted = pyqtSignal()
    logged = pyqtSignal(object)
    over = pyqtSignal(str)
    message = pyqtSignal(str)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.run: GuidedRun | None = None
        self.player = Player(self)
        self.player.moved.connect(self._moved)
        self.player.went_round.connect(self._went_round)
        self.player.started.connect(self._began)
        self.player.stopped.connect(self._stopped)
        self.player.message.connect(self.message)
        self._paused, self._switching, self._waits_for_sound = True, False, False
        self._left_s, self._ticked = 0.0, time.monotonic()
        self._round_at = time.monotonic()
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self._tick)
        self._mix_pause = QTimer(self)
        self._mix_pause.setSingleShot(True)
        self._mix_pause.setInterval(MIX_PAUSE_MS)
        self._mix_pause.timeout.connect(self._play)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Guided session")
        self.face = GuidedScreen(theme)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.addWidget(self.face)
        for button, do in (
            (self.face.clean, lambda: self.answer(True)),
            (self.face.not_clean, lambda: self.answer(False)),
            (self.face.pause, self.toggle),
            (self.face.skip, self.skip),
            (self.face.other, self.other_wanted.emit),
            (self.face.end, self.end),
            (self.face.pain, self.hurts),
        ):
            button.clicked.connect(lambda _checked=False, do=do: do())
        self.face.mix_bar.changed.connect(self._mixed)
        self.face.note.returnPressed.connect(self._note)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self.face.set_theme(theme)

    # -- going through the session ------------------------------------------------------------------------------

    def begin(self, run: GuidedRun, at: int = 0) -> None:
        """Start a session at a block."""
        self.run = run
        self._timer.start()
        self.setFocus()
        self._enter(at)

    def _enter(self, at: int, left_s: float | None = None) -> None:
        run = self.run
        if run is None:
            return
        self._silence()
        run.go_to(at)
        self._left_s = 60.0 * run.block.minutes if left_s is None else left_s
        self._ticked = time.monotonic()
        self._paused = False
        self.face.chart.set_plan(None)
        if run.block.drill is not None:
            self._waits_for_sound = True
            self.face.chart.set_planning(True)
            self.prepare_wanted.emit()
        self._refresh()

    def block_changed(self) -> None:
        """Something else stands in the block's place; its time goes on."""
        if self.run is not None:
            self._enter(self.run.at, self._left_s)

    def ready(self) -> None:
        """The block can be played."""
        self.face.chart.set_planning(False)
        self._show_plan()
        self._play()
        self._refresh()

    def refused(self, words: str) -> None:
        """The block cannot be played; go on with the next."""
        self.message.emit(words)
        self._next()

    def _show_plan(self) -> None:
        plan = self.run.drill_plan if self.run is not None else None
        self.face.chart.set_plan(plan)
        if plan is not None and self.run is not None:
            self.face.chart.fit_short()
            self.face.chart.set_tempo(self.run.rung.tempo)

    def _play(self) -> None:
        run = self.run
        plan = run.drill_plan if run is not None else None
        if run is None or plan is None or self._paused:
            return
        extent = run.extent(self._share, self.face.mix_bar.mix, self.face.mix_bar.metronome)
        if extent is None:
            return
        self._switching, self._waits_for_sound = True, True
        self.player.play(Wanted(plan, extent, loop=run.block.kind not in RAMPS))
        self._switching = False
        self._refresh()

    def _began(self) -> None:
        self._waits_for_sound = False
        if self.run is not None:
            self.run.warm = True
        self._round_at = self._ticked = time.monotonic()

    def _silence(self) -> None:
        self._mix_pause.stop()
        self._switching = True
        self.player.stop()
        self._switching = False
        self.face.chart.set_playhead(None)
        self._waits_for_sound = False

    def _stopped(self) -> None:
        """A ramp has come to its end: it goes on, or again."""
        if self._switching or self.run is None or self._paused or self.run.block.kind not in RAMPS:
            return
        self._log(self.run.went_round(time.monotonic() - self._round_at))
        if self._left_s > LEAST_RAMP_S:
            self._play()
        else:
            self._next()

    def _moved(self, quarters: float) -> None:
        self.face.chart.set_playhead(quarters)
        wanted = self.player.wanted
        if wanted is None:
            return
        meter = wanted.plan.riff.meter
        beat, bar = float(meter.beat), float(meter.bar)
        counted = quarters < wanted.extent.start - 1e-6
        lead = counted_beats(wanted.plan, wanted.extent) * beat
        place = quarters - (wanted.extent.start - lead) if counted else quarters
        self.face.pulse.show_beat(round(bar / beat), int((place % bar) / beat + 1e-6), counted=counted)

    def _went_round(self, _rounds: int) -> None:
        run = self.run
        if run is None or run.block.kind in RAMPS:
            return
        now = time.monotonic()
        self._log(run.went_round(now - self._round_at))
        self._round_at = now
        if self._left_s <= 0:
            self._next()
        elif run.rung.burst:
            # One burst at a time, whatever is said of it.
            run.burst_over()
            self._go_on()

    def answer(self, clean: bool) -> None:
        """Clean or not: the one key that every repetition asks for."""
        run = self.run
        if run is None or run.block.drill is None or run.prepared is None:
            return
        if self._waits_for_sound or self._paused:
            self.message.emit("Nothing has been played yet; play it, and then say whether it was clean")
            return
        self._log([run.answer(clean, time.monotonic() - self._round_at)])
        self._go_on()

    def _go_on(self) -> None:
        """The next repetition, or what comes in its place."""
        run = self.run
        if run is None:
            return
        if self._left_s <= 0:
            self._next()
        elif run.wants_smaller:
            self.message.emit("Three times not clean: a smaller piece of it now")
            self.smaller_wanted.emit()
        else:
            self._show_plan()
            self._play()

    def _log(self, reps: list[Rep]) -> None:
        for rep in reps:
            self.logged.emit(rep)

    def toggle(self) -> None:
        """Pause, or go on."""
        run = self.run
        if run is None:
            return
        self._paused = not self._paused
        run.warm = False
        if self._paused:
            self._log(run.leave())
            self._silence()
        else:
            self._ticked = time.monotonic()
            self._play()
        self._refresh()

    def hold(self) -> None:
        """Pause, where it plays."""
        if not self._paused:
            self.toggle()

    def skip(self) -> None:
        """Go to the next block."""
        self._next()

    def _next(self) -> None:
        run = self.run
        if run is None:
            return
        self._log(run.leave())
        if run.following is None:
            self._finish(f"The session is over. {run.tally.words} Rest the hands.")
        else:
            self._enter(run.at + 1)

    def end(self) -> None:
        """End the session here."""
        if self.run is not None:
            self._log(self.run.leave())
            self._finish(f"The session has been ended. {self.run.tally.words}")

    def hurts(self) -> None:
        """Something hurts: stop at once, and say why."""
        if self.run is not None:
            if self.run.block.drill is not None:
                self._log([self.run.pain()])
            self._finish(PAIN)

    def _finish(self, words: str) -> None:
        self._timer.stop()
        self._silence()
        self.run = None
        self.over.emit(words)

    def stop(self) -> None:
        """Be silent, and wait until no thread is left; a round without an answer is written down as such."""
        self._timer.stop()
        if self.run is not None:
            self._log(self.run.leave())
            self.run = None
        self._silence()
        self.player.close()

    # -- time ---------------------------------------------------------------------------------------------------

    @property
    def _share(self) -> float:
        """How much of the block is over, from 0 to 1."""
        return 1.0 - self._left_s / (60.0 * self.run.block.minutes) if self.run is not None else 0.0

    def _tick(self) -> None:
        now = time.monotonic()
        since, self._ticked = now - self._ticked, now
        run = self.run
        if run is None or self._paused or self._waits_for_sound:
            return
        self._left_s -= since
        if self._left_s <= 0 and (run.block.drill is None or not self.player.playing):
            self._next()
        elif self.run is not None:
            self.face.show_time(run, self._moment)

    @property
    def _moment(self) -> Moment:
        wanted = self.player.wanted
        ramp = wanted.extent.ramp if wanted is not None else None
        if ramp is None or self._waits_for_sound:
            return Moment(self._left_s, self._paused)
        since = min(max(self.player.seconds_played, 0.0), ramp.seconds)
        return Moment(self._left_s, self._paused, ramp.tempo(since))

    def _mixed(self) -> None:
        if self.player.playing:
            self._mix_pause.start()

    def _refresh(self) -> None:
        if self.run is not None:
            self.face.show_run(self.run, self._moment)

    # -- keys ---------------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Answer, pause, skip, swap, end."""
        if event is None or event.isAutoRepeat():
            return
        key = Qt.Key(event.key())
        keys: dict[Qt.Key, Callable[[], object]] = {
            Qt.Key.Key_Up: lambda: self.answer(True),
            Qt.Key.Key_C: lambda: self.answer(True),
            Qt.Key.Key_Down: lambda: self.answer(False),
            Qt.Key.Key_N: lambda: self.answer(False),
            Qt.Key.Key_Space: self.toggle,
            Qt.Key.Key_S: self.skip,
            Qt.Key.Key_W: self.other_wanted.emit,
            Qt.Key.Key_Escape: self.end,
            Qt.Key.Key_P: self.hurts,
            Qt.Key.Key_M: self.face.note.setFocus,
        }
        if key in keys and not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier:
            keys[key]()
        elif Qt.Key.Key_1 <= key <= Qt.Key.Key_5:
            self._feels(key - Qt.Key.Key_0)
        else:
            super().keyPressEvent(event)

    def _feels(self, felt: int) -> None:
        if self.run is None:
            return
        self.run.feels(felt)
        words = f"Hands: {felt} of 5 tight"
        if felt >= TIGHT_FROM:
            words += ": pause and shake them out, or end here (Esc); go on only when they are loose"
        self.message.emit(words)

    def _note(self) -> None:
        if self.run is not None:
            self.run.say(self.face.note.text().strip())
            self.message.emit("The note goes into the log with the next repetition")
        self.face.note.clear()
        self.setFocus()
