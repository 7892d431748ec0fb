"""The app's entry in Django."""

from django.apps import AppConfig


class PhotosConfig(AppConfig):
    """See the package's own words."""

    name = "eyot.photos"

    def ready(self) -> None:
        """What is made of photos follows when their marks are taken back."""
        from eyot.collection.history import taken_back
        from eyot.photos.signals import make_touched_anew

        taken_back.connect(make_touched_anew, dispatch_uid="photos")
