"""A session while it is played: which block, at which tempo, what was answered. Plain Python without Qt.

A repetition is one round of the drill. The key that says clean or not speaks of the round that has ended last and
has no answer yet, or else of the one that is being played. A round that ends without an answer is written down
unmarked once the next one ends.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import UTC, datetime

from dromic.app.practice.today import Prepared
from dromic.listening.sound.extent import Extent, Metronome, Mix
from dromic.planner.plan import Plan
from dromic.practice.log.logbook import Clean, Rep
from dromic.practice.movement import plan_hash, riff_hash
from dromic.practice.passages.drill import Drill
from dromic.practice.passages.drill_climb import DrillClimb, Rung
from dromic.practice.passages.take_apart import hardest_step
from dromic.practice.session.session import Block, Session
from dromic.practice.tempo.ladder import Range, round_of

RAMPS = frozenset({"warm-up", "ramp"})
RAMP_S = 60.0
LEAST_RAMP_S = 10.0
TIGHTEST = 5


@dataclass
class Tally:
    """What became of the session's repetitions."""

    clean: int = 0
    not_clean: int = 0
    unmarked: int = 0
    seconds: float = 0.0

    @property
    def words(self) -> str:
        """The tally in one sentence."""
        return (
            f"{self.seconds / 60:.0f} minutes played: {self.clean} clean, {self.not_clean} not, "
            f"{self.unmarked} without an answer."
        )


@dataclass(frozen=True)
class _Round:
    """A round of a drill: what was played, and for how long."""

    rung: Rung
    seconds: float


