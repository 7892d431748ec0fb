"""The app's entry in Django."""

from django.apps import AppConfig


class SharedConfig(AppConfig):
    """Base templates, tags and static files."""

    name = "eyot.shared"
