import unittest
from unittest import mock

import cv2
import numpy as np
import shapely
from skimage.measure import find_contours

from bench.strokes import COLOURED, coloured, flat_labels, wrong_pixels
from draxet.gather.load import read_picture
from draxet.geometry.contour import Contour
from draxet.trace import colours as colours_module
from draxet.trace.closeness import Closeness, area_closeness_of, closeness_of
from draxet.trace.colours import ColourAnswer, ColourRequest, trace_colours
from draxet.trace.fitness import fitness_of
from draxet.trace.palette import areas_verdict, labelled, split_colour, suggested_palette
from draxet.trace.shared import edge_chains
from tests.shapes import ROOT, drawn

RED, BLUE, PAPER = (200, 40, 40), (30, 50, 120), (240, 240, 230)


def raster(answer: ColourAnswer, shape: tuple[int, ...], over: int) -> np.ndarray:
    found = np.full(shape, -1, dtype=np.int64)
    for area in answer.areas:
        mask = np.zeros(shape, np.uint8)
        cv2.fillPoly(
            mask,
            [
                np.round((c.flattened(0.005) * over - 0.5) * 256).astype(np.int32)
                for c in area.contours
            ],
            1,
            cv2.LINE_8,
            8,
        )
        found[mask > 0] = area.number
    return found


def flag() -> np.ndarray:
    """Two discs on paper, one lying half on the other, with soft rims."""
    picture = np.full((200, 260, 3), PAPER, np.uint8)
    cv2.circle(picture, (100, 100), 60, RED, -1)
    cv2.circle(picture, (160, 100), 60, BLUE, -1)
    return cv2.GaussianBlur(picture, (0, 0), 0.9)


class Palettes(unittest.TestCase):
    def test_flat_drawings_give_their_own_colours_and_no_mixtures(self) -> None:
        palette = suggested_palette(flag())
        self.assertEqual(len(palette), 3)
        for colour in (RED, BLUE, PAPER):
            self.assertLess(np.abs(palette.colours.astype(int) - colour).max(axis=1).min(), 8)
        self.assertEqual(len(suggested_palette(flag(), 2)), 2)

    def test_as_many_colours_as_there_are_gives_just_those(self) -> None:
        picture = read_picture((ROOT / "demo" / "badge.jpg").read_bytes(), "badge.jpg").pixels
        found, asked = suggested_palette(picture), suggested_palette(picture, 4)
        self.assertEqual(len(found), 4)
        np.testing.assert_allclose(asked.colours.astype(int), found.colours, atol=1)
        self.assertEqual(len(suggested_palette(picture, 6)), 6)

    def test_rims_take_no_third_colour(self) -> None:
        picture = np.full((60, 90, 3), 250, np.uint8)
        picture[:, 45:] = 10
        soft = cv2.GaussianBlur(picture, (0, 0), 1.5)
        grey = np.array(
            [(250, 250, 250), (10, 10, 10), (130, 130, 130)], np.uint8
        )  # the rim is just this third one
        soft[5:15, 5:15] = 130
        label = labelled(soft, grey)
        self.assertEqual(set(np.unique(label[30:]).tolist()), {0, 1})
        self.assertEqual(label[10, 10], 2)

    def test_a_photo_is_said_to_have_no_areas_and_a_drawing_is_not(self) -> None:
        rng = np.random.default_rng(0)
        photo = np.clip(
            cv2.GaussianBlur(rng.normal(128, 400, (120, 160, 3)).astype(np.float32), (0, 0), 2),
            0,
            255,
        ).astype(np.uint8)
        self.assertIn(
            "no separable areas", areas_verdict(photo, suggested_palette(photo, 3).colours)
        )
        self.assertEqual(areas_verdict(flag(), suggested_palette(flag()).colours), "")

    def test_shading_of_any_kind_is_told_and_flat_areas_however_filthy_are_not(self) -> None:
        rows, columns = np.mgrid[0:300, 0:400].astype(np.float64)
        noise = np.random.default_rng(3).normal(0, 6, (300, 400, 3))
        ramp, wave = columns * 255 / 399, 127 + 120 * np.sin(columns / 40) * np.cos(rows / 50)
        shaded = {
            "ramp": np.dstack([ramp] * 3),
            "noisy ramp": np.dstack([ramp] * 3) + noise,
            "colours": np.dstack([ramp, 255 - ramp, 0 * ramp + 120]),
            "sinus": np.dstack([wave] * 3),
            "round": np.dstack([np.clip(255 - np.hypot(columns - 200, rows - 150), 0, 255)] * 3),
        }
        flat = np.full((300, 400, 3), 235.0)
        flat[np.hypot(columns - 150, rows - 150) < 80] = (200, 40, 40)
        flat[60:240, 220:360] = (30, 60, 160)
        flat[np.hypot(columns - 290, rows - 150) < 40] = (240, 200, 60)
        thin = np.full((300, 400, 3), 240.0)
        thin[::25] = thin[1::25] = 40
        soft = cv2.GaussianBlur(flat, (0, 0), 2.0)
        sound = {
            "flat": flat,
            "soft": soft,
            "noisy": soft + noise,
            "badly lit": soft * (0.75 + 0.25 * columns[..., None] / 400),
            "thin lines": cv2.GaussianBlur(thin, (0, 0), 0.8),
        }
        for some, is_shaded in ((shaded, True), (sound, False)):
            for name, picture in some.items():
                pixels = np.clip(picture, 0, 255).astype(np.uint8)
                for count in (None, 4, 8):
                    with self.subTest(name, colours=count):
                        self.assertEqual(
                            "shaded"
                            in areas_verdict(pixels, suggested_palette(pixels, count).colours),
                            is_shaded,
                        )

    def test_a_colour_is_split_into_the_two_it_stands_for(self) -> None:
        pair = split_colour(flag(), np.array([PAPER, (115, 45, 80)], np.uint8), 1)
        for colour in (RED, BLUE):
            self.assertLess(min(np.abs(np.array(one) - colour).max() for one in pair), 12)


