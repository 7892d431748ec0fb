"""Addresses of collections and members. ``collections`` and ``join`` belong to a person, the others to a collection."""

from django.urls import path

from eyot.collection import views

urlpatterns = [
    path("collections/", views.collections, name="collections"),
    path("collections/new/", views.made, name="new-collection"),
    path("begin/", views.begin_page, name="begin"),
    path("join/<str:token>/", views.join_page, name="join"),
    path("members/<int:number>/new-password/", views.reset_made, name="reset-password"),
    path("members/", views.members_page, name="members"),
    path("members/invite/", views.invited, name="invite-member"),
    path("members/invitations/<int:number>/withdraw/", views.withdrawn, name="withdraw-member-invitation"),
    path("members/<int:number>/role/", views.role_changed, name="change-role"),
    path("members/<int:number>/remove/", views.removed, name="remove-member"),
    path("members/leave/", views.left, name="leave-collection"),
]
