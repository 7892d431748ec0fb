"""The server's entry point. What every request needs is made ready here, once, before the server's processes part."""

import gc

from django.core.wsgi import get_wsgi_application
from django.template.loader import get_template
from django.urls import get_resolver

from eyot_core.catalogue import builtin_catalogue

application = get_wsgi_application()
builtin_catalogue()
get_resolver().reverse_dict  # noqa: B018  reading it imports every view
for name in ("season/season.html", "bench/clutch.html", "bench/page.html"):
    get_template(name)
gc.collect()
gc.freeze()  # what is loaded by now stays, and is not looked over again for what could be freed
