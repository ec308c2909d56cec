"""The camera: which part of job space is seen, and how large."""

from __future__ import annotations

from draxet.geometry.affine import Affine
from draxet.record import record

__all__ = ["Camera"]

_CLOSEST, _FARTHEST = 2000.0, 0.002


@record(frozen=True)
class Camera:
    """`zoom` in screen pixels a mm; the job's origin lies at (`dx`, `dy`) in the view, whose y runs
    down."""

    zoom: float = 1.0
    dx: float = 0.0
    dy: float = 0.0

    def to_view(self) -> Affine:
        return Affine(self.zoom, 0.0, self.dx, 0.0, -self.zoom, self.dy)

    def view(self, x: float, y: float) -> tuple[float, float]:
        return self.dx + self.zoom * x, self.dy - self.zoom * y

    def job(self, x: float, y: float) -> tuple[float, float]:
        return (x - self.dx) / self.zoom, (self.dy - y) / self.zoom

    def panned(self, dx: float, dy: float) -> Camera:
        """Moved by whole screen pixels, so that what is painted can be moved along."""
        return Camera(self.zoom, self.dx + round(dx), self.dy + round(dy))

    def zoomed(self, factor: float, x: float, y: float) -> Camera:
        """Zoomed with the place under (x, y) of the view kept there."""
        zoom = min(max(self.zoom * factor, _FARTHEST), _CLOSEST)
        k = zoom / self.zoom
        return Camera(zoom, round(x - (x - self.dx) * k), round(y - (y - self.dy) * k))

    @staticmethod
    def fitted(
        box: tuple[float, float, float, float], width: float, height: float, margin: float = 28.0
    ) -> Camera:
        """All of `box` (job space) in the middle of a view."""
        x0, y0, x1, y1 = box
        zoom = min(
            (width - 2 * margin) / max(x1 - x0, 1e-6), (height - 2 * margin) / max(y1 - y0, 1e-6)
        )
        zoom = min(max(zoom, _FARTHEST), _CLOSEST)
        return Camera(
            zoom, round(width / 2 - zoom * (x0 + x1) / 2), round(height / 2 + zoom * (y0 + y1) / 2)
        )
