"""No list of the job is forgotten: what lies on a sheet goes with it, what is worked leaves, what
is copied is whole."""

import dataclasses
import unittest
import xml.etree.ElementTree as ElementTree
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

import ezdxf

from draxet.geometry.affine import Affine
from draxet.geometry.arc_length import ArcLength
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import begun_at
from draxet.job import part_edits
from draxet.job.bridge_edits import add_bridges
from draxet.job.contour_edits import add_contours, change_contours, fix_size, remove_contours
from draxet.job.contour_moves import map_contours
from draxet.job.contour_records import Bridge, DropOut, Lettering
from draxet.job.copies import place_copies
from draxet.job.fixed import resized
from draxet.job.guide_edits import add_guide, add_note
from draxet.job.helper_edits import make_helpers
from draxet.job.lettering import add_lettering, set_again
from draxet.job.make_edits import put_start, put_tab
from draxet.job.operating import add_operation
from draxet.job.operations import CutThrough, Drill, Side
from draxet.job.point_edits import add_point
from draxet.job.records import Job
from draxet.job.sheet_edits import set_sheet
from draxet.job.sheet_records import Sheet
from draxet.job.sides import Run, only, side_of
from draxet.job.spots import share_near
from draxet.mend.nodes import move_node, split_span
from tests.handing_off import counted, hand_off

A, B = "sheet-0", "sheet-1"


def two_sheets() -> Job:
    """The same on either sheet: contours, helper contours, points, drop-outs, guides, bridges and
    notes."""
    job = Job(sheets=(Sheet(A, width=200, height=100), Sheet(B, "Two", 200, 100, x=300)))
    for x in (0, 300):
        job = add_contours(job, [Contour.circle(x + 50, 50, 20), Contour.circle(x + 150, 50, 10)])
        job = make_helpers(job, [job.contours[-1].id])
        job = add_guide(add_point(job, x + 30, 40), x + 10, 10, 90)
        job = add_note(job, "distance", [(x + 5, 5), (x + 40, 5)], "35 mm")
        job = add_bridges(job, [Bridge("", x + 70, 50, 2.0, job.contours[-1].id)])
        job = replace(job, drop_outs=(*job.drop_outs, DropOut(f"drop-out-{x}", x + 50.0, 50.0)))
    return job


def placed(job: Job) -> list[float]:
    """The x of everything that has a place."""
    contours = [round(item.contour.box[0], 6) for item in (*job.contours, *job.helpers)]
    others = [each.x for each in (*job.points, *job.guides, *job.bridges)]
    return [
        *contours,
        *others,
        *(x for note in job.notes for x, _ in note.places),
        *(each.x for each in job.drop_outs),
    ]


class Sheets(unittest.TestCase):
    def test_all_that_lies_on_a_sheet_makes_room_with_it(self) -> None:
        job = two_sheets()
        grown = set_sheet(job, replace(job.sheets[0], width=277.0))
        self.assertEqual(placed(grown), [x + 77 if x > 250 else x for x in placed(job)])
        self.assertEqual([sheet.x for sheet in grown.sheets], [0, 377])

    def test_seen_from_the_back_only_what_lies_on_that_sheet_is_mirrored(self) -> None:
        job = add_operation(two_sheets(), Drill(at_points=True, back=True))
        seen = side_of(job, Run(job.sheets[0], True))
        self.assertEqual([point.x for point in seen.points], [170, 330])
        self.assertEqual([(each.x, each.y) for each in seen.drop_outs], [(150, 50), (350, 50)])
        self.assertEqual([round(item.contour.box[0], 6) for item in seen.contours], [130, 330])
        self.assertEqual(len(seen.worked_on(seen.operations[0], job.sheets[0])), 1)


class Leaving(unittest.TestCase):
    def test_holes_at_points_leave_as_holes_of_the_drills_size(self) -> None:
        job = add_operation(
            two_sheets(), Drill(contours=("contour-1",), at_points=True, diameter=4.0)
        )
        with TemporaryDirectory() as folder:
            for name in ("o.dxf", "o.svg"):
                found = hand_off(job, Path(folder) / name)
                self.assertTrue(found.matches)
                self.assertEqual(
                    counted(Path(folder) / name)[0], 2, "the circle and the point of this sheet"
                )
            circles = [
                e
                for e in ezdxf.readfile(Path(folder) / "o.dxf").modelspace()
                if e.dxftype() == "CIRCLE"
            ]
            self.assertEqual(
                sorted((e.dxf.center.x, round(e.dxf.radius, 6)) for e in circles),
                [(30, 2), (50, 20)],
            )
            shapes = [
                e
                for e in ElementTree.parse(Path(folder) / "o.svg").iter()
                if e.tag.split("}")[1] in ("path", "circle")
            ]
            self.assertEqual(len(shapes), 2)

    def test_of_chosen_contours_alone_no_point_is_drilled(self) -> None:
        job = add_operation(two_sheets(), Drill(contours=("contour-1",), at_points=True))
        (left,) = only(job, {"contour-1"}).operations
        self.assertEqual((left.contours, len(job.worked_on(left, job.sheet))), (("contour-1",), 1))
        self.assertEqual(only(job, set()).operations, ())

    def test_other_words_leave_a_drilling_at_points_alone(self) -> None:
        job, _ = add_lettering(
            add_operation(two_sheets(), Drill(at_points=True)),
            Lettering("", "", "shed", "Bitter Bold"),
        )
        again = set_again(job, replace(job.letterings[0], words="tram"))
        self.assertEqual(again.operations, job.operations)


