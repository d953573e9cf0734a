/* The loops of the kernel: numbers only, no Python. What they compute is said in plain.py; sums must be those of NumPy
   to the last bit, so nothing here may be contracted or reordered. Whoever calls has checked every size. */

#include <math.h>
#include <float.h>
#include <stddef.h>
#include <stdint.h>

/* Wider registers where the processor has them, chosen when the library is loaded. */
#if defined(__GNUC__) && !defined(__clang__) && defined(__x86_64__) && defined(__gnu_linux__)
#define WIDE __attribute__((target_clones("avx2", "default")))
#else
#define WIDE
#endif

/* Sums of the same numbers in another order differ by less than this share of them. */
#define SLACK 1e-12

typedef struct {
    double at_ease, calm, strain, overload;
} Curve;

static inline double effort(const Curve *curve, double load)
{
    double above = load - curve->calm, beyond = load - 1.0;
    above = above > 0.0 ? above : 0.0;
    beyond = beyond > 0.0 ? beyond : 0.0;
    return curve->at_ease * (load * load) + curve->strain * (above * above) + curve->overload * (beyond * beyond);
}

/* The fretting hand over one row of a link: loads, costs, and the load that meeting the pick adds. */
WIDE static void fill_row(
    ptrdiff_t count, const double *restrict time_ms, const double *restrict efforts, const double *restrict hurried,
    const double *restrict meeting_ms, double per_hand_gap, double hurry, double per_gap, const Curve *given,
    double *restrict loads, double *restrict costs, double *restrict extras)
{
    const Curve curve = *given;
    for (ptrdiff_t b = 0; b < count; b++) {
        double load = time_ms[b] * per_hand_gap, extra = meeting_ms[b] * per_gap;
        double together = effort(&curve, load + extra);
        loads[b] = load;
        extras[b] = extra;
        costs[b] = (effort(&curve, load) + (efforts[b] + hurry * hurried[b])) + (extra > 0.0 ? together : 0.0);
    }
}

WIDE static void least_row(ptrdiff_t count, double start, const double *restrict cost, double *restrict least)
{
    for (ptrdiff_t b = 0; b < count; b++) {
        double value = start + cost[b];
        least[b] = value < least[b] ? value : least[b];
    }
}

WIDE static void smallest_largest_row(
    ptrdiff_t count, double start, const double *restrict cost, double *restrict least)
{
    for (ptrdiff_t b = 0; b < count; b++) {
        double value = cost[b] > start ? cost[b] : start;
        least[b] = value < least[b] ? value : least[b];
    }
}

/* Write down as forbidden what alone is above a bound, so that it is not tried in vain. */
WIDE static void forbid_above(
    ptrdiff_t count, double bound, const double *restrict load, const double *restrict extra, double *restrict cost)
{
    for (ptrdiff_t at = 0; at < count; at++)
        cost[at] = load[at] + extra[at] <= bound ? cost[at] : INFINITY;
}

static void forbidden_above(
    ptrdiff_t count, double bound, const double *load, const double *cost, double *into)
{
    for (ptrdiff_t at = 0; at < count; at++)
        into[at] = load[at] <= bound ? cost[at] : INFINITY;
}

static void turned(const double *table, ptrdiff_t rows, ptrdiff_t columns, double *into)
{
    for (ptrdiff_t a = 0; a < rows; a++)
        for (ptrdiff_t b = 0; b < columns; b++)
            into[b * rows + a] = table[a * columns + b];
}

/* One part of a link in the direction that sums are taken: from its sources to its targets. */
typedef struct {
    ptrdiff_t picks, sources, targets, source_block, target_block, source_runs, target_runs;
    int picked;
    const int64_t *source_run, *target_run, *source_class, *target_class;
    /* Tables of sources by targets. */
    const double *load, *cost, *extra;
    /* The strokes' tables, and how far apart their entries are. */
    const double *stroke_load, *stroke_cost;
    ptrdiff_t from_pick, from_class, to_pick, to_class;
    Curve curve;
    double bound;
} Way;

