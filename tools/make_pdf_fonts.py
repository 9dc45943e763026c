"""The certificate's fonts for PDF: our shipped font at two weights, as TrueType with Latin and
extended Latin letters. Needs fonttools and brotli; a user never does.

python tools/make_pdf_fonts.py
"""

from io import BytesIO
from pathlib import Path

from fontTools import merge, subset, ttLib
from fontTools.varLib import instancer

ROOT = Path(__file__).resolve().parent.parent
SHIPPED = ROOT / "src/tempermark/web/static/tempermark/fonts"
OUT = ROOT / "src/tempermark/web/kit/fonts"
PARTS = ("latin", "latin-ext")
WEIGHTS = {"regular": 400, "bold": 700}


def plain(part: str, weight: int) -> BytesIO:
    """One shipped part at one weight, without layout rules."""
    font = ttLib.TTFont(SHIPPED / f"atkinson-hyperlegible-next-{part}-wght-normal.woff2")
    font = instancer.instantiateVariableFont(font, {"wght": weight})
    font.flavor = None
    options = subset.Options(
        layout_features=[], drop_tables=["GSUB", "GPOS", "GDEF", "STAT", "DSIG"]
    )
    cut = subset.Subsetter(options)
    cut.populate(unicodes=font.getBestCmap())
    cut.subset(font)
    out = BytesIO()
    font.save(out)
    out.seek(0)
    return out


OUT.mkdir(exist_ok=True)
for name, weight in WEIGHTS.items():
    made = merge.Merger().merge([plain(part, weight) for part in PARTS])
    made.save(OUT / f"atkinson-hyperlegible-next-{name}.ttf")
    print(name, len(made.getBestCmap()), "letters")
