"""Idempotency keys of forms: the same form sent twice is one entry."""

from uuid import UUID, uuid4


def form_key(text: str | None) -> UUID:
    """The form's key; a broken or missing one gets a fresh key, so nothing is lost."""
    try:
        return UUID(text or "")
    except ValueError:
        return uuid4()