class Areas(unittest.TestCase):
    def test_every_pixel_is_covered_by_the_right_colour(self) -> None:
        for name in COLOURED:
            with self.subTest(name):
                truth = flat_labels(name)
                picture = coloured(truth, scan=True)
                palette = suggested_palette(picture).colours
                answer = trace_colours(ColourRequest(picture, palette))
                wrong, bare = wrong_pixels(raster(answer, truth.shape, 4), truth, palette)
                self.assertLess(wrong, 0.006)
                self.assertEqual(bare, 0)
                self.assertTrue(all(c.closed for c in answer.contours))

    def test_common_edges_are_exactly_common_at_any_tolerance(self) -> None:
        for tolerance in (0.3, 2.0):
            answer = trace_colours(
                ColourRequest(flag(), np.array([PAPER, RED, BLUE], np.uint8), tolerance=tolerance)
            )
            spans = [
                frozenset([tuple(a), tuple(b)]) | {round(abs(float(bulge)), 12)}
                for c in answer.contours
                for a, b, bulge in zip(
                    c.spans.starts.tolist(), c.spans.ends.tolist(), c.bulges, strict=True
                )
            ]
            alone = [span for span in spans if spans.count(span) == 1]
            on_border = [
                span
                for span in alone
                if any(
                    isinstance(p, tuple)
                    and (
                        min(abs(p[0]), abs(p[0] - 260)) < 1e-6
                        or min(abs(p[1]), abs(p[1] - 200)) < 1e-6
                    )
                    for p in span
                )
            ]
            self.assertEqual(len(alone), len(on_border))

    def test_areas_add_up_to_the_picture(self) -> None:
        answer = trace_colours(ColourRequest(flag(), np.array([PAPER, RED, BLUE], np.uint8)))
        self.assertAlmostEqual(abs(sum(c.area for c in answer.contours)), 200 * 260, delta=1e-3)

    def test_stacked_areas_reach_on_beneath_those_in_front(self) -> None:
        request = ColourRequest(flag(), np.array([PAPER, RED, BLUE], np.uint8), stacked=True)
        areas = [abs(sum(c.area for c in area.contours)) for area in trace_colours(request).areas]
        self.assertAlmostEqual(areas[0], 200 * 260, delta=1)
        self.assertEqual(areas, sorted(areas, reverse=True))

    def test_dropped_colours_give_no_area_and_small_areas_go_to_their_neighbours(self) -> None:
        colours = np.array([PAPER, RED, BLUE], np.uint8)
        dropped = trace_colours(ColourRequest(flag(), colours, dropped=frozenset({0})))
        self.assertEqual({area.number for area in dropped.areas}, {1, 2})
        spotted = flag()
        spotted[20:24, 20:24] = RED
        counts = [
            len(trace_colours(ColourRequest(spotted, colours, min_area=limit)).contours)
            for limit in (4, 60)
        ]
        self.assertEqual(counts[0] - counts[1], 2)  # the spot, and the hole for it in the paper

    def test_edges_of_a_label_map_are_complete_and_ordered(self) -> None:
        labels = np.array([[0, 0, 1], [0, 1, 1], [2, 2, 2]])
        chains = edge_chains(labels)
        total = sum(
            np.hypot(
                *np.diff(
                    np.vstack([chains.chain(k), chains.chain(k)[:1]])
                    if chains.closed[k]
                    else chains.chain(k),
                    axis=0,
                ).T
            ).sum()
            for k in range(len(chains))
        )
        self.assertEqual(total, 12 + 6)  # round the picture, and between the areas
        for k in range(len(chains)):
            a, b = chains.chain(k)[:2]
            middle, left = (a + b) / 2, np.array([(b - a)[1], -(b - a)[0]]) / 2
            x, y = np.floor(middle + left).astype(int)
            self.assertEqual(labels[y, x] if 0 <= x < 3 and 0 <= y < 3 else -1, chains.left[k])

    def test_a_quarter_turn_and_a_flip_give_the_same_areas_turned_and_flipped(self) -> None:
        colours, picture = np.array([PAPER, RED, BLUE], np.uint8), flag()
        straight = trace_colours(ColourRequest(picture, colours))
        for turned in (np.rot90(picture), picture[:, ::-1]):
            other = trace_colours(ColourRequest(np.ascontiguousarray(turned), colours))
            for a, b in zip(straight.areas, other.areas, strict=True):
                self.assertEqual(len(a.contours), len(b.contours))
                self.assertAlmostEqual(
                    abs(sum(c.area for c in a.contours)),
                    abs(sum(c.area for c in b.contours)),
                    delta=40,
                )

    def test_a_huge_picture_is_traced_from_a_smaller_copy_and_lies_where_it_was(self) -> None:
        colours = np.array([PAPER, RED, BLUE], np.uint8)
        straight = trace_colours(ColourRequest(flag(), colours))
        with mock.patch.object(colours_module, "_MOST_PIXELS", 20_000):
            coarse = trace_colours(ColourRequest(flag(), colours))
        for a, b in zip(straight.areas, coarse.areas, strict=True):
            np.testing.assert_allclose(
                max(c.box for c in b.contours), max(c.box for c in a.contours), atol=0.6
            )

    def test_wrong_requests_are_refused(self) -> None:
        for request in (
            ColourRequest(flag().astype(float), np.array([RED], np.uint8)),
            ColourRequest(flag(), np.array([RED], np.uint8), tolerance=0),
        ):
            with self.assertRaises(ValueError):
                trace_colours(request)


