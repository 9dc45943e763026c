"""The two gates: who works, who leads. A clerk looks."""

from django.core.exceptions import PermissionDenied


def must_work(user) -> None:
    """Raise PermissionDenied for a person who only looks."""
    if not user.may_work:
        raise PermissionDenied("A clerk looks; a technician or lead enters readings and cases.")


def must_lead(user) -> None:
    """Raise PermissionDenied unless the person leads."""
    if not user.may_lead:
        raise PermissionDenied("Only a lead does this. Ask one.")
