"""Changes of photos. Any member of the collection may make them. What takes long is ordered as a job."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID, uuid4

import numpy as np
from django.contrib.auth.models import AbstractBaseUser
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from eyot_core.photo.brush import Stroke, painted
from eyot_core.photo.frame import framed, is_framed
from eyot_core.photo.light import CARDS, CHART, Light, NoLight, light_at, light_of_chart
from eyot_core.photo.measures import RECKONING
from eyot_core.photo.picture import NoPicture, Picture
from eyot_core.photo.spine import BadLine, line_from

from eyot.collection.history import Recording, recording, subject_of
from eyot.photos import files
from eyot.photos.decoding import TakenIn, taken_in
from eyot.photos.models import Photo
from eyot.photos.processing import Looked, keep_looked, known_grey
from eyot.photos.tasks import order, order_waiting
from eyot.season.models import Egg, Stage
from eyot.shared.devices import TAKEN, claim
from eyot.shared.refusal import Refused

BRUSH_LONGEST = 900
FIRST_DIGITAL = 1990
"""Cameras whose clock was never set say an earlier year."""
LENDS_WITHIN = timedelta(minutes=20)


def add_photo(
    egg: Egg,
    user: AbstractBaseUser,
    file: UploadedFile[Any],
    stage: str,
    at: datetime,
    kind: str = Photo.Kind.BACK,
    key: UUID | None = None,
) -> Photo | NoPicture:
    """Takes in one file for a hatchling: stored and recorded, or a reason why not (then nothing is changed).

    ``key``: given by the device and the photo's number from then on; a file that comes twice is taken once.
    """
    name = file.name or "This file"
    known = Photo.everything.filter(pk=key).first() if key else None
    if known:
        return known if known.egg_id == egg.pk else NoPicture(f"{name}: {TAKEN}")
    if file.file is None:
        return NoPicture(f"{name} is empty. Choose it again.")
    with taken_in(file.file, name, file.size or 0) as picture:
        if isinstance(picture, NoPicture):
            return picture
        kept = keep_picture(egg, user, picture, stage, _taken_at(picture, at), kind=kind, key=key)
    return kept if kept.egg_id == egg.pk else NoPicture(f"{name}: {TAKEN}")


def _taken_at(picture: Picture | TakenIn, at: datetime) -> datetime:
    """When it was taken, by the camera's clock where that can be; else when it came."""
    taken = picture.taken_at
    if taken is None or taken.year < FIRST_DIGITAL:
        return at
    return min(timezone.make_aware(taken), at) if taken.year <= at.year else at


def keep_picture(
    egg: Egg,
    user: AbstractBaseUser,
    picture: Picture | TakenIn,
    stage: str,
    at: datetime,
    *,
    kind: str = Photo.Kind.BACK,
    simulated: bool = False,
    key: UUID | None = None,
) -> Photo:
    """Stores a checked picture, its row and what is ordered of it, all or nothing; of two that come at once under one key the second
    gets the first's row, whatever hatchling that is of.

    The row claims the folder: nobody writes into it, or empties it, who has not inserted the row.
    """
    with transaction.atomic():
        claim(key)
        if known := Photo.everything.filter(pk=key).first() if key else None:
            return known
        photo = _new_photo(egg, user, picture, stage, at, kind, key, simulated=simulated)
        try:
            with picture.opened() as jpeg:
                files.keep_original(photo.folder, jpeg)
            order_waiting(photo)
        except Exception:
            files.forget(photo.folder)
            raise
    return photo


def _new_photo(
    egg: Egg,
    user: AbstractBaseUser,
    picture: Picture | TakenIn,
    stage: str,
    at: datetime,
    kind: str,
    key: UUID | None,
    *,
    simulated: bool,
) -> Photo:
    return Photo.objects.create(
        id=key or uuid4(),
        egg=egg,
        stage=stage,
        kind=kind,
        taken_at=at,
        width=picture.width,
        height=picture.height,
        added_by_id=user.pk,
        simulated=simulated,
        find_wanted=1,
    )


