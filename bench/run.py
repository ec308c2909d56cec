"""Measures Draxet beside plain library calls in one run; see docs/bench.md."""

from __future__ import annotations

import compileall
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import cv2  # noqa: E402
import numpy as np  # noqa: E402
import shapely  # noqa: E402
from skimage.measure import approximate_polygon, find_contours  # noqa: E402

from bench.cards import cards  # noqa: E402
from bench.chain import chain  # noqa: E402
from bench.dirt import dirt  # noqa: E402
from bench.hand import arranging, catching, cleaning, crossing, walking  # noqa: E402
from bench.large import KINDS, bare, encode  # noqa: E402
from bench.leaving import leaving, long_ways
from bench.many import COUNTS  # noqa: E402
from bench.mending import mending  # noqa: E402
from bench.photos import simulate_photos  # noqa: E402
from bench.picking import BENT_KINDS, ZOOMS, sureness  # noqa: E402
from bench.picking import KINDS as KINDS_OF_PICKS
from bench.picking_pages import PAGE_KINDS, page_sureness
from bench.placements import placements  # noqa: E402
from bench.programs import programs, rehearsing  # noqa: E402
from bench.raster import ink_on_paper  # noqa: E402
from bench.satin import columns_judged
from bench.sewn import sewn_areas
from bench.shapes import SHAPES, SIZE, clean, distance, lettering, scan_like  # noqa: E402
from bench.solids import raised, turning
from bench.stitching import stitching
from bench.strokes import (
    COLOURED,
    STROKES,
    coloured,
    flat_labels,
    stroke_distance,
    stroked,
    wrong_pixels,
)  # noqa: E402
from bench.truing import simulate  # noqa: E402
from draxet.geometry.affine import Affine  # noqa: E402
from draxet.geometry.contour import Contour  # noqa: E402
from draxet.geometry.shapes import rounded_polygon  # noqa: E402
from draxet.trace.colours import ColourRequest, trace_colours
from draxet.trace.edges import EdgeRequest, trace_edges  # noqa: E402
from draxet.trace.middles import MiddleRequest, trace_middles  # noqa: E402
from draxet.trace.palette import suggested_palette  # noqa: E402

_ROUNDS = 5
_SCANS = 200
_PHOTOS = 50
_SOME_BUNCHES = 60
_DAMAGED, _KILLS = 5000, 300


def median_ms(run: Callable[[], object], rounds: int = _ROUNDS) -> float:
    times = []
    for _ in range(rounds):
        begin = time.perf_counter()
        run()
        times.append(1000 * (time.perf_counter() - begin))
    return statistics.median(times)


def outline() -> None:
    """Accuracy and nodes of outlines against a sub-pixel polyline."""
    print(
        f"{'outline':16}{'clean px':>9}{'plain':>7}{'nodes':>7}{'plain':>7}{'ratio':>7}{'  | scan px':>11}{'plain':>7}{'nodes':>7}{'plain':>7}{'ratio':>7}"
    )
    totals: list[list[float]] = []
    for name, make in SHAPES.items():
        rings = make()
        row: list[float] = []
        for picture in (clean(rings), scan_like(clean(rings))):
            answer = trace_edges(EdgeRequest(picture))
            found = [contour.flattened(0.01) for contour in answer.contours]
            polylines = _polylines(picture, answer.level)
            plain_nodes = sum(map(len, polylines))
            row += [
                distance(found, rings),
                distance([p for p in polylines if len(p) > 2], rings),
                answer.nodes,
                plain_nodes,
                answer.nodes / plain_nodes,
            ]
            if not all(contour.closed for contour in answer.contours):
                print(f"{name}: an open contour")
        totals.append(row)
        _outline_row(name, row)
    _outline_row("mean", np.mean(totals, axis=0).tolist())
    for factor in (1 / 3, 2.0):  # as scanned at a third and at twice the dots an inch
        size = round(SIZE * factor)
        pairs = [
            (rings, ink_on_paper(rings, size))
            for rings in ([ring * (size / SIZE) for ring in make()] for make in SHAPES.values())
        ]
        _small_row(f"at {size} px", pairs)
    for high in (20, 30, 60):  # lettering
        rings = lettering(high / 190)
        _small_row(f"{high} px letters", [(rings, clean(rings))])
        _small_row(f"{high} px, scan", [(rings, scan_like(clean(rings)))])


