# cython: language_level=3, wraparound=False, cdivision=True, initializedcheck=False
"""The kernel compiled: the same numbers as `dromic.planner.kernel.plain`, which says what they mean.

Least sums are taken without a joint table. The fretting hand's tables become loads and costs in scratch memory, from
every grip begun with to every grip reached. Then, for each pick state and string begun with, the least sum to each grip
reached; with the strokes, the least that any way there can cost, the hands' meeting left out. That is never more than the
true sum, so true sums are worked out only where this one could still be the least.
"""

from libc.float cimport DBL_MAX
from libc.math cimport INFINITY
from libc.stdint cimport int64_t
from libc.stdlib cimport free, malloc

import numpy as np

from dromic.planner.kernel.inputs import check_parts
from dromic.planner.kernel.plain import LEAST_BYTES
from dromic.planner.kernel.plain import TIE as _TIE


cdef extern from "loops.h" nogil:
    ctypedef struct Curve:
        double at_ease, calm, strain, overload

    ctypedef struct Way:
        Py_ssize_t picks, sources, targets, source_block, target_block, source_runs, target_runs
        int picked
        const int64_t *source_run
        const int64_t *target_run
        const int64_t *source_class
        const int64_t *target_class
        const double *load
        const double *cost
        const double *extra
        const double *stroke_load
        const double *stroke_cost
        Py_ssize_t from_pick, from_class, to_pick, to_class
        Curve curve
        double bound

    double effort(const Curve *, double)
    void fill_row(
        Py_ssize_t, const double *, const double *, const double *, const double *, double, double, double,
        const Curve *, double *, double *, double *
    )
    void least_row(Py_ssize_t, double, const double *, double *)
    void smallest_largest_row(Py_ssize_t, double, const double *, double *)
    void forbid_above(Py_ssize_t, double, const double *, const double *, double *)
    void forbidden_above(Py_ssize_t, double, const double *, const double *, double *)
    void turned(const double *, Py_ssize_t, Py_ssize_t, double *)
    void write_out(const Way *, int, Py_ssize_t, double *)
    Py_ssize_t relax_room(const Way *)
    void relax(const Way *, const double *, const int64_t *, double *, int64_t *, double *, int64_t *)
    void relax_layers(
        const Way *, const double *, double, int64_t, const int64_t *, Py_ssize_t, const int64_t *, Py_ssize_t,
        double *, double *, int64_t *
    )
    void relax_largest(const Way *, const double *, double *, double *)


cdef class _Memory:
    """Scratch memory of some numbers of eight bytes, which only grows."""
    cdef void *at
    cdef Py_ssize_t size

    def __dealloc__(self):
        free(self.at)

    cdef void *fit(self, Py_ssize_t size) except NULL:
        if self.size < size:
            free(self.at)
            self.size = 0
            self.at = malloc(size * 8)
            if self.at == NULL:
                raise MemoryError
            self.size = size
        return self.at


cdef double TIE = _TIE

cdef _Memory HANDS = _Memory(), TURNED = _Memory(), ROOM = _Memory(), OWN = _Memory()
cdef _Memory STROKES = _Memory(), START = _Memory(), LEAD = _Memory()


cdef class _Part:
    cdef Py_ssize_t before, after
    cdef bint picked
    cdef double per_gap
    # Times, efforts, hurried efforts and meetings of the fretting hand; loads and costs of the picking hand.
    cdef const double[:, :, ::1] hand
    cdef const double[:, ::1] timing
    cdef const double[:, :, :, :, ::1] pick

    def __init__(self, part):
        self.before, self.after, self.per_gap = part.before, part.after, part.timing.per_gap
        self.hand, self.timing = part.hand.tables, part.timing.tables
        self.picked = part.pick is not None
        if self.picked:
            self.pick = part.pick.tables


cdef class _Side:
    """See `dromic.planner.kernel.inputs.Side`; made once for each."""

    cdef Py_ssize_t picks, grips, states
    cdef const int64_t[::1] classes, runs, flights

    def __init__(self, side):
        self.picks, self.grips, self.states = side.picks, side.grips, side.states
        self.classes, self.runs, self.flights = side.classes, side.runs, side.flights


