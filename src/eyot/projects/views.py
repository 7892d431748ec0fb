"""Projects: sought, begun, followed; what if; and whom they hold back."""

from __future__ import annotations

from datetime import date
from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.projects.actions import begin, close, go_on_with, hold_for, put_in, set_limit
from eyot.projects.board import in_words, project_row, row_of_outlook, usual_rules, welfare_of_goal
from eyot.projects.forms import BuyForm, GoalForm
from eyot.projects.found import found_plans
from eyot.projects.instead import instead_of
from eyot.projects.kin import Family
from eyot.projects.models import Project
from eyot.projects.reckoning import Standing, names_in, rules_from, rules_in, standing_of
from eyot.projects.seeking import JOB, seek, seek_once_more
from eyot.projects.serving import serving
from eyot.projects.today import tasks_of_projects
from eyot.projects.tree import tree_of
from eyot.projects.what_if import Case, bought, one_more_clutch, tested, uncertain_of, without, worth_buying
from eyot.season.models import Egg
from eyot.season.queries import clutch_of
from eyot.shared.forms import as_sent, entered
from eyot.shared.jobs import is_under_way
from eyot.shared.refusal import Refused, refusals_on


def projects_page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    """All projects, each as it stands today; and where another is sought."""
    today = timezone.localdate()
    projects = list(request.collection.projects.all())
    context = {
        "rows": [project_row(standing_of(project, today)) for project in projects],
        "form": as_sent(refused, GoalForm, initial=usual_rules(request.collection)),
        "refused": refused,
        "here": "pairings",
    }
    return render(request, "projects/projects.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(projects_page)
def find(request: CollectionRequest) -> HttpResponse:
    """Plans for a goal, beside one another."""
    values = entered(request, GoalForm)
    catalogue = catalogue_of(request.collection)
    read = understood(Lookup(catalogue), values["line"])
    if read.unknown or read.questions:
        raise Refused(f"{read.left_open} Nothing was sought.", field="line")
    genes = [{"gene": one.gene, "copies": one.copies} for one in read.statements]
    goal: dict[str, Any] = {"genes": genes}
    if values["sex"]:
        goal |= {"pair": True} if values["sex"] == "pair" else {"sex": values["sex"]}
    row = seek(request.collection, request.member, values["line"], goal, rules_in(values), timezone.now())
    return redirect("found-plans", row.pk)


def found_page(request: CollectionRequest, number: int, refused: Refused | None = None) -> HttpResponse:
    """The plans of one search beside one another; how far it is, while it goes on."""
    is_sought = is_under_way(JOB, number=number)
    row = get_object_or_404(request.collection.seekings.select_related("project"), pk=number)
    context = {
        "seeking": row,
        "plans": [] if row.plans is None else found_plans(row, timezone.localdate()),
        "welfare": welfare_of_goal(row.goal, Naming(catalogue_of(request.collection))),
        "share": round(100 * row.done),
        "has_failed": row.plans is None and not is_sought,
        "refused": refused,
        "here": "pairings",
    }
    part = request.headers.get("HX-Target") == "seeking"
    page = "projects/parts/found.html" if part else "projects/found.html"
    return render(request, page, context, status=422 if refused else 200)


@require_POST
def found_again(request: CollectionRequest, number: int) -> HttpResponse:
    """What a worker failed at is sought once more."""
    seek_once_more(get_object_or_404(request.collection.seekings, pk=number))
    return redirect("found-plans", number)


@require_POST
@refusals_on(found_page)
def begun(request: CollectionRequest, number: int) -> HttpResponse:
    """A plan is chosen: the project begins, or goes on with it."""
    row = get_object_or_404(request.collection.seekings.select_related("project"), pk=number)
    typed = request.POST.get("plan", "")
    place = int(typed) - 1 if typed.isdecimal() and len(typed) < 4 else -1
    if not row.plans or not 0 <= place < len(row.plans):
        raise Refused("Choose one of the plans. Nothing was changed.")
    plan, at = row.plans[place], timezone.now()
    project = row.project
    if project:
        go_on_with(project, request.member, plan, at)
    else:
        project = begin(request.collection, request.member, request.POST.get("name", ""), row.goal, row.rules, plan, at)
    return redirect("project", project.pk)


def _project(request: CollectionRequest, number: int) -> Project:
    return get_object_or_404(request.collection.projects.select_related("collection"), pk=number)


def project_page(request: CollectionRequest, number: int, refused: Refused | None = None) -> HttpResponse:
    """One project as it stands, its tree, its kin, and what if."""
    project = _project(request, number)
    today = timezone.localdate()
    standing = standing_of(project, today)
    catalogue = catalogue_of(request.collection)
    cases: list[Case] = []
    try:
        cases = _cases(request, standing, today)
    except Refused as reason:
        refused = refused or reason
    goal, rules = [one["gene"] for one in project.goal["genes"]], rules_from(project.rules)
    asked = request.GET.get("instead", "")
    kin = Family.of(request.collection, names_in(project), standing.called).kin(project.plan)
    context = {
        "project": project,
        "row": project_row(standing),
        "standing": standing,
        "steps": in_words(project.plan, standing.called, Naming(catalogue), project.first_year),
        "tree": tree_of(project.plan, standing.stock, catalogue, goal),
        "kin": kin,
        "close_kin": [name for name, share in kin.inbreeding.items() if 100 * share >= project.kin_percent],
        "cases": [(case, row_of_outlook(case.outlook, project.first_year + standing.season, rules)) for case in cases],
        "welfare": welfare_of_goal(project.goal, Naming(catalogue)),
        "uncertain": [
            (one, gene, Naming(catalogue).gene(gene), chance) for one, gene, chance in uncertain_of(standing)
        ],
        "places": standing.places,
        "asked": standing.places.get(asked, ""),
        "asked_name": asked,
        "instead": [
            (one, row_of_outlook(one.outlook, project.first_year + standing.season, rules))
            for one in (instead_of(standing, asked, today) if asked in standing.places else [])
        ],
        "used": [one for one in standing.stock.values() if one.animal],
        "buy_form": as_sent(refused, BuyForm),
        "refused": refused,
        "here": "pairings",
    }
    return render(request, "projects/project.html", context, status=422 if refused else 200)


def _cases(request: CollectionRequest, standing: Standing, today: date) -> list[Case]:
    """The cases that an address asks for."""
    asked, project = request.GET, standing.project
    cases = []
    if asked.get("clutch") and standing.outlook:
        cases.append(one_more_clutch(standing))
    if asked.get("buy", "").strip():
        sex = asked.get("buy_sex") if asked.get("buy_sex") in ("female", "male") else "male"
        cases.append(bought(project, asked["buy"], str(sex), today))
    if asked.get("advice"):
        cases += worth_buying(project, today)
    if asked.get("without"):
        cases.append(without(project, asked["without"], today))
    if "." in asked.get("test", ""):
        animal, gene = asked["test"].split(".", 1)
        cases += tested(standing, animal, gene, today)
    return cases


@require_POST
@refusals_on(project_page)
def closed(request: CollectionRequest, number: int) -> HttpResponse:
    """A project ends, or goes on again."""
    close(_project(request, number), request.member, timezone.now())
    return redirect("project", number)


@require_POST
@refusals_on(project_page)
def limited(request: CollectionRequest, number: int) -> HttpResponse:
    """From which inbreeding on the keeper is warned."""
    set_limit(_project(request, number), request.member, request.POST.get("kin_percent", ""), timezone.now())
    return redirect("project", number)


@require_POST
@refusals_on(project_page)
def held(request: CollectionRequest, number: int) -> HttpResponse:
    """A hatchling is held back for a step."""
    pk = request.POST.get("egg", "")
    egg = get_object_or_404(Egg, pk=int(pk) if pk.isdecimal() else 0, clutch__collection=request.collection)
    hold_for(_project(request, number), request.POST.get("step", ""), egg, request.member, timezone.now())
    return redirect("project", number)


@require_POST
@refusals_on(project_page)
def put(request: CollectionRequest, number: int) -> HttpResponse:
    """An own animal takes a place in the plan."""
    pk = request.POST.get("animal", "")
    animal = request.collection.animals.filter(pk=int(pk)).first() if pk.isdecimal() and len(pk) < 10 else None
    put_in(_project(request, number), request.POST.get("name", ""), animal, request.member, timezone.now())
    return redirect("project", number)


@require_POST
@refusals_on(project_page)
def seek_again(request: CollectionRequest, number: int) -> HttpResponse:
    """Other plans for a project, from what is here now."""
    project = _project(request, number)
    row = seek(
        *(request.collection, request.member, project.name, project.goal, project.rules, timezone.now()), project
    )
    return redirect("found-plans", row.pk)


def clutch_serves(request: CollectionRequest, code: str) -> HttpResponse:
    """Which hatchlings of a clutch bring which project on; one of them alone where its number is asked for."""
    clutch = clutch_of(request.collection, code)
    number = request.GET.get("egg", "")
    eggs = [egg for egg in clutch.eggs.all() if egg.is_open]
    rows = serving(request.collection, clutch, eggs, timezone.localdate())
    asked = [row for row in rows if number in ("", str(row.egg.number))]
    return render(request, "projects/parts/serves.html", {"rows": asked})


def today(request: CollectionRequest) -> HttpResponse:
    """The pairings that projects wait for."""
    tasks = tasks_of_projects(request.collection, timezone.localdate())
    return render(request, "homes/parts/today.html", {"tasks": tasks})
