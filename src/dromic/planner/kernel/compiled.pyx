# cython: language_level=3, wraparound=False, cdivision=True, initializedcheck=False
"""The kernel compiled: the same numbers as `dromic.planner.kernel.plain`, which says what they mean.

Least sums are taken without a joint table. The fretting hand's tables become loads and costs in scratch memory, from
every grip begun with to every grip reached. Then, for each pick state and string begun with, the least sum to each grip
reached; with the strokes, the least that any way there can cost, the hands' meeting left out. That is never more than the
true sum, so true sums are worked out only where this one could still be the least.

While it takes sums it lets other threads go on: what it works on was checked before and never changes, and every call has
scratch memory of its own.
"""

from libc.float cimport DBL_MAX
from libc.math cimport INFINITY
from libc.stdint cimport int16_t, int32_t, int64_t
from libc.stdlib cimport free, malloc

import numpy as np

from dromic.planner.kernel.inputs import Least, check_parts
from dromic.planner.kernel.plain import LEAST_BYTES
from dromic.planner.kernel.plain import TIE as _TIE


cdef extern from "loops.h" nogil:
    ctypedef struct Curve:
        double at_ease, calm, strain, overload

    ctypedef struct Way:
        Py_ssize_t picks, sources, targets, source_block, target_block, source_runs, target_runs
        int picked
        const double *load
        const double *cost
        const double *extra

    ctypedef struct PartView:
        Py_ssize_t before, after, classes_before, classes_after, flights
        int picked
        double per_gap
        const double *hand
        const double *timing
        const double *pick

    ctypedef struct LinkView:
        Py_ssize_t picks, grips_before, grips_after, runs_before, runs_after
        const int64_t *flights
        const int64_t *run_before
        const int64_t *run_after
        const int64_t *class_before
        const int64_t *class_after
        Curve curve

    ctypedef struct Room:
        double *hands
        double *turned
        double *strokes
        double *room
        double *start
        int64_t *own
        int64_t *lead

    double effort(const Curve *, double)
    Py_ssize_t strokes_room(const LinkView *, const PartView *)
    void fill(const LinkView *, const PartView *, int, double, const Room *, Way *)
    void keep_within(const Way *, double, Py_ssize_t, double *, double *, Way *)
    double move_load(const LinkView *, const PartView *, Py_ssize_t, Py_ssize_t, Py_ssize_t, Py_ssize_t)
    double pair_load(const LinkView *, const PartView *, Py_ssize_t, Py_ssize_t, Py_ssize_t)
    void least_row(Py_ssize_t, double, const double *, double *)
    void smallest_largest_row(Py_ssize_t, double, const double *, double *)
    void write_out(const Way *, int, Py_ssize_t, double *)
    void relax(const Way *, const double *, const int64_t *, double *, int64_t *, double *, int64_t *, double *)
    void relax_layers(
        const Way *, const double *, double, int64_t, const int64_t *, Py_ssize_t, const int64_t *, Py_ssize_t,
        double *, double *, int64_t *, double *
    )
    void relax_largest(const Way *, const double *, double *, double *)


cdef double TIE = _TIE
cdef Py_ssize_t MOST_SMALL = np.iinfo(np.int16).max


cdef class _Scratch:
    """Memory to work in, which only grows; one call at a time has it."""

    cdef void *at
    cdef Py_ssize_t size
    cdef Room room
    cdef int64_t *sources

    def __dealloc__(self):
        free(self.at)

    cdef int fit(self, JoinedMoves moves, Py_ssize_t starts, Py_ssize_t ends=0) except -1:
        """Make room for the sums of a link, which begin with so many numbers at most, and end with so many."""
        cdef Py_ssize_t cells = moves.link.grips_before * moves.link.grips_after, picks = moves.link.picks
        cdef Py_ssize_t runs = max(moves.link.runs_before, moves.link.runs_after), strokes = 0, part
        cdef Py_ssize_t grips = max(moves.link.grips_before, moves.link.grips_after)
        cdef Py_ssize_t room = picks * runs * (grips + runs) + picks * grips, wanted
        cdef double *at
        for part in range(moves.count):
            strokes = max(strokes, strokes_room(&moves.link, &moves.views[part]))
        wanted = 7 * cells + strokes + room + 2 * starts + picks * runs + ends
        if self.size < wanted:
            free(self.at)
            self.size = 0
            self.at = malloc(wanted * 8)
            if self.at == NULL:
                raise MemoryError
            self.size = wanted
        at = <double *> self.at
        self.room.hands, self.room.turned, self.room.strokes = at, at + 3 * cells, at + 7 * cells
        self.room.room = self.room.strokes + strokes
        self.room.start = self.room.room + room
        self.room.lead = <int64_t *> (self.room.start + starts)
        self.room.own = self.room.lead + starts
        self.sources = self.room.own + picks * runs
        return 0


