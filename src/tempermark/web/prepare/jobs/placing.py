"""Where the blank's outline lies on a job's art, and how sharp that is."""

from dataclasses import dataclass

from tempermark.core.preparing.checklist import needed_bleed
from tempermark.core.preparing.size.placed_art import PlacedArt, covering, placed_in_middle
from tempermark.core.vocabulary.things import VESSEL_KINDS
from tempermark.files.art.artwork import effective_dpi
from tempermark.web.jobs.models import Job
from tempermark.web.kit.figures import length_text
from tempermark.web.kit.units import Units
from tempermark.web.prepare.jobs.lines import piece_of
from tempermark.web.printing.models import Art

# At arm's length edges look sharp from here on, at reading distance from there. Starting values
# from what a normal eye resolves, one minute of arc: 0.2 mm at 0.6 m, 0.1 mm at 0.3 m.
SHARP_AT_ARM_DPI, SHARP_NEAR_DPI = 125.0, 250.0


@dataclass(frozen=True)
class Placement:
    """Art under an outline; `covers` where it is to cover a rigid blank with bleed."""

    placed: PlacedArt
    covers: bool


def placement(job: Job) -> Placement:
    """The outline on the job's art: that of a rigid blank which the art covers, else the art's."""
    size = (job.art_width_mm, job.art_height_mm)
    found = needed_bleed(piece_of(job))
    if found is None or not (job.blank.width_mm and job.blank.height_mm):
        return Placement(placed_in_middle(size, size, (0.0, 0.0)), False)
    outline = (job.blank.width_mm, job.blank.height_mm)
    if job.outline_left_mm is None or job.outline_top_mm is None:
        return Placement(placed_in_middle(size, outline, found.bleed_mm), True)
    corner = (job.outline_left_mm, job.outline_top_mm)
    return Placement(PlacedArt(size, outline, corner, found.bleed_mm), True)


def is_wrap(job: Job) -> bool:
    """Whether the art goes round a vessel: then its template bends it."""
    return job.blank.kind in VESSEL_KINDS


def first_size_mm(job: Job, art: Art) -> tuple[float, float]:
    """The printed size of art that is new to a job: it covers the blank with its bleed, or keeps
    the width that the job gave its art.
    """
    here = placement(job)
    if here.covers:
        return covering(art.ratio, here.placed.outline_mm, here.placed.bleed_mm).art_mm
    return job.art_width_mm, job.art_width_mm * art.ratio


@dataclass(frozen=True)
class Sharpness:
    """Pixels to the inch as printed; None where lines stay sharp at any size."""

    dpi: float | None

    @property
    def is_coarse(self) -> bool:
        """Whether edges look coarse at arm's length."""
        return self.dpi is not None and self.dpi < SHARP_AT_ARM_DPI

    @property
    def summary(self) -> str:
        """In a sentence."""
        if self.dpi is None:
            return "It is drawn in lines: sharp at any size."
        figure = f"{self.dpi:.0f} dpi at this size"
        if self.is_coarse:
            return f"{figure}: edges look coarse. Sharp at arm’s length from 125 dpi."
        near = "close by too" if self.dpi >= SHARP_NEAR_DPI else "at arm’s length"
        return f"{figure}: sharp {near}."


def sharpness(art: Art, width_mm: float) -> Sharpness:
    """How sharp art is at a printed width in mm."""
    return Sharpness(effective_dpi(art.width_px, art.width_mm, art.inner_dpi, width_mm))


def verdict(here: Placement, units: Units) -> str:
    """Whether white will show, in a sentence."""
    if not here.covers:
        return "The art is printed as large as it is."
    white = here.placed.white
    if not white:
        return "The art covers the blank and its bleed."
    sides = " and ".join(
        f"{length_text(mm, units, 1)} short at the {side}" for side, mm in white.items()
    )
    return f"White will show: the art is {sides}."
