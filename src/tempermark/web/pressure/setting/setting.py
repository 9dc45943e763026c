"""What to set on a press for a blank, and what happens if nothing is changed."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tempermark.core.phrases import Text, phrase, pressure
from tempermark.core.pressing.limits import BRITTLE_KINDS, Refusal, refusal
from tempermark.core.pressure.pieces.stack import thickness_sd_mm
from tempermark.core.pressure.press import hand
from tempermark.core.pressure.press.contact import (
    GAUGE_SD_KPA,
    SEAL_LOSS,
    SEAL_LOSS_SD,
    Range,
    around,
    chance_in,
    class_of,
    contact_kpa,
    cylinder_force_n,
    line_for_kpa,
    loaded_area_m2,
    middle_kpa,
)
from tempermark.core.pressure.press.knob import contact_at, position_for
from tempermark.core.pressure.press.spring import SpringPad, usual_pad
from tempermark.web.presses.models import Element, Mechanism, Press
from tempermark.web.pressure import mapping, queries
from tempermark.web.pressure.models import PressureState
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.recipes.models import Blank

# A gauge is set to this, kPa.
LINE_STEP_KPA = 5.0
# A plate's own weight is known well, how evenly it rests less: standard, as a share.
PLATE_SD = 0.1
# What breaks is not pressed to its limit: from this share on it is said first. Starting value.
BRITTLE_SHARE = 0.8


@dataclass(frozen=True)
class Load:
    """What goes between the platens: a blank, how many of its layers, sheets and a pillow in mm,
    and the pressure class that is wanted.
    """

    blank: Blank
    layers: int
    sheets_mm: float
    pillow_mm: float
    wanted: str
    # What a scale showed of the person who leans, kg; hand plates only.
    lean_kg: float | None = None

    @property
    def aim_kpa(self) -> float:
        """The middle of the wanted class, or what the blank stands if that is less."""
        limit = mapping.limit_kpa(self.blank)
        aim = middle_kpa(self.wanted)
        return aim if limit is None else min(aim, limit)

    @property
    def pillow_pressed_mm(self) -> float:
        """The pillow's thickness at that pressure."""
        if not self.pillow_mm:
            return 0.0
        pillow = usual_pad("pillow", self.pillow_mm)
        return self.pillow_mm - float(pillow.compression_mm(self.aim_kpa))

    @property
    def stack_mm(self) -> float:
        """Everything between platen and pad, as pressed."""
        cloth = mapping.thickness_mm(self.blank) * self.layers
        return round(cloth + self.sheets_mm + self.pillow_pressed_mm, 3)


@dataclass(frozen=True)
class Advice:
    """What to set: position, line or figure by the mechanism; `turns` above 0 tighten.

    `then` is the contact once set, `unchanged` the contact if nothing is; None while unknown.
    """

    press: Press
    load: Load
    mechanism: str
    position: PressureState | None
    pad: SpringPad
    position_turns: float | None = None
    turns: float | None = None
    rotation: str = "none"
    lift_mm: float = 0.0
    by_feel: bool = False
    line_kpa: float | None = None
    figure: float | None = None
    learned: bool = True
    then: Range | None = None
    unchanged: Range | None = None
    refused: Text = ""
    missing: str = ""
    limit_kpa: float | None = None
    concentrated: float | None = None
    # The platen front to back, for what a hinge does.
    depth_mm: float | None = None
    # What the person would have to lean with on a scale, kg; hand plates only.
    lean_for_kg: float | None = None
    refusal: Refusal | None = None

    @property
    def chance(self) -> float | None:
        """Chance that the contact then lies in the wanted class."""
        return chance_in(self.then, self.load.wanted) if self.then else None

    @property
    def may_be_noted(self) -> bool:
        """Whether "it is set" means something; a knob nobody has learned is set by feel."""
        is_known = self.missing != "lesson" or self.mechanism == Mechanism.KNOB
        return not self.refused and self.refusal is None and is_known

    @property
    def is_unlearned_knob(self) -> bool:
        """Whether it is a knob that can only be set by feel, because nobody has learned it."""
        return self.missing == "lesson" and self.mechanism == Mechanism.KNOB

    @property
    def is_set_by_feel(self) -> bool:
        """Whether only the person can say that it is right."""
        return self.is_unlearned_knob or (self.by_feel and self.missing == "position")

    @property
    def overload(self) -> str:
        """`unchanged` or `then` where that presses harder than the blank stands, else nothing: by
        the middle of what is expected, of a brittle blank somewhat less.
        """
        if self.limit_kpa is None:
            return ""
        share = BRITTLE_SHARE if self.load.blank.kind in BRITTLE_KINDS else 1.0
        for name, found in (("unchanged", self.unchanged), ("then", self.then)):
            if found is not None and found.value > share * self.limit_kpa:
                return name
        return ""


def advise(press: Press, element: Element | None, load: Load) -> Advice:
    """What to set on a press for a load."""
    by_mechanism = {
        Mechanism.KNOB: _knob,
        Mechanism.PNEUMATIC: _pneumatic,
        Mechanism.SCALE: _scale,
        Mechanism.TOGGLE: _lever,
        Mechanism.HAND: _hand,
    }
    advice = by_mechanism[Mechanism(press.mechanism)](press, element, load)
    library = shop_materials()
    return replace(advice, refusal=refusal(core_blank(load.blank, library), library))


def _begun(press: Press, load: Load, element: Element | None = None) -> dict[str, Any]:
    return {
        "press": press,
        "load": load,
        "mechanism": press.mechanism,
        "position": queries.state(press),
        "pad": mapping.pad_of(press),
        "limit_kpa": mapping.limit_kpa(load.blank),
        "depth_mm": element.height_mm if element else None,
    }


