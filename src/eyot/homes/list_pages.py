"""The list of what is to be had, as PDF: written by a worker, a part at a time, so that its progress can be told."""

from __future__ import annotations

import base64
import io
from collections.abc import Callable, Iterator, Sequence
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser
from django.template.loader import render_to_string
from django.utils import timezone
from procrastinate.contrib.django import app

from eyot_core.photo.card_sheet import printer

from eyot.collection.models import Collection
from eyot.homes.issuing import issue
from eyot.homes.listing import hatched, parents
from eyot.homes.models import Issued, ListPrint
from eyot.homes.standing import Kept, hatchlings_of, kept_rows
from eyot.photos import files
from eyot.shared.money import money
from eyot.shared.refusal import Refused

JOB = "homes.list"
MOST, PART = 5_000, 100
KEPT = 5


def order(
    collection: Collection, member: AbstractBaseUser, rows: Sequence[Kept], title: str, at: datetime
) -> ListPrint:
    """Asks a worker for a list. The last few of a collection are kept."""
    if not rows:
        raise Refused("Nobody is on this list. Nothing was printed.")
    if len(rows) > MOST:
        raise Refused(f"A list shows at most {MOST:,}, not {len(rows):,}. Nothing was printed.")
    asked = ListPrint.objects.create(
        collection=collection,
        eggs=[row.egg.pk for row in rows],
        title=title.strip()[:80] or str(collection)[:80],
        asked_by_id=member.pk,
        asked_at=at,
    )
    old = collection.list_prints.order_by("-pk").values_list("pk", flat=True)[KEPT:]
    ListPrint.objects.filter(pk__in=list(old)).delete()
    app.configure_task(JOB, queue="photos", priority=5).defer(number=asked.pk)
    return asked


def write(number: int) -> None:
    """Writes a list that was ordered; nothing where it is gone or written."""
    asked = ListPrint.objects.select_related("collection", "asked_by").filter(pk=number, pdf=None).first()
    if asked is None:
        return

    def told(done: int) -> None:
        ListPrint.objects.filter(pk=number).update(done=done)

    rows = _rows(asked)
    ListPrint.objects.filter(pk=number).update(pdf=pdf_of(asked.title, rows, told), done=len(rows))
    issue(rows, Issued.Kind.LIST, asked.asked_by, timezone.now())


def _rows(asked: ListPrint) -> list[Kept]:
    by_key = {egg.pk: egg for egg in hatchlings_of(asked.collection).filter(pk__in=asked.eggs)}
    return kept_rows(asked.collection, [by_key[key] for key in asked.eggs if key in by_key])


def pdf_of(title: str, rows: Sequence[Kept], told: Callable[[int], None]) -> bytes:
    """The list as PDF. ``told`` hears how many are written, part by part."""
    documents = []
    for start in range(0, len(rows), PART):
        part = rows[start : start + PART]
        context = {
            "title": title,
            "rows": list(_lines(part)),
            "is_first": start == 0,
            "count": len(rows),
            "on": timezone.localdate(),
        }
        documents.append(printer()(string=render_to_string("homes/pdf/list.html", context)).render())
        told(start + len(part))
    pages = [page for document in documents for page in document.pages]
    file = io.BytesIO()
    documents[0].copy(pages).write_pdf(file)
    return file.getvalue()


def _lines(rows: Sequence[Kept]) -> Iterator[dict[str, object]]:
    for row in rows:
        yield {
            "row": row,
            "picture": _picture(row),
            "price": money(row.price, row.collection.currency),
            "hatched": hatched(row),
            "parents": parents(row),
        }


def _picture(row: Kept) -> str:
    """The smallest photo as part of the page itself; empty where there is none."""
    if row.photo is None:
        return ""
    try:
        with files.opened(row.photo.folder, f"{row.photo.thumb}.jpg") as file:
            return f"data:image/jpeg;base64,{base64.b64encode(file.read()).decode()}"
    except FileNotFoundError:
        return ""
