"""Has anybody changed anything of a clutch? A stamp that differs as soon as something does."""

from __future__ import annotations

from django.db.models import Count, Max, Sum

from eyot.bench.models import Call, Look, SiblingComparison
from eyot.collection.history import subject_of
from eyot.photos.models import Photo
from eyot.season.models import Clutch


def stamp_of(clutch: Clutch) -> str:
    """What was last changed, looked at, called and photographed, as a word: five queries."""
    changed = clutch.collection.changes.filter(subject=subject_of(clutch)).aggregate(last=Max("pk"))
    looks = Look.objects.filter(egg__clutch=clutch).aggregate(count=Count("pk"), withdrawn=Count("withdrawn_at"))
    calls = Call.objects.filter(egg__clutch=clutch).aggregate(last=Max("pk"))
    photos = Photo.objects.filter(egg__clutch=clutch).aggregate(count=Count("pk"), sizes=Sum("sizes_done"))
    beside = SiblingComparison.objects.filter(egg__clutch=clutch).aggregate(
        count=Count("pk"), withdrawn=Count("withdrawn_at")
    )
    values = (*changed.values(), *looks.values(), *beside.values(), *calls.values(), *photos.values())
    return "-".join(str(value or 0) for value in values)
