"""From operations to a program: every line that is worked, in an order that keeps parts in their
place until they are finished and travels little.

In each part what does not part it goes first (drawn, engraved, scored, drilled, pocketed), then
what is cut, inner before outer; within that the shortest way is looked for, and on each closed line
the place where it begins.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Floats, Points, crosses
from draxet.geometry.contour import Contour, boxes_of, places_on
from draxet.geometry.nesting import nesting_depths, polygons_of
from draxet.geometry.pieces import begun_at, place_at, position_near
from draxet.geometry.spans import ARC, CUBIC
from draxet.job.contour_ties import Order
from draxet.job.machine import Machine
from draxet.job.operations import CutThrough, Engrave, Operation, Toolpath
from draxet.job.operations.cut import middles_of_many
from draxet.job.program import Event, Program
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.work import cut_work
from draxet.make.entry import Way, entered, flat
from draxet.make.leads import with_leads
from draxet.make.route import shortest_order
from draxet.make.thinning import thinned
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["lines_of", "program_of"]

_FINE = 0.01
_SWEEPS = 4
_LONG = 0.12
"""Of the whole line: so long a side is a good one to begin a cut in the middle of."""
_EVERY = 100
_MOST_STARTS = 48
"""So many places of a closed line are thought of as its beginning."""


@record(frozen=True, eq=False)
class _Block:
    """Lines that are worked one after the other, as they are: what they belong to, and where one
    comes in and goes out."""

    operation: int
    lines: tuple[Toolpath, ...]
    rank: tuple[int, int, int, int]
    """Lower ones of a part go first."""
    part: int

    @property
    def is_closed(self) -> bool:
        return len(self.lines) == 1 and self.lines[0].line.closed


def lines_of(
    job: Job, sheet: Sheet, machine: Machine, report: Progress = Unwatched()
) -> list[tuple[Operation, list[Toolpath]]]:
    """What each operation works on a sheet with a machine; cuts as bridges and shared edges leave
    them."""
    found = []
    report(0.0, "working out the cuts")
    cuts = cut_work(job)
    for number, operation in enumerate(job.operations):
        report(0.4 * number / len(job.operations), f"working out {operation.name}")
        here, operation = job.worked_on(operation, sheet), operation.on(machine.kind)
        if not here:
            continue
        if isinstance(operation, CutThrough):
            some = {name for name, _ in here}
            mine = [
                work for work in cuts if work.operation.id == operation.id and some & set(work.ids)
            ]
            middles = middles_of_many(
                [work.contour for work in mine], [work.side for work in mine], operation.width
            )
            lines = [
                path
                for work, known in zip(mine, middles, strict=True)
                for path in operation.along(
                    work.contour, work.side, work.ids, sheet.thickness, known
                )
            ]
        else:
            lines = operation.paths(here, sheet.thickness)
        found.append((operation, lines))
    return found


def program_of(job: Job, sheet: Sheet, machine: Machine, report: Progress = Unwatched()) -> Program:
    """The program of a sheet on a machine, counted from the sheet's origin; without moves where
    nothing is worked there.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    work = lines_of(job, sheet, machine, report)
    blocks = _blocks(job, work)
    start = np.zeros(2)
    origin = np.array(sheet.origin_place)
    order, at = list[_Block](), start + origin
    for phase in _phases(blocks, machine):
        order += _ordered(phase, at, report)
        at = _ends(order[-1])[1]
    order = _well_begun(_by_hand(order, job.orders), start + origin, report)
    return _moves(order, [operation for operation, _ in work], machine, origin, report)


def _blocks(job: Job, work: Sequence[tuple[Operation, list[Toolpath]]]) -> list[_Block]:
    names = list(dict.fromkeys(name for _, lines in work for path in lines for name in path.ids))
    contours = [job.shape_of(name) for name in names]
    depths = _depths(names, contours)
    part_of = _parts(names, contours, depths)
    blocks = []
    for number, (operation, lines) in enumerate(work):
        alone = [(path,) for path in lines if not path.batch]
        batches: dict[int, list[Toolpath]] = {}
        for path in lines:
            if path.batch:
                batches.setdefault(path.batch, []).append(path)
        for group in (*alone, *(tuple(batch) for batch in batches.values())):
            ids, first = group[0].ids, group[0]
            deepest = max((depths.get(name, 0) for name in ids), default=0)
            if (
                not first.line.closed and first.whole is None
            ):  # a slit, or an edge that parts share, before what comes loose by it
                deepest += 1
            blocks.append(
                _Block(
                    number,
                    group,
                    (operation.rank, -deepest if operation.through else 0, number, first.step),
                    min((part_of[name] for name in ids), default=0),
                )
            )
    return _with_joined_parts(blocks, part_of)


