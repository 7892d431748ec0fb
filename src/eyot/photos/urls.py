"""Photos' addresses."""

from django.urls import path

from eyot.photos.views import light, photo_file

urlpatterns = [
    path("photos/<uuid:photo_id>/light/", light, name="photo-light"),
    path("photos/<uuid:photo_id>/<slug:size>.jpg", photo_file, name="photo"),
]
