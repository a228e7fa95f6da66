"""Cut the faces down to what the pages use: the serif at one optical size, in the weights of headings and text.

`fonts.py FROM TO` writes the WOFF2 files of the folder FROM whose names are below into the folder TO.
"""

import sys
from pathlib import Path

from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont

Limits = dict[str, float | tuple[float, float]]
LIMITS: dict[str, Limits] = {
    "newsreader-{subset}-opsz-normal.woff2": {"opsz": 24, "wght": (400, 600)},
    "newsreader-{subset}-opsz-italic.woff2": {"opsz": 18, "wght": 400},
}

source, target = (Path(name) for name in sys.argv[1:])
for pattern, limits in LIMITS.items():
    for subset in ("latin", "latin-ext"):
        name = pattern.format(subset=subset)
        font = instantiateVariableFont(TTFont(source / name), limits)
        font.flavor = "woff2"
        font.save(target / name)
