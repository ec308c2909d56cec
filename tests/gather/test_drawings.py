import io
import math
import tempfile
import tracemalloc
import unittest
from pathlib import Path

import ezdxf
import numpy as np

from draxet.formats.drawing import chained
from draxet.formats.dxf import dxf_text
from draxet.formats.layer import FormatError, Layer
from draxet.formats.svg import svg_text
from draxet.gather.drawings import is_drawing, place_aside, place_drawing, read_drawing
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.file import read_job, save_job
from draxet.job.records import Job
from draxet.progress import Cancelled
from tests.shapes import GeometryTest, mixed_contour

SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="{w}" height="{w}" viewBox="0 0 100 100">{body}</svg>'


def svg(body: str, width: str = "100mm") -> bytes:
    return SVG.format(w=width, body=body).encode()


def dxf(unit: int = 4, build: object = None) -> bytes:
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = unit
    build(document.modelspace(), document)  # type: ignore[operator]
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode()


class SvgDrawings(GeometryTest):
    def in_mm(self, data: bytes) -> list[Contour]:
        drawing = read_drawing(data, "d.svg")
        assert drawing.unit_mm is not None
        return [item.contour for item in place_drawing(Job(), drawing, drawing.unit_mm).contours]

    def test_what_draxet_writes_comes_back_at_its_size_and_in_its_kinds(self) -> None:
        contours = (mixed_contour(), Contour.circle(50, 50, 20))
        back = self.in_mm(svg_text([Layer("a", contours)], 150, 100).encode())
        for wanted, found in zip(contours, back, strict=True):
            self.assert_same_line(wanted, found, 0.002)
            self.assertEqual(set(wanted.kinds.tolist()), set(found.kinds.tolist()))

    def test_shapes_and_transforms_of_other_programs(self) -> None:
        cases = {
            '<rect x="10" y="20" width="30" height="40"/>': ((10, 40, 40, 80), True, {LINE}),
            '<circle cx="50" cy="50" r="20"/>': ((30, 30, 70, 70), True, {ARC}),
            '<ellipse cx="50" cy="50" rx="20" ry="10"/>': ((30, 40, 70, 60), True, {CUBIC}),
            '<line x1="0" y1="0" x2="10" y2="10"/>': ((0, 90, 10, 100), False, {LINE}),
            '<polygon points="0,0 10,0 10,10"/>': ((0, 90, 10, 100), True, {LINE}),
            '<path d="M0 0 Q 10 0 10 10"/>': ((0, 90, 10, 100), False, {CUBIC}),
            '<g transform="translate(10 10) scale(2)"><circle cx="5" cy="5" r="5"/></g>': (
                (10, 70, 30, 90),
                True,
                {ARC},
            ),
        }
        for body, (box, closed, kinds) in cases.items():
            with self.subTest(body):
                (found,) = self.in_mm(svg(body))
                np.testing.assert_allclose(found.box, box, atol=0.01)
                self.assertEqual((found.closed, set(found.kinds.tolist())), (closed, kinds))

    def test_any_turn_of_a_shape_is_kept(self) -> None:
        for body in (
            '<rect x="10" y="20" width="30" height="10" transform="{t}"/>',
            '<circle cx="25" cy="25" r="3" transform="{t}"/>',
            '<ellipse cx="25" cy="25" rx="9" ry="3" transform="{t}"/>',
        ):
            (plain,) = self.in_mm(svg(body.format(t="")))
            for t, way in (
                ("rotate(30)", Affine.turned(-30)),
                ("rotate(-70 20 30)", Affine.turned(70).about(20, 70)),
                ("scale(2 1.5)", Affine(2, 0, 0, 0, 1.5, -50)),
                (
                    "skewX(20)",
                    Affine(1, -math.tan(math.radians(20)), 100 * math.tan(math.radians(20))),
                ),
            ):
                about = way if "20 30" in t or t[0] == "s" else way.about(0, 100)
                with self.subTest(body=body[:8], t=t):
                    (found,) = self.in_mm(
                        svg(f"<g transform='translate(1 2)'>{body.format(t=t)}</g>")
                    )
                    self.assert_same_line(
                        plain.transformed(about).transformed(Affine.moved(1, -2)), found, 0.003
                    )

    def test_odd_path_data(self) -> None:
        for data, box, kinds in (
            ("M0 0A0 5 0 0 1 10 0", (0, 100, 10, 100), {LINE}),
            ("M0 0 5 5L5 5L10 0", (0, 95, 10, 100), {LINE}),
            ("M0 0T5 5T5 5", (0, 92.5, 7.5, 100), {CUBIC}),
            ("M0 0A1e9 1e9 0 0 1 10 0", (0, 100, 10, 100), {LINE, ARC}),
            ("m1 1h8v8h-8z", (1, 91, 9, 99), {LINE}),
            ("M1,1.5.5-3e0", (0.5, 98.5, 1, 103), {LINE}),
            ("M0 0a5 5 0 1110 0", (0, 100, 10, 105), {ARC}),
            ("M0 0 10 0 10 10 junk 5", (0, 90, 10, 100), {LINE}),
            ("M0 0A5 3 30 0 1 10 0", (0, 100, 10, 105), {CUBIC}),
        ):
            with self.subTest(data):
                (found,) = self.in_mm(svg(f"<path d='{data}'/>"))
                self.assertLessEqual(set(found.kinds.tolist()), kinds)
                np.testing.assert_allclose(found.box, box, atol=1.6 if "30 0" in data else 0.02)

    def test_links_nest_groups_name_layers_and_what_is_not_painted_stays_out(self) -> None:
        body = (
            "<defs><g id='two'><rect width='4' height='4'/><circle r='1'/></g><symbol id='s' viewBox='0 0 2 2'><rect width='2' height='2'/></symbol></defs>"
            "<style>.off { display: none } #quiet{fill:none}</style><g id='Plates'><use href='#two' x='20' y='20'/></g>"
            "<use href='#s' x='50' y='50' width='10' height='10'/><rect class='off' width='3' height='3'/><rect id='quiet' width='3' height='3'/><path d='M5 5z'/>"
        )
        drawing = read_drawing(svg(body), "d.svg")
        self.assertEqual(drawing.layers, ("Plates", "Plates", ""))
        self.assertEqual(
            [item.layer for item in place_drawing(Job(), drawing, 1.0).contours],
            ["Plates", "Plates", ""],
        )
        np.testing.assert_allclose(
            drawing.contours[2].box, np.array((50, 40, 60, 50)) * 96 / 25.4, rtol=1e-6
        )
        words = " · ".join(drawing.remarks)
        for remark in (
            "1 hidden shape left out",
            "1 shape without fill and line left out",
            "1 shape of no size left out",
        ):
            self.assertIn(remark, words)

    def test_what_lies_outside_the_page_is_told_and_left_out_unless_wanted(self) -> None:
        drawing = read_drawing(
            svg('<rect width="5" height="5"/><rect x="300" width="5" height="5"/>'), "d.svg"
        )
        self.assertEqual((len(drawing.contours), len(drawing.aside)), (1, 1))
        self.assertEqual(drawing.aside_words, "1 shape outside the page left out")
        self.assertEqual(
            len(place_aside(place_drawing(Job(), drawing, 1.0), drawing, 1.0).contours), 2
        )

    def test_of_a_switch_the_first_child_is_drawn_whose_conditions_hold(self) -> None:
        wide = {
            "foreignObject": "<foreignObject/>",
            "own": '<own xmlns="urn:own"/>',
            "extension": '<g requiredExtensions="urn:own"><rect width="9" height="9"/></g>',
        }
        wide |= {
            "tongue": '<g systemLanguage="tlh,qya"><rect width="9" height="9"/></g>',
            "moving": '<rect width="9" height="9" requiredFeatures="x#Shape x#Animation"/>',
            "said": "<desc>no</desc><!-- no -->",
        }
        wide |= {
            "asks for nothing that is": '<rect width="9" height="9" requiredFeatures=" "/>',
            "none": "",
        }
        good = {
            "plain": "",
            "still": 'requiredFeatures="x#Shape"',
            "english": 'systemLanguage="tlh, en-GB"',
        }
        for name, before in wide.items():
            for condition in good.values():
                drawing = read_drawing(
                    svg(
                        f'<switch>{before}<g {condition}><rect width="5" height="5"/></g><rect width="7" height="7"/></switch>'
                    ),
                    "d.svg",
                )
                self.assertEqual(len(drawing.contours), 1, name)
                self.assertAlmostEqual(
                    abs(drawing.contours[0].area), 25 * (96 / 25.4) ** 2, 2, msg=name
                )
                self.assertEqual(
                    " ".join(drawing.remarks),
                    "1 foreign part left out" if name in ("foreignObject", "own") else "",
                    name,
                )
        with self.assertRaisesRegex(FormatError, "no shape"):
            read_drawing(
                svg(f"<switch>{wide['extension']}{wide['tongue']}</switch>{wide['moving']}"),
                "d.svg",
            )

    def test_one_damaged_shape_does_not_refuse_the_drawing(self) -> None:
        drawing = read_drawing(
            svg(
                '<rect width="5" height="5"/><rect width="five" height="5"/><path d="M 1 1 Q"/><circle r="1e300" cx="1e300"/>'
            ),
            "d.svg",
        )
        self.assertEqual(len(drawing.contours), 1)
        self.assertIn("3 damaged shapes", " ".join(drawing.remarks))

    def test_encodings_and_bombs(self) -> None:
        body = svg('<rect width="5" height="5"/>').decode()
        self.assertEqual(
            len(
                read_drawing(
                    f'<?xml version="1.0" encoding="UTF-16"?>{body}'.encode("utf-16"), "d.svg"
                ).contours
            ),
            1,
        )
        entity = (
            f'<?xml version="1.0" encoding="UTF-16"?><!DOCTYPE svg [<!ENTITY a "b">]>{body}'.encode(
                "utf-16"
            )
        )
        with self.assertRaisesRegex(FormatError, "entities"):
            read_drawing(entity, "d.svg")
        tower = "".join(
            f"<g id='g{k}'>" + f"<use href='#g{k - 1}'/>" * 10 + "</g>" for k in range(1, 12)
        )
        with self.assertRaisesRegex(FormatError, "would be over"):
            read_drawing(svg(f"<g id='g0'><rect width='1' height='1'/></g>{tower}"), "d.svg")
        loop = "<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/></g><rect width='1' height='1'/>"
        self.assertEqual(len(read_drawing(svg(loop), "d.svg").contours), 1)
        deep = "<g>" * 3000 + "<rect width='1' height='1'/>" + "</g>" * 3000
        with self.assertRaises(FormatError):
            read_drawing(svg(deep), "d.svg")

    def test_what_is_endless_is_refused_before_it_is_read_through(self) -> None:
        tower = "".join(
            f"<g id='g{k}'>" + f"<use href='#g{k - 1}'/>" * 10 + "</g>" for k in range(1, 7)
        )
        cases = {
            "shapes": f"<defs><rect id='g0' width='1' height='1'/>{tower}</defs><use href='#g6'/>",
            "nodes": f"<path d='M0 0{'L9 9L0 9' * 600_000}'/>",
            "nodes;": f"<polygon points='{'1,2 3,4 ' * 600_000}'/>",
            "parts": f"<path transform='{'translate(1) ' * 1001}' d='M0 0L9 9'/>",
        }
        for words, body in cases.items():
            heard: list[float] = []
            with self.subTest(words), self.assertRaisesRegex(FormatError, words.strip(";")):
                read_drawing(svg(body), "d.svg", lambda share, words, to=heard: to.append(share))
            self.assertLess(len(heard), 500)
        hidden = f"<g display='none'>{tower}</g><rect id='g0' width='9' height='9'/>"
        self.assertEqual(len(read_drawing(svg(hidden), "d.svg").contours), 1)

    def test_a_long_attribute_is_gone_over_a_few_times_only(self) -> None:
        heard: list[float] = []
        body = f"<rect id='{'a' * 20_000_000}' width='9' height='9'/>"
        drawing = read_drawing(svg(body), "d.svg", lambda share, words: heard.append(share))
        self.assertEqual(len(drawing.contours), 1)
        self.assertTrue(5 <= len(heard) <= 40, len(heard))

    def test_reading_reports_and_can_be_stopped(self) -> None:
        heard: list[float] = []

        def stop(share: float, words: str) -> None:
            heard.append(share)
            if len(heard) > 2:
                raise Cancelled

        many = svg("<rect width='5' height='5'/>" * 3000)
        lines = dxf(4, lambda space, _: [space.add_line((k, 0), (k, 1)) for k in range(3000)])
        for data, name in ((many, "d.svg"), (lines, "d.dxf")):
            heard.clear()
            with self.subTest(name), self.assertRaises(Cancelled):
                read_drawing(data, name, stop)

    def test_units_are_obeyed_or_not_known(self) -> None:
        body = '<rect width="50" height="50"/>'
        for width, side in (("100mm", 50), ("10cm", 50), ("4in", 50.8)):
            self.assertAlmostEqual(self.in_mm(svg(body, width))[0].box[2], side, 3)
        self.assertIsNone(read_drawing(svg(body, "100"), "d.svg").unit_mm)
        self.assertIsNone(read_drawing(svg(body, "100px"), "d.svg").unit_mm)

    def test_texts_and_outside_links_are_remarked_on(self) -> None:
        body = '<rect width="5" height="5"/><text x="1" y="2">hi</text><image href="http://example.invalid/x.png" width="5" height="5"/>'
        remarks = " ".join(read_drawing(svg(body), "d.svg").remarks)
        self.assertIn("1 text left out", remarks)
        self.assertIn("links to other files left out", remarks)


