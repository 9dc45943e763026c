"""Lines drawn inside a vessel's template: quarters of its turn, and the sleeve's cool rims.

Range: the template of template.py; a rim is measured along the wall.
"""

import numpy as np

from tempermark.core.preparing.vessels.template import FlatTemplate, unrolled

# A centre mark is this long, mm.
MARK_MM = 6.0
# A sleeve is cooler than its middle so far from its ends, mm, where nobody measured it. A starting
# value: about the thickness of its pad and shell.
COOL_RIM_MM = 6.0


def quarter_marks(template: FlatTemplate, gap_mm: float = 0.0) -> list[np.ndarray]:
    """Short lines (2, 2) in mm at rim and foot, at the middles of the left and the right half of
    the print: where the two faces beside a handle are centred.
    """
    half = np.pi * (1 - gap_mm / template.circumferences_mm[0])
    share = min(MARK_MM / template.slant_mm, 0.5) * template.height_mm
    found = []
    for turn in (-half / 2, half / 2):
        for low, high in ((0.0, share), (template.height_mm - share, template.height_mm)):
            found.append(unrolled(template, np.array([[turn, low], [turn, high]])))
    return found


def safe_lines(
    template: FlatTemplate, rim_mm: float, gap_mm: float = 0.0, points: int = 181
) -> list[np.ndarray]:
    """Two lines (n, 2) in mm along the wall, so far from rim and foot, mm: between them the sleeve
    is hot. None for no rim, or for one that leaves nothing.
    """
    if not 0 < 2 * rim_mm < template.slant_mm:
        return []
    half = np.pi * (1 - gap_mm / template.circumferences_mm[0])
    turns = np.linspace(-half, half, points)
    up = rim_mm / template.slant_mm * template.height_mm
    heights = (up, template.height_mm - up)
    return [
        unrolled(template, np.stack([turns, np.full(points, height)], axis=1)) for height in heights
    ]
