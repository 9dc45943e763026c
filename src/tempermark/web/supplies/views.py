"""The page of prices."""

from decimal import Decimal
from typing import Any

from django import forms
from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.records.audit import record
from tempermark.web.recipes.models import Blank
from tempermark.web.supplies.models import BLANK, PRICED, Currency, Price
from tempermark.web.supplies.queries import currency

MOST = Decimal(1_000_000)


def _amount(label: str, unit: str) -> forms.DecimalField:
    return forms.DecimalField(
        label=label,
        min_value=0,
        max_value=MOST,
        max_digits=12,
        decimal_places=4,
        required=False,
        help_text=f"for one {unit}" if unit else "",
    )


class PricesForm(forms.Form):
    """A price for all that is bought and for each of the shop's blanks; empty is unknown."""

    sign = forms.CharField(label="Currency", max_length=8)

    def __init__(self, *args: Any, blanks: list[Blank], **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)
        for code, (name, unit) in PRICED.items():
            self.fields[code] = _amount(name[:1].upper() + name[1:], unit)
        for blank in blanks:
            self.fields[f"blank-{blank.pk}"] = _amount(blank.name, "")

    @property
    def bought(self) -> list[forms.BoundField]:
        """What is bought."""
        return [self[name] for name in ("sign", *PRICED)]

    @property
    def of_blanks(self) -> list[forms.BoundField]:
        """Blanks."""
        return [field for field in self if field.name.startswith("blank-")]


@require_http_methods(["GET", "POST"])
def prices(request: Request) -> HttpResponse:
    """All prices; a lead changes them."""
    blanks = list(Blank.objects.all())
    form = PricesForm(
        request.POST if request.method == "POST" else None, initial=_held(), blanks=blanks
    )
    if request.method == "POST":
        must_lead(request.user)
        if form.is_valid():
            _save(request.user, form.cleaned_data, blanks)
            messages.success(request, "The prices are saved.")
            return redirect("supplies:prices")
    if not request.user.may_lead:
        for field in form.fields.values():
            field.disabled = True
    return render(
        request, "supplies/prices.html", {"form": form}, status=422 if form.errors else 200
    )


def _held() -> dict[str, Any]:
    found: dict[str, Any] = {"sign": currency()}
    for price in Price.objects.all():
        key = f"blank-{price.blank_id}" if price.blank_id else price.code
        found[key] = price.amount.normalize()
    return found


@transaction.atomic
def _save(user: User, data: dict[str, Any], blanks: list[Blank]) -> None:
    sign = Currency.objects.first() or Currency()
    sign.sign = data["sign"]
    sign.save()
    for code in PRICED:
        _keep(code, None, data[code])
    for blank in blanks:
        _keep(BLANK, blank, data[f"blank-{blank.pk}"])
    record(user, "changed prices", sign)


def _keep(code: str, blank: Blank | None, amount: Decimal | None) -> None:
    if amount is None:
        Price.objects.filter(code=code, blank=blank).delete()
    else:
        values = {"amount": amount, "changed_at": timezone.now()}
        Price.objects.update_or_create(code=code, blank=blank, defaults=values)