def _depths(names: Sequence[str], contours: Sequence[Contour]) -> dict[str, int]:
    """How many closed contours lie round each one; round the middle of an open one."""
    if not names:
        return {}
    found = nesting_depths(contours)
    opened, closed = np.flatnonzero(found < 0), np.flatnonzero(found >= 0)
    if len(opened):
        middles = places_on([contours[k] for k in opened.tolist()])
        found[opened] = 0
        if len(closed):
            _, inside = shapely.STRtree(np.atleast_1d(np.asarray(shapely.points(middles)))).query(
                polygons_of([contours[k] for k in closed.tolist()], _FINE), predicate="contains"
            )
            found[opened] = np.bincount(inside, minlength=len(opened))
    return dict(zip(names, found.tolist(), strict=True))


def _with_joined_parts(blocks: Sequence[_Block], part_of: dict[str, int]) -> list[_Block]:
    """Parts that share a line are one: what is in any of them goes before what parts them from the
    sheet."""
    joined = {part: part for part in part_of.values()}

    def root(part: int) -> int:
        while joined[part] != part:
            part = joined[part]
        return part

    for block in blocks:
        some = sorted({root(part_of[name]) for name in block.lines[0].ids})
        for part in some[1:]:
            joined[part] = some[0]
    return [
        replace(block, part=root(block.part))
        if block.part in joined and root(block.part) != block.part
        else block
        for block in blocks
    ]


def _parts(
    names: Sequence[str], contours: Sequence[Contour], depths: dict[str, int]
) -> dict[str, int]:
    """For each contour the number of the outermost one round it, which is its part."""
    found = {name: k for k, name in enumerate(names)}
    outer = [k for k, name in enumerate(names) if depths[name] == 0 and contours[k].closed]
    inner = [k for k, name in enumerate(names) if depths[name] > 0]
    if inner:
        places = shapely.STRtree(
            np.atleast_1d(np.asarray(shapely.points(places_on([contours[k] for k in inner]))))
        )
        around, inside = places.query(
            polygons_of([contours[k] for k in outer], _FINE), predicate="contains"
        )
        for one, other in sorted(
            zip(around.tolist(), inside.tolist(), strict=True), reverse=True
        ):  # the first one round it counts
            found[names[inner[other]]] = outer[one]
    return found


def _ends(block: _Block) -> tuple[Points, Points]:
    return block.lines[0].line.nodes[0], block.lines[-1].line.nodes[
        0 if block.lines[-1].line.closed else -1
    ]


def _phases(blocks: list[_Block], machine: Machine) -> list[list[_Block]]:
    """What is worked before a tool is changed, one phase after the other: on a router all parts are
    worked with a tool before the next one is taken, as far as what goes before what in a part
    allows it; on other machines there is one phase."""
    widths = {block.lines[0].width for block in blocks}
    if machine.kind != "router" or len(widths) < 2:
        return [blocks] if blocks else []
    of_rank: dict[int, set[float]] = {}
    for block in blocks:
        of_rank.setdefault(block.rank[0], set()).add(block.lines[0].width)
    groups: dict[tuple[int, int], dict[float, list[_Block]]] = {}
    for block in blocks:
        level = block.rank[1] if len(of_rank[block.rank[0]]) > 1 else 0
        groups.setdefault((block.rank[0], level), {}).setdefault(block.lines[0].width, []).append(
            block
        )
    phases, held = list[list[_Block]](), math.nan
    for key in sorted(groups):
        for width in sorted(groups[key], key=lambda width: (width != held, width)):
            phases.append(groups[key][width])
            held = width
    return phases


