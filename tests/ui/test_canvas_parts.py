"""Parts of the canvas that need no window."""

import math
import unittest
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QColor, QImage, QPainter

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.contour_moves import map_contours
from draxet.job.contour_records import ContourItem
from draxet.job.records import Job
from draxet.job.work import cut_work
from draxet.make.cutting_through import give_cut
from draxet.progress import Unwatched
from draxet.ui.app import make_app
from draxet.ui.canvas.contours import ContourPainter
from draxet.ui.canvas.cuts import bands_of, nearest
from draxet.ui.canvas.marks import paint_marks
from draxet.ui.canvas.rest import RestLayer
from draxet.ui.canvas.resting import RestingMarks, parted
from draxet.ui.canvas.rulers import nice_step
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.tool import AreaMark, ContourMark, Mark, SignMark

NO_BANDS = bands_of((), Unwatched())


class TheCamera(unittest.TestCase):
    def test_view_and_job_are_each_others_way_back(self) -> None:
        camera = Camera(2.5, 100, 400)
        for x, y in ((0, 0), (12.5, -7), (300, 200)):
            self.assertEqual(tuple(round(v, 9) for v in camera.job(*camera.view(x, y))), (x, y))

    def test_fitting_shows_all_of_a_box_in_the_middle(self) -> None:
        for box in ((0, 0, 100, 10), (-50, 20, -40, 900), (5, 5, 5, 5)):
            camera = Camera.fitted(box, 760, 700)
            (x0, y1), (x1, y0) = camera.view(*box[:2]), camera.view(*box[2:])
            self.assertTrue(0 <= x0 <= x1 <= 760 and 0 <= y0 <= y1 <= 700)
            self.assertAlmostEqual(x0 + x1, 760, delta=2)

    def test_zooming_keeps_the_place_under_the_pointer_and_has_ends(self) -> None:
        camera = Camera(1, 10, 500)
        before = camera.job(321, 123)
        after = camera.zoomed(1.7, 321, 123).job(321, 123)
        self.assertLess(max(abs(a - b) for a, b in zip(before, after, strict=True)), 0.5)
        for factor in (1e9, 1e-9):
            self.assertTrue(0.001 < camera.zoomed(factor, 0, 0).zoom < 5000)


class Bands(unittest.TestCase):
    def test_the_nearest_come_first_and_what_is_known_is_worked_out_no_more(self) -> None:
        rings = [Contour.circle(10 + 20 * k, 10, 6) for k in range(30)]
        job = add_contours(Job(), rings)
        job = give_cut(job, [item.id for item in job.contours], 1.0, 1000)
        work = cut_work(job)
        some = nearest(work, NO_BANDS, 210, 10, 5)
        self.assertEqual(
            [each.ids for each in some], [(f"contour-{k}",) for k in (9, 10, 11, 12, 13)]
        )
        first = bands_of(some, Unwatched())
        whole = bands_of(work, Unwatched(), first)
        self.assertEqual(
            [each is other for each, other in zip(whole.paths[8:13], first.paths)], [True] * 5
        )
        alone = bands_of(work, Unwatched())
        for (band, _), (plain, _) in zip(whole.paths, alone.paths, strict=True):
            self.assertEqual(band, plain)
        moved = cut_work(map_contours(job, ["contour-3"], Affine.moved(0, 1)))
        after = bands_of(moved, Unwatched(), whole)
        new = [k for k, path in enumerate(after.paths) if path is not whole.paths[k]]
        self.assertEqual(new, [2])
        self.assertNotEqual(after.paths[2][0], whole.paths[2][0])
        self.assertEqual(len(nearest(moved, whole, 0, 0, 1)), 30, "but one was known")
        held_by_tabs = tuple(replace(each, tabs=3) for each in job.operations)
        tabbed = cut_work(replace(job, operations=held_by_tabs))
        held = bands_of(tabbed, Unwatched(), whole)
        self.assertFalse(any(a is b for a, b in zip(held.paths, whole.paths, strict=True)))


