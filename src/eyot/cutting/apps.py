"""The app's entry in Django."""

from django.apps import AppConfig


class CuttingConfig(AppConfig):
    """See the package's own words."""

    name = "eyot.cutting"
