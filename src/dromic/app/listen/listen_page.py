"""The Listen stage: a take recorded or opened, what was heard of it under the chart, and from there to a drill."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs, single
from dromic.app.listen.hearing import HeardTake, by_step, hear, ramp_for, worst_round
from dromic.app.listen.inputs import NO_INPUT, Input, SimulatedInput, default_input
from dromic.app.listen.recorder import Recorder
from dromic.app.listen.takes import TakeFolder
from dromic.app.listen.view import ListenView
from dromic.app.log.keeper import LogKeeper
from dromic.app.log.picture import draw_up
from dromic.app.sound import Player, Wanted
from dromic.app.theme import Theme
from dromic.errors import DromicError, RiffError
from dromic.formats.reading.raw import counted
from dromic.listening.hearing.passage import passage_of, plan_you_plan
from dromic.listening.hearing.take_reps import reps_of
from dromic.listening.sound.player_errors import LEVELS
from dromic.practice.tempo.ladder import Range, around

FILTERS = "Sound (*.wav *.flac *.ogg *.aif *.aiff);;All files (*)"
EXAMPLE_ROUNDS, EXAMPLE_SPEED = 4, 12.0


class ListenPage(ListenView):
    """Records or opens takes and shows what was heard.

    Signals
    -------
    message : str
    drill_wanted : Range, float or None
        A spot is to be practised; round a tempo at which the player stumbles there, where one was found.
    logged : no argument
        A take stands in the log.
    """

    message = pyqtSignal(str)
    drill_wanted = pyqtSignal(object, object)
    logged = pyqtSignal()

    def __init__(
        self,
        document: Document,
        theme: Theme,
        log: LogKeeper,
        folder: TakeFolder | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(theme, parent)
        self._document, self._log = document, log
        self.folder = folder or TakeFolder(demo=log.demo)
        self.recorder = Recorder(self.folder, self)
        self.player = Player(self)
        self.hearing, self.history, self.writing, self.rescuing = (Jobs(self) for _ in range(4))
        self._heard: HeardTake | None = None
        self._waiting: Path | None = None
        self._example, self._seed = False, 1
        self._spot, self._ramp = 0, False
        self._connect()
        document.listen(self._changed)
        self._refresh()

    def _connect(self) -> None:
        self.hearing.progressed.connect(self.show_progress)
        self.hearing.found.connect(self._show)
        self.hearing.finished.connect(self._done)
        self.history.found.connect(lambda picture: self.show_history(picture.days, picture.ceiling, picture.target))
        self.rescuing.found.connect(self._rescued)
        self.writing.found.connect(self._written)
        self.writing.finished.connect(self._not_written)
        self.recorder.level.connect(self.meter.show_level)
        self.recorder.level.connect(lambda *_: self._say_recording())
        self.recorder.changed.connect(self._refresh)
        self._stopped = False
        self.recorder.finished.connect(self._recorded)
        self.recorder.message.connect(self._trouble)
        self.player.message.connect(self.message)
        self.player.moved.connect(self.chart.set_playhead)
        self.player.stopped.connect(self._played)
        self.player.started.connect(self._refresh)
        self.record.clicked.connect(self.toggle_recording)
        self.open.clicked.connect(self.ask_open)
        self.example.clicked.connect(self.hear_example)
        self.ramp.clicked.connect(lambda: self.ramp_test())
        self.next_spot.clicked.connect(lambda: self.go_to_spot(self._spot + 1))
        self.compare.clicked.connect(self.play_passage)
        self.drill.clicked.connect(self.drill_spot)
        self.to_log.clicked.connect(self.write_to_log)
        self.throw.clicked.connect(self.ask_throw_away)
        self.chart.chosen.connect(self._choose)
        self.chart.play_wanted.connect(self.play_passage)
        self.chart.drill_wanted.connect(self.drill_spot)
        self.keys_wanted.connect(self.handle_key)

    # -- showing itself -----------------------------------------------------------------------------------------

    def activated(self) -> None:
        """The page shows."""
        self.show_plan(self._document.plan)
        self._draw_history()
        self.rescuing.ask(single(self.folder.rescue))
        (self.chart if self._heard is not None else self.record).setFocus()

    def _changed(self, change: Change) -> None:
        if change in (Change.PLAN, Change.FILE):
            heard, plan = self._heard, self._document.plan
            if heard is not None and plan is not heard.review.plan:
                # The same take may be one of the new plan too; whether it is, is heard again.
                self._heard, self._waiting = None, heard.path
                self.player.stop()
            if self.isVisible():
                self.show_plan(plan)
            self._listen_to_waiting()
            self._refresh()

    def _listen_to_waiting(self) -> None:
        plan = self._document.plan
        if self._waiting is not None and plan is not None and self.isVisible():
            path, self._waiting = self._waiting, None
            self.listen_to(path, example=self._example)

    def _refresh(self) -> None:
        plan = self._document.plan
        self.show_state(
            has_plan=plan is not None,
            recording=self.recorder.recording,
            unwritten=self.recorder.unwritten,
            working=self.hearing.working or self.recorder.writing,
            heard=self._heard,
            playing=self.player.playing,
            example=self._example,
            own=self._heard is not None and self._heard.path.parent == self.folder.path,
        )

    def _say_recording(self) -> None:
        if self.recorder.recording:
            self.say(f"Recording: {self.recorder.seconds:.0f} s. Press R to stop.")

    def _rescued(self, names: list[str]) -> None:
        if names:
            self._trouble(
                f"{counted(len(names), 'recording')} cut off before the end, kept as a take: see Open a take…"
            )

    def _trouble(self, words: str) -> None:
        self.say(words)
        self.message.emit(words)
        self._refresh()

    # -- takes --------------------------------------------------------------------------------------------------

    def toggle_recording(self) -> None:
        """Record a take, or end the one that is being recorded."""
        if self.recorder.recording:
            self._ramp = False
            self.player.stop()
            self.recorder.stop()
        elif self.recorder.unwritten:
            self.recorder.write()
            self._refresh()
        else:
            source = default_input(self)
            if source is None:
                self._trouble(NO_INPUT)
                return
            self.record_from(source)

    def record_from(self, source: Input, *, example: bool = False) -> None:
        """Record a take from an input."""
        plan = self._document.plan
        if plan is None or self.recorder.recording:
            return
        self.player.stop()
        self._example = example
        self.recorder.start(source, plan.riff.title)

    def ramp_test(self, source: Input | None = None) -> None:
        """Click from slow to fast and record: where it becomes uneven is the hiccup.

        Parameters
        ----------
        source : Input or None
            None for the computer's sound input.
        """
        plan = self._document.plan
        if plan is None or self.recorder.recording:
            return
        found = source or default_input(self)
        if found is None:
            self._trouble(NO_INPUT)
            return
        extent = ramp_for(plan, self._document.tempo)
        self.record_from(found)
        self.say(
            f"Ramp test: from {extent.tempo:.0f} to {extent.end_tempo or 0:.0f}. Play until it is over, or press R."
        )
        self._ramp = True
        self.player.play(Wanted(plan, extent, False))

    def _played(self) -> None:
        self.chart.set_playhead(None)
        if self._ramp and self.recorder.recording:
            self._ramp = False
            self.recorder.stop()
        self._ramp = False
        self._refresh()

    def hear_example(self) -> None:
        """Let the simulated player play the plan, and listen to that."""
        plan = self._document.plan
        if plan is not None and not self.recorder.recording:
            self._seed += 1
            source = SimulatedInput(plan, self._seed, LEVELS["heavy"], EXAMPLE_ROUNDS, EXAMPLE_SPEED, parent=self)
            self.record_from(source, example=True)

    def _recorded(self, path: Path) -> None:
        self.meter.clear()
        self.player.stop()
        self.listen_to(path, example=self._example)

    def ask_open(self) -> None:
        """Ask which take to open."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a take", str(self._start_folder()), FILTERS)
        if name:
            self.listen_to(Path(name))

    def _start_folder(self) -> Path:
        """Where takes lie: those that were recorded here, if there are any."""
        return self.folder.path if self.folder.takes() else Path.home()

    def listen_to(self, path: Path, *, example: bool = False) -> None:
        """Listen to a take."""
        plan = self._document.plan
        self._example = example
        if plan is None:
            self._waiting = path
            self.say("The take is listened to as soon as the riff is planned.")
            return
        self._heard = None
        self.show_nothing("Listening…")
        self.hearing.ask(lambda watch: hear(path, plan, watch))
        self._refresh()

    def _show(self, heard: HeardTake) -> None:
        self._heard, self._spot = heard, 0
        self.show_review(heard.review, by_step(heard.review), heard.path.name, example=self._example)
        hiccup = heard.review.hiccup
        if heard.review.spots:
            self.go_to_spot(0)
        if hiccup is not None or not heard.review.spots:
            self.chart.set_choice(heard.review.plan.events[hiccup.index].step or 0 if hiccup is not None else 0)
        self.chart.setFocus()

    def _done(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.show_nothing(error_words(trouble))
            self.message.emit(error_words(trouble))
        self._refresh()

    def ask_throw_away(self) -> None:
        """Ask whether the take that shows is to be thrown away."""
        heard = self._heard
        if heard is None:
            return
        answer = QMessageBox.question(self, "Dromic", f"Throw the take '{heard.path.stem}' away for good?")
        if answer is QMessageBox.StandardButton.Yes:
            self.throw_away()

    def throw_away(self) -> None:
        """Throw the take that shows away."""
        if self._heard is None:
            return
        try:
            self.folder.throw_away(self._heard.path)
        except RiffError as error:
            self._trouble(error_words(error))
            return
        self._heard = None
        self.player.stop()
        self.show_nothing("The take is thrown away.")
        self._refresh()

    # -- from spot to spot --------------------------------------------------------------------------------------

    def go_to_spot(self, number: int) -> None:
        """Go to one of the spots, the worst first; behind the last comes the first."""
        if self._heard is None or not self._heard.review.spots:
            return
        spots = self._heard.review.spots
        self._spot = number % len(spots)
        spot = spots[self._spot]
        self.show_spot(spot, self._spot, len(spots))
        step = self._heard.review.plan.events[spot.index].step
        if step is not None:
            self.chart.set_choice(step)
        self._refresh()

    def _choose(self, step: int) -> None:
        self.chart.set_choice(step)
        if self._heard is None:
            return
        index = self._heard.review.plan.event_of_step(step).moment.index
        spots = [spot.index for spot in self._heard.review.spots]
        if index in spots:
            self.go_to_spot(spots.index(index))

    @property
    def chosen(self) -> Range | None:
        """The passage that is looked at: what is selected on the chart, else around the chosen note."""
        heard = self._heard
        if heard is None:
            return None
        if self.chart.selection is not None:
            return Range(*self.chart.selection)
        step = self.chart.choice
        return around(heard.review.plan, step) if step is not None else None

    def play_passage(self) -> None:
        """Play the passage: the plan, the take, the plan, at half speed; or stop."""
        if self.player.playing:
            self.player.stop()
            return
        heard, chosen = self._heard, self.chosen
        if heard is None or chosen is None:
            return
        step = self.chart.choice if self.chart.choice is not None else chosen.first
        index = heard.review.plan.event_of_step(step).moment.index
        try:
            passage = passage_of(heard.review, chosen, worst_round(heard.review, index))
        except RiffError as error:
            self._trouble(error_words(error))
            return
        review, samples = heard.review, heard.recording.samples
        self.player.play(
            Wanted(review.plan, passage.extent, False, lambda: plan_you_plan(review, samples, passage))
        )

    def drill_spot(self) -> None:
        """Practise the passage."""
        heard, chosen = self._heard, self.chosen
        if heard is None or chosen is None:
            return
        self.player.stop()
        hiccup = heard.review.hiccup
        step = heard.review.plan.events[hiccup.index].step if hiccup is not None else None
        here = hiccup is not None and step is not None and chosen.first <= step <= chosen.last
        self.drill_wanted.emit(chosen, hiccup.tempo if here and hiccup is not None else None)

    # -- the log ------------------------------------------------------------------------------------------------

    def write_to_log(self) -> None:
        """Put the take into the practice log, a repetition for every round."""
        heard = self._heard
        if heard is None or self._example:
            return
        reps = reps_of(heard.review, heard.when, heard.name)
        if not reps:
            self._trouble("No round of this take is whole, so nothing is put into the log.")
            return
        log = self._log

        def work() -> object:
            return log.add(reps)

        self.writing.ask(single(work))

    def _written(self, count: int) -> None:
        words = f"{counted(count, 'round')} put into the log" if count else "This take stands in the log already"
        self.message.emit(words)
        self.logged.emit()
        self._draw_history()

    def _not_written(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self._trouble(error_words(trouble))

    def _draw_history(self) -> None:
        log, plan, target = self._log, self._document.plan, self._document.tempo
        if plan is not None:
            self.history.ask(lambda watch: draw_up(log, plan, target, "", watch))

    # -- keys and the end ---------------------------------------------------------------------------------------

    def handle_key(self, event: QKeyEvent) -> None:
        """Do what a key stands for."""
        keys = {
            Qt.Key.Key_R: self.toggle_recording,
            Qt.Key.Key_O: self.ask_open,
            Qt.Key.Key_E: self.hear_example,
            Qt.Key.Key_T: self.ramp_test,
            Qt.Key.Key_N: lambda: self.go_to_spot(self._spot + 1),
            Qt.Key.Key_P: lambda: self.go_to_spot(self._spot - 1),
            Qt.Key.Key_D: self.drill_spot,
            Qt.Key.Key_L: self.write_to_log,
            Qt.Key.Key_Space: self.play_passage,
        }
        do = keys.get(Qt.Key(event.key()))
        if do is not None and not event.modifiers():
            do()
            event.accept()

    def left(self) -> None:
        """Another stage shows: what plays stops; what is being recorded goes on."""
        self.player.stop()

    def cancel(self) -> None:
        """Give up listening."""
        self.hearing.cancel()
        self._refresh()

    def stop(self) -> None:
        """End a recording, and wait until no thread is left; once is enough."""
        if self._stopped:
            return
        self._stopped = True
        self.recorder.finished.disconnect(self._recorded)
        self.recorder.close()
        self.player.close()
        self.hearing.stop()
        self.history.stop()
        self.writing.stop()
        self.rescuing.stop()
        self.folder.close()
