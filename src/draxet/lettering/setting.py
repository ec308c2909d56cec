"""Setting words: a face's outlines, shaped and kerned, as contours in rows or along a contour."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrangement import arrangement_of
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import self_crossings
from draxet.geometry.measured import Measured
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.pieces import position_near
from draxet.geometry.spans import CUBIC, LINE
from draxet.lettering.faces import Face, FaceError

__all__ = ["ALIGNS", "Letter", "set_along", "set_rows", "set_straight", "width_of"]

ALIGNS = ("left", "middle", "right")
_MOST = 2000
"""Letters that are set at once."""
_SAME = 1e-9
_CAPITALS = "HXEI"
_CAPITAL_SHARE = 0.7
"""Of the em: the height of capitals in a face that has none."""


@dataclass(frozen=True, eq=False)
class Letter:
    """A letter's contours where it stands in its row, whose baseline is y = 0; the middle of its advance, and the number of its row."""

    contours: tuple[Contour, ...]
    middle: float
    row: int


def set_rows(face: Face, words: str, height: float, spacing: float = 0.0, align: str = "left") -> list[Letter]:
    """Words in rows, with capitals `height` mm high and letters `spacing` mm farther apart than the face has them; a row begins at x = 0, lies
    about it or ends there, as it is aligned.

    Raises
    ------
    FaceError : where the face cannot be read or has none of the letters, or there are too many.
    """
    if len(words) > _MOST:
        raise FaceError(f"{_MOST} letters can be set at once, got {len(words)}; make several texts of it")
    font = _font(face)
    scale = height / font.capital
    letters, missing = [], set[str]()
    for row, line in enumerate(words.split("\n")):
        x, of_row = 0.0, list[tuple[tuple[Contour, ...], float, float]]()
        for name, advance, dx, dy, letter in font.shaped(line, joins=spacing == 0):
            if name == 0 and not letter.isspace():
                missing.add(letter)
            to = Affine.scaled(scale).then(Affine.moved(x + dx * scale, dy * scale))
            of_row.append((tuple(contour.transformed(to) for contour in font.outline(name)) if name else (), x + advance * scale / 2, x + advance * scale))
            x += advance * scale + spacing
        wide = of_row[-1][2] if of_row else 0.0
        move = Affine.moved(-wide * ALIGNS.index(align) / 2, 0.0)
        letters += [Letter(tuple(c.transformed(move) for c in contours), middle + move.c, row) for contours, middle, _ in of_row]
    if missing:
        raise FaceError(f"{face.name} has no {' and no '.join(sorted(missing)[:5])}; choose another face, or other words")
    return letters


def set_straight(letters: Sequence[Letter], leading: float) -> list[Contour]:
    """Letters as contours, each row `leading` mm below the one before; those that overlap are one outline."""
    return _united([[c.transformed(Affine.moved(0.0, -leading * letter.row)) for c in letter.contours] for letter in letters])


def set_along(letters: Sequence[Letter], contour: Contour, near: tuple[float, float], away: float, leading: float, *, other_side: bool = False) -> list[Contour]:
    """Letters along a contour, `away` mm from it, what is x = 0 in their rows at the place of it that is nearest to `near`. They stand
    outside a closed contour, on the left of an open one that leads to the right; on the `other_side` else.

    Raises
    ------
    FaceError : where they are longer than the contour.
    """
    if contour.closed:
        line = contour if (contour.area < 0) != other_side else contour.reversed()
    else:
        line = contour if contour.nodes[-1, 0] >= contour.nodes[0, 0] else contour.reversed()
    measured = Measured(line)
    long = width_of(letters)
    if long > measured.length * (1 + 1e-9):
        raise FaceError(f"the words are {long:.1f} mm long and the contour only {measured.length:.1f} mm; make them smaller, or choose a longer contour")
    start = measured.length_at(position_near(line, *near))
    if not contour.closed:
        first, last = min((letter.middle for letter in letters), default=0.0), max((letter.middle for letter in letters), default=0.0)
        start = min(max(start, -first), measured.length - last)
    drop = -away - _height(letters) if other_side and not contour.closed else away
    placed = []
    for letter in letters:
        (x, y), (dx, dy) = measured.place(start + letter.middle), measured.direction(start + letter.middle)
        to = Affine.moved(-letter.middle, drop - leading * letter.row).then(Affine(float(dx), float(-dy), float(x), float(dy), float(dx), float(y)))
        placed.append([each.transformed(to) for each in letter.contours])
    return _united(placed)


def width_of(letters: Sequence[Letter]) -> float:
    """Of the broadest row, from the first contour to the last, in mm."""
    boxes = [c.box for letter in letters for c in letter.contours]
    return max((b[2] for b in boxes), default=0.0) - min((b[0] for b in boxes), default=0.0)


def _height(letters: Sequence[Letter]) -> float:
    return max((c.box[3] for letter in letters for c in letter.contours), default=0.0)


def _united(letters: Sequence[Sequence[Contour]]) -> list[Contour]:
    """All contours, those of letters that overlap as one outline."""
    boxes = [_box(contours) for contours in letters]
    groups: list[list[int]] = []
    for k in range(len(letters)):
        if not letters[k]:
            continue
        touching = [group for group in groups if any(_meet(boxes[k], boxes[other]) and _cross(letters[k], letters[other]) for other in group)]
        groups = [group for group in groups if group not in touching] + [[*(n for group in touching for n in group), k]]
    found = list[Contour]()
    for group in sorted(groups, key=min):
        some = [contour for k in sorted(group) for contour in letters[k]]
        found += _outlined(some) if len(group) > 1 else some
    return found