/* One part of a link, as dromic.planner.kernel.inputs has it. */
typedef struct {
    ptrdiff_t before, after, classes_before, classes_after, flights;
    int picked;
    double per_gap;
    /* Times, efforts, hurried efforts and meetings; hurries; loads and costs of the strokes. */
    const double *hand, *timing, *pick;
} PartView;

/* Both ends of a link. */
typedef struct {
    ptrdiff_t picks, grips_before, grips_after, runs_before, runs_after;
    const int64_t *flights, *run_before, *run_after, *class_before, *class_after;
    Curve curve;
} LinkView;

/* Memory to work in, for one thread at a time. */
typedef struct {
    double *hands, *turned, *strokes, *room, *start;
    int64_t *own, *lead;
} Room;

/* Numbers that `Room.strokes` needs for a part. */
static ptrdiff_t strokes_room(const LinkView *link, const PartView *part)
{
    return part->picked ? link->picks * part->classes_before * link->picks * part->classes_after : 0;
}

/* Make a part ready to be gone over in one direction, within a bound of the loads. */
static void fill(const LinkView *link, const PartView *part, int back, double bound, const Room *memory, Way *way)
{
    const ptrdiff_t rows = link->grips_before, columns = link->grips_after, cells = rows * columns;
    double *loads = memory->hands, *costs = loads + cells, *extras = costs + cells;
    const double *hand = part->hand, *timing = part->timing, per_gap = part->picked ? part->per_gap : 0.0;
    for (ptrdiff_t a = 0; a < rows; a++) {
        const ptrdiff_t at = a * columns, flight = link->flights[a];
        fill_row(
            columns, hand + at, hand + cells + at, hand + 2 * cells + at, hand + 3 * cells + at, timing[flight],
            timing[part->flights + flight], per_gap, &link->curve, loads + at, costs + at, extras + at);
    }
    if (bound < INFINITY)
        forbid_above(cells, bound, loads, extras, costs);
    if (back) {
        double *other = memory->turned;
        turned(loads, rows, columns, other);
        turned(costs, rows, columns, other + cells);
        turned(extras, rows, columns, other + 2 * cells);
        loads = other;
        costs = other + cells;
        extras = other + 2 * cells;
    }
    way->picks = link->picks;
    way->picked = part->picked;
    way->curve = link->curve;
    way->bound = bound;
    way->load = loads;
    way->cost = costs;
    way->extra = extras;
    way->stroke_load = way->stroke_cost = NULL;
    way->from_pick = way->from_class = way->to_pick = way->to_class = 0;
    if (part->picked) {
        const ptrdiff_t strokes = strokes_room(link, part);
        way->stroke_load = part->pick;
        way->stroke_cost = part->pick + strokes;
        if (bound < INFINITY) {
            forbidden_above(strokes, bound, way->stroke_load, way->stroke_cost, memory->strokes);
            way->stroke_cost = memory->strokes;
        }
        way->to_pick = part->classes_after;
        way->to_class = 1;
        way->from_class = link->picks * part->classes_after;
        way->from_pick = part->classes_before * way->from_class;
    }
    way->sources = back ? columns : rows;
    way->targets = back ? rows : columns;
    way->source_block = back ? part->after : part->before;
    way->target_block = back ? part->before : part->after;
    way->source_runs = back ? link->runs_after : link->runs_before;
    way->target_runs = back ? link->runs_before : link->runs_after;
    way->source_run = back ? link->run_after : link->run_before;
    way->target_run = back ? link->run_before : link->run_after;
    way->source_class = back ? link->class_after : link->class_before;
    way->target_class = back ? link->class_before : link->class_after;
    if (back) {
        ptrdiff_t other = way->from_pick;
        way->from_pick = way->to_pick;
        way->to_pick = other;
        other = way->from_class;
        way->from_class = way->to_class;
        way->to_class = other;
    }
}

