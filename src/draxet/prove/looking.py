"""What stands between a job and the machine: a list of looks at the job, each of which answers with
findings.

Another look is one more function and one line in ``LOOKS``, or in ``LONG_LOOKS``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import partial
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Floats
from draxet.geometry.contour import boxes_of
from draxet.geometry.nesting import as_polygon
from draxet.job.bridge_edits import remove_bridges
from draxet.job.bridges import cuts_held, cuts_of
from draxet.job.contour_edits import mean_slits
from draxet.job.falls import Falls, Piece
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.lettering import letters_of, out_of_place, stood_straight
from draxet.job.operating import remove_operation, set_operation
from draxet.job.operations import Operation, Pocket
from draxet.job.recipe import Recipe, best_first
from draxet.job.records import ContourItem, Job
from draxet.job.remember import Remembered
from draxet.job.twice import drawn_twice, kept_once
from draxet.job.work import cut_work, vanishing_cuts
from draxet.progress import Progress, Unwatched
from draxet.prove.crossed import Crossed, crossing_each_other

__all__ = [
    "LONG_FIELDS",
    "LONG_LOOKS",
    "LOOKS",
    "Look",
    "Watch",
    "beyond_limit",
    "findings_of",
    "gravest_first",
]

_LIMIT_FINE = 0.02
_MOST_PLACES = 200
_ON_RIM = 1e-3
_LEFT_OVER = 0.02
"""Of the square of a tool's diameter: so much of a pocket may stay in its corners untold."""
_HAIR = 0.002
"""mm: the cut of a contour without an operation takes nothing away."""

Look = Callable[[Job], list[Finding]]


def _unsized(job: Job) -> list[Finding]:
    pictures = [picture for picture in job.pictures if not picture.known_lengths]
    if not pictures or not job.contours:
        return []
    traced = {item.picture for item in job.contours}
    gravity = (
        Gravity.STOPS if any(picture.id in traced for picture in pictures) else Gravity.INFORMS
    )
    words = (
        f"The size of {pictures[0].name} is not known: nothing says that its contours are to scale"
    )
    return [
        Finding(
            "unsized",
            words,
            gravity,
            "trueup",
            tuple(p.id for p in pictures),
            (pictures[0].middle,),
        )
    ]


def _open(job: Job) -> list[Finding]:
    items = job.opened
    if not items:
        return []
    ids = tuple(item.id for item in items)
    places = tuple(
        (float(x), float(y))
        for item in items[:_MOST_PLACES]
        for x, y in (item.contour.nodes[0], item.contour.nodes[-1])
    )
    cut = sum(item.id in job.cut_of for item in items)
    so = (
        f"{' and' if cut == len(items) else f', {cut}'} would be cut as {'a slit' if cut == 1 else 'slits'}"
        if cut
        else ""
    )
    words = f"{count_words(len(items), 'contour')} {'is' if len(items) == 1 else 'are'} open{so}"
    return [
        Finding(
            "open",
            words,
            Gravity.WARNS,
            "mend",
            ids,
            places,
            partial(mean_slits, ids=ids),
            "Meant as a slit" if len(items) == 1 else "Meant as slits",
        )
    ]


def _drawn_twice(job: Job) -> list[Finding]:
    groups = drawn_twice(job.contours)
    if not groups:
        return []
    items = [job.contours[k] for group in groups for k in group]
    words = f"{count_words(len(groups), 'contour')} {'is' if len(groups) == 1 else 'are'} drawn twice: {'it is' if len(groups) == 1 else 'they are'} cut once"
    ids, places = _where(items)
    return [
        Finding(
            "drawn-twice",
            words,
            Gravity.WARNS,
            "mend",
            ids,
            places,
            partial(kept_once, ids=ids),
            "Keep one of each",
        )
    ]