def _box(contours: Sequence[Contour]) -> tuple[float, float, float, float]:
    boxes = np.array([contour.box for contour in contours]) if contours else np.zeros((1, 4))
    return float(boxes[:, 0].min()), float(boxes[:, 1].min()), float(boxes[:, 2].max()), float(boxes[:, 3].max())


def _meet(a: tuple[float, float, float, float], b: tuple[float, float, float, float]) -> bool:
    return a[0] <= b[2] and b[0] <= a[2] and a[1] <= b[3] and b[1] <= a[3]


def _cross(one: Sequence[Contour], other: Sequence[Contour]) -> bool:
    from draxet.geometry.crossings import crossings

    return bool(len(crossings(joined_spans(one)[0], joined_spans(other)[0])))


def _outlined(contours: Sequence[Contour]) -> list[Contour]:
    """What contours, outlines anticlockwise and openings clockwise, cover together."""
    found = arrangement_of(contours)
    return found.outline_of(k for k, region in enumerate(found.regions) if region.winding > 0)


class _Font:
    """A face that is open: letters shaped, and their outlines in font units."""

    def __init__(self, face: Face) -> None:
        import uharfbuzz as hb  # slow to load

        self._hb = hb
        try:
            of = hb.Face(hb.Blob.from_file_path(face.path), face.number)
            self._font = hb.Font(of)
            self._em = int(of.upem)
            self.capital = self._capital()
        except Exception as error:  # a damaged file may raise anything
            raise FaceError(f"{face.name} could not be read as a face; choose another one") from error
        self._outlines: dict[int, tuple[Contour, ...]] = {}

    def _capital(self) -> float:
        for letter in _CAPITALS:
            name = self._font.get_nominal_glyph(ord(letter))
            contours = _contours(self._font, name) if name else []
            if contours:
                return _box(contours)[3]
        return _CAPITAL_SHARE * self._em

    def shaped(self, line: str, *, joins: bool) -> list[tuple[int, float, float, float, str]]:
        """For each glyph its number, how far it leads on, where it stands aside of that, and its letter."""
        if not line:
            return []
        buffer = self._hb.Buffer()
        buffer.add_str(line)
        buffer.guess_segment_properties()
        self._hb.shape(self._font, buffer, {"kern": True, "liga": joins, "clig": joins})
        return [
            (info.codepoint, float(place.x_advance), float(place.x_offset), float(place.y_offset), line[info.cluster] if info.cluster < len(line) else " ")
            for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True)
        ]

    def outline(self, name: int) -> tuple[Contour, ...]:
        """A glyph's contours: outlines anticlockwise, openings clockwise, none crossing another."""
        if name not in self._outlines:
            self._outlines[name] = tuple(_sound(_contours(self._font, name)))
        return self._outlines[name]


@lru_cache(maxsize=32)
def _font(face: Face) -> _Font:
    return _Font(face)


def _contours(font: Any, name: int) -> list[Contour]:
    """The closed contours of a glyph as they are drawn, in font units."""
    from fontTools.pens.recordingPen import RecordingPen  # slow to load

    pen = RecordingPen()
    font.draw_glyph_with_pen(name, pen)
    drawn: list[Contour] = []
    nodes: list[tuple[float, float]] = []
    spans: list[tuple[int, tuple[tuple[float, float], tuple[float, float]]]] = []
    nothing = ((0.0, 0.0), (0.0, 0.0))

    def go(kind: int, handles: tuple[tuple[float, float], tuple[float, float]], to: tuple[float, float]) -> None:
        if kind == CUBIC or math.dist(nodes[-1], to) > _SAME:
            spans.append((kind, handles))
            nodes.append(to)

    for what, places in pen.value:
        if what == "moveTo":
            nodes, spans = [places[0]], []
        elif what == "lineTo":
            go(LINE, nothing, places[0])
        elif what == "curveTo":
            go(CUBIC, (places[0], places[1]), places[2])
        elif what == "qCurveTo":
            (ax, ay), (bx, by), (cx, cy) = nodes[-1], places[0], places[-1]
            go(CUBIC, ((ax + 2 * (bx - ax) / 3, ay + 2 * (by - ay) / 3), (cx + 2 * (bx - cx) / 3, cy + 2 * (by - cy) / 3)), (cx, cy))
        elif nodes and spans:
            go(LINE, nothing, nodes[0])
            if math.dist(nodes[0], nodes[-1]) <= _SAME and len(spans) > 1:
                drawn.append(Contour.make(nodes[:-1], [kind for kind, _ in spans], None, [handles for _, handles in spans]))
    return [contour for contour in drawn if abs(contour.area) > _SAME]


def _sound(contours: list[Contour]) -> list[Contour]:
    if not contours:
        return []
    depths = nesting_depths(contours)
    outer = contours[int(np.abs([contour.area for contour in contours]).argmax())]
    turned = contours if outer.area > 0 else [contour.reversed() for contour in contours]
    if len(self_crossings(joined_spans(turned)[0])):
        return _outlined(turned)
    return [contour if (contour.area > 0) == (depth % 2 == 0) else contour.reversed() for contour, depth in zip(turned, depths.tolist(), strict=True)]
