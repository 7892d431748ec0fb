"""Animals' addresses."""

from django.urls import path

from eyot.collection.views import animals

urlpatterns = [path("animals/", animals, name="animals")]
