"""What drawing by hand needs, beside plain library calls: catching, crossings, walking along a
picture's lines."""

from __future__ import annotations

import statistics
import time
from dataclasses import dataclass, replace

import numpy as np
import shapely

from draxet.geometry.arrangement import arrangement_of
from draxet.geometry.catching import Catcher, Surroundings
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import self_crossings
from draxet.geometry.pieces import piece
from draxet.job.contour_edits import add_contours
from draxet.job.falls import Falls
from draxet.job.records import Job
from draxet.mend.doubles import doubles
from draxet.mend.gaps import gaps
from draxet.mend.overshoots import overshoots
from draxet.trace.walk import edge_map, reach_from, walk_to

__all__ = ["catching", "crossing", "walking"]


@dataclass(frozen=True, eq=False)
class _Drawn:
    id: str
    contour: Contour


def _many(count: int, spans: int, spacing: float = 12.0, size: float = 4.0) -> list[Contour]:
    rng = np.random.default_rng(1)
    made = []
    for k in range(count):
        at = np.linspace(0, 2 * np.pi, spans, endpoint=False)
        r = size + rng.uniform(-0.5, 0.5, spans)
        x, y = spacing * (k % 90), spacing * (k // 90)
        nodes = np.column_stack([x + r * np.cos(at), y + r * np.sin(at)])
        way = np.column_stack([-np.sin(at), np.cos(at)]) * size * 2 * np.pi / spans / 3
        made.append(
            Contour.make(
                nodes,
                np.full(spans, 2),
                None,
                np.stack([nodes + way, np.roll(nodes - way, -1, axis=0)], axis=1),
            )
        )
    return made


def _ms(run: object) -> float:
    begin = time.perf_counter()
    run()  # type: ignore[operator]
    return 1000 * (time.perf_counter() - begin)


def catching() -> None:
    """A move of the pointer among 6,250 contours of 100,000 spans, and after an edit, against a
    tree of their boxes asked and rebuilt."""
    items = [_Drawn(str(k), contour) for k, contour in enumerate(_many(6250, 16))]
    catcher = Catcher()
    catcher.show(items)
    boxes = shapely.box(*np.array([item.contour.box for item in items]).T)
    places = np.random.default_rng(2).uniform((0, 0), (1000, 800), (300, 2))
    moves = [
        _ms(
            lambda x=x, y=y: catcher.catch(
                x, y, 4.0, Surroundings(start=(3.0, 3.0), earlier=((1.0, 1.0),))
            )
        )
        for x, y in places
    ]
    changed = tuple(
        item if k != 100 else _Drawn("100", Contour.circle(5, 5, 3)) for k, item in enumerate(items)
    )
    edit, rebuild = _ms(lambda: catcher.show(changed)), _ms(lambda: shapely.STRtree(boxes))
    print(
        f"catching        a move {statistics.median(moves):.2f} ms, 95 of 100 within {np.quantile(moves, 0.95):.2f} ms (wanted: 2); after an edit {edit:.1f} ms, a tree of boxes alone {rebuild:.1f} ms"
    )


def cleaning() -> None:
    """Lines drawn twice and gaps among 6,000 contours with 100,000 spans; and what falls of 1,000
    contours."""
    contours = _many(6250, 16, spacing=10.0)
    opened = [piece(contour, 0.3, 0.28) or contour for contour in contours]
    times = []
    for look in (
        lambda: doubles(contours, 0.05),
        lambda: gaps(opened, 1.0),
        lambda: overshoots(opened, 1.0),
    ):
        begin = time.perf_counter()
        look()
        times.append(time.perf_counter() - begin)
    sheet = Contour.make([(-50, -50), (1000, -50), (1000, 1000), (-50, 1000)])
    job = add_contours(Job(), [sheet, *contours[:1000]])
    looks, falls = Falls(), []
    for k in range(4):
        edited = replace(
            job,
            contours=(
                *job.contours[:5],
                replace(job.contours[5], contour=Contour.circle(60.0 + k, 0.0, 2.0)),
                *job.contours[6:],
            ),
        )
        falls.append(_ms(lambda: looks.of(edited, edited.contours, 1.0, 0.5)))  # noqa: B023
    print(
        f"cleaning        100,000 spans: drawn twice {times[0]:.2f} s, gaps {times[1]:.2f} s (wanted: 1 each), overshoots {times[2]:.2f} s; what falls of 1,000 contours at first {falls[0]:.0f} ms, after an edit {statistics.median(falls[1:]):.0f} ms (wanted: 100), both by a worker"
    )


def arranging() -> None:
    """All areas between 50,000 spans of three kinds, against shapely's noding and polygonizing of
    their flattened lines."""
    curves, rng = _many(5000, 10, spacing=7.0), np.random.default_rng(5)
    circles = [
        Contour.circle(*rng.uniform(0, 1100, 2).tolist(), float(rng.uniform(2, 8)))
        for _ in range(12500)
    ]
    for name, contours in (
        ("curves", curves),
        ("polygons", [Contour.make(each.nodes) for each in curves]),
        ("circles", circles),
    ):
        begin = time.perf_counter()
        found = arrangement_of(contours)
        ours = time.perf_counter() - begin
        begin = time.perf_counter()
        lines = [
            shapely.LineString(np.vstack([p, p[:1]])) for p in (c.flattened(0.01) for c in contours)
        ]
        faces = shapely.get_parts(shapely.polygonize([shapely.unary_union(lines)]))
        other = time.perf_counter() - begin
        count = sum(len(each.spans) for each in contours)
        print(
            f"arranging       {name}: {len(found.regions):,} areas of {count:,} spans in {ours:.2f} s, shapely's {len(faces):,} of flattened lines (0.01 mm) in {other:.2f} s, ratio {ours / other:.2f} (wanted: 3)"
        )


def crossing() -> None:
    """All crossings of 5,000 contours with 50,000 spans, against shapely's of their flattened
    lines."""
    contours = _many(5000, 10, spacing=7.0)
    spans, _ = joined_spans(contours)
    begin = time.perf_counter()
    found = self_crossings(spans)
    ours = time.perf_counter() - begin
    begin = time.perf_counter()
    lines = [
        shapely.LineString(np.vstack([p, p[:1]])) for p in (c.flattened(0.01) for c in contours)
    ]
    tree = shapely.STRtree(lines)
    a, b = tree.query(lines, predicate="crosses")
    pairs = a < b
    plain = shapely.get_num_coordinates(
        shapely.intersection(np.array(lines)[a[pairs]], np.array(lines)[b[pairs]])
    ).sum()
    other = time.perf_counter() - begin
    print(
        f"crossing        {len(found):,} crossings of 50,000 spans in {ours:.2f} s, shapely's {int(plain):,} of flattened lines (0.01 mm) in {other:.2f} s"
    )


def walking() -> None:
    """Along the edges of a 20-megapixel picture: from a click until all ways are known, and a
    move."""
    from bench.run import page_of_lettering

    page = np.kron(page_of_lettering()[:2000, :], np.ones((2, 2), np.uint8))
    begin = time.perf_counter()
    lines = edge_map(page, 130.0, 50.0)
    found = time.perf_counter() - begin
    assert lines is not None
    rng = np.random.default_rng(0)
    clicks, moves = [], []
    for _ in range(10):
        start = int(rng.integers(0, len(lines.points)))
        begin = time.perf_counter()
        reach = reach_from(lines, start)
        clicks.append(1000 * (time.perf_counter() - begin))
        near = np.flatnonzero(np.isfinite(reach.far))
        moves += [_ms(lambda: walk_to(reach, int(rng.choice(near)))) for _ in range(30)]
    print(
        f"walking         {page.size / 1e6:.0f} megapixels, {len(lines.points):,} points found in {found:.2f} s by a worker; ready {statistics.median(clicks):.0f} ms after a click "
        f"(wanted: 300), a move {np.quantile(moves, 0.95):.2f} ms (95 of 100; wanted: 10)"
    )