def _polylines(picture: np.ndarray, level: float) -> list[np.ndarray]:
    """The plain way: sub-pixel chains, simplified within a quarter of a pixel."""
    return [
        approximate_polygon(chain[:, ::-1] + 0.5, 0.25)[:-1]
        for chain in find_contours(picture, level)
        if len(chain) > 12
    ]


def _small_row(name: str, pairs: list[tuple[list[np.ndarray], np.ndarray]]) -> None:
    """Mean distance from the truth and share of nodes, over rings and pictures of them, against a
    plain polyline."""
    off, plain, share = [], [], []
    for rings, picture in pairs:
        answer = trace_edges(EdgeRequest(picture))
        off.append(distance([contour.flattened(0.01) for contour in answer.contours], rings))
        polylines = _polylines(picture, answer.level)
        plain.append(distance([p for p in polylines if len(p) > 2], rings))
        share.append(answer.nodes / sum(map(len, polylines)))
    print(f"{name:16}{np.mean(off):9.3f}{np.mean(plain):7.3f}{'':14}{np.mean(share):7.2f}")


def _outline_row(name: str, row: list[float]) -> None:
    print(
        f"{name:16}{row[0]:9.3f}{row[1]:7.3f}{row[2]:7.0f}{row[3]:7.0f}{row[4]:7.2f}{'  |':4}{row[5]:7.3f}{row[6]:7.3f}{row[7]:7.0f}{row[8]:7.0f}{row[9]:7.2f}"
    )


def known() -> None:
    """Circles, roundings, straight sides and right angles come out as such."""
    worst: dict[str, float] = {"radius and centre": 0.0, "rounding": 0.0, "square": 0.0}
    as_such = 0
    rng = np.random.default_rng(0)
    for k in range(20):
        x, y, r = (float(v) for v in rng.uniform((300, 300, 40), (400, 400, 200)))
        angle, side, radius = (
            float(rng.uniform(0, 90)),
            float(rng.uniform(150, 300)),
            float(rng.uniform(10, 40)),
        )
        plate = rounded_polygon(
            [(-side, -100, radius), (side, -100, 0), (side, 100, radius), (-side, 100, 0)]
        ).transformed(Affine.turned(angle).then(Affine.moved(350, 350)))
        for scan in (False, True):
            for shape in (Contour.circle(x, y, r), plate):
                picture = clean([shape.flattened(0.002)])
                (found,) = (
                    c
                    for c in trace_edges(
                        EdgeRequest(
                            scan_like(picture) if scan else picture, min_area=400, true_shapes=True
                        )
                    ).contours
                )
                circle = found.circle_shape
                if shape is not plate:
                    as_such += circle is not None
                    worst["radius and centre"] = max(
                        worst["radius and centre"],
                        float(np.abs(np.subtract(circle or (0, 0, 0), (x, y, r))).max()),
                    )
                else:
                    arcs = found.spans.arc_shapes().radii[found.kinds == 1]
                    as_such += sorted(found.kinds.tolist()) == [0, 0, 0, 0, 1, 1]
                    worst["rounding"] = max(
                        worst["rounding"], float(np.abs(arcs - radius).max()) if len(arcs) else 99.0
                    )
                    steps = (found.spans.ends - found.spans.starts)[found.kinds == 0]
                    turns = np.degrees(
                        np.arctan2(steps[:, 1], steps[:, 0]) - np.arctan2(steps[0, 1], steps[0, 0])
                    )
                    worst["square"] = max(
                        worst["square"], float(np.abs((turns + 45) % 90 - 45).max())
                    )
    print(
        f"known shapes    {as_such} of 80 came out as such; circles within {worst['radius and centre']:.3f} px (wanted: 0.1), roundings' radii within "
        f"{worst['rounding']:.3f} px, right angles within {worst['square']:.4f}°"
    )


def middles() -> None:
    """Centre lines of 5 px strokes against a bare skeleton."""
    from skimage.morphology import skeletonize

    ours, plain = [], []
    for scan in (False, True):
        for name, lines in STROKES.items():
            picture = stroked(lines, scan=scan)
            answer = trace_middles(MiddleRequest(picture))
            pixels = np.argwhere(skeletonize(picture < answer.level))[:, ::-1] + 0.5
            mine, bones = stroke_distance(answer.contours, lines, pixels)
            ours.append(mine)
            plain.append(bones)
            paths = (
                "one path a stroke"
                if len(answer.contours) == len(lines)
                else f"{len(answer.contours)} paths for {len(lines)} strokes"
            )
            print(
                f"middles         {name:16}{'scan ' if scan else 'clean'} {mine:.3f} px, bare skeleton {bones:.3f}, nodes {answer.nodes}, {paths}"
            )
    print(
        f"middles         mean {np.mean(ours):.3f} px (wanted: 0.12 at the most), bare skeleton {np.mean(plain):.3f}"
    )