/* A way that was made without a bound, within one; `costs` for sources * targets numbers, `strokes` as in `Room`. */
static void keep_within(const Way *free, double bound, ptrdiff_t strokes, double *costs, double *stroke_costs, Way *way)
{
    const ptrdiff_t cells = free->sources * free->targets;
    *way = *free;
    way->bound = bound;
    if (!(bound < INFINITY))
        return;
    for (ptrdiff_t at = 0; at < cells; at++)
        costs[at] = free->cost[at];
    forbid_above(cells, bound, free->load, free->extra, costs);
    way->cost = costs;
    if (free->picked) {
        forbidden_above(strokes, bound, free->stroke_load, free->stroke_cost, stroke_costs);
        way->stroke_cost = stroke_costs;
    }
}

/* Load of one move of a part. */
static double move_load(
    const LinkView *link, const PartView *part, ptrdiff_t pick_one, ptrdiff_t one, ptrdiff_t pick_two, ptrdiff_t two)
{
    const ptrdiff_t cells = link->grips_before * link->grips_after, at = one * link->grips_after + two;
    const double hand = part->hand[at] * part->timing[link->flights[one]];
    double stroke;
    if (!part->picked)
        return pick_one == pick_two ? hand : INFINITY;
    stroke = part->pick
        [((pick_one * part->classes_before + link->class_before[one]) * link->picks + pick_two) * part->classes_after
         + link->class_after[two]];
    return (stroke > hand ? stroke : hand) + part->hand[3 * cells + at] * part->per_gap;
}

/* Load of one move between joint states; infinite where none leads there. */
static double pair_load(
    const LinkView *link, const PartView *parts, ptrdiff_t count, ptrdiff_t before, ptrdiff_t after)
{
    const unsigned one_grips = link->grips_before, two_grips = link->grips_after, picks = link->picks;
    const unsigned one = before, two = after, one_row = one / one_grips, two_row = two / two_grips;
    double found = INFINITY;
    for (ptrdiff_t at = 0; at < count; at++)
        if (parts[at].before == one_row / picks && parts[at].after == two_row / picks)
            found = move_load(
                link, parts + at, one_row % picks, one - one_row * one_grips, two_row % picks,
                two - two_row * two_grips);
    return found;
}

/* Take a move where it gives the least sum; of equal ones that from the state with the smallest number. */
static inline void try_move(
    const Way *way, double h, int64_t number, ptrdiff_t place, double stroke, double stroke_cost, double *best,
    int64_t *source, double *most)
{
    double moved = stroke_cost + way->cost[place], value = h + moved, load, extra;
    if (!(value <= *best))
        return;
    load = way->load[place];
    if (way->picked) {
        extra = way->extra[place];
        if (extra > 0.0 && stroke > load)
            value = h + (moved + (effort(&way->curve, stroke + extra) - effort(&way->curve, load + extra)));
        load = (stroke > load ? stroke : load) + extra;
    }
    if (load <= way->bound && (value < *best || (value == *best && number < *source))) {
        *best = value;
        *source = number;
        *most = load;
    }
}

/* Try the moves from the grips of a run, with one pick state, to one joint state. */
static void try_run(
    const Way *way, const double *start, const int64_t *lead, ptrdiff_t p, ptrdiff_t run, ptrdiff_t q, ptrdiff_t b,
    double *best, int64_t *source, double *most)
{
    double stroke = 0.0, stroke_cost = 0.0;
    const ptrdiff_t first = way->source_run[run], last = way->source_run[run + 1];
    if (way->picked) {
        ptrdiff_t at = p * way->from_pick + way->source_class[first] * way->from_class + q * way->to_pick
            + way->target_class[b] * way->to_class;
        stroke = way->stroke_load[at];
        stroke_cost = way->stroke_cost[at];
    }
    for (ptrdiff_t a = first; a < last; a++) {
        double h = start[p * way->sources + a];
        if (h < INFINITY)
            try_move(
                way, h, lead[p * way->sources + a], a * way->targets + b, stroke, stroke_cost, best, source, most);
    }
}

