"""The app's entry in Django."""

from django.apps import AppConfig


class PracticeConfig(AppConfig):
    """See the package's own words."""

    name = "eyot.practice"
    default_auto_field = "django.db.models.BigAutoField"
