"""Reading the register: which elements are in which press."""

from django.db.models import Case, QuerySet, When
from django.http import Http404
from django.shortcuts import get_object_or_404

from tempermark.web.kit.forms.numbers import whole
from tempermark.web.presses.models import Element, ElementRole, Press


def fitted_first() -> QuerySet[Element]:
    """Elements that are in a press, the upper ones leading."""
    upper_first = Case(When(role=ElementRole.UPPER, then=0), default=1)
    return Element.objects.filter(taken_out_on=None).order_by(upper_first, "pk")


def element_in_use(slug: str, query: str = "") -> Element:
    """The heated element in a press now, or the one asked for; Http404 when there is none."""
    press = get_object_or_404(Press, slug=slug)
    fitted = fitted_first().filter(press=press).select_related("press")
    if (number := whole(query)) is not None:
        fitted = fitted.filter(pk=number)
    element = fitted.first()
    if element is None:
        raise Http404("This press has no heated element fitted.")
    return element


def with_element() -> QuerySet[Press]:
    """Presses that have a heated element in them, as they stand on the floor."""
    return Press.objects.filter(elements__taken_out_on=None).distinct()