def colours() -> None:
    """Flat-coloured drawings at four times their size, against each pixel's nearest colour."""
    shares = []
    for scan in (False, True):
        for name in COLOURED:
            truth = flat_labels(name)
            picture = coloured(truth, scan=scan)
            palette = suggested_palette(picture).colours
            answer = trace_colours(ColourRequest(picture, palette))
            found = np.full(truth.shape, -1, dtype=np.int64)
            for area in answer.areas:
                mask = np.zeros(truth.shape, np.uint8)
                cv2.fillPoly(
                    mask,
                    [
                        np.round((c.flattened(0.005) * 4 - 0.5) * 256).astype(np.int32)
                        for c in area.contours
                    ],
                    1,
                    cv2.LINE_8,
                    8,
                )
                found[mask > 0] = area.number
            wrong, bare = wrong_pixels(found, truth, palette)
            near = ((picture[..., None, :].astype(float) - palette) ** 2).sum(axis=3).argmin(axis=2)
            plain, _ = wrong_pixels(np.kron(near, np.ones((4, 4), dtype=np.int64)), truth, palette)
            shares.append(wrong)
            opened = sum(not c.closed for c in answer.contours)
            print(
                f"colours         {name:16}{'scan ' if scan else 'clean'} wrong {100 * wrong:.3f} %, uncovered {bare}, nearest colour {100 * plain:.3f} %, nodes {answer.nodes}, open {opened}"
            )
    print(f"colours         mean {100 * np.mean(shares):.3f} % wrong (wanted: 0.5 at the most)")


_MEMORY = """
import sys, numpy as np
sys.path[:0] = {paths!r}
from draxet.trace.edges import EdgeRequest, trace_edges
import scipy.sparse.csgraph, scipy.spatial, shapely
page = np.load({page!r})
trace_edges(EdgeRequest(page[400:500]))
def peak():  # of this process alone: what getrusage tells begins with the peak of the process that started it
    return int(next(line for line in open("/proc/self/status") if line.startswith("VmHWM")).split()[1])
before = peak()
trace_edges(EdgeRequest(page))
print((peak() - before) * 1024 / page.size)
"""


def memory() -> None:
    """Peak of tracing an A4 page at 600 dpi above the decoded picture, in bytes a pixel, in a
    process that never held more before."""
    with tempfile.TemporaryDirectory() as folder:
        page = str(Path(folder) / "page.npy")
        np.save(page, np.kron(page_of_lettering(), np.ones((2, 2), np.uint8)))
        code = _MEMORY.format(paths=[str(ROOT / "src"), str(ROOT)], page=page)
        found = subprocess.run(
            [sys.executable, "-c", code],
            env={**os.environ, "MALLOC_ARENA_MAX": "2"},
            check=True,
            capture_output=True,
            text=True,
        )
    print(
        f"memory          A4 at 600 dpi: {float(found.stdout):.1f} bytes a pixel above the picture (wanted: 12 at the most)"
    )


def truing() -> None:
    """Simulated scans: whether a true length lies within its ±, and the median error."""
    one = simulate(1, range(_SCANS))[1]
    for count in (1, 2, 5):
        share, error = simulate(count, range(_SCANS))
        print(
            f"truing          {count} known: within ± in {100 * share:.1f} % of {_SCANS} scans, median error {error:.3f} mm, {error / one:.2f} of that with one"
        )


def picks() -> None:
    """Lengths between places of every kind, clicked as people click: whether they lie within their
    ±, and whether that is too wide."""
    asked = [(kind, sureness) for kind in (*KINDS_OF_PICKS, *BENT_KINDS)]
    for kind, sure in asked + [(kind, page_sureness) for kind in PAGE_KINDS]:
        words, errors = [], []
        for zoom, click in ZOOMS.items():
            found = sure(kind, click, range(_SCANS))
            errors.append(found.error)
            words.append(
                f"{zoom} {100 * found.inside:.1f} % ({found.too_wide:.2f} × what 95 % need)"
            )
        print(
            f"truing picks    {kind:24}{', '.join(words)}, median error {', '.join(f'{error:.2f}' for error in errors)} px"
        )


