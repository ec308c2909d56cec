"""Laws of everything that leaves, over the kinds themselves: what is damaged is found out, what is
stopped leaves nothing, and marks come back as they were."""

import math
import tempfile
import unittest
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Annotated, Any

import numpy as np
import pypdfium2
import shapely
from PIL import Image

from draxet.formats.art import sheet_png
from draxet.formats.drawn_marks import (
    Area,
    Dimension,
    Dot,
    Line,
    Picture,
    Words,
    alike_of,
    outlines_of,
)
from draxet.formats.dxf import DXF
from draxet.formats.layer import FormatError, Layer, Page
from draxet.formats.paper import sheet_pdf
from draxet.formats.svg import SVG
from draxet.geometry.affine import Affine
from draxet.geometry.biarcs import as_lines_and_arcs
from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.machine_kinds import MACHINES
from draxet.job.operating import add_operation, choose_machine
from draxet.job.operations import OPERATION_KINDS
from draxet.job.sides import Run
from draxet.leaving import LEAVING_KINDS, kind_of, leave
from draxet.leaving.comparing import greatest_difference
from draxet.leaving.leaving_kind import Leaving, LeavingKind, ReadBack, leave_file, leave_together
from draxet.progress import Cancelled, Unwatched
from tests.leaving.test_drawings import ready_job
from tests.shapes import mixed_contour


def leaving(
    report: Callable[[float, str], None] = Unwatched(), kind: LeavingKind[Any] | None = None
) -> Leaving:
    """A job whose machine has what leaves as that kind."""
    job = ready_job()
    if kind is not None and not kind.offered(job.machine_of(job.sheet)):
        machine = next(each for each in MACHINES if kind.offered(each))
        job = choose_machine(job, job.sheet.id, machine.id)
        if not all(map(machine.can_do, job.operations)):
            own = next(each for each in OPERATION_KINDS if machine.can_do(each()))
            ids = tuple(item.id for item in job.contours)
            job = add_operation(replace(job, operations=()), own().with_contours(ids))
    return Leaving(job, Run(job.sheet), report=report)


@dataclass
class PlanSettings:
    rounded: Annotated[bool, Asked("Rounded to whole mm")] = False


def plan_kind() -> LeavingKind[str]:
    """A kind of file that the program does not have: where each contour lies, in words."""

    def wanted(asked: Leaving, path: Path) -> str:
        places = 0 if asked.set(PlanSettings).rounded else 3
        boxes = [each.box for layer in asked.layers_on_sheet for each in layer.contours]
        return "\n".join(" ".join(f"{value:.{places}f}" for value in box) for box in boxes)

    return LeavingKind(
        "plan",
        "Plan in words",
        " - plan.words",
        wanted,
        lambda text, report: text.encode(),
        lambda text, path, report: ReadBack(path.read_text() == text, "as it was"),
        (PlanSettings,),
    )


