"""A table of contours under construction: lists that grow shape by shape and become arrays all at
once, as making each contour by itself costs most of the time of reading a drawing."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.formats.drawing import Paint
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Bools, Floats, Ints, frozen
from draxet.geometry.contour import Contour, boxes_of
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.outside import are_sane

__all__ = ["NO_HANDLES", "ContourTable"]

NO_HANDLES = (0.0, 0.0, 0.0, 0.0)
_GREATEST_BULGE = 1e6


class ContourTable:
    """Contours, each with the map that takes it to the drawing's plane, and its layer."""

    def __init__(self) -> None:
        self._nodes: list[tuple[float, float]] = []
        self._kinds: list[int] = []
        self._bulges: list[float] = []
        self._handles: list[tuple[float, float, float, float]] = []
        self._sizes: list[tuple[int, int]] = []
        self._closed: list[bool] = []
        self._maps: list[Affine] = []
        self.layers: list[str] = []
        self.names: list[str] = []
        """What each is called in its file."""
        self.paints: list[Paint] = []

    def __len__(self) -> int:
        return len(self._sizes)

    @property
    def nodes(self) -> int:
        """How many nodes there are."""
        return len(self._nodes)

    def add(
        self,
        nodes: Sequence[tuple[float, float]],
        kinds: Sequence[int],
        bulges: Sequence[float] | None,
        handles: Sequence[tuple[float, float, float, float]] | None,
        *,
        closed: bool,
        layer: str = "",
        to: Affine | None = None,
        name: str = "",
        paint: Paint = (0, "", "", 0.0),
    ) -> None:
        """One contour; n spans for n nodes where it is closed, n - 1 where it is open. `handles`
        are x, y, x, y."""
        count = len(kinds)
        self._nodes += nodes
        self._kinds += kinds
        self._bulges += bulges if bulges is not None else [0.0] * count
        self._handles += handles if handles is not None else [NO_HANDLES] * count
        self._sizes.append((len(nodes), count))
        self._closed.append(closed)
        self._maps.append(to or Affine())
        self.layers.append(layer)
        self.names.append(name)
        self.paints.append(paint)

    def contours(self, after: Affine | None = None) -> tuple[list[Contour], Bools]:
        """All contours in the drawing's plane, mapped by `after`, and which of them (n,) are sound:
        numbers, not farther off than anybody can mean. An unsound one's place holds another that
        stands for it and is to be left out."""
        to = [m.then(after) for m in self._maps] if after else self._maps
        sizes = np.array(self._sizes, dtype=np.int64).reshape(-1, 2)
        nodes = np.array(self._nodes, dtype=np.float64).reshape(-1, 2)
        kinds, bulges = (
            np.array(self._kinds, dtype=np.int64),
            np.array(self._bulges, dtype=np.float64),
        )
        handles = np.array(self._handles, dtype=np.float64).reshape(-1, 2, 2)
        of_node, of_span = (np.repeat(np.arange(len(sizes)), sizes[:, k]) for k in (0, 1))
        maps = np.array([m.to_tuple() for m in to], dtype=np.float64).reshape(-1, 6)
        uneven = np.array([not m.is_similarity for m in to], dtype=bool)
        bent = np.zeros(len(sizes), dtype=bool)
        bent[of_span[kinds == ARC]] = True
        good_maps = are_sane(maps).all(axis=1)
        maps[~good_maps] = Affine().to_tuple()
        by_itself = uneven & bent & good_maps  # arcs that do not stay arcs
        maps[by_itself] = Affine().to_tuple()
        with np.errstate(over="ignore", invalid="ignore"):
            nodes = _mapped(nodes, maps[of_node])
            to_handles = np.repeat(maps[of_span], 2, axis=0)
            mapped = _mapped(handles.reshape(-1, 2), to_handles).reshape(-1, 2, 2)
            handles = np.where((kinds == CUBIC)[:, None, None], mapped, 0.0)
            turned = maps[:, 0] * maps[:, 4] - maps[:, 1] * maps[:, 3] < 0
        bulges = np.where(turned[of_span], -bulges, bulges) * (kinds == ARC)
        kinds = np.where((kinds == ARC) & (bulges == 0), LINE, kinds)
        sound = good_maps
        good_nodes = are_sane(nodes).all(axis=1)
        good_spans = are_sane(handles).all(axis=(1, 2)) & are_sane(bulges, _GREATEST_BULGE)
        np.logical_and.at(sound, of_node, good_nodes)
        np.logical_and.at(sound, of_span, good_spans)
        nodes[~good_nodes], handles[~good_spans], bulges[~good_spans] = 0.0, 0.0, 0.0
        made = self._parted(sizes, nodes, kinds, bulges, handles)
        for k in np.flatnonzero(by_itself & sound).tolist():
            made[k] = made[k].transformed(to[k])
        sound &= are_sane(boxes_of(made)).all(axis=1)  # arcs reach farther than their ends
        return made, sound

    def _parted(
        self, sizes: Ints, nodes: Floats, kinds: Ints, bulges: Floats, handles: Floats
    ) -> list[Contour]:
        """Contours of so many nodes and spans each, of the nodes and spans of all."""
        of_nodes, of_kinds = frozen(nodes), frozen(kinds, np.int64)
        of_bulges, of_handles = frozen(bulges), frozen(handles)
        starts = np.cumsum(sizes, axis=0) - sizes
        return [
            Contour(
                of_nodes[a : a + m],
                of_kinds[c : c + n],
                of_bulges[c : c + n],
                of_handles[c : c + n],
                closed,
            )
            for (a, c), (m, n), closed in zip(
                starts.tolist(), sizes.tolist(), self._closed, strict=True
            )
        ]


def _mapped(points: np.ndarray, maps: np.ndarray) -> np.ndarray:
    x, y = points[:, 0], points[:, 1]
    return np.stack(
        [
            maps[:, 0] * x + maps[:, 1] * y + maps[:, 2],
            maps[:, 3] * x + maps[:, 4] * y + maps[:, 5],
        ],
        axis=1,
    )
