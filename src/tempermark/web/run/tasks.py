"""What the worker does for pieces: their counts are kept."""

from procrastinate.contrib.django import app

from tempermark.web.run.counts.keeping import keep


@app.periodic(cron="* * * * *")
@app.task(queue="counts", name="keep_counts", queueing_lock="keep_counts")
def keep_counts(timestamp: int) -> None:
    """Every minute; one that waits is enough."""
    keep()