WIDE static void joined_row(
    ptrdiff_t count, double stroke, double stroke_cost, double bound, const Curve *given, const double *restrict load,
    const double *restrict cost, const double *restrict extra, double *restrict costs)
{
    const Curve curve = *given;
    for (ptrdiff_t b = 0; b < count; b++) {
        double most = stroke > load[b] ? stroke : load[b], moved = stroke_cost + cost[b];
        double more = effort(&curve, stroke + extra[b]) - effort(&curve, load[b] + extra[b]);
        moved = extra[b] > 0.0 && stroke > load[b] ? moved + more : moved;
        costs[b] = most + extra[b] <= bound ? moved : INFINITY;
    }
}

/* Write the costs, or the loads, of all moves of a part into a table of `columns` columns. */
static void write_out(const Way *way, int loads, ptrdiff_t columns, double *table)
{
    for (ptrdiff_t p = 0; p < way->picks; p++)
        for (ptrdiff_t a = 0; a < way->sources; a++)
            for (ptrdiff_t q = way->picked ? 0 : p; q < (way->picked ? way->picks : p + 1); q++) {
                double *row = table + (p * way->sources + a) * columns + q * way->targets;
                const double *load = way->load + a * way->targets, *cost = way->cost + a * way->targets;
                const double *extra = way->extra + a * way->targets;
                const ptrdiff_t own
                    = p * way->from_pick + q * way->to_pick + way->source_class[a] * way->from_class;
                if (!way->picked) {
                    for (ptrdiff_t b = 0; b < way->targets; b++)
                        row[b] = loads ? load[b] : load[b] <= way->bound ? cost[b] : INFINITY;
                    continue;
                }
                for (ptrdiff_t t = 0; t < way->target_runs; t++) {
                    const ptrdiff_t begin = way->target_run[t], count = way->target_run[t + 1] - begin;
                    const ptrdiff_t at = own + way->target_class[begin] * way->to_class;
                    const double stroke = way->stroke_load[at];
                    if (loads)
                        for (ptrdiff_t b = begin; b < begin + count; b++)
                            row[b] = (stroke > load[b] ? stroke : load[b]) + extra[b];
                    else
                        joined_row(
                            count, stroke, way->stroke_cost[at], way->bound, &way->curve, load + begin, cost + begin,
                            extra + begin, row + begin);
                }
            }
}

/* Least sums from all states of a block to all of another. For each pick state and run begun with, the least sum to each
   grip is taken first; with the strokes, this is the least that any way there can cost, the hands' meeting left out, so
   true sums are worked out only where it could still be the least. `room`: for picks * source runs * (targets + target runs)
   numbers; `own`: for picks * source runs. */
