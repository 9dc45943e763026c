"""What the worker does for surveys."""

from procrastinate.contrib.django import app

from tempermark.web.measure.known import noting


@app.task(queue="counts", name="note_survey")
def note_survey(survey: int) -> None:
    """Note what the survey with this key found to be new since those before it."""
    noting.note_survey(survey)
