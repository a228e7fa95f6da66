"""Keys in words."""

from ear.conventions import SOLFEGE
from ear.notes.pitch import LETTERS
from ear.patterns.modes import MAJOR_NAMES, MINOR_NAMES
from ear.reader import Reader
from ear.text import gettext_noop

MINOR = gettext_noop("{tonic} minor")
BOTH = gettext_noop("{major} / {minor}")


def describe_key(fifths: int, reader: Reader, *, is_minor: bool = False) -> str:
    """Return the name of a key with -7 to 7 sharps: “B♭”, “C minor”; “si♭”, “do menor” where notes are so named."""
    name = (MINOR_NAMES if is_minor else MAJOR_NAMES)[fifths + 7]
    tonic = SOLFEGE[LETTERS.index(name[0])] + name[1:] if reader.conventions.solfege else name
    return reader.say(MINOR, {"tonic": tonic}) if is_minor else tonic


def describe_keys(fifths: int, reader: Reader) -> str:
    """Return both keys with a signature: “C / A minor”."""
    minor = describe_key(fifths, reader, is_minor=True)
    return reader.say(BOTH, {"major": describe_key(fifths, reader), "minor": minor})
