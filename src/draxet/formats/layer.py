"""What leaves as a drawing: layers of marks on a page, in millimetres, y up; and what a kind of file
must be able to do."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from draxet.formats.drawn_marks import plain_marks
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.progress import Progress
from draxet.record import record

__all__ = ["Format", "FormatError", "Layer", "Page", "watched_marks"]


_REPORT_EVERY = 20
"""Marks written between two reports."""


class FormatError(ValueError):
    """A file that cannot be written or read; the message is one sentence for people."""


@record(frozen=True)
class Layer:
    """Marks (see ``drawn_marks``) for one operation under one name; `colour` (#rrggbb) is that of its
    bare contours, where they have one."""

    name: str
    marks: tuple[Any, ...]
    colour: str = ""

    @property
    def contours(self) -> tuple[Contour, ...]:
        """Its bare contours."""
        return tuple(mark for mark in self.marks if isinstance(mark, Contour))

    def transformed(self, affine: Affine) -> Layer:
        return replace(self, marks=tuple(mark.transformed(affine) for mark in self.marks))

    def holding(self, *kinds: type) -> Layer:
        """Itself in a file that can hold these kinds of marks beside bare contours."""
        return replace(
            self, marks=tuple(plain_marks(self.marks, lambda mark: isinstance(mark, kinds)))
        )


@record(frozen=True)
class Page:
    """What marks lie on, from (0, 0): its size in mm; and how far arcs may lie from the cubics that
    they stand for, in mm."""

    width: float
    height: float
    tolerance: float = 0.01


@record(frozen=True)
class Format:
    """A kind of file.

    curves : whether cubics leave as cubics, and not as arcs within the page's tolerance.
    from_origin : whether it counts from the sheet's origin, and not from its lower left corner.
    holds : the kinds of marks that it can hold beside bare contours.
    write : layers on a page as bytes, reporting how far it is; read : what a file holds, for comparing, read by a library
    that shares no code with `write`.
    """

    name: str
    ending: str
    curves: bool
    from_origin: bool
    holds: tuple[type, ...]
    write: Callable[[Sequence[Layer], Page, Progress], bytes]
    read: Callable[[Path], list[Layer]]


def watched_marks(
    layers: Sequence[Layer], holds: tuple[type, ...], report: Progress
) -> Iterator[tuple[Layer, Iterator[Any]]]:
    """Each layer and its marks as a file can hold them, reporting now and then how many are
    done."""
    held = [layer.holding(*holds) for layer in layers]
    count, done = max(sum(len(layer.marks) for layer in held), 1), 0

    def marks(layer: Layer) -> Iterator[Any]:
        nonlocal done
        for mark in layer.marks:
            if done % _REPORT_EVERY == 0:
                report(done / count / 2, "writing")
            done += 1
            yield mark

    for layer in held:
        yield layer, marks(layer)
