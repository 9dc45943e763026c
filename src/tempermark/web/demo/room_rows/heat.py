"""What the demo room knows of heat: kinds of its blanks, and a trace under the vest's stack."""

from datetime import datetime, timedelta

import numpy as np

from tempermark.stand_ins.stack_trace import trace_under
from tempermark.web.accounts.models import User
from tempermark.web.heat.models import StackTrace
from tempermark.web.heat.simulate.on_press import true_under
from tempermark.web.presses.models import Element
from tempermark.web.recipes.models import Blank, Recipe

# Demo blanks and the shipped kind each is like.
LIKE = {
    "Crew vest, white": "polyester_tee",
    "Marshal's bib, yellow": "polyester_tee_dyed",
    "Cotton bag, natural": "cotton_bag",
    "Boat-house door plate": "hardboard_plate",
    "Bow-number board": "aluminium_panel",
    "Tapered steel beaker": "steel_beaker",
    "Sun hat, five panels": "five_panel_cap",
    "Oar tag": "petg_tag",
    "Coxswain's hooded sweatshirt": "hooded_sweatshirt",
    "Regatta mug, white": "mug",
}
TRACE_AGE_DAYS, TRACE_DIAL_C, TRACE_DWELL_S, TRACE_KPA = 9, 205.0, 52.0, 32.0
DRIFTED_SINCE_K = 0.4


def build_heat(person: User, noon: datetime) -> None:
    """Kinds of blanks, and the trace."""
    for name, like in LIKE.items():
        Blank.objects.filter(name=name).update(like=like)
    taken = noon - timedelta(days=TRACE_AGE_DAYS)
    element = Element.objects.get(press__slug="heron", role="upper")
    true_c, _ = true_under(element, TRACE_DIAL_C, taken)
    times, shown = trace_under(
        np.random.default_rng(7), true_c + DRIFTED_SINCE_K, TRACE_DWELL_S, TRACE_KPA
    )
    StackTrace.objects.create(
        recipe=Recipe.objects.get(slug="dye-on-a-polyester-vest").versions.get(number=1),
        element=element,
        blank=Blank.objects.get(name="Crew vest, white"),
        set_c=TRACE_DIAL_C,
        contact_kpa=TRACE_KPA,
        relative_humidity=0.5,
        time_s=[round(float(t), 2) for t in times],
        seen_c=[round(float(c), 2) for c in shown],
        at=taken,
        by=person,
    )
