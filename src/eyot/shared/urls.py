"""Addresses that belong to no thing of the keeper's."""

from django.urls import path

from eyot.shared.views import alive, ready, token

urlpatterns = [
    path("alive", alive, name="alive"),
    path("ready", ready, name="ready"),
    path("token/", token, name="token"),
]