def _ordered(blocks: Sequence[_Block], start: Points, report: Progress) -> list[_Block]:
    """Parts by the shortest way, and in each what has the lower rank first."""
    parts: dict[int, list[_Block]] = {}
    for block in blocks:
        parts.setdefault(block.part, []).append(block)
    if not parts:
        return []
    numbers = list(parts)
    middles = _middles([parts[number] for number in numbers])
    at, order = start, list[_Block]()
    for done, (k, _) in enumerate(shortest_order(start, middles, middles, report)):
        if done % _EVERY == 0:
            report(0.6, "looking for the shortest way")
        levels: dict[tuple[int, int, int, int], list[_Block]] = {}
        for block in parts[numbers[k]]:
            levels.setdefault(block.rank, []).append(block)
        for rank in sorted(levels):
            some = levels[rank]
            entries, exits = (np.array([_ends(block)[end] for block in some]) for end in (0, 1))
            for n, back in shortest_order(at, entries, exits, report):
                order.append(
                    _turned(some[n])
                    if back and not some[n].is_closed and len(some[n].lines) == 1
                    else some[n]
                )
            at = _ends(order[-1])[1]
    return order


def _by_hand(blocks: list[_Block], orders: Sequence[Order]) -> list[_Block]:
    """Lines that were put in an order by hand one right after the other, where the first of them
    is; what a part needs before goes before."""
    for order in orders:
        place = {name: k for k, name in enumerate(order.contours)}
        for rank in sorted({block.rank[0] for block in blocks}):
            mine = {
                id(block): min(place[name] for name in block.lines[0].ids if name in place)
                for block in blocks
                if block.rank[0] == rank and any(name in place for name in block.lines[0].ids)
            }
            if len(set(mine.values())) < 2:
                continue
            chain = sorted(
                (block for block in blocks if id(block) in mine), key=lambda block: mine[id(block)]
            )
            first = min(k for k, block in enumerate(blocks) if id(block) in mine)
            before = [
                block
                for block in blocks[first:]
                if id(block) not in mine
                and any(block.part == one.part and block.rank < one.rank for one in chain)
            ]
            moved = {id(block) for block in (*chain, *before)}
            blocks = [
                *blocks[:first],
                *before,
                *chain,
                *(block for block in blocks[first:] if id(block) not in moved),
            ]
    return blocks


def _middles(parts: Sequence[Sequence[_Block]]) -> Points:
    """The middle of what each part's lines run over (n, 2)."""
    boxes = boxes_of([path.line for blocks in parts for block in blocks for path in block.lines])
    first = np.cumsum([0, *(sum(len(block.lines) for block in blocks) for blocks in parts)])[:-1]
    middles: Points = (
        np.minimum.reduceat(boxes[:, :2], first) + np.maximum.reduceat(boxes[:, 2:], first)
    ) / 2
    return middles


def _turned(block: _Block) -> _Block:
    return replace(
        block,
        lines=tuple(
            replace(path, line=path.line.reversed(), waste=-path.waste)
            for path in reversed(block.lines)
        ),
    )


def _well_begun(order: list[_Block], start: Points, report: Progress) -> list[_Block]:
    """Closed lines begun where the way from the line before and on to the next one is shortest."""
    choices = [_starts(block.lines[0]) if block.is_closed else None for block in order]
    places = [_ends(block) for block in order]
    for _ in range(_SWEEPS):
        for k, some in enumerate(choices):
            if k % _EVERY == 0:
                report(0.7, "choosing where cuts begin")
            if some is None:
                continue
            came = start if k == 0 else places[k - 1][1]
            far = np.hypot(*(some[1] - came).T)
            if k + 1 < len(order):
                far = far + np.hypot(*(some[1] - places[k + 1][0]).T)
            best = some[1][int(far.argmin())]
            places[k] = (best, best)
    found = list[_Block]()
    for block, some, (begin, _) in zip(order, choices, places, strict=True):
        if len(found) % _EVERY == 0:
            report(0.75, "leading in and out")
        if some is None:
            found.append(
                replace(block, lines=tuple(with_leads(line) for line in block.lines))
                if block.lines[0].whole is not None
                else block
            )
            continue
        position = float(some[0][int(np.hypot(*(some[1] - begin).T).argmin())])
        line = block.lines[0]
        found.append(
            replace(block, lines=(with_leads(replace(line, line=_begun(line.line, position))),))
        )
    return found


