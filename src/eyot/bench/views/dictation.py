"""What was said aloud, as looks to confirm."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render

from eyot_core.drawing.glyphs import glyph
from eyot_core.identify.sibling_comparisons import ANSWERS
from eyot_core.wording.dictation import dictated

from eyot.bench.judgement import plain, trait_words
from eyot.bench.sibling_comparisons import WORDS
from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest

LONGEST = 400


def hear(request: CollectionRequest) -> HttpResponse:
    """What a text is heard as."""
    dictation = dictated(catalogue_of(request.collection), request.GET.get("said", "")[:LONGEST])
    heard = [
        {
            "words": one.words,
            "meanings": [_meaning(trait, level) for trait, level in one.looks],
            "unsure": one.is_unsure,
        }
        for one in dictation.heard
    ]
    beside = [{"row": one, "words": WORDS[one.trait][ANSWERS.index(one.answer)]} for one in dictation.beside]
    return render(request, "bench/parts/heard.html", {"heard": heard, "beside": beside, "unheard": dictation.unheard})


def _meaning(trait: str, level: str) -> dict[str, object]:
    words = {"look": trait_words(trait)["name"], "answer": plain(level)}
    return {"trait": trait, "level": level, "drawing": glyph(trait, level), **words}