class Laws(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def path_of(self, kind: LeavingKind[Any]) -> Path:
        return kind.path_for(leaving(), self.folder, "part")

    def test_every_kind_leaves_and_has_a_name_of_its_own(self) -> None:
        names = set[str]()
        for kind in LEAVING_KINDS:
            left = leave(leaving(kind=kind), [kind], self.folder, "part")
            self.assertTrue(left.matches, kind.key)
            self.assertEqual([each.kind for each in left.files], [kind.key])
            names |= {each.file for each in left.files}
        self.assertEqual(len({self.path_of(kind) for kind in LEAVING_KINDS}), len(LEAVING_KINDS))
        self.assertEqual({path.name for path in self.folder.iterdir()}, names)
        everywhere = [kind for kind in LEAVING_KINDS if all(map(kind.offered, MACHINES))]
        self.assertGreater(len(everywhere), 5)
        self.assertTrue(leave(leaving(), everywhere, self.folder, "part").matches)

    def test_a_file_that_is_cut_off_or_empty_never_takes_a_place(self) -> None:
        for kind in LEAVING_KINDS:
            path = self.path_of(kind)
            path.write_text("the one before")
            for share in (0.0, 0.6):

                def damaged(wanted: Any, report: Any) -> bytes:
                    data = kind.write(wanted, report)
                    return data[: int(share * len(data))]

                with self.subTest(kind.key, share=share):
                    try:
                        left = leave_file(replace(kind, write=damaged), leaving(kind=kind), path)
                        self.assertFalse(left.read_back.matches)
                    except (FormatError, OSError, ValueError) as error:
                        self.assertTrue(str(error))
                    self.assertEqual(path.read_text(), "the one before")
            path.unlink()
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_what_is_stopped_leaves_nothing_whenever_that_is(self) -> None:
        for kind in LEAVING_KINDS:
            calls = 0

            def count(share: float, words: str) -> None:
                nonlocal calls
                calls += 1

            leave_file(kind, leaving(count, kind), self.path_of(kind))
            self.path_of(kind).unlink()
            for at in range(1, calls + 1):
                told = 0

                def stop(share: float, words: str) -> None:
                    nonlocal told
                    told += 1
                    if told == at:
                        raise Cancelled

                with self.subTest(kind.key, at=at):
                    with self.assertRaises(Cancelled):
                        leave_file(kind, leaving(stop, kind), self.path_of(kind))
                    self.assertEqual(list(self.folder.iterdir()), [])

    def test_of_files_that_leave_together_all_are_there_or_none(self) -> None:
        dxf, svg = LEAVING_KINDS[:2]
        wrong = replace(svg, read_back=lambda wanted, path, report: ReadBack(False, "it differs"))
        files = [(each, leaving(), self.path_of(each)) for each in (dxf, wrong)]
        self.assertEqual([f.read_back.matches for f in leave_together(files)], [True, False])
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_a_kind_is_added_by_a_record_and_a_line(self) -> None:
        mine = plan_kind()
        LEAVING_KINDS.append(mine)
        self.addCleanup(LEAVING_KINDS.remove, mine)
        self.assertIs(kind_of(Path("a.words")), mine)
        rounded = replace(leaving(), settings={PlanSettings: PlanSettings(True)})
        self.assertTrue(leave(rounded, [mine], self.folder, "part").matches)
        text = (self.folder / "part - plan.words").read_text()
        self.assertEqual(text.splitlines()[0], "33 23 47 38")


class Comparing(unittest.TestCase):
    def test_it_finds_how_far_any_contour_was_moved_bent_or_turned_about(self) -> None:
        rng = np.random.default_rng(5)
        for seed in range(40):
            angles = np.sort(rng.uniform(0, 2 * math.pi, 9))
            ring = np.column_stack([np.cos(angles), np.sin(angles)]) * rng.uniform(8, 30, (9, 1))
            handles = np.stack([ring, np.roll(ring, -1, axis=0)], axis=1)
            handles += rng.uniform(-3, 3, handles.shape)
            kinds = rng.integers(0, 3, 9)
            bulges = np.where(kinds == 1, rng.uniform(-0.9, 0.9, 9), 0.0)
            count = 9 if seed % 2 else 8
            whole = Contour.make(
                ring, kinds[:count], bulges[:count], handles[:count], closed=count == 9
            )
            far = 10.0 ** rng.uniform(-3, 3)
            way = rng.normal(size=2)
            moved = whole.transformed(Affine.moved(*(far * way / np.hypot(*way))))
            for other in (moved, moved.reversed(), as_lines_and_arcs(moved, 0.0005)):
                truth = shapely.hausdorff_distance(
                    *(
                        shapely.LineString(
                            np.vstack([places, places[:1]]) if one.closed else places
                        )
                        for one in (whole, other)
                        for places in [one.flattened(0.0005)]
                    )
                )
                found = greatest_difference([whole], [other], 0.001)
                self.assertGreater(found, truth - 0.002)
                self.assertLess(found, max(truth, far if other is moved else truth) + 0.002)

    def test_a_circle_that_begins_elsewhere_is_the_same_circle(self) -> None:
        circle = Contour.circle(10, 20, 5)
        for other, off in ((circle.transformed(Affine.turned(0)), 0.0), (circle.reversed(), 0.0)):
            self.assertAlmostEqual(greatest_difference([circle], [other], 0.001), off, 6)
        larger = Contour.circle(10.3, 20, 5.2).reversed()
        self.assertAlmostEqual(greatest_difference([circle], [larger], 0.001), 0.5, 6)

    def test_one_span_that_bends_the_other_way_is_found(self) -> None:
        there = Contour.make([(0, 0), (10, 0), (10, 10)], [0, 1, 0], [0, 0.2, 0])
        back = Contour.make([(0, 0), (10, 0), (10, 10)], [0, 1, 0], [0, -0.2, 0])
        self.assertAlmostEqual(greatest_difference([there], [back], 0.001), 2.0, 3)


MARKS = (
    mixed_contour(),
    Contour.circle(10, 10, 3),
    Area((Contour.circle(50, 50, 20), Contour.circle(50, 50, 10)), "#aa3311"),
    Line(mixed_contour(), 0.7, "#00ff00"),
    Line(Contour.circle(9, 9, 4), 0.5, "#0000ff"),
    Words("Häus & <Hof>", (30.0, 40.0), 5.0, 30.0, "#112233"),
    Dot((12.5, 13.5)),
    Dimension((0.0, 0.0), (40.0, 10.0), 8.0, "41.23"),
    Picture(
        np.arange(12 * 8 * 3, dtype=np.uint8).reshape(8, 12, 3), Affine(1, 0.1, 5, 0.2, -1, 50)
    ),
)


class Marks(unittest.TestCase):
    def test_each_comes_back_from_a_drawing_as_what_it_was_or_as_what_stands_for_it(self) -> None:
        for kind in (SVG, DXF):
            wanted = Layer("all", MARKS).holding(*kind.holds).marks
            with tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "marks"
                data = kind.write([Layer("all", MARKS)], Page(100, 80), Unwatched())
                path.write_bytes(data)
                (layer,) = kind.read(path)
            self.assertEqual([alike_of(a) for a in layer.marks], [alike_of(a) for a in wanted])
            for mine, theirs in zip(wanted, layer.marks, strict=True):
                off = greatest_difference(outlines_of(mine), outlines_of(theirs), 0.011)
                self.assertLess(off, 0.011, (kind.name, type(mine)))

    def test_each_moves_by_a_map_as_its_outlines_do(self) -> None:
        for by in (Affine.turned(30).then(Affine.moved(3, 4)), Affine.scaled(2)):
            for mark in MARKS:
                if isinstance(mark, (Dot, Dimension)):
                    continue  # their signs keep their size
                wanted = [each.transformed(by) for each in outlines_of(mark)]
                moved = outlines_of(mark.transformed(by))
                self.assertLess(greatest_difference(wanted, moved, 1e-6), 1e-6, type(mark))

    def test_areas_are_filled_by_the_even_odd_rule_on_paper_and_in_pictures(self) -> None:
        layers = [Layer("all", (MARKS[2],))]
        with tempfile.TemporaryDirectory() as folder:
            paper, picture = Path(folder) / "a.pdf", Path(folder) / "a.png"
            paper.write_bytes(sheet_pdf(layers, 100, 80, []))
            picture.write_bytes(sheet_png(layers, (0, 0, 100, 80), 254))
            document = pypdfium2.PdfDocument(paper)
            page = document[0].render(scale=10 * 25.4 / 72).to_pil().convert("RGB")
            document.close()
            with Image.open(picture) as opened:
                seen = opened.convert("RGB")
        for x, y, colour in ((50, 65, (170, 51, 17)), (50, 50, (255, 255, 255))):
            self.assertEqual(seen.getpixel((10 * x, 10 * (80 - y))), colour)
            self.assertEqual(page.getpixel((10 * (x + 10), page.height - 10 * (y + 80))), colour)