def _begun(line: Contour, position: float) -> Contour:
    """A closed line begun at a position."""
    node = int(position)
    if position != node:
        return begun_at(line, position)
    arrays = (
        np.roll(each, -node, axis=0) for each in (line.nodes, line.kinds, line.bulges, line.handles)
    )
    return Contour.make(*arrays)


def _starts(path: Toolpath) -> tuple[Points, Points]:
    """Positions on a closed line where it may begin, and the places: where that was said, else its
    nodes, and the middles of long spans."""
    line, count = path.line, len(path.line.kinds)
    if path.begin is not None:
        there = position_near(line, *path.begin)
        return np.array([there]), place_at(line, there)[None]
    positions = np.concatenate([np.arange(count, dtype=np.float64), np.arange(count) + 0.5])
    good = _good_places(path)
    positions = positions[good] if good.any() else positions
    if len(positions) > _MOST_STARTS:
        positions = positions[np.linspace(0, len(positions) - 1, _MOST_STARTS).astype(np.int64)]
    which = np.minimum(positions.astype(np.int64), count - 1)
    return positions, line.spans.at(which, positions - which)


def _good_places(path: Toolpath) -> Bools:
    """Of the nodes of a closed line, and then of the middles of its spans, those where a cut begins
    well: a corner that stands out on the side of the waste, and long sides; all of them where
    nothing is known of the waste, and of a line without corners."""
    line, count = path.line, len(path.line.kinds)
    corner = np.array(line.corners())
    if not path.waste or not corner.any():
        return np.ones(2 * count, dtype=bool)
    leave, reach = line.spans.tangents()
    corner = corner & (path.waste * crosses(np.roll(reach, 1, axis=0), leave) < 0)
    lengths = line.spans.lengths()
    return np.concatenate([corner, lengths >= _LONG * lengths.sum()])


class _Pen:
    """Moves as they are put down, run by run."""

    def __init__(self) -> None:
        self.count = 0
        self.at: tuple[float, float] | None = None
        self.runs: list[tuple[Points, Points, Floats, Floats, Floats, tuple[float, ...]]] = []
        self.events: list[Event] = []
        self.left_out: list[tuple[int, float]] = []

    def go(self, way: Way, *same: float) -> None:
        """The moves of a way, and what is the same for all of them: work, feed, power, operation,
        path."""
        self.runs.append((way.to, way.centre, way.turn, way.depth_from, way.depth, same))
        self.count += len(way.to)
        self.at = float(way.to[-1, 0]), float(way.to[-1, 1])

    def travel(self, to: Points, feed: float, operation: int) -> None:
        """One straight move without work."""
        self.go(flat(to[None], np.zeros((1, 2)), np.zeros(1), 0.0), False, feed, 0.0, operation, -1)

    def event(self, what: str, value: float = 0.0) -> None:
        self.events.append(Event(self.count, what, value))

    def program(
        self, machine: Machine, operations: Sequence[Operation], ids: Sequence[tuple[str, ...]]
    ) -> Program:
        to, centre, turn, depth_from, depth = (
            np.concatenate([run[k] for run in self.runs])
            if self.runs
            else np.zeros((0, 2) if k < 2 else 0)
            for k in range(5)
        )
        sizes = [len(run[0]) for run in self.runs]
        work, feed, power, operation, path = (
            np.repeat([run[5][k] for run in self.runs], sizes) for k in range(5)
        )
        return Program(
            machine,
            np.zeros(2),
            to,
            centre,
            turn,
            work.astype(bool),
            feed.astype(np.float64),
            power.astype(np.float64),
            depth_from,
            depth,
            operation.astype(np.int64),
            path.astype(np.int64),
            tuple(self.events),
            tuple(each.id for each in operations),
            tuple(ids),
            (
                sum(count for count, _ in self.left_out),
                max((off for _, off in self.left_out), default=0.0),
            ),
        )


