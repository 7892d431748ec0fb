"""Pages of the reference: index and search, gene, combination, look-alikes."""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from eyot_core.catalogue import STAGES, Catalogue
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import key_of

from eyot.collection.catalogue import catalogue_of, lookup
from eyot.collection.middleware import CollectionRequest
from eyot.reference.combinations import combination_page, gene_words
from eyot.reference.comparisons import MOST, comparison_page
from eyot.reference.genes import gene_page
from eyot.reference.own import pins_for_combination, pins_for_gene
from eyot.reference.shows import named_against, named_looks
from eyot.reference.subjects import STAGE_WORDS, stage_from, subject_from


def index(request: CollectionRequest) -> HttpResponse:
    """Everything there is, and what was searched for."""
    catalogue, asked = catalogue_of(request.collection), request.GET.get("q", "").strip()[:200]
    names = lookup(catalogue)
    context = {
        "q": asked,
        "genes": gene_words(catalogue),
        "notes": catalogue.document.get("lookalikes", []),
        "here": "reference",
    }
    if asked:
        read = understood(names, asked)
        looks, against = named_looks(names, asked), named_against(names, read)
        context |= {"read": read, "named_looks": looks, "against": against, **_understood(catalogue, read.genes)}
        hits = [] if against else names.find(asked)
        if looks:  # what merely sounds like the words of a look would mislead
            hits = [hit for hit in hits if asked.lower() in hit.name.lower()]
        context |= {"unknown": () if looks else read.unknown, "hits": hits}
    return render(request, "reference/index.html", context)


def _understood(catalogue: Catalogue, genes: tuple[tuple[str, int], ...]) -> dict[str, object]:
    if not genes:
        return {}
    try:
        return {"subject": subject_from(catalogue, genes)}
    except ValueError as error:
        return {"impossible": str(error)}


def typed(request: CollectionRequest) -> HttpResponse:
    """Genes typed into one line: to their combination, or back to the search with what was not understood."""
    text = request.GET.get("q", "")[:200]
    catalogue = catalogue_of(request.collection)
    read = understood(lookup(catalogue), text)
    combination = _understood(catalogue, read.genes)
    if "subject" in combination and not read.left_open and not read.guessed:
        return redirect("combination", key_of(read.genes))
    return redirect(f"{reverse('reference')}?{urlencode({'q': text})}")


def _stages(stage: str) -> dict[str, object]:
    stages = [(each, STAGE_WORDS[each]) for each in STAGES]
    return {"stage": stage, "stages": stages, "stage_words": STAGE_WORDS[stage], "here": "reference"}


def gene(request: CollectionRequest, gene_id: str) -> HttpResponse:
    """One gene."""
    stage = stage_from(request.GET.get("stage"))
    page = gene_page(catalogue_of(request.collection), gene_id, stage)
    return render(
        request,
        "reference/gene.html",
        {"page": page, "pins": pins_for_gene(request.collection, gene_id), **_stages(stage)},
    )


def combination(request: CollectionRequest, key: str) -> HttpResponse:
    """One combination with its ladder."""
    stage = stage_from(request.GET.get("stage"))
    page = combination_page(catalogue_of(request.collection), key, stage)
    pins = pins_for_combination(request.collection, key)
    return render(request, "reference/combination.html", {"page": page, "pins": pins, **_stages(stage)})


def lookalikes(request: CollectionRequest, keys: str) -> HttpResponse:
    """Two to four combinations beside one another; ``keys``: theirs, joined by "~"."""
    chosen = tuple(keys.split("~"))
    if not 2 <= len(chosen) <= MOST:
        raise Http404(f"two to {MOST} combinations can be compared")
    stage = stage_from(request.GET.get("stage"))
    page = comparison_page(catalogue_of(request.collection), chosen, stage)
    return render(request, "reference/lookalikes.html", {"page": page, "keys": keys, **_stages(stage)})


def note(request: CollectionRequest, note_id: str) -> HttpResponse:
    """A keepers' note: to the page of its candidates, or the note alone where there are none to compare."""
    for entry in catalogue_of(request.collection).document.get("lookalikes", []):
        if entry["id"] == note_id:
            keys = [key_of(list(copies.items())) for copies in entry["candidates"]]
            if len(set(keys)) > 1:
                return redirect("lookalikes", "~".join(keys))
            return render(request, "reference/note.html", {"note": entry, "here": "reference"})
    raise Http404(f"no such note: {note_id}")


def compare(request: CollectionRequest) -> HttpResponse:
    """Two lines of genes typed by the keeper: to their page, or back to the search with what was not understood."""
    catalogue, keys = catalogue_of(request.collection), []
    for text in request.GET.getlist("with")[:MOST]:
        read = understood(lookup(catalogue), text[:200])
        if read.left_open or "impossible" in _understood(catalogue, read.genes):
            return redirect(f"{reverse('reference')}?{urlencode({'q': text})}")
        keys.append(key_of(read.genes))
    return redirect("lookalikes", "~".join(keys)) if len(keys) > 1 else redirect("reference")
