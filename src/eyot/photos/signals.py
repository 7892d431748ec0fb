"""When marks of photos are taken back, what was made of them is made anew."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from eyot.photos.actions import make_anew
from eyot.photos.models import Photo


def make_touched_anew(sender: object, rows: Sequence[dict[str, Any]], **more: object) -> None:
    """Orders sizes, strips and measures of the photos among the rows of a change that was taken back."""
    numbers = [row["pk"] for row in rows if row["model"] == Photo._meta.label_lower]
    for photo in Photo.objects.filter(pk__in=numbers).select_related("egg__clutch"):
        make_anew(photo)
