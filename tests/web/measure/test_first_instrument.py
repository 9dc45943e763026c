"""What is at hand for a first survey: asked for where no instrument is, kept for the next."""

import pytest

from tempermark.web.measure.instruments.first import AT_HAND, take_on
from tempermark.web.measure.models import Instrument, InstrumentKind, Survey
from tests.support import room
from tests.web.measure.test_survey import start

PAGE = "/presses/heron/surveys/new/"


@pytest.mark.parametrize("kind", AT_HAND)
def test_what_is_at_hand_brings_its_way_to_read_and_its_uncertainty(browse, element, kind):
    assert "No instrument? Three honest ways" in room.words(browse.get(PAGE))
    start(browse, at_hand=kind.value)
    survey = Survey.objects.get()
    assert survey.method == AT_HAND[kind].method
    assert survey.instrument_uncertainty_c == AT_HAND[kind].expanded_uncertainty_c
    assert survey.instrument.kind == kind


def test_a_room_with_an_instrument_is_not_asked(browse, technician, element):
    take_on(technician, InstrumentKind.CONTACT)
    text = room.words(browse.get(PAGE))
    assert "What do you have to read with?" not in text
    assert "Contact probe" in text


def test_one_out_of_use_leaves_its_name_to_itself(technician):
    first = take_on(technician, InstrumentKind.INFRARED)
    Instrument.objects.filter(pk=first.pk).update(retired=True)
    assert take_on(technician, InstrumentKind.INFRARED).name == "Infrared gun 2"
    assert take_on(technician, InstrumentKind.INFRARED).name == "Infrared gun 3"
