"""The season's addresses."""

from django.urls import path

from eyot.season.views import season

urlpatterns = [path("", season, name="season")]
