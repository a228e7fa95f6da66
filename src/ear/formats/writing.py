"""A part as a file of a format, by the file's suffix."""

from collections.abc import Callable

from ear.formats.musicxml import write_compressed, write_musicxml
from ear.formats.smf_writing import write_part
from ear.formats.text_file import write_text
from ear.notes import Part

SUFFIXES: dict[str, Callable[[Part, str], bytes]] = {
    ".musicxml": lambda part, title: write_musicxml(part, title=title),
    ".xml": lambda part, title: write_musicxml(part, title=title),
    ".mxl": lambda part, title: write_compressed(write_musicxml(part, title=title)),
    ".mid": lambda part, title: write_part(part, title=title),
    ".midi": lambda part, title: write_part(part, title=title),
    ".txt": lambda part, _title: write_text(part),
}


def written_file(part: Part, *, suffix: str, title: str = "") -> bytes:
    """Return the part in the format of a suffix, one of `SUFFIXES`."""
    return SUFFIXES[suffix](part, title)