class Copies(unittest.TestCase):
    def test_a_copy_is_the_original_but_for_its_id_its_place_and_where_it_came_from(self) -> None:
        job = two_sheets()
        item = replace(
            job.contours[0],
            colour="#112233",
            layer="art",
            line=0.7,
            fixed=True,
            by_hand=True,
            traced="edges",
        )
        opened = replace(
            job.contours[1],
            id="contour-90",
            contour=Contour.make([(0, 0), (9, 0)], closed=False),
            slit=True,
        )
        job = replace(job, contours=(item, opened))
        job, inner = part_edits.make_part(job, [item.id])
        job, outer = part_edits.make_part(job, [item.id, opened.id])
        for linked in (False, True):
            made, ids = place_copies(
                job, [item.id, opened.id], [Affine.moved(0, 30), Affine.turned(20)], linked=linked
            )
            copies = [each for each in made.layout.contours if each.id in ids]
            ties = {
                "id",
                "contour",
                "picture",
                "by_hand",
                "traced",
                "part",
                "sheet",
            }
            for k, copy in enumerate(copies):
                for field in dataclasses.fields(copy):
                    if field.name not in ties:
                        self.assertEqual(
                            getattr(copy, field.name),
                            getattr(job.contours[k % 2], field.name),
                            field.name,
                        )
            self.assertEqual(len(made.layout.parts), 2 + 4)
            self.assertEqual(
                len({each.part for each in copies}), 4, "each in a group within a group of its own"
            )
            held = [bridge for bridge in made.layout.bridges if bridge.contour in ids]
            self.assertEqual(
                [(round(b.x, 6), round(b.y, 6)) for b in held],
                [(70, 80), tuple(round(v, 6) for v in Affine.turned(20).point(70, 50))],
            )
            self.assertEqual({bridge.contour for bridge in held}, {copies[0].id, copies[2].id})


class Spots(unittest.TestCase):
    def test_starts_and_tabs_stay_in_their_place_whatever_is_done_to_the_shape_and_go_along_with_the_contour(
        self,
    ) -> None:
        plate = Contour.make([(0, 0), (100, 0), (100, 40), (0, 40)])
        job = add_operation(
            add_contours(Job(), [plate]),
            CutThrough(contours=("contour-1",), side=Side.OUTSIDE, width=1.0, tabs=2),
        )
        places = {"start": (30.0, 0.0), "tab": (100.0, 25.0)}
        job = put_tab(
            put_start(job, "contour-1", share_near(plate, *places["start"])),
            "contour-1",
            share_near(plate, *places["tab"]),
        )

        def lie(job: Job) -> dict[str, tuple[float, float]]:
            measured = ArcLength(job.contours[0].contour)
            (operation,) = job.operations
            return {
                spot.what: tuple(
                    round(float(v), 6) for v in measured.place(spot.share * measured.length)
                )
                for spot in operation.spots
            }

        shapes = {
            "begun elsewhere": begun_at(plate, 1.3),
            "the other way round": plate.reversed(),
            "a corner dragged": move_node(plate, 3, -20, 15),
            "a node more": split_span(plate, 0, 0.7),
            "another corner": move_node(plate, 2, 0, 9),
        }
        for words, shape in shapes.items():
            with self.subTest(words):
                self.assertEqual(lie(change_contours(job, {"contour-1": shape})), places)
        moved = map_contours(job, ["contour-1"], Affine.turned(90).then(Affine.moved(5, 7)))
        self.assertEqual(lie(moved), {"start": (5, 37), "tab": (-20, 107)})
        self.assertIs(change_contours(job, {}).operations, job.operations)


class FixedSizes(unittest.TestCase):
    def test_a_node_that_is_dragged_does_not_stretch_them_and_turning_does_no_harm(self) -> None:
        plate = Contour.make([(0, 0), (138.11, 0), (138.11, 40), (0, 40)])
        job = fix_size(add_contours(Job(), [plate]), ["contour-1"], True)
        dragged = change_contours(job, {"contour-1": move_node(plate, 1, 15.04, 0)})
        self.assertRegex(
            resized(job, dragged),
            r"138\.11 × 40\.00 mm, would become 153\.\d\d × 40\.00 mm; free it",
        )
        self.assertEqual(resized(fix_size(job, ["contour-1"], False), dragged), "")
        for after in (
            Affine.turned(33),
            Affine.moved(5, 5),
            Affine.scaled(-1, 1),
            Affine.scaled(3),
        ):
            self.assertEqual(resized(job, map_contours(job, ["contour-1"], after)), "")
        self.assertEqual(resized(job, remove_contours(job, ["contour-1"])), "")


if __name__ == "__main__":
    unittest.main()
