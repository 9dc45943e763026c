"""Who a session by PIN is: the same person with a technician's reach."""

from typing import Any

from django.contrib.auth.backends import ModelBackend

from tempermark.web.accounts.models import User

PATH = f"{__name__}.PinBackend"


class PinBackend(ModelBackend):
    """Brings people back into sessions that a PIN began; lets nobody in by itself."""

    def authenticate(self, *args: Any, **kwargs: Any) -> None:
        """Nobody: a PIN alone, without a shared tablet, opens nothing."""
        return

    def get_user(self, user_id: int) -> User | None:
        """The person, marked."""
        user = super().get_user(user_id)
        if not isinstance(user, User):
            return None
        user.by_pin = True
        return user
