"""Files with people, of whichever sort they are."""

from oido.roster.lists import PeopleList, decode, read_text
from oido.roster.oneroster import read_archive


def read_list(data: bytes) -> PeopleList:
    """Read a text file or a OneRoster archive. Raise FormatError where it is neither."""
    return read_archive(data) if data.startswith(b"PK") else read_text(decode(data))