cdef list UNUSED = []


cdef _Scratch _scratch():
    return UNUSED.pop() if UNUSED else _Scratch()


cdef class _Side:
    """See `dromic.planner.kernel.inputs.Side`; made once for each."""

    cdef const int64_t[::1] classes, runs, flights

    def __init__(self, side):
        self.classes, self.runs, self.flights = side.classes, side.runs, side.flights


cdef _Side _side_of(object side):
    found = side.__dict__.get("_compiled")
    if found is None:
        found = _Side(side)
        side.__dict__["_compiled"] = found
    return found


cdef class _Entry:
    """How layers lead to layers, as `dromic.planner.kernel.inputs.Entry` says; checked there."""

    cdef Py_ssize_t source_of, target_of, sources, targets, source_grips, target_grips
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

    cdef Py_ssize_t target_size(self, Py_ssize_t layer) noexcept nogil:
        """How many grips a layer that is entered has."""
        return self.counts[self.at_target_starts + layer + 1] - self.counts[self.at_target_starts + layer]

    cdef void begin(
        self, Py_ssize_t copies, const double *sums, Py_ssize_t count, double *start, int64_t *lead
    ) noexcept nogil:
        """Sums to enter the first layer with, which most others are entered with too."""
        cdef Py_ssize_t state, layer, copy, k, low, high, at
        cdef double value
        for state in range(count):
            start[state], lead[state] = INFINITY, -1
        for layer in range(self.sources):
            if not self.costs[layer] < INFINITY:
                continue
            low, high = self.counts[layer], self.counts[layer + 1]
            at = copies * low
            for copy in range(copies):
                for k in range(low, high):
                    value = sums[at] + self.costs[layer]
                    state = copy * self.source_of + self.counts[self.at_source_grips + k]
                    if value < start[state]:
                        start[state], lead[state] = value, at
                    at += 1

    cdef void go_on(
        self, const Way *way, Py_ssize_t source_copies, Py_ssize_t target_copies, const double *sums, double *room,
        double *best, int64_t *source, double *load
    ) noexcept nogil:
        """Layers that are entered otherwise than the first."""
        cdef Py_ssize_t entered, exception, layer, low, to_count, k, from_count, at, state
        for entered in range(1, self.targets):
            low = self.counts[self.at_target_starts + entered]
            to_count = self.counts[self.at_target_starts + entered + 1] - low
            if not to_count:
                continue
            at = target_copies * low + way.target_block * way.picks * to_count
            for exception in range(
                self.counts[self.at_exceptions + entered], self.counts[self.at_exceptions + entered + 1]
            ):
                layer = self.counts[self.at_layers + exception]
                k, from_count = self.counts[layer], self.counts[layer + 1] - self.counts[layer]
                if from_count:
                    state = source_copies * k + way.source_block * way.picks * from_count
                    relax_layers(
                        way, sums + state, self.costs[self.sources + exception], state,
                        &self.counts[self.at_source_grips + k], from_count,
                        &self.counts[self.at_target_grips + low], to_count, room, best + at, source + at, load + at,
                    )

    cdef void end(self, Py_ssize_t copies, double *best, int64_t *source, double *load) noexcept nogil:
        """What the first layer's sums are worth in those that share them, and where a layer is of no use."""
        cdef Py_ssize_t entered, copy, k, low, high, at, state
        for entered in range(1, self.targets):
            low, high = self.counts[self.at_target_starts + entered], self.counts[self.at_target_starts + entered + 1]
            at = copies * low
            for copy in range(copies):
                for k in range(low, high):
                    state = copy * self.target_of + self.counts[self.at_target_grips + k]
                    if self.counts[self.at_shares + entered] and (
                        best[state] < best[at] or (best[state] == best[at] and source[state] < source[at])
                    ):
                        best[at], source[at], load[at] = best[state], source[state], load[state]
                    # The first layer's way on is at most the margin dearer.
                    if best[at] >= best[state] + self.margin:
                        best[at], source[at], load[at] = DBL_MAX, -1, 0.0
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
    cdef LinkView link
    cdef PartView *views
    cdef Py_ssize_t count, states_before, states_after
    cdef _Side _before, _after

    def __init__(self, parts, before, after, curve):
        cdef const double[:, :, ::1] hand
        cdef const double[:, ::1] timing
        cdef const double[:, :, :, :, ::1] pick
        cdef PartView *view
        check_parts(parts, before, after)
        self.parts, self.before, self.after, self.curve = tuple(parts), before, after, curve
        self._before, self._after = _side_of(before), _side_of(after)
        self.states_before, self.states_after = before.states, after.states
        self.link.curve = Curve(curve.at_ease, curve.calm, curve.strain, curve.overload)
        self.link.picks, self.link.grips_before, self.link.grips_after = before.picks, before.grips, after.grips
        self.link.runs_before, self.link.runs_after = len(before.runs) - 1, len(after.runs) - 1
        self.link.flights = &self._before.flights[0]
        self.link.run_before, self.link.run_after = &self._before.runs[0], &self._after.runs[0]
        self.link.class_before, self.link.class_after = &self._before.classes[0], &self._after.classes[0]
        self.count = len(self.parts)
        self.views = <PartView *> malloc(self.count * sizeof(PartView))
        if self.views == NULL:
            raise MemoryError
        # The arrays belong to the parts, which are kept.
        for at, part in enumerate(self.parts):
            view = &self.views[at]
            hand, timing = part.hand.tables, part.timing.tables
            view.before, view.after, view.per_gap = part.before, part.after, part.timing.per_gap
            view.hand, view.timing, view.flights = &hand[0, 0, 0], &timing[0, 0], timing.shape[1]
            view.picked = part.pick is not None
            view.pick, view.classes_before, view.classes_after = NULL, 0, 0
            if view.picked:
                pick = part.pick.tables
                view.pick, view.classes_before, view.classes_after = &pick[0, 0, 0, 0, 0], pick.shape[2], pick.shape[4]

    def __dealloc__(self):
        free(self.views)

    @property
    def nbytes(self):
        """See `dromic.planner.kernel.plain.JoinedMoves.nbytes`."""
        return LEAST_BYTES + sum(part.hand.nbytes for part in self.parts)

    # -- single moves, and whole tables for few and small uses ----------------------------------------------

    cdef double _move_cost(
        self, const PartView *part, Py_ssize_t pick_one, Py_ssize_t one, Py_ssize_t pick_two, Py_ssize_t two, double bound
    ) noexcept nogil:
        cdef Py_ssize_t cells = self.link.grips_before * self.link.grips_after, at = one * self.link.grips_after + two
        cdef Py_ssize_t flight = self.link.flights[one], place
        cdef double hand = part.hand[at] * part.timing[flight], stroke, extra, cost
        if not part.picked and pick_one != pick_two:
            return INFINITY
        cost = effort(&self.link.curve, hand) + (
            part.hand[cells + at] + part.timing[part.flights + flight] * part.hand[2 * cells + at]
        )
        if not part.picked:
            return cost if hand <= bound else INFINITY
        extra = part.hand[3 * cells + at] * part.per_gap
        if part.hand[3 * cells + at] > 0.0:
            cost += effort(&self.link.curve, hand + extra)
        place = (pick_one * part.classes_before + self.link.class_before[one]) * self.link.picks + pick_two
        place = place * part.classes_after + self.link.class_after[two]
        stroke = part.pick[place]
        if (stroke if stroke > hand else hand) + extra > bound:
            return INFINITY
        cost = part.pick[strokes_room(&self.link, part) + place] + cost
        if extra > 0.0 and stroke > hand:
            cost = cost + (effort(&self.link.curve, stroke + extra) - effort(&self.link.curve, hand + extra))
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
        cdef _Scratch scratch = _scratch()
        cdef Py_ssize_t at, picks = self.link.picks
        cdef Way way
        scratch.fit(self, 0)
        for at in range(self.count):
            fill(&self.link, &self.views[at], False, bound, &scratch.room, &way)
            write_out(
                &way, loads, self.states_after,
                &found[self.views[at].before * picks * way.sources, self.views[at].after * picks * way.targets],
            )
        UNUSED.append(scratch)
        return 0

    def source(self, here, Py_ssize_t state, layering=None, *, double bound=INFINITY):
        """See `dromic.planner.kernel.plain.JoinedMoves.source`."""
        cdef const double[::1] sums = np.ascontiguousarray(here, dtype=np.float64)
        cdef Py_ssize_t of = self.link.grips_before, grips = self.link.grips_after, size = self.states_before
        cdef Py_ssize_t copies = self.states_before // of, place, row, b, p, q, k, at, first, last, part
        cdef Py_ssize_t layer = 0, low = 0, block, other, layer_from, layers = 1, picks = self.link.picks
        cdef double cost, least = INFINITY
        cdef _Entry entry = None
        cdef _Scratch scratch
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
        block, q = row // picks, row % picks
        scratch = _scratch()
        scratch.fit(self, size)
        value = scratch.room.start
        for at in range(size):
            value[at] = INFINITY
        for part in range(self.count):
            if self.views[part].after != block:
                continue
            for layer_from in range(layers):
                first, last = 0, of
                cost = 0.0
                if entry is not None:
                    first, last = entry.counts[layer_from], entry.counts[layer_from + 1]
                    cost = entry.changing[layer_from, layer]
                if not cost < INFINITY:
                    continue
                for p in range(picks):
                    at = copies * first + (self.views[part].before * picks + p) * (last - first)
                    for k in range(first, last):
                        if sums[at] < INFINITY:
                            place = k if entry is None else entry.counts[entry.at_source_grips + k]
                            value[at] = sums[at] + (self._move_cost(&self.views[part], p, place, q, b, bound) + cost)
                            least = value[at] if value[at] < least else least
                        at += 1
        place = 0
        for at in range(size):
            if value[at] <= least + TIE:
                place = at
                break
        UNUSED.append(scratch)
        return place

    def pair_loads(self, one, two):
        """See `dromic.planner.kernel.plain.JoinedMoves.pair_loads`."""
        cdef const int64_t[::1] ones = np.ascontiguousarray(one, dtype=np.int64)
        cdef const int64_t[::1] twos = np.ascontiguousarray(two, dtype=np.int64)
        cdef Py_ssize_t at, before, after
        if ones.shape[0] != twos.shape[0]:
            raise ValueError("every move has two ends")
        found = np.empty(ones.shape[0])
        cdef double[::1] loads = found
        for at in range(ones.shape[0]):
            before, after = ones[at], twos[at]
            if not (0 <= before < self.states_before and 0 <= after < self.states_after):
                raise IndexError(f"there is no move from state {before} to {after}")
            loads[at] = pair_load(&self.link, self.views, self.count, before, after)
        return found

    # -- sums -----------------------------------------------------------------------------------------------

    def least(self, here, layering=None, *, bint back=False, bound=INFINITY):
        """See `dromic.planner.kernel.plain.JoinedMoves.least`."""
        given = np.ascontiguousarray(here, dtype=np.float64)
        cdef bint flat = given.ndim == 1
        cdef const double[::1] sums = given if flat else given.reshape(-1)
        cdef Py_ssize_t count = self.states_after if back else self.states_before
        cdef Py_ssize_t size = self.states_before if back else self.states_after
        cdef Py_ssize_t sources = self.link.grips_after if back else self.link.grips_before
        cdef Py_ssize_t targets = self.link.grips_before if back else self.link.grips_after
        cdef Py_ssize_t source_copies = count // sources, target_copies = size // targets, picks = self.link.picks
        cdef Py_ssize_t state, part, row, block, rows = 1 if flat else len(given), wanted = count
        cdef const double[::1] bounds
        cdef bint one_bound = not isinstance(bound, np.ndarray)
        cdef double most = bound if one_bound else INFINITY
        cdef Way way, free_way
        cdef _Entry entry = None
        cdef _Scratch scratch
        cdef const double *own
        cdef double *start
        cdef double *costs
        cdef int64_t *lead
        cdef int64_t *source
        cdef Room *room
        if layering is not None:
            entry = _entry_of(layering.onto if back else layering.into)
            if entry.source_of != sources or entry.target_of != targets:
                raise ValueError("layers do not fit the grips of a link")
            wanted, size = source_copies * entry.source_grips, target_copies * entry.target_grips
        if sums.shape[0] != rows * wanted:
            raise ValueError(f"there are {wanted} states, and {given.shape[given.ndim - 1]} sums")
        if not one_bound:
            bounds = np.ascontiguousarray(bound, dtype=np.float64)
            if bounds.shape[0] != rows:
                raise ValueError(f"there are {rows} rows of sums, and {bounds.shape[0]} bounds")
        # Kept for every state of a riff: numbers of states are as small as they can be.
        values, taken = np.empty(rows * size), np.zeros(rows * size)
        found = np.empty(rows * size, dtype=np.int16 if wanted <= MOST_SMALL else np.int32)
        cdef double[::1] best = values
        cdef double[::1] loads = taken
        cdef int16_t[::1] small
        cdef int32_t[::1] large
        if rows * size == 0:
            return Least(values.reshape(rows, size), found.reshape(rows, size), taken.reshape(rows, size))
        scratch = _scratch()
        scratch.fit(self, rows * count, rows * size)
        room = &scratch.room
        source = scratch.sources
        # Behind the tables that are turned there is room for one more.
        costs = room.turned + 3 * self.link.grips_before * self.link.grips_after
        with nogil:
            for state in range(rows * size):
                best[state], source[state] = DBL_MAX, -1
            for row in range(rows):
                start, lead, own = room.start + row * count, room.lead + row * count, &sums[row * wanted]
                if entry is None:
                    for state in range(count):
                        start[state], lead[state] = own[state], state
                else:
                    entry.begin(source_copies, own, count, start, lead)
            for part in range(self.count):
                fill(&self.link, &self.views[part], back, most, room, &free_way)
                for row in range(rows):
                    way = free_way
                    if not one_bound:
                        keep_within(
                            &free_way, bounds[row], strokes_room(&self.link, &self.views[part]), costs, room.strokes, &way
                        )
                    state = row * count + way.source_block * picks * sources
                    block = row * size + way.target_block * picks * targets
                    relax(
                        &way, room.start + state, room.lead + state, room.room, room.own, &best[block], source + block,
                        &loads[block],
                    )
                    if entry is not None:
                        entry.go_on(
                            &way, source_copies, target_copies, &sums[row * wanted], room.room, &best[row * size],
                            source + row * size, &loads[row * size],
                        )
            if entry is not None:
                for row in range(rows):
                    entry.end(target_copies, &best[row * size], source + row * size, &loads[row * size])
            for state in range(rows * size):
                if best[state] == DBL_MAX:
                    best[state] = INFINITY
        if wanted <= MOST_SMALL:
            small = found
            for state in range(rows * size):
                small[state] = <int16_t> source[state]
        else:
            large = found
            for state in range(rows * size):
                large[state] = <int32_t> source[state]
        UNUSED.append(scratch)
        if flat:
            return Least(values, found, taken)
        return Least(values.reshape(rows, size), found.reshape(rows, size), taken.reshape(rows, size))

    def smallest_largest(self, here, *, bint back=False):
        """See `dromic.planner.kernel.plain.JoinedMoves.smallest_largest`."""
        cdef Py_ssize_t count = self.states_after if back else self.states_before
        cdef Py_ssize_t size = self.states_before if back else self.states_after
        cdef const double[::1] start = np.ascontiguousarray(here, dtype=np.float64)
        cdef Py_ssize_t at, part, picks = self.link.picks
        cdef _Scratch scratch
        cdef Way way
        cdef double *loads
        if start.shape[0] != count:
            raise ValueError(f"there are {count} states, and {start.shape[0]} loads")
        found = np.full(size, np.inf)
        cdef double[::1] best = found
        scratch = _scratch()
        scratch.fit(self, 0)
        with nogil:
            for part in range(self.count):
                fill(&self.link, &self.views[part], back, INFINITY, &scratch.room, &way)
                loads = <double *> way.load
                for at in range(way.sources * way.targets):
                    if not way.cost[at] < INFINITY:
                        loads[at] = INFINITY
                relax_largest(
                    &way, &start[way.source_block * picks * way.sources], scratch.room.room,
                    &best[way.target_block * picks * way.targets],
                )
        UNUSED.append(scratch)
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
