"""``draxet mend`` on drawings from elsewhere."""

from __future__ import annotations

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path

import ezdxf

from draxet.cli.commands import run


class MendCommand(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.drawing = self.folder / "bracket.dxf"
        document = ezdxf.new(units=4)
        space = document.modelspace()
        for start, end in (
            ((0, 0), (101.5, 0)),
            ((100, -1), (100, 60.8)),
            ((99.9, 61.0), (0.4, 61.0)),
            ((0, 61), (0, 0.5)),
        ):
            space.add_line(start, end, dxfattribs={"layer": "outline"})
        space.add_line((20, 0), (60, 0), dxfattribs={"layer": "twice"})
        for radius in (8.0, 8.0):
            space.add_circle((50, 30), radius, dxfattribs={"layer": "holes"})
        space.add_circle((10, 10), 0.05, dxfattribs={"layer": "holes"})
        document.saveas(self.drawing)

    def call(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = run(["mend", str(self.drawing), *arguments])
        return status, out.getvalue(), err.getvalue()

    def test_without_options_nothing_changes_and_everything_is_told(self) -> None:
        out = self.folder / "o.dxf"
        status, words, _ = self.call("-o", str(out), "--json")
        facts = json.loads(words)
        self.assertEqual((status, facts["contours"], facts["done"]), (0, 8, {}))
        self.assertGreaterEqual(facts["found"].keys(), {"double", "overshoot", "gap", "scrap"})
        space = ezdxf.readfile(out).modelspace()
        self.assertEqual(len(space.query("CIRCLE")), 3)

    def test_a_broken_outline_becomes_one_closed_contour_and_circles_and_layers_stay(self) -> None:
        out = self.folder / "o.dxf"
        status, words, _ = self.call(
            "-o",
            str(out),
            "--close-gaps",
            "2 mm",
            "--trim",
            "3 mm",
            "--drop-doubles",
            "--drop-under",
            "0.1 mm2",
            "--json",
        )
        facts = json.loads(words)
        self.assertEqual(
            (status, facts["contours"], facts["closed"], facts["open"]), (0, 2, 2, 0), facts
        )
        document = ezdxf.readfile(out)
        (circle,) = document.modelspace().query("CIRCLE")
        self.assertEqual(
            (circle.dxf.radius, circle.dxf.layer, document.header["$INSUNITS"]), (8, "holes", 4)
        )
        self.assertEqual(
            {entity.dxf.layer for entity in document.modelspace()}, {"holes", "outline"}
        )

    def test_overlaps_are_united_and_wrong_calls_get_one_sentence(self) -> None:
        svg = self.folder / "in.svg"
        svg.write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm" viewBox="0 0 100 50"><circle cx="30" cy="25" r="20"/><circle cx="60" cy="25" r="20"/></svg>'
        )
        self.drawing = svg
        status, words, _ = self.call("-o", str(self.folder / "o.svg"), "--unite", "--json")
        self.assertEqual(
            (status, json.loads(words)["contours"], json.loads(words)["united_from"]), (0, 1, 2)
        )
        for arguments, said in (
            (("-o", str(self.folder / "o.txt")), "must end in"),
            (("-o", str(svg)), "another file"),
            (("-o", str(self.folder / "o.svg"), "--trim", "x"), "--trim must be"),
        ):
            status, _, error = self.call(*arguments)
            self.assertEqual(status, 2)
            self.assertIn(said, error)
            self.assertEqual(error.count("\n"), 1)
        self.drawing = self.folder / "none.svg"
        self.assertEqual(self.call("-o", str(self.folder / "o.svg"))[0], 2)