def _words_out_of_place(job: Job) -> list[Finding]:
    """Words that do not run along the contour that they should."""
    found = []
    for lettering, why in out_of_place(job) if any(each.along for each in job.letterings) else ():
        ids = tuple(sorted(letters_of(job, lettering)))
        items = [job.contour_by_id[name] for name in ids]
        mend = partial(stood_straight, lettering_id=lettering.id)
        found.append(
            Finding(
                f"words-{lettering.id}",
                f"The words “{lettering.words[:30]}” {why}",
                Gravity.WARNS,
                "trace",
                *_where(items),
                mend,
                "Straight from now on",
            )
        )
    return found


def _without_operation(job: Job) -> list[Finding]:
    left = [item for item in job.contours if item.id not in job.worked]
    if not left:
        return []
    return [
        Finding(
            "no-operation",
            f"{count_words(len(left), 'contour')} without an operation will not leave",
            Gravity.WARNS,
            "make",
            *_where(left),
        )
    ]


def _outside(job: Job) -> list[Finding]:
    if not job.contours:
        return []
    boxes, frame = _boxes(job.contours), _frames(job)
    outside = (boxes[:, :2] < frame[:, :2] - 1e-6).any(axis=1) | (
        boxes[:, 2:] > frame[:, 2:] + 1e-6
    ).any(axis=1)
    found = [job.contours[k] for k in np.flatnonzero(outside).tolist()]
    if not found:
        return []
    cut = any(item.id in job.worked for item in found)
    words = f"{count_words(len(found), 'contour')} outside the {'sheet' if len(job.sheets) == 1 else 'sheets'}"
    return [
        Finding(
            "outside-sheet", words, Gravity.STOPS if cut else Gravity.WARNS, "prove", *_where(found)
        )
    ]


def _near_rim(job: Job) -> list[Finding]:
    """Contours that leave an edge of their sheet thinner than the smallest feature; what lies on
    the rim itself, or beyond, leaves none."""
    if not job.contours:
        return []
    boxes, frame = _boxes(job.contours), _frames(job)
    room = np.hstack([boxes[:, :2] - frame[:, :2], frame[:, 2:] - boxes[:, 2:]])
    thin = (room > _ON_RIM) & (room < job.smallest_feature)
    found = [job.contours[k] for k in np.flatnonzero(thin.any(axis=1)).tolist()]
    if not found:
        return []
    words = f"{count_words(len(found), 'contour')} nearer to the rim of the sheet than the smallest feature, {job.smallest_feature:g} mm: {room[thin].min():.2f} mm"
    return [Finding("near-rim", words, Gravity.WARNS, "prove", *_where(found))]


def _beyond(job: Job) -> list[Finding]:
    beyond = beyond_limit(job)
    if not beyond or job.limit is None:
        return []
    found = [job.contour_by_id[contour] for contour in beyond]
    return [
        Finding(
            "outside-limit",
            f"{count_words(len(found), 'contour')} outside the limit: {job.limit.name}",
            Gravity.STOPS,
            "prove",
            *_where(found),
        )
    ]


def _too_small(job: Job) -> list[Finding]:
    """Closed contours whose width or height is under the smallest feature."""
    if not job.contours:
        return []
    boxes = _boxes(job.contours)
    small = ((boxes[:, 2:] - boxes[:, :2]).min(axis=1) < job.smallest_feature) & np.array(
        [item.contour.closed for item in job.contours]
    )
    found = [job.contours[k] for k in np.flatnonzero(small).tolist()]
    words = f"{count_words(len(found), 'contour')} smaller than the smallest feature, {job.smallest_feature:g} mm"
    return [Finding("too-small", words, Gravity.WARNS, "mend", *_where(found))] if found else []


def _vanishing(job: Job) -> list[Finding]:
    gone = vanishing_cuts(cut_work(job))
    if not gone:
        return []
    ids = tuple(dict.fromkeys(contour for each in gone for contour in each.ids))
    words = f"{count_words(len(gone), 'opening')} narrower than the cut would not be cut at all; cut on the line, or with a narrower cut"
    return [
        Finding(
            "vanishing",
            words,
            Gravity.STOPS,
            "make",
            *_where([job.contour_by_id[contour] for contour in ids]),
        )
    ]


