"""Colourings: the threads of what is sewn on a sheet, and its cloth, exchanged all at once."""

from __future__ import annotations

import colorsys
from collections.abc import Sequence
from dataclasses import replace

from draxet.job.operations import Stitch
from draxet.job.records import Job
from draxet.job.sewing_threads import Thread, nearest_thread
from draxet.record import record

__all__ = ["Colouring", "as_it_is", "other_colourings", "recoloured"]

_INK, _CLOTH = "#000000", "#f4f1ea"
"""What has no colour is sewn and lies in these."""


@record(frozen=True)
class Colouring:
    """Colours (#rrggbb) of what is sewn, the lightest first, with what each becomes, and the
    cloth's."""

    name: str
    threads: tuple[tuple[str, str], ...]
    cloth: str

    def with_thread(self, before: str, now: str) -> Colouring:
        """The same with another thread in the place of one."""
        threads = tuple((was, now if was == before else is_) for was, is_ in self.threads)
        return replace(self, threads=threads)


def as_it_is(job: Job) -> Colouring:
    """The colouring that a job has on the sheet in hand."""
    sheet = job.sheet
    stitched = _stitched(job)
    layout = job.layout
    colours = {
        item.colour or _INK
        for item in layout.contours
        if item.id in stitched and (item.sheet in ("", sheet.id) or len(job.sheets) == 1)
    }
    by_light = sorted(colours, key=lambda colour: (-_light(colour), colour))
    pairs = tuple((colour, nearest_thread(job.every_thread, colour).colour) for colour in by_light)
    return Colouring("As it is", pairs, sheet.colour or _CLOTH)


def other_colourings(job: Job) -> list[Colouring]:
    """Three more to begin with: light and dark exchanged, and all hues led on by a third and by two of the
    circle, in threads that there are."""
    own, threads = as_it_is(job), job.every_thread
    now = [thread for _, thread in own.threads]
    was = [colour for colour, _ in own.threads]
    turned = tuple(zip(was, reversed(now), strict=True))
    cloth = nearest_thread(threads, _led(own.cloth, 0.0, mirrored=True)).colour
    found = [Colouring("Light for dark", turned, cloth)]
    for name, by in (("Hues led on", 1 / 3), ("Hues led back", 2 / 3)):
        led = _unlike(threads, [_led(thread, by) for thread in now])
        found.append(Colouring(name, tuple(zip(was, led, strict=True)), own.cloth))
    return found


def recoloured(job: Job, colouring: Colouring) -> Job:
    """A job with other colours of all that is drawn in those, and of the cloth of the sheet in
    hand."""
    to = dict(colouring.threads)
    stitched = _stitched(job)
    contours = tuple(
        replace(item, colour=now)
        if (now := to.get(item.colour or (_INK if item.id in stitched else ""), item.colour))
        != item.colour
        else item
        for item in job.contours
    )
    sheets = tuple(
        replace(each, colour=colouring.cloth) if each.id == job.sheet.id else each
        for each in job.sheets
    )
    return replace(job, contours=contours, sheets=sheets)


def _stitched(job: Job) -> set[str]:
    return {name for each in job.operations if isinstance(each, Stitch) for name in each.contours}


def _unlike(threads: Sequence[Thread], colours: Sequence[str]) -> list[str]:
    """The nearest thread to each colour that is none of the others', as long as there are any."""
    found, left = list[str](), list(threads)
    for colour in colours:
        found.append(nearest_thread(left or threads, colour).colour)
        left = [each for each in left if each.colour not in found]
    return found


def _parts(colour: str) -> tuple[float, float, float]:
    r, g, b = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    return r, g, b


def _light(colour: str) -> float:
    r, g, b = _parts(colour)
    return 0.3 * r + 0.59 * g + 0.11 * b


def _led(colour: str, by: float, *, mirrored: bool = False) -> str:
    hue, light, full = colorsys.rgb_to_hls(*_parts(colour))
    made = colorsys.hls_to_rgb((hue + by) % 1.0, 1.0 - light if mirrored else light, full)
    return "#" + "".join(f"{round(255 * each):02x}" for each in made)
