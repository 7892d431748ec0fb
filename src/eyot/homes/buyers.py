"""Pages for buyers by a link: what the keeper ticked and nothing else; and reservations that are asked for there."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from datetime import datetime, timedelta

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot.collection.models import Collection
from eyot.homes.issuing import issue
from eyot.homes.models import BuyersPage, Fate, Issued, Offered, Reservation
from eyot.homes.standing import Kept, hatchlings_of, kept_rows
from eyot.shared.refusal import Refused

MOST_DAYS, MOST_OFFERED = 90, 200
MOST_AN_HOUR, MOST_WAITING = 10, 5
SHOWN_AS = (Fate.State.LISTED, Fate.State.RESERVED)


@transaction.atomic
def make_page(
    collection: Collection,
    member: AbstractBaseUser,
    rows: Sequence[Kept],
    title: str,
    words: str,
    days: int,
    at: datetime,
) -> BuyersPage:
    """Makes a link to a page with some hatchlings. :class:`Refused` where one of them is not listed."""
    if not rows:
        raise Refused("Tick who is to be on the page. Nothing was made.")
    if len(rows) > MOST_OFFERED:
        raise Refused(f"A page shows at most {MOST_OFFERED}, not {len(rows)}. Nothing was made.")
    others = [row.name for row in rows if row.state not in SHOWN_AS]
    if others:
        raise Refused(
            f"{', '.join(others[:5])}{' …' if len(others) > 5 else ''}: not listed. List them first. Nothing was made."
        )
    if not title.strip():
        raise Refused("Give the page a title. Nothing was made.", field="title")
    if not 1 <= days <= MOST_DAYS:
        raise Refused(f"A page stands for 1 to {MOST_DAYS} days, not {days}. Nothing was made.", field="days")
    page = BuyersPage.objects.create(
        collection=collection,
        token=secrets.token_urlsafe(24),
        title=title.strip()[:80],
        words=words.strip()[:1000],
        made_by_id=member.pk,
        made_at=at,
        expires_at=at + timedelta(days=days),
    )
    Offered.objects.bulk_create(Offered(page=page, egg=row.egg) for row in rows)
    issue(rows, Issued.Kind.PAGE, member, at)
    return page


def withdraw_page(collection: Collection, number: int, at: datetime) -> None:
    """Ends a page at once. :class:`Refused` for one that is not here."""
    page = collection.buyers_pages.filter(pk=number).first()
    if page is None:
        raise Refused("That page is not here. Nothing was changed.")
    if page.withdrawn_at is None:
        page.withdrawn_at = at
        page.save(update_fields=["withdrawn_at"])


def page_of(token: str, at: datetime) -> BuyersPage | None:
    """The open page of a link; None where it has ended or never was. One query."""
    page = BuyersPage.objects.filter(token=token).select_related("collection").first()
    return page if page and page.is_open(at) else None


def offered_on(page: BuyersPage) -> list[Kept]:
    """Who is on a page now: those that were ticked and are still to be had, or reserved."""
    eggs = hatchlings_of(page.collection).filter(pk__in=page.offered.values("egg"))
    return [row for row in kept_rows(page.collection, eggs) if row.is_here and row.state in SHOWN_AS]


@transaction.atomic
def ask(page: BuyersPage, row: Kept, name: str, answer_to: str, text: str, at: datetime) -> Reservation:
    """Somebody asks for a hatchling. Slowed: so many an hour on a page, so many that wait for an answer about one animal."""
    nothing = "Nothing was sent."
    if not name.strip() or not answer_to.strip():
        raise Refused(f"Write your name, and how you can be answered. {nothing}", field="name")
    BuyersPage.objects.select_for_update().get(pk=page.pk)
    lately = page.reservations.filter(asked_at__gt=at - timedelta(hours=1)).count()
    waiting = Reservation.objects.filter(egg=row.egg, settled_at=None).count()
    if lately >= MOST_AN_HOUR or waiting >= MOST_WAITING:
        raise Refused(f"Many have asked in the last hour. Please try again later. {nothing}")
    return Reservation.objects.create(
        page=page,
        egg=row.egg,
        name=name.strip()[:80],
        answer_to=answer_to.strip()[:120],
        text=text.strip()[:1000],
        asked_at=at,
    )


def settle(collection: Collection, number: int, member: AbstractBaseUser, at: datetime) -> Reservation:
    """A member has dealt with what was asked. :class:`Refused` for what is not here."""
    asked = Reservation.objects.filter(page__collection=collection, pk=number).select_related("egg").first()
    if asked is None:
        raise Refused("That is not here. Nothing was changed.")
    if asked.settled_at is None:
        asked.settled_at, asked.settled_by_id = at, member.pk
        asked.save(update_fields=["settled_at", "settled_by"])
    return asked


def waiting_for(collection: Collection) -> list[Reservation]:
    """What was asked for and nobody has dealt with: one query."""
    rows = Reservation.objects.filter(page__collection=collection, settled_at=None)
    return list(rows.select_related("egg__clutch", "egg__kept_as", "page"))
