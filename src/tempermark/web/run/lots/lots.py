"""Lots of blanks, film and coats, and marked sheets: their age, and what was pressed with them."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.preparing.costs.wear import Wear, wear_advice
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.records.audit import record
from tempermark.web.run.counts.counting import LOTS
from tempermark.web.run.counts.days import pressed_on
from tempermark.web.run.counts.reading import Counts
from tempermark.web.run.models import (
    LOT_FIELDS,
    REUSED,
    Lot,
    LotKind,
    TestPress,
)
from tempermark.web.supplies.queries import currency, money_text, prices, usual_blank_price

MONTH_DAYS = 30.44
# What nobody described and nobody has used for so long is not listed.
LOOK_BACK = timedelta(days=60)


@dataclass(frozen=True)
class WearText:
    """Uses of what is used again, what that means, and whether it is to be retired."""

    uses: int
    text: str
    is_over: bool


@dataclass(frozen=True)
class LotRow:
    """A lot with its pieces; `lot` is None for a name that pieces carry and nobody described."""

    kind: str
    label: str
    code: str
    lot: Lot | None
    pieces: int
    faulty: int
    last_used: date | None
    state: str
    is_past: bool
    wear: WearText | None = None

    @property
    def is_reused(self) -> bool:
        """Whether it is used again and wears."""
        return self.kind in REUSED


def overview(
    today: date | None = None, wanted: Iterable[str] = tuple(LotKind.values)
) -> list[LotRow]:
    """Every lot of the kinds wanted that is described or named on a piece; those in use first, by
    kind and the newest first.
    """
    today = today or timezone.localdate()
    wanted = set(wanted)
    known = {(lot.kind, lot.code): lot for lot in Lot.objects.filter(kind__in=wanted)}
    used = _used(wanted, known)
    money = Money(currency(), prices(), usual_blank_price())
    found = [
        _row(kind, code, known.get((kind, code)), used.get((kind, code)), today, money)
        for kind, code in {**known, **used}
    ]
    kinds = list(LotKind)
    return sorted(
        found,
        key=lambda r: (
            r.lot is not None and r.lot.retired_on is not None,
            kinds.index(LotKind(r.kind)),
            -(r.lot.since.toordinal() if r.lot else 0),
            r.code,
        ),
    )


def _used(
    wanted: set[str], known: Iterable[tuple[str, str]]
) -> dict[tuple[str, str], dict[str, Any]]:
    """Pieces, faulty ones and the last use of each name that was used of late or is described, by
    kind and name.
    """
    counts, by, kinds = Counts(), ("kind", "code"), {"kind": wanted}
    of_late = counts.sums(LOTS, by, kinds, since=timezone.localdate() - LOOK_BACK)
    names = {code for _, code in [*of_late, *known]}
    found: dict[Any, dict[str, Any]] = counts.sums(LOTS, by, {**kinds, "code": names})
    return {key: row for key, row in found.items() if key in of_late or key in set(known)}


@dataclass(frozen=True)
class Money:
    """The shop's currency, its prices by code, and what a spoiled blank costs."""

    sign: str
    prices: dict[str, float]
    spoiled: float | None


def wear_text(lot: Lot, pieces: int, money: Money) -> WearText | None:
    """Whether something that is used again is to be retired, by what going on would cost; by its
    life alone where prices are not known. None for what is not used again, or of what is not said.
    """
    if lot.kind not in REUSED or not lot.material:
        return None
    wear = Wear(lot.material, pieces + lot.taps, lot.ink_seen_on is not None, lot.browning)
    uses = f"{wear.uses} use{'' if wear.uses == 1 else 's'}"
    price = money.prices.get(lot.material)
    if price is None or money.spoiled is None:
        worn = wear.uses >= wear.life or wear.ink_seen or wear.browning > 1
        return WearText(wear.uses, f"{uses}; wear shows from {wear.life} on", worn)
    advice = wear_advice(wear, price, money.spoiled)
    goes_on, new = (money_text(amount, money.sign) for amount in (advice.goes_on, advice.new))
    text = f"{uses}: going on costs about {goes_on} a piece, a new one {new}"
    return WearText(wear.uses, text, advice.is_over)


def _row(
    kind: str,
    code: str,
    lot: Lot | None,
    used: dict[str, Any] | None,
    today: date,
    money: Money,
) -> LotRow:
    used = used or {"pieces": 0, "faulty": 0, "last": None}
    return LotRow(
        kind,
        LotKind(kind).label,
        code,
        lot,
        used["pieces"],
        used["faulty"],
        timezone.localdate(used["last"]) if used["last"] else None,
        state_words(lot, today) if lot else "not described",
        is_past(lot, today),
        wear_text(lot, used["pieces"], money) if lot else None,
    )


def day_text(day: date) -> str:
    """A day as people write it, unbroken."""
    return f"{day.day}\u00a0{day:%b}\u00a0{day.year}"


def is_past(lot: Lot | None, day: date) -> bool:
    """Whether a lot was past its date on a day; a lot without one never is."""
    return lot is not None and lot.use_by is not None and day > lot.use_by


