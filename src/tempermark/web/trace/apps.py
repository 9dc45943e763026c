"""Django's record of this app."""

from typing import Any

from django.apps import AppConfig
from django.core.checks import Error, register

from tempermark.core.diagnosis.knowledge.base import KnowledgeError
from tempermark.core.diagnosis.knowledge.loading import shipped


@register()
def knowledge_is_sound(app_configs: Any, **kwargs: Any) -> list[Any]:
    """The knowledge of faults is read and checked whenever the application starts."""
    try:
        shipped()
    except (KnowledgeError, KeyError, TypeError, ValueError) as error:
        return [Error(f"The knowledge of faults cannot be used: {error}", id="trace.E001")]
    return []


class TraceConfig(AppConfig):
    """The app `trace`."""

    name = "tempermark.web.trace"
    label = "trace"
    default_auto_field = "django.db.models.BigAutoField"
