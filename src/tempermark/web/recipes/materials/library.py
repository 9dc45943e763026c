"""The library as this shop has it: shipped values under its own, and where each came from."""

from dataclasses import dataclass, fields, replace

from tempermark.core.recipes.blank_types import BlankType, blank_types
from tempermark.core.thermal.library.materials import LIMITS, Material, materials
from tempermark.web.recipes.models import Blank, OwnMaterial

VALUES = ("conductivity_w_mk", "density_kg_m3", "specific_heat_j_kgk", "thickness_mm", "regain")
OWN_FIELDS = ("label", "group", *VALUES, *LIMITS)
# What a blank takes from its shipped kind where it says nothing itself.
INHERITED = ("limit_kpa", "scorch_c", "softens_c", "migrates_c")


def newest_own() -> dict[str, OwnMaterial]:
    """The shop's own values that hold, by code."""
    own: dict[str, OwnMaterial] = {}
    for row in OwnMaterial.objects.filter(withdrawn_at=None).select_related("by"):
        own.setdefault(row.code, row)
    return own


class ShopLibrary(dict[str, Material]):
    """Materials by code, known again by the own values that hold: results may be kept by it."""

    def __init__(self, materials: dict[str, Material], key: tuple[int, ...]) -> None:
        super().__init__(materials)
        self.key = key

    def __hash__(self) -> int:  # type: ignore[override]
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, ShopLibrary) and self.key == other.key


def shop_materials() -> ShopLibrary:
    """Every material: shipped values with the shop's own above them."""
    library, own = dict(materials()), newest_own()
    for code, row in own.items():
        library[code] = merged(library.get(code), row)
    return ShopLibrary(library, tuple(sorted(row.pk for row in own.values())))


def merged(shipped: Material | None, row: OwnMaterial) -> Material:
    """A shipped material with own values above; one of the shop's own alone."""
    given = {
        name: getattr(row, name) for name in OWN_FIELDS if getattr(row, name) not in (None, "")
    }
    if shipped is None:
        return Material(row.code, source=row.source, limit_source=row.source, **given)
    if shipped.name != row.code:
        raise ValueError(f"{row.code} does not stand above {shipped.name}")
    return replace(shipped, **given)


@dataclass(frozen=True)
class Held:
    """A value that holds: whose it is, and its source. `shipped` is what it stands above."""

    value: float | None
    own: bool
    source: str
    shipped: float | None


def provenance(code: str) -> dict[str, Held]:
    """Every value of a material with where it came from."""
    shipped, row = materials().get(code), newest_own().get(code)
    held = {}
    for name in (*VALUES, *LIMITS):
        below = getattr(shipped, name) if shipped else None
        above = getattr(row, name) if row else None
        limit_source = shipped.limit_source if shipped and name in LIMITS else ""
        source = limit_source or (shipped.source if shipped else "")
        own = above is not None
        held[name] = Held(
            above if own else below, own, row.source if own and row else source, below
        )
    return held


def kind_of(blank: Blank) -> BlankType | None:
    """The shipped kind a blank is like, or None."""
    return blank_types().get(blank.like)


@dataclass(frozen=True)
class BlankLimits:
    """What a blank stands, its own values first, then its kind's. kPa and °C; None is unknown."""

    limit_kpa: float | None
    scorch_c: float | None
    softens_c: float | None
    migrates_c: float | None


def limits_of(blank: Blank) -> BlankLimits:
    """A blank's limits: its own, its kind's where it says nothing."""
    kind = kind_of(blank)
    values = {}
    for field in fields(BlankLimits):
        value = getattr(blank, field.name)
        if value is None and kind is not None:
            value = getattr(kind, field.name)
        values[field.name] = value
    return BlankLimits(**values)
