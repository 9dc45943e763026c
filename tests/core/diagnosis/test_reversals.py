"""What would change the order: each named outcome really puts the named cause first."""

import json

from tempermark.core.diagnosis.advice.reversals import reversals, with_outcome
from tempermark.core.diagnosis.engine import diagnose
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.diagnosis.past.recurrence import SAME_PLACE_MM, PlacedMark, recurrence
from tempermark.files.case import from_document
from tests.support import examples

BASE = shipped()
CASES = [
    from_document(c["input"])
    for name in ("own.json", "unseen.json")
    for c in json.loads((examples.OWN_CASES / name).read_text())
]


def test_every_reversal_is_one_and_every_case_is_looked_at():
    found = 0
    for case in CASES[::4]:
        told = diagnose(case, BASE)
        for reversal in reversals(case, told, BASE):
            assert reversal.leads != told.causes[0].cause.code
            if reversal.check:
                check = BASE.checks[reversal.check]
                then = diagnose(with_outcome(case, check, reversal.outcome), BASE)
                assert then.causes[0].cause.code == reversal.leads
                assert then.causes[0].probability == reversal.probability
            found += 1
    assert found >= 5


def test_an_outcome_confirms_its_causes_and_excludes_the_others_it_speaks_on():
    check = next(c for c in BASE.checks.values() if len(c.outcomes) > 1)
    outcome = check.outcomes[0]
    case = with_outcome(CASES[0], check, outcome.label)
    results = {d.cause: d.result for d in case.checks_done}
    assert {c for c, r in results.items() if r == "confirms"} == set(outcome.causes)
    assert all(d.result == "excludes" for d in with_outcome(CASES[0], check, "").checks_done)


def test_the_chance_of_coincidence_is_the_binomial_tail_of_the_disc():
    mark, art = PlacedMark((60, 450), (40, 215)), (240.0, 240.0)
    same = PlacedMark((62, 448), (120, 215))
    share = 3.141592653589793 * SAME_PLACE_MM**2 / (240 * 240)
    one = recurrence(mark, [same], art)
    assert (one.looked, one.on_platen, one.on_blank) == (1, 1, 0)
    assert abs(one.by_chance - share) < 1e-12
    two = recurrence(mark, [same, PlacedMark((58, 452), (200, 30))], art)
    assert abs(two.by_chance - share**2) < 1e-12
    # One whose art lay just here cannot tell; one elsewhere speaks for neither.
    here = recurrence(mark, [PlacedMark((62, 448), (42, 215))], art)
    assert here.looked == 0 and here.by_chance == 1
    assert recurrence(mark, [PlacedMark((300, 20), (120, 215))], art).by_chance == 1
