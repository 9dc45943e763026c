"""Orders: taken, their jobs added, changed, closed."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.heat.recipe.presses import elements_for
from tempermark.web.jobs import actions as jobs
from tempermark.web.jobs.models import Order
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.paging import page_of
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.kit.wording import error_text
from tempermark.web.planning import actions
from tempermark.web.planning.forms import ItemForm, OrderForm
from tempermark.web.planning.queries import jobs_left, listed_orders
from tempermark.web.planning.stock.queries import JobBlanks, blanks_of, shortages, stock
from tempermark.web.prepare.jobs.views import USUAL_ART_MM

# Closed orders of a page, and open ones above the first.
CLOSED_LISTED, MOST_OPEN = 20, 200


@require_GET
def orders(request: Request) -> HttpResponse:
    """Open orders, those due first leading; further down the last ones closed."""
    search = request.GET.get("q", "")[:80]
    closed = listed_orders(search).exclude(closed_at=None)
    page = page_of(closed, request.GET, "closed_at", CLOSED_LISTED)
    still_open = listed_orders(search).filter(closed_at=None)
    context = {
        "orders": [] if page.newest else still_open[:MOST_OPEN],
        "closed": page.rows,
        "page": page,
        "search": search,
    }
    return render(request, "planning/orders.html", context)


@require_http_methods(["GET", "POST"])
def new_order(request: Request) -> HttpResponse:
    """Take an order."""
    must_work(request.user)
    form = OrderForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            return redirect(actions.take_order(request.user, form.cleaned_data, form_key(request)))
        except InputError as error:
            form.add_error("reference", error_text(error, form_units(request)))
    context = {"form": form}
    status = 422 if form.errors else 200
    return render(request, "planning/order_edit.html", context, status=status)


@require_http_methods(["GET", "POST"])
def order(request: Request, pk: int) -> HttpResponse:
    """An order with its jobs; one more is added here."""
    found = get_object_or_404(Order, pk=pk)
    form = ItemForm(request.POST or None, initial=_usual_item(found), units=form_units(request))
    if request.method == "POST":
        must_work(request.user)
        if form.is_valid() and _add_job(request, found, form):
            return redirect(found)
    jobs = list(found.jobs.select_related("recipe__recipe", "blank", "press").order_by("pk"))
    needs = _needs()
    every = shortages(list(needs.values()), stock())
    short = [one for one in every if any(job.order_id == pk for job in one.jobs)]
    context = {
        "order": found,
        "form": form,
        "jobs": [(job, needs.get(job.pk)) for job in jobs],
        "shortages": short,
    }
    status = 422 if form.errors else 200
    return render(request, "planning/order.html", context, status=status)


def _needs() -> dict[int, JobBlanks]:
    """Open job, by its key → the blanks that it takes."""
    return {need.job.pk: need for need in blanks_of(*jobs_left())}


def _usual_item(order: Order) -> dict[str, Any]:
    last = order.jobs.order_by("-pk").first()
    width, height = USUAL_ART_MM
    if last is not None:
        width, height = last.art_width_mm, last.art_height_mm
    return {"art_width_mm": width, "art_height_mm": height, "per_load": 1}


def _add_job(request: Request, order: Order, form: ItemForm) -> bool:
    """A job of the order on the likeliest press, until a plan says which; False where none takes
    it, which the form then says.
    """
    fields = dict(form.cleaned_data)
    offered = elements_for(fields["recipe"])
    if not offered:
        form.add_error("recipe", "No press takes this recipe.")
        return False
    fields |= {"order": order, "press": offered[0].press}
    jobs.begin(request.user, fields, form_key(request))
    return True


@require_http_methods(["GET", "POST"])
def change_order(request: Request, pk: int) -> HttpResponse:
    """Another due time, reference or customer."""
    must_work(request.user)
    found = get_object_or_404(Order, pk=pk)
    names = list(OrderForm.base_fields)
    form = OrderForm(request.POST or None, initial={n: getattr(found, n) for n in names})
    if request.method == "POST" and form.is_valid():
        try:
            actions.change_order(request.user, found, form.cleaned_data)
            return redirect(found)
        except InputError as error:
            form.add_error("reference", error_text(error, form_units(request)))
    context = {"form": form, "order": found}
    status = 422 if form.errors else 200
    return render(request, "planning/order_edit.html", context, status=status)


@require_POST
def close_order(request: Request, pk: int) -> HttpResponse:
    """An order is finished with, or taken up again."""
    found = get_object_or_404(Order, pk=pk)
    with refusal_shown(request):
        actions.close_order(request.user, found, request.POST.get("closed") == "1")
    return redirect(found)