cdef _Side _side_of(object side):
    found = side.__dict__.get("_compiled")
    if found is None:
        found = _Side(side)
        side.__dict__["_compiled"] = found
    return found


cdef class _Entry:
    """How layers lead to layers, as `dromic.planner.kernel.inputs.Entry` says; checked there."""

    cdef Py_ssize_t source_of, target_of, source_copies, target_copies, sources, targets, source_grips, target_grips
    cdef double margin
    cdef const int64_t[::1] counts
    cdef const double[::1] costs
    cdef const double[:, ::1] changing
    # Where in `counts` and `costs` each of their parts begins.
    cdef Py_ssize_t at_source_grips, at_target_starts, at_target_grips, at_exceptions, at_layers, at_shares

    def __init__(self, entry):
        self.source_of, self.target_of, self.margin = entry.sources.of, entry.targets.of, entry.margin
        self.sources, self.targets = entry.sources.count, entry.targets.count
        self.source_grips, self.target_grips = len(entry.sources.grips), len(entry.targets.grips)
        starts, layers, costs = entry.exceptions
        parts = (
            entry.sources.starts, entry.sources.grips, entry.targets.starts, entry.targets.grips, starts, layers,
            entry.shares.astype(np.int64),
        )
        ends = np.cumsum([len(part) for part in parts])
        self.at_source_grips, self.at_target_starts, self.at_target_grips = ends[0], ends[1], ends[2]
        self.at_exceptions, self.at_layers, self.at_shares = ends[3], ends[4], ends[5]
        self.counts = np.concatenate(parts)
        self.costs = np.concatenate((entry.changing[:, 0], costs))
        self.changing = entry.changing

    cdef Py_ssize_t target_size(self, Py_ssize_t layer) noexcept:
        """How many grips a layer that is entered has."""
        return self.counts[self.at_target_starts + layer + 1] - self.counts[self.at_target_starts + layer]

    cdef void begin(self, const double[::1] sums, Py_ssize_t count, double *start, int64_t *lead):
        """Sums to enter the first layer with, which most others are entered with too."""
        cdef Py_ssize_t state, layer, copy, k, low, high, at
        cdef double value
        for state in range(count):
            start[state], lead[state] = INFINITY, -1
        for layer in range(self.sources):
            if not self.costs[layer] < INFINITY:
                continue
            low, high = self.counts[layer], self.counts[layer + 1]
            at = self.source_copies * low
            for copy in range(self.source_copies):
                for k in range(low, high):
                    value = sums[at] + self.costs[layer]
                    state = copy * self.source_of + self.counts[self.at_source_grips + k]
                    if value < start[state]:
                        start[state], lead[state] = value, at
                    at += 1

    cdef int go_on(self, Way *way, const double[::1] sums, double[::1] best, int64_t[::1] source) except -1:
        """Layers that are entered otherwise than the first."""
        cdef Py_ssize_t entered, exception, layer, low, to_count, k, from_count, at, state
        cdef double *low_room = <double *> ROOM.fit(way.picks * self.target_of)
        for entered in range(1, self.targets):
            low = self.counts[self.at_target_starts + entered]
            to_count = self.counts[self.at_target_starts + entered + 1] - low
            if not to_count:
                continue
            at = self.target_copies * low + way.target_block * way.picks * to_count
            for exception in range(
                self.counts[self.at_exceptions + entered], self.counts[self.at_exceptions + entered + 1]
            ):
                layer = self.counts[self.at_layers + exception]
                k, from_count = self.counts[layer], self.counts[layer + 1] - self.counts[layer]
                if from_count:
                    state = self.source_copies * k + way.source_block * way.picks * from_count
                    relax_layers(
                        way, &sums[state], self.costs[self.sources + exception], state,
                        &self.counts[self.at_source_grips + k], from_count,
                        &self.counts[self.at_target_grips + low], to_count, low_room, &best[at], &source[at],
                    )
        return 0

    cdef void end(self, double[::1] best, int64_t[::1] source):
        """What the first layer's sums are worth in those that share them, and where a layer is of no use."""
        cdef Py_ssize_t entered, copy, k, low, high, at, state
        for entered in range(1, self.targets):
            low, high = self.counts[self.at_target_starts + entered], self.counts[self.at_target_starts + entered + 1]
            at = self.target_copies * low
            for copy in range(self.target_copies):
                for k in range(low, high):
                    state = copy * self.target_of + self.counts[self.at_target_grips + k]
                    if self.counts[self.at_shares + entered] and (
                        best[state] < best[at] or (best[state] == best[at] and source[state] < source[at])
                    ):
                        best[at], source[at] = best[state], source[state]
                    # The first layer's way on is at most the margin dearer.
                    if best[at] >= best[state] + self.margin:
                        best[at], source[at] = DBL_MAX, -1
                    at += 1


