"""A stack as it was really pressed: what somebody ticked as done leads over the layers noted."""

from tempermark.core.recipes.layers import code_of
from tempermark.core.recipes.stack_rules import BLANKS, COVERS, TRANSFERS

# Fact of a piece → the cover that lay on the transfer.
COVER_OF = {
    "cover_parchment": "parchment",
    "cover_plain_paper": "plain_paper",
    "cover_ptfe": "ptfe_sheet",
}
# Sheets that draw moisture off are covers of their own, beside the one that keeps ink in.
WICKING = "wicking_cloth"
PILLOW = "foam_pillow"
USUAL_COVER = "parchment"


def as_done(stack: tuple[str, ...], facts: frozenset[str]) -> tuple[str, ...]:
    """The layers from the platen down that were pressed, by what was noted as done.

    A cover that was named takes the place of the one next to the transfer, `no_cover` takes all
    away, `extra_layers` is one more of the cover, `pillow_used` lies under the blank. A stack
    without a transfer stays as it is.
    """
    layers = list(stack)
    if not any(code_of(entry) in TRANSFERS for entry in layers):
        return tuple(layers)
    if "no_wicking_layer" in facts:
        layers = [entry for entry in layers if code_of(entry) != WICKING]
    if "no_inside_sheet" in facts:
        layers = [entry for entry in layers if "inside" not in entry.split()]
    layers = _covered(layers, facts)
    if "pillow_used" in facts and PILLOW not in map(code_of, layers):
        below = max((i for i, e in enumerate(layers) if code_of(e) in BLANKS), default=None)
        if below is not None:
            layers.insert(below + 1, PILLOW)
    return tuple(layers)


def _covered(layers: list[str], facts: frozenset[str]) -> list[str]:
    first = next(i for i, entry in enumerate(layers) if code_of(entry) in TRANSFERS)
    above, rest = layers[:first], layers[first:]
    if "no_cover" in facts:
        return [entry for entry in above if code_of(entry) not in COVERS] + rest
    at = max((i for i, e in enumerate(above) if _is_cover(e)), default=None)
    named = next((code for fact, code in COVER_OF.items() if fact in facts), None)
    if named is not None and at is None:
        above.append(named)
        at = len(above) - 1
    elif named is not None and at is not None and code_of(above[at]) != named:
        above[at] = named
    if "extra_layers" in facts:
        above.insert(0, code_of(above[at]) if at is not None else USUAL_COVER)
    return above + rest


def _is_cover(entry: str) -> bool:
    return code_of(entry) in COVERS and code_of(entry) != WICKING