def state_words(lot: Lot, today: date) -> str:
    """How old a lot is, and how long it keeps."""
    if lot.retired_on is not None:
        return f"retired {day_text(lot.retired_on)}"
    age = age_words(lot, today)
    if lot.use_by is None:
        return age
    summary = "past its date since" if is_past(lot, today) else "keeps until"
    return f"{age}, {summary} {day_text(lot.use_by)}"


def age_words(lot: Lot, day: date) -> str:
    """How old a lot was on a day."""
    days = (day - lot.since).days
    if days < 0:
        return f"from {day_text(lot.since)} on"
    if days < 2 * MONTH_DAYS:
        return f"{days} day{'' if days == 1 else 's'} old"
    return f"{days / MONTH_DAYS:.0f} months old"


def lot_of(piece: TestPress, kind: LotKind) -> Lot | None:
    """The lot that a piece names, where somebody described it."""
    code = getattr(piece, LOT_FIELDS[kind])
    return Lot.objects.filter(kind=kind, code=code).first() if code else None


def uses_before(piece: TestPress) -> int | None:
    """How many earlier presses name the piece's cover sheet; None where it names none."""
    if not piece.cover_sheet:
        return None
    sheet = lot_of(piece, LotKind.SHEET)
    # A name written on a new sheet counts from the day that one was first used.
    first = sheet.since if sheet else None
    day = timezone.localdate(piece.pressed_at)
    where = {"kind": {LotKind.SHEET.value}, "code": {piece.cover_sheet}}
    before = Counts().sums(LOTS, (), where, since=first, until=day - timedelta(days=1))
    that_day = TestPress.objects.filter(pressed_on([day]), cover_sheet=piece.cover_sheet)
    earlier = that_day.filter(pressed_at__lt=piece.pressed_at)
    counted = earlier.count() if first is None or day >= first else 0
    return counted + sum(row["uses"] for row in before.values())


@dataclass(frozen=True)
class NamedLot:
    """A lot that a piece names, with its age when the piece was pressed; empty words: not known."""

    kind: LotKind
    label: str
    code: str
    words: str


def named(piece: TestPress) -> list[NamedLot]:
    """The lots and the sheet that a piece names."""
    found = []
    for kind, field in LOT_FIELDS.items():
        code = getattr(piece, field)
        if code:
            found.append(NamedLot(kind, str(kind.label), code, _words(piece, kind)))
    return found


def _words(piece: TestPress, kind: LotKind) -> str:
    if kind == LotKind.SHEET:
        uses = uses_before(piece)
        return f"used {uses} time{'' if uses == 1 else 's'} before" if uses else "its first use"
    lot = lot_of(piece, kind)
    if lot is None:
        return ""
    day = timezone.localdate(piece.pressed_at)
    past = f", past its date since {day_text(lot.use_by)}" if is_past(lot, day) else ""
    return f"{age_words(lot, day)} then{past}"


def choices() -> dict[str, list[tuple[str, str]]]:
    """Names to offer by field of a test press, each with its state; retired ones are left out."""
    today = timezone.localdate()
    offered: dict[str, list[tuple[str, str]]] = {field: [] for field in LOT_FIELDS.values()}
    for lot in Lot.objects.filter(retired_on=None, kind__in=LOT_FIELDS):
        offered[LOT_FIELDS[LotKind(lot.kind)]].append((lot.code, state_words(lot, today)))
    return offered


@transaction.atomic
def describe(user: User, data: dict[str, Any]) -> Lot:
    """A new lot, or a known one brought up to date."""
    must_work(user)
    lot, fresh = Lot.objects.update_or_create(
        kind=data["kind"],
        code=data["code"],
        defaults={name: data[name] for name in ("since", "keeps_months", "material", "note")},
    )
    record(user, "described lot" if fresh else "changed lot", lot, code=lot.code)
    return lot


@transaction.atomic
def wear_on(user: User, lot: Lot, what: str) -> None:
    """One use more, or one less where it was tapped by mistake; ink seen, or not after all; browned
    a step further or back. Raises InputError for anything else.
    """
    must_work(user)
    held = Lot.objects.select_for_update().get(pk=lot.pk)
    if what in ("used", "not_used"):
        held.taps = max(0, held.taps + (1 if what == "used" else -1))
    elif what == "ink":
        held.ink_seen_on = None if held.ink_seen_on else timezone.localdate()
    elif what in ("browner", "paler"):
        held.browning = min(3, max(0, held.browning + (1 if what == "browner" else -1)))
    else:
        raise InputError.single("wear", "That is nothing that wears.")
    held.save(update_fields=["taps", "ink_seen_on", "browning"])
    record(user, f"wear: {what.replace('_', ' ')}", held, code=held.code)


@transaction.atomic
def retire(user: User, lot: Lot, retired: bool) -> None:
    """Take a lot out of use, or back into it; nothing where it is so already."""
    must_work(user)
    if retired == (lot.retired_on is not None):
        return
    lot.retired_on = timezone.localdate() if retired else None
    lot.save(update_fields=["retired_on"])
    record(user, "retired lot" if lot.retired_on else "took lot back", lot, code=lot.code)
