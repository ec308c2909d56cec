import contextlib
import io
import json
import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import ezdxf
import numpy as np
from PIL import Image
from svgelements import SVG
from svgelements import Path as SvgPath

from bench.strokes import STROKES, stroked
from draxet.cli.commands import run
from draxet.geometry.contour import Contour
from tests.pixels.test_light import lit, page
from tests.shapes import ROOT, drawn


class TraceCommand(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.picture = self.folder / "ring.png"
        Image.fromarray(
            drawn([Contour.circle(100, 120, 80), Contour.circle(100, 120, 30)], 250)
        ).save(self.picture)

    def call(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = run(["trace", *arguments])
        return status, out.getvalue(), err.getvalue()

    def test_svg_has_the_pictures_extent_in_mm_with_y_down_from_its_top_left(self) -> None:
        status, out, _ = self.call(
            str(self.picture), "-o", str(self.folder / "o.svg"), "--width", "50", "--json"
        )
        self.assertEqual(status, 0)
        facts = json.loads(out)
        self.assertEqual(
            (facts["contours"], facts["closed"], facts["open"], facts["size_mm"]),
            (2, 2, 0, [50, 50]),
        )
        text = (self.folder / "o.svg").read_text()
        self.assertIn('width="50mm" height="50mm" viewBox="0 0 50 50"', text)
        self.assertIn('fill-rule="evenodd"', text)
        (path,) = [
            e for e in SVG.parse(io.StringIO(text), ppi=25.4).elements() if isinstance(e, SvgPath)
        ]
        np.testing.assert_allclose(path.bbox(), (4, 8, 36, 40), atol=0.05)

    def test_uneven_light_is_followed_and_told(self) -> None:
        for name, remark in (
            ("even", None),
            ("corner", "the light is uneven; the automatic threshold follows it"),
        ):
            Image.fromarray(lit(page(3)[0], name, 3)).save(self.folder / "page.png")
            facts = json.loads(
                self.call(
                    str(self.folder / "page.png"),
                    "-o",
                    str(self.folder / "o.svg"),
                    "--width",
                    "200",
                    "--json",
                )[1]
            )
            with self.subTest(name):
                self.assertEqual(facts.get("remark"), remark)

    def test_dxf_states_mm_with_y_up_from_the_pictures_bottom_left(self) -> None:
        for size in (("--height", "50 mm"), ("--dpi", str(25.4 * 5))):
            self.assertEqual(
                self.call(str(self.picture), "-o", str(self.folder / "o.dxf"), *size)[0], 0
            )
            document = ezdxf.readfile(self.folder / "o.dxf")
            self.assertEqual(document.header["$INSUNITS"], 4)
            circles = sorted(document.modelspace(), key=lambda e: e.dxf.radius)
            np.testing.assert_allclose(
                [(*c.dxf.center.vec2, c.dxf.radius) for c in circles],
                [(20, 26, 6), (20, 26, 16)],
                atol=0.03,
            )

    def test_settings_change_the_result(self) -> None:
        out = str(self.folder / "o.svg")
        facts = [
            json.loads(self.call(str(self.picture), "-o", out, "--width", "50", "--json", *more)[1])
            for more in ((), ("--min-area", "200 mm2"), ("--threshold", "90"))
        ]
        self.assertEqual([f["contours"] for f in facts], [2, 1, 2])
        self.assertEqual(facts[2]["threshold"], 90)

    def test_middles_and_colours_by_method_with_presets(self) -> None:
        out = str(self.folder / "o.svg")
        facts = json.loads(
            self.call(
                str(self.picture),
                "-o",
                out,
                "--width",
                "50",
                "--json",
                "--preset",
                "shape",
                "--local",
            )[1]
        )
        self.assertLess(facts["closeness"]["mean_px"], 0.2)
        self.assertAlmostEqual(
            facts["closeness"]["mean_mm"], facts["closeness"]["mean_px"] * 0.2, delta=1e-3
        )
        line = self.folder / "line.png"
        Image.fromarray(stroked(STROKES["circle and line"])).save(line)
        facts = json.loads(
            self.call(str(line), "-o", out, "--width", "100", "--method", "middles", "--json")[1]
        )
        self.assertEqual(
            (facts["contours"], facts["open"], len(facts["stroke_widths_mm"])), (2, 1, 2)
        )
        self.assertAlmostEqual(facts["stroke_widths_mm"][0], 1.0, delta=0.05)
        self.assertIn('fill="none"', Path(out).read_text())
        badge = str(ROOT / "demo" / "badge.jpg")
        facts = json.loads(
            self.call(
                badge, "-o", out, "--width", "90", "--method", "colours", "--colours", "4", "--json"
            )[1]
        )
        self.assertEqual((facts["open"], len(facts["colours"])), (0, 4))
        self.assertLess(facts["closeness"]["mean_px"], 0.2)
        text = Path(out).read_text()
        self.assertTrue(all(f'fill="{colour}"' in text for colour in facts["colours"]))
        self.assertNotIn("remark", facts)
        facts = json.loads(
            self.call(
                str(self.picture),
                "-o",
                out,
                "--width",
                "90",
                "--method",
                "colours",
                "--colours",
                "40",
                "--json",
            )[1]
        )
        self.assertRegex(facts["remark"], r"^Only \d+ of 40 colours: no more stand apart")

    def test_bad_calls_end_with_status_2_and_one_sentence(self) -> None:
        good = [str(self.picture), "-o", str(self.folder / "o.svg")]
        (self.folder / "cut.png").write_bytes(self.picture.read_bytes()[:300])
        (self.folder / "pic.svg").write_bytes(self.picture.read_bytes())
        (self.folder / "d.svg").mkdir()
        Image.fromarray(np.random.default_rng(0).integers(0, 256, (300, 400), dtype=np.uint8)).save(
            self.folder / "noise.png"
        )
        Image.new("L", (300, 200), 240).save(self.folder / "bare.png")
        cases = {
            "no size": good,
            "two sizes": [*good, "--width", "1", "--dpi", "1"],
            "wrong unit": [*good, "--width", "3 kg"],
            "negative": [*good, "--width", "-3"],
            "dpi": [*good, "--dpi", "0"],
            "threshold word": [*good, "--width", "3", "--threshold", "dark"],
            "threshold range": [*good, "--width", "3", "--threshold", "256"],
            "tolerance": [*good, "--width", "3", "--tolerance", "0"],
            "colours": [*good, "--width", "3", "--method", "colours", "--colours", "900"],
            "min length": [*good, "--width", "3", "--method", "middles", "--min-length", "x"],
            "ending": [str(self.picture), "-o", "o.png", "--width", "3"],
            "missing": ["nowhere.png", *good[1:], "--width", "3"],
            "folder": [str(self.folder), *good[1:], "--width", "3"],
            "cut short": [str(self.folder / "cut.png"), *good[1:], "--width", "3"],
            "dpi inf": [*good, "--dpi", "inf"],
            "dpi huge": [*good, "--dpi", "1e308"],
            "dpi nan": [*good, "--dpi", "nan"],
            "dpi word": [*good, "--dpi", "fine"],
            "brackets": [*good, "--width", "(" * 2000 + "3" + ")" * 2000],
            "far too wide": [*good, "--width", "900 km"],
            "threshold nan": [*good, "--width", "3", "--threshold", "nan"],
            "too fine": [*good, "--width", "3", "--tolerance", "1e-8"],
            "device": ["/dev/zero", *good[1:], "--width", "3"],
            "no such": [*good, "--width", "3", "--colour", "1"],
            "onto itself": [
                str(self.folder / "pic.svg"),
                "-o",
                str(self.folder / "pic.svg"),
                "--width",
                "3",
            ],
            "folder out": [str(self.picture), "-o", str(self.folder / "d.svg"), "--width", "3"],
            "name": ["bad\0name.png", *good[1:], "--width", "3"],
            "bare": [str(self.folder / "bare.png"), *good[1:], "--width", "30"],
            "bare middles": [
                str(self.folder / "bare.png"),
                *good[1:],
                "--width",
                "30",
                "--method",
                "middles",
            ],
            "noise": [str(self.folder / "noise.png"), *good[1:], "--width", "300"],
            "noise middles": [
                str(self.folder / "noise.png"),
                *good[1:],
                "--width",
                "300",
                "--method",
                "middles",
            ],
            "no picture": [str(ROOT / "pyproject.toml"), *good[1:], "--width", "3"],
            "unwritable": [str(self.picture), "-o", "/nowhere/o.svg", "--width", "3"],
        }
        for what, arguments in cases.items():
            with self.subTest(what):
                status, out, err = self.call(*arguments)
                self.assertEqual((status, out), (2, ""))
                self.assertRegex(err, r"\Adraxet: [^\n]{15,260}\n\Z")
        self.assertFalse((self.folder / "o.svg").exists())

    def test_what_cannot_be_printed_and_a_stop_from_the_keyboard_end_with_one_sentence(
        self,
    ) -> None:
        arguments = [
            sys.executable,
            "-m",
            "draxet",
            "trace",
            str(self.picture),
            "-o",
            str(self.folder / "o.svg"),
            "--width",
            "50",
        ]
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        with open("/dev/full", "w") as full:
            done = subprocess.run(
                arguments, stdout=full, stderr=subprocess.PIPE, env=environment, text=True
            )
        self.assertEqual(done.returncode, 2)
        self.assertRegex(done.stderr, r"\Adraxet: what was found could not be printed: [^\n]*\n\Z")
        with mock.patch("draxet.cli.trace.run_trace", side_effect=KeyboardInterrupt):
            self.assertEqual(
                self.call(str(self.picture), "-o", "o.svg", "--width", "5")[::2],
                (2, "draxet: stopped; nothing was written\n"),
            )

    def test_no_display_is_said_in_one_sentence(self) -> None:
        environment = {
            k: v
            for k, v in os.environ.items()
            if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
        } | {"PYTHONPATH": str(ROOT / "src")}
        for display in ({}, {"DISPLAY": ":987"}):
            done = subprocess.run(
                [sys.executable, "-m", "draxet"],
                capture_output=True,
                env=environment | display,
                text=True,
            )
            self.assertEqual(done.returncode, 2)
            self.assertRegex(done.stderr, r"\Adraxet: [^\n]*display[^\n]*\n\Z")