def saving() -> None:
    """A job of 6,000 contours and 102,000 nodes: saved and opened, against writing its bare
    arrays."""
    from draxet.job.contour_edits import add_contours
    from draxet.job.file import open_job, save_job
    from draxet.job.records import Job

    rng = np.random.default_rng(0)
    arrays = [(rng.uniform(0, 300, (17, 2)), rng.uniform(0, 300, (17, 2, 2))) for _ in range(6000)]
    job = add_contours(
        Job(), [Contour.make(nodes, np.full(17, 2), None, handles) for nodes, handles in arrays]
    )
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.draxet"
        save, opened = median_ms(lambda: save_job(job, path)), median_ms(lambda: open_job(path))
        plain = median_ms(
            lambda: np.savez_compressed(
                Path(folder) / "bare.npz", *(a for pair in arrays for a in pair)
            )
        )
    print(
        f"saving          102,000 nodes: {save:.0f} ms, opened in {opened:.0f} ms, bare arrays written in {plain:.0f} ms"
    )


def drawings() -> None:
    """32,000 lines as DXF and 16,000 turned rectangles as SVG, read as contours, against the
    library's or parser's own reading."""
    import io
    from xml.etree import ElementTree

    import ezdxf

    from draxet.gather.drawings import read_drawing

    ends = np.random.default_rng(0).uniform(0, 1000, (32_000, 4))
    document = ezdxf.new("R2010")
    for x0, y0, x1, y1 in ends.tolist():
        document.modelspace().add_line((x0, y0), (x1, y1))
    text = io.StringIO()
    document.write(text)
    lines = text.getvalue()
    shapes = "".join(
        f'<rect x="{x:.3f}" y="{y:.3f}" width="5" height="7" transform="rotate({a:.1f} {x:.3f} {y:.3f})"/>'
        for x, y, a, _ in ends[:16_000].tolist()
    )
    rects = f'<svg xmlns="http://www.w3.org/2000/svg" width="1000mm" height="1000mm" viewBox="0 0 1000 1000">{shapes}</svg>'
    ours, plain = (
        median_ms(lambda: read_drawing(lines.encode(), "lines.dxf"), 3),
        median_ms(lambda: ezdxf.read(io.StringIO(lines)), 3),
    )
    print(
        f"drawings        32,000 lines in {ours:.0f} ms, the library alone {plain:.0f} ms, ratio {ours / plain:.2f}"
    )
    ours, plain = (
        median_ms(lambda: read_drawing(rects.encode(), "rects.svg"), 3),
        median_ms(lambda: ElementTree.fromstring(rects), 3),
    )
    print(f"drawings        16,000 rectangles in {ours:.0f} ms, the bare parser {plain:.0f} ms")


def damage() -> None:
    """Damaged files of every kind, kills while saving, and a monkey in the window."""
    import logging
    import resource

    from bench.fuzz import fuzz
    from bench.kills import killed_saves

    logging.getLogger("ezdxf").setLevel(logging.CRITICAL)
    with tempfile.TemporaryDirectory() as folder:
        report = fuzz(_DAMAGED, Path(folder))
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(
        f"damage          {_DAMAGED} damaged files: {report.read} read, {report.refused} refused, {len(report.escaped or [])} escaped, longest {report.longest:.2f} s, peak {peak:.2f} GB"
    )
    for words in report.escaped or []:
        print(words)
    with tempfile.TemporaryDirectory() as folder:
        fault = killed_saves(Path(folder), _KILLS)
    print(f"damage          {_KILLS} kills while saving: {fault or 'nothing lost, no litter'}")
    with tempfile.TemporaryDirectory() as own:
        environment = {
            **os.environ,
            "PYTHONPATH": os.pathsep.join([str(ROOT / "src"), str(ROOT)]),
            "XDG_STATE_HOME": own,
            "XDG_CONFIG_HOME": own,
        }
        subprocess.run(
            [sys.executable, str(ROOT / "bench" / "monkey.py"), "700", *map(str, range(21, 29))],
            env=environment,
            stderr=subprocess.DEVNULL,
        )


def squaring() -> None:
    """Simulated phone photos squared by a card."""
    right, near, error = simulate_photos(_PHOTOS)
    print(
        f"squaring        corners right in {right} of {_PHOTOS} photos, lengths within 0.4 % in {near} (wanted: 45 each), median error {100 * error:.3f} %"
    )


def page_of_lettering() -> np.ndarray:
    page = np.full((3508, 2480), 235, np.uint8)
    for y in range(200, 3300, 110):
        cv2.putText(
            page,
            "Stop sign, rear platform 0123456789 Brindlecote",
            (150, y),
            cv2.FONT_HERSHEY_COMPLEX,
            2.2,
            30,
            4,
            cv2.LINE_AA,
        )
    soft = cv2.GaussianBlur(page, (0, 0), 0.8) + np.random.default_rng(0).normal(0, 5, page.shape)
    return np.clip(soft, 0, 255).astype(np.uint8)


