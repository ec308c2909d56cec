"""Areas of true curves against polygons of finely flattened copies, and against what is known of
degenerate sets."""

from __future__ import annotations

import math
import unittest

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.arrangement import Arrangement, arrangement_of
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossing_places import nearest_on
from draxet.geometry.drawn import Stop, contour_of
from draxet.geometry.shapes import ellipse
from draxet.geometry.spans import ARC, CUBIC, LINE

_FLAT = 1e-4


def random_set(rng: np.random.Generator) -> list[Contour]:
    """Circles, ellipses, polygons, curves and arcs, and boxes on a coarse grid whose sides fall
    together."""
    found: list[Contour] = []
    for _ in range(rng.integers(2, 8)):
        kind, (x, y), r = rng.integers(0, 6), rng.uniform(0, 100, 2), float(rng.uniform(5, 40))
        if kind == 0:
            found.append(Contour.circle(x, y, r))
        elif kind == 1:
            found.append(
                Contour.make(
                    rng.uniform(0, 100, (rng.integers(3, 6), 2)), closed=bool(rng.integers(0, 2))
                )
            )
        elif kind == 2:
            found.append(
                ellipse(x, y, r, r * float(rng.uniform(0.2, 1))).transformed(
                    Affine.turned(float(rng.uniform(0, 180))).about(x, y)
                )
            )
        elif kind == 3:
            stops = [
                Stop(*place, "curve")
                for place in rng.uniform(0, 100, (rng.integers(3, 6), 2)).tolist()
            ]
            found.append(contour_of(stops, closed=bool(rng.integers(0, 2)), last="curve"))
        elif kind == 4:
            (w, h), (gx, gy) = rng.integers(1, 8, 2) * 10, rng.integers(0, 8, 2) * 10
            found.append(Contour.make([(gx, gy), (gx + w, gy), (gx + w, gy + h), (gx, gy + h)]))
        else:
            found.append(
                Contour.make(
                    [(x, y), rng.uniform(0, 100, 2)],
                    [ARC],
                    [float(rng.uniform(-1.5, 1.5))],
                    closed=False,
                )
            )
    return found


def flattened(contour: Contour) -> shapely.LineString:
    points = contour.flattened(_FLAT)
    return shapely.LineString(np.vstack([points, points[:1]]) if contour.closed else points)


def looping(rng: np.random.Generator) -> Contour:
    """A closed contour of cubics, some of which cross themselves."""
    count = int(rng.integers(3, 7))
    angle = np.sort(rng.uniform(0, 2 * np.pi, count))
    nodes = rng.uniform(0, 30, 2) + 10 * np.column_stack(
        [np.cos(angle), np.sin(angle)]
    ) * rng.uniform(0.5, 1.2, (count, 1))
    handles = np.stack(
        [
            nodes + rng.normal(0, 4, (count, 2)),
            np.roll(nodes, -1, axis=0) + rng.normal(0, 4, (count, 2)),
        ],
        axis=1,
    )
    return Contour.make(nodes, np.full(count, CUBIC), np.zeros(count), handles)