class DxfDrawings(GeometryTest):
    def test_what_draxet_writes_comes_back(self) -> None:
        contours = (mixed_contour(), Contour.circle(50, 50, 20))
        drawing = read_drawing(dxf_text([Layer("a", contours)], 0.001).encode(), "d.dxf")
        self.assertEqual(drawing.unit_mm, 1.0)
        for wanted, found in zip(contours, drawing.contours, strict=True):
            self.assert_same_line(wanted, found, 0.003)

    def test_loose_lines_and_arcs_that_meet_become_one_closed_contour(self) -> None:
        def build(space: object, document: object) -> None:
            space.add_line((10, 0), (0, 0))
            space.add_line((0, 0), (0, 10))
            space.add_line((10, 10), (0, 10))
            space.add_arc((10, 5), 5, -90, 90)
            space.add_line((50, 50), (60, 50))

        closed, line = sorted(
            read_drawing(dxf(4, build), "d.dxf").contours, key=lambda c: not c.closed
        )
        self.assertTrue(closed.closed)
        self.assertEqual(sorted(closed.kinds.tolist()), [LINE, LINE, LINE, ARC])
        self.assertAlmostEqual(abs(closed.area), 100 + math.pi * 25 / 2)
        self.assertFalse(line.closed)

    def test_blocks_splines_and_ellipses_and_what_is_left_out(self) -> None:
        def build(space: object, document: object) -> None:
            document.blocks.new("B").add_circle((0, 0), 3)
            space.add_blockref("B", (20, 30))
            space.add_ellipse((0, 0), (10, 0), 0.5)
            space.add_spline([(0, 0), (5, 5), (10, 0), (15, 5)])
            space.add_text("words")

        drawing = read_drawing(dxf(4, build), "d.dxf")
        self.assertEqual(len(drawing.contours), 3)
        self.assertIn(
            (20.0, 30.0, 3.0),
            [
                c.circle_shape and tuple(round(v, 6) for v in c.circle_shape)
                for c in drawing.contours
            ],
        )
        self.assertIn("1 text", drawing.remarks[0])

    def test_multiple_inserts_and_layers_that_are_off_and_blocks_without_end(self) -> None:
        def build(space: object, document: object) -> None:
            document.layers.add("off").off()
            document.layers.add("ice").freeze()
            document.blocks.new("B").add_circle((0, 0), 3)
            space.add_blockref(
                "B",
                (20, 30),
                dxfattribs={
                    "row_count": 2,
                    "column_count": 3,
                    "row_spacing": 10,
                    "column_spacing": 10,
                    "layer": "holes",
                },
            )
            space.add_circle((5, 5), 1, dxfattribs={"layer": "off"})
            space.add_circle((5, 5), 1, dxfattribs={"layer": "ice"})

        drawing = read_drawing(dxf(4, build), "d.dxf")
        self.assertEqual(
            (len(drawing.contours), set(drawing.layers), len(drawing.aside)), (6, {"holes"}, 2)
        )
        self.assertEqual(drawing.aside_words, "2 contours on layers that are off left out")

        def tower(space: object, document: object) -> None:
            document.blocks.new("B0").add_circle((0, 0), 3)
            for k in range(1, 9):
                block = document.blocks.new(f"B{k}")
                for x in range(10):
                    block.add_blockref(f"B{k - 1}", (x, 0))
            space.add_blockref("B8", (0, 0))

        with self.assertRaisesRegex(FormatError, "would be over"):
            read_drawing(dxf(4, tower), "d.dxf")

    def test_blocks_within_blocks_lie_where_their_maps_lead_one_after_the_other(self) -> None:
        """A turned block within one that is drawn out leans: no insert can say that."""

        def build(space: object, document: object) -> None:
            document.blocks.new("A", base_point=(1, 0)).add_line(
                (1, 0), (11, 3), dxfattribs={"layer": "0"}
            )
            document.blocks.new("B").add_blockref(
                "A", (2, 1), dxfattribs={"xscale": 2, "yscale": 0.5, "rotation": 30, "layer": "in"}
            )
            space.add_blockref(
                "B", (5, 7), dxfattribs={"xscale": -1, "yscale": 2, "rotation": 20, "layer": "out"}
            )

        inner = Affine.scaled(2, 0.5).then(Affine.turned(30)).then(Affine.moved(2, 1))
        outer = Affine.scaled(-1, 2).then(Affine.turned(20)).then(Affine.moved(5, 7))
        drawing = read_drawing(dxf(4, build), "d.dxf")
        np.testing.assert_allclose(
            drawing.contours[0].nodes,
            [inner.then(outer).point(*place) for place in ((0, 0), (10, 3))],
            atol=1e-9,
        )
        self.assertEqual(drawing.layers, ("in",))

    def test_a_mirrored_circle_of_a_block_stays_one(self) -> None:
        def build(space: object, document: object) -> None:
            document.blocks.new("A").add_circle((4, 0), 3)
            space.add_blockref("A", (0, 0), dxfattribs={"xscale": -1})

        (found,) = read_drawing(dxf(4, build), "d.dxf").contours
        np.testing.assert_allclose(found.circle_shape or (), (-4, 0, 3), atol=1e-9)

    def test_a_spline_runs_through_its_places_in_memory_in_step_with_them(self) -> None:
        places = [(k * 0.3, math.sin(k * 0.1) * 20) for k in range(3000)]
        data = dxf(4, lambda space, _: space.add_spline(places))
        read_drawing(data, "d.dxf")  # what is loaded once
        tracemalloc.start()
        (found,) = read_drawing(data, "d.dxf").contours
        self.assertLess(tracemalloc.get_traced_memory()[1], 40_000_000)
        tracemalloc.stop()
        np.testing.assert_allclose(found.nodes, places, atol=1e-9)
        of = np.arange(len(found.kinds))
        middles = np.array([found.spans.at(of, np.full(len(of), t)) for t in (0.25, 0.5, 0.75)])
        self.assertLess(
            np.abs(middles[..., 1] - np.sin(middles[..., 0] / 3) * 20)[:, 20:-20].max(), 0.005
        )

    def test_a_spline_begins_and_ends_as_its_tangents_say(self) -> None:
        def build(space: object, document: object) -> None:
            spline = space.add_spline([(0, 0), (10, 5), (20, 0)])
            spline.dxf.start_tangent, spline.dxf.end_tangent = (0, 3, 0), (5, 0, 0)

        (found,) = read_drawing(dxf(4, build), "d.dxf").contours
        self.assertAlmostEqual(found.handles[0, 0, 0], 0, 9)
        self.assertGreater(found.handles[0, 0, 1], 1)
        self.assertAlmostEqual(found.handles[-1, 1, 1], 0, 9)
        self.assertLess(found.handles[-1, 1, 0], 19)

    def test_the_binary_form_reads_and_one_bad_entity_is_left_out(self) -> None:
        document = ezdxf.new("R2010")
        document.header["$INSUNITS"] = 4
        document.modelspace().add_circle((20, 30), 7)
        stream = io.BytesIO()
        document.write(stream, fmt="bin")
        (circle,) = read_drawing(stream.getvalue(), "d.dxf").contours
        self.assertEqual(circle.circle_shape, (20, 30, 7))
        drawing = read_drawing(
            dxf(4, lambda space, _: [space.add_circle((1, 1), 1), space.add_circle((1e300, 1), 1)]),
            "d.dxf",
        )
        self.assertEqual(len(drawing.contours), 1)
        self.assertIn(
            "1 damaged entity left out (CIRCLE 30: its numbers are greater than anybody can mean)",
            drawing.remarks,
        )

    def test_many_lines_from_one_place_take_little_memory(self) -> None:
        lines = [
            Contour.make([(0, 0), (10 * math.cos(k), 10 * math.sin(k))], closed=False)
            for k in range(4000)
        ]
        tracemalloc.start()
        self.assertEqual(len(chained(lines, 1e-4)), 4000)
        self.assertLess(tracemalloc.get_traced_memory()[1], 30_000_000)
        tracemalloc.stop()

    def test_ellipses_closed_splines_hatches_and_mirrored_circles_can_be_saved(self) -> None:
        def build(space: object, document: object) -> None:
            space.add_ellipse((0, 0), (10, 0), 0.5)
            space.add_closed_spline([(0, 0), (5, 5), (10, 0), (5, -5)]) if hasattr(
                space, "add_closed_spline"
            ) else space.add_spline([(0, 0), (5, 5), (0, 0)])
            space.add_hatch().paths.add_polyline_path([(0, 0), (10, 0), (10, 10)], is_closed=True)
            space.add_circle((3, 3), 2, dxfattribs={"extrusion": (0, 0, -1)})

        job = place_drawing(Job(), read_drawing(dxf(4, build), "d.dxf"), 1.0)
        with tempfile.TemporaryDirectory() as folder:
            save_job(job, Path(folder) / "d.draxet")
            self.assertEqual(read_job(Path(folder) / "d.draxet"), job)
        self.assertTrue(all(type(item.contour.closed) is bool for item in job.contours))

    def test_units_are_obeyed_or_not_known(self) -> None:
        for unit, mm in ((1, 25.4), (4, 1.0), (5, 10.0), (6, 1000.0), (0, None)):
            self.assertEqual(
                read_drawing(
                    dxf(unit, lambda space, _: space.add_circle((0, 0), 1)), "d.dxf"
                ).unit_mm,
                mm,
            )


