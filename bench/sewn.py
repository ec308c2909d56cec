"""Areas filled with thread, judged on the written file: read by the library, seen pixel by pixel as
thread 0.4 mm broad, over sixty shapes that nothing was tuned by, at every angle in steps of 5°."""

from __future__ import annotations

import io
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import cv2
import numpy as np
import pyembroidery
import shapely
import shapely.affinity

from demo.badge import areas
from draxet.formats.embroidery import embroidery_bytes
from draxet.geometry.nesting import area_of
from draxet.lettering.faces import shipped_faces
from draxet.lettering.setting import set_rows, set_straight
from draxet.make.stitching.stitch_fill import Fill
from draxet.make.stitching.stitch_plan import Sewn, sewn

_SEEN, _THREAD, _PULL, _MORE, _STRIPE = 20, 0.4, 0.2, 0.3, 0.5
_LONGEST, _GRID, _BESIDE, _NOTHING = 7.0, 0.1, 0.5, 0.1
_LETTERS = "S&8RagQ%2eK5kB3"
_ANGLES = range(0, 180, 5)


def sewn_shapes() -> list[tuple[str, Any]]:
    """Sixty areas in mm, by name."""
    rng = np.random.default_rng(31_000)
    found = [*_letters(), *_of_the_badge()]
    found += [(f"silhouette {k}", _silhouette(rng, 18 + 5 * k, k)) for k in range(8)]
    for k in range(5):
        ring = _disc(10 + 6 * k).difference(
            shapely.affinity.translate(_disc(5 + 2.5 * k), 1.2 * k, -k)
        )
        found.append((f"ring {k}", ring))
    for k, points in enumerate((4, 5, 6, 8, 12)):
        found.append((f"star of {points}", _star(points, 8 + 7 * k, 0.35 + 0.07 * k)))
    for k in range(4):
        cut = shapely.affinity.translate(_disc(9 + 4 * k), 4 + 2 * k, 1.5 * k)
        found.append((f"crescent {k}", _disc(11 + 5 * k).difference(cut)))
    found += [
        ("large silhouette", _silhouette(rng, 100, 5)),
        ("large plate", _plate(rng, 200, 140, 24)),
    ]
    t = np.linspace(0, 20, 500)
    arms = np.column_stack([(4 + 2.2 * t) * np.cos(t), (4 + 2.2 * t) * np.sin(t)])
    found.append(("large spiral", shapely.LineString(arms).buffer(4.2)))
    teeth = [shapely.box(x, 0, x + 9, 150 - (x * 7) % 60) for x in range(0, 200, 16)]
    found.append(("large comb", shapely.union_all([shapely.box(0, 0, 201, 18), *teeth])))
    return found[:60]


def _letters() -> list[tuple[str, Any]]:
    found = []
    for k, face in enumerate(shipped_faces()[:6]):
        for turn, letter in enumerate(_LETTERS[k : k + 5]):
            height = (8, 16, 24, 32, 40)[turn]
            contours = set_straight(set_rows(face, letter, height), 1.5)
            found.append((f"{letter} {height} mm, {face.name}", area_of(contours)))
    return found


def _of_the_badge() -> list[tuple[str, Any]]:
    return [(f"badge {k} {name}", area_of(contours)) for k, (name, contours) in enumerate(areas())][
        :6
    ]


def _disc(radius: float) -> Any:
    return shapely.Point(0, 0).buffer(radius, quad_segs=40)


def _silhouette(rng: np.random.Generator, radius: float, holes: int) -> Any:
    turns = np.linspace(0, 2 * np.pi, 240, endpoint=False)
    bent = sum(rng.normal(0, 0.3 / n) * np.cos(n * turns + rng.uniform(0, 6)) for n in range(2, 9))
    r = radius * np.clip(0.75 + bent, 0.3, 1.2)
    shape = shapely.Polygon(np.column_stack([r * np.cos(turns), r * np.sin(turns)])).buffer(0)
    for _ in range(holes % 4):
        x, y = rng.uniform(-0.35, 0.35, 2) * radius
        hole = shapely.affinity.scale(_disc(radius * rng.uniform(0.06, 0.14)), 1.6, 1.0)
        shape = shape.difference(
            shapely.affinity.translate(shapely.affinity.rotate(hole, rng.uniform(0, 180)), x, y)
        )
    return shape


def _star(points: int, radius: float, inner: float) -> Any:
    turns = np.linspace(0, 2 * np.pi, 2 * points, endpoint=False)
    r = np.where(np.arange(2 * points) % 2, inner, 1.0) * radius
    return shapely.Polygon(np.column_stack([r * np.cos(turns), r * np.sin(turns)]))


