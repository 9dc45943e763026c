"""The knowledge of faults: sound, complete, and refused when it breaks its shape."""

import pytest

from tempermark.core.diagnosis.advice.remedies import SETTINGS
from tempermark.core.diagnosis.knowledge import loading
from tempermark.core.diagnosis.knowledge.base import KnowledgeError
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.diagnosis.knowledge.soundness import problems
from tempermark.core.diagnosis.weighing.measures.registry import MEASURES, NEEDS
from tests.support import contract_codes


def test_knowledge_is_sound_and_every_name_in_it_is_known():
    base = shipped()
    assert problems(base) == []
    for cause in base.causes.values():
        assert set(cause.measures) <= set(MEASURES)
        assert set(cause.settings) <= set(SETTINGS)
        for name in cause.context:
            assert name in {
                "method",
                "press.kind",
                "blank.kind",
                "blank.colour",
                "blank.coating",
                "blank.features",
            }
    assert set(NEEDS) <= set(MEASURES)


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ('"peeling:flim" = "B"', "unknown kind of methods flim"),
        ('"peeling@later" = "B"', "unknown time later"),
        ('peeling = "D"', "strength D"),
        ('fluff = "B"', "unknown symptom fluff"),
        ('washout = "B", peeling = "A"', "no reason for washout"),
    ],
)
def test_a_row_that_breaks_the_shape_is_refused_at_start(tmp_path, monkeypatch, line, said):
    for file in loading.FOLDER.glob("*.toml"):
        text = file.read_text()
        if file.name == "surface.toml":
            before = 'shows = { "peeling:film" = "A", "film_cracking:film" = "B" }'
            assert before in text
            text = text.replace(before, f"shows = {{ {line} }}")
        (tmp_path / file.name).write_text(text)
    monkeypatch.setattr(loading, "FOLDER", tmp_path)
    with pytest.raises(KnowledgeError, match=said):
        shipped.__wrapped__()


def test_every_symptom_is_explained_by_some_cause_and_every_cause_shows_one():
    base = shipped()
    shown = {row.symptom for cause in base.causes.values() for row in cause.shows}
    assert shown == set(base.symptoms)
    assert all(cause.shows for cause in base.causes.values())


def test_every_cause_of_this_slice_can_be_told_by_a_check():
    base = shipped()
    told = {
        c for check in base.checks.values() for outcome in check.outcomes for c in outcome.causes
    }
    slice_groups = ("temperature", "movement", "moisture")
    for cause in base.causes.values():
        if cause.group in slice_groups and cause.code != "retransfer":
            assert cause.code in told, cause.code


def test_every_code_of_the_contract_is_known():
    base = shipped()
    assert set(contract_codes.SYMPTOMS) <= set(base.symptoms)
    assert set(contract_codes.FACTS) <= set(base.facts)
    assert set(contract_codes.CAUSES) <= set(base.causes)
    assert set(contract_codes.CHECKS) <= set(base.checks)
