"""A room with a row of everything, walked once: every page that opens, with its forms."""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

from bs4 import Tag
from django.apps import apps
from django.db import connection, models
from django.test import Client

from tempermark.web.accounts.models import User
from tempermark.web.kit.forms.once import SentForm
from tempermark.web.presses.models import Press
from tempermark.web.recipes.models import Blank
from tests.support import room
from tests.support.addresses import all_addresses, rows_of
from tests.support.forms import all_forms_of, fields_of

# The way in and out, the switch of units, and the one answer that shows a secret.
WITHOUT_KEY = re.compile(r"/(sign-in|sign-out|me/units)/|/live/keys?/")
# What a page leaves to be typed, by name; the rest is sent as it stands.
TYPED = {
    "why": "a slip of the pen",
    "typed": "187",
    "name": "Something new",
    "label": "Something new",
    "source": "a leaflet",
    "change": "a trial",
    "value": "0.2",
    "kg": "12",
    "code": "B-1",
    "hardness": "32",
    "ice_c": "0.4",
    "thickness_mm": "0.6",
    "conductivity_w_mk": "0.2",
    "density_kg_m3": "900",
    "specific_heat_j_kgk": "1400",
    "x_mm": "120",
    "y_mm": "130",
    "width_mm": "150",
    "depth_mm": "20",
    "height_mm": "160",
    "rises_mm": "3",
    "set_c": "196",
    "target_c": "197",
    "low_c": "180",
    "high_c": "190",
    "low_s": "40",
    "high_s": "50",
    "gun_1": "178",
    "probe_1": "186",
    "gun_2": "179",
    "probe_2": "187",
    "gun_3": "178.5",
    "probe_3": "186.4",
    "form-0-shim_mm": "0",
    "form-0-turns": "0",
    "form-1-shim_mm": "2",
    "form-1-turns": "1.3",
    "do": "press it",
    "stack": "printed transfer\npolyester jersey\nsilicone pad",
    "trace": "0 22\n10 90\n20 140\n30 170\n40 185",
}
SAMPLE = (models.FloatField, models.CharField, models.TextField, models.JSONField)


@dataclass(frozen=True)
class Shop:
    """The room as a lead met it: ``forms`` are those of each page that opened, by its address."""

    leads: Client
    lead: User
    addresses: list[str]
    forms: dict[str, list[Tag]]

    def sent_forms(self) -> Iterator[tuple[str, Tag]]:
        """Every form that is sent, with where to; the same form of two pages once."""
        seen = set()
        for address, forms in self.forms.items():
            for form in forms:
                action = form.get("action") or address
                kind = (action, tuple(sorted(fields_of(form))))
                if form.get("method", "get") != "post" or kind in seen:
                    continue
                seen.add(kind)
                yield action, form


def walk() -> Shop:
    """Build the room and open each of its pages."""
    technician, lead = room.person("isla", "technician"), room.person("maren", "lead")
    rows = rows_of(technician, room.element("Heron"))
    Press.objects.update(control_low_c=30.0, control_high_c=230.0)
    Blank.objects.update(scorch_c=230.0, migrates_c=180.0)
    leads = Client()
    leads.force_login(lead)
    addresses = [address for address in all_addresses(rows) if "sign-out" not in address]
    return Shop(leads, lead, addresses, opened(leads, addresses))


def opened(browse: Client, addresses: list[str]) -> dict[str, list[Tag]]:
    """The forms of each page that opens."""
    found = {}
    for address in addresses:
        answer = browse.get(address)
        if answer.status_code == 200 and "html" in answer.get("Content-Type", ""):
            found[address] = all_forms_of(answer)
    return found


def snapshot():
    """What every table of ours holds, without keys and times."""
    held = {}
    with connection.cursor() as rows:
        for name, query in _queries().items():
            rows.execute(query)
            held[name] = sorted(map(repr, (_rounded(row) for row in rows.fetchall())))
    return held


@cache
def _queries():
    """The names of our tables, each with what is read of it."""
    found = {}
    for model in apps.get_models():
        if model.__module__.startswith("tempermark") and model is not SentForm:
            names = [f.name for f in model._meta.fields if isinstance(f, SAMPLE)]
            found[model.__name__] = str(model._base_manager.values_list(*names).order_by().query)
    return found


def _rounded(row):
    return [round(value, 6) if isinstance(value, float) else value for value in row]


def sent(form, **changes):
    """What is sent of a form by its first button, with something typed where all is empty."""
    data = fields_of(form)
    data.pop("csrfmiddlewaretoken", None)
    for field in form.select("input[name], textarea[name], select[name], button[name]"):
        name = field["name"]
        short = name if name in TYPED else re.split(r"-\d+-", name)[-1]
        if data.get(name) or field.get("type") in ("hidden", "checkbox", "file"):
            continue
        if field.name == "select":
            data[name] = next((o["value"] for o in field.select("option[value]") if o["value"]), "")
        elif field.get("type") == "radio" or field.name == "button":
            data.setdefault(name, field.get("value", ""))
        elif short in TYPED:
            data[name] = TYPED[short]
    return data | changes
