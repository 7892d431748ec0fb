"""The app's entry in Django."""

from django.apps import AppConfig


class InboxConfig(AppConfig):
    """See the package's own words."""

    name = "eyot.inbox"
