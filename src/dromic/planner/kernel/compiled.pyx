# cython: language_level=3, wraparound=False, cdivision=True, initializedcheck=False
"""The kernel compiled: the same numbers as `dromic.planner.kernel.plain`, which says what they mean.

Sums are taken without a joint table. Each table of the fretting hand becomes loads and costs in scratch memory; a move
from a state to a run of grips on one string is looked at only where the sum without the hands' meeting, which is never
more than the true one, could still be the least.
"""

from libc.float cimport DBL_MAX
from libc.math cimport INFINITY
from libc.stdint cimport int64_t

import numpy as np

from dromic.planner.kernel.inputs import check_parts


cdef class _Part:
    cdef Py_ssize_t before, after
    cdef bint picked
    cdef double gap_ms
    cdef const double[:, ::1] time_ms, effort, hurried, meeting_ms
    cdef const double[::1] hand_gaps_ms, hurry
    cdef const double[:, :, :, ::1] load, cost

    def __init__(self, part):
        self.before, self.after, self.gap_ms = part.before, part.after, part.gap_ms
        hand = part.hand
        self.time_ms, self.effort = hand.time_ms, hand.effort
        self.hurried, self.meeting_ms = hand.hurried, hand.meeting_ms
        self.hand_gaps_ms, self.hurry = part.hand_gaps_ms, part.hurry
        self.picked = part.pick is not None
        if self.picked:
            self.load, self.cost = part.pick.load, part.pick.cost


cdef class _Scratch:
    """Memory that is used again: what the hands need over a link, from every grip begun with to every grip reached."""
    cdef double[:, ::1] load, cost, least, worst
    cdef double[::1] start
    cdef int64_t[::1] lead

    def __init__(self):
        # Each its own: none may stand for another.
        self.load, self.cost, self.least, self.worst = (np.empty((1, 1)) for _ in range(4))
        self.start = np.empty(1)
        self.lead = np.empty(1, dtype=np.int64)

    cdef void fit(self, Py_ssize_t one, Py_ssize_t two, Py_ssize_t runs, Py_ssize_t picks, Py_ssize_t states):
        if self.load.shape[0] < one or self.load.shape[1] < two:
            self.load = np.empty((max(one, self.load.shape[0]), max(two, self.load.shape[1])))
            self.cost = np.empty((self.load.shape[0], self.load.shape[1]))
        if self.least.shape[0] < one or self.least.shape[1] < runs:
            self.least = np.empty((max(one, self.least.shape[0]), max(runs, self.least.shape[1])))
        if self.worst.shape[0] < picks or self.worst.shape[1] < runs:
            self.worst = np.empty((max(picks, self.worst.shape[0]), max(runs, self.worst.shape[1])))
        if self.start.shape[0] < states:
            self.start = np.empty(states)
            self.lead = np.empty(states, dtype=np.int64)


cdef _Scratch SCRATCH = _Scratch()


