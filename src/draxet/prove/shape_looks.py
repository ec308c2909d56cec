"""Looks at what is drawn: its size, its ends, its doubles, its details."""

from __future__ import annotations

from functools import partial

import numpy as np

from draxet.job.contour_edits import mean_slits
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.lettering import letters_of, out_of_place, stood_straight
from draxet.job.picture_edits import mean_size
from draxet.job.records import Job
from draxet.job.twice import drawn_twice, kept_once
from draxet.job.work import cut_work, vanishing_cuts
from draxet.prove.look_places import MOST_PLACES, boxes_of_items, ids_and_middles

__all__ = [
    "contours_drawn_twice",
    "open_contours",
    "pictures_without_size",
    "too_small_details",
    "vanishing_contours",
    "words_out_of_place",
]


def pictures_without_size(job: Job) -> list[Finding]:
    """Pictures whose size is neither known nor meant; one from which contours were traced first."""
    if not job.contours:
        return []
    traced = {item.picture for item in job.contours}
    pictures = [picture for picture in job.pictures if not picture.is_sized]
    pictures.sort(key=lambda picture: picture.id not in traced)
    if not pictures:
        return []
    gravity = Gravity.STOPS if pictures[0].id in traced else Gravity.INFORMS
    ids = tuple(picture.id for picture in pictures)
    return [
        Finding(
            "unsized",
            f"The size of {pictures[0].name} is not known: nothing says that its contours are to scale",
            gravity,
            "trueup",
            ids,
            (pictures[0].middle,),
            partial(mean_size, ids=ids),
            "This size is meant",
        )
    ]


def open_contours(job: Job) -> list[Finding]:
    items = job.opened
    if not items:
        return []
    ids = tuple(item.id for item in items)
    places = tuple(
        (float(x), float(y))
        for item in items[:MOST_PLACES]
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


def contours_drawn_twice(job: Job) -> list[Finding]:
    groups = drawn_twice(job.contours)
    if not groups:
        return []
    items = [job.contours[k] for group in groups for k in group]
    one = len(groups) == 1
    words = f"{count_words(len(groups), 'contour')} {'is' if one else 'are'} drawn twice"
    if job.is_worked:
        words = f"{words}: {'it is' if one else 'they are'} cut once"
    ids, places = ids_and_middles(items)
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


def words_out_of_place(job: Job) -> list[Finding]:
    """Words that do not run along the contour that they should."""
    found = []
    for lettering, why in (
        out_of_place(job) if any(each.along or each.adrift for each in job.letterings) else ()
    ):
        ids = tuple(sorted(letters_of(job, lettering)))
        items = [job.contour_by_id[name] for name in ids]
        mend = partial(stood_straight, lettering_id=lettering.id)
        found.append(
            Finding(
                f"words-{lettering.id}",
                f"The words “{lettering.words[:30]}” {why}",
                Gravity.WARNS,
                "trace",
                *ids_and_middles(items),
                mend,
                "Straight from now on",
            )
        )
    return found


def too_small_details(job: Job) -> list[Finding]:
    """Closed contours whose width or height is under the smallest feature."""
    if not job.contours:
        return []
    boxes = boxes_of_items(job.contours)
    small = ((boxes[:, 2:] - boxes[:, :2]).min(axis=1) < job.smallest_feature) & np.array(
        [item.contour.closed for item in job.contours]
    )
    found = [job.contours[k] for k in np.flatnonzero(small).tolist()]
    words = f"{count_words(len(found), 'contour')} smaller than the smallest feature, {job.smallest_feature:g} mm"
    return (
        [Finding("too-small", words, Gravity.WARNS, "mend", *ids_and_middles(found))]
        if found
        else []
    )


def vanishing_contours(job: Job) -> list[Finding]:
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
            *ids_and_middles([job.contour_by_id[contour] for contour in ids]),
        )
    ]
