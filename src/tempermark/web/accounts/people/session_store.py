"""Where sessions are kept: Django's own table, looked up at every request by a prepared query."""

from datetime import datetime
from typing import Any

from django.contrib.sessions.backends import db
from django.contrib.sessions.models import Session
from django.utils import timezone

from tempermark.web.kit.records.prepared import Prepared

LASTS = Prepared(
    lambda key, now: Session.objects.filter(session_key=key, expire_date__gt=now).values_list(
        "session_data"
    ),
    key=str,
    now=datetime,
)


class SessionStore(db.SessionStore):
    """A session of the table `django_session`."""

    def load(self) -> dict[str, Any]:
        """What it holds; nothing, and no key, where it is over or was ended."""
        found = LASTS.rows(key=self.session_key, now=timezone.now())
        if not found:
            self._session_key = None
            return {}
        return self.decode(found[0][0])
