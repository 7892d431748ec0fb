"""The app's entry in Django."""

from django.apps import AppConfig


class ProjectsConfig(AppConfig):
    """See the package's own words."""

    name = "eyot.projects"
    default_auto_field = "django.db.models.BigAutoField"
