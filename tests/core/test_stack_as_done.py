"""The stack that was pressed, by what was ticked as done."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.recipes.layers import code_of
from tempermark.core.recipes.stack_as_done import COVER_OF, as_done
from tempermark.core.recipes.stack_rules import BLANKS, COVERS, TRANSFERS, Stacked, faults

VEST = ("parchment", "transfer_paper", "polyester_jersey", "plain_paper inside", "silicone_pad")
FACTS = [*COVER_OF, "no_cover", "extra_layers", "pillow_used", "no_inside_sheet"]


@pytest.mark.parametrize(
    ("facts", "stack"),
    [
        (set(), VEST),
        ({"cover_parchment"}, VEST),
        ({"cover_plain_paper"}, ("plain_paper", *VEST[1:])),
        ({"no_cover"}, VEST[1:]),
        ({"extra_layers"}, ("parchment", *VEST)),
        ({"cover_ptfe", "extra_layers"}, ("ptfe_sheet", "ptfe_sheet", *VEST[1:])),
        ({"no_inside_sheet"}, (*VEST[:3], "silicone_pad")),
        ({"pillow_used"}, (*VEST[:3], "foam_pillow", *VEST[3:])),
        ({"steam_seen", "transfer_fixed"}, VEST),
    ],
)
def test_what_was_done_leads(facts, stack):
    assert as_done(VEST, frozenset(facts)) == stack


def test_a_named_cover_lies_on_a_bare_transfer():
    bare = VEST[1:]
    assert as_done(bare, frozenset({"cover_plain_paper"})) == ("plain_paper", *bare)
    assert as_done((), frozenset({"no_cover"})) == ()


def test_a_wicking_cloth_stays_beside_the_cover():
    stack = ("wicking_cloth", "parchment", *VEST[1:])
    done = as_done(stack, frozenset({"cover_plain_paper"}))
    assert done[:2] == ("wicking_cloth", "plain_paper")
    assert "wicking_cloth" not in as_done(stack, frozenset({"no_wicking_layer"}))


@given(st.sets(st.sampled_from(FACTS)))
def test_transfer_and_blank_stay_and_the_rules_see_what_was_done(facts):
    done = as_done(VEST, frozenset(facts))
    kept = [e for e in done if code_of(e) in TRANSFERS | BLANKS]
    assert kept == ["transfer_paper", "polyester_jersey"]
    found = {fault.code for fault in faults(Stacked(done, "dye_sublimation"))}
    covered = any(code_of(e) in COVERS for e in done[: done.index("transfer_paper")])
    assert ("no_cover" in found) is not covered
    assert ("no_inside_sheet" in found) is ("no_inside_sheet" in facts)