def _moves(
    order: Sequence[_Block],
    operations: Sequence[Operation],
    machine: Machine,
    origin: Points,
    report: Progress,
) -> Program:
    pen, ids = _Pen(), list[tuple[str, ...]]()
    tool, held, blown = math.nan, 0, False
    for done, block in enumerate(order):
        if done % _EVERY == 0:
            report(0.8 + 0.2 * done / len(order), "writing it down")
        operation = operations[block.operation]
        power = float(getattr(operation, "power", 100.0))
        pierce = float(getattr(operation, "pierce", 0.0)) or machine.pierce
        air = machine.has_air and bool(getattr(operation, "air", False))
        for line in block.lines:
            feed = min(line.feed or operation.feed, machine.most_feed)
            number = len(ids)
            ids.append(line.ids)
            ways = _ways(line, machine, origin, pen.left_out)
            to = ways[-1].to
            begin = line.line.nodes[0] - origin
            if machine.kind == "router" and line.width != tool:
                tool = line.width
                pen.event("tool", tool)
            if air != blown:
                blown = air
                pen.event("air", float(air))
            if line.pen != held and line.pen:
                held = line.pen
                pen.event("pen", held)
            runs_up = (
                line.overrun > 0
                and not line.line.closed
                and isinstance(operation, Engrave)
                and machine.kind == "laser"
            )
            along = (line.line.nodes[-1] - line.line.nodes[0]) / max(line.line.length, 1e-12)
            if runs_up:
                begin = begin - line.overrun * along
            for n, way in enumerate(ways):
                if pen.at is None or math.dist(pen.at, begin) > 1e-9:
                    pen.travel(begin, machine.travel, block.operation)
                if runs_up:
                    pen.travel(begin + line.overrun * along, feed, block.operation)
                pen.event("on", power)
                if operation.through and pierce and n == 0:
                    pen.event("pierce", pierce)
                pen.go(way, True, feed, power, block.operation, number)
                pen.event("off")
                if runs_up:
                    pen.travel(to[-1] + line.overrun * along, feed, block.operation)
    return pen.program(machine, operations, ids)


def _ways(
    path: Toolpath, machine: Machine, origin: Points, left_out: list[tuple[int, float]]
) -> list[Way]:
    """The way of each pass."""
    to, centre, turn = _runs(path.line, machine, origin)
    begin = path.line.nodes[0] - origin
    if machine.least_step:
        kept, off = thinned(begin, to, turn, machine.least_step)
        to, centre, turn = to[kept], centre[kept], turn[kept]
        left_out.append((int((~kept).sum()), off))
    helix = np.array(path.helix) - origin if path.helix else None
    found, above = list[Way](), 0.0
    for depth in path.depths:
        down = (
            entered(flat(to, centre, turn, depth), begin, above, path, helix, arcs=machine.arcs)
            if path.enter and depth > above
            else None
        )
        found.append(down or flat(to, centre, turn, depth))
        above = depth
    return found


def _runs(line: Contour, machine: Machine, origin: Points) -> tuple[Points, Points, Floats]:
    """The moves along a line, from the place where it begins: where each ends (k, 2), and of arcs
    the centre (k, 2) and the turn (k,). Curves, and arcs on a machine that runs none, are straight
    steps within 0.01 mm."""
    stepped = (line.kinds == CUBIC) | ((line.kinds == ARC) & (not machine.arcs))
    arcs = np.flatnonzero((line.kinds == ARC) & (line.bulges != 0))
    centres = np.zeros((len(line.kinds), 2))
    if len(arcs):
        centres[arcs] = line.spans.take(arcs).arc_shapes().centres - origin
    turns = np.where(line.kinds == ARC, 4 * np.arctan(line.bulges), 0.0)
    if not stepped.any():
        return line.spans.ends - origin, centres, turns
    points, counts = line.spans.flattened(_FINE)
    first = np.cumsum(counts) - counts
    ends = np.vstack([points[1:], line.spans.ends[-1:]])  # where each little step ends
    owner = np.repeat(np.arange(len(counts)), counts)
    last = np.zeros(len(ends), dtype=bool)
    last[first + counts - 1] = True
    ends[last] = line.spans.ends
    keep = stepped[owner] | last
    whole = keep & last & ~stepped[owner]
    return (
        ends[keep] - origin,
        np.where(whole[keep, None], centres[owner[keep]], 0.0),
        np.where(whole[keep], turns[owner[keep]], 0.0),
    )
