"""As it looks: areas leave filled with their colours and lines as broad as they are, without any
operation; nothing shines through where areas meet."""

from __future__ import annotations

import contextlib
import io
import tempfile
import unittest
from pathlib import Path
from unittest import mock
from xml.etree import ElementTree

import numpy as np
import pypdfium2
from PIL import Image

from draxet.cli.commands import run
from draxet.formats.drawn_marks import Area, Line
from draxet.formats.layer import FormatError
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, set_lines
from draxet.job.file import save_job
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import Run
from draxet.leaving import art_layers as art
from draxet.leaving import kind_of
from draxet.leaving.leaving_kind import Leaving, LookSettings, leave_file
from draxet.leaving.sheet_picture import PictureSettings

DARK, DARKER = "#202020", "#303030"


def square(x: float, y: float, wide: float) -> Contour:
    return Contour.make([(x, y), (x + wide, y), (x + wide, y + wide), (x, y + wide)])


def leaving(contours: list[Contour], colours: list[str], **picture: object) -> Leaving:
    job = add_contours(Job(sheets=(Sheet(width=60, height=40),)), contours, colours=colours)
    asked = {LookSettings: LookSettings("look"), PictureSettings: PictureSettings(**picture)}  # type: ignore[arg-type]
    return Leaving(job, Run(job.sheet), asked)


RING = [square(5, 5, 30), square(12, 12, 16), square(12, 12, 16), square(17, 17, 6)]
"""A ring, what fills its hole to the edge, and an island in that of the ring's colour."""
COLOURS = [DARK, DARK, DARKER, DARK]


