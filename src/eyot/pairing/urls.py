"""Pairings' addresses."""

from django.urls import path

from eyot.pairing import views

urlpatterns = [
    path("pairings/", views.plan, name="pairings"),
    path("pairings/save/", views.save, name="save-pairing"),
    path("pairings/goal/", views.goal, name="goal"),
]