def _within(items: Sequence[ContourItem], boxes: Floats, room: Any, x: float, y: float) -> Bools:
    """Which contours lie wholly in a room that is counted from a place, as their boxes are."""
    room = (room if room.is_valid else shapely.make_valid(room)).buffer(1e-6)
    shapely.prepare(room)
    inside: Bools = shapely.contains(room, shapely.box(*boxes.T))
    for k in np.flatnonzero(~inside).tolist():
        inside[k] = bool(
            room.contains(shapely.MultiPoint(items[k].contour.flattened(_LIMIT_FINE) - (x, y)))
        )
    return inside


def _out_of_reach(job: Job) -> list[Finding]:
    """Contours with an operation that the sheet's machine cannot get to."""
    found, names = list[ContourItem](), list[str]()
    for sheet in job.sheets:
        machine = job.machine_of(sheet)
        here = [item for item in job.contours if item.sheet == sheet.id and item.id in job.worked]
        if not here:
            continue
        boxes = _boxes(here) - np.array([sheet.x, sheet.y, sheet.x, sheet.y])
        far = (
            (boxes[:, :2] < -1e-6).any(axis=1)
            | (boxes[:, 2] > machine.reach_x + 1e-6)
            | (boxes[:, 3] > machine.reach_y + 1e-6)
        )
        if machine.outline is not None:
            far = ~_within(here, boxes, as_polygon(machine.outline, _LIMIT_FINE), sheet.x, sheet.y)
        beyond = [here[k] for k in np.flatnonzero(far).tolist()]
        found += beyond
        names += [machine.name] if beyond else []
    if not found:
        return []
    return [
        Finding(
            "out-of-reach",
            f"{count_words(len(found), 'contour')} out of the reach of the {names[0].lower()}",
            Gravity.STOPS,
            "make",
            *_where(found),
        )
    ]


def _unfit(job: Job) -> list[Finding]:
    """Operations that the sheet's machine cannot do, and contours that an operation cannot be done
    to."""
    found = []
    for operation in job.operations:
        items = [job.contour_by_id[name] for name in operation.contours]
        wrong = [
            item
            for item in items
            for sheet in job.sheets
            if sheet.id == item.sheet and not job.machine_of(sheet).can_do(operation)
        ]
        if wrong:
            sheet = next(sheet for sheet in job.sheets if sheet.id == wrong[0].sheet)
            words = f"The {job.machine_of(sheet).name.lower()} cannot {operation.acts.lower()}: {operation.name} is for another machine"
            found.append(
                Finding(
                    f"unfit-{operation.id}",
                    words,
                    Gravity.STOPS,
                    "make",
                    *_where(wrong),
                    partial(remove_operation, operation_id=operation.id),
                    "Remove it",
                )
            )
        for why, ids in operation.wrong_with([(item.id, item.contour) for item in items]).items():
            bad = [job.contour_by_id[name] for name in ids]
            words = f"{operation.name}: {count_words(len(bad), 'contour')} {why}"
            mend = partial(_without_contours, operation_id=operation.id, ids=frozenset(ids))
            found.append(
                Finding(
                    f"wrong-{operation.id}",
                    words,
                    Gravity.STOPS,
                    "make",
                    *_where(bad),
                    mend,
                    "Take them out of it" if len(bad) > 1 else "Take it out of it",
                )
            )
    return found


