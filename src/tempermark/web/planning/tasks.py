"""What the worker does: the search for a plan."""

from procrastinate.contrib.django import app


@app.task(queue="plans", name="search_plan")
def search_plan(plan: int) -> None:
    """Search the plan with this key."""
    # The solver is large, and no web server needs it.
    from tempermark.web.planning.search import search  # noqa: PLC0415

    search(plan)
