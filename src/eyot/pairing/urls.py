"""Pairings' addresses."""

from django.urls import path

from eyot.pairing.views import plan, running

urlpatterns = [
    path("pairings/", plan.plan, name="pairings"),
    path("pairings/running/", running.running_page, name="enter-running"),
    path("pairings/save/", plan.save, name="save-pairing"),
    path("pairings/goal/", plan.goal, name="goal"),
]
