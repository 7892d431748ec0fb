"""The addresses of papers."""

from django.urls import path

from eyot.papers import views

urlpatterns = [
    path("papers/", views.papers_page, name="papers"),
    path("papers/read/", views.read, name="read-paper"),
    path("papers/<int:number>/", views.paper_page, name="paper"),
    path("papers/<int:number>/take/", views.taken, name="take-paper"),
    path("papers/<int:number>/away/", views.away, name="paper-away"),
    path("clutches/<slug:code>/<int:number>/home/paper/", views.handed_out, name="hand-out-paper"),
]
