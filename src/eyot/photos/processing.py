"""What jobs make of a photo: its sizes in its light, its strip or crop, its measures. Each can be done twice without harm."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db.models import F

from eyot_core.photo.answer import measured_document, outline_document
from eyot_core.photo.frame import FRAMES, framed
from eyot_core.photo.light import in_light
from eyot_core.photo.measures import MEASURES, RECKONING, Missing, measures_of
from eyot_core.photo.outline import NoOutline
from eyot_core.photo.spine import BadLine, line_from
from eyot_core.photo.strip import strip_of

from eyot.photos import files
from eyot.photos.models import Photo

NO_COLOURS = "colours of ultraviolet photos are never measured"


@dataclass(frozen=True)
class _Made:
    """A strip or a crop, its measures and how much of it is spoilt."""

    pixels: files.Pixels
    measures: dict[str, Any]
    spoilt: dict[str, float]
    outline: list[list[float]]
    overlay: files.Pixels | None = None


def look_for_originals() -> int:
    """Looks for every photo's original in the store, and marks those that are missing; how many are."""
    missing = 0
    for photo in Photo.everything.select_related("egg__clutch").iterator(500):
        is_missing = not files.has_original(photo.folder)
        missing += is_missing
        if is_missing != photo.original_missing:
            Photo.everything.filter(pk=photo.pk).update(original_missing=is_missing)
    return missing


def make_sizes(photo_id: str) -> None:
    """Every size of a photo in its light, from the original. Nothing where the photo is gone or the sizes are made."""
    photo = Photo.objects.select_related("egg__clutch").filter(pk=photo_id, sizes_done__lt=F("sizes_wanted")).first()
    if photo is None:
        return
    pixels, light = files.original(photo.folder), photo.known_light()
    files.write_sizes(photo.folder, in_light(pixels, light) if light else pixels, photo.sizes_wanted)
    Photo.objects.filter(pk=photo.pk).update(sizes_done=photo.sizes_wanted)
    files.forget_versions(photo.folder, tuple(files.SIZES), photo.sizes_wanted - 1)


def find_line(photo_id: str) -> bool:
    """Seeks the line along the back of a photo in which none is drawn; is a strip wanted of it now?

    What was drawn by hand meanwhile stands.
    """
    photo = Photo.objects.select_related("egg__clutch").filter(pk=photo_id, find_done__lt=F("find_wanted")).first()
    if photo is None:
        return False
    line = None if photo.line else _line_in(photo)
    missing = line.reason[:200] if isinstance(line, BadLine) else ""
    Photo.objects.filter(pk=photo.pk).update(find_done=photo.find_wanted, line_missing=missing)
    if line is None or isinstance(line, BadLine):
        return False
    points, confidence = line
    return bool(
        Photo.objects.filter(pk=photo.pk, line={}).update(
            line={"points": points, "from": 0.0, "to": 1.0},
            line_confidence=confidence,
            trouble="",
            strip_wanted=F("strip_wanted") + 1,
        )
    )


def _line_in(photo: Photo) -> tuple[list[list[float]], float] | BadLine:
    """The points of the line that is found, and how sure it is."""
    from eyot_core.photo.find import find_animal  # a web process needs none of it

    found = find_animal(files.original(photo.folder))
    if found.points is None:
        return BadLine(found.why)
    line = line_from(found.points, photo.width, photo.height)
    return line if isinstance(line, BadLine) else (line.points.round(2).tolist(), found.confidence)


def make_strip(photo_id: str) -> None:
    """The strip (or crop) of a photo along its line, and its measures; or what is in the way of one."""
    photo = Photo.objects.select_related("egg__clutch").filter(pk=photo_id, strip_done__lt=F("strip_wanted")).first()
    if photo is None or not photo.line:
        return
    made = _crop(photo) if photo.kind in FRAMES else _strip(photo)
    if isinstance(made, str):
        done: dict[str, Any] = {"trouble": made, "measures": {}, "spoilt": {}, "outline": []}
    else:
        files.write_strip(photo.folder, made.pixels, photo.strip_wanted)
        if made.overlay is not None:
            files.write_strip(photo.folder, made.overlay, photo.strip_wanted, "spoilt")
        done = {"trouble": "", "measures": made.measures, "spoilt": made.spoilt, "outline": made.outline}
    Photo.objects.filter(pk=photo.pk).update(strip_done=photo.strip_wanted, reckoning=RECKONING, **done)
    files.forget_versions(photo.folder, ("strip", "spoilt"), photo.strip_wanted - 1)


def _strip(photo: Photo) -> _Made | str:
    line = line_from(
        np.array(photo.line["points"]),
        photo.width,
        photo.height,
        photo.line.get("from", 0.0),
        photo.line.get("to", 1.0),
    )
    if isinstance(line, BadLine):
        return line.reason
    brushed = files.brush(photo.folder) if photo.brush_marks else None
    made = strip_of(files.original(photo.folder), line, photo.known_light(), brushed)
    if isinstance(made, NoOutline):
        return made.reason
    strip, outline = made
    measured = measures_of(strip)
    if photo.kind == Photo.Kind.ULTRAVIOLET:
        measured = {measure.id: Missing(NO_COLOURS) for measure in MEASURES}
    seen = max(1, int(strip.seen.sum()))
    spoilt = {
        "clipped": float(strip.clipped.sum() / seen),
        "dark": float(strip.dark.sum() / seen),
        "shown": strip.shown_share,
        "sure": float(outline.sure.mean()),
    }
    return _Made(
        strip.picture(),
        measured_document(measured),
        spoilt,
        outline_document(outline),
        strip.spoilt_picture() if spoilt["clipped"] + spoilt["dark"] > 0 else None,
    )


def _crop(photo: Photo) -> _Made | str:
    crop = framed(files.original(photo.folder), photo.line["points"], photo.kind, photo.known_light())
    return crop.reason if isinstance(crop, BadLine) else _Made(crop, {}, {}, [])
