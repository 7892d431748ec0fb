"""What the photos of an animal show at a place on its body."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.urls import reverse

from eyot_core.body_places import PLACES, WHOLE, BodyPlace
from eyot_core.photo.window import AROUND, shows

from eyot.photos.models import Photo
from eyot.season.models import Stage


@dataclass(frozen=True)
class Shot:
    """What a pane shows at one place. ``base``: how many times as wide as the pane the picture is, so that all are at one scale;
    ``is_whole``: a whole photo, shown as far as it fits; ``by_hand``: for want of a line, to be moved by hand."""

    src: str
    base: float
    words: str
    is_whole: bool = False
    by_hand: bool = False


def shots_of(photos: Sequence[Photo]) -> dict[str, Shot]:
    """Of some photos of one animal, the oldest first, what shows each place best; by hand where none has a line there."""
    return {place.id: best_shot(photos, place) for place in PLACES}


def best_shot(photos: Sequence[Photo], place: BodyPlace) -> Shot:
    """Which of some photos shows a place best: through its line where one has a line there."""
    by_kind = {photo.kind: photo for photo in photos}
    lined = {photo.kind: photo for photo in photos if photo.strip_done and shows(photo.line, photo.kind, place)}
    for kind in place.kinds:
        if kind in lined:
            src = reverse("photo-place", args=[lined[kind].pk, place.id, lined[kind].strip_done])
            return Shot(src, AROUND, _words(lined[kind]))
    whole = next((by_kind[kind] for kind in place.kinds if kind in by_kind), photos[-1])
    by_hand = place.id != WHOLE
    words = f"{_words(whole)}: no line here, move it by hand" if by_hand else _words(whole)
    return Shot(_whole(whole), 1.0, words, is_whole=True, by_hand=by_hand)


def _whole(photo: Photo) -> str:
    return reverse("photo", args=[photo.pk, photo.full])


def _words(photo: Photo) -> str:
    """Stage, kind, light, and what is to be known of a line."""
    light = (
        "light corrected"
        if photo.light
        else "ultraviolet"
        if photo.kind == Photo.Kind.ULTRAVIOLET
        else "light not corrected"
    )
    parts = [photo.get_stage_display(), photo.get_kind_display(), light]
    parts += ["line not checked"] if photo.is_unchecked else []
    parts += ["simulated photo"] if photo.simulated else []
    return ", ".join(parts)


def nearest_in_age(photos: Sequence[Photo], stage: str) -> list[Photo]:
    """Of an animal's photos those of a stage; where there are none, of the stage nearest to it, the later of two."""
    order = Stage.values.index(stage)
    reached = {photo.stage for photo in photos}
    nearest = min(
        reached, key=lambda one: (abs(Stage.values.index(one) - order), -Stage.values.index(one)), default=stage
    )
    return [photo for photo in photos if photo.stage == nearest]