static void relax(
    const Way *way, const double *start, const int64_t *lead, double *room, int64_t *own, double *best, int64_t *source,
    double *most_loads)
{
    const ptrdiff_t targets = way->targets, runs = way->source_runs, rows = way->picks * runs;
    const ptrdiff_t target_runs = way->target_runs;
    double *by_run = room, *by_runs = by_run + rows * targets;
    for (ptrdiff_t number = 0, p = 0, r = 0; number < rows; number++) {
        double *row = by_run + number * targets;
        own[number] = p * way->from_pick + way->source_class[way->source_run[r]] * way->from_class;
        for (ptrdiff_t b = 0; b < targets; b++)
            row[b] = INFINITY;
        for (ptrdiff_t a = way->source_run[r]; a < way->source_run[r + 1]; a++)
            if (start[p * way->sources + a] < INFINITY)
                least_row(targets, start[p * way->sources + a], way->cost + a * targets, row);
        for (ptrdiff_t t = 0; t < target_runs; t++) {
            double least = INFINITY;
            for (ptrdiff_t b = way->target_run[t]; b < way->target_run[t + 1]; b++)
                least = row[b] < least ? row[b] : least;
            by_runs[t * rows + number] = least;
        }
        r++;
        if (r == runs) {
            r = 0;
            p++;
        }
    }
    for (ptrdiff_t q = 0; q < way->picks; q++) {
        const ptrdiff_t first = way->picked ? 0 : q * runs, last = way->picked ? rows : (q + 1) * runs;
        double *here = best + q * targets;
        int64_t *from = source + q * targets;
        double *loads = most_loads + q * targets;
        for (ptrdiff_t t = 0; t < target_runs; t++) {
            const ptrdiff_t begin = way->target_run[t], end = way->target_run[t + 1];
            const ptrdiff_t onto = q * way->to_pick + way->target_class[begin] * way->to_class;
            const double *leasts = by_runs + t * rows;
            double lowest = INFINITY, most = -INFINITY;
            ptrdiff_t nearest = -1;
            for (ptrdiff_t number = first; number < last; number++) {
                double value = leasts[number];
                if (way->picked)
                    value += way->stroke_cost[onto + own[number]];
                if (value < lowest) {
                    lowest = value;
                    nearest = number;
                }
            }
            if (nearest < 0)
                continue;
            for (ptrdiff_t b = begin; b < end; b++) {
                try_run(way, start, lead, nearest / runs, nearest % runs, q, b, here + b, from + b, loads + b);
                most = here[b] > most ? here[b] : most;
            }
            for (ptrdiff_t number = first; number < last; number++) {
                const double *row = by_run + number * targets;
                double stroke_cost = 0.0, value;
                if (number == nearest)
                    continue;
                if (way->picked)
                    stroke_cost = way->stroke_cost[onto + own[number]];
                value = leasts[number] + stroke_cost;
                if (!(value - SLACK * fabs(value) <= most) || !(value < INFINITY))
                    continue;
                for (ptrdiff_t b = begin; b < end; b++) {
                    value = row[b] + stroke_cost;
                    if (value < INFINITY && value - SLACK * fabs(value) <= here[b])
                        try_run(
                            way, start, lead, number / runs, number % runs, q, b, here + b, from + b, loads + b);
                }
            }
        }
    }
}

/* Whether grips stand side by side, and on one string. */
static int side_by_side(const int64_t *grips, ptrdiff_t count)
{
    for (ptrdiff_t at = 1; at < count; at++)
        if (grips[at] != grips[at - 1] + 1)
            return 0;
    return 1;
}

static int alike(const int64_t *grips, ptrdiff_t count, const int64_t *classes)
{
    for (ptrdiff_t at = 1; at < count; at++)
        if (classes[grips[at]] != classes[grips[0]])
            return 0;
    return 1;
}

/* Try the moves from the grips of a layer, with one pick state, to one joint state. */
static void try_layer(
    const Way *way, const double *sums, double change, int64_t number, const int64_t *from_grips, ptrdiff_t from_count,
    ptrdiff_t p, ptrdiff_t b, ptrdiff_t onto, double *best, int64_t *source, double *most)
{
    for (ptrdiff_t k = 0; k < from_count; k++) {
        const double h = sums[p * from_count + k] + change;
        const ptrdiff_t a = from_grips[k];
        double stroke = 0.0, stroke_cost = 0.0;
        if (!(h < INFINITY))
            continue;
        if (way->picked) {
            const ptrdiff_t at = onto + p * way->from_pick + way->source_class[a] * way->from_class;
            stroke_cost = way->stroke_cost[at];
            if (!(stroke_cost < INFINITY))
                continue;
            stroke = way->stroke_load[at];
        }
        try_move(
            way, h, number + p * from_count + k, a * way->targets + b, stroke, stroke_cost, best, source, most);
    }
}

/* Least sums from the states of one layer to those of another, both by their grips; `sums`, `best` and `source` are
   those of the blocks that the way leads between, `number` the number of the first state. As in `relax`, true sums are
   worked out where one without the hands' meeting could still be the least. `room`: for picks * grips reached. */
