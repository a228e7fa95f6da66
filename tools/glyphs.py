"""Make the music symbols of the Page view from an engraving font's data.

Usage: python tools/glyphs.py FOLDER > src/oido/common/templates/ui/music_symbols.html

FOLDER holds one XML file a glyph, named by its SMuFL code point, as the package verovio ships
its font Leipzig (SIL Open Font License 1.1) in `verovio/data/Leipzig`.
"""

import re
import sys
from pathlib import Path

SYMBOLS = {
    "clef-treble": "E050",
    "clef-bass": "E062",
    "clef-percussion": "E069",
    "flat": "E260",
    "natural": "E261",
    "sharp": "E262",
    "double-sharp": "E263",
    "double-flat": "E264",
    "head-round": "E0A4",
    "head-cross": "E0A9",
    "head-ring": "E0B3",
    "head-diamond": "E0DB",
    **{f"digit-{n}": f"E08{n}" for n in range(10)},
}


def main(folder: Path) -> None:
    print('<svg class="symbols" aria-hidden="true" width="0" height="0"><defs>')
    for name, code in SYMBOLS.items():
        source = (folder / f"{code}.xml").read_text()
        actual = re.search(r' d="([^"]+)"', source)
        if actual is None:
            raise SystemExit(f"{code}.xml has no path")
        path = re.sub(r"\s+", " ", actual.group(1))
        print(f'<path id="symbol-{name}" transform="scale(1,-1)" d="{path}"/>')
    print("</defs></svg>")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
