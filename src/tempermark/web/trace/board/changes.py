"""What is different since the last good piece of a kind: a table of comparers."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from tempermark.core.phrases import Text, difference, duration, phrase, temperature
from tempermark.core.recipes.layers import entry_text
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import in_units, say
from tempermark.web.presses.models import PressEvent
from tempermark.web.printing.queries import differences
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.run.models import LOT_FIELDS, TestPress
from tempermark.web.run.pieces.queries import UnderArt
from tempermark.web.trace.board.evidence import LastGood

# Smaller differences from the last good piece are none.
SAME_C, SAME_S, SAME_HUMIDITY = 1.0, 1.0, 0.1


@dataclass(frozen=True)
class Pair:
    """A piece and the last good one of its kind, with the heat under the art of each."""

    before: TestPress
    now: TestPress
    under_before: UnderArt | None
    under_now: UnderArt | None


@dataclass(frozen=True)
class Changed:
    """The last good piece of its kind, and what is different since."""

    before: TestPress
    differences: list[str]


Comparer = Callable[[Pair], Iterator[Text]]


def changed_since_good(
    piece: TestPress, under: UnderArt | None, last: LastGood | None, units: Units
) -> Changed | None:
    """What differs from the last good piece; `under` is the heat under this one's art."""
    if last is None:
        return None
    pair = Pair(last.piece, piece, last.under, under)
    found = [text for compare in COMPARERS for text in compare(pair)]
    return Changed(last.piece, [in_units(say(text, units), units) for text in found])


def _dial(pair: Pair) -> Iterator[Text]:
    was, is_now = pair.before.set_c, pair.now.set_c
    if abs(is_now - was) >= SAME_C:
        yield phrase("dial {was} → {now}", was=temperature(was, 0), now=temperature(is_now, 0))


def _true_temperature(pair: Pair) -> Iterator[Text]:
    if pair.under_now is None or pair.under_before is None:
        return
    shift_c = pair.under_now.mean_c - pair.under_before.mean_c
    if abs(shift_c) >= SAME_C:
        yield phrase("true under the art {shift}", shift=difference(shift_c, 1, signed=True))


def _dwell(pair: Pair) -> Iterator[Text]:
    was, is_now = pair.before.dwell_s, pair.now.dwell_s
    if abs(is_now - was) >= SAME_S:
        yield phrase("dwell {was} → {now}", was=f"{was:g}", now=duration(is_now))


def _field(label: str, name: str) -> Comparer:
    """Compares what was noted in one field."""

    def compare(pair: Pair) -> Iterator[Text]:
        was, is_now = getattr(pair.before, name), getattr(pair.now, name)
        if was != is_now:
            yield f"{label} {was or 'not recorded'} → {is_now or 'not recorded'}"

    return compare


def _stack(pair: Pair) -> Iterator[Text]:
    was, is_now = list(pair.before.stack), list(pair.now.stack)
    if was == is_now:
        return
    library = shop_materials()
    texts = [f"without {entry_text(entry, library)}" for entry in was if entry not in is_now]
    texts += [f"with {entry_text(entry, library)}" for entry in is_now if entry not in was]
    yield f"stack {', '.join(texts) or 'in another order'}"


def _lots(pair: Pair) -> Iterator[Text]:
    for kind, name in LOT_FIELDS.items():
        was, is_now = getattr(pair.before, name), getattr(pair.now, name)
        if was and is_now and was != is_now:
            yield f"{kind.label} {was} → {is_now}"


def _print(pair: Pair) -> Iterator[Text]:
    jobs = (pair.before.job, pair.now.job)
    if None in jobs:
        return
    for found in differences(*(job.print_settings for job in jobs)):
        yield phrase("{label} {was} → {now}", label=found.label, was=found.before, now=found.now)


def _recipe(pair: Pair) -> Iterator[Text]:
    if pair.before.recipe_id != pair.now.recipe_id:
        yield f"recipe version {pair.before.recipe.number} → {pair.now.recipe.number}"


def _humidity(pair: Pair) -> Iterator[Text]:
    was, is_now = pair.before.relative_humidity, pair.now.relative_humidity
    if was is not None and is_now is not None and abs(is_now - was) >= SAME_HUMIDITY:
        yield f"humidity {was:.0%} → {is_now:.0%}".replace("%", "\u00a0%")


def _events(pair: Pair) -> Iterator[Text]:
    events = PressEvent.objects.filter(
        press=pair.now.element.press,
        at__gt=pair.before.pressed_at,
        at__lte=pair.now.pressed_at,
    )
    for event in events:
        yield f"{event.get_kind_display()} {event.at:%Y-%m-%d}"


COMPARERS: tuple[Comparer, ...] = (
    _dial,
    _true_temperature,
    _dwell,
    _field("closings", "closures"),
    _field("pressure", "pressure"),
    _field("peel", "peel"),
    _stack,
    _lots,
    _print,
    _recipe,
    _humidity,
    _events,
)