def _plate(rng: np.random.Generator, width: float, height: float, holes: int) -> Any:
    plate = shapely.box(0, 0, width, height).buffer(-8).buffer(8)
    for x, y in rng.uniform((8, 8), (width - 8, height - 8), (holes, 2)):
        plate = plate.difference(shapely.Point(x, y).buffer(rng.uniform(1.5, 7)))
    return plate


def judged(shape: Any, angle: float, ending: str, manner: str = "fill") -> dict[str, float]:
    """What a written file does of a shape: shares `covered` and `beyond` what pull allows, mm² of
    thread across its holes, breadth in mm of what is bare (0 or `_STRIPE`), longest stitch, and
    trims beyond one for each piece."""
    plan = sewn([Sewn("it", "#aa2020", shape, Fill(angle=angle, pull=_PULL, manner=manner))])
    runs = [(block.colour, block.points) for block in plan.blocks]
    lines = _read(embroidery_bytes(runs, ending), ending)
    lines = [line + (plan.blocks[0].points[0] - lines[0][0]) for line in lines]
    allowed = shapely.buffer(shape, _PULL + _MORE)
    seen = _Seen(shape)
    area, thread = seen.filled(shape), seen.thread(lines)
    bare = area & ~thread
    side = round(_STRIPE * _SEEN) | 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    holes = shapely.union_all(
        [shapely.Polygon(ring) for part in shapely.get_parts(shape) for ring in part.interiors]
    )
    within = shapely.buffer(holes, -_PULL - _MORE - _GRID)
    pieces = len(shapely.get_parts(shapely.buffer(shape, -_THREAD / 2)))
    return {
        "covered": float((area & thread).sum() / area.sum()),
        "beyond": float((thread & ~seen.filled(allowed)).sum() / area.sum()),
        "across": float((thread & seen.filled(within)).sum()) / _SEEN**2,
        "stripe": float(cv2.erode(bare.astype(np.uint8), disc).any()) * _STRIPE,
        "longest": float(max(np.hypot(*np.diff(line, axis=0).T).max() for line in lines)),
        "trims": plan.trims - max(pieces, 1) + 1,
    }


def _read(data: bytes, ending: str) -> list[Any]:
    reader = {"dst": pyembroidery.DstReader, "pes": pyembroidery.PesReader}[ending]
    pattern = pyembroidery.EmbPattern()
    reader.read(io.BytesIO(data), pattern)
    found, now = list[Any](), list[tuple[float, float]]()
    for x, y, command in [*pattern.stitches, (0, 0, pyembroidery.END)]:
        if command & pyembroidery.COMMAND_MASK == pyembroidery.STITCH:
            now.append((x / 10, -y / 10))
        elif now:
            found.append(np.array(now))
            now = []
    return found


class _Seen:
    """Pixels of what lies about a shape."""

    def __init__(self, shape: Any) -> None:
        x0, y0, x1, y1 = shapely.bounds(shape).tolist()
        self.off = np.array([x0, y0]) - 2.0
        self.size = (int((y1 - y0 + 4) * _SEEN) + 1, int((x1 - x0 + 4) * _SEEN) + 1)

    def _placed(self, points: Any) -> Any:
        return np.round(((points - self.off) * _SEEN - 0.5) * 16).astype(np.int32)

    def filled(self, shape: Any) -> Any:
        made = np.zeros(self.size, np.uint8)
        for part in shapely.get_parts(shape):
            if shapely.area(part) > 0:
                rings = [
                    self._placed(shapely.get_coordinates(ring))
                    for ring in (part.exterior, *part.interiors)
                ]
                one = np.zeros(self.size, np.uint8)
                cv2.fillPoly(one, rings, 1, shift=4)
                made |= one
        return made.astype(bool)

    def thread(self, lines: Sequence[Any]) -> Any:
        made = np.zeros(self.size, np.uint8)
        placed = [self._placed(line) for line in lines]
        cv2.polylines(made, placed, False, 1, round(_THREAD * _SEEN), shift=4)
        return made.astype(bool)


def _neighbours(shape: Any, rng: np.random.Generator) -> list[Any]:
    """A shape parted along a wave into two areas that share that edge."""
    x0, y0, x1, y1 = shapely.bounds(shape).tolist()
    middle, wide = np.array([(x0 + x1) / 2, (y0 + y1) / 2]), float(np.hypot(x1 - x0, y1 - y0))
    t = np.linspace(-wide, wide, 400)
    wave = rng.uniform(0.03, 0.1) * wide * np.sin(t * rng.uniform(6, 20) / wide + rng.uniform(0, 6))
    way = shapely.LineString(np.column_stack([t, wave]))
    over = shapely.Polygon([*shapely.get_coordinates(way), (wide, 3 * wide), (-wide, 3 * wide)])
    over = shapely.affinity.rotate(over, rng.uniform(0, 360), origin=(0, 0))
    half = shapely.affinity.translate(over, *middle)
    return [shapely.intersection(shape, half), shapely.difference(shape, half)]