cdef _Entry _entry_of(object entry):
    found = entry.__dict__.get("_compiled")
    if found is None:
        found = _Entry(entry)
        entry.__dict__["_compiled"] = found
    return found


cdef class JoinedMoves:
    """See `dromic.planner.kernel.plain.JoinedMoves`."""

    cdef readonly object parts, before, after, curve
    cdef list _parts
    cdef Curve _curve
    cdef Py_ssize_t picks, grips_before, grips_after, states_before, states_after
    cdef _Side _before, _after

    def __init__(self, parts, before, after, curve):
        check_parts(parts, before, after)
        self.parts, self.before, self.after, self.curve = tuple(parts), before, after, curve
        self._parts = [_Part(part) for part in parts]
        self._curve = Curve(curve.at_ease, curve.calm, curve.strain, curve.overload)
        self.picks = before.picks
        self.grips_before, self.grips_after = before.grips, after.grips
        self.states_before, self.states_after = before.states, after.states
        self._before, self._after = _side_of(before), _side_of(after)

    @property
    def nbytes(self):
        """See `dromic.planner.kernel.plain.JoinedMoves.nbytes`."""
        return LEAST_BYTES + sum(part.hand.nbytes for part in self.parts)

    # -- single moves, and whole tables for few and small uses ----------------------------------------------

    cdef double _hand_cost(self, _Part part, Py_ssize_t one, Py_ssize_t two, double load) noexcept:
        cdef double cost = effort(&self._curve, load) + (
            part.hand[1, one, two] + part.timing[1, self._before.flights[one]] * part.hand[2, one, two]
        )
        if part.picked and part.hand[3, one, two] > 0.0:
            cost += effort(&self._curve, load + part.hand[3, one, two] * part.per_gap)
        return cost

    cdef double _move_load(
        self, _Part part, Py_ssize_t pick_one, Py_ssize_t one, Py_ssize_t pick_two, Py_ssize_t two
    ) noexcept:
        cdef double hand = part.hand[0, one, two] * part.timing[0, self._before.flights[one]], stroke
        if not part.picked:
            return hand if pick_one == pick_two else INFINITY
        stroke = part.pick[0, pick_one, self._before.classes[one], pick_two, self._after.classes[two]]
        return (stroke if stroke > hand else hand) + part.hand[3, one, two] * part.per_gap

    cdef double _move_cost(
        self, _Part part, Py_ssize_t pick_one, Py_ssize_t one, Py_ssize_t pick_two, Py_ssize_t two, double bound
    ) noexcept:
        cdef double hand, stroke, extra, cost
        if not part.picked and pick_one != pick_two:
            return INFINITY
        hand = part.hand[0, one, two] * part.timing[0, self._before.flights[one]]
        cost = self._hand_cost(part, one, two, hand)
        if not part.picked:
            return cost if hand <= bound else INFINITY
        stroke = part.pick[0, pick_one, self._before.classes[one], pick_two, self._after.classes[two]]
        extra = part.hand[3, one, two] * part.per_gap
        if (stroke if stroke > hand else hand) + extra > bound:
            return INFINITY
        cost = part.pick[1, pick_one, self._before.classes[one], pick_two, self._after.classes[two]] + cost
        if extra > 0.0 and stroke > hand:
            cost = cost + (effort(&self._curve, stroke + extra) - effort(&self._curve, hand + extra))
        return cost

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

    cdef int _write(self, double[:, ::1] found, double bound, bint loads) except -1:
        cdef _Part part
        cdef Way way
        for part in self._parts:
            self._fill(part, False, &way, bound)
            write_out(
                &way, loads, self.states_after,
                &found[part.before * self.picks * way.sources, part.after * self.picks * way.targets],
            )
        return 0

    def source(self, here, Py_ssize_t state, layering=None, *, double bound=INFINITY):
        """See `dromic.planner.kernel.plain.JoinedMoves.source`."""
        cdef const double[::1] sums = np.ascontiguousarray(here, dtype=np.float64)
        cdef Py_ssize_t layer = 0, low = 0, of = self.grips_before, grips = self.grips_after, size = self.states_before
        cdef Py_ssize_t copies = self.states_before // self.grips_before, place, row, b, p, q, k, at, first, last
        cdef Py_ssize_t block, other, layer_from, layers = 1
        cdef double cost, least = INFINITY
        cdef _Entry entry = None
        cdef _Part part
        cdef double *value
        if layering is not None:
            entry = _entry_of(layering.into)
            if entry.source_of != of or entry.target_of != grips:
                raise ValueError("layers do not fit the grips of a link")
            size, layers = copies * entry.source_grips, entry.sources
        place = state
        if entry is not None and state >= 0:
            other = self.states_after // grips
            while layer < entry.targets and place >= other * entry.target_size(layer):
                place -= other * entry.target_size(layer)
                layer += 1
            if layer == entry.targets:
                raise IndexError(f"there is no state {state}")
            low, grips = entry.counts[entry.at_target_starts + layer], entry.target_size(layer)
        elif not 0 <= state < self.states_after:
            raise IndexError(f"there is no state {state}")
        if sums.shape[0] != size:
            raise ValueError(f"there are {size} states, and {sums.shape[0]} sums")
        row, b = place // grips, place % grips
        if entry is not None:
            b = entry.counts[entry.at_target_grips + low + b]
        block, q = row // self.picks, row % self.picks
        value = <double *> START.fit(size)
        for at in range(size):
            value[at] = INFINITY
        for part in self._parts:
            if part.after != block:
                continue
            for layer_from in range(layers):
                first, last = 0, of
                cost = 0.0
                if entry is not None:
                    first, last = entry.counts[layer_from], entry.counts[layer_from + 1]
                    cost = entry.changing[layer_from, layer]
                if not cost < INFINITY:
                    continue
                for p in range(self.picks):
                    at = copies * first + (part.before * self.picks + p) * (last - first)
                    for k in range(first, last):
                        if sums[at] < INFINITY:
                            place = k if entry is None else entry.counts[entry.at_source_grips + k]
                            value[at] = sums[at] + (self._move_cost(part, p, place, q, b, bound) + cost)
                            least = value[at] if value[at] < least else least
                        at += 1
        for at in range(size):
            if value[at] <= least + TIE:
                return at
        return 0

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
        cdef unsigned int one_state, two_state, one_row, two_row, picks = self.picks
        cdef unsigned int one_grips = self.grips_before, two_grips = self.grips_after
        for at in range(ones.shape[0]):
            before, after = ones[at], twos[at]
            if not (0 <= before < self.states_before and 0 <= after < self.states_after):
                raise IndexError(f"there is no move from state {before} to {after}")
            one_state, two_state = before, after
            one_row, two_row = one_state // one_grips, two_state // two_grips
            for part in self._parts:
                if <unsigned int> part.before == one_row // picks and <unsigned int> part.after == two_row // picks:
                    loads[at] = self._move_load(
                        part, one_row % picks, one_state - one_row * one_grips, two_row % picks,
                        two_state - two_row * two_grips,
                    )
        return found

    # -- sums -----------------------------------------------------------------------------------------------

    cdef int _fill(self, _Part part, bint back, Way *way, double bound) except -1:
        """Make a part ready to be gone over in one direction, within a bound of the loads."""
        cdef Py_ssize_t strokes
        cdef double *stroke_cost
        cdef Py_ssize_t rows = self.grips_before, columns = self.grips_after, cells = rows * columns, a
        cdef double *loads = <double *> HANDS.fit(3 * cells)
        cdef double *costs = loads + cells
        cdef double *extras = costs + cells
        cdef double *other
        cdef double per_gap = part.per_gap if part.picked else 0.0
        cdef const int64_t[::1] flights = self._before.flights
        if part.hand.shape[1] != rows or part.hand.shape[2] != columns:
            raise ValueError("a part does not fit its link")
        for a in range(rows):
            fill_row(
                columns, &part.hand[0, a, 0], &part.hand[1, a, 0], &part.hand[2, a, 0], &part.hand[3, a, 0],
                part.timing[0, flights[a]], part.timing[1, flights[a]], per_gap, &self._curve,
                loads + a * columns, costs + a * columns, extras + a * columns,
            )
        if bound < INFINITY:
            forbid_above(cells, bound, loads, extras, costs)
        if back:
            other = <double *> TURNED.fit(3 * cells)
            turned(loads, rows, columns, other)
            turned(costs, rows, columns, other + cells)
            turned(extras, rows, columns, other + 2 * cells)
            loads, costs, extras = other, other + cells, other + 2 * cells
        way.picks, way.picked, way.curve, way.bound = self.picks, part.picked, self._curve, bound
        way.load, way.cost, way.extra = loads, costs, extras
        way.sources, way.targets = rows, columns
        way.source_block, way.target_block = part.before, part.after
        way.source_runs, way.target_runs = self._before.runs.shape[0] - 1, self._after.runs.shape[0] - 1
        way.source_run, way.target_run = &self._before.runs[0], &self._after.runs[0]
        way.source_class, way.target_class = &self._before.classes[0], &self._after.classes[0]
        way.from_pick = way.from_class = way.to_pick = way.to_class = 0
        if part.picked:
            way.stroke_load, way.stroke_cost = &part.pick[0, 0, 0, 0, 0], &part.pick[1, 0, 0, 0, 0]
            if bound < INFINITY:
                strokes = self.picks * part.pick.shape[2] * self.picks * part.pick.shape[4]
                stroke_cost = <double *> STROKES.fit(strokes)
                forbidden_above(strokes, bound, way.stroke_load, way.stroke_cost, stroke_cost)
                way.stroke_cost = stroke_cost
            way.to_pick, way.to_class = part.pick.shape[4], 1
            way.from_class = self.picks * part.pick.shape[4]
            way.from_pick = part.pick.shape[2] * way.from_class
        if back:
            way.sources, way.targets = way.targets, way.sources
            way.source_block, way.target_block = way.target_block, way.source_block
            way.source_runs, way.target_runs = way.target_runs, way.source_runs
            way.source_run, way.target_run = way.target_run, way.source_run
            way.source_class, way.target_class = way.target_class, way.source_class
            way.from_pick, way.to_pick = way.to_pick, way.from_pick
            way.from_class, way.to_class = way.to_class, way.from_class
        return 0

    def least(self, here, layering=None, *, bint back=False, double bound=INFINITY):
        """See `dromic.planner.kernel.plain.JoinedMoves.least`."""
        cdef const double[::1] sums = np.ascontiguousarray(here, dtype=np.float64)
        cdef Py_ssize_t count = self.states_after if back else self.states_before
        cdef Py_ssize_t size = self.states_before if back else self.states_after
        cdef Py_ssize_t sources = self.grips_after if back else self.grips_before
        cdef Py_ssize_t targets = self.grips_before if back else self.grips_after
        cdef Py_ssize_t state
        cdef Way way
        cdef _Part part
        cdef _Entry entry = None
        cdef double *start
        cdef int64_t *lead
        cdef Py_ssize_t given = count
        if layering is not None:
            entry = _entry_of(layering.onto if back else layering.into)
            if entry.source_of != sources or entry.target_of != targets:
                raise ValueError("layers do not fit the grips of a link")
            entry.source_copies, entry.target_copies = count // sources, size // targets
            given = entry.source_copies * entry.source_grips
            size = entry.target_copies * entry.target_grips
        if sums.shape[0] != given:
            raise ValueError(f"there are {given} states, and {sums.shape[0]} sums")
        values, found = np.empty(size), np.empty(size, dtype=np.int64)
        cdef double[::1] best = values
        cdef int64_t[::1] source = found
        # From here on nothing runs but this, so that no other thread can use the same scratch memory.
        start, lead = <double *> START.fit(count), <int64_t *> LEAD.fit(count)
        for state in range(size):
            best[state], source[state] = DBL_MAX, -1
        if entry is None:
            for state in range(count):
                start[state], lead[state] = sums[state], state
        else:
            entry.begin(sums, count, start, lead)
        for part in self._parts:
            self._fill(part, back, &way, bound)
            relax(
                &way, start + way.source_block * self.picks * sources, lead + way.source_block * self.picks * sources,
                <double *> ROOM.fit(relax_room(&way)), <int64_t *> OWN.fit(self.picks * way.source_runs),
                &best[way.target_block * self.picks * targets], &source[way.target_block * self.picks * targets],
            )
            if entry is not None:
                entry.go_on(&way, sums, best, source)
        if entry is not None:
            entry.end(best, source)
        for state in range(size):
            if best[state] == DBL_MAX:
                best[state] = INFINITY
        return values, found.astype(np.int32)

    def smallest_largest(self, here, *, bint back=False):
        """See `dromic.planner.kernel.plain.JoinedMoves.smallest_largest`."""
        cdef Py_ssize_t count = self.states_after if back else self.states_before
        cdef Py_ssize_t size = self.states_before if back else self.states_after
        cdef const double[::1] start = np.ascontiguousarray(here, dtype=np.float64)
        cdef _Part part
        cdef Way way
        cdef double *loads
        cdef Py_ssize_t at
        if start.shape[0] != count:
            raise ValueError(f"there are {count} states, and {start.shape[0]} loads")
        found = np.full(size, np.inf)
        cdef double[::1] best = found
        for part in self._parts:
            self._fill(part, back, &way, INFINITY)
            loads = <double *> way.load
            for at in range(way.sources * way.targets):
                if not way.cost[at] < INFINITY:
                    loads[at] = INFINITY
            relax_largest(
                &way, &start[way.source_block * self.picks * way.sources], <double *> ROOM.fit(way.targets),
                &best[way.target_block * self.picks * way.targets],
            )
        return found


def min_plus(starts, table):
    """See `dromic.planner.kernel.plain.min_plus`."""
    return _over_table(starts, table, False)


def max_min(starts, table):
    """See `dromic.planner.kernel.plain.max_min`."""
    return _over_table(starts, table, True)


cdef object _over_table(object starts, object table, bint largest):
    cdef const double[:, ::1] begin = np.ascontiguousarray(starts, dtype=np.float64)
    cdef const double[:, ::1] costs = np.ascontiguousarray(table, dtype=np.float64)
    cdef Py_ssize_t row, one, count = costs.shape[1]
    if begin.shape[1] != costs.shape[0]:
        raise ValueError("a start for each row of the table is needed")
    found = np.full((begin.shape[0], count), np.inf)
    cdef double[:, ::1] least = found
    if not count:
        return found
    for row in range(begin.shape[0]):
        for one in range(costs.shape[0]):
            if begin[row, one] < INFINITY:
                if largest:
                    smallest_largest_row(count, begin[row, one], &costs[one, 0], &least[row, 0])
                else:
                    least_row(count, begin[row, one], &costs[one, 0], &least[row, 0])
    return found
