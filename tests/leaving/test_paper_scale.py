"""Paper to scale: what another library measures on the page is the sheet, so many times smaller."""

import tempfile
import unittest
from pathlib import Path

import pypdfium2
from pypdf import PdfReader

from draxet.formats.layer import FormatError
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import Run
from draxet.leaving import LEAVING_KINDS
from draxet.leaving.leaving_kind import Leaving, LookSettings, leave_file
from draxet.leaving.papers import ScaleSettings

SCALED, TRUE_SIZE = (
    next(kind for kind in LEAVING_KINDS if kind.key == key) for key in ("scaled", "pdf")
)
MM = 25.4 / 72


class ToScale(unittest.TestCase):
    def left(self, wide: float, high: float, one_to: float, paper: str) -> tuple[Path, str]:
        job = Job(sheets=(Sheet(width=wide, height=high),))
        job = add_contours(job, [Contour.circle(wide / 2, high / 2, min(wide, high) / 4)])
        asked = {LookSettings: LookSettings("lines"), ScaleSettings: ScaleSettings(one_to, paper)}
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / "a.pdf"
        found = leave_file(SCALED, Leaving(job, Run(job.sheet), asked), path).read_back
        self.assertTrue(found.matches, found.words)
        return path, found.words

    def measured(self, path: Path) -> tuple[tuple[float, float], list[tuple[float, float]]]:
        """The page, and how large its drawn things are, in mm."""
        document = pypdfium2.PdfDocument(path)
        page = document[0]
        sizes = []
        for each in page.get_objects():
            left, low, right, top = each.get_bounds()
            sizes.append(((right - left) * MM, (top - low) * MM))
        wide, high = (side * MM for side in page.get_size())
        document.close()
        return (wide, high), sizes

    def test_what_is_measured_on_the_page_is_the_sheet_so_many_times_smaller(self) -> None:
        for wide, high, one_to, paper, scale in (
            (600.0, 400.0, 4.0, "A4", 4.0),
            (600.0, 400.0, 0.0, "A4", 2.5),
            (1500.0, 3000.0, 0.0, "A3", 10.0),
            (100.0, 60.0, 1.0, "Letter", 1.0),
            (2400.0, 1200.0, 7.5, "A2", 7.5),
        ):
            path, words = self.left(wide, high, one_to, paper)
            self.assertIn(f"1 : {scale:g}", words)
            page, sizes = self.measured(path)
            line = 0.5  # that library counts a line's whole breadth on either side
            rim = max(sizes)
            for found, true in zip(rim, (wide / scale, high / scale), strict=True):
                self.assertAlmostEqual(found, true + line, delta=max(0.0005 * true, 0.02))
            for found, side in zip(rim, page, strict=True):
                self.assertLess(found, side)
            ring = min(wide, high) / 2 / scale + line
            self.assertTrue(
                any(abs(a - ring) < 0.0005 * ring + 0.02 and abs(a - b) < 0.02 for a, b in sizes)
            )

    def test_a_page_over_five_metres_carries_its_unit_and_says_so(self) -> None:
        for wide, unit in ((900.0, 1), (6000.0, 2), (11000.0, 3)):
            job = Job(sheets=(Sheet(width=wide, height=800),))
            job = add_contours(job, [Contour.circle(wide / 2, 400, 300)])
            with tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "a.pdf"
                asked = {LookSettings: LookSettings("lines")}
                found = leave_file(TRUE_SIZE, Leaving(job, Run(job.sheet), asked), path).read_back
                self.assertTrue(found.matches, found.words)
                self.assertEqual("in units of" in found.words, unit > 1)
                page = PdfReader(path).pages[0]
                (_, sizes), head = self.measured(path), path.read_bytes()[:8]
            self.assertEqual((page.user_unit, head >= b"%PDF-1.6"), (unit, unit > 1))
            self.assertLessEqual(float(page.mediabox.width), 14400)
            self.assertAlmostEqual(float(page.mediabox.width) * unit * MM, wide + 20, delta=0.1)
            ring = 600.0
            self.assertTrue(any(abs(a * unit - ring) < 1.0 for a, _ in sizes))

    def test_what_does_not_fit_is_told_with_what_would(self) -> None:
        with self.assertRaisesRegex(FormatError, "take 1 : 4, or larger paper"):
            self.left(600, 600, 2, "A4")


if __name__ == "__main__":
    unittest.main()
