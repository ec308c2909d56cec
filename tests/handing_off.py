"""Work that leaves in a file, as it is read back."""

from pathlib import Path

from draxet.job.records import Job
from draxet.job.sides import Run
from draxet.leaving import drawing_format, kind_of
from draxet.leaving.leaving_kind import Leaving, ReadBack, leave_file

__all__ = ["counted", "hand_off"]


def hand_off(job: Job, path: Path, *, back: bool = False) -> ReadBack:
    """What is worked on the sheet in hand, in a file of the kind that the path's ending names."""
    return leave_file(kind_of(path), Leaving(job, Run(job.sheet, back)), path).read_back


def counted(path: Path) -> tuple[int, int, int]:
    """Contours, closed ones and layers of a drawing."""
    layers = drawing_format(path).read(path)
    contours = [contour for layer in layers for contour in layer.contours]
    return len(contours), sum(contour.closed for contour in contours), len(layers)
