"""The leaf stencil of the demo job: a photo of it on the bench with a card of known size beside it,
taken at an angle.

Run as a script it takes ``leaf.jpg`` with the simulated camera and writes ``leaf.json`` (the truth)
beside itself.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import cv2

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "src"))

from draxet.machines.simulated_camera import (
    CARD_MM,
    SimulatedCamera,
    View,
    card_corners,
    stencil_on_bench,
)  # noqa: E402

SIZE = (1920, 1440)
VIEW = View(tilt=19.0, around=55.0, roll=-4.0, curve=0.012)


def main() -> None:
    here = Path(__file__).resolve().parent
    camera = SimulatedCamera(SIZE)
    cv2.imwrite(
        str(here / "leaf.jpg"), camera.frame(VIEW)[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88]
    )
    boxes = [contour.box for contour in stencil_on_bench()]
    truth = {
        "card_mm": CARD_MM,
        "card_on_photo_px": camera.seen(VIEW, card_corners()).tolist(),
        "lens_curve": VIEW.curve,
        "stencil_boxes_mm": boxes,
    }
    (here / "leaf.json").write_text(json.dumps(truth, indent=1) + "\n")


if __name__ == "__main__":
    main()
