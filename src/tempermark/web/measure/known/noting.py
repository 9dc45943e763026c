"""What a finished survey found to be new, noted for the short surveys after it."""

from tempermark.web.measure.known import remembered
from tempermark.web.measure.models import Survey
from tempermark.web.measure.press.history import compute_survey


def note_survey(pk: int) -> None:
    """Note it with the survey of this key; nothing for one that is open again."""
    survey = Survey.objects.select_related("element__press").filter(pk=pk).first()
    if survey is not None and survey.finished_at is not None:
        memory = remembered.note(survey, compute_survey(survey))
        Survey.objects.filter(pk=pk).update(memory=memory)
