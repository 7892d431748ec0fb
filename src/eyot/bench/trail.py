"""The trail of a hatchling: every look and every call."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from eyot.bench.judgement import plain, trait_words
from eyot.bench.models import Call, Look


@dataclass(frozen=True)
class TrailEntry:
    """One line of the trail."""

    at: object
    who: str
    stage: str
    kind: str
    text: str
    note: str = ""
    undo: int | None = None
    withdrawn: bool = False


def trail_of(looks: Sequence[Look], calls: Sequence[Call], reader_id: int) -> list[TrailEntry]:
    """Every look and every call, the newest first."""
    entries = [
        TrailEntry(
            look.seen_at,
            look.seen_by.get_username(),
            look.get_stage_display(),
            "look",
            _look_words(look),
            note=f"accepted from a photo: {look.measured}" if look.measured else "",
            undo=look.pk if look.seen_by_id == reader_id and look.withdrawn_at is None else None,
            withdrawn=look.withdrawn_at is not None,
        )
        for look in looks
    ]
    for call in calls:
        entries.append(
            TrailEntry(
                call.made_at, call.made_by.get_username(), call.get_stage_display(), "call", call.label, call.note
            )
        )
    return sorted(entries, key=lambda entry: entry.at, reverse=True)  # type: ignore[arg-type,return-value]


def _look_words(look: Look) -> str:
    name = trait_words(look.trait)["name"]
    return f"{name}: can’t see" if look.level == "unseen" else f"{name}: {plain(look.level)}, {look.confidence}"