class AsItLooks(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def left(self, name: str, asked: Leaving) -> Path:
        path = self.folder / name
        found = leave_file(kind_of(path), asked, path).read_back
        self.assertTrue(found.matches, (name, found.words))
        return path

    def seen(self, path: Path) -> np.ndarray:
        """A page as another library paints it, large."""
        document = pypdfium2.PdfDocument(path)
        pixels = np.asarray(document[0].render(scale=3.7).to_numpy()).min(axis=2)
        document.close()
        return pixels

    def test_areas_leave_in_their_colours_with_holes_by_the_even_odd_rule(self) -> None:
        path = self.left("a.svg", leaving(RING, COLOURS))
        paths = [each for each in ElementTree.parse(path).iter() if each.tag.endswith("path")]
        groups = [each for each in ElementTree.parse(path).iter() if each.tag.endswith("}g")]
        filled = [each for each in paths if each.get("fill") not in (None, "none")]
        self.assertEqual({each.get("fill") for each in filled}, {DARK, DARKER})
        self.assertEqual({each.get("fill-rule") for each in filled}, {"evenodd"})
        self.assertEqual([each.get("d").count("M") for each in filled], [2, 1, 1])
        self.assertIn("not for cutting", groups[0].get("id"))

    def test_nothing_shines_through_where_areas_meet_and_without_what_is_led_on_it_would(
        self,
    ) -> None:
        def lightest() -> int:
            pixels = self.seen(self.left("a.pdf", leaving(RING, COLOURS)))
            mm = 3.7 * 72 / 25.4  # the sheet begins 10 mm from the left and the top
            inner = pixels[round((10 + 6) * mm) : round((10 + 34) * mm)][
                :, round(16 * mm) : round(44 * mm)
            ]
            return int(inner.max())

        self.assertLess(lightest(), 60)
        nothing = mock.Mock(return_value=mock.Mock(shared=()))
        with mock.patch.object(art, "shared_edges", nothing):
            self.assertGreater(lightest(), 60)

    def test_ink_is_filled_in_a_picture_and_holes_are_not(self) -> None:
        asked = leaving(
            [square(5, 5, 30), Contour.circle(20, 20, 8)], ["", ""], dpi=300.0, transparent=True
        )
        image = np.asarray(Image.open(io.BytesIO(self.left("a.png", asked).read_bytes())))
        scale = 300 / 25.4
        rows, columns = np.mgrid[: image.shape[0], : image.shape[1]]
        x, y = (columns + 0.5) / scale, 40 - (rows + 0.5) / scale
        away = np.hypot(x - 20, y - 20)
        inside = (np.abs(x - 20) < 14.9) & (np.abs(y - 20) < 14.9) & (away > 8.1)
        self.assertGreater((image[..., 3][inside] == 255).mean(), 0.995)
        self.assertEqual(int(image[..., 3][away < 7.75].max()), 0)

    def test_a_picture_of_so_many_pixels_has_the_art_fitted_in_its_middle(self) -> None:
        for wide, high, size in (
            (400, 0, (400, 400)),
            (0, 300, (300, 300)),
            (640, 320, (640, 320)),
            (200, 500, (200, 500)),
        ):
            asked = leaving([square(5, 5, 30)], [""], pixels=wide, high=high, art=True, margin=5.0)
            with Image.open(self.left("f.png", asked)) as image:
                self.assertEqual(image.size, size)
                dark = np.asarray(image.convert("L")) < 128
            rows, columns = np.nonzero(dark)
            fitted = min(size) * 30 / 40
            self.assertAlmostEqual(np.ptp(rows) + 1, fitted, delta=2)
            self.assertAlmostEqual(np.ptp(columns) + 1, fitted, delta=2)
            self.assertAlmostEqual((rows.min() + rows.max()) / 2, size[1] / 2, delta=1.5)
            self.assertAlmostEqual((columns.min() + columns.max()) / 2, size[0] / 2, delta=1.5)

    def test_lines_leave_as_broad_and_in_the_colour_that_they_are_and_the_stack_is_kept(
        self,
    ) -> None:
        line = Contour.make([(2, 2), (50, 30)], closed=False)
        asked = leaving([line, square(5, 5, 20), square(15, 15, 20)], ["#C85A43", DARK, DARKER])
        job = set_lines(asked.job, [asked.job.contours[0].id], 1.5)
        asked = Leaving(job, asked.run, asked.settings)
        (layer,) = asked.layers
        self.assertEqual([type(mark) for mark in layer.marks], [Line, Area, Area])
        self.assertEqual((layer.marks[0].width, layer.marks[0].colour), (1.5, "#c85a43"))
        self.assertEqual([mark.colour for mark in layer.marks[1:]], [DARK, DARKER])
        for ending in ("svg", "dxf", "pdf", "png"):
            self.left(f"b.{ending}", asked)

    def test_as_lines_every_contour_leaves_once_and_nothing_is_filled(self) -> None:
        asked = leaving(RING, COLOURS)
        asked = Leaving(asked.job, asked.run, {LookSettings: LookSettings("lines")})
        (layer,) = asked.layers
        self.assertEqual([type(mark) for mark in layer.marks], [Line] * 4)
        self.assertEqual(layer.name, "All contours as lines")
        self.assertEqual([mark.contour for mark in layer.marks], RING)
        self.assertNotIn("evenodd", self.left("e.svg", asked).read_text())

    def test_the_command_draws_as_well_and_no_program(self) -> None:
        job = leaving(RING, COLOURS).job
        save_job(job, self.folder / "ring.draxet")
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            begin = ["make", str(self.folder / "ring.draxet"), "--drawn", "look", "-o"]
            self.assertEqual(run([*begin, str(self.folder / "ring.svg")]), 0)
            self.assertEqual(run([*begin, str(self.folder / "ring.nc")]), 2)
        self.assertIn("evenodd", (self.folder / "ring.svg").read_text())
        self.assertIn("--drawn is for drawings", err.getvalue())
        self.assertFalse((self.folder / "ring.nc").exists())

    def test_no_operation_is_wanted_but_for_cutting_one_is(self) -> None:
        asked = leaving(RING, COLOURS)
        self.assertEqual(asked.job.operations, ())
        self.left("c.dxf", asked)
        with self.assertRaisesRegex(FormatError, "give one in Make"):
            leave_file(kind_of(Path("d.svg")), Leaving(asked.job, asked.run), self.folder / "d.svg")
        with self.assertRaisesRegex(FormatError, "no contour on this sheet"):
            empty = Leaving(Job(), Run(Job().sheet), asked.settings)
            leave_file(kind_of(Path("d.svg")), empty, self.folder / "d.svg")


if __name__ == "__main__":
    unittest.main()
