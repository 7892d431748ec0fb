"""The app of homes."""

from django.apps import AppConfig


class HomesConfig(AppConfig):
    """What becomes of each hatchling, and what is printed and listed of it."""

    name = "eyot.homes"
    default_auto_field = "django.db.models.BigAutoField"
