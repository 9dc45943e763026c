"""The diagnosis of a case as this shop knows faults: built once for a page or an act.

A page that follows an act shows the same case again: the diagnosis of the same facts by the same
knowledge is kept for a while, so that it is not worked out a second time.
"""

from dataclasses import dataclass
from functools import lru_cache

from tempermark.core.diagnosis.case import Case
from tempermark.core.diagnosis.engine import Diagnosis, diagnose
from tempermark.web.trace.board.mapping import BuiltCase, build_case
from tempermark.web.trace.knowledge.shop import Lessons, ShopKnowledge, knowledge_by, shop_knowledge
from tempermark.web.trace.models import FaultCase

# Diagnoses kept in a process: boards that are open at one time.
KEPT_DIAGNOSES = 64


@dataclass(frozen=True)
class DiagnosedCase:
    """A case as it was built, the knowledge that holds for it, and what that makes of it."""

    built: BuiltCase
    knowledge: ShopKnowledge
    diagnosis: Diagnosis

    @property
    def chances(self) -> dict[str, float]:
        """Probability of every cause that is listed, by its code."""
        return {c.cause.code: round(c.probability, 4) for c in self.diagnosis.causes}


def diagnose_case(record: FaultCase) -> DiagnosedCase:
    """Builds a case from its rows and diagnoses it."""
    built, knowledge = build_case(record), shop_knowledge(record)
    return DiagnosedCase(built, knowledge, _diagnosis(built.case, knowledge.lessons))


@lru_cache(maxsize=KEPT_DIAGNOSES)
def _diagnosis(case: Case, lessons: Lessons) -> Diagnosis:
    return diagnose(case, knowledge_by(lessons).base)
