"""The addresses of hets and proof."""

from django.urls import path

from eyot.hets.views import carrier, explain, laboratory, ledger

urlpatterns = [
    path("hets/", ledger.page, name="hets"),
    path("hets/markers/", ledger.markers, name="switch-markers"),
    path("hets/tests/", ledger.tests, name="import-tests"),
    path("hets/marks/<slug:gene>/", ledger.counts, name="mark-counts"),
    path("hets/marks/<slug:gene>/take-over/", ledger.take_over, name="take-over-ratio"),
    path("hets/<int:number>/<slug:gene>/", carrier.page, name="carrier"),
    path("hets/<int:number>/<slug:gene>/marks/", carrier.marks, name="keep-marks"),
    path("hets/<int:number>/<slug:gene>/breedings/", carrier.breeding, name="add-breeding"),
    path("hets/<int:number>/<slug:gene>/tests/", carrier.test, name="add-test"),
    path("laboratory/", laboratory.page, name="laboratory"),
    path("laboratory/order/", laboratory.order, name="order-test"),
    path("laboratory/<int:number>/<slug:step>/", laboratory.step, name="lab-step"),
    path("explain/", explain.page, name="explain"),
]
