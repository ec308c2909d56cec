"""The pattern of a saw led by hand: the blade goes beside what stays, every opening has its hole in
what falls out, and what is inside comes first."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import bracket
import pypdfium2
import shapely

from draxet.formats.drawn_marks import Words
from draxet.formats.layer import FormatError
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import polygons_of
from draxet.job.contour_edits import add_contours
from draxet.job.operating import choose_machine, set_machine
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of
from draxet.leaving import kind_of
from draxet.leaving.leaving_kind import Leaving, leave_file
from draxet.make.cutting_through import give_cut
from draxet.make.saw_pattern import SawPattern, saw_pattern
from draxet.prove.run import findings_of_run

RINGS = [
    Contour.make([(20, 20), (220, 20), (220, 180), (20, 180)]),
    Contour.circle(70, 100, 30),
    Contour.circle(70, 100, 12),
    Contour.make([(120, 60), (190, 60), (190, 140), (120, 140)]),
    Contour.circle(205, 165, 1.6),
]


def sawn(contours: list[Contour], **sheet: float) -> Leaving:
    job = add_contours(Job(sheets=(Sheet(width=300, height=320, **sheet),)), contours)
    job = choose_machine(job, job.sheet.id, "hand-saw")
    job = give_cut(job, [item.id for item in job.contours], 1.0, 300)
    return Leaving(job, runs_of(job)[0])


def pattern_of(leaving: Leaving) -> SawPattern:
    return saw_pattern(leaving.side, leaving.run.sheet, leaving.machine)


class Patterns(unittest.TestCase):
    def test_the_blade_goes_beside_what_stays_and_holes_lie_in_what_falls_out(self) -> None:
        for contours in (RINGS, bracket.part()):
            for x in (0.0, 37.5):
                leaving = sawn(
                    [each.transformed(Affine.moved(x, x)) for each in contours], x=x, y=x
                )
                pattern = pattern_of(leaving)
                areas = polygons_of(contours, 0.01)
                stays = areas[0]
                for area in areas[1:]:
                    stays = stays.symmetric_difference(area)
                blades = [
                    shapely.LineString([*mark.contour.flattened(0.01), mark.contour.nodes[0]])
                    for mark in pattern.layers[0].marks
                ]
                self.assertEqual((len(blades), pattern.cuts), (len(contours), len(contours)))
                for blade in blades:
                    self.assertAlmostEqual(blade.distance(stays), 0.5, delta=0.015)
                holes = [shapely.Point(at).buffer(wide / 2) for at, wide in pattern.holes]
                openings = sum(len(part.interiors) for part in shapely.get_parts(stays))
                self.assertEqual(len(holes) + len(pattern.tight), openings)
                for hole in holes:
                    self.assertGreater(hole.distance(stays), 0.2)

    def test_what_lies_inside_has_the_lower_number(self) -> None:
        pattern = pattern_of(sawn(RINGS))
        numbers = [mark for mark in pattern.layers[2].marks if isinstance(mark, Words)]
        self.assertEqual([mark.text for mark in numbers], [str(k + 1) for k in range(len(RINGS))])
        ways = [mark.contour.flattened(0.1) for mark in pattern.layers[0].marks]
        for first, way in enumerate(ways):
            around = shapely.Polygon(way)
            for later in ways[first + 1 :]:
                self.assertFalse(around.buffer(-0.1).contains(shapely.Point(later[0])))

    def test_an_opening_without_room_for_the_blade_is_told(self) -> None:
        tiny = [RINGS[0], Contour.circle(60, 60, 0.7), Contour.circle(90, 60, 1.2)]
        pattern = pattern_of(sawn(tiny))
        self.assertEqual((len(pattern.tight), len(pattern.holes)), (1, 1))
        self.assertLess(pattern.holes[0][1], 3.0)
        leaving = sawn(RINGS[:2])
        machine = replace(leaving.machine, id="fine", pilot=6.0, name="Fine saw")
        job = choose_machine(set_machine(leaving.job, machine), leaving.job.sheet.id, "fine")
        ((_, wide),) = pattern_of(Leaving(job, runs_of(job)[0])).holes
        self.assertEqual(wide, 6.0)

    def test_a_slit_that_begins_nowhere_is_a_finding_and_one_from_the_rim_is_none(self) -> None:
        def found(slit: Contour) -> list[str]:
            leaving = sawn([RINGS[0], RINGS[1], slit])
            some = findings_of_run(leaving.job, leaving.run, leaving.product)
            return [each.words for each in some if each.kind.startswith("blade")]

        within = Contour.make([(130, 100), (180, 100)], closed=False)
        from_rim = Contour.make([(180, 100), (220, 100)], closed=False)
        from_hole = Contour.make([(100, 100), (130, 100)], closed=False)
        self.assertIn("1 cut within a part has no waste", " ".join(found(within)))
        self.assertEqual(found(from_rim) + found(from_hole), [])

    def test_it_leaves_on_pages_that_another_reader_finds_the_numbers_on_and_no_program_does(
        self,
    ) -> None:
        leaving = sawn(RINGS)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "saw.pdf"
            left = leave_file(kind_of(path, leaving.machine), leaving, path)
            self.assertTrue(left.read_back.matches, left.read_back.words)
            document = pypdfium2.PdfDocument(path)
            sizes = {
                tuple(round(each * 25.4 / 72) for each in page.get_size()) for page in document
            }
            self.assertEqual((len(document), sizes), (2 * 2 + 1, {(210, 297)}))
            text = " ".join(page.get_textpage().get_text_bounded() for page in document)
            document.close()
            self.assertLessEqual({"1", "2", "3", "4", "5"}, set(text.split()))
            self.assertIn("pilot holes in the waste", text)
            with self.assertRaisesRegex(FormatError, "runs no program"):
                leave_file(kind_of(Path("a.nc")), leaving, Path(folder) / "a.nc")
            other = choose_machine(leaving.job, leaving.job.sheet.id, "desk-laser")
            self.assertNotEqual(kind_of(path, other.machine_of(other.sheet)).key, "pattern")
            self.assertEqual(sorted(each.name for each in Path(folder).iterdir()), ["saw.pdf"])


if __name__ == "__main__":
    unittest.main()
