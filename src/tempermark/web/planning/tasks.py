"""What the worker does: the search for a plan."""

from procrastinate.contrib.django import app

from tempermark.web.planning.search import search


@app.task(queue="plans", name="search_plan")
def search_plan(plan: int) -> None:
    """Search the plan with this key."""
    search(plan)
