"""Keeping: backups as they stand, a collection taken away, read in, and removed."""

from __future__ import annotations

import tempfile
from typing import IO, Any, cast

from django.conf import settings
from django.contrib import messages
from django.http import FileResponse, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt, csrf_protect
from django.views.decorators.http import require_POST

from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import BackupRun
from eyot.collection.removal_actions import DAYS_TO_THINK, ask_removal, keep_collection
from eyot.collection.rights import may
from eyot.photos.uploads import BoundedUploadHandler
from eyot.safekeeping.exporting import export
from eyot.safekeeping.forms import RemovalForm
from eyot.safekeeping.importing import bring_in, is_empty
from eyot.safekeeping.removing import remove_due
from eyot.shared.bounds import reads_its_own_upload
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on

BACKUPS_SHOWN = 7


class CollectionUploadHandler(BoundedUploadHandler):
    """Keeps a whole collection on disk, up to what is read in at most."""

    most = settings.MOST_IMPORTED_BYTES


def keeping_page(request: CollectionRequest, refused: Refused | None = None, **more: Any) -> HttpResponse:
    """How safe all of this is, and the ways out and in."""
    context = {
        "may_change": may(request.membership.role, "take-away"),
        "backups_on": bool(settings.BACKUPS),
        "backups": BackupRun.objects.all()[:BACKUPS_SHOWN],
        "is_empty": is_empty(request.collection),
        "days": DAYS_TO_THINK,
        "form": as_sent(refused, RemovalForm),
        "refused": refused,
        "here": "keeping",
    }
    return render(request, "safekeeping/keeping.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(keeping_page)
def taken_away(request: CollectionRequest) -> HttpResponse:
    """The whole collection as one zip."""
    file = tempfile.TemporaryFile(prefix="eyot-export-")  # noqa: SIM115  the response closes it
    now = timezone.now()
    try:
        export(request.collection, file, now)
    except OSError as error:
        file.close()
        raise Refused(f"The zip could not be written: {error.strerror or error}. Nothing was changed.") from None
    file.seek(0)
    name = f"{request.collection.key}-{timezone.localdate(now):%Y-%m-%d}.zip"
    answer = FileResponse(file, as_attachment=True, filename=name, content_type="application/zip")
    return cast(HttpResponse, answer)  # Django's own views pass it on as one


@require_POST
@csrf_protect
@refusals_on(keeping_page)
def _read_in(request: CollectionRequest) -> HttpResponse:
    file = request.FILES.get("zip")
    if file is None:
        raise Refused("Choose the zip that was taken away. Nothing was read in.")
    counts = bring_in(cast("IO[bytes]", file.file), request.collection)
    messages.success(
        request, f"Read in: {counts['animals']} animals, {counts['clutches']} clutches, {counts['photos']} photos."
    )
    return redirect("season")


@reads_its_own_upload
@csrf_exempt
def read_in(request: CollectionRequest) -> HttpResponse:
    """A zip into an empty collection. Its upload may be larger than a photo; the token is checked once that is settled."""
    request.upload_handlers = [CollectionUploadHandler(request)]
    return _read_in(request)


@require_POST
@refusals_on(keeping_page)
def removal_asked(request: CollectionRequest) -> HttpResponse:
    """The collection is to go; at once where all of it is made up."""
    removal = ask_removal(request.collection, request.member, entered(request, RemovalForm)["typed"], timezone.now())
    if request.collection.is_demo:
        name = str(request.collection)
        remove_due(removal.due_at)
        messages.success(request, f"{name} is gone, with all that was made up in it.")
        return redirect("/collections/")
    return redirect("keeping")


@require_POST
@refusals_on(keeping_page)
def kept_after_all(request: CollectionRequest) -> HttpResponse:
    """It stays."""
    keep_collection(request.collection, request.member, timezone.now())
    messages.success(request, f"{request.collection} stays.")
    return redirect("keeping")
