"""Pairings' addresses."""

from django.urls import path

from eyot.pairing import running_views, views

urlpatterns = [
    path("pairings/", views.plan, name="pairings"),
    path("pairings/running/", running_views.running_page, name="enter-running"),
    path("pairings/save/", views.save, name="save-pairing"),
    path("pairings/goal/", views.goal, name="goal"),
]