static void relax_layers(
    const Way *way, const double *sums, double change, int64_t number, const int64_t *from_grips, ptrdiff_t from_count,
    const int64_t *to_grips, ptrdiff_t to_count, double *room, double *best, int64_t *source, double *most_loads)
{
    const int wide = side_by_side(to_grips, to_count), same = alike(from_grips, from_count, way->source_class);
    const ptrdiff_t own = way->picked ? way->source_class[from_grips[0]] * way->from_class : 0;
    int reached = 0;
    for (ptrdiff_t p = 0; p < way->picks; p++) {
        double *low = room + p * to_count;
        for (ptrdiff_t other = 0; other < to_count; other++)
            low[other] = INFINITY;
        for (ptrdiff_t k = 0; k < from_count; k++) {
            const double h = sums[p * from_count + k] + change, *cost = way->cost + from_grips[k] * way->targets;
            if (!(h < INFINITY))
                continue;
            reached = 1;
            if (wide)
                least_row(to_count, h, cost + to_grips[0], low);
            else
                for (ptrdiff_t other = 0; other < to_count; other++) {
                    const double value = h + cost[to_grips[other]];
                    low[other] = value < low[other] ? value : low[other];
                }
        }
    }
    if (!reached)
        return;
    for (ptrdiff_t q = 0; q < way->picks; q++)
        for (ptrdiff_t other = 0; other < to_count; other++) {
            const ptrdiff_t b = to_grips[other], onto = q * way->to_pick + way->target_class[b] * way->to_class;
            const ptrdiff_t first = way->picked ? 0 : q, last = way->picked ? way->picks : q + 1;
            double *here = best + q * to_count + other, lowest = INFINITY;
            int64_t *from = source + q * to_count + other;
            double *loads = most_loads + q * to_count + other;
            ptrdiff_t nearest = -1;
            for (ptrdiff_t p = first; p < last; p++) {
                double low = room[p * to_count + other];
                if (way->picked && same)
                    low += way->stroke_cost[onto + p * way->from_pick + own];
                if (low < lowest) {
                    lowest = low;
                    nearest = p;
                }
            }
            if (nearest < 0 || !(lowest - SLACK * fabs(lowest) <= *here))
                continue;
            try_layer(way, sums, change, number, from_grips, from_count, nearest, b, onto, here, from, loads);
            for (ptrdiff_t p = first; p < last; p++) {
                double low = room[p * to_count + other];
                if (p == nearest)
                    continue;
                if (way->picked && same)
                    low += way->stroke_cost[onto + p * way->from_pick + own];
                if (low < INFINITY && low - SLACK * fabs(low) <= *here)
                    try_layer(way, sums, change, number, from_grips, from_count, p, b, onto, here, from, loads);
            }
        }
}

WIDE static void largest_row(
    ptrdiff_t count, double start, const double *restrict stroke_load, const double *restrict load,
    const double *restrict extra, double *restrict best)
{
    for (ptrdiff_t b = 0; b < count; b++) {
        double value = (stroke_load[b] > load[b] ? stroke_load[b] : load[b]) + extra[b];
        value = start > value ? start : value;
        best[b] = value < best[b] ? value : best[b];
    }
}

/* Smallest largest loads from all states of a block to all of another. `load` is infinite where the hand cannot move;
   `room`: for targets * picks numbers. */
static void relax_largest(const Way *way, const double *start, double *room, double *best)
{
    for (ptrdiff_t p = 0; p < way->picks; p++)
        for (ptrdiff_t r = 0; r < way->source_runs; r++) {
            const ptrdiff_t low = way->picked ? 0 : p, high = way->picked ? way->picks : p + 1;
            for (ptrdiff_t q = low; q < high; q++) {
                const ptrdiff_t own
                    = p * way->from_pick + q * way->to_pick + way->source_class[way->source_run[r]] * way->from_class;
                for (ptrdiff_t t = 0; t < way->target_runs; t++) {
                    const ptrdiff_t at = own + way->target_class[way->target_run[t]] * way->to_class;
                    const double value
                        = !way->picked ? 0.0 : way->stroke_cost[at] < INFINITY ? way->stroke_load[at] : INFINITY;
                    for (ptrdiff_t b = way->target_run[t]; b < way->target_run[t + 1]; b++)
                        room[b] = value;
                }
                for (ptrdiff_t a = way->source_run[r]; a < way->source_run[r + 1]; a++)
                    if (start[p * way->sources + a] < INFINITY)
                        largest_row(
                            way->targets, start[p * way->sources + a], room, way->load + a * way->targets,
                            way->extra + a * way->targets, best + q * way->targets);
            }
        }
}