def page_of_drawing() -> np.ndarray:
    """A clean drawing on an A4 page at 300 dpi: plates and rings in lines 5 px wide, 35
    contours."""
    page = np.full((3508, 2480), 255, np.uint8)
    rng = np.random.default_rng(2)

    def draw(contour: Contour) -> None:
        points = np.round((contour.flattened(0.02) - 0.5) * 16).astype(np.int32)
        cv2.polylines(page, [points], contour.closed, 0, 5, cv2.LINE_AA, 4)

    for k in range(6):
        x, y, turn = 640 + 1200 * (k % 2), 620 + 1130 * (k // 2), float(rng.uniform(-20, 20))
        plate = rounded_polygon(
            [(-380, -300, 60), (380, -300, 60), (430, 260, 90), (0, 380, 40), (-400, 240, 0)]
        )
        draw(plate.transformed(Affine.turned(turn).then(Affine.moved(x, y))))
        for radius, dx in ((70, -150), (110, 150)) if k < 5 else ((70, -150),):
            draw(Contour.circle(x + dx, y, radius))
    draw(Contour.make([(200, 3400), (2280, 3430)], closed=False))
    return page


def trace_time() -> None:
    """An A4 page of lettering, a clean drawing on one, and a silhouette, edges and fits, against
    find_contours alone."""
    pages = (
        ("lettering", page_of_lettering(), 1.0),
        ("drawing", page_of_drawing(), 1.5),
        *(
            (f"silhouette {name}", clean(SHAPES[name]()), 2.0)
            for name in ("leaf", "gear", "letters")
        ),
    )
    for name, page, wanted in pages:
        answer = trace_edges(EdgeRequest(page))
        rounds = _ROUNDS if page.size > 1e6 else 5 * _ROUNDS
        ours, plain = [], []
        for _ in range(rounds):
            ours.append(median_ms(lambda: trace_edges(EdgeRequest(page)), 1))
            plain.append(median_ms(lambda: find_contours(page, answer.level), 1))
        ratio = statistics.median(a / b for a, b in zip(ours, plain, strict=True))
        print(
            f"trace time      {name:20} {len(answer.contours):4} contours, {statistics.median(ours):.1f} ms, find_contours {statistics.median(plain):.1f} ms, ratio {ratio:.2f} (wanted: {wanted:g} at the most)"
        )


def canvas() -> None:
    """Repaint of 6,000 contours of 100,000 spans while panning and while a node is dragged."""
    from PyQt6.QtWidgets import QApplication

    from draxet.job.contour_edits import add_contours
    from draxet.job.records import Job
    from draxet.job.sheet_records import Sheet
    from draxet.ui.app import make_app
    from draxet.ui.model.stage import Stage
    from draxet.ui.model.tool import Pointer
    from draxet.ui.shell.window import Window

    app = make_app()
    window = Window()
    window.show()
    session, view = window.session, window.canvas
    session.start(add_contours(Job(sheets=(Sheet(width=900, height=700),)), _many_contours()), None)
    session.open_stage(Stage.MEND)
    QApplication.processEvents()
    spans = sum(len(item.contour.kinds) for item in session.job.contours)

    def repaint() -> None:
        view.show_anew()
        view.repaint()

    steps = iter([(7, 3), (-12, 4), (25, -9), (-3, -14)] * 20)

    def pan() -> None:
        view.pan_by(*next(steps))
        repaint()

    pan_ms = median_ms(pan, 40)
    zoom_ms = median_ms(lambda: (view.zoom_by(1.01), repaint()), 9)
    item = session.job.contours[3000]
    session.selection.choose({item.id})
    x, y = item.contour.nodes[0].tolist()
    tool = session.tool
    assert tool is not None
    pixel = 1 / view.camera.zoom
    tool.press(Pointer(x, y, pixel))
    tool.move(Pointer(x + 1, y, pixel))
    repaint()
    moves = iter(range(100))

    def drag() -> None:
        tool.move(Pointer(x + 1 + 0.1 * next(moves), y, pixel))
        repaint()

    drag_ms = median_ms(drag, 40)
    tool.cancel()
    print(
        f"canvas          {len(session.job.contours):,} contours, {spans:,} spans: pan {pan_ms:.1f} ms, drag a node {drag_ms:.1f} ms (wanted: 33 each), zoom (all anew) {zoom_ms:.0f} ms"
    )
    session.document.history = session.document.history.after_save()
    window.close()
    app.processEvents()


def making() -> None:
    """Make with the same contours, with a plate of holes and with rings within each other, all cut
    and all chosen, under a limit: the stage's key at first and again, panning and moving the mouse,
    beside one repaint of the cuts as broad pens along their middles."""
    for name, contours in (
        ("curves", _many_contours()),
        ("holes in a plate", _plate_of_holes()),
        ("rings", _rings()),
        ("two", _rings()[:2]),
    ):
        _make(name, contours)


def _broad_lines(contours: list[Contour]) -> float:
    """Seconds for lines as broad as the cuts, one after the other."""
    begin = time.perf_counter()
    lines = [
        shapely.LineString(np.vstack([p, p[:1]])) for p in (c.flattened(0.01) for c in contours)
    ]
    shapely.buffer(lines, 0.1, quad_segs=24)
    return time.perf_counter() - begin


def _make(name: str, contours: list[Contour]) -> None:
    from PyQt6.QtGui import QImage, QPainter, QPen, QTransform
    from PyQt6.QtTest import QTest

    from draxet.job.contour_edits import add_contours
    from draxet.job.records import Job
    from draxet.job.sheet_edits import set_setup
    from draxet.job.sheet_records import Limit, Sheet
    from draxet.make.cutting_through import give_cut
    from draxet.ui.app import make_app
    from draxet.ui.model.stage import Stage
    from draxet.ui.shell.ahead import load_ahead
    from draxet.ui.shell.window import Window

    app = make_app()
    window = Window()
    window.show()
    session, view = window.session, window.canvas
    bed = Limit("bed", Contour.make([(0, 0), (850, 0), (850, 690), (0, 690)]))
    job = set_setup(add_contours(Job(sheets=(Sheet(width=900, height=700),)), contours), limit=bed)
    job = give_cut(job, [item.id for item in job.contours], 0.2, 1000)
    job = replace(
        job,
        contours=tuple(
            replace(item, contour=item.contour.reversed().reversed()) for item in job.contours
        ),
    )  # nothing is known of them, as in a job that was read
    opened = median_ms(lambda: (session.start(job, None), view.repaint()), 1)
    load_ahead(window.workers)

    def settle() -> None:
        QTest.qWait(30)
        while window.workers.busy():
            QTest.qWait(10)
        QTest.qWait(30)

    def whole() -> None:
        while not view.is_whole:
            view.repaint()

    began = time.perf_counter()
    QTest.qWait(1600)  # the stages' tools are loaded meanwhile, as in the application
    settle()
    session.selection.choose({item.id for item in job.contours})
    view.repaint()
    whole()
    key = median_ms(lambda: (session.open_stage(Stage.MAKE), view.repaint()), 1)
    begin = time.perf_counter()
    while not view.cuts.bands.work:
        QTest.qWait(10)
    first, some = time.perf_counter() - begin, len(view.cuts.bands.work)
    while view.cuts.bands.work is not session.looked.work:
        QTest.qWait(10)
    seen = time.perf_counter() - begin
    whole()
    settle()
    worked_out = time.perf_counter() - began
    steps = iter([(7, 3), (-12, 4), (25, -9), (-3, -14)] * 20)
    pan = median_ms(lambda: (view.pan_by(*next(steps)), view.repaint()), 40)
    move = median_ms(lambda: (view.show_anew(), view.repaint()), 20)
    again, shown = list[float](), list[float]()
    for _ in range(5):
        session.open_stage(Stage.MEND)
        view.repaint()
        whole()
        again.append(median_ms(lambda: (session.open_stage(Stage.MAKE), view.repaint()), 1))
        shown.append(again[-1] + median_ms(whole, 1))
        settle()
    image = QImage(view.size(), QImage.Format.Format_RGB32)
    to_view = view.camera.to_view()

    def broad() -> None:
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setTransform(
            QTransform(to_view.a, to_view.d, to_view.b, to_view.e, to_view.c, to_view.f)
        )
        painter.setPen(QPen(painter.pen().color(), 0.5))
        for bunch in view.cuts.bands.middles[:_SOME_BUNCHES]:
            painter.drawPath(bunch.path)
        painter.end()

    plain = max(len(view.cuts.bands.middles) / _SOME_BUNCHES, 1.0) * median_ms(broad, 3)
    print(
        f"making          {name}: {len(job.contours):,} contours cut and chosen under a limit: open after {opened:.0f} ms, stage key {key:.0f} ms at first, {statistics.median(again):.0f} again (wanted: 100), all of it shown after {statistics.median(shown):.0f}, the nearest {some} cuts {first:.1f} s after it, all of them {seen:.1f} s, their broad lines by the library alone {_broad_lines(contours):.1f} s; "
        f"pan {pan:.1f} ms, mouse move {move:.1f} ms (wanted: 16 each); all worked out in {worked_out:.1f} s off the window's thread; broad pens along the cuts {plain:.0f} ms a repaint"
    )
    session.document.history = session.document.history.after_save()
    window.close()
    app.processEvents()


def _plate_of_holes() -> list[Contour]:
    return [
        Contour.make([(1, 1), (899, 1), (899, 699), (1, 699)]),
        *(
            Contour.circle(6 + 9 * (k % 97), 6 + 11 * (k // 97), 3.0 + (k % 5) * 0.3)
            for k in range(6000)
        ),
    ]


def _rings() -> list[Contour]:
    """A sheet full of rings, one within another."""
    return [Contour.circle(450, 345, 340 - 0.67 * k) for k in range(500)]


def proposals() -> None:
    """What is proposed of an A4 page, and what falls of 6,250 contours: from a move of the mouse to
    the painted frame, and while panning."""
    from PyQt6.QtCore import QPoint
    from PyQt6.QtTest import QTest

    from draxet.geometry.affine import Affine
    from draxet.job.contour_edits import add_contours
    from draxet.job.picture_edits import add_picture
    from draxet.job.records import Job
    from draxet.job.sheet_records import Sheet
    from draxet.ui.app import make_app
    from draxet.ui.shell.window import Window

    app = make_app()
    window = Window()
    window.resize(1280, 800)
    window.show()
    session, view = window.session, window.canvas

    def told(name: str, command: str) -> None:
        window.commands[command].run()
        QTest.qWait(50)
        while window.workers.busy():
            QTest.qWait(5)
        begin, view.is_whole = time.perf_counter(), False
        while not view.is_whole:
            view.repaint()
        whole = 1000 * (time.perf_counter() - begin)
        places, steps = (
            iter([QPoint(200 + 7 * k, 150 + 5 * k) for k in range(40)]),
            iter([(7, 3), (-12, 4), (25, -9), (-3, -14)] * 20),
        )
        moved = median_ms(lambda: (QTest.mouseMove(view, next(places)), view.repaint()), 30)
        panned = median_ms(lambda: (view.pan_by(*next(steps)), view.repaint()), 30)
        print(
            f"proposals       {name:28} shown after {whole:.0f} ms, then mouse move {moved:.1f} ms, panning {panned:.1f} ms (wanted: 16 each)"
        )

    for name, page in (("lettering", page_of_lettering()), ("drawing", page_of_drawing())):
        encoded = cv2.imencode(".png", page)[1].tobytes()
        size = page.shape[1], page.shape[0]
        job, _ = add_picture(
            Job(sheets=(Sheet(width=210, height=297),)),
            f"{name}.png",
            encoded,
            size,
            Affine(0.0847, 0, 0, 0, -0.0847, 297),
        )
        session.start(job, None)
        for command in ("edges", "colours"):
            told(f"{name}, {command}", command)
    session.start(add_contours(Job(sheets=(Sheet(width=900, height=700),)), _many_contours()), None)
    told("what falls of 6,250", "falls")
    session.document.history = session.document.history.after_save()
    window.close()
    app.processEvents()


def _many_contours() -> list[Contour]:
    angle = np.linspace(0, 2 * np.pi, 17)[:-1]
    contours = []
    for k in range(6000):
        x, y, r = 6 + 9 * (k % 97), 6 + 11 * (k // 97), 3.0 + (k % 5) * 0.3
        nodes = np.column_stack([x + r * np.cos(angle), y + r * np.sin(angle)])
        ahead = np.roll(nodes, -1, axis=0)
        tangent = np.column_stack([-np.sin(angle), np.cos(angle)]) * r * 0.14
        handles = np.stack([nodes + tangent, ahead - np.roll(tangent, -1, axis=0)], axis=1)
        contours.append(Contour.make(nodes, np.full(16, 2), np.zeros(16), handles))
    return contours + [Contour.make(nodes, np.full(16, 2), np.zeros(16), handles)] * 250


def overlay() -> None:
    """From a change of the threshold to the painted ink."""
    from PyQt6.QtWidgets import QApplication

    from draxet.ui.app import make_app
    from draxet.ui.demo import demo_job
    from draxet.ui.shell.window import Window

    app = make_app()
    window = Window()
    window.show()
    window.session.start(demo_job(), None)
    QApplication.processEvents()
    window.canvas.repaint()
    levels = iter(range(100, 200))

    def change() -> None:
        window.session.desk.show_ink(float(next(levels)))
        window.canvas.repaint()

    print(
        f"overlay         {median_ms(change, 20):.0f} ms from a threshold to its ink (wanted: 150 at the most)"
    )
    window.session.document.history = window.session.document.history.after_save()
    window.close()
    app.processEvents()


def start() -> None:
    """To a usable window, against an empty PyQt6 window."""
    show = "app.processEvents(); w.repaint(); app.processEvents()"
    end = "import os; os._exit(0)"  # there it stands: what is put away at the end is not its start
    ours = f"import gc; gc.disable(); from draxet.slow import load_when_used; load_when_used(); from draxet.ui.app import make_app; from draxet.ui.shell.window import Window; app = make_app(); w = Window(); w.show(); {show}; {end}"
    plain = f"from PyQt6.QtWidgets import QApplication, QMainWindow; app = QApplication([]); w = QMainWindow(); w.resize(1280, 800); w.show(); {show}; {end}"
    ratios = []
    with (
        tempfile.TemporaryDirectory() as kept
    ):  # both as they start the second time: modules compiled
        environment = {
            **{k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"},
            "PYTHONPATH": str(ROOT / "src"),
            "PYTHONPYCACHEPREFIX": kept,
        }
        for _ in range(3 * _ROUNDS):
            times = [
                median_ms(
                    lambda code=code: subprocess.run(
                        [sys.executable, "-c", code],
                        env=environment,
                        check=True,
                        capture_output=True,
                    ),
                    1,
                )
                for code in (ours, plain)
            ]
            ratios.append((times[0] / times[1], *times))
    ratio, mine, other = sorted(ratios[1:])[len(ratios[1:]) // 2]
    print(
        f"start           {mine:.0f} ms, an empty window {other:.0f} ms, ratio {ratio:.2f} (wanted: 3.5 at the most)"
    )


def large() -> None:
    """Large pictures, each in a process of its own."""
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    with tempfile.TemporaryDirectory() as folder:
        for kind in KINDS:
            path = Path(folder) / f"plan.{kind}"
            path.write_bytes(encode(kind))
            plain = bare(path)
            found = subprocess.run(
                [sys.executable, str(ROOT / "bench" / "large.py"), kind, str(path)],
                env=environment,
                check=True,
                capture_output=True,
                text=True,
            )
            line, _, rest = found.stdout.partition("\nopened ")
            print(
                f"{line}; a bare decode {plain:.2f} s, ratio {float(rest) / plain:.2f} (wanted: 6 at the most, 1.5 GB)"
            )


def many() -> None:
    """A great many contours, each number in a process of its own."""
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    for count in COUNTS:
        command = [sys.executable, str(ROOT / "bench" / "many.py"), str(count)]
        found = subprocess.run(command, env=environment, check=True, capture_output=True, text=True)
        print(found.stdout.strip())


def main() -> int:
    compileall.compile_dir(ROOT / "src", quiet=2)  # as modules are from the second time on
    rows = {
        "large": large,
        "many": many,
        "outline": outline,
        "known shapes": known,
        "middles": middles,
        "colours": colours,
        "memory": memory,
        "truing": truing,
        "truing picks": picks,
        "saving": saving,
        "drawings": drawings,
        "damage": damage,
        "squaring": squaring,
        "squaring cards": cards,
        "trace time": trace_time,
        "canvas": canvas,
        "proposals": proposals,
        "making": making,
        "overlay": overlay,
        "start": start,
        "placements": placements,
        "catching": catching,
        "crossing": crossing,
        "arranging": arranging,
        "cleaning": cleaning,
        "mending": mending,
        "mending dirt": dirt,
        "programs": programs,
        "stitching": stitching,
        "stitching judged": sewn_areas,
        "satin judged": columns_judged,
        "solids": raised,
        "solids turning": turning,
        "chain": chain,
        "rehearsing": rehearsing,
        "leaving": leaving,
        "rehearsing long": long_ways,
        "walking": walking,
    }
    wanted = " ".join(sys.argv[1:])
    for name, row in rows.items():
        if wanted in name:
            row()
    return 0


if __name__ == "__main__":
    sys.exit(main())
