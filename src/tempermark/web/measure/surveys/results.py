"""What follows from a computed survey: the dial to set, and the part that prints may go on."""

from tempermark.core.metrology.map.usable import Rectangle
from tempermark.core.metrology.press.calibration import GAIN_BELIEVED
from tempermark.core.metrology.press.dial import DialSetting, KnownDial, dial_setting
from tempermark.core.metrology.survey import Usable
from tempermark.web.measure.models import Survey
from tempermark.web.measure.surveys.mapping import Measured

# No print goes on less: the shorter side in mm, and the share of the platen.
SLIVER_MM, SLIVER_SHARE = 20.0, 0.02
# A chance below this is not sure; a part found with such a chance that is less than this share of
# its element is not worth marking.
SURE_ENOUGH, DOUBTFUL_SHARE = 0.9, 0.25
WHOLE_SHARE = 0.98


def recommended_dial(
    computed: Measured, gain: float = GAIN_BELIEVED, moved_c: float = 0.0
) -> DialSetting:
    """The dial that brings the mean of a mapped survey to its target; `moved_c` is how far the
    level has moved since, K. Raises ValueError for a survey without a result.
    """
    survey, result = computed.survey, computed.result
    if result is None:
        raise ValueError("The survey has no readings.")
    known = KnownDial(survey.set_c, result.mean_c + moved_c, gain)
    return dial_setting(survey.target_c, known, survey.element.press.resolution_c)


def printable_part(computed: Measured) -> Rectangle | None:
    """The part of an element that is surely within tolerance once corrected, where a print fits on
    it; None without a map.
    """
    mapped = computed.result.map if computed.result else None
    if mapped is None:
        return None
    return large_enough(mapped.usable_after_correction, computed.survey)


def large_enough(usable: Usable, survey: Survey) -> Rectangle | None:
    """The part of an element that is in tolerance, where a print fits on it and it means more than
    the luck of a doubtful map.
    """
    rectangle = usable.sure_rectangle
    if rectangle is None or is_sliver(rectangle, survey) or is_doubtful(usable, survey):
        return None
    return rectangle


def is_sliver(rectangle: Rectangle, survey: Survey) -> bool:
    """Whether a part is too small for any print."""
    short = min(rectangle.width_mm, rectangle.height_mm)
    return short < SLIVER_MM or _share(rectangle, survey) < SLIVER_SHARE


def is_doubtful(usable: Usable, survey: Survey) -> bool:
    """Whether a part is small because the readings are not sure enough, and not because the rest
    of the platen is known to be off.
    """
    rectangle, sure = usable.sure_rectangle, usable.sure_probability
    if rectangle is None or sure is None or usable.cold_spots or usable.hot_spots:
        return False
    return sure < SURE_ENOUGH and _share(rectangle, survey) < DOUBTFUL_SHARE


def is_whole(rectangle: Rectangle, survey: Survey) -> bool:
    """Whether a part is the whole element, but for a rim that does not matter."""
    return _share(rectangle, survey) > WHOLE_SHARE


def _share(rectangle: Rectangle, survey: Survey) -> float:
    element = survey.element
    return rectangle.width_mm * rectangle.height_mm / (element.width_mm * element.height_mm)