class Rulers(unittest.TestCase):
    def test_steps_are_round_in_the_jobs_unit(self) -> None:
        for least, unit, step in (
            (3, "mm", 5),
            (60, "mm", 100),
            (0.3, "mm", 0.5),
            (13, "cm", 20),
            (20, "in", 25.4),
            (7, "in", 12.7),
            (2, "in", 3.175),
        ):
            with self.subTest(least=least, unit=unit):
                self.assertAlmostEqual(nice_step(least, unit), step)


class TheRestLayer(unittest.TestCase):
    """A sheet of squares, each of its own colour, painted one at a time."""

    size = QSize(240, 160)

    def steps(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        for k in range(64):
            x, y = camera.view(10 * (k % 8), 10 * (k // 8))
            square = QRectF(x, y - 8 * camera.zoom, 8 * camera.zoom, 8 * camera.zoom)
            if square.intersects(clip):
                painter.fillRect(square, QColor(3 * k, 255 - 3 * k, self.shade))
                yield

    def shown(self, layer: RestLayer, camera: Camera, until: float) -> tuple[bool, QImage]:
        image = QImage(self.size, QImage.Format.Format_RGB32)
        painter = QPainter(image)
        whole = layer.show(painter, self.size, 1.0, camera, self.shade, self.steps, until)
        painter.end()
        return whole, image

    def test_step_by_step_it_comes_to_what_it_is_at_once_whatever_happens_meanwhile(self) -> None:
        random = np.random.default_rng(5)
        layer, camera, self.shade = RestLayer("#204060"), Camera(2.0, 40, 150), 0
        for _ in range(120):
            what = int(random.integers(0, 4))
            if what == 0:
                camera = camera.panned(*random.integers(-90, 90, 2).tolist())
            elif what == 1:
                camera = camera.zoomed(float(random.choice([0.8, 1.25])), 120, 80)
            elif what == 2:
                self.shade = int(random.integers(0, 256))
            for _ in range(int(random.integers(0, 12))):
                self.shown(layer, camera, -math.inf)  # a step in each frame
            if what == 3:
                frames = 0
                while not self.shown(layer, camera, -math.inf)[0]:
                    frames += 1
                self.assertLess(frames, 300)
                self.assertEqual(
                    self.shown(layer, camera, -math.inf)[1],
                    self.shown(RestLayer("#204060"), camera, math.inf)[1],
                )

    def test_what_was_is_shown_in_its_place_until_the_new_is_whole(self) -> None:
        layer, camera, self.shade = RestLayer("#204060"), Camera(2.0, 40, 150), 10
        _, old = self.shown(layer, camera, math.inf)
        self.shade = 200
        whole, image = self.shown(layer, camera, -math.inf)
        self.assertFalse(whole)
        self.assertEqual(image, old)
        whole, image = self.shown(layer, camera.panned(30, 0), -math.inf)
        self.assertFalse(whole)
        self.assertEqual(image.copy(30, 0, 210, 160), old.copy(0, 0, 210, 160))
        self.assertEqual(image.pixelColor(10, 10).name(), "#204060")


class ContoursAtRest(unittest.TestCase):
    def test_where_one_is_taken_away_or_all_are_chosen_only_few_paths_are_made_anew(self) -> None:
        items = tuple(
            ContourItem(f"contour-{k}", Contour.circle(9 * (k % 40), 9 * (k // 40), 3))
            for k in range(1200)
        )
        painter = ContourPainter()
        painter.show(items)
        before = set(painter._chunks)  # noqa: SLF001
        self.assertGreater(len(before), 40)
        painter.show(items[:300] + items[301:])
        self.assertLess(len(set(painter._chunks) - before), 6)  # noqa: SLF001
        chosen = ContourPainter(painter)
        chosen.show(painter.shown)
        for key, chunk in chosen._chunks.items():  # noqa: SLF001
            self.assertIs(chunk, painter._chunks[key])  # noqa: SLF001

    def test_each_contour_is_in_one_run_however_few_come_go_or_change(self) -> None:
        rng = np.random.default_rng(7)

        def item(name: int) -> ContourItem:
            x, y = rng.uniform(0, 400, 2).tolist()
            return ContourItem(f"contour-{name}", Contour.circle(x, y, 3))

        items = [item(k) for k in range(500)]
        painter = ContourPainter()
        painter.show(tuple(items))
        for turn in range(60):
            count = int(rng.integers(1, 40))
            for k in rng.choice(len(items), count, replace=False).tolist():
                items[k] = item(1000 * turn + k)
            if turn % 3 == 1:
                items = items[count:] + [item(90_000 + turn)]
            if turn % 3 == 2:
                items = [items[k] for k in rng.permutation(len(items)).tolist()]
                items += [item(95_000 + 50 * turn + k) for k in range(count)]
            painter.show(tuple(items))
            chunks = painter._chunks.values()  # noqa: SLF001
            held = sorted(id(each) for chunk in chunks for each in chunk.items)
            self.assertEqual(held, sorted(map(id, items)))
            for chunk in chunks:
                for each in chunk.items:
                    x0, y0, x1, y1 = each.contour.box
                    self.assertTrue(
                        chunk.box.adjusted(-1e-9, -1e-9, 1e-9, 1e-9).contains(
                            QRectF(x0, y0, x1 - x0, y1 - y0)
                        )
                    )


class MarksAtRest(unittest.TestCase):
    """Rings with a hole each, in a grid, as areas and as a proposal, with signs."""

    rings = tuple(
        Contour.circle(12.0 * (k % 8), 12.0 * (k // 8), radius)
        for k in range(40)
        for radius in (5.0, 2.0)
    )

    def painted(
        self, marks: Sequence[Mark], *, live: bool, camera: Camera = Camera(2.0, 20, 150)
    ) -> np.ndarray:
        image = QImage(240, 160, QImage.Format.Format_RGB32)
        image.fill(QColor("#FFFFFF"))
        painter = QPainter(image)
        if live:
            paint_marks(painter, marks, camera, (240, 160), LIGHT, lambda *_: None)
        else:
            self.resting.show(tuple(marks))
            for _ in self.resting.paint(painter, camera, QRectF(0, 0, 240, 160), LIGHT):
                pass
        painter.end()
        bits = image.constBits()
        assert bits is not None
        return (
            np.frombuffer(bits.asarray(image.sizeInBytes()), np.uint8)
            .reshape(160, 240, 4)
            .astype(int)
        )

    def setUp(self) -> None:
        self.app = make_app()
        self.resting = RestingMarks()

    def test_they_look_as_painted_anew(self) -> None:
        turned = (
            Affine.turned(25).then(Affine.moved(30, 10)),
            Affine.scaled(-0.5, 0.5).then(Affine.moved(60, 0)),
        )
        signs = [SignMark(12.0 * (k % 8), 12.0 * (k // 8), "point") for k in range(70)]
        for marks in (
            [AreaMark(self.rings, "#3C8259")],
            [ContourMark(self.rings, "offer")],
            [ContourMark(self.rings, "preview", turned)],
            signs,
        ):
            with self.subTest(type(marks[0]).__name__):
                at_rest, live = parted(marks)
                self.assertEqual((len(at_rest), live), (len(marks), []))
                wanted, found = self.painted(marks, live=True), self.painted(marks, live=False)
                self.assertGreater((wanted < 250).mean(), 0.02)
                self.assertLess((np.abs(wanted - found).max(axis=2) > 60).mean(), 0.002)

    def test_few_follow_the_hand_and_the_same_contours_keep_their_paths(self) -> None:
        few = [
            ContourMark(self.rings[:4]),
            SignMark(0, 0, "open"),
            AreaMark(self.rings[:2], "#3C8259"),
        ]
        self.assertEqual(parted(few), ((), few))
        self.painted([ContourMark(self.rings, places=(Affine(),))], live=False)
        kept = self.resting._shapes[0].chunks
        self.painted(
            [ContourMark(tuple(self.rings), places=(Affine.moved(3, 0),)), few[0]], live=False
        )
        self.assertIs(self.resting._shapes[0].chunks, kept)
