"""Give the shipped typeface the letters that it lacks, from another open one: run once, by hand, needs fonttools.

    python setup/extend_fonts.py FOLDER_OF_THE_OTHER PREFIX_OF_ITS_FILES

Both are under the SIL Open Font License. The shipped files keep every glyph and width that they have; what they lack of
Latin, Greek and Cyrillic is added. The result replaces the files in `src/fair_thicket/fonts`.
"""

import sys
import tempfile
from pathlib import Path

from fontTools.merge import Merger
from fontTools.subset import Options, Subsetter
from fontTools.ttLib import TTFont

FONTS = Path(__file__).parents[1] / "src" / "fair_thicket" / "fonts"
STYLES = ("Regular", "SemiBold", "Bold")
WANTED = [*range(0xA0, 0x250), *range(0x370, 0x400), *range(0x400, 0x530), *range(0x1E00, 0x1F00),
          *range(0x2010, 0x2050), 0x20AC,
          0x2116, 0x2122, 0x2190, 0x2191, 0x2192, 0x2193, 0x2212, 0x2260, 0x2264, 0x2265]  # fmt: skip

KEPT = (
    ("hhea", ("ascent", "descent", "lineGap")),
    ("OS/2", ("sTypoAscender", "sTypoDescender", "sTypoLineGap", "usWinAscent", "usWinDescent", "usWeightClass")),
)


def extend(own: Path, other: Path) -> None:
    """Add to a font file what it lacks."""
    font = TTFont(own)
    known = set(font.getBestCmap())
    names = [(one.nameID, one.platformID, one.platEncID, one.langID, str(one)) for one in font["name"].names]
    metrics = {table: {key: getattr(font[table], key) for key in keys} for table, keys in KEPT}
    added = TTFont(other)
    options = Options(layout_features=[], hinting=False, notdef_outline=True)
    subset = Subsetter(options)
    subset.populate(unicodes=[code for code in WANTED if code not in known])
    subset.subset(added)
    for one in (font, added):
        for table in ("GPOS", "GSUB", "GDEF", "kern", "fpgm", "prep", "cvt ", "gasp", "DSIG", "STAT", "meta"):
            if table in one and not (one is font and table == "kern"):
                del one[table]
    kern = font.get("kern")
    if kern is not None:
        del font["kern"]
    with tempfile.TemporaryDirectory() as folder:
        parts = [Path(folder) / name for name in ("own.ttf", "added.ttf")]
        font.save(parts[0])
        added.save(parts[1])
        merged = Merger().merge([str(part) for part in parts])
    if kern is not None:
        merged["kern"] = kern
    restore(merged, names, metrics)
    merged.save(own)


def restore(merged: TTFont, names: list[tuple[int, int, int, int, str]], metrics: dict[str, dict[str, float]]) -> None:
    """Give a merged font the names and the metrics of the one that it was made from."""
    merged["name"].names = []
    for name_id, platform, encoding, language, words in names:
        merged["name"].setName(words, name_id, platform, encoding, language)
    for table, values in metrics.items():
        for key, value in values.items():
            setattr(merged[table], key, value)


if __name__ == "__main__":
    for style in STYLES:
        extend(FONTS / f"FernbankSans-{style}.ttf", Path(sys.argv[1]) / f"{sys.argv[2]}-{style}.ttf")
