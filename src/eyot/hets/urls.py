"""The addresses of hets and proof."""

from django.urls import path

from eyot.hets.views import carrier, desk, explain, laboratory, ledger

urlpatterns = [
    path("hets/", ledger.ledger_page, name="hets"),
    path("hets/markers/", ledger.markers, name="switch-markers"),
    path("hets/tests/", ledger.tests, name="import-tests"),
    path("hets/marks/<slug:gene>/", ledger.counts, name="mark-counts"),
    path("hets/marks/<slug:gene>/take-over/", ledger.take_over, name="take-over-ratio"),
    path("hets/<int:number>/<slug:gene>/", carrier.carrier_page, name="carrier"),
    path("hets/<int:number>/<slug:gene>/marks/", carrier.marks, name="keep-marks"),
    path("hets/<int:number>/<slug:gene>/breedings/", carrier.breeding, name="add-breeding"),
    path("hets/<int:number>/<slug:gene>/tests/", carrier.test, name="add-test"),
    path("hets/<int:number>/<slug:gene>/enter/", carrier.enter, name="enter-carrier"),
    path("laboratory/", laboratory.laboratory_page, name="laboratory"),
    path("laboratory/order/", laboratory.order, name="order-test"),
    path("laboratory/<int:number>/<slug:step>/", laboratory.step, name="lab-step"),
    path("proving/", desk.traits, name="proving"),
    path("proving/together/", desk.together, name="one-gene-or-two"),
    path("proving/place/", desk.same_place_or_two, name="same-place"),
    path("proving/<int:number>/", desk.trait, name="trait"),
    path("proving/<int:number>/who/", desk.who, name="trait-who"),
    path("proving/<int:number>/shows/", desk.shows, name="trait-shows"),
    path("proving/<int:number>/enter/", desk.enter, name="trait-enter"),
    path("explain/", explain.explain_page, name="explain"),
]