def _no_recipe(job: Job, operation: Operation, items: Sequence[ContourItem]) -> list[Finding]:
    """An operation without a recipe, where there is one for the machine, the material and the
    thickness of its sheet."""
    sheet = next((sheet for sheet in job.sheets if items and sheet.id == items[0].sheet), job.sheet)
    best = best_first(
        job.every_recipe, sheet.machine, sheet.material, sheet.thickness, type(operation).__name__
    )
    fits = [
        recipe
        for recipe in best
        if recipe.material.casefold() == sheet.material.casefold()
        and abs(recipe.thickness - sheet.thickness) < 1e-6
    ]
    what = f"{sheet.material}, {sheet.thickness:g} mm"
    if not fits:
        return [
            Finding(
                f"no-recipe-{operation.id}",
                f"{operation.name} goes by no recipe, and there is none for {what}: try it on a coupon",
                Gravity.INFORMS,
                "make",
                *_where(items),
            )
        ]
    words = f"{operation.name} goes by no recipe; there is one for {what}: {fits[0].name}"
    return [
        Finding(
            f"no-recipe-{operation.id}",
            words,
            Gravity.INFORMS,
            "make",
            *_where(items),
            partial(_by_recipe, operation_id=operation.id, recipe=fits[0]),
            "Take it",
        )
    ]


def _by_recipe(job: Job, operation_id: str, recipe: Recipe) -> Job:
    return set_operation(
        job, recipe.applied(next(each for each in job.operations if each.id == operation_id))
    )


def _other_recipe(job: Job) -> list[Finding]:
    """Operations whose recipe is gone, or was made for another thickness than their sheet has."""
    recipes = {recipe.id: recipe for recipe in job.every_recipe}
    thickness = {sheet.id: sheet.thickness for sheet in job.sheets}
    found = []
    for operation in job.operations:
        items = [job.contour_by_id[name] for name in operation.contours]
        if operation.waits:
            continue
        if not operation.recipe:
            found += _no_recipe(job, operation, items)
            continue
        recipe = recipes.get(operation.recipe)
        if recipe is None:
            found.append(
                Finding(
                    f"recipe-{operation.id}",
                    f"The recipe of {operation.name} is not in this job",
                    Gravity.INFORMS,
                    "make",
                    *_where(items),
                )
            )
            continue
        off = [
            item
            for item in items
            if abs(thickness.get(item.sheet, recipe.thickness) - recipe.thickness) > 1e-6
        ]
        if off:
            words = f"{operation.name} goes by the recipe {recipe.name}, made for {recipe.thickness:g} mm; its sheet is {thickness[off[0].sheet]:g} mm thick"
            found.append(
                Finding(f"recipe-{operation.id}", words, Gravity.WARNS, "make", *_where(off))
            )
    return found


def _cut_and_filled(job: Job) -> list[Finding]:
    """Contours whose area is engraved or cleared, and that are cut through as well: what is filled
    would fall out."""
    filled = {
        name
        for operation in job.operations
        if operation.wants == "closed"
        for name in operation.contours
    }
    found = []
    for operation in job.operations:
        both = [
            job.contour_by_id[name]
            for name in operation.contours
            if operation.through and name in filled
        ]
        if both:
            words = f"{operation.name} cuts out {count_words(len(both), 'area')} that {'is' if len(both) == 1 else 'are'} to be filled"
            mend = partial(
                _without_contours,
                operation_id=operation.id,
                ids=frozenset(item.id for item in both),
            )
            found.append(
                Finding(
                    f"cut-and-filled-{operation.id}",
                    words,
                    Gravity.WARNS,
                    "make",
                    *_where(both),
                    mend,
                    "Take them out of the cut" if len(both) > 1 else "Take it out of the cut",
                )
            )
    return found


def _without_contours(job: Job, operation_id: str, ids: frozenset[str]) -> Job:
    operation = next(each for each in job.operations if each.id == operation_id)
    left = [name for name in operation.contours if name not in ids]
    return (
        set_operation(job, operation.with_contours(left))
        if left
        else remove_operation(job, operation_id)
    )


