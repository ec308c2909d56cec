"""The order of blocks and of the lines within them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.contour import boxes_of
from draxet.job.contour_ties import Order
from draxet.make.route import shortest_order
from draxet.make.work_blocks import EVERY, WorkBlock, ends_of
from draxet.progress import Progress

__all__ = ["ordered_blocks", "ordered_by_hand"]


def ordered_blocks(blocks: Sequence[WorkBlock], start: Points, report: Progress) -> list[WorkBlock]:
    """Parts by the shortest way, and in each what has the lower rank first."""
    parts: dict[int, list[WorkBlock]] = {}
    for block in blocks:
        parts.setdefault(block.part, []).append(block)
    if not parts:
        return []
    numbers = list(parts)
    middles = _middles([parts[number] for number in numbers])
    at, order = start, list[WorkBlock]()
    for done, (k, _) in enumerate(shortest_order(start, middles, middles, report)):
        if done % EVERY == 0:
            report(0.6, "looking for the shortest way")
        levels: dict[tuple[int, int, int, int], list[WorkBlock]] = {}
        for block in parts[numbers[k]]:
            levels.setdefault(block.rank, []).append(block)
        for rank in sorted(levels):
            some = levels[rank]
            entries, exits = (np.array([ends_of(block)[end] for block in some]) for end in (0, 1))
            for n, back in shortest_order(at, entries, exits, report):
                order.append(
                    _turned(some[n])
                    if back and not some[n].is_closed and len(some[n].lines) == 1
                    else some[n]
                )
            at = ends_of(order[-1])[1]
    return order


def ordered_by_hand(blocks: list[WorkBlock], orders: Sequence[Order]) -> list[WorkBlock]:
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


def _middles(parts: Sequence[Sequence[WorkBlock]]) -> Points:
    """The middle of what each part's lines run over (n, 2)."""
    boxes = boxes_of([path.line for blocks in parts for block in blocks for path in block.lines])
    first = np.cumsum([0, *(sum(len(block.lines) for block in blocks) for blocks in parts)])[:-1]
    middles: Points = (
        np.minimum.reduceat(boxes[:, :2], first) + np.maximum.reduceat(boxes[:, 2:], first)
    ) / 2
    return middles


def _turned(block: WorkBlock) -> WorkBlock:
    return replace(
        block,
        lines=tuple(
            replace(path, line=path.line.reversed(), waste=-path.waste)
            for path in reversed(block.lines)
        ),
    )
