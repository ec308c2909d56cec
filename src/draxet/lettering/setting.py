"""Setting words: a face's outlines, shaped and kerned, as contours in rows or along a contour."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.arc_length import ArcLength
from draxet.geometry.arrangement import arrangement_of
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import crossings, self_crossings
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.pieces import position_near
from draxet.geometry.spans import CUBIC, LINE
from draxet.lettering.faces import Face, FaceError
from draxet.record import record

__all__ = ["ALIGNS", "Letter", "set_along", "set_rows", "set_straight", "width_of"]

ALIGNS = ("left", "middle", "right")
_MOST = 2000
"""Letters that are set at once."""
_SAME = 1e-9
_Place = tuple[float, float]
_CAPITALS = "HXEI"
_CAPITAL_SHARE = 0.7
"""Of the em: the height of capitals in a face that has none."""


@record(frozen=True, eq=False)
class Letter:
    """A letter's contours where it stands in its row, whose baseline is y = 0; the middle of its
    advance, and the number of its row. shape : what it is and how large; at : where its own origin
    stands."""

    contours: tuple[Contour, ...]
    middle: float
    row: int
    shape: tuple[Face, int, float]
    at: tuple[float, float]


def set_rows(
    face: Face, words: str, height: float, spacing: float = 0.0, align: str = "left"
) -> list[Letter]:
    """Words in rows, with capitals `height` mm high and letters `spacing` mm farther apart than the
    face has them; a row begins at x = 0, lies about it or ends there, as it is aligned.

    Raises
    ------
    FaceError : where the face cannot be read or has none of the letters, or there are too many.
    """
    if len(words) > _MOST:
        raise FaceError(
            f"{_MOST} letters can be set at once, got {len(words)}; make several texts of it"
        )
    font = _font(face)
    scale = height / font.capital
    letters, missing = [], set[str]()
    for row, line in enumerate(words.split("\n")):
        shaped = font.shaped(line, joins=spacing == 0)
        missing |= {
            letter for name, _, _, _, letter in shaped if name == 0 and not letter.isspace()
        }
        wide = sum(advance for _, advance, _, _, _ in shaped) * scale + spacing * max(
            len(shaped) - 1, 0
        )
        x = -wide * ALIGNS.index(align) / 2
        for name, advance, dx, dy, _ in shaped:
            at = x + dx * scale, dy * scale
            to = Affine.scaled(scale).then(Affine.moved(*at))
            contours = (
                tuple(contour.transformed(to) for contour in font.outline(name)) if name else ()
            )
            letters.append(Letter(contours, x + advance * scale / 2, row, (face, name, scale), at))
            x += advance * scale + spacing
    if missing:
        raise FaceError(
            f"{face.name} has no {' and no '.join(sorted(missing)[:5])}; choose another face, or other words"
        )
    return letters


def set_straight(letters: Sequence[Letter], leading: float) -> list[Contour]:
    """Letters as contours, each row `leading` mm below the one before; those that overlap are one
    outline."""
    words: list[list[Letter]] = []
    open_row: int | None = None
    for letter in letters:
        if not letter.contours:
            open_row = None
        elif open_row == letter.row:
            words[-1].append(letter)
        else:
            words.append([letter])
            open_row = letter.row
    placed = []
    for word in words:
        x, y = word[0].at
        shape = tuple(
            (letter.shape, round(letter.at[0] - x, 9), round(letter.at[1] - y, 9))
            for letter in word
        )
        move = Affine.moved(x, y - leading * word[0].row)
        placed.append([contour.transformed(move) for contour in _word(shape)])
    return _united(placed)


@lru_cache(maxsize=1024)
def _word(shape: tuple[tuple[tuple[Face, int, float], float, float], ...]) -> tuple[Contour, ...]:
    """Letters that follow each other, as contours where the first one's origin is (0, 0)."""
    letters = []
    for (face, name, scale), x, y in shape:
        to = Affine.scaled(scale).then(Affine.moved(x, y))
        letters.append([contour.transformed(to) for contour in _font(face).outline(name)])
    return tuple(_united(letters))


