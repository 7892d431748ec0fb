"""Papers handed out as PDF or as a file, and papers that come with animals."""

from __future__ import annotations

import io
import json

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.homes.label_pages import write_pdf
from eyot.homes.views.hatchling import home_page, kept_of
from eyot.papers.actions import hand_out, keep_paper, put_away, take_over
from eyot.papers.models import PaperIn
from eyot.papers.pages import printed_paper
from eyot.papers.reading import MOST_BYTES, paper_from, read_paper
from eyot.shared.refusal import Refused, refusals_on


@require_POST
@refusals_on(home_page)
def handed_out(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """The paper of one hatchling: a page to print, or the file that another Eyot reads."""
    row = kept_of(request, code, number)
    as_file = request.POST.get("as") == "file"
    document = hand_out(row, request.member, timezone.now(), photos=as_file and bool(request.POST.get("photos")))
    name = f"{slugify(row.name)}-{document['version']}"
    if as_file:
        text = json.dumps(document, ensure_ascii=False, indent=1)
        answer = HttpResponse(text, content_type="application/json; charset=utf-8")
        answer["Content-Disposition"] = f'attachment; filename="{name}.paper.json"'
        return answer
    file = io.BytesIO()
    context = printed_paper(document, catalogue_of(request.collection))
    write_pdf(render_to_string("papers/pdf/paper.html", context), file)
    answer = HttpResponse(file.getvalue(), content_type="application/pdf")
    answer["Content-Disposition"] = f'attachment; filename="{name}.pdf"'
    return answer


def papers_page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    """Papers that came, and where one is read."""
    papers = request.collection.papers_in.select_related("egg__kept_as", "read_by").defer("document")
    context = {"papers": papers, "refused": refused, "here": "animals"}
    return render(request, "papers/papers.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(papers_page)
def read(request: CollectionRequest) -> HttpResponse:
    """A paper's file is read, and kept to be looked at."""
    file = request.FILES.get("paper")
    if file is None or not file.size:
        raise Refused("Choose the paper's file. Nothing was read.")
    if file.size > MOST_BYTES:
        raise Refused(f"A paper has at most {MOST_BYTES // 1_000_000} MB. Nothing was read.")
    paper = read_paper(file.read())
    knowing = bool(request.POST.get("knowing"))
    kept = keep_paper(request.collection, request.member, paper, timezone.now(), knowing=knowing)
    return redirect("paper", kept.pk)


def _kept(request: CollectionRequest, number: int) -> PaperIn:
    papers = request.collection.papers_in.select_related("collection", "egg__kept_as")
    return get_object_or_404(papers, pk=number)


def paper_page(request: CollectionRequest, number: int, refused: Refused | None = None) -> HttpResponse:
    """What a paper says, before and after the animal is taken over."""
    kept = _kept(request, number)
    paper, catalogue = paper_from(kept.document), catalogue_of(request.collection)
    earlier = request.collection.papers_in.filter(number=kept.number, egg__isnull=False).exclude(pk=kept.pk).first()
    context = {
        **printed_paper(kept.document, catalogue),
        "kept": kept,
        "paper": paper,
        "unknown": paper.unknown_in(catalogue),
        "earlier": earlier.egg.kept_as if earlier and earlier.egg else None,
        "name": request.POST.get("name", paper.name),
        "refused": refused,
        "here": "animals",
    }
    return render(request, "papers/paper.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(paper_page)
def taken(request: CollectionRequest, number: int) -> HttpResponse:
    """The animal is taken over."""
    animal = take_over(_kept(request, number), request.member, request.POST.get("name", ""), timezone.now())
    return redirect("animal", animal.pk)


@require_POST
@refusals_on(paper_page)
def away(request: CollectionRequest, number: int) -> HttpResponse:
    """The paper is put away."""
    put_away(_kept(request, number))
    return redirect("papers")
