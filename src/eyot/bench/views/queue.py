"""From one open question to the next, and what was said aloud as looks to confirm."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render

from eyot_core.drawing.glyphs import glyph
from eyot_core.identify.beside import ANSWERS
from eyot_core.wording.dictation import dictated

from eyot.bench.beside import WORDS
from eyot.bench.judgement import plain, trait_words
from eyot.bench.queue import next_open
from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.season.queries import clutch_of

LONGEST = 400


def following(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """To the hatchling with the most telling open question: of this clutch, else of the season; else to the closing sheet."""
    clutch = clutch_of(request.collection, code)
    found = next_open(clutch, number)
    return redirect("bench", found.clutch.code, found.number) if found else redirect("closing", code)


def hear(request: CollectionRequest) -> HttpResponse:
    """What a text is heard as."""
    found = dictated(catalogue_of(request.collection), request.GET.get("said", "")[:LONGEST])
    heard = [
        {
            "words": one.words,
            "meanings": [_meaning(trait, level) for trait, level in one.looks],
            "unsure": one.is_unsure,
        }
        for one in found.heard
    ]
    beside = [{"row": one, "words": WORDS[one.trait][ANSWERS.index(one.answer)]} for one in found.beside]
    return render(request, "bench/parts/heard.html", {"heard": heard, "beside": beside, "unheard": found.unheard})


def _meaning(trait: str, level: str) -> dict[str, object]:
    words = {"look": trait_words(trait)["name"], "answer": plain(level)}
    return {"trait": trait, "level": level, "drawing": glyph(trait, level), **words}
