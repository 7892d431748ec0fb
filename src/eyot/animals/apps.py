"""The app's entry in Django."""

from django.apps import AppConfig


class AnimalsConfig(AppConfig):
    """See the package's own words."""

    name = "eyot.animals"
