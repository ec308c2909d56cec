"""Words in the job: set as contours, changed as words, turned into contours for good.

The contours of a lettering are those of its group. It is a lettering for as long as they are as
they were set; what is done to their shape by hand, or to some of them alone, turns it into
contours. Words that have no room along their contour any more stay as they were, and those whose
contour is gone stand straight where they were: both are told.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from draxet.files import plain_words
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shared_edges import equal_outlines
from draxet.job.contour_edits import add_contours, filled_parts, remove_contours, replace_contours
from draxet.job.contour_records import Lettering, Part
from draxet.job.layout_names import drawn_name
from draxet.job.operations import Operation
from draxet.job.records import Job

__all__ = [
    "add_lettering",
    "contours_of",
    "lettering_with",
    "letters_of",
    "out_of_place",
    "set_again",
    "settled",
    "stood_straight",
    "turned_into_contours",
]

_NAME_LETTERS = 40


def contours_of(job: Job, lettering: Lettering) -> list[Contour]:
    """What a lettering looks like.

    Raises
    ------
    FaceError : where its face is not there, or it is longer than what it runs along.
    """
    from draxet.lettering.faces import face_named  # not needed to show a window
    from draxet.lettering.setting import set_along, set_rows, set_straight

    letters = set_rows(
        face_named(lettering.face),
        lettering.words,
        lettering.height,
        lettering.spacing,
        lettering.align,
    )
    leading = lettering.leading * lettering.height
    base = job.layout.contour_by_id.get(lettering.along)
    if base is not None:
        made = set_along(
            letters,
            base.contour,
            lettering.near,
            lettering.away,
            leading,
            other_side=lettering.other_side,
        )
    else:
        made = [each.transformed(lettering.placed) for each in set_straight(letters, leading)]
    return _with_again(made, lettering.again)


def _with_again(contours: list[Contour], places: Iterable[Affine]) -> list[Contour]:
    """Contours and what symmetry sets of them, none on another one."""
    every = list(contours)
    for place in places:
        again = (contour.transformed(place) for contour in contours)
        every += again if place.determinant > 0 else (contour.reversed() for contour in again)
    doubles = (
        {k for group in equal_outlines(every) for k in group[1:] if k >= len(contours)}
        if len(every) > len(contours)
        else set()
    )
    return [contour for k, contour in enumerate(every) if k not in doubles]


def out_of_place(job: Job) -> list[tuple[Lettering, str]]:
    """Letterings that do not run along the contour that they should, and why."""
    from draxet.lettering.faces import FaceError  # not needed to show a window

    found = []
    for lettering in job.letterings:
        if lettering.adrift:
            found.append((lettering, "ran along a contour that is gone, and stand straight now"))
        elif lettering.along:
            try:
                contours_of(job, lettering)
            except FaceError as error:
                found.append((lettering, f"stay as they were: {error}"))
    return found


def stood_straight(job: Job, lettering_id: str) -> Job:
    """Words that run along no contour any more, straight where they were."""
    lettering = next(each for each in job.letterings if each.id == lettering_id)
    return set_again(job, replace(lettering, adrift=False))


def letters_of(job: Job, lettering: Lettering) -> frozenset[str]:
    """Ids of its contours."""
    return frozenset(item.id for item in job.contours if item.part == lettering.part)


def lettering_with(job: Job, contour_id: str) -> Lettering | None:
    """The lettering that a contour is part of."""
    item = job.contour_by_id.get(drawn_name(contour_id))
    return next(
        (each for each in job.letterings if item is not None and item.part == each.part), None
    )


def add_lettering(job: Job, lettering: Lettering) -> tuple[Job, str]:
    """The job with words set, and the lettering's id; the one given needs no id and no group yet.

    Raises
    ------
    FaceError : as ``contours_of``.
    """
    number = job.next_id
    made = replace(lettering, id=f"lettering-{number}", part=f"part-{number + 1}")
    groups = (*job.parts, Part(made.part, _name(made.words)))
    contours = contours_of(job, made)
    return _put(
        replace(job, parts=groups, letterings=(*job.letterings, made), next_id=number + 2),
        made,
        contours,
        (),
    ), made.id


def set_again(job: Job, lettering: Lettering) -> Job:
    """A lettering with other words or settings in its place; what outlines and openings were cut by
    goes on to the new ones.

    Raises
    ------
    FaceError : as ``contours_of``.
    """
    old = letters_of(job, lettering)
    turns = {item.id: item.contour.area > 0 for item in job.contours if item.id in old}
    letterings = tuple(lettering if each.id == lettering.id else each for each in job.letterings)
    groups = tuple(
        replace(group, name=_name(lettering.words)) if group.id == lettering.part else group
        for group in job.parts
    )
    job = replace(job, letterings=letterings, parts=groups)
    contours, items = contours_of(job, lettering), [item for item in job.contours if item.id in old]
    if [item.contour.area > 0 for item in items] == [
        contour.area > 0 for contour in contours
    ]:  # each goes on as itself
        return replace_contours(
            job, {item.id: contour for item, contour in zip(items, contours, strict=True)}
        )
    return _worked_as_before(job, _put(job, lettering, contours, old), lettering, turns)


def _worked_as_before(before: Job, made: Job, lettering: Lettering, turns: dict[str, bool]) -> Job:
    """A job with the new letters of a lettering under the operations that worked the old ones
    `before` (their ids to whether each was an outline), or waited for such."""
    letters = [item for item in made.contours if item.part == lettering.part]
    new = {
        turn: [item.id for item in letters if (item.contour.area > 0) == turn]
        for turn in (True, False)
    }
    waiting: dict[str, set[bool]] = {}
    for name, turn in lettering.waiting:
        waiting.setdefault(name, set()).add(turn)
    left, operations = list[tuple[str, bool]](), list[Operation]()
    for operation in before.operations:
        had = {turns[c] for c in operation.contours if c in turns}
        had |= waiting.get(operation.id, set())
        if had:
            kept = [c for c in operation.contours if c not in turns]
            left += [(operation.id, turn) for turn in sorted(had) if not new[turn]]
            operation = operation.with_contours(
                [*kept, *(c for turn in (True, False) if turn in had for c in new[turn])]
            )
            operation = replace(operation, waits=False)  # type: ignore[type-var]
            operation = operation if operation.stands else replace(operation, waits=True)  # type: ignore[type-var]
        operations.append(operation)
    now = replace(lettering, waiting=tuple(left))
    return replace(
        made,
        letterings=tuple(now if each.id == now.id else each for each in before.letterings),
        operations=tuple(each for each in operations if each.stands),
    )


def _put(job: Job, lettering: Lettering, contours: Sequence[Contour], old: Iterable[str]) -> Job:
    groups = job.parts
    job = add_contours(remove_contours(job, old), contours)
    start = len(job.contours) - len(contours)
    own = tuple(replace(item, part=lettering.part) for item in job.contours[start:])
    return replace(job, contours=(*job.contours[:start], *own), parts=groups)


def _name(words: str) -> str:
    return plain_words(" ".join(words.split())[:_NAME_LETTERS]) or "Words"


def turned_into_contours(job: Job, lettering_id: str) -> Job:
    """The words are contours like others from then on, still one group."""
    return replace(
        job, letterings=tuple(each for each in job.letterings if each.id != lettering_id)
    )


def settled(before: Job, after: Job) -> Job:
    """A job after an edit, its letterings settled: those along a contour that has changed are set
    anew, those whose letters were changed or are gone are contours."""
    if all(
        getattr(after, name) is getattr(before, name)
        for name in ("contours", "letterings", "parts", "placements")
    ):
        return after
    if not after.letterings:
        return _without_idle(after)
    was = {each.id: each for each in before.letterings}
    for lettering in after.letterings:
        old, left = was.get(lettering.id), letters_of(after, lettering)
        base = after.layout.contour_by_id.get(lettering.along)
        if not left:
            after = turned_into_contours(after, lettering.id)
        elif lettering.adrift and not (old and old.adrift):
            after = _followed(after, lettering)
        elif old is not lettering:
            continue  # it was set anew, or went along with its contours
        elif _changed(before, after, lettering):
            after = turned_into_contours(after, lettering.id)
        elif (
            base is not None
            and base.contour is not before.layout.contour_by_id[lettering.along].contour
        ):
            after = _followed(after, lettering)
    after = _without_idle(after)
    return after if len(after.letterings) == len(was) else replace(after, parts=filled_parts(after))


def _without_idle(job: Job) -> Job:
    """Without operations that wait for words which are none any more."""
    wanted = {name for lettering in job.letterings for name, _ in lettering.waiting}
    idle = [
        operation
        for operation in job.operations
        if operation.waits and not operation.contours and operation.id not in wanted
    ]
    return (
        replace(
            job,
            operations=tuple(operation for operation in job.operations if operation not in idle),
        )
        if idle
        else job
    )


def _changed(before: Job, after: Job, lettering: Lettering) -> bool:
    then, now = letters_of(before, lettering), letters_of(after, lettering)
    return then != now or any(
        before.contour_by_id[k].contour is not after.contour_by_id[k].contour for k in now
    )


def _followed(job: Job, lettering: Lettering) -> Job:
    from draxet.lettering.faces import FaceError  # not needed to show a window

    try:
        return set_again(job, lettering)
    except FaceError:  # it has no room along the contour any more: as it was, and told
        return job
