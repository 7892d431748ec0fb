"""The trail of a hatchling: every look and every call."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.urls import reverse

from eyot.bench.judgement import plain, trait_words
from eyot.bench.models import Call, Look, SiblingComparison
from eyot.bench.sibling_comparisons import words_of
from eyot.season.models import Egg


@dataclass(frozen=True)
class TrailEntry:
    """One line of the trail."""

    at: object
    who: str
    stage: str
    kind: str
    text: str
    note: str = ""
    undo: str = ""
    withdrawn: bool = False


def trail_of(
    egg: Egg, looks: Sequence[Look], compared: Sequence[SiblingComparison], calls: Sequence[Call], reader_id: int
) -> list[TrailEntry]:
    """Every look, every comparison and every call of an egg, the newest first. ``undo``: where one's own is taken back."""
    place = (egg.clutch.code, egg.number)
    entries = [
        TrailEntry(
            look.seen_at,
            look.seen_by.get_username(),
            look.get_stage_display(),
            "look",
            _look_words(look),
            note=_note_of(look),
            undo=reverse("withdraw", args=[*place, look.pk]) if _is_own(look, reader_id) else "",
            withdrawn=look.withdrawn_at is not None,
        )
        for look in looks
    ]
    entries += [
        TrailEntry(
            row.seen_at,
            row.seen_by.get_username(),
            row.get_stage_display(),
            "look",
            f"{words_of(row, egg).capitalize()}, {row.confidence}",
            undo=reverse("take-apart", args=[*place, row.pk]) if _is_own(row, reader_id) else "",
            withdrawn=row.withdrawn_at is not None,
        )
        for row in compared
        if egg.pk in (row.egg_id, row.other_id)
    ]
    for call in calls:
        entries.append(
            TrailEntry(
                call.made_at, call.made_by.get_username(), call.get_stage_display(), "call", call.label, call.note
            )
        )
    return sorted(entries, key=lambda entry: entry.at, reverse=True)  # type: ignore[arg-type,return-value]


def _is_own(row: Look | SiblingComparison, reader_id: int) -> bool:
    return row.seen_by_id == reader_id and row.withdrawn_at is None


def _note_of(look: Look) -> str:
    if look.stands_apart:
        return "from outside: counts nowhere until a member lets it"
    return f"accepted from a photo: {look.measured}" if look.measured else ""


def _look_words(look: Look) -> str:
    name = trait_words(look.trait)["name"]
    return f"{name}: can’t see" if look.level == "unseen" else f"{name}: {plain(look.level)}, {look.confidence}"
