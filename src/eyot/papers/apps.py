"""The app's entry in Django."""

from django.apps import AppConfig


class PapersConfig(AppConfig):
    """See the package's own words."""

    name = "eyot.papers"
    default_auto_field = "django.db.models.BigAutoField"