def keep_looked_at(
    egg: Egg,
    user: AbstractBaseUser,
    number: UUID,
    size: tuple[int, int],
    looked: Looked,
    *,
    stage: str,
    kind: str,
    at: datetime,
    sizes_in: str,
    simulated: bool,
) -> Photo:
    """The row of a photo whose files lie in their place and that was looked at before it was known whose it is; what is still to be
    made of it is ordered. ``size``: width and height; ``sizes_in``: the light that its sizes were made in. Inside a transaction."""
    photo = Photo.objects.create(
        id=number,
        egg=egg,
        stage=stage,
        kind=kind,
        taken_at=at,
        width=size[0],
        height=size[1],
        added_by_id=user.pk,
        find_wanted=1,
        sizes_done=1,
        simulated=simulated,
    )
    keep_looked(photo, looked)
    photo.refresh_from_db()
    if not photo.light and photo.has_printed_grey and known_grey(egg.clutch.collection_id):  # set since
        photo.find_wanted = 2
        photo.save(update_fields=["find_wanted"])
    if photo.light == sizes_in:  # the sizes are those already
        photo.sizes_wanted = 1
        photo.save(update_fields=["sizes_wanted"])
    elif photo.sizes_wanted == 1:
        photo.sizes_wanted = 2
        photo.save(update_fields=["sizes_wanted"])
    order_waiting(photo)
    return photo


def file_elsewhere(record: Recording, photo: Photo, egg: Egg, stage: str, kind: str) -> None:
    """A photo, shown nowhere perhaps, goes to a hatchling by hand; within a recording."""
    record.change(photo, taken_away_at=None, egg=egg, stage=stage, card_overruled=True)
    set_kind(photo, kind)


def mark_light(photo: Photo, x: float, y: float, card: str) -> NoLight | None:
    """Corrects a photo by a card that lies at a place in it, (x, y) in shares of width and height; or says why it can't."""
    if photo.kind == Photo.Kind.ULTRAVIOLET:
        return NoLight("an ultraviolet photo has no colours to correct")
    return _lit(photo, light_at(files.original(photo.folder), x, y, card))


def mark_chart(photo: Photo, corners: Sequence[Sequence[float]]) -> NoLight | None:
    """Corrects a photo by a chart; ``corners``: the middles of its corner patches in shares of width and height, (4, 2)."""
    if photo.kind == Photo.Kind.ULTRAVIOLET:
        return NoLight("an ultraviolet photo has no colours to correct")
    places = np.array(corners, dtype=np.float64)
    if places.shape != (4, 2):
        return NoLight(f"tap the middles of the {CHART}'s four corner patches: brown, bluish green, black, white")
    light = light_of_chart(files.original(photo.folder), places * np.array([photo.width, photo.height]))
    return _lit(photo, light)


def lender(photo: Photo) -> Photo | None:
    """The photo of a sibling, or of the animal itself, nearest in time within minutes, whose light was marked in it."""
    if photo.light or photo.kind == Photo.Kind.ULTRAVIOLET:
        return None
    near = Photo.objects.filter(
        egg__clutch=photo.egg.clutch_id,
        light_from=None,
        taken_at__range=(photo.taken_at - LENDS_WITHIN, photo.taken_at + LENDS_WITHIN),
    ).exclude(light="")
    lenders = near.exclude(pk=photo.pk).exclude(kind=Photo.Kind.ULTRAVIOLET).select_related("egg")
    return min(lenders, key=lambda other: abs(other.taken_at - photo.taken_at), default=None)


def borrow_light(photo: Photo) -> NoLight | None:
    """Corrects a photo by the light of the one that :func:`lender` names; or says that there is none."""
    lends = lender(photo)
    light = lends.known_light() if lends else None
    if lends is None or light is None:
        return NoLight("no photo of a sibling within minutes has its light marked")
    return _lit(photo, light.elsewhere(), lends)


def forget_light(photo: Photo) -> None:
    """Shows a photo as it was taken again."""
    photo.light, photo.light_data, photo.light_from = "", {}, None
    _changed(photo, ["light", "light_data", "light_from"], sizes_too=True)


def _lit(photo: Photo, light: Light | NoLight, lends: Photo | None = None) -> NoLight | None:
    if isinstance(light, NoLight):
        return light
    photo.set_light(light, lends)
    _changed(photo, ["light", "light_data", "light_from"], sizes_too=True)
    return None


