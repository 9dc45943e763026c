"""Forms as a browser fills and sends them."""

import copy

from bs4 import BeautifulSoup, SoupStrainer

# The rest of a page need not be read for its forms.
FORMS_ALONE = SoupStrainer("form")


def fields_of(form):
    """What a browser would send of a form as it stands: name → value, a list for several."""
    data = {}
    for field in form.select("input[name], select[name], textarea[name]"):
        value = _value(field)
        if value is None:
            continue
        name = field["name"]
        data[name] = [*data[name], value] if isinstance(data.get(name), list) else value
        if field.name == "input" and field.get("type") == "checkbox":
            data[name] = data[name] if isinstance(data[name], list) else [data[name]]
    return data


def _value(field):
    if field.has_attr("disabled"):
        return None
    if field.name == "select":
        chosen = field.select_one("option[selected]") or field.select_one("option")
        return None if chosen is None else chosen.get("value", chosen.text)
    if field.name == "textarea":
        return field.text.lstrip("\n")
    kind = field.get("type", "text")
    if kind in ("checkbox", "radio") and not field.has_attr("checked"):
        return None
    if kind in ("submit", "file", "button"):
        return None
    return field.get("value", "on" if kind in ("checkbox", "radio") else "")


def all_forms_of(response):
    """Every form of a page, looked up or sent."""
    return BeautifulSoup(response.content, "html.parser", parse_only=FORMS_ALONE).select("form")


def forms_of(response):
    """Every form of a page that is sent."""
    return [form for form in all_forms_of(response) if form.get("method", "get") == "post"]


class Drawn:
    """A form as it stood on a page at a moment; sent later, with changes."""

    def __init__(self, browse, page, select=lambda form: True):
        self.page = page
        self.form = next(f for f in forms_of(browse.get(page)) if select(f))
        self.data = fields_of(self.form)

    @property
    def address(self):
        return self.form.get("action") or self.page

    def send(self, browse, **changes):
        data = copy.copy(self.data)
        data.pop("csrfmiddlewaretoken", None)
        return browse.post(self.address, {**data, **changes})
