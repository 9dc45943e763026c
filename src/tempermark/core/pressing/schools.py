"""Dwells that come out alike: for schools that are called equal, and for another blank."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from tempermark.core.pressing.chain import press_chain
from tempermark.core.pressing.closing import PressResult
from tempermark.core.pressing.request import BlankProperties, main_request
from tempermark.core.recipes.steps import School, Sheet
from tempermark.core.thermal.library.materials import Material
from tempermark.core.thermal.result.dwell import dwell_for


def with_equal_dwells(
    sheet: Sheet, blank: BlankProperties, library: Mapping[str, Material] | None = None
) -> Sheet:
    """The recipe with the dwells of its equal schools as its own stack and blank need them; a dwell
    that is given stays.
    """
    schools = tuple(_equal(sheet, school, blank, library) for school in sheet.schools)
    return replace(sheet, schools=schools)


def _equal(sheet: Sheet, school: School, blank: BlankProperties, library: Any) -> School:
    main = sheet.main
    if not school.equal_dose or school.time_s or main.time_s is None:
        return school
    dwells = []
    for time_s in main.time_s:
        pressed = press_chain(sheet, "", main_request(sheet, blank, dwell_s=time_s), library).main
        found = None if pressed is None else _dwell(sheet, school.name, blank, library, pressed)
        if found is None:
            # Nothing receives it, or it never gets there: the clock's own dwells stand.
            return school
        dwells.append(float(round(found)))
    return replace(school, time_s=(dwells[0], dwells[1]))


def dwell_for_blank(
    sheet: Sheet,
    school: str,
    usual: BlankProperties,
    blank: BlankProperties,
    library: Mapping[str, Material] | None = None,
) -> float | None:
    """Dwell in s that brings another blank to where the middle of the window brings the usual one:
    a thicker or larger panel takes longer. None where it never gets there.
    """
    pressed = press_chain(sheet, school, main_request(sheet, usual, school), library).main
    return None if pressed is None else _dwell(sheet, school, blank, library, pressed)


def _dwell(
    sheet: Sheet, school: str, blank: BlankProperties, library: Any, wanted: PressResult
) -> float | None:
    """Dwell with which a school's main press comes out as `wanted`."""
    if not wanted.transfers:
        return None
    pressed = press_chain(sheet, school, main_request(sheet, blank, school), library).main
    if pressed is None:
        return None
    amount = wanted.reached.uptake if wanted.is_dye else wanted.reached.flow_kpa_s
    return dwell_for(pressed.closing, pressed.piece, float(amount[0]))