def _knob(press: Press, element: Element, load: Load) -> Advice:
    begun = _begun(press, load, element)
    knob, state, pad = mapping.knob_of(press), begun["position"], begun["pad"]
    if knob is None:
        return Advice(**begun, missing="lesson")
    by_feel = knob.zero_clockwise is None
    position = position_for(knob, pad, load.stack_mm, load.aim_kpa)
    begun |= {"position_turns": position, "by_feel": by_feel, "lift_mm": knob.lift_mm_per_turn}
    sd = thickness_sd_mm(load.stack_mm)
    standing = state is not None and state.position_turns is not None
    if by_feel and not standing:
        return Advice(**begun, missing="position")
    begun["then"] = contact_at(knob, pad, position, load.stack_mm, sd)
    if standing:
        turns = position - state.position_turns
        begun |= {
            "turns": turns,
            "rotation": knob.rotation(turns),
            "unchanged": contact_at(knob, pad, state.position_turns, load.stack_mm, sd),
        }
    else:
        begun |= {"turns": position, "rotation": knob.rotation(position), "missing": "position"}
    return Advice(**begun)


def _area_m2(element: Element | None, load: Load) -> tuple[float, bool]:
    """Loaded area, and whether a rigid blank takes the force alone."""
    rigid = mapping.is_rigid(load.blank)
    platen = (element.width_mm, element.height_mm) if element else (400.0, 400.0)
    size = mapping.size_of(load.blank)
    area = loaded_area_m2(platen, size, rigid)
    return area, rigid and area < 0.999 * loaded_area_m2(platen, None, False)


def _pneumatic(press: Press, element: Element, load: Load) -> Advice:
    begun = _begun(press, load)
    if not press.cylinder_mm:
        return Advice(**begun, missing="lesson")
    area, alone = _area_m2(element, load)
    cylinders = press.cylinders or 1
    exact = line_for_kpa(load.aim_kpa, area, press.cylinder_mm, cylinders) / (1 - SEAL_LOSS)
    line = max(round(exact / LINE_STEP_KPA) * LINE_STEP_KPA, LINE_STEP_KPA)
    position = begun["position"]
    now = position.line_kpa if position and position.line_kpa else press.line_kpa

    def contact(line_kpa: float) -> Range:
        force = cylinder_force_n(line_kpa, press.cylinder_mm, cylinders) * (1 - SEAL_LOSS)
        share = float(np.hypot(GAUGE_SD_KPA / line_kpa, SEAL_LOSS_SD))
        return around(contact_kpa(force, area), share)

    begun |= {
        "line_kpa": line,
        "then": contact(line),
        "unchanged": contact(now) if now else None,
        "concentrated": loaded_area_m2((element.width_mm, element.height_mm), None, False) / area
        if alone and element
        else None,
    }
    most = press.max_line_kpa
    if most is not None and exact > most:
        reached = contact(most)
        begun["refused"] = phrase(
            "This needs {needed} of air, and {press} is rated for {most}: never set more. At "
            "{most} this blank gets {reached}, {label}.",
            needed=pressure(line),
            press=press.name,
            most=pressure(most),
            reached=pressure(reached.value),
            label=class_of(reached.value),
        )
    return Advice(**begun)


def _scale(press: Press, element: Element, load: Load) -> Advice:
    begun = _begun(press, load)
    curve = mapping.scale_of(press)
    figure = curve.figure_for(load.aim_kpa)
    position = begun["position"]
    if position is not None and position.figure is not None:
        begun["unchanged"] = curve.contact_kpa(position.figure)
    if figure is None:
        begun["refused"] = phrase(
            "By what is known of this scale no figure from 1 to 9 gives {aim}.",
            aim=pressure(load.aim_kpa),
        )
        return Advice(**begun)
    return Advice(
        **begun,
        figure=figure,
        then=curve.contact_kpa(figure),
        learned=curve.is_learned_at(figure),
    )


def _lever(press: Press, element: Element, load: Load) -> Advice:
    """A lever has no figure: the class is what strips tell."""
    begun = _begun(press, load)
    survey = queries.latest(element) if element else None
    computed = mapping.compute(survey) if survey else None
    if computed is None:
        return Advice(**begun, missing="strips")
    return Advice(**begun, then=computed.contact, unchanged=computed.contact)


def _hand(press: Press, element: Element, load: Load) -> Advice:
    begun = _begun(press, load)
    area, _ = _area_m2(element, load)
    size = mapping.size_of(load.blank)
    if element is not None and size is not None:
        # A hand plate never presses beyond the smaller of both.
        area = loaded_area_m2((element.width_mm, element.height_mm), size, True)
    if load.wanted == "resting":
        return _resting(press, begun, area)
    begun["lean_for_kg"] = hand.lean_kg_for(load.aim_kpa, press.plate_kg or 0.0, area)
    survey = queries.latest(element) if element else None
    computed = mapping.compute(survey) if survey else None
    if load.lean_kg is not None:
        then = hand.leaned_kpa(load.lean_kg, press.plate_kg or 0.0, area)
        return Advice(**begun, then=then)
    # Strips pulled on this plate know more than a body's weight does.
    then = computed.contact if computed else hand.body_weight_kpa(area)
    return Advice(**begun, then=then, learned=computed is not None)


def _resting(press: Press, begun: dict[str, Any], area: float) -> Advice:
    """A plate that only rests: its own weight, where that is known."""
    if press.plate_kg is None:
        return Advice(**begun, missing="plate")
    return Advice(**begun, then=around(hand.weight_kpa(press.plate_kg, area), PLATE_SD))
