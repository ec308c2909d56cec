import io
import math
import unittest

import ezdxf
import numpy as np

from draxet.formats.dxf import dxf_text
from draxet.formats.layer import FormatError, Layer
from draxet.formats.svg import svg_text
from draxet.gather.drawings import is_drawing, place_drawing, read_drawing
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.records import Job
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
            '<g transform="translate(10 10) scale(2)"><circle cx="5" cy="5" r="5"/></g>': ((10, 70, 30, 90), True, {ARC}),
        }
        for body, (box, closed, kinds) in cases.items():
            with self.subTest(body):
                (found,) = self.in_mm(svg(body))
                np.testing.assert_allclose(found.box, box, atol=0.01)
                self.assertEqual((found.closed, set(found.kinds.tolist())), (closed, kinds))

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

        closed, line = sorted(read_drawing(dxf(4, build), "d.dxf").contours, key=lambda c: not c.closed)
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
        self.assertIn((20.0, 30.0, 3.0), [c.circle_shape and tuple(round(v, 6) for v in c.circle_shape) for c in drawing.contours])
        self.assertIn("1 text", drawing.remarks[0])

    def test_units_are_obeyed_or_not_known(self) -> None:
        for unit, mm in ((1, 25.4), (4, 1.0), (5, 10.0), (6, 1000.0), (0, None)):
            self.assertEqual(read_drawing(dxf(unit, lambda space, _: space.add_circle((0, 0), 1)), "d.dxf").unit_mm, mm)


class WhatIsADrawing(unittest.TestCase):
    def test_what_a_file_holds_counts_before_its_ending(self) -> None:
        shape = svg("<rect width='3' height='3'/>")
        plan = dxf(4, lambda space, _: space.add_circle((0, 0), 1))
        cases = [
            (shape, "a.svg", True), (shape, "a.png", True), (plan, "a.dxf", True), (plan, "a.txt", True), (b"\x89PNG\r\n\x1a\n", "a.svg", False), (b"", "a.dxf", True),
            (b"hello", "a.jpg", False),
        ]  # fmt: skip
        for data, name, wanted in cases:
            with self.subTest(name):
                self.assertEqual(is_drawing(data, name), wanted)
        self.assertEqual(len(read_drawing(shape, "a.png").contours), 1)


class BadDrawings(GeometryTest):
    def test_each_gets_one_sentence(self) -> None:
        cases = {
            "empty.svg": (b"", "is empty"), "text.svg": (b"hello", "no SVG that can be read"), "cut.svg": (svg("<rect")[:60], "no SVG|no shape"),
            "entity.svg": (b'<!DOCTYPE svg [<!ENTITY a "b">]>' + svg("<rect width='3' height='3'/>"), "holds entities"),
            "bare.svg": (svg(""), "holds no shape"), "only-text.svg": (svg("<text>hi</text>"), "1 text left out"),
            "text.dxf": (b"hello", "no DXF|no line"), "bare.dxf": (dxf(4, lambda s, d: None), "no line, arc or curve"),
            "binary.dxf": (bytes(range(256)) * 20, "no DXF|no line"),
        }  # fmt: skip
        for name, (data, words) in cases.items():
            with self.subTest(name):
                with self.assertRaisesRegex(FormatError, words) as caught:
                    read_drawing(data, name)
                self.assertTrue(str(caught.exception).startswith(name))
                self.assertNotIn("\n", str(caught.exception))
