"""Addresses that belong to no thing of the keeper's."""

from django.contrib.auth.views import LoginView, LogoutView
from django.urls import path

from eyot.shared.views import alive, ready

urlpatterns = [
    path("alive", alive, name="alive"),
    path("ready", ready, name="ready"),
    path(
        "login/", LoginView.as_view(template_name="shared/login.html", redirect_authenticated_user=True), name="login"
    ),
    path("logout/", LogoutView.as_view(), name="logout"),
]
