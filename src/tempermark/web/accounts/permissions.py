"""The two gates: who works, who leads. A clerk looks."""

from django.core.exceptions import PermissionDenied

from tempermark.web.accounts.models import Role, User


def must_work(user: User) -> None:
    """Raise PermissionDenied for a person who only looks."""
    if not user.may_work:
        raise PermissionDenied(
            "A clerk can look; readings and cases are entered by a technician or a lead."
        )


def must_be_author(user: User, author_id: int) -> None:
    """Raise PermissionDenied unless the person entered it or leads."""
    must_work(user)
    if user.pk != author_id and not user.may_lead:
        raise PermissionDenied("Only the person who entered this, or a lead, can change it.")


def must_lead(user: User) -> None:
    """Raise PermissionDenied unless the person leads."""
    if user.may_lead:
        return
    if user.by_pin and user.role == Role.LEAD:
        raise PermissionDenied("You took over by PIN: sign in with your password to do this.")
    raise PermissionDenied("Only a lead can do this. Ask one.")
