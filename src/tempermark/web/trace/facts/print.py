"""What the print settings of a piece's job tell, for and against."""

from tempermark.web.printing.models import Mirroring, PrintQuality
from tempermark.web.run.models import TestPress


def print_facts(piece: TestPress) -> dict[str, bool]:
    """Whether it was printed in a draft or a fast mode, and that nobody mirrored it; nothing where
    its job does not say how it was printed.
    """
    settings = piece.job.print_settings if piece.job else None
    if settings is None:
        return {}
    found = {"draft_print_mode": settings.is_fast or settings.quality == PrintQuality.DRAFT}
    # That somebody is to mirror it does not prove that it was mirrored.
    if settings.mirrored_by == Mirroring.NOBODY:
        found["not_mirrored"] = True
    return found