@dataclass
class GuidedRun:
    """Where a player is in a session.

    Parameters
    ----------
    session : Session
    plans : tuple of Plan
        One a riff.
    at : int
        Which block.
    warm : bool
        Whether the block has been played before, so that half a bar counted in is enough.
    """

    session: Session
    plans: tuple[Plan, ...]
    at: int = 0
    prepared: Prepared | None = None
    tally: Tally = field(default_factory=Tally)
    warm: bool = False
    _rung: Rung | None = None
    _waits: _Round | None = None
    _felt: int | None = None
    _note: str = ""

    @property
    def block(self) -> Block:
        """The block that is played."""
        return self.session.blocks[self.at]

    @property
    def following(self) -> Block | None:
        """The block that comes next."""
        return self.session.blocks[self.at + 1] if self.at + 1 < len(self.session.blocks) else None

    @property
    def source(self) -> Plan:
        """The plan that the block comes from."""
        return self.plans[self.block.riff_number]

    @property
    def climb(self) -> DrillClimb | None:
        """How far the player is with the block's drill; None while it is not ready, and for ramps and breaks."""
        return self.prepared.climb if self.prepared is not None and self.block.kind not in RAMPS else None

    @property
    def rung(self) -> Rung:
        """What is played now."""
        if self._rung is None:
            climb = self.climb
            self._rung = climb.next_rung() if climb is not None else Rung(self.block.tempo_from)
        return self._rung

    @property
    def drill_plan(self) -> Plan | None:
        """The plan of what is played now."""
        if self.prepared is None:
            return None
        plans = self.prepared.plans
        return plans.get(self.rung.density) or plans[self.prepared.climb.density]

    def go_to(self, at: int) -> None:
        """Enter a block; it has to be prepared before it is played."""
        self.at, self.prepared, self._rung, self._waits, self.warm = at, None, None, None, False

    def ready(self, prepared: Prepared) -> None:
        """Take a block that has been prepared."""
        self.prepared, self._rung = prepared, None

    def replace_block(self, block: Block) -> None:
        """Practise something else in the block's place."""
        blocks = self.session.blocks
        self.session = replace(self.session, blocks=(*blocks[: self.at], block, *blocks[self.at + 1 :]))
        self.go_to(self.at)

    def burst_over(self) -> None:
        """A burst has been played, whatever became of it: the climb goes on."""
        if self.prepared is not None and self.climb is not None:
            self.prepared = replace(self.prepared, climb=self.climb.after(self.rung, clean=True))
        self._rung = None

    def say(self, note: str) -> None:
        """Words of the player's own, written down with the next repetition."""
        self._note = note

    # -- what sounds ------------------------------------------------------------------------------------------

    def extent(self, done: float, mix: Mix, metronome: Metronome) -> Extent | None:
        """What is to be sounded now.

        Parameters
        ----------
        done : float
            How much of the block is over, from 0 to 1; a ramp goes on from there.
        mix : Mix
        metronome : Metronome
        """
        plan = self.drill_plan
        if plan is None:
            return None
        every = Range(0, len(plan.task.steps) - 1)
        start, end = (float(at) for at in round_of(plan, every))
        first, last = (float(plan.task.steps[step].moment.played) for step in (every.first, every.last))
        tempo = self.rung.tempo
        if self.rung.burst:
            return self._burst(plan, tempo, mix, metronome)
        extent = Extent(
            start, end, tempo, True, True, (first, last), metronome=metronome, mix=mix, short_count=self.warm
        )
        if self.block.kind not in RAMPS:
            return extent
        low, high = self.block.tempo_from, self.block.tempo_to
        if self.block.kind == "warm-up":
            low += (high - low) * min(done, 1.0)
            high = low + (high - self.block.tempo_from) * 0.25
        # As long as the block still is, in whole rounds.
        seconds = min(RAMP_S, 60.0 * self.block.minutes * (1.0 - min(done, 1.0)))
        rounds = max(round(seconds * (low + high) / 120.0 / (end - start)), 1)
        return replace(extent, tempo=low, end_tempo=high, rounds=rounds)

    def _burst(self, plan: Plan, tempo: float, mix: Mix, metronome: Metronome) -> Extent:
        """One beat and the note that it leads to, at the tempo that is wanted in the end."""
        steps = plan.task.steps
        hardest = hardest_step(plan, Range(0, len(steps) - 1))
        moment = steps[hardest].moment
        beat = moment.meter.beat
        start = moment.onset - (moment.beat - 1) % beat
        inside = [step.moment for step in steps if start <= step.moment.onset <= start + beat]
        first, last = float(inside[0].played), float(inside[-1].played)
        return Extent(
            float(start), float(start + 4 * beat), tempo, True, True, (first, last), metronome=metronome, mix=mix
        )

    # -- what is answered -------------------------------------------------------------------------------------

    def went_round(self, seconds: float) -> list[Rep]:
        """A round has ended; returns the one before, where it had no answer."""
        found = self.leave()
        self._waits = _Round(self.rung, seconds)
        return found

    def answer(self, clean: bool, seconds: float) -> Rep:
        """Clean or not, for the round that waits for it, or the one that is played.

        Parameters
        ----------
        clean : bool
        seconds : float
            How long the present round has been played.
        """
        one, waited = self._waits or _Round(self.rung, seconds), self._waits is not None
        self._waits = None
        rep = self._rep(Clean.CLEAN if clean else Clean.NOT, one)
        if self.prepared is not None and self.climb is not None and not (waited and one.rung.burst):
            self.prepared = replace(self.prepared, climb=self.climb.after(one.rung, clean=clean))
        self._rung = None
        return rep

    def leave(self) -> list[Rep]:
        """The block is over, or left; returns the round that has no answer."""
        found = [] if self._waits is None else [self._rep(Clean.UNMARKED, self._waits)]
        self._waits = None
        return found

    def pain(self) -> Rep:
        """Something hurts: what was played last, with a note that says so."""
        rep = self._rep(Clean.UNMARKED, self._waits or _Round(self.rung, 0.0))
        self._waits = None
        return replace(rep, note="pain: the session was stopped", felt=TIGHTEST)

    def feels(self, felt: int) -> None:
        """How tight the hands feel, from 1 to 5; written down with the next repetition."""
        self._felt = felt

    @property
    def wants_smaller(self) -> bool:
        """Whether the tempo and the string changes cannot be lowered any further."""
        climb = self.climb
        return climb is not None and climb.wants_smaller

    def _rep(self, clean: Clean, one: _Round) -> Rep:
        drill = self.block.drill
        assert drill is not None
        source = self.source
        felt, note = self._felt, self._note
        self._felt, self._note = None, ""
        kind = "burst" if one.rung.burst else drill.kind
        tempo = self.block.tempo_to if self.block.kind in RAMPS else one.rung.tempo
        if clean is Clean.CLEAN:
            self.tally.clean += 1
        elif clean is Clean.NOT:
            self.tally.not_clean += 1
        else:
            self.tally.unmarked += 1
        self.tally.seconds += one.seconds
        return Rep(
            datetime.now(UTC),
            tempo,
            keys_for_log(drill, kind),
            riff_hash(source.riff),
            plan_hash(source),
            f"{source.riff.title}: {drill.where}",
            kind,
            one.rung.density,
            round(one.seconds, 1),
            clean,
            felt=felt,
            note=note,
        )


def keys_for_log(drill: Drill, kind: str) -> tuple[str, ...]:
    """The movements that a repetition says something of: none for a burst, which is one beat of the drill."""
    return () if kind == "burst" else drill.keys


def block_words(block: Block) -> str:
    """A block in a few words.

    Examples
    --------
    >>> block_words(Block(1, "break", "Break 1."))
    'Break'
    """
    names: dict[str, str] = {
        "warm-up": "Warm-up",
        "break": "Break",
        "whole": "The whole riff",
        "ramp": "Ramp",
        "join": "The join",
    }
    if block.drill is None or block.kind in names:
        return names.get(block.kind, block.kind)
    return block.drill.name


def seconds_words(seconds: float) -> str:
    """A time that is left.

    Examples
    --------
    >>> seconds_words(125.2), seconds_words(0)
    ('2:06', '0:00')
    """
    whole = max(int(-(-seconds // 1)), 0)
    return f"{whole // 60}:{whole % 60:02d}"
