"""The app's entry in Django."""

from django.apps import AppConfig


class PhotosConfig(AppConfig):
    """See the package's own words."""

    name = "eyot.photos"

    def ready(self) -> None:
        """What is made of photos follows when their marks are taken back; sizes by cards stand beside weights."""
        from eyot.collection.history import taken_back
        from eyot.photos.queries import sizes_of
        from eyot.photos.signals import make_touched_anew
        from eyot.season.growth import sizes

        taken_back.connect(make_touched_anew, dispatch_uid="photos")
        if sizes_of not in sizes:
            sizes.append(sizes_of)
