"""Pictures of a job that was opened: read once, so that what cannot be read is found now and not
while painting."""

from __future__ import annotations

from draxet.gather.load import LoadedPicture, PictureError, read_picture
from draxet.job.picture_edits import remove_picture
from draxet.job.picture_records import Picture
from draxet.job.records import Job
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["ReadableJob", "with_readable_pictures"]


@record(frozen=True, eq=False)
class ReadableJob:
    """A job whose pictures can be read, their pixels as they came, and what was left out, in
    sentences."""

    job: Job
    loaded: tuple[tuple[Picture, LoadedPicture], ...]
    remarks: tuple[str, ...] = ()


def with_readable_pictures(job: Job, progress: Progress | None = None) -> ReadableJob:
    """The job without pictures that cannot be read or are not of the size that the job says; what
    was traced from them stays.

    Raises
    ------
    Cancelled : where `progress` says so.
    """
    report = progress or Unwatched()
    loaded: dict[tuple[int, int], LoadedPicture] = {}
    found, remarks = [], []
    for number, picture in enumerate(job.pictures):
        report(number / len(job.pictures), f"reading {picture.name}")
        key = (id(picture.source), picture.page)
        try:
            loaded[key] = loaded.get(key) or read_picture(
                picture.source, picture.name, picture.page
            )
            if loaded[key].size != picture.file_size:
                raise PictureError(
                    f"{picture.name} is {loaded[key].size[0]} × {loaded[key].size[1]} pixels, not the {picture.file_size[0]} × {picture.file_size[1]} of the job"
                )
            found.append((picture, loaded[key]))
        except PictureError as error:
            job = remove_picture(job, picture.id)
            remarks.append(f"a picture was left out: {error}")
    return ReadableJob(job, tuple(found), tuple(remarks))