class WhatIsADrawing(unittest.TestCase):
    def test_what_a_file_holds_counts_before_its_ending(self) -> None:
        shape = svg("<rect width='3' height='3'/>")
        plan = dxf(4, lambda space, _: space.add_circle((0, 0), 1))
        cases = [
            (shape, "a.svg", True),
            (shape, "a.png", True),
            (plan, "a.dxf", True),
            (plan, "a.txt", True),
            (b"\x89PNG\r\n\x1a\n", "a.svg", False),
            (b"", "a.dxf", True),
            (b"hello", "a.jpg", False),
        ]
        for data, name, wanted in cases:
            with self.subTest(name):
                self.assertEqual(is_drawing(data, name), wanted)
        self.assertEqual(len(read_drawing(shape, "a.png").contours), 1)


class BadDrawings(GeometryTest):
    def test_each_gets_one_sentence(self) -> None:
        cases = {
            "empty.svg": (b"", "is empty"),
            "text.svg": (b"hello", "no SVG that can be read"),
            "cut.svg": (svg("<rect")[:60], "no SVG|no shape"),
            "entity.svg": (
                b'<!DOCTYPE svg [<!ENTITY a "b">]>' + svg("<rect width='3' height='3'/>"),
                "holds entities",
            ),
            "bare.svg": (svg(""), "holds no shape"),
            "only-text.svg": (svg("<text>hi</text>"), "1 text left out"),
            "text.dxf": (b"hello", "no DXF|no line"),
            "bare.dxf": (dxf(4, lambda s, d: None), "no line, arc or curve"),
            "binary.dxf": (bytes(range(256)) * 20, "no DXF|no line"),
        }
        for name, (data, words) in cases.items():
            with self.subTest(name):
                with self.assertRaisesRegex(FormatError, words) as caught:
                    read_drawing(data, name)
                self.assertTrue(str(caught.exception).startswith(name))
                self.assertNotIn("\n", str(caught.exception))
