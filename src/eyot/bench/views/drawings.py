"""Drawn strips of combinations."""

from __future__ import annotations

import io
from functools import lru_cache

from django.http import Http404, HttpRequest, HttpResponse
from PIL import Image

from eyot_core.catalogue import STAGES, builtin_catalogue
from eyot_core.drawing.palette import to_srgb
from eyot_core.drawing.skin import strip_colours
from eyot_core.identify.looks import likeliest_looks

WIDTH, HEIGHT = 960, 84
SEED = 11


def strip(request: HttpRequest, key: str) -> HttpResponse:
    """A flank strip of what a combination most probably shows; ``key``: its genes, joined by dots, or "normal"."""
    genes = () if key == "normal" else tuple(sorted(key.split(".")))
    stage = request.GET.get("stage", "shed")
    known = builtin_catalogue().genes
    if stage not in STAGES or len(genes) > 2 * len(known) or any(gene not in known for gene in genes):
        raise Http404
    answer = HttpResponse(_drawn(genes, stage), content_type="image/png")
    answer["Cache-Control"] = "private, max-age=86400"
    return answer


@lru_cache(maxsize=256)
def _drawn(genes: tuple[str, ...], stage: str) -> bytes:
    catalogue = builtin_catalogue()
    genotype: dict[str, list[str]] = {}
    for gene in genes:
        genotype.setdefault(catalogue.genes[gene].locus, []).append(gene)
    looks = likeliest_looks(catalogue, genotype, stage)
    held = io.BytesIO()
    Image.fromarray(to_srgb(strip_colours(looks, SEED, WIDTH, HEIGHT))).save(held, "PNG")
    return held.getvalue()
