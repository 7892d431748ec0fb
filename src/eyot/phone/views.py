"""The page Phone, and what keeps Eyot on a device: the manifest, the worker, the page without a signal."""

from __future__ import annotations

import hashlib
import json
from functools import lru_cache
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from django.conf import settings
from django.contrib.staticfiles import finders
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.templatetags.static import static
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from eyot.collection.middleware import CollectionRequest
from eyot.shared.codes import svg_of

KEPT = ("js/", "css/", "fonts/", "icons/", "seed.svg")
"""What of the static files a device keeps."""
WORKER = "worker/worker.js"
GROUND = "#f2f1eb"


def _authority() -> x509.Certificate | None:
    """The certificate that a phone is to trust; none where this server has none of its own."""
    try:
        return x509.load_pem_x509_certificate((Path(settings.DATA) / "certificates/authority.crt").read_bytes())
    except (OSError, ValueError):
        return None


@require_GET
def phone_page(request: CollectionRequest) -> HttpResponse:
    """Where a phone finds this server, and the few steps until it trusts it."""
    authority = _authority() if settings.PHONE_ADDRESSES else None
    here = request.build_absolute_uri("/") if request.is_secure() else ""
    addresses = settings.PHONE_ADDRESSES or ([here] if here else [])
    context = {
        "addresses": addresses,
        "code": svg_of(addresses[0]) if addresses else "",
        "authority": authority,
        "fingerprint": authority.fingerprint(hashes.SHA256()).hex(" ", 2).upper() if authority else "",
        "here": "phone",
    }
    return render(request, "phone/phone.html", context)


@require_GET
def certificate(request: CollectionRequest) -> HttpResponse:
    """The authority's certificate, as phones install it."""
    authority = _authority()
    if authority is None:
        raise Http404
    data = authority.public_bytes(serialization.Encoding.DER)
    answer = HttpResponse(data, content_type="application/x-x509-ca-cert")
    answer["Content-Disposition"] = 'attachment; filename="eyot.crt"'
    return answer


@lru_cache(maxsize=1)
def _shell() -> tuple[str, list[str]]:
    """The version of Eyot's files, and their addresses."""
    names = {name for finder in finders.get_finders() for name, _ in finder.list([]) if name.startswith(KEPT)}
    addresses = sorted(static(name) for name in names)
    digest = hashlib.sha256("\n".join([*addresses, _worker_text()]).encode())
    return digest.hexdigest()[:12], addresses


def _worker_text() -> str:
    path = finders.find(WORKER)
    assert isinstance(path, str)
    return Path(path).read_text()


@require_GET
@never_cache
def worker(request: HttpRequest) -> HttpResponse:
    """The script that keeps pages and files on a device; another for every version of Eyot."""
    version, shell = _shell()
    head = f"const VERSION = {json.dumps(version)}, SHELL = {json.dumps(shell)};\n"
    return HttpResponse(head + _worker_text(), content_type="text/javascript")


@require_GET
def manifest(request: HttpRequest) -> JsonResponse:
    """How Eyot stands on a home screen."""
    icons = [
        {"src": static(f"icons/icon-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png", "purpose": purpose}
        for size in (192, 512)
        for purpose in ("any", "maskable")
    ]
    words = {"name": "Eyot", "short_name": "Eyot", "description": "Which morphs are in it?", "lang": "en"}
    look = {"display": "standalone", "background_color": GROUND, "theme_color": GROUND}
    data = {"id": "/", "start_url": "/", "scope": "/", **words, **look, "icons": icons}
    return JsonResponse(data, content_type="application/manifest+json")


@require_GET
def offline_page(request: HttpRequest) -> HttpResponse:
    """What stands for a page that is not kept on this device. Says nothing of anybody, since it is kept there itself."""
    return HttpResponse(render_to_string("phone/offline.html"))
