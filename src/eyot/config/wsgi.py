"""The server's entry point."""

from django.core.wsgi import get_wsgi_application

application = get_wsgi_application()
