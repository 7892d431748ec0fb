"""The jobs of photos, kept in PostgreSQL: nothing is lost when a worker is killed, and any machine may work."""

from __future__ import annotations

from django.db import close_old_connections, transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import UniqueViolation
from procrastinate.jobs import Status

from eyot.photos import processing
from eyot.photos.models import Photo
from eyot.photos.queries import WAITING, progress_of
from eyot.shared.jobs import RETRY

STALLED_SECONDS = 30.0


@app.task(name="photos.sizes", queue="photos", retry=RETRY)
def sizes(photo: str) -> None:
    """Makes the sizes of a photo."""
    close_old_connections()
    processing.make_sizes(photo)


@app.task(name="photos.strip", queue="photos", retry=RETRY)
def strip(photo: str) -> None:
    """Makes the strip and the measures of a photo."""
    close_old_connections()
    processing.make_strip(photo)


@app.task(name="photos.look", queue="photos", retry=RETRY)
def look(photo: str) -> None:
    """Looks a photo over: cards, light, the line along the back."""
    close_old_connections()
    look_over(photo)


def look_over(photo_id: str) -> None:
    """Looks a photo over, and orders what follows of that."""
    with transaction.atomic():
        wanted = processing.look_over(photo_id)
        if wanted.sizes or wanted.strip:
            order(Photo.objects.get(pk=photo_id), sizes_too=wanted.sizes, strip_too=wanted.strip, look_too=False)


@app.periodic(cron="* * * * *")
@app.task(name="photos.rescue", queue="photos", pass_context=False)
async def rescue(timestamp: int) -> None:
    """Puts back the jobs of workers that have been silent for a while."""
    await rescue_stalled()


async def rescue_stalled(silent: float = STALLED_SECONDS) -> int:
    """Puts back the jobs of workers that were silent for so many seconds, but for those whose like waits already; how many."""
    stalled = list(await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=silent))
    for job in stalled:
        try:
            await app.job_manager.retry_job(job)
        except UniqueViolation:
            await app.job_manager.finish_job(job, status=Status.FAILED, delete_job=True)
    return len(stalled)


@app.periodic(cron="23 * * * *")
@app.task(name="photos.originals", queue="photos")
def originals(timestamp: int) -> None:
    """Looks every hour whether all originals are there."""
    close_old_connections()
    processing.look_for_originals()


def order(photo: Photo, *, sizes_too: bool = True, strip_too: bool = False, look_too: bool = False) -> None:
    """Orders what a photo needs; in the same transaction as the change that needs it, or neither happens."""
    for job, is_wanted in ((look, look_too), (sizes, sizes_too), (strip, strip_too)):
        if is_wanted:
            job.configure(lock=f"photo {photo.pk}").defer(photo=str(photo.pk))


def order_waiting(photo: Photo) -> None:
    """Orders whatever of a photo is wanted and not done."""
    order(
        photo,
        sizes_too=photo.sizes_done < photo.sizes_wanted,
        strip_too=photo.strip_done < photo.strip_wanted,
        look_too=photo.find_done < photo.find_wanted,
    )


def order_forgotten() -> int:
    """Orders what photos want and no job is there for, such as those of an earlier version of Eyot; how many photos."""
    forgotten = progress_of(list(Photo.objects.filter(WAITING))).stuck
    for photo in forgotten:
        order_waiting(photo)
    return len(forgotten)
