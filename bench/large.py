"""Large pictures: a 140-megapixel grey TIFF and a 50-megapixel JPEG come in, are panned, zoomed,
picked on and made true.

Each kind runs in a process of its own, so that its peak of memory is its own.
"""

from __future__ import annotations

import io
import os
import resource
import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import cv2  # noqa: E402
import numpy as np  # noqa: E402

KINDS = {"tiff": (11_900, 11_770), "jpeg": (8_660, 5_774)}


def draw(size: tuple[int, int]) -> np.ndarray:
    """A plan: frames, rings and lettering on grainy paper, grey."""
    width, height = size
    page = np.full((height, width), 232, np.uint8)
    for k in range(1, 24):
        cv2.rectangle(
            page, (60 * k + 100, 60 * k + 100), (width - 60 * k - 100, height - 60 * k - 100), 60, 9
        )
        cv2.circle(page, (width // 2, height // 2), 90 * k, 70, 7)
    for y in range(400, height, 700):
        cv2.putText(page, "rear platform 0123456789", (300, y), cv2.FONT_HERSHEY_SIMPLEX, 6, 50, 12)
    grain = np.random.default_rng(0).integers(0, 9, (512, 512), dtype=np.uint8)
    for top in range(0, height, 512):
        for left in range(0, width, 512):
            part = page[top : top + 512, left : left + 512]
            part -= grain[: part.shape[0], : part.shape[1]]
    return page


def encode(kind: str) -> bytes:
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None
    store = io.BytesIO()
    image = Image.fromarray(draw(KINDS[kind]))
    if kind == "tiff":
        image.save(store, "TIFF", dpi=(600, 600), compression="tiff_lzw")
    else:
        image.convert("RGB").save(store, "JPEG", quality=88, dpi=(600, 600))
    return store.getvalue()


def seconds(run: Callable[[], object], rounds: int = 1) -> float:
    times = []
    for _ in range(rounds):
        begin = time.perf_counter()
        run()
        times.append(time.perf_counter() - begin)
    return statistics.median(times)


def bare(path: Path) -> float:
    """Seconds of a plain decode."""
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None
    return seconds(lambda: np.asarray(Image.open(path)), 3)


def use(kind: str, path: Path) -> None:
    """Bring it in through the window and work on it; print one line."""
    from PyQt6.QtTest import QTest

    from draxet.ui.app import make_app
    from draxet.ui.model.stage import Stage
    from draxet.ui.model.tool import Pointer
    from draxet.ui.shell.window import Window

    app = make_app()
    window = Window()
    window.show()
    app.processEvents()

    def until_idle() -> None:
        while window.workers.busy():
            QTest.qWait(2)
        window.canvas.repaint()

    begin = time.perf_counter()
    window.opening.take_picture(path.read_bytes(), path.name)
    until_idle()
    opened = time.perf_counter() - begin
    view, session = window.canvas, window.session

    def shown(act: Callable[[], object]) -> Callable[[], None]:
        def run() -> None:
            act()
            view.repaint()

        return run

    ways = iter([(7, 3), (-12, 4), (25, -9), (-3, -14)] * 20)
    pan = seconds(shown(lambda: view.pan_by(*next(ways))), 20)
    zoom = seconds(shown(lambda: view.zoom_by(1.3)), 9)
    pan_near = seconds(shown(lambda: view.pan_by(*next(ways))), 20)
    window.commands["known-length"].run()
    picture = session.selection.picture
    assert picture is not None
    tool = session.tool
    assert tool is not None
    places = [
        picture.to_job.point(picture.width / 2 - 990, picture.height / 2),
        picture.to_job.point(picture.width / 2 + 990, picture.height / 2),
    ]
    pick = seconds(lambda: tool.move(Pointer(*places[0], 0.3)), 5)
    for place in places:
        tool.press(Pointer(*place, 0.3))
    known = seconds(shown(lambda: tool.set_size(1980 * 25.4 / 600)))  # type: ignore[attr-defined]
    window.commands["level"].run()
    level = session.tool
    assert level is not None
    for place in places:
        level.press(Pointer(*place, 0.3))
    turned = seconds(shown(lambda: level.turn()))  # type: ignore[attr-defined]
    session.open_stage(Stage.GATHER)
    session.document.history = session.document.history.after_save()
    window.close()
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    megapixels = KINDS[kind][0] * KINDS[kind][1] / 1e6
    print(
        f"large {kind:5}     {megapixels:.0f} megapixels: in view after {opened:.2f} s, pan {1000 * pan:.0f} ms, zoom {1000 * zoom:.0f} ms, pan near {1000 * pan_near:.0f} ms, "
        f"pick {1000 * pick:.0f} ms, known length {1000 * known:.0f} ms, level {1000 * turned:.0f} ms, peak {peak:.2f} GB"
    )
    print(f"opened {opened}")


def main() -> int:
    if len(sys.argv) == 3:
        use(sys.argv[1], Path(sys.argv[2]))
    return 0


if __name__ == "__main__":
    sys.exit(main())