cdef class JoinedMoves:
    """See `dromic.planner.kernel.plain.JoinedMoves`."""

    cdef readonly object parts, before, after, curve
    cdef list _parts
    cdef double at_ease, calm, strain, overload
    cdef Py_ssize_t picks, grips_before, grips_after, states_before, states_after
    cdef const int64_t[::1] classes_before, classes_after, runs_before, runs_after

    def __init__(self, parts, before, after, curve):
        check_parts(parts, before, after)
        self.parts, self.before, self.after, self.curve = tuple(parts), before, after, curve
        self._parts = [_Part(part) for part in parts]
        self.at_ease, self.calm, self.strain, self.overload = (
            curve.at_ease, curve.calm, curve.strain, curve.overload
        )
        self.picks = before.picks
        self.grips_before, self.grips_after = before.grips, after.grips
        self.states_before, self.states_after = before.states, after.states
        self.classes_before, self.classes_after = before.classes, after.classes
        self.runs_before, self.runs_after = before.runs, after.runs

    cdef inline double _effort(self, double load) noexcept:
        cdef double above = load - self.calm, beyond = load - 1.0
        above = above if above > 0.0 else 0.0
        beyond = beyond if beyond > 0.0 else 0.0
        return self.at_ease * (load * load) + self.strain * (above * above) + self.overload * (beyond * beyond)

    cdef inline double _hand_load(self, _Part part, Py_ssize_t one, Py_ssize_t two) noexcept:
        return part.time_ms[one, two] / part.hand_gaps_ms[one]

    cdef inline double _hand_cost(self, _Part part, Py_ssize_t one, Py_ssize_t two, double load) noexcept:
        cdef double cost = self._effort(load) + (part.effort[one, two] + part.hurry[one] * part.hurried[one, two])
        cdef double meeting = part.meeting_ms[one, two]
        if part.picked and meeting > 0.0:
            cost += self._effort(load + meeting / part.gap_ms)
        return cost

    cdef double _move_load(self, _Part part, Py_ssize_t pick_one, Py_ssize_t one, Py_ssize_t pick_two, Py_ssize_t two) noexcept:
        cdef double hand = self._hand_load(part, one, two), stroke
        if not part.picked:
            return hand if pick_one == pick_two else INFINITY
        stroke = part.load[pick_one, self.classes_before[one], pick_two, self.classes_after[two]]
        return (stroke if stroke > hand else hand) + part.meeting_ms[one, two] / part.gap_ms

    cdef double _move_cost(self, _Part part, Py_ssize_t pick_one, Py_ssize_t one, Py_ssize_t pick_two, Py_ssize_t two, double bound) noexcept:
        cdef double hand, stroke, extra, cost
        if not part.picked and pick_one != pick_two:
            return INFINITY
        hand = self._hand_load(part, one, two)
        cost = self._hand_cost(part, one, two, hand)
        if not part.picked:
            return cost if hand <= bound else INFINITY
        stroke = part.load[pick_one, self.classes_before[one], pick_two, self.classes_after[two]]
        extra = part.meeting_ms[one, two] / part.gap_ms
        if (stroke if stroke > hand else hand) + extra > bound:
            return INFINITY
        cost = part.cost[pick_one, self.classes_before[one], pick_two, self.classes_after[two]] + cost
        if part.meeting_ms[one, two] > 0.0 and stroke > hand:
            cost = cost + (self._effort(stroke + extra) - self._effort(hand + extra))
        return cost

    # -- whole tables, for few and small uses -------------------------------------------------------------

    def costs(self, double bound=INFINITY):
        """See `dromic.planner.kernel.plain.JoinedMoves.costs`."""
        found = np.full((self.states_before, self.states_after), np.inf)
        self._write(found, bound, False)
        return found

    def loads(self):
        """See `dromic.planner.kernel.plain.JoinedMoves.loads`."""
        found = np.full((self.states_before, self.states_after), np.inf)
        self._write(found, INFINITY, True)
        return found

    cdef void _write(self, double[:, ::1] found, double bound, bint loads):
        cdef _Part part
        cdef Py_ssize_t p, a, q, b, row, column
        for part in self._parts:
            for p in range(self.picks):
                for a in range(self.grips_before):
                    row = (part.before * self.picks + p) * self.grips_before + a
                    for q in range(self.picks):
                        for b in range(self.grips_after):
                            column = (part.after * self.picks + q) * self.grips_after + b
                            if loads:
                                found[row, column] = self._move_load(part, p, a, q, b)
                            else:
                                found[row, column] = self._move_cost(part, p, a, q, b, bound)

    # -- least sums -----------------------------------------------------------------------------------------

    cdef void _fill(self, _Part part, bint back) noexcept:
        """Loads and costs of the fretting hand in scratch memory, and the least cost to each run."""
        cdef Py_ssize_t a, b, r, runs
        cdef double load, cost, gap, hurry, meeting, least
        cdef double[:, ::1] loads = SCRATCH.load, costs = SCRATCH.cost, leasts = SCRATCH.least
        cdef const int64_t[::1] run = self.runs_before if back else self.runs_after
        cdef Py_ssize_t rows = self.grips_after if back else self.grips_before
        if back:
            for a in range(self.grips_before):
                for b in range(self.grips_after):
                    load = self._hand_load(part, a, b)
                    loads[b, a] = load
                    costs[b, a] = self._hand_cost(part, a, b, load)
        else:
            for a in range(self.grips_before):
                for b in range(self.grips_after):
                    load = self._hand_load(part, a, b)
                    loads[a, b] = load
                    costs[a, b] = self._hand_cost(part, a, b, load)
        runs = run.shape[0] - 1
        for a in range(rows):
            for r in range(runs):
                least = INFINITY
                for b in range(run[r], run[r + 1]):
                    if costs[a, b] < least:
                        least = costs[a, b]
                leasts[a, r] = least

    cdef void _relax(
        self, _Part part, bint back, double bound, double[:, ::1] best, int64_t[:, ::1] source, Py_ssize_t layer,
        const unsigned char[:, ::1] reach,
    ):
        """Try the moves of a part from all states in scratch memory, the most promising state first."""
        cdef Py_ssize_t sources = self.grips_after if back else self.grips_before
        cdef Py_ssize_t targets = self.grips_before if back else self.grips_after
        cdef Py_ssize_t begin = (part.after if back else part.before) * self.picks * sources
        cdef Py_ssize_t end = begin + self.picks * sources
        cdef Py_ssize_t first_block = (part.before if back else part.after) * self.picks
        cdef Py_ssize_t turn, state, first = -1, runs, p, a, q, r, b, at, own, other, low_pick, high_pick, offset
        cdef double least = INFINITY, most, h, stroke_cost, stroke, value, extra, hand, meeting
        cdef int64_t number
        cdef const int64_t[::1] run = self.runs_before if back else self.runs_after
        cdef const int64_t[::1] from_classes = self.classes_after if back else self.classes_before
        cdef const int64_t[::1] to_classes = self.classes_before if back else self.classes_after
        cdef double[::1] start = SCRATCH.start
        cdef int64_t[::1] lead = SCRATCH.lead
        cdef double[:, ::1] loads = SCRATCH.load, costs = SCRATCH.cost, leasts = SCRATCH.least, worst = SCRATCH.worst
        cdef const double[:, ::1] meetings = part.meeting_ms
        cdef const double[:, :, :, ::1] stroke_costs, stroke_loads
        if part.picked:
            stroke_costs, stroke_loads = part.cost, part.load
        runs = run.shape[0] - 1
        for state in range(begin, end):
            if start[state] < least:
                least, first = start[state], state
        if first < 0:
            return
        for q in range(self.picks):
            offset = (first_block + q) * targets
            for r in range(runs):
                most = 0.0
                for b in range(run[r], run[r + 1]):
                    if best[layer, offset + b] > most:
                        most = best[layer, offset + b]
                worst[q, r] = most
        for turn in range(begin - 1, end):
            state = first if turn < begin else turn
            h = start[state]
            if turn == first or not h < INFINITY:
                continue
            number = lead[state]
            p, a = (state // sources) % self.picks, state % sources
            own = from_classes[a]
            low_pick, high_pick = 0, self.picks
            if not part.picked:
                low_pick, high_pick = p, p + 1
            for q in range(low_pick, high_pick):
                offset = (first_block + q) * targets
                for r in range(runs):
                    if not reach[layer, r]:
                        continue
                    stroke_cost, stroke = 0.0, 0.0
                    if part.picked:
                        other = to_classes[run[r]]
                        stroke_cost = stroke_costs[q, other, p, own] if back else stroke_costs[p, own, q, other]
                    if not h + (stroke_cost + leasts[a, r]) <= worst[q, r]:
                        continue
                    if part.picked:
                        stroke = stroke_loads[q, other, p, own] if back else stroke_loads[p, own, q, other]
                    most = 0.0
                    for b in range(run[r], run[r + 1]):
                        at = offset + b
                        value = h + (stroke_cost + costs[a, b])
                        if value <= best[layer, at]:
                            hand = loads[a, b]
                            if part.picked:
                                meeting = meetings[b, a] if back else meetings[a, b]
                                extra = meeting / part.gap_ms
                                if meeting > 0.0 and stroke > hand:
                                    value = h + ((stroke_cost + costs[a, b]) + (
                                        self._effort(stroke + extra) - self._effort(hand + extra)
                                    ))
                                hand = (stroke if stroke > hand else hand) + extra
                            if hand <= bound and (
                                value < best[layer, at] or (value == best[layer, at] and number < source[layer, at])
                            ):
                                best[layer, at], source[layer, at] = value, number
                        if best[layer, at] > most:
                            most = best[layer, at]
                    worst[q, r] = most

    def least(self, here, entry=None, *, bint back=False, double bound=INFINITY):
        """See `dromic.planner.kernel.plain.JoinedMoves.least`."""
        cdef Py_ssize_t count = self.states_after if back else self.states_before
        cdef Py_ssize_t size = self.states_before if back else self.states_after
        cdef Py_ssize_t targets = self.grips_before if back else self.grips_after
        cdef Py_ssize_t sources = self.grips_after if back else self.grips_before
        cdef Py_ssize_t layers, entered, layer, state, one, r, b, runs
        cdef double value
        cdef const double[:, ::1] sums = np.ascontiguousarray(here, dtype=np.float64).reshape(-1, count)
        cdef const double[:, ::1] changing
        cdef const int64_t[::1] same, run = self.runs_before if back else self.runs_after
        cdef const unsigned char[:, ::1] only
        cdef double[::1] start
        cdef int64_t[::1] lead
        cdef _Part part
        layers, runs = sums.shape[0], run.shape[0] - 1
        if entry is None:
            if layers != 1:
                raise ValueError("layers need to be told what they lead to")
            entered = 1
        else:
            changing, same, only = entry.changing, entry.same, entry.only.view(np.uint8)
            entered = changing.shape[1]
            if changing.shape[0] != layers or only.shape[1] != targets:
                raise ValueError("layers do not fit the states")
        values, found = np.full((entered, size), DBL_MAX), np.full((entered, size), -1, dtype=np.int64)
        cdef double[:, ::1] best = values
        cdef int64_t[:, ::1] source = found
        cdef unsigned char[:, ::1] reach
        if entry is None:
            reach = np.ones((1, runs), dtype=np.uint8)
        else:
            # What any layer entered from the same sums wants to know.
            reach = np.zeros((entered, runs), dtype=np.uint8)
            for layer in range(entered):
                for r in range(runs):
                    for b in range(run[r], run[r + 1]):
                        if only[layer, b]:
                            reach[same[layer], r] = 1
                            break
        SCRATCH.fit(sources, targets, runs, self.picks, count)
        start, lead = SCRATCH.start, SCRATCH.lead
        for part in self._parts:
            self._fill(part, back)
            for layer in range(entered):
                if entry is None:
                    for state in range(count):
                        start[state], lead[state] = sums[0, state], state
                elif same[layer] == layer:
                    for state in range(count):
                        start[state], lead[state] = sums[0, state] + changing[0, layer], state
                    for one in range(1, layers):
                        if changing[one, layer] < INFINITY:
                            for state in range(count):
                                value = sums[one, state] + changing[one, layer]
                                if value < start[state]:
                                    start[state], lead[state] = value, one * count + state
                else:
                    continue
                self._relax(part, back, bound, best, source, layer, reach)
        if entry is not None:
            for layer in range(entered - 1, -1, -1):
                for state in range(size):
                    if only[layer, state % targets]:
                        best[layer, state], source[layer, state] = best[same[layer], state], source[same[layer], state]
                    else:
                        best[layer, state], source[layer, state] = DBL_MAX, -1
        for layer in range(entered):
            for state in range(size):
                if best[layer, state] == DBL_MAX:
                    best[layer, state] = INFINITY
        return values.ravel(), found.ravel()

    def smallest_largest(self, here, *, bint back=False):
        """See `dromic.planner.kernel.plain.JoinedMoves.smallest_largest`."""
        cdef Py_ssize_t count = self.states_after if back else self.states_before
        cdef Py_ssize_t size = self.states_before if back else self.states_after
        cdef Py_ssize_t sources = self.grips_after if back else self.grips_before
        cdef Py_ssize_t targets = self.grips_before if back else self.grips_after
        cdef Py_ssize_t p, a, q, b, own, other, r, low_pick, high_pick, at, runs
        cdef double h, stroke, value, most
        cdef const double[::1] start = np.ascontiguousarray(here, dtype=np.float64)
        cdef const int64_t[::1] run = self.runs_before if back else self.runs_after
        cdef _Part part
        if start.shape[0] != count:
            raise ValueError("there is a load for each state")
        found = np.full(size, np.inf)
        cdef double[::1] best = found
        runs = run.shape[0] - 1
        SCRATCH.fit(sources, targets, runs, self.picks, count)
        for part in self._parts:
            self._fill(part, back)
            for p in range(self.picks):
                for a in range(sources):
                    h = start[((part.after if back else part.before) * self.picks + p) * sources + a]
                    if not h < INFINITY:
                        continue
                    own = self.classes_after[a] if back else self.classes_before[a]
                    low_pick, high_pick = 0, self.picks
                    if not part.picked:
                        low_pick, high_pick = p, p + 1
                    for q in range(low_pick, high_pick):
                        at = ((part.before if back else part.after) * self.picks + q) * targets
                        for r in range(runs):
                            stroke = 0.0
                            if part.picked:
                                other = self.classes_before[run[r]] if back else self.classes_after[run[r]]
                                if not (part.cost[q, other, p, own] if back else part.cost[p, own, q, other]) < INFINITY:
                                    continue
                                stroke = part.load[q, other, p, own] if back else part.load[p, own, q, other]
                            for b in range(run[r], run[r + 1]):
                                if not SCRATCH.cost[a, b] < INFINITY:
                                    continue
                                value = SCRATCH.load[a, b]
                                if part.picked:
                                    value = (stroke if stroke > value else value) + (
                                        part.meeting_ms[b, a] if back else part.meeting_ms[a, b]
                                    ) / part.gap_ms
                                value = h if h > value else value
                                if value < best[at + b]:
                                    best[at + b] = value
        return found

    def costs_to(self, Py_ssize_t state, double bound=INFINITY):
        """See `dromic.planner.kernel.plain.JoinedMoves.costs_to`."""
        cdef Py_ssize_t block = state // (self.picks * self.grips_after), q, b, p, a, at
        cdef _Part part
        if not 0 <= state < self.states_after:
            raise IndexError(f"there is no state {state}")
        q, b = (state // self.grips_after) % self.picks, state % self.grips_after
        found = np.full(self.states_before, np.inf)
        cdef double[::1] costs = found
        for part in self._parts:
            if part.after == block:
                at = part.before * self.picks * self.grips_before
                for p in range(self.picks):
                    for a in range(self.grips_before):
                        costs[at + p * self.grips_before + a] = self._move_cost(part, p, a, q, b, bound)
        return found

    def costs_from(self, Py_ssize_t state, double bound=INFINITY):
        """See `dromic.planner.kernel.plain.JoinedMoves.costs_from`."""
        cdef Py_ssize_t block = state // (self.picks * self.grips_before), q, b, p, a, at
        cdef _Part part
        if not 0 <= state < self.states_before:
            raise IndexError(f"there is no state {state}")
        p, a = (state // self.grips_before) % self.picks, state % self.grips_before
        found = np.full(self.states_after, np.inf)
        cdef double[::1] costs = found
        for part in self._parts:
            if part.before == block:
                at = part.after * self.picks * self.grips_after
                for q in range(self.picks):
                    for b in range(self.grips_after):
                        costs[at + q * self.grips_after + b] = self._move_cost(part, p, a, q, b, bound)
        return found

    def pair_loads(self, one, two):
        """See `dromic.planner.kernel.plain.JoinedMoves.pair_loads`."""
        cdef const int64_t[::1] ones = np.ascontiguousarray(one, dtype=np.int64)
        cdef const int64_t[::1] twos = np.ascontiguousarray(two, dtype=np.int64)
        cdef Py_ssize_t at, before, after
        cdef _Part part
        if ones.shape[0] != twos.shape[0]:
            raise ValueError("every move has two ends")
        found = np.full(ones.shape[0], np.inf)
        cdef double[::1] loads = found
        for at in range(ones.shape[0]):
            before, after = ones[at], twos[at]
            if not (0 <= before < self.states_before and 0 <= after < self.states_after):
                raise IndexError(f"there is no move from state {before} to {after}")
            for part in self._parts:
                if part.before == before // (self.picks * self.grips_before) and part.after == after // (
                    self.picks * self.grips_after
                ):
                    loads[at] = self._move_load(
                        part,
                        (before // self.grips_before) % self.picks,
                        before % self.grips_before,
                        (after // self.grips_after) % self.picks,
                        after % self.grips_after,
                    )
        return found


def min_plus(starts, table):
    """See `dromic.planner.kernel.plain.min_plus`."""
    cdef const double[:, ::1] begin = np.ascontiguousarray(starts, dtype=np.float64)
    cdef const double[:, ::1] costs = np.ascontiguousarray(table, dtype=np.float64)
    cdef Py_ssize_t row, one, two
    cdef double value, start
    if begin.shape[1] != costs.shape[0]:
        raise ValueError("a start for each row of the table is needed")
    found = np.full((begin.shape[0], costs.shape[1]), np.inf)
    cdef double[:, ::1] least = found
    for row in range(begin.shape[0]):
        for one in range(costs.shape[0]):
            start = begin[row, one]
            if start < INFINITY:
                for two in range(costs.shape[1]):
                    value = start + costs[one, two]
                    least[row, two] = value if value < least[row, two] else least[row, two]
    return found


def max_min(starts, table):
    """See `dromic.planner.kernel.plain.max_min`."""
    cdef const double[:, ::1] begin = np.ascontiguousarray(starts, dtype=np.float64)
    cdef const double[:, ::1] costs = np.ascontiguousarray(table, dtype=np.float64)
    cdef Py_ssize_t row, one, two
    cdef double value, start
    if begin.shape[1] != costs.shape[0]:
        raise ValueError("a start for each row of the table is needed")
    found = np.full((begin.shape[0], costs.shape[1]), np.inf)
    cdef double[:, ::1] least = found
    for row in range(begin.shape[0]):
        for one in range(costs.shape[0]):
            start = begin[row, one]
            if start < INFINITY:
                for two in range(costs.shape[1]):
                    value = costs[one, two] if costs[one, two] > start else start
                    least[row, two] = value if value < least[row, two] else least[row, two]
    return found