class HowNear(unittest.TestCase):
    def test_a_moved_contour_is_found_to_be_off_by_as_much_on_the_right_side(self) -> None:
        picture = drawn([Contour.circle(150, 150, 90)], blur=1)
        for shift in (0.0, 0.8, -1.7):
            close = closeness_of([Contour.circle(150, 150, 90 + shift)], picture, 127.5)
            self.assertTrue(close.found.all())
            self.assertAlmostEqual(float(np.abs(close.off).mean()), abs(shift), delta=0.06)
        self.assertAlmostEqual(
            area_closeness_of([Contour.circle(150, 150, 91)], picture).mean, 1.0, delta=0.06
        )

    def test_colours_as_bright_as_each_other_are_told_apart(self) -> None:
        ink = (255 - drawn([Contour.circle(150, 150, 90)]).astype(float)[..., None]) / 255
        picture = np.rint(ink * (200, 60, 60) + (1 - ink) * (60, 131, 60)).astype(
            np.uint8
        )  # both of grey 102
        self.assertLess(int(np.ptp(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY))), 3)
        self.assertAlmostEqual(
            area_closeness_of([Contour.circle(150, 150, 91)], picture).mean, 1.0, delta=0.06
        )

    def test_the_worst_places_come_first_and_lie_apart(self) -> None:
        points = np.column_stack([np.arange(100.0), np.zeros(100)])
        off = np.zeros(100)
        off[[20, 21, 60]] = (3, 2.9, -2)
        worst = Closeness(
            points, off, np.ones(100, dtype=bool), np.zeros(100, dtype=np.int64)
        ).worst(2, 10)
        self.assertEqual([(x, d) for x, _, d, _ in worst], [(20, 3), (60, 2)])

    def test_what_cannot_be_cut_is_said_with_its_place(self) -> None:
        sound = fitness_of([Contour.circle(0, 0, 20), Contour.circle(0, 0, 10)], 1.0)
        self.assertEqual((sound.verdict, sound.findings), ("Fit for cutting.", ()))
        near = fitness_of([Contour.circle(0, 0, 20), Contour.circle(12, 0, 7.6)], 1.0)
        self.assertAlmostEqual(near.narrowest, 0.4, delta=0.01)
        self.assertIn("narrowest place is 0.40 mm", near.verdict)
        self.assertAlmostEqual(near.findings[0].places[0][0], 19.8, delta=0.3)
        tiny = fitness_of([Contour.circle(0, 0, 20), Contour.circle(0, 0, 0.3)], 1.0)
        self.assertIn("1 contour is smaller than 1 mm", tiny.verdict)
        pair = [Contour.circle(0, 0, 20), Contour.circle(12, 0, 7.6)]
        self.assertEqual(fitness_of(pair, 1.0, ["a", "b"]).findings, ())


