"""Numbers that nobody can mean are refused by every reader, with what they stand in; and what is
large but meant is kept exactly."""

import contextlib
import io
import json
import math
import tempfile
import unittest
from pathlib import Path

import ezdxf
import numpy as np

from draxet.cli.commands import run as command
from draxet.formats.dxf import DXF
from draxet.formats.layer import Layer, Page
from draxet.formats.svg import SVG
from draxet.geometry.contour import Contour
from draxet.machines.controller import read_program
from draxet.outside import OutsideError, are_sane, sane
from draxet.progress import Unwatched

NASTY = ("1e308", "-1e308", "1e999", "nan", "inf", "-inf", "9" * 400, "1e10", "0x10", "")


class OneFunction(unittest.TestCase):
    def test_what_is_finite_and_within_a_workshop_passes_and_nothing_else(self) -> None:
        for word in NASTY:
            with (
                self.subTest(word[:9]),
                self.assertRaisesRegex(OutsideError, "^X must be a number of at most 1e.09, got "),
            ):
                sane(word, "X")
        self.assertEqual((sane("-1e9", "X"), sane(5, "X")), (-1e9, 5.0))
        self.assertEqual(
            are_sane([1.0, math.nan, math.inf, -1e9, 2e9]).tolist(),
            [True, False, False, True, False],
        )


class Readers(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def said(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = command(arguments)
        self.assertNotIn("nan", out.getvalue().lower().replace("tolerance", ""))
        self.assertNotIn("Infinity", out.getvalue())
        return status, out.getvalue(), err.getvalue()

    def test_drawings(self) -> None:
        document = ezdxf.new("R2010")
        space = document.modelspace()
        space.add_lwpolyline([(0, 0, 1e308), (10, 0, 0), (10, 10, 0)], format="xyb", close=True)
        space.add_circle((0, 0), 1e300)
        space.add_line((0, 0), (1e12, 0))
        document.saveas(self.folder / "all.dxf")
        space.add_circle((50, 50), 20)
        document.saveas(self.folder / "some.dxf")
        shapes = {
            "scale": '<path id="leaf" transform="scale(1e308)" d="M0 0H10V10Z"/>',
            "path": '<path id="leaf" d="M0 0H1e308V10Z"/>',
            "length": '<circle id="leaf" r="1e200"/>',
            "map": '<g transform="matrix(1 0 0 1e300 0 0)"><circle id="leaf" r="3"/></g>',
        }
        for name, shape in shapes.items():
            for more, what in (("", "all"), ('<circle cx="50" cy="50" r="20"/>', "some")):
                (self.folder / f"{what}-{name}.svg").write_text(
                    f'<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">{shape}{more}</svg>'
                )
        for path in sorted(self.folder.glob("*.*")):
            with self.subTest(path.name):
                status, out, err = self.said(
                    "mend", str(path), "-o", str(self.folder / f"out{path.suffix}"), "--json"
                )
                if path.name.startswith("all"):
                    self.assertEqual(status, 2)
                    self.assertEqual(err.count("\n"), 1)
                    self.assertRegex(err, "LWPOLYLINE|leaf|g: each of its numbers must be")
                else:
                    self.assertEqual((status, json.loads(out)["contours"]), (0, 1), err)
                    self.assertRegex(
                        " ".join(json.loads(out)["remarks"]),
                        "LWPOLYLINE|leaf|g: each of its numbers must be",
                    )
        (self.folder / "page.svg").write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="1e400mm" height="5mm"><circle r="3"/></svg>'
        )
        self.assertRegex(
            self.said("mend", str(self.folder / "page.svg"), "-o", str(self.folder / "o.svg"))[2],
            "^draxet: page.svg: the page's size must be a number",
        )

    def test_programs(self) -> None:
        for word in ("T", "S", "F", "G4 P", "G2 X5 R", "G2 X5 I", "G1 X", "M", "G"):
            for number in ("9" * 400, "9" * 12):
                steps = read_program(f"G21 G90\nM3 S100\nG1 X5 Y5 F100\n{word}{number}\nM2\n")
                with self.subTest(word=word, digits=len(number)):
                    self.assertEqual([problem.line for problem in steps.problems], [4])
                    self.assertTrue(
                        np.isfinite(steps.to).all()
                        and np.isfinite(steps.feed).all()
                        and all(map(math.isfinite, steps.waits.values()))
                    )
        for line in (
            f"SP{'9' * 400};",
            "PD1e400,0;",
            "PDnan,0;",
            "PA-inf,3;",
            "PD1e12,5;",
            f"VS{'9' * 30};",
        ):
            program = self.folder / "p.plt"
            program.write_text(f"IN;\nSP1;PU0,0;\nPD400,400;\n{line}\nPU;SP0;\n")
            with self.subTest(line[:9]):
                status, out, _ = self.said(
                    "rehearse", str(program), "--machine", "pen-plotter", "--json"
                )
                self.assertEqual(status, 1)
                self.assertEqual(
                    {f["line"] for f in json.loads(out)["findings"] if f["kind"] == "unreadable"},
                    {4},
                )


class WhatIsLarge(unittest.TestCase):
    def test_open_arcs_of_almost_a_whole_turn_leave_and_read_back(self) -> None:
        for bulge in (1.0, 30.0, 999.0, 1500.0, 20_000.0):
            for chord in (0.01, 0.5, 4.0):
                arc = Contour.make([(50, 50), (50 + chord, 50)], [1], [bulge], closed=False)
                for kind in (DXF, SVG):
                    with (
                        self.subTest(bulge=bulge, chord=chord, kind=kind.name),
                        tempfile.TemporaryDirectory() as folder,
                    ):
                        path = Path(folder) / f"a.{kind.ending}"
                        path.write_bytes(
                            kind.write([Layer("cut", (arc,))], Page(100, 100, 0.01), Unwatched())
                        )
                        ((found,),) = (layer.contours for layer in kind.read(path))
                        centre, radius = (
                            arc.spans.arc_shapes().centres[0],
                            arc.spans.arc_shapes().radii[0],
                        )
                        shapes = found.spans.arc_shapes()
                        self.assertLess(np.abs(shapes.centres - centre).max(), 1e-3)
                        self.assertLess(np.abs(shapes.radii - radius).max(), 1e-3)
                        self.assertAlmostEqual(found.length, arc.length, delta=1e-2)
                        self.assertFalse(found.closed)


if __name__ == "__main__":
    unittest.main()
