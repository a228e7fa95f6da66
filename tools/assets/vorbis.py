"""Compress samples as small as Ogg Vorbis gets: Node has no encoder, and the server's own library has one.

On standard input a JSON list of {"path": raw mono 32-bit floats, "rate": Hz}; each is written beside it, with ".ogg" behind its name.
"""

import json
import sys
from pathlib import Path

import numpy as np
import soundfile

SMALLEST = 1.0

for sample in json.load(sys.stdin):
    path = Path(sample["path"])
    audio = np.frombuffer(path.read_bytes(), dtype="<f4")
    soundfile.write(
        path.with_suffix(".ogg"),
        audio,
        sample["rate"],
        format="OGG",
        subtype="VORBIS",
        compression_level=SMALLEST,
    )