def _idle_bridges(job: Job) -> list[Finding]:
    """Bridges that hold nothing, as their contour is gone or was moved."""
    idle = (
        [
            effect
            for effect in cuts_held(cuts_of(job, job.contours, _HAIR), job.bridges).effects
            if effect.shape is None
        ]
        if job.bridges
        else []
    )
    if not idle:
        return []
    words = f"{count_words(len(idle), 'bridge')} {'holds' if len(idle) == 1 else 'hold'} nothing: {idle[0].lost}"
    mend = partial(remove_bridges, ids=tuple(effect.bridge.id for effect in idle))
    return [
        Finding(
            "idle-bridge",
            words,
            Gravity.WARNS,
            "mend",
            (),
            tuple(effect.place for effect in idle[:_MOST_PLACES]),
            mend,
            "Remove them" if len(idle) > 1 else "Remove it",
        )
    ]


class _WhatHolds:
    """Islands that fall out with what is round them, and walls and necks of what stays that are
    thinner than the smallest feature, once every cut has run."""

    def __init__(self) -> None:
        self._falls = Falls()

    def __call__(self, job: Job) -> list[Finding]:
        if not job.contours:
            return []
        fallout = self._falls.of(job, job.contours, _HAIR, job.smallest_feature)
        return [
            *_islands(fallout.islands if job.operations else ()),
            *self._walls(job, fallout.pieces),
        ]

    @staticmethod
    def _walls(job: Job, pieces: Sequence[Piece]) -> list[Finding]:
        walls = [wall for piece in pieces for wall in piece.walls]
        places = [
            *((wall.x, wall.y) for wall in walls),
            *(place for piece in pieces for place in piece.threads),
        ]
        if not places:
            return []
        thinnest = (
            f": {min(wall.left for wall in walls):.2f} mm are left at the thinnest" if walls else ""
        )
        words = f"{count_words(len(places), 'wall')} thinner than the smallest feature, {job.smallest_feature:g} mm{thinnest}"
        return [
            Finding("thin-wall", words, Gravity.WARNS, "mend", places=tuple(places[:_MOST_PLACES]))
        ]


def _islands(islands: Sequence[Piece]) -> list[Finding]:
    if not islands:
        return []
    one = len(islands) == 1
    fall, them, are = ("falls", "it", "it is") if one else ("fall", "them", "they are")
    words = f"{count_words(len(islands), 'island')} {fall} out with what is round {them}; hold {them} by bridges, or say in Falls or stays that {are} meant to"
    return [
        Finding(
            "island",
            words,
            Gravity.WARNS,
            "mend",
            places=tuple(piece.place for piece in islands[:_MOST_PLACES]),
        )
    ]


def _unreached(job: Job) -> list[Finding]:
    """Pockets that have no room for their tool, and what of them it cannot get to."""
    from draxet.job.operations.pocket import unreached  # not needed to show a window

    found = []
    for operation in job.operations:
        if not isinstance(operation, Pocket):
            continue
        items = [
            job.contour_by_id[name]
            for name in operation.contours
            if job.contour_by_id[name].contour.closed
        ]
        left = unreached([item.contour for item in items], operation.diameter) if items else None
        if left is None or left.area < _LEFT_OVER * operation.diameter**2:
            continue
        if not operation.paths([(item.id, item.contour) for item in items], 1.0):
            words = f"{operation.name}: no room for a tool of {operation.diameter:g} mm; take a thinner one"
            found.append(
                Finding(f"no-room-{operation.id}", words, Gravity.STOPS, "make", *_where(items))
            )
            continue
        parts = sorted(shapely.get_parts(left), key=lambda part: -part.area)[:_MOST_PLACES]
        words = f"{operation.name}: {left.area:.1f} mm² of corners cannot be reached by a tool of {operation.diameter:g} mm"
        found.append(
            Finding(
                f"unreached-{operation.id}",
                words,
                Gravity.INFORMS,
                "make",
                tuple(item.id for item in items),
                tuple((part.centroid.x, part.centroid.y) for part in parts),
            )
        )
    return found