class Areas(unittest.TestCase):
    def test_what_is_drawn_twice_or_there_and_back_bounds_the_same_areas(self) -> None:
        for seed in range(40):
            rng = np.random.default_rng(seed)
            once = [looping(rng) for _ in range(rng.integers(1, 5))]
            again = [
                one
                for contour in once
                for one in (contour, contour.reversed(), contour)[: rng.integers(1, 4)]
            ]
            wanted, found = arrangement_of(once), arrangement_of(again)
            with self.subTest(seed):
                self.assertEqual(len(found.edges), len(wanted.edges))
                np.testing.assert_allclose(
                    sorted(r.area for r in found.regions),
                    sorted(r.area for r in wanted.regions),
                    atol=1e-6,
                )

    def test_a_cubics_own_small_loop_is_an_area(self) -> None:
        whole = [(0, 0), (30, 0), (30, 20), (0, 20)]
        handles = np.zeros((4, 2, 2))
        handles[0] = (34, 10), (-4, 10)  # crosses itself on its way
        found = arrangement_of(
            [Contour.make(whole, [CUBIC, LINE, LINE, LINE], np.zeros(4), handles)]
        )
        drawn = shapely.node(
            flattened(Contour.make(whole, [CUBIC, LINE, LINE, LINE], np.zeros(4), handles))
        )
        wanted = shapely.get_parts(shapely.polygonize(shapely.get_parts(drawn)))
        np.testing.assert_allclose(
            sorted(r.area for r in found.regions), sorted(shapely.area(wanted)), atol=0.01
        )

    def sound(self, found: Arrangement) -> None:
        """Every boundary is of pieces of the originals, and areas add up."""
        spans, _ = joined_spans(found.contours)
        whole = sum(contour.length for contour in found.contours)
        for region in found.regions:
            self.assertGreater(region.outline.area, 0)
            for contour in (region.outline, *region.holes):
                middles = contour.spans.at(
                    np.arange(len(contour.kinds)), np.full(len(contour.kinds), 0.37)
                )
                off = np.full(len(middles), np.inf)
                for k in range(len(spans)):
                    for begin in (0.1, 0.5, 0.9):
                        off = np.minimum(
                            off,
                            nearest_on(
                                spans,
                                np.full(len(middles), k),
                                middles,
                                np.full(len(middles), begin),
                            )[1],
                        )
                self.assertLess(off.max(), 2e-5)
        outside = sum(contour.area for contour in found.outline_of(range(len(found.regions))))
        self.assertAlmostEqual(
            sum(region.area for region in found.regions), outside, delta=1e-6 * whole
        )

    def test_random_sets_have_the_areas_of_their_flattened_copies(self) -> None:
        for seed in range(60):
            contours = random_set(np.random.default_rng(seed))
            with self.subTest(seed=seed):
                found = arrangement_of(contours)
                faces = shapely.get_parts(
                    shapely.polygonize(
                        [shapely.unary_union([flattened(contour) for contour in contours])]
                    )
                )
                wanted = np.sort([face.area for face in faces if face.area > 0.05])
                areas = np.sort([region.area for region in found.regions if region.area > 0.05])
                self.assertEqual(len(areas), len(wanted))
                np.testing.assert_allclose(
                    areas, wanted, atol=_FLAT * sum(contour.length for contour in contours) + 1e-3
                )
                if seed < 12:
                    self.sound(found)

    def test_unions_and_differences_by_what_covers_agree_with_polygons(self) -> None:
        for seed in range(20):
            rng = np.random.default_rng(1000 + seed)
            contours = [
                c
                for c in random_set(rng)
                if c.closed
                and not len(
                    shapely.get_parts(shapely.make_valid(shapely.Polygon(c.flattened(0.01))))
                )
                > 1
            ][:4]
            if len(contours) < 2:
                continue
            found = arrangement_of(contours)
            polygons = [
                shapely.make_valid(shapely.Polygon(contour.flattened(_FLAT)))
                for contour in contours
            ]
            for picked, wanted in (
                (
                    [k for k, r in enumerate(found.regions) if r.covered],
                    shapely.union_all(polygons),
                ),
                (
                    [k for k, r in enumerate(found.regions) if {0, 1} <= r.covered],
                    polygons[0] & polygons[1],
                ),
                (
                    [
                        k
                        for k, r in enumerate(found.regions)
                        if 0 in r.covered and 1 not in r.covered
                    ],
                    polygons[0] - polygons[1],
                ),
            ):
                area = sum(contour.area for contour in found.outline_of(picked))
                self.assertAlmostEqual(
                    area, wanted.area, delta=_FLAT * sum(c.length for c in contours) + 1e-3
                )

    def test_lines_stay_lines_and_arcs_keep_their_centres_and_whole_spans_come_back_whole(
        self,
    ) -> None:
        found = arrangement_of(
            [Contour.make([(0, 0), (60, 0), (60, 40), (0, 40)]), Contour.circle(60, 20, 10)]
        )
        (whole,) = found.outline_of(range(3))
        self.assertEqual(sorted(whole.kinds.tolist()), [LINE] * 5 + [ARC] * (len(whole.kinds) - 5))
        shape = whole.spans.take(np.flatnonzero(whole.kinds == ARC)).arc_shapes()
        np.testing.assert_allclose(
            shape.centres, np.tile((60.0, 20.0), (len(shape.radii), 1)), atol=1e-6
        )
        self.assertAlmostEqual(whole.area, 2400 + math.pi * 50, places=6)

    def test_degenerate_sets_lose_no_area_and_never_fail(self) -> None:
        circle, square = (
            Contour.circle(0, 0, 10),
            Contour.make([(0, 0), (10, 0), (10, 10), (0, 10)]),
        )
        for gap in (0.0, 1e-9, 1e-7, 1e-6, 1e-4, 1e-2):
            with self.subTest(gap=gap):
                twice = arrangement_of([circle, circle.transformed(Affine.moved(gap, 0))])
                self.assertAlmostEqual(
                    sum(r.area for r in twice.regions), math.pi * 100, delta=30 * gap + 1e-3
                )
                beside = arrangement_of(
                    [
                        square,
                        square.transformed(Affine.moved(10 + gap, 0)),
                        square.transformed(Affine.moved(5, 10 + gap)),
                    ]
                )
                self.assertAlmostEqual(
                    sum(r.area for r in beside.regions if r.thin > 0.1), 300, delta=1e-3
                )
        tangent = arrangement_of([Contour.circle(10 * k, 0, 5) for k in range(6)])
        self.assertEqual(len(tangent.regions), 6)
        inner = arrangement_of([circle, Contour.circle(5, 0, 5), Contour.circle(-5, 0, 5)])
        self.assertEqual(
            sorted(round(r.area, 4) for r in inner.regions),
            sorted([round(25 * math.pi, 4)] * 2 + [round(25 * math.pi, 4)] * 2),
        )
        star = arrangement_of(
            [
                Contour.make([(0, 0), (20 * math.cos(a), 20 * math.sin(a))], closed=False)
                for a in np.linspace(0, 6, 9)
            ]
            + [Contour.circle(0, 0, 15)]
        )
        self.assertEqual((len(star.regions), len(star.loose)), (9, 9))
        self.assertEqual(arrangement_of([]).regions, ())
        self.assertEqual(arrangement_of([Contour.make([(0, 0), (9, 0)], closed=False)]).regions, ())

    def test_a_place_is_told_its_region(self) -> None:
        found = arrangement_of(
            [Contour.circle(0, 0, 20), Contour.circle(0, 0, 8), Contour.circle(12, 0, 3)]
        )
        for place, area in (
            ((0, 0), 64 * math.pi),
            ((12, 0), 9 * math.pi),
            ((0, 15), (400 - 64 - 9) * math.pi),
            ((30, 0), None),
        ):
            number = found.at(*place)
            self.assertEqual(
                None if number is None else round(found.regions[number].area, 6),
                None if area is None else round(area, 6),
            )
