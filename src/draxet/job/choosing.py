"""Contours to be chosen together: by how they lie in one another, by colour, by layer, and what has
no operation yet."""

from __future__ import annotations

from collections.abc import Callable

from draxet.geometry.nesting import nesting_depths
from draxet.job.colour_words import colour_word
from draxet.job.contour_records import ContourItem
from draxet.job.records import Job

__all__ = ["chosen_by"]

_MOST = 12
"""So many colours and layers are offered."""


def chosen_by(job: Job) -> list[tuple[str, frozenset[str], str]]:
    """What may be chosen on the sheet in hand, in words, the ids, and the colour that these have in
    common, where it goes by that; nothing that is empty."""
    items = [item for item in job.layout.contours if item.sheet == job.sheet.id]
    depths = (
        dict(
            zip(
                (item.id for item in items),
                nesting_depths([item.contour for item in items]).tolist(),
                strict=True,
            )
        )
        if items
        else {}
    )
    ways: list[tuple[str, Callable[[ContourItem], bool]]] = [
        ("Outlines", lambda item: depths[item.id] >= 0 and depths[item.id] % 2 == 0),
        ("Openings", lambda item: depths[item.id] > 0 and depths[item.id] % 2 == 1),
        ("Circles", lambda item: item.contour.circle_shape is not None),
        ("Open lines", lambda item: not item.contour.closed),
        ("Without an operation", lambda item: item.id not in job.worked),
    ]
    for layer in list(dict.fromkeys(item.layer for item in items if item.layer))[:_MOST]:
        ways.append((f"Layer {layer}", lambda item, layer=layer: item.layer == layer))  # type: ignore[misc]
    found = [
        (words, frozenset(item.id for item in items if fits(item)), "") for words, fits in ways
    ]
    for colour in list(dict.fromkeys(item.colour for item in items if item.colour))[:_MOST]:
        ids = frozenset(item.id for item in items if item.colour == colour)
        found.append((colour_word(colour).capitalize(), ids, colour))
    return [each for each in found if each[1]]