def draw_line(photo: Photo, points: Sequence[Sequence[float]], start: float = 0.0, end: float = 1.0) -> BadLine | None:
    """Keeps the line along the back (of heads, vents and tails: its two ends) and orders the strip; or says what is wrong."""
    if is_framed(photo.kind, len(points)):
        if len(points) < 2:
            return BadLine("mark two places: the snout and the neck, or neck and vent")
        frame = framed(np.zeros((photo.height, photo.width, 3), dtype=np.uint8), points, photo.kind)
        kept, start, end = np.array(points, dtype=np.float64), 0.0, 1.0
        if isinstance(frame, BadLine):
            return frame
    else:
        line = line_from(np.array(points, dtype=np.float64).reshape(-1, 2), photo.width, photo.height, start, end)
        if isinstance(line, BadLine):
            return line
        kept = line.points
    photo.line = {"points": kept.round(2).tolist(), "from": start, "to": end}
    photo.line_confidence, photo.line_missing, photo.trouble = None, "", ""
    _changed(photo, ["line", "line_confidence", "line_missing", "trouble"], sizes_too=False)
    return None


def forget_line(photo: Photo) -> None:
    """Takes the line, its strip, its measures and the brushing away; the photo stays."""
    photo.line, photo.line_confidence, photo.line_missing, photo.trouble = {}, None, "", ""
    photo.measures, photo.spoilt, photo.outline, photo.size, photo.brush_marks = {}, {}, [], {}, 0
    photo.strip_wanted, photo.find_wanted = photo.strip_done, photo.find_done
    marked = [
        "line",
        "line_confidence",
        "line_missing",
        "trouble",
        "measures",
        "spoilt",
        "outline",
        "size",
        "brush_marks",
    ]
    photo.save(update_fields=[*marked, "strip_wanted", "find_wanted"])


def brush_outline(photo: Photo, strokes: Sequence[Stroke]) -> None:
    """Corrects the outline by strokes, on top of those from before, and orders the strip anew. ValueError for what is no stroke."""
    factor = min(1.0, BRUSH_LONGEST / max(photo.width, photo.height))
    shape = (max(1, round(photo.height * factor)), max(1, round(photo.width * factor)))
    before = files.brush(photo.folder) if photo.brush_marks else None
    files.write_brush(photo.folder, painted(strokes, shape, factor, before))
    photo.brush_marks += 1
    _changed(photo, ["brush_marks"], sizes_too=False)


def forget_brush(photo: Photo) -> None:
    """Takes the corrections of the outline away."""
    photo.brush_marks = 0
    _changed(photo, ["brush_marks"], sizes_too=False)


def set_kind(photo: Photo, kind: str) -> None:
    """Says what a photo shows; a line along the back is no crop, so what was marked for another kind goes."""
    if kind == photo.kind:
        return
    photo.kind = kind
    if kind == Photo.Kind.ULTRAVIOLET:
        photo.light, photo.light_data, photo.light_from = "", {}, None
    forget_line(photo)
    photo.find_wanted += 1
    _changed(photo, ["kind", "light", "light_data", "light_from", "find_wanted"], sizes_too=True)


BORROWED = "borrowed"
MARKED = ("kind", "light", "light_data", "light_from_id", "line", "line_confidence", "egg_id", "card_overruled")


def change_light(
    photo: Photo,
    member: AbstractBaseUser,
    card: str,
    at: datetime,
    *,
    place: tuple[float, float] = (-1, -1),
    corners: Sequence[Sequence[float]] = (),
) -> NoLight | None:
    """What is said of a photo's light, kept as a change; or why it can't be.

    ``card``: one of ``CARDS`` that lies at ``place``, a chart with the middles of its ``corners``, ``borrowed`` from a sibling's photo, or
    empty where the photo is to be shown as it was taken.
    """
    with _kept_as_change(photo, member, "light", at):
        if not card:
            forget_light(photo)
            return None
        if card == BORROWED:
            return borrow_light(photo)
        if card == CHART:
            return mark_chart(photo, corners)
        return (
            mark_light(photo, *place, card) if card in CARDS else NoLight(f"mark one of {', '.join([*CARDS, CHART])}")
        )


def change_line(
    photo: Photo,
    member: AbstractBaseUser,
    points: Sequence[Sequence[float]] | None,
    start: float,
    end: float,
    at: datetime,
) -> BadLine | None:
    """A line is drawn, or taken away (``points`` none), kept as a change; or what is wrong with it."""
    with _kept_as_change(photo, member, "line", at):
        if points is not None:
            return draw_line(photo, points, start, end)
        forget_line(photo)
        return None


