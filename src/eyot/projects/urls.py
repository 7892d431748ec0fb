"""The addresses of projects."""

from django.urls import path

from eyot.projects import views

urlpatterns = [
    path("projects/", views.projects_page, name="projects"),
    path("projects/find/", views.find, name="find-plans"),
    path("projects/found/<int:number>/", views.found_page, name="found-plans"),
    path("projects/found/<int:number>/again/", views.found_again, name="seek-once-more"),
    path("projects/found/<int:number>/begin/", views.begun, name="begin-project"),
    path("projects/today/", views.today, name="projects-today"),
    path("projects/<int:number>/", views.project_page, name="project"),
    path("projects/<int:number>/close/", views.closed, name="close-project"),
    path("projects/<int:number>/limit/", views.limited, name="kin-limit"),
    path("projects/<int:number>/put/", views.put, name="put-into-plan"),
    path("projects/<int:number>/again/", views.seek_again, name="seek-again"),
    path("projects/<int:number>/hold/", views.held, name="hold-for"),
    path("clutches/<slug:code>/serves/", views.clutch_serves, name="clutch-serves"),
]
