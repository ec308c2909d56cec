"""What operations that part nothing do, as it is seen: the lines along which they work at their
real width, in the hue of their kind."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import field

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.operations.operation_kind import Operation, Toolpath, paths_of
from draxet.job.records import Job
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.canvas.chunks import path_of, transform_of, view_box
from draxet.ui.canvas.looks import Look, look_of
from draxet.ui.canvas.saved import saved

__all__ = ["Paths", "WorkedLines", "WorkedPainter", "worked_lines"]

Paths = Callable[[Operation, tuple[tuple[str, Contour], ...], float], Sequence[Toolpath]]

_Asked = tuple[Operation, tuple[tuple[str, Contour], ...], float]

_LINE_PX = 1.4
_CHUNK = 40


@record(frozen=True, eq=False)
class _Run:
    path: QPainterPath
    box: QRectF
    wide: float
    look: Look


@record(frozen=True, eq=False)
class WorkedLines:
    """Runs of lines of one kind and width, by what each operation's were worked out from."""

    known: dict[_Asked, list[_Run]] = field(default_factory=dict)

    @property
    def runs(self) -> list[_Run]:
        return [run for some in self.known.values() for run in some]


def worked_lines(
    job: Job, report: Progress, paths: Paths = paths_of, before: WorkedLines | None = None
) -> WorkedLines:
    """The lines of all operations that part nothing; `paths` has those of one worked out, and what
    was known `before` of the same is taken over.

    Raises
    ------
    ValueError : where an operation cannot be worked out.
    """
    old, known = before.known if before else {}, dict[_Asked, list[_Run]]()
    some = [operation for operation in job.operations if not operation.through]
    for number, operation in enumerate(some):
        report(number / len(some), "working out the operations")
        for sheet in job.sheets:
            if items := job.worked_on(operation, sheet):
                asked = operation.with_contours(()), tuple(items), sheet.thickness
                found = old.get(asked)
                if found is None:
                    found = _runs(operation, paths(operation, tuple(items), sheet.thickness))
                known[asked] = found
    return WorkedLines(known)


def _runs(operation: Operation, lines: Sequence[Toolpath]) -> list[_Run]:
    found = []
    for start in range(0, len(lines), _CHUNK):
        path = path_of(*(line.line for line in lines[start : start + _CHUNK]))
        wide = lines[start].width
        box = path.boundingRect().adjusted(-wide, -wide, wide, wide)
        found.append(_Run(path, box, wide, look_of(operation)))
    return found


class WorkedPainter:
    """Paints lines as they were worked out last."""

    def __init__(self) -> None:
        self.lines = WorkedLines()

    def paint(self, painter: QPainter, to_view: Affine, clip: QRectF) -> Iterator[None]:
        """Paint, step by step, what lies in `clip` (view)."""
        seen = view_box(to_view, clip)
        with saved(painter):
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setTransform(transform_of(to_view), True)
            for run in self.lines.runs:
                if not run.box.intersects(seen):
                    continue
                hue = QColor(run.look.hue)
                thin = run.wide * to_view.scale <= _LINE_PX
                if not thin:
                    hue.setAlphaF(run.look.band)
                    painter.strokePath(
                        run.path,
                        QPen(
                            hue,
                            run.wide,
                            Qt.PenStyle.SolidLine,
                            Qt.PenCapStyle.RoundCap,
                            Qt.PenJoinStyle.RoundJoin,
                        ),
                    )
                line = QPen(QColor(run.look.hue), 0 if thin else _LINE_PX)
                line.setCosmetic(True)
                if run.look.dashes:
                    line.setDashPattern(list(run.look.dashes))
                painter.strokePath(run.path, line)
                yield
