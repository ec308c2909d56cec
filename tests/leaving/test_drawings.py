import re
import tempfile
from dataclasses import replace
from pathlib import Path
from unittest import mock
from xml.etree import ElementTree

import ezdxf

from draxet.formats.dxf import DXF
from draxet.formats.layer import FormatError, Layer
from draxet.formats.svg import read_svg, svg_text
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.operating import give_operation
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.job.sheet_edits import add_sheet, choose_sheet, hand_off_noted, set_sheet
from draxet.job.sheet_records import Sheet
from draxet.job.sides import Run
from draxet.leaving import drawing_format
from draxet.leaving.leaving_kind import Leaving, LookSettings, ReadBack, leave_file
from draxet.leaving.sheet_drawings import DRAWING_KINDS, DrawingSettings, SheetDrawing
from tests.handing_off import counted, hand_off
from tests.shapes import GeometryTest, mixed_contour


def ready_job() -> Job:
    contours = [
        mixed_contour(),
        Contour.circle(40.123456, 30.5, 7.25),
        Contour.make([(1, 1), (9, 2)], closed=False),
        Contour.circle(70, 40, 5),
    ]
    job = add_contours(Job(sheets=(Sheet(width=200, height=100),)), contours)
    job = give_operation(job, "Cut openings", ["contour-2"], Side.INSIDE, 1.5, 100)
    return give_operation(job, "Cut outlines", ["contour-1", "contour-3"], Side.OUTSIDE, 1.5, 100)


def worst_of(found: ReadBack) -> float:
    return float(re.findall(r"within ([\d.]+) mm", found.words)[0])


