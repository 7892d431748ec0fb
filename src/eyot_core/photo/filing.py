"""Whose photo each of an evening's photos is: by the card in it, else by the last card before it. What is not sure waits.

Photos are taken card first, then the animal. Where a card can't be read, or a photo shows nothing that is recognised, whatever follows
may be of another hatchling: it waits until the next card. So nothing is filed under a card that was meant for somebody else.
"""

from __future__ import annotations

from collections.abc import Collection, Hashable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

PAUSE = timedelta(minutes=20)
"""The longest time between a card, or a photo filed by it, and the next photo that it still counts for."""

BY_CARD, BY_LAST_CARD = "card", "last-card"
WAITS = {
    "not-looked-at": "a photo taken before it is not looked at yet",
    "several-cards": "cards of several animals are in it",
    "unread-card": "its card can't be read",
    "stranger": "its card names no hatchling of this collection",
    "clutch-card": "its card names the clutch, not the hatchling",
    "unclear": "nothing in it is recognised: it may be a card",
    "no-card": "no card is in it, and none before it",
    "after-unread": "a photo before it has a card that can't be read or used",
    "after-unclear": "a photo before it shows nothing that is recognised: it may have been a card",
    "after-pause": "the last card before it was taken more than 20 minutes earlier",
    "no-date": "it has no date to put it behind a card",
}
"""Why a photo is filed by nobody, in words."""


@dataclass(frozen=True)
class Shot:
    """One photo of a camera, in the order in which they were taken.

    ``key``: whatever tells photos apart; ``at``: when it was taken, None where that is not known; ``ids``: what the cards in it say;
    ``unread``: is a card in it that says nothing; ``shows``: is an animal or an egg seen; ``looked``: were cards sought in it yet.
    """

    key: Hashable
    at: datetime | None
    ids: tuple[str, ...] = ()
    unread: bool = False
    shows: bool = True
    looked: bool = True


@dataclass(frozen=True)
class Filing:
    """Where a photo belongs. ``id``: of the hatchling, or of the clutch where only that is known, or empty; ``by``: :data:`BY_CARD`,
    :data:`BY_LAST_CARD`, or empty where it waits, and then ``why``: one of :data:`WAITS`."""

    key: Hashable
    id: str
    by: str
    why: str = ""


def filed(shots: Sequence[Shot], hatchlings: Collection[str], clutches: Collection[str]) -> list[Filing]:
    """Where each photo of one camera belongs; ``shots`` in the order taken, ``hatchlings`` and ``clutches``: the known numbers."""
    last = _LastCard()
    return [_filed(shot, last, hatchlings, clutches) for shot in shots]


@dataclass
class _LastCard:
    """What counts for the next photo: a hatchling's number and when it was last seen, or why there is none."""

    id: str = ""
    at: datetime | None = None
    clutch: str = ""
    why: str = "no-card"

    def broken(self, why: str, clutch: str = "") -> None:
        """Nothing that came before counts for the next photo."""
        self.id, self.at, self.clutch, self.why = "", None, clutch, why

    def counts_at(self, at: datetime | None) -> None:
        """Is it still the card of a photo taken then?"""
        if self.id and (at is None or self.at is None):
            self.broken("no-date")
        elif self.id and at and self.at and at - self.at > PAUSE:
            self.broken("after-pause")


def _filed(shot: Shot, last: _LastCard, hatchlings: Collection[str], clutches: Collection[str]) -> Filing:
    if not shot.looked:
        last.broken("not-looked-at")
        return Filing(shot.key, "", "", "not-looked-at")
    if (own := _own(shot, hatchlings, clutches)) is not None:
        if own.by:
            last.id, last.at, last.clutch = own.id, shot.at, ""
        else:
            last.broken("clutch-card" if own.id else "after-unread", own.id)
        return own
    if not shot.shows:
        last.broken("after-unclear")
        return Filing(shot.key, "", "", "unclear")
    last.counts_at(shot.at)
    if not last.id:
        return Filing(shot.key, last.clutch, "", last.why)
    last.at = shot.at
    return Filing(shot.key, last.id, BY_LAST_CARD)


def _own(shot: Shot, hatchlings: Collection[str], clutches: Collection[str]) -> Filing | None:
    """By the cards in the photo itself; None where there is none."""
    named = set(shot.ids)
    if len(named) > 1:
        return Filing(shot.key, "", "", "several-cards")
    if not named:
        return Filing(shot.key, "", "", "unread-card") if shot.unread else None
    name = named.pop()
    if name in hatchlings:
        return Filing(shot.key, name, BY_CARD)
    return Filing(shot.key, name if name in clutches else "", "", "clutch-card" if name in clutches else "stranger")