def _bare_between(number: int) -> list[float]:
    """How broad cloth shows beside the edge that two areas share, at each angle: mm of the largest
    disc that goes in."""
    rng = np.random.default_rng(32_000 + number)
    _, shape = sewn_shapes()[number]
    found = list[float]()
    for angle in _ANGLES[::3]:
        one, other = _neighbours(shape, rng)
        if min(one.area, other.area) < 1.0:
            continue
        fills = Fill(angle=float(angle)), Fill(angle=float(angle + rng.uniform(0, 180)))
        plan = sewn(
            [Sewn("one", "#aa2020", one, fills[0]), Sewn("other", "#2020aa", other, fills[1])]
        )
        lines = _read(
            embroidery_bytes([(block.colour, block.points) for block in plan.blocks], "dst"), "dst"
        )
        lines = [line + (plan.blocks[0].points[0] - lines[0][0]) for line in lines]
        edge = shapely.intersection(shapely.buffer(one, 0.01), shapely.buffer(other, 0.01))
        within = shapely.intersection(shapely.buffer(edge, _BESIDE), shapely.buffer(shape, -_MORE))
        seen = _Seen(shape)
        bare = seen.filled(within) & ~seen.thread(lines)
        found.append(
            2 * float(cv2.distanceTransform(bare.astype(np.uint8), cv2.DIST_L2, 5).max()) / _SEEN
        )
    return found


def _all_angles(number: int) -> list[dict[str, float]]:
    _, shape = sewn_shapes()[number]
    return [
        judged(shape, float(angle), ("dst", "pes")[(number + k) % 2])
        for k, angle in enumerate(_ANGLES)
    ]


def _as_suits(number: int) -> list[dict[str, float]]:
    _, shape = sewn_shapes()[number]
    return [judged(shape, float(angle), "dst", "suited") for angle in _ANGLES[::12]]


def sewn_areas(every: int = 1, told: bool = False) -> None:
    """Print what was found over all shapes, the worst of each by name."""
    names = [name for name, _ in sewn_shapes()]
    with ProcessPoolExecutor() as pool:
        rows = list(pool.map(_all_angles, range(0, len(names), every)))
        suited = list(pool.map(_as_suits, range(0, len(names), every)))
        between = list(pool.map(_bare_between, range(0, len(names), every)))
    names = names[::every]
    print(f"stitching: {len(names)} shapes at {len(_ANGLES)} angles, judged on the file")
    covered = np.array([[each["covered"] for each in row] for row in rows])
    print(
        f"  covered: worst {100 * covered.min():.2f} % ({names[int(covered.min(1).argmin())]}; wanted 98.5), "
        f"median {100 * np.median(covered):.2f} % (wanted 99.3), {int((covered < 0.985).sum())} of {covered.size} below"
    )
    for key, most, words in (
        ("beyond", 0.003, "share beyond pull"),
        ("across", 0.0, "mm² across holes"),
        ("stripe", 0.0, "mm of bare stripe"),
        ("longest", _LONGEST, "mm of the longest stitch"),
        ("trims", 1.0, "trims more than pieces"),
    ):
        found = np.array([[each[key] for each in row] for row in rows])
        worst = names[int(found.max(1).argmax())]
        print(
            f"  {words}: worst {found.max():.4f} ({worst}; wanted {most:g}), {int((found > most).sum())} of {found.size} above"
        )
    print(
        f"  sewn as suits them: covered worst {100 * min(each['covered'] for row in suited for each in row):.2f} %, "
        f"trims more than pieces at most {max(each['trims'] for row in suited for each in row):.0f}"
    )
    pairs = np.array([each for row in between for each in row])
    print(
        f"  mm bare between two neighbours: worst {pairs.max():.2f} (wanted {_NOTHING:g}, a step of the file), "
        f"{int((pairs > _NOTHING).sum())} of {len(pairs)} above"
    )
    if told:
        for name, row in zip(names, rows, strict=True):
            c = [each["covered"] for each in row]
            more = {k: max(each[k] for each in row) for k in row[0] if k != "covered"}
            print(
                f"    {name:34} covered {100 * min(c):.2f} to {100 * max(c):.2f}",
                {k: round(v, 4) for k, v in more.items()},
            )