class HandingOff(GeometryTest):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def read_as(self, layers: list[Layer], path: Path) -> ReadBack:
        """A hand-off whose file is read as these layers."""
        odd = replace(DXF, read=lambda path: layers)
        (kind,) = (each for each in DRAWING_KINDS if each.key == "dxf")

        def wanted(leaving: Leaving, path: Path) -> SheetDrawing:
            return replace(kind.wanted(leaving, path), format=odd)

        job = ready_job()
        leaving = Leaving(job, Run(job.sheet))
        return leave_file(replace(kind, wanted=wanted), leaving, path).read_back

    def test_a_frame_of_known_size_goes_round_the_sheet_or_what_is_drawn(self) -> None:
        job = Job(sheets=(Sheet(width=300, height=200, x=50, y=20),))
        job = add_contours(job, [Contour.circle(150, 100, 30)])
        for frame, size, words in (
            ("sheet", (300, 200), "frame 300 x 200 mm"),
            ("drawn", (75, 75), "frame 75 x 75 mm"),
            ("none", (60, 60), ""),
        ):
            asked = {
                LookSettings: LookSettings("lines"),
                DrawingSettings: DrawingSettings(frame, 7.5),
            }
            for kind in DRAWING_KINDS:
                with self.subTest(frame, kind=kind.key), tempfile.TemporaryDirectory() as folder:
                    path = Path(folder) / f"a.{kind.key}"
                    left = leave_file(kind, Leaving(job, Run(job.sheet), asked), path)
                    self.assertTrue(left.read_back.matches, left.read_back.words)
                    text = path.read_text()
                    self.assertEqual(bool(words), "frame" in text)
                    self.assertIn(words.replace(" ", "_") if words not in text else words, text)
                    self.assertIn(f"{size[0]:.2f} × {size[1]:.2f} mm", left.read_back.words)
                    if kind.key == "svg" and frame == "drawn":
                        self.assertIn('viewBox="0 0 75 75"', text)

    def test_what_is_read_back_matches_in_both_formats(self) -> None:
        for ending, allowed in (("svg", 0.001), ("dxf", 0.012)):
            found = hand_off(ready_job(), self.folder / f"out.{ending}")
            with self.subTest(ending):
                self.assertTrue(found.matches)
                self.assertEqual(counted(self.folder / f"out.{ending}"), (3, 2, 2))
                self.assertLessEqual(worst_of(found), allowed)

    def test_dxf_states_millimetres_and_keeps_circles_lines_and_arcs(self) -> None:
        hand_off(ready_job(), self.folder / "out.dxf")
        document = ezdxf.readfile(self.folder / "out.dxf")
        self.assertEqual(document.header["$INSUNITS"], 4)
        self.assertEqual(len(document.audit().errors), 0)
        entities = list(document.modelspace())
        (circle,) = [e for e in entities if e.dxftype() == "CIRCLE"]
        self.assertAlmostEqual(circle.dxf.radius, 7.25)
        self.assertEqual({e.dxftype() for e in entities}, {"CIRCLE", "LWPOLYLINE"})
        self.assertEqual(
            {e.dxf.layer for e in entities},
            {"Cut openings - inside 1.5 mm", "Cut outlines - outside 1.5 mm"},
        )
        outline = next(e for e in entities if e.dxftype() == "LWPOLYLINE" and e.closed)
        self.assertTrue(any(bulge for *_, bulge in outline.get_points("xyb")))

    def test_svg_states_millimetres_and_draws_arcs_as_arcs_and_curves_as_curves(self) -> None:
        hand_off(ready_job(), self.folder / "out.svg")
        root = ElementTree.parse(self.folder / "out.svg").getroot()
        self.assertEqual(
            (root.get("width"), root.get("height"), root.get("viewBox")),
            ("200mm", "100mm", "0 0 200 100"),
        )
        data = [e.get("d") or "" for e in root.iter() if e.tag.endswith("path")]
        self.assertEqual(len(data), 2)
        self.assertTrue("A" in data[0] and "C" in data[0] and data[0].endswith("Z"))
        self.assertFalse(data[1].endswith("Z"))
        (circle,) = (e for e in root.iter() if e.tag.endswith("circle"))
        self.assertEqual(
            [circle.get(name) for name in ("cx", "cy", "r")], ["40.123456", "69.5", "7.25"]
        )

    def test_a_page_of_any_size_reads_back_as_it_was(self) -> None:
        for width, height in ((1220.7875, 610.39375), (0.5, 12345.678901)):
            job = replace(ready_job(), sheets=(Sheet(width=width, height=height),))
            self.assertTrue(hand_off(job, self.folder / "page.svg").matches)

    def test_operations_alike_keep_layers_of_their_own(self) -> None:
        job = add_contours(Job(), [Contour.circle(20 + 30 * k, 30, 8) for k in range(4)])
        for k, name in enumerate(("Cut", "cut", "Cut", "C:ut")):
            job = give_operation(job, name, [job.contours[k].id], Side.OUTSIDE, 1.5, 100)
        for ending in ("dxf", "svg"):
            found = hand_off(job, self.folder / f"alike.{ending}")
            with self.subTest(ending):
                self.assertTrue(found.matches)
                layers = drawing_format(self.folder / f"alike.{ending}").read(
                    self.folder / f"alike.{ending}"
                )
                self.assertEqual(len({layer.name.casefold() for layer in layers}), 4)

    def test_the_old_file_stays_where_the_new_one_does_not_match(self) -> None:
        path = self.folder / "out.dxf"
        path.write_text("the one before")
        self.assertFalse(self.read_as([], path).matches)
        self.assertEqual(path.read_text(), "the one before")
        self.assertEqual(list(self.folder.iterdir()), [path])

    def test_each_sheet_is_signed_for_itself_and_its_origin_counts(self) -> None:
        job, other = add_sheet(ready_job())
        far = job.sheet.x + 50
        job = give_operation(
            add_contours(job, [Contour.circle(far, 50, 10)]),
            "Cut",
            [f"contour-{job.next_id}"],
            Side.OUTSIDE,
            1,
            100,
        )
        self.assertEqual([item.sheet for item in job.contours], ["sheet-0"] * 4 + [other])
        job = hand_off_noted(job, "second.dxf", job.sheet.id)
        self.assertEqual([job.is_handed_off(sheet) for sheet in job.sheets], [False, True])
        job = hand_off_noted(choose_sheet(job, "sheet-0"), "first.dxf", "sheet-0")
        self.assertTrue(all(job.is_handed_off(sheet) for sheet in job.sheets))
        moved = set_sheet(job, replace(job.sheet, origin=(1.0, 0.0)))
        self.assertEqual([moved.is_handed_off(sheet) for sheet in moved.sheets], [False, True])

    def test_only_contours_with_an_operation_leave(self) -> None:
        hand_off(ready_job(), self.folder / "out.dxf")
        self.assertEqual(counted(self.folder / "out.dxf")[0], 3)
        self.assertEqual(len(ready_job().contours), 4)

    def test_refusals(self) -> None:
        with self.assertRaisesRegex(FormatError, "nothing would leave"):
            hand_off(Job(), self.folder / "out.dxf")
        with self.assertRaisesRegex(FormatError, r"must end in \.dxf, \.svg, .* or \.step"):
            hand_off(ready_job(), self.folder / "out.doc")
        with (
            mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")),
            self.assertRaisesRegex(FormatError, "No space left"),
        ):
            hand_off(ready_job(), self.folder / "full.dxf")
        self.assertFalse((self.folder / "full.dxf").exists())

    def test_a_file_that_differs_is_found_out(self) -> None:
        moved = [
            Layer(layer.name, tuple(c.transformed(Affine.moved(0.05, 0)) for c in layer.contours))
            for layer in [
                Layer("Cut openings - inside 1.5 mm", (Contour.circle(40.123456, 30.5, 7.25),))
            ]
        ]
        found = self.read_as(moved, self.folder / "out.dxf")
        self.assertFalse(found.matches)
        self.assertAlmostEqual(worst_of(found), 0.05, 2)
        self.assertIn("1 of 3 contours", found.words)

    def test_svg_round_trip_of_every_kind_of_span(self) -> None:
        path = self.folder / "shapes.svg"
        contours = (
            mixed_contour(),
            Contour.circle(50, 50, 20),
            mixed_contour().transformed(Affine.scaled(-1, 1).then(Affine.moved(120, 0))),
        )
        path.write_text(svg_text([Layer("all", contours)], 150, 100))
        for wanted, found in zip(contours, read_svg(path)[0].contours, strict=True):
            self.assert_same_line(wanted, found, 0.001)
            self.assertAlmostEqual(wanted.area, found.area, 2)
