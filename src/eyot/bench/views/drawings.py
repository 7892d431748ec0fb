"""Drawn strips of combinations."""

from __future__ import annotations

import io
from collections import Counter
from functools import lru_cache
from threading import Lock

from django.http import Http404, HttpRequest, HttpResponse
from PIL import Image

from eyot_core.catalogue import STAGES, builtin_catalogue
from eyot_core.drawing.palette import to_srgb
from eyot_core.drawing.skin import strip_colours
from eyot_core.identify.looks import likeliest_looks

WIDTH, HEIGHT = 720, 63
SEED = 11
ONE_AT_A_TIME = Lock()  # an answer to a look must not wait behind four drawings at once


def strip(request: HttpRequest, key: str) -> HttpResponse:
    """A flank strip of what a combination most probably shows; ``key``: its genes, joined by dots, or "normal"."""
    genes = () if key == "normal" else tuple(sorted(key.split(".")))
    stage = request.GET.get("stage", "shed")
    if stage not in STAGES or not _can_exist(genes):
        raise Http404
    answer = HttpResponse(_drawn(genes, stage), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=86400"
    return answer


def _can_exist(genes: tuple[str, ...]) -> bool:
    """Known genes, and at most two of them at any locus."""
    known = builtin_catalogue().genes
    loci = Counter(known[gene].locus for gene in genes if gene in known)
    return all(gene in known for gene in genes) and max(loci.values(), default=0) <= 2


def _drawn(genes: tuple[str, ...], stage: str) -> bytes:
    with ONE_AT_A_TIME:
        return _drawn_once(genes, stage)


@lru_cache(maxsize=512)
def _drawn_once(genes: tuple[str, ...], stage: str) -> bytes:
    catalogue = builtin_catalogue()
    genotype: dict[str, list[str]] = {}
    for gene in genes:
        genotype.setdefault(catalogue.genes[gene].locus, []).append(gene)
    looks = likeliest_looks(catalogue, genotype, stage)
    held = io.BytesIO()
    Image.fromarray(to_srgb(strip_colours(looks, SEED, WIDTH, HEIGHT))).save(held, "JPEG", quality=88)
    return held.getvalue()