class SmallPictures(unittest.TestCase):
    def test_thin_tips_reach_as_far_as_the_picture_shows_them_and_nothing_is_without_area(
        self,
    ) -> None:
        beyond = []
        for seed in range(5):
            shapes, rgb = self.small(seed)
            answer = trace_colours(
                ColourRequest(rgb, np.array([(245, 243, 238), *shapes], np.uint8))
            )
            self.assertTrue(all(abs(contour.area) > 1 for contour in answer.contours))
            for area in answer.areas:
                if area.colour not in shapes:
                    continue
                shape = shapes[area.colour]
                found = max(
                    (shapely.Polygon(contour.flattened(0.02)) for contour in area.contours),
                    key=lambda polygon: polygon.area,
                )
                share = (
                    (rgb - np.array([245.0, 243, 238]))
                    @ (np.array(area.colour) - (245, 243, 238))
                    / np.sum((np.array(area.colour) - (245, 243, 238)) ** 2)
                )
                shown = shapely.Polygon(max(find_contours(share, 0.5), key=len)[:, ::-1] + 0.5)
                for tip in tips_of(shape):
                    beyond.append(tip.distance(found) - tip.distance(shown))
        self.assertGreater(len(beyond), 20)
        self.assertLess(np.quantile(beyond, 0.85), 0.5)
        self.assertLess(max(beyond), 1.5)

    @staticmethod
    def small(seed: int) -> tuple[dict[tuple[int, int, int], shapely.Polygon], np.ndarray]:
        """Shapes with sharp tips by their colour, and a picture of them of 150 pixels a side."""
        turn = np.random.default_rng(seed).uniform(0, 6.28)
        t = np.linspace(0, 2 * np.pi, 6, endpoint=False) + turn
        spikes = np.array(
            [
                (r * np.cos(a), r * np.sin(a))
                for k, a in enumerate(np.linspace(0, 2 * np.pi, 12, endpoint=False) + turn)
                for r in ((34, 12)[k % 2],)
            ]
        )
        moon = (
            shapely.Point(0, 0)
            .buffer(38, 128)
            .difference(shapely.Point(16 * np.cos(turn), 16 * np.sin(turn)).buffer(35, 128))
        )
        shapes = {
            (30, 60, 140): shapely.transform(moon, lambda places: places + (48, 50)),
            (200, 60, 40): shapely.Polygon(spikes + (104, 100)),
            (40, 130, 80): shapely.Polygon(
                np.column_stack([9 * np.cos(t), 26 * np.sin(t)]) + (34, 118)
            ),
        }
        fine = np.full((150 * 16, 150 * 16, 3), (245, 243, 238), np.uint8)
        for colour, shape in shapes.items():
            cv2.fillPoly(
                fine,
                [np.round(np.array(shape.exterior.coords) * 256).astype(np.int32)],
                colour,
                cv2.LINE_8,
                4,
            )
        return shapes, cv2.resize(fine, (150, 150), interpolation=cv2.INTER_AREA)


def tips_of(shape: shapely.Polygon) -> list[shapely.Point]:
    p = np.array(shape.exterior.simplify(0.02).coords)[:-1]
    a, b = p - np.roll(p, 1, axis=0), np.roll(p, -1, axis=0) - p
    turns = np.arccos(np.clip((a * b).sum(axis=1) / np.hypot(*a.T) / np.hypot(*b.T), -1, 1))
    return [shapely.Point(place) for place in p[turns > np.radians(100)]]


if __name__ == "__main__":
    unittest.main()
