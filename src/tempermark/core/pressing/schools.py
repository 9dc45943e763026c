"""Dwells that come out alike: for schools that are called equal, and for another blank."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from tempermark.core.pressing.chain import press_chain
from tempermark.core.pressing.closing import Pressed
from tempermark.core.pressing.request import Blank, main_request
from tempermark.core.recipes.steps import School, Sheet
from tempermark.core.thermal.library.materials import Material
from tempermark.core.thermal.result.dwell import dwell_for


def with_equal_dwells(
    sheet: Sheet, blank: Blank, library: Mapping[str, Material] | None = None
) -> Sheet:
    """The recipe with the dwells of its equal schools as its own stack and blank need them; a dwell
    that is given stays.
    """
    schools = tuple(_equal(sheet, school, blank, library) for school in sheet.schools)
    return replace(sheet, schools=schools)


def _equal(sheet: Sheet, school: School, blank: Blank, library: Any) -> School:
    main = sheet.main
    if not school.equal_dose or school.time_s or main.time_s is None:
        return school
    dwells = []
    for time_s in main.time_s:
        made = press_chain(sheet, "", main_request(sheet, blank, dwell_s=time_s), library).main
        found = None if made is None else _dwell(sheet, school.name, blank, library, made)
        if found is None:
            # Nothing receives it, or it never gets there: the clock's own dwells stand.
            return school
        dwells.append(float(round(found)))
    return replace(school, time_s=(dwells[0], dwells[1]))


def dwell_for_blank(
    sheet: Sheet,
    school: str,
    usual: Blank,
    blank: Blank,
    library: Mapping[str, Material] | None = None,
) -> float | None:
    """Dwell in s that brings another blank to where the middle of the window brings the usual one:
    a thicker or larger panel takes longer. None where it never gets there.
    """
    made = press_chain(sheet, school, main_request(sheet, usual, school), library).main
    return None if made is None else _dwell(sheet, school, blank, library, made)


def _dwell(sheet: Sheet, school: str, blank: Blank, library: Any, wanted: Pressed) -> float | None:
    """Dwell with which a school's main press comes out as `wanted`."""
    if not wanted.transfers:
        return None
    made = press_chain(sheet, school, main_request(sheet, blank, school), library).main
    if made is None:
        return None
    amount = wanted.reached.uptake if wanted.is_dye else wanted.reached.flow_kpa_s
    return dwell_for(made.closing, made.piece, float(amount[0]))
