"""Addresses that belong to no thing of the keeper's."""

from django.urls import path

from eyot.shared.views import alive, ready

urlpatterns = [
    path("alive", alive, name="alive"),
    path("ready", ready, name="ready"),
]