def set_along(
    letters: Sequence[Letter],
    contour: Contour,
    near: tuple[float, float],
    away: float,
    leading: float,
    *,
    other_side: bool = False,
) -> list[Contour]:
    """Letters along a contour, `away` mm from it, what is x = 0 in their rows at the place of it
    that is nearest to `near`. They stand outside a closed contour, on the left of an open one that
    leads to the right; on the `other_side` else.

    Raises
    ------
    FaceError : where they are longer than the contour.
    """
    if contour.closed:
        line = contour if (contour.area < 0) != other_side else contour.reversed()
    else:
        line = contour if contour.nodes[-1, 0] >= contour.nodes[0, 0] else contour.reversed()
    measured = ArcLength(line)
    long = width_of(letters)
    if long > measured.length * (1 + 1e-9):
        raise FaceError(
            f"the words are {long:.1f} mm long and the contour only {measured.length:.1f} mm; make them smaller, or choose a longer contour"
        )
    start = measured.length_at(position_near(line, *near))
    if not contour.closed:
        first, last = (
            min((letter.middle for letter in letters), default=0.0),
            max((letter.middle for letter in letters), default=0.0),
        )
        start = min(max(start, -first), measured.length - last)
    drop = -away - _height(letters) if other_side and not contour.closed else away
    placed = []
    for letter in letters:
        (x, y), (dx, dy) = (
            measured.place(start + letter.middle),
            measured.direction(start + letter.middle),
        )
        to = Affine.moved(-letter.middle, drop - leading * letter.row).then(
            Affine(float(dx), float(-dy), float(x), float(dy), float(dx), float(y))
        )
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
    some = [k for k, contours in enumerate(letters) if contours]
    if not some:
        return []
    boxes = shapely.box(*np.array([_box(letters[k]) for k in some]).T)
    first, second = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    root = list(range(len(some)))

    def root_of(k: int) -> int:
        while root[k] != k:
            k = root[k]
        return k

    for a, b in zip(first.tolist(), second.tolist(), strict=True):
        if a < b and root_of(a) != root_of(b) and _cross(letters[some[a]], letters[some[b]]):
            root[max(root_of(a), root_of(b))] = min(root_of(a), root_of(b))
    groups: dict[int, list[int]] = {}
    for k in range(len(some)):
        groups.setdefault(root_of(k), []).append(some[k])
    found = list[Contour]()
    for group in groups.values():
        contours = [contour for k in group for contour in letters[k]]
        found += _outlined(contours) if len(group) > 1 else contours
    return found


def _box(contours: Sequence[Contour]) -> tuple[float, float, float, float]:
    boxes = np.array([contour.box for contour in contours]) if contours else np.zeros((1, 4))
    return (
        float(boxes[:, 0].min()),
        float(boxes[:, 1].min()),
        float(boxes[:, 2].max()),
        float(boxes[:, 3].max()),
    )


def _cross(one: Sequence[Contour], other: Sequence[Contour]) -> bool:
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
            raise FaceError(
                f"{face.name} could not be read as a face; choose another one"
            ) from error
        self._outlines: dict[int, tuple[Contour, ...]] = {}

    def _capital(self) -> float:
        for letter in _CAPITALS:
            name = self._font.get_nominal_glyph(ord(letter))
            contours = _contours(self._font, name) if name else []
            if contours:
                return _box(contours)[3]
        return _CAPITAL_SHARE * self._em

    def shaped(self, line: str, *, joins: bool) -> list[tuple[int, float, float, float, str]]:
        """For each glyph its number, how far it leads on, where it stands aside of that, and its
        letter."""
        if not line:
            return []
        buffer = self._hb.Buffer()
        buffer.add_str(line)
        buffer.guess_segment_properties()
        self._hb.shape(self._font, buffer, {"kern": True, "liga": joins, "clig": joins})
        return [
            (
                info.codepoint,
                float(place.x_advance),
                float(place.x_offset),
                float(place.y_offset),
                line[info.cluster] if info.cluster < len(line) else " ",
            )
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


def _as_cubic(start: _Place, middle: _Place, end: _Place) -> tuple[_Place, _Place]:
    """The handles of the cubic that is a quadratic curve."""
    (ax, ay), (bx, by), (cx, cy) = start, middle, end
    return (ax + 2 * (bx - ax) / 3, ay + 2 * (by - ay) / 3), (
        cx + 2 * (bx - cx) / 3,
        cy + 2 * (by - cy) / 3,
    )


def _contours(font: Any, name: int) -> list[Contour]:
    """The closed contours of a glyph as they are drawn, in font units."""
    from fontTools.pens.recordingPen import RecordingPen  # slow to load

    pen = RecordingPen()
    font.draw_glyph_with_pen(name, pen)
    drawn: list[Contour] = []
    nodes: list[_Place] = []
    spans: list[tuple[int, tuple[_Place, _Place]]] = []
    nothing = ((0.0, 0.0), (0.0, 0.0))

    def go(kind: int, handles: tuple[_Place, _Place], to: _Place) -> None:
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
            go(CUBIC, _as_cubic(nodes[-1], places[0], places[-1]), places[-1])
        elif nodes and spans:
            go(LINE, nothing, nodes[0])
            if math.dist(nodes[0], nodes[-1]) <= _SAME and len(spans) > 1:
                kinds, handles = [kind for kind, _ in spans], [each for _, each in spans]
                drawn.append(Contour.make(nodes[:-1], kinds, None, handles))
    return [contour for contour in drawn if abs(contour.area) > _SAME]


def _sound(contours: list[Contour]) -> list[Contour]:
    if not contours:
        return []
    depths = nesting_depths(contours)
    outer = contours[int(np.abs([contour.area for contour in contours]).argmax())]
    turned = contours if outer.area > 0 else [contour.reversed() for contour in contours]
    if len(self_crossings(joined_spans(turned)[0])):
        return _outlined(turned)
    return [
        contour if (contour.area > 0) == (depth % 2 == 0) else contour.reversed()
        for contour, depth in zip(turned, depths.tolist(), strict=True)
    ]