LOOKS: tuple[tuple[Look | type, tuple[str, ...]], ...] = (
    (_unsized, ("pictures", "contours")),
    (_open, ("contours", "operations")),
    (Crossed, ("contours", "operations")),
    (_drawn_twice, ("contours",)),
    (_words_out_of_place, ("contours", "letterings")),
    (_without_operation, ("contours", "operations")),
    (_outside, ("contours", "sheets", "operations")),
    (_near_rim, ("contours", "sheets", "smallest_feature")),
    (_beyond, ("contours", "limit", "sheets", "sheet_id")),
    (_too_small, ("contours", "smallest_feature")),
    (_vanishing, ("contours", "operations", "bridges", "fits")),
    (_out_of_reach, ("contours", "operations", "sheets", "machines")),
    (_other_recipe, ("contours", "operations", "sheets", "sheet_id", "recipes")),
    (_unfit, ("contours", "operations", "sheets", "machines")),
    (_cut_and_filled, ("contours", "operations")),
    (_idle_bridges, ("contours", "operations", "bridges", "fits")),
)
"""Each look, and the fields of the job that it depends on; of a class each watch makes one of its
own, which remembers."""

LONG_LOOKS: tuple[tuple[Look | type, tuple[str, ...]], ...] = (
    (_WhatHolds, ("contours", "operations", "bridges", "fits", "drop_outs", "smallest_feature")),
    (_unreached, ("contours", "operations")),
    (crossing_each_other, ("contours", "operations")),
)
"""Likewise those that may take long even in a small job."""
LONG_FIELDS = tuple(dict.fromkeys(name for _, fields in LONG_LOOKS for name in fields))
"""The fields of a job that long looks go by."""


class Watch:
    """Findings of a job, looked for anew only where what they depend on has changed."""

    def __init__(self, looks: Sequence[tuple[Look | type, tuple[str, ...]]] = LOOKS) -> None:
        self._looks = [
            Remembered(look() if isinstance(look, type) else look, *fields)
            for look, fields in looks
        ]

    def known(self, job: Job) -> bool:
        """Whether nothing need be looked for."""
        return all(look.known(job) for look in self._looks)

    def of(self, job: Job, report: Progress = Unwatched()) -> tuple[Finding, ...]:
        """All findings, the gravest first. Cancelled where `report` says so."""
        found = list[Finding]()
        for number, look in enumerate(self._looks):
            report(number / len(self._looks), "looking for what is wrong")
            found += look.of(job)
        return gravest_first(found)


def gravest_first(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings in the order in which they are listed."""
    return tuple(sorted(findings, key=lambda finding: -finding.gravity))


def findings_of(job: Job) -> tuple[Finding, ...]:
    """What stands between the job and the machine, gravest first; empty where nothing does."""
    return Watch((*LOOKS, *LONG_LOOKS)).of(job)


def beyond_limit(job: Job) -> tuple[str, ...]:
    """Contours of the sheet in hand that do not lie wholly within the machine's limit."""
    if job.limit is None:
        return ()
    sheet = job.sheet
    here = [item for item in job.contours if item.sheet == sheet.id]
    if not here:
        return ()
    boxes = _boxes(here) - np.array([sheet.x, sheet.y, sheet.x, sheet.y])
    inside = _within(
        here, boxes, shapely.Polygon(job.limit.outline.flattened(_LIMIT_FINE)), sheet.x, sheet.y
    )
    return tuple(here[k].id for k in np.flatnonzero(~inside).tolist())


def _frames(job: Job) -> Floats:
    """For each contour the box (4,) of its sheet."""
    frames = {sheet.id: sheet.box for sheet in job.sheets}
    return np.array(
        [frames.get(item.sheet, job.sheets[0].box) for item in job.contours], dtype=np.float64
    )


def _boxes(items: Sequence[ContourItem]) -> Floats:
    return boxes_of([item.contour for item in items])


def _where(items: Sequence[ContourItem]) -> tuple[tuple[str, ...], tuple[tuple[float, float], ...]]:
    """Ids, and the middles of the first of them."""
    boxes = _boxes(items[:_MOST_PLACES])
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    return tuple(item.id for item in items), tuple((float(x), float(y)) for x, y in middles)
