"""Has anybody changed anything of a clutch? A stamp that differs as soon as something does."""

from __future__ import annotations

from django.db.models import Count, Max, OuterRef, Subquery, Sum

from eyot.bench.models import Call, Look, SiblingComparison
from eyot.collection.history import subject_of
from eyot.collection.models import Change
from eyot.photos.models import Photo
from eyot.season.models import Clutch


def stamp_of(clutch: Clutch) -> str:
    """What was last changed, looked at, called and photographed, as a word: one query."""
    of_clutch = {
        "looks": Look.objects.all(),
        "calls": Call.objects.all(),
        "beside": SiblingComparison.objects.all(),
        "photos": Photo.objects.all(),
    }
    parts = {
        name: rows.filter(egg__clutch=OuterRef("pk")).values("egg__clutch").order_by()
        for name, rows in of_clutch.items()
    }
    changes = Change.objects.filter(subject=subject_of(clutch), collection=clutch.collection_id).order_by("-pk")
    stamps = (
        changes.values("pk")[:1],
        parts["looks"].annotate(count=Count("pk")).values("count"),
        parts["looks"].annotate(count=Count("withdrawn_at")).values("count"),
        parts["beside"].annotate(count=Count("pk")).values("count"),
        parts["beside"].annotate(count=Count("withdrawn_at")).values("count"),
        parts["calls"].annotate(last=Max("pk")).values("last"),
        parts["photos"].annotate(count=Count("pk")).values("count"),
        parts["photos"].annotate(sizes=Sum("sizes_done")).values("sizes"),
        clutch.invitations.filter(counts=True).order_by().values("clutch").annotate(count=Count("pk")).values("count"),
    )
    values = Clutch.everything.filter(pk=clutch.pk).values_list(*(Subquery(stamp) for stamp in stamps)).get()
    return "-".join(str(value or 0) for value in values)