def confirm_line(photo: Photo, member: AbstractBaseUser, at: datetime) -> None:
    """A line that was found is right, kept as a change. :class:`Refused` where there is none to confirm."""
    if not photo.is_unchecked:
        raise Refused("There is no line to confirm in this photo by now. Nothing was changed.")
    with _kept_as_change(photo, member, "line that was found, confirmed,", at):
        photo.line_confidence = None
        photo.save(update_fields=["line_confidence"])


def settle_whose(photo: Photo, member: AbstractBaseUser, egg: Egg, at: datetime) -> None:
    """Whose photo it is, where its card says another: it goes to that hatchling, or stays; kept as a change."""
    with _kept_as_change(photo, member, f"photo is of {egg.words}", at):
        photo.egg, photo.card_overruled = egg, True
        photo.save(update_fields=["egg", "card_overruled"])


def change_kind(photo: Photo, member: AbstractBaseUser, kind: str, at: datetime) -> None:
    """What a photo shows, kept as a change. :class:`Refused` for what no photo shows."""
    if kind not in Photo.Kind.values:
        raise Refused(f"A photo shows one of {', '.join(Photo.Kind.values)}. Nothing was changed.")
    with _kept_as_change(photo, member, "kind", at):
        set_kind(photo, kind)


@contextmanager
def _kept_as_change(photo: Photo, member: AbstractBaseUser, what: str, at: datetime) -> Iterator[None]:
    """Keeps what is marked in a photo meanwhile as a change of its clutch, with who and when; brushes are not kept so."""
    clutch = photo.egg.clutch
    words = f"{photo.egg}: {what} of a photo {photo.get_stage_display()}"
    with (
        recording(clutch.collection, member, at, words, subject_of(photo.egg.record)) as record,
        record.watching(photo, *MARKED),
    ):
        yield


def take_away(photo: Photo, member: AbstractBaseUser, at: datetime) -> None:
    """A photo is shown and weighed nowhere any more. Its files and marks stay; it comes back by taking the change back."""
    clutch = photo.egg.clutch
    words = f"{photo.egg}: a photo {photo.get_stage_display()} taken away"
    with recording(clutch.collection, member, at, words, subject_of(photo.egg.record)) as record:
        record.change(photo, taken_away_at=at)


def make_anew(photo: Photo) -> None:
    """Orders everything that is made of a photo, after its marks were put back to what they were."""
    if not photo.line:
        forget_line(photo)
    _changed(photo, [], sizes_too=True)


def order_outdated() -> int:
    """Orders anew the strips and measures that were made by another reckoning than today's; how many. Two workers that start at once
    order each once: a row that is wanted anew is no longer outdated."""
    outdated = Photo.objects.exclude(line={}).filter(strip_done=F("strip_wanted")).exclude(reckoning=RECKONING)
    with transaction.atomic():
        photos = list(outdated.select_for_update(skip_locked=True))
        outdated.filter(pk__in=[photo.pk for photo in photos]).update(strip_wanted=F("strip_wanted") + 1)
        for photo in photos:
            order(photo, sizes_too=False, strip_too=True)
    return len(photos)


def order_unsought() -> int:
    """Orders that lines be sought in photos from before lines were found; how many photos."""
    unsought = Photo.objects.filter(kind__in=Photo.BODIES, line={}, find_wanted=0).exclude(stage=Stage.EGG)
    with transaction.atomic():
        photos = list(unsought.select_for_update(skip_locked=True))
        unsought.filter(pk__in=[photo.pk for photo in photos]).update(find_wanted=1)
        for photo in photos:
            order(photo, sizes_too=False, look_too=True)
    return len(photos)


def _changed(photo: Photo, fields: list[str], *, sizes_too: bool) -> None:
    with transaction.atomic():
        if fields:
            photo.save(update_fields=fields)
        Photo.objects.filter(pk=photo.pk).update(
            sizes_wanted=F("sizes_wanted") + int(sizes_too), strip_wanted=F("strip_wanted") + int(bool(photo.line))
        )
        order(photo, sizes_too=sizes_too, strip_too=bool(photo.line), look_too=photo.find_done < photo.find_wanted)
    photo.refresh_from_db(fields=["sizes_wanted", "strip_wanted"])
