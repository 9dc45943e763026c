"""A room's first instrument: what is at hand, with the uncertainty its kind usually has."""

from dataclasses import dataclass

from tempermark.web.accounts.models import User
from tempermark.web.measure.instruments import instruments
from tempermark.web.measure.models import Instrument, InstrumentKind, Method


@dataclass(frozen=True)
class AtHand:
    """A kind of instrument somebody has at hand: how it reads, and how well at about 190 °C when
    nobody has checked it (k = 2).
    """

    label: str
    method: Method
    expanded_uncertainty_c: float


# A gun of the trade's usual class is good for 2 % of what it shows or 2 K; a type K probe of class
# 2 for 2.5 K (IEC 60584-1); a logger's thermocouples likewise; an indicator strip for 1 % of its
# figure, and its fields are 5 to 6 K apart: it darkens somewhere between two.
AT_HAND = {
    InstrumentKind.INFRARED: AtHand("An infrared gun", Method.PAD, 4.0),
    InstrumentKind.CONTACT: AtHand("A contact probe", Method.CONTACT, 2.5),
    InstrumentKind.LOGGER: AtHand("A logger with thermocouples", Method.CONTACT, 2.5),
    InstrumentKind.STRIP: AtHand("Indicator strips", Method.STRIP, 3.0),
}


def take_on(user: User, kind: str) -> Instrument:
    """An instrument of a kind that is at hand, kept in the room's list for the next survey."""
    found = AT_HAND[InstrumentKind(kind)]
    fields = {
        "name": _free_name(InstrumentKind(kind).label.capitalize()),
        "kind": kind,
        "expanded_uncertainty_c": found.expanded_uncertainty_c,
        "note": "Taken on with what its kind usually has: check it in ice and boiling water.",
    }
    return instruments.save(user, Instrument(), fields)


def _free_name(label: str) -> str:
    """The label, numbered where an instrument out of use has it."""
    taken = set(Instrument.objects.filter(name__startswith=label).values_list("name", flat=True))
    names = (label, *(f"{label} {number}" for number in range(2, len(taken) + 2)))
    return next(name for name in names if name not in taken)
