"""From one open question to the next, and what was said aloud as looks to confirm."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render

from eyot_core.drawing.glyphs import glyph
from eyot_core.wording.dictation import dictated

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
            "trait": one.trait,
            "level": one.level,
            "look": trait_words(one.trait)["name"],
            "answer": plain(one.level),
            "drawing": glyph(one.trait, one.level),
            "doubtful": one.doubtful,
        }
        for one in found.heard
    ]
    return render(request, "bench/parts/heard.html", {"heard": heard, "unheard": found.unheard})
