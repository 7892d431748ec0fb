"""Photos' addresses."""

from django.urls import path

from eyot.photos.views import photo_file

urlpatterns = [path("photos/<uuid:photo_id>/<slug:size>.jpg", photo_file, name="photo")]
