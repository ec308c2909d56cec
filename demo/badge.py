"""The conductor's badge of the demo job: three flat colours on card, as a scanner saw it.

Run as a script it draws ``badge.jpg`` and writes ``badge.json`` (the truth) beside itself; the seed
is fixed.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "src"))

from draxet.geometry.affine import Affine  # noqa: E402
from draxet.geometry.contour import Contour  # noqa: E402
from draxet.geometry.shapes import ellipse, rounded_polygon  # noqa: E402

SIZE_MM = (90.0, 70.0)
DPI = 254.0
SEED = 7
COLOURS = {
    "card": (243, 240, 230),
    "navy": (34, 52, 88),
    "signal red": (186, 48, 40),
    "straw": (226, 190, 92),
}
_OVER = 4


def areas() -> list[tuple[str, list[Contour]]]:
    """Colour areas from the back to the front, each of contours filled even-odd, in mm (y up)."""
    shield = rounded_polygon([(13, 10, 10), (77, 10, 10), (77, 60, 6), (13, 60, 6)])
    band = rounded_polygon([(13, 28, 0), (77, 28, 0), (77, 42, 0), (13, 42, 0)])
    hub = [Contour.circle(45, 35, 3.5)]
    spokes = [
        rounded_polygon([(-0.9, 3, 0), (0.9, 3, 0), (0.9, 11.5, 0), (-0.9, 11.5, 0)]).transformed(
            Affine.turned(60 * k).then(Affine.moved(45, 35))
        )
        for k in range(6)
    ]
    wings = [
        ellipse(22, 51, 5, 3.2),
        ellipse(68, 51, 5, 3.2),
        ellipse(22, 19, 5, 3.2),
        ellipse(68, 19, 5, 3.2),
    ]
    rim = [
        shield,
        rounded_polygon(
            [(15.5, 12.5, 7.5), (74.5, 12.5, 7.5), (74.5, 57.5, 3.5), (15.5, 57.5, 3.5)]
        ),
    ]
    return [
        ("navy", [shield]),
        ("signal red", [band]),
        ("straw", [Contour.circle(45, 35, 15)]),
        ("navy", [Contour.circle(45, 35, 11)]),
        ("straw", hub + spokes),
        ("straw", wings),
        ("straw", rim),
    ]


def labels(pixels_a_mm: float) -> np.ndarray[Any, Any]:
    """Which colour lies where: (rows, columns) of indices into COLOURS, without any blending."""
    width, height = (round(side * pixels_a_mm) for side in SIZE_MM)
    found = np.zeros((height, width), np.uint8)
    for name, contours in areas():
        mask = np.zeros((height, width), np.uint8)
        rings = [
            np.round(
                ((c.flattened(0.002) * (1, -1) + (0, SIZE_MM[1])) * pixels_a_mm - 0.5) * 256
            ).astype(np.int32)
            for c in contours
        ]
        if (
            name == "straw" and len(rings) > 2 and len(contours) == 7
        ):  # hub and spokes overlap: a union, not even-odd
            for ring in rings:
                cv2.fillPoly(mask, [ring], 255, cv2.LINE_8, 8)
        else:
            cv2.fillPoly(mask, rings, 255, cv2.LINE_8, 8)
        found[mask > 0] = list(COLOURS).index(name)
    return found


def draw() -> np.ndarray[Any, Any]:
    """The scan (rows, columns, red green blue) of uint8."""
    rng = np.random.default_rng(SEED)
    fine = np.array(list(COLOURS.values()), dtype=np.float32)[labels(DPI / 25.4 * _OVER)]
    soft = cv2.resize(
        cv2.GaussianBlur(fine, (0, 0), 0.7 * _OVER),
        None,
        fx=1 / _OVER,
        fy=1 / _OVER,
        interpolation=cv2.INTER_AREA,
    )
    height, width = soft.shape[:2]
    light = (
        1.0
        - 0.05 * np.linspace(0, 1, width)[None, :, None]
        - 0.03 * np.linspace(0, 1, height)[:, None, None]
    )
    return np.clip(soft * light + rng.normal(0, 3, soft.shape), 0, 255).astype(np.uint8)


def main() -> None:
    here = Path(__file__).resolve().parent
    cv2.imwrite(str(here / "badge.jpg"), draw()[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 90])
    (here / "badge.json").write_text(
        json.dumps({"size_mm": SIZE_MM, "dpi": DPI, "colours": COLOURS}, indent=1) + "\n"
    )


if __name__ == "__main__":
    main()
